"""Readings: what instruments have read, one row each, by the day; of older days what each minute was.

A reading is known by its signal and its moment: sent twice, it is there once. Counts are totals, so what was made is
told by how far they rose, whatever was missed in between.
"""

from collections.abc import Iterable, Iterator, Sequence
from datetime import UTC, date, datetime

from sqlalchemy import text
from sqlmodel import select

from rundgang.core.floor.followed import Counted, Stoppage, as_read, counted_together
from rundgang.core.floor.instruments import Reading, Signal
from rundgang.core.model import Model
from rundgang.store.rows import Rows, key
from rundgang.store.tables import SignalRow

CHANNEL = "rundgang_readings"
"""Told what has been read, as it is stored."""

STRETCH_S = 60
"""A count is told by its last reading of each so long, s."""

MOST_TOLD_BYTES = 7_500
"""A message of the database may be so long."""


class ReadStretch(Model):
    """What a signal was in a stretch of time."""

    at: datetime
    mean: float
    least: float
    most: float
    last: float


_INSERT = """
INSERT INTO reading (signal_id, at, value)
SELECT * FROM unnest(%(signals)s::integer[], %(moments)s::timestamptz[], %(values)s::double precision[])
ON CONFLICT DO NOTHING
"""

_SERIES = text("""
WITH every AS (
    SELECT at, value AS mean, value AS least, value AS most, value AS last, 1 AS readings FROM reading
    WHERE signal_id = :signal AND at >= :begin AND at < :until
    UNION ALL
    SELECT at, mean, least, most, last, readings FROM reading_minute
    WHERE signal_id = :signal AND at >= :begin AND at < :until
)
SELECT date_bin(make_interval(secs => :step), at, :begin) AS bin, sum(mean * readings) / sum(readings),
    min(least), max(most), (array_agg(last ORDER BY at DESC))[1]
FROM every GROUP BY bin ORDER BY bin
""")

_NEWEST = text("""
SELECT s.line, s.station, s.quantity, s.zone, r.at, r.value FROM signal s CROSS JOIN LATERAL (
    SELECT at, value FROM reading WHERE signal_id = s.id AND at <= :until ORDER BY at DESC LIMIT 1
) r
""")

_SINCE = text("""
(SELECT at, value FROM reading WHERE signal_id = :signal AND at < :begin ORDER BY at DESC LIMIT 1)
UNION ALL
(SELECT at, value FROM reading WHERE signal_id = :signal AND at >= :begin AND at < :until)
UNION ALL
(SELECT unnest(ARRAY[at, at + interval '59 s']), unnest(ARRAY[first, last]) FROM reading_minute
WHERE signal_id = :signal AND at >= :begin AND at < :until)
ORDER BY at
""")

_MEAN = text("""
SELECT coalesce(sum(readings), 0), sum(value * readings) / sum(readings) FROM (
    SELECT value, 1 AS readings FROM reading
    WHERE signal_id = :signal AND at >= :begin AND at < :until AND value > 0
    UNION ALL
    SELECT mean, readings FROM reading_minute
    WHERE signal_id = :signal AND at >= :begin AND at < :until AND least > 0
) every
""")

_RISEN = text("""
WITH every AS (
    (SELECT at, value FROM reading WHERE signal_id = :signal AND at < :begin ORDER BY at DESC LIMIT 1)
    UNION ALL
    (SELECT at, value FROM reading WHERE signal_id = :signal AND at >= :begin AND at <= :until)
    UNION ALL
    (SELECT unnest(ARRAY[at, at + interval '59 s']), unnest(ARRAY[first, last]) FROM reading_minute
    WHERE signal_id = :signal AND at >= :begin AND at < :until)
), steps AS (SELECT at, value, lag(value) OVER (ORDER BY at) AS was FROM every),
sums AS (
    SELECT at, date_bin(make_interval(secs => :step), at, :begin) AS bin,
        sum(CASE WHEN was IS NULL THEN 0 WHEN value >= was THEN value - was ELSE value END) OVER (ORDER BY at) AS risen
    FROM steps
)
SELECT DISTINCT ON (bin) at, risen FROM sums ORDER BY bin, at DESC
""")


class Readings(Rows):
    """What has been read."""

    def append(self, readings: Sequence[Reading]) -> int:
        """Store readings, and tell who listens; how many were new. All of them are there once this returns."""
        if not readings:
            return 0
        connection = self.session.connection()
        for day in sorted({reading.at.astimezone(UTC).date() for reading in readings} - self._days()):
            connection.execute(text("SELECT rundgang_room_for(:day)"), {"day": day})
        ids = self._ids({reading.signal for reading in readings})
        added = connection.exec_driver_sql(
            _INSERT,
            {
                "signals": [ids[reading.signal] for reading in readings],
                "moments": [reading.at for reading in readings],
                "values": [reading.value for reading in readings],
            },
        ).rowcount
        for told in _messages(readings):
            connection.execute(text("SELECT pg_notify(:channel, :told)"), {"channel": CHANNEL, "told": told})
        self.session.commit()
        return added

    def series(self, signal: Signal, begin: datetime, until: datetime, most: int) -> tuple[ReadStretch, ...]:
        """What a signal was from a moment until another, in so many stretches at most."""
        step = max(1.0, (until - begin).total_seconds() / most)
        found = self.session.connection().execute(
            _SERIES, {"signal": self._number(signal), "begin": begin, "until": until, "step": step}
        )
        return tuple(
            ReadStretch(at=at, mean=mean, least=low, most=high, last=last) for at, mean, low, high, last in found
        )

    def newest_of(self, signal: Signal, until: datetime) -> Reading | None:
        """The newest reading of a signal up to a moment; None where there is none."""
        query = text(
            "SELECT at, value FROM reading WHERE signal_id = :signal AND at <= :until ORDER BY at DESC LIMIT 1"
        )
        asked = {"signal": self._number(signal), "until": until}
        found = self.session.connection().execute(query, asked).first()
        return Reading(signal, found.at, found.value) if found else None

    def mean(self, signal: Signal, begin: datetime, until: datetime) -> tuple[int, float]:
        """How often a signal was read to be more than nothing in a time, and the mean of that; 0 where never."""
        asked = {"signal": self._number(signal), "begin": begin, "until": until}
        count, mean = self.session.connection().execute(_MEAN, asked).one()
        return int(count), float(mean or 0.0)

    def counted(
        self, signal: Signal, starts_at: datetime, begin: datetime, until: datetime
    ) -> Counted | None:  # fmt: skip
        """How a total rose in a time, minute by minute; one that began anew counts from nothing. None where unknown.

        Parameters
        ----------
        starts_at : datetime
            Of the window, whose minutes it is told in.
        """
        asked = {"signal": self._number(signal), "begin": begin, "until": until, "step": STRETCH_S}
        rows = self.session.connection().execute(_RISEN, asked).all()
        if not rows:
            return None
        known = as_read([_minute(starts_at, at) for at, _ in rows], [float(risen) for _, risen in rows])
        return counted_together((known,), not_before=_minute(starts_at, begin))

    def stoppages(
        self, signals: Iterable[Signal], starts_at: datetime, begin: datetime, until: datetime
    ) -> Iterator[Stoppage]:  # fmt: skip
        """When stations stood in a time, by their states, in minutes of a window."""
        for signal in signals:
            since: datetime | None = None
            asked = {"signal": self._number(signal), "begin": begin, "until": until}
            for at, value in self.session.connection().execute(_SINCE, asked):
                if value == 0 and since is None:
                    since = max(at, begin)
                elif value != 0 and since is not None:
                    if at > begin:
                        yield _stoppage(signal, starts_at, since, at)
                    since = None
            if since is not None:
                yield _stoppage(signal, starts_at, since, None)

    def newest(self, until: datetime) -> dict[Signal, Reading]:
        """The newest reading of every signal up to a moment."""
        found = self.session.connection().execute(_NEWEST, {"until": until})
        readings = (
            Reading(Signal(line=line, station=station, quantity=quantity, zone=zone), at, value)
            for line, station, quantity, zone, at, value in found
        )
        return {reading.signal: reading for reading in readings}

    def each(self, signals: Iterable[Signal], begin: datetime, until: datetime) -> Iterator[Reading]:
        """Every reading of some signals from a moment until another, signal by signal, in order."""
        query = text(
            "SELECT at, value FROM reading WHERE signal_id = :signal AND at >= :begin AND at < :until ORDER BY at"
        )
        for signal in signals:
            asked = {"signal": self._number(signal), "begin": begin, "until": until}
            for at, value in self.session.connection().execute(query, asked):
                yield Reading(signal, at, value)

    def thin(self, before: date) -> int:
        """Of the days before one, keep each minute's mean and extremes; how many days."""
        found = (
            self.session.connection().execute(text("SELECT rundgang_thin(:before)"), {"before": before}).scalar_one()
        )
        self.session.commit()
        return int(found)

    def _days(self) -> set[date]:
        """The days there is room for."""
        names = self.session.connection().execute(
            text(
                "SELECT c.relname FROM pg_inherits i JOIN pg_class c ON c.oid = i.inhrelid "
                "WHERE i.inhparent = 'reading'::regclass"
            )
        )
        return {datetime.strptime(name, "reading_%Y%m%d").replace(tzinfo=UTC).date() for (name,) in names}

    def _number(self, signal: Signal) -> int | None:
        """The number of a signal; None where nothing has been read of it."""
        known: dict[Signal, int] = self.memory.recall("signals", self._known_ids)
        if signal not in known:
            known = self._known_ids()
            self.memory.keep("signals", known)
        return known.get(signal)

    def _known_ids(self) -> dict[Signal, int]:
        rows = self.session.exec(select(SignalRow))
        return {_as_signal(row): key(row.id) for row in rows}

    def _ids(self, signals: set[Signal]) -> dict[Signal, int]:
        """The numbers of signals; those that have none get one."""
        known: dict[Signal, int] = self.memory.recall("signals", self._known_ids)
        if not signals <= known.keys():
            for signal in sorted(signals - known.keys(), key=lambda signal: signal.path):
                self.session.connection().execute(
                    text(
                        "INSERT INTO signal (line, station, quantity, zone) "
                        "VALUES (:line, :station, :quantity, :zone) ON CONFLICT DO NOTHING"
                    ),
                    signal.model_dump(),
                )
            known = self._known_ids()
            self.memory.keep("signals", known)
        return known


def _minute(starts_at: datetime, at: datetime) -> float:
    return (at - starts_at).total_seconds() / 60


def _stoppage(signal: Signal, starts_at: datetime, since: datetime, until: datetime | None) -> Stoppage:
    return Stoppage(
        station=signal.station,
        from_min=_minute(starts_at, since),
        until_min=None if until is None else _minute(starts_at, until),
    )


def _as_signal(row: SignalRow) -> Signal:
    return Signal.model_validate({"line": row.line, "station": row.station, "quantity": row.quantity, "zone": row.zone})


def _messages(readings: Sequence[Reading]) -> Iterator[str]:
    """The newest of each signal, as lines of path, moment and value, in messages that the database takes."""
    newest: dict[Signal, Reading] = {}
    for reading in readings:
        if reading.signal not in newest or newest[reading.signal].at <= reading.at:
            newest[reading.signal] = reading
    told = ""
    for reading in newest.values():
        line = f"{reading.signal.path} {reading.at.astimezone(UTC):%Y-%m-%dT%H:%M:%S.%fZ} {reading.value:.10g}\n"
        if len(told) + len(line) > MOST_TOLD_BYTES:
            yield told
            told = ""
        told += line
    yield told
