"""Stops that somebody has told or looked at, and all that became of each, in its order."""

from datetime import datetime
from typing import Any, Literal

from sqlmodel import col, select

from rundgang.core.errors import UnknownItemError
from rundgang.core.model import Model
from rundgang.store.floor_tables import StopEntry, StopEvent
from rundgang.store.rows import Rows, key

EventKind = Literal["cause", "advised", "done", "taken", "runs"]


class StoredEvent(Model):
    """What became of a stop: its cause; what was advised, done, taken; or that it runs again."""

    kind: EventKind
    at: datetime
    said: dict[str, Any]
    author: str


class StoredStop(Model):
    """A stop with its events, the first one first."""

    number: int
    window: int
    line: str
    station: str
    began_at: datetime
    told_at: datetime
    author: str
    events: tuple[StoredEvent, ...]

    @property
    def ended_at(self) -> datetime | None:
        """When the station ran again; None where it stands."""
        return next((event.at for event in self.events if event.kind == "runs"), None)


class Stops(Rows):
    """The log of stops."""

    def begin(self, line: str, station: str, began_at: datetime, told_at: datetime, author: str) -> int:
        """Store that a station stands, in the open transaction; the stop's number."""
        row = StopEntry(
            window_id=key(self.window().id),
            line=line,
            station=station,
            began_at=began_at,
            told_at=told_at,
            author=author,
        )
        self.session.add(row)
        self.session.flush()
        return key(row.id)

    def note(self, number: int, kind: EventKind, at: datetime, said: dict[str, Any], author: str) -> None:
        """Store what became of a stop, in the open transaction."""
        self.session.add(StopEvent(stop_id=number, kind=kind, at=at, said=said, author=author))
        self.session.flush()

    def stop(self, number: int) -> StoredStop:
        """A stop; UnknownItemError where there is none of that number."""
        row = self.session.get(StopEntry, number)
        if row is None:
            raise UnknownItemError("stop", str(number))
        return self._with_events([row])[0]

    def standing(self, line: str, station: str) -> StoredStop | None:
        """The stop of a station that has not ended; None where there is none."""
        query = select(StopEntry).where(StopEntry.line == line, StopEntry.station == station)
        rows = self.session.exec(query.order_by(col(StopEntry.id).desc()).limit(1)).all()
        found = self._with_events(rows)
        return found[0] if found and found[0].ended_at is None else None

    def listed(self, before: int | None, most: int) -> tuple[StoredStop, ...]:
        """So many stops, the newest first; where asked, of those before one."""
        query = select(StopEntry)
        if before is not None:
            query = query.where(col(StopEntry.id) < before)
        return self._with_events(self.session.exec(query.order_by(col(StopEntry.id).desc()).limit(most)).all())

    def of_line(self, line: str, since: datetime) -> tuple[StoredStop, ...]:
        """The stops of a line that began since a moment, the newest first."""
        query = select(StopEntry).where(StopEntry.line == line, StopEntry.began_at >= since)
        return self._with_events(self.session.exec(query.order_by(col(StopEntry.id).desc())).all())

    def _with_events(self, rows: Any) -> tuple[StoredStop, ...]:
        numbers = [key(row.id) for row in rows]
        events: dict[int, list[StoredEvent]] = {number: [] for number in numbers}
        query = select(StopEvent).where(col(StopEvent.stop_id).in_(numbers)).order_by(col(StopEvent.id))
        for event in self.session.exec(query):
            found = StoredEvent.model_validate(
                {"kind": event.kind, "at": event.at, "said": event.said, "author": event.author}
            )
            events[event.stop_id].append(found)
        return tuple(
            StoredStop(
                number=key(row.id),
                window=row.window_id,
                line=row.line,
                station=row.station,
                began_at=row.began_at,
                told_at=row.told_at,
                author=row.author,
                events=tuple(events[key(row.id)]),
            )
            for row in rows
        )
