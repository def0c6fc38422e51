"""Readings as files: CSV in and out, and Parquet out."""

import csv
import io
from collections.abc import Iterable, Iterator
from datetime import UTC, datetime, timedelta
from itertools import islice
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq

from rundgang.core.errors import RundgangError
from rundgang.core.floor.instruments import Reading, Signal, is_possible, possible
from rundgang.core.scenario import Scenario
from rundgang.formats.clock import minute_of
from rundgang.formats.row_faults import CellError, ReadRows, RowFaults

COLUMNS = ("at", "line", "station", "quantity", "zone", "value")
MOST_ROWS = 50_000
MAX_BYTES = 8 * 1024 * 1024

ROWS_AT_ONCE = 20_000
"""So many rows of a Parquet file are one group."""

SCHEMA = pa.schema(
    [
        ("at", pa.timestamp("us", tz="UTC")),
        ("line", pa.string()),
        ("station", pa.string()),
        ("quantity", pa.string()),
        ("zone", pa.int16()),
        ("value", pa.float64()),
    ]
)


class ReadingsFile(ReadRows):
    """What a file of readings says, and what is wrong in it."""

    readings: tuple[Reading, ...] = ()


def write_csv(readings: Iterable[Reading]) -> Iterator[str]:
    """Readings as CSV, readable by `read_csv`, a piece at a time."""
    yield ",".join(COLUMNS) + "\r\n"
    for reading in readings:
        at, signal = reading.at.astimezone(UTC), reading.signal
        yield (
            f"{at:%Y-%m-%dT%H:%M:%S.%fZ},{signal.line},{signal.station},{signal.quantity},"
            f"{signal.zone or ''},{reading.value:.10g}\r\n"
        )


def write_parquet(readings: Iterable[Reading], out: Any) -> None:
    """Readings as Apache Parquet, into a file that is open for writing."""
    each = iter(readings)
    with pq.ParquetWriter(out, SCHEMA) as writer:
        while rows := list(islice(each, ROWS_AT_ONCE)):
            columns = (
                [row.at for row in rows],
                [row.signal.line for row in rows],
                [row.signal.station for row in rows],
                [row.signal.quantity for row in rows],
                [row.signal.zone for row in rows],
                [row.value for row in rows],
            )
            arrays = [pa.array(column, field.type) for column, field in zip(columns, SCHEMA, strict=True)]
            writer.write_table(pa.Table.from_arrays(arrays, schema=SCHEMA))


def is_readings(data: bytes) -> bool:
    """Whether a file is one of readings, by its headings."""
    heads = _heads(data[:500].decode("utf-8-sig", errors="replace").partition("\n")[0])
    return {"at", "station", "quantity", "value"} <= set(heads)


def read_csv(
    data: bytes, scenario: Scenario, signals: Iterable[Signal], taken: tuple[datetime, datetime]
) -> ReadingsFile:  # fmt: skip
    """A file of readings; every wrong row is named with its line, its column, what was found and what is allowed.

    Parameters
    ----------
    signals : iterable of Signal
        What can be measured.
    taken : (datetime, datetime)
        From when until when readings are taken.
    """
    faults, found = RowFaults(), list[Reading]()
    if len(data) > MAX_BYTES:
        faults.add(1, "file", f"{len(data) / 1048576:.1f} MB", f"at most {MAX_BYTES // 1048576} MB")
    text = data[:MAX_BYTES].decode("utf-8-sig", errors="replace")
    heads = _heads(text.partition("\n")[0])
    for missing in [column for column in COLUMNS if column not in heads and column != "zone"]:
        faults.add(1, missing, "no such column", f"columns {', '.join(COLUMNS)}")
    if faults.count:
        return ReadingsFile(faults=tuple(faults.first), fault_count=faults.count, wrong_rows=faults.rows)
    reader = _Rows(scenario, frozenset(signals), taken)
    rows = csv.reader(io.StringIO(text, newline=""), delimiter=_delimiter(text))
    for line, cells in enumerate(rows, start=1):
        if line == 1 or not any(cells):
            continue
        if line > MOST_ROWS + 1:
            faults.add(line, "file", "more rows", f"at most {MOST_ROWS:,}")
            break
        try:
            found.append(reader.read(dict(zip(heads, (cell.strip() for cell in cells), strict=False))))
        except CellError as wrong:
            faults.add(line, wrong.column, wrong.found, wrong.allowed)
    return ReadingsFile(
        readings=tuple(found), faults=tuple(faults.first), fault_count=faults.count, wrong_rows=faults.rows
    )


def _heads(line: str) -> list[str]:
    return [head.strip().strip('"').lower() for head in line.strip().split(_delimiter(line))]


def _delimiter(text: str) -> str:
    return max(",;\t", key=text.partition("\n")[0].count)


class _Rows:
    """How a row is read."""

    def __init__(self, scenario: Scenario, signals: frozenset[Signal], taken: tuple[datetime, datetime]) -> None:
        self.scenario, self.signals, self.taken = scenario, signals, taken

    def read(self, row: dict[str, str]) -> Reading:
        """What a row says, or CellError."""
        signal = self._signal(row)
        return Reading(signal, self._at(row.get("at", "")), _value(signal, row.get("value", "")))

    def _signal(self, row: dict[str, str]) -> Signal:
        zone = row.get("zone", "") or "0"
        named = (row.get("line"), row.get("station"), row.get("quantity"), zone)
        for signal in self.signals:
            if (signal.line, signal.station, signal.quantity, str(signal.zone)) == named:
                return signal
        lines = sorted({signal.line for signal in self.signals})
        if row.get("line") not in lines:
            raise CellError("line", row.get("line", ""), ", ".join(lines))
        stations = sorted({signal.station for signal in self.signals if signal.line == row.get("line")})
        if row.get("station") not in stations:
            raise CellError("station", row.get("station", ""), ", ".join(stations))
        own = (s for s in self.signals if (s.line, s.station) == (row.get("line"), row.get("station")))
        allowed = ", ".join(sorted(f"{s.quantity}{f' of zone {s.zone}' if s.zone else ''}" for s in own))
        raise CellError("quantity", f"{row.get('quantity', '')} {row.get('zone', '')}".strip(), allowed)

    def _at(self, text: str) -> datetime:
        try:
            minute = minute_of(self.scenario, datetime.fromisoformat(text))
        except ValueError:
            raise CellError(
                "at", text, "a moment as 2026-03-11 02:30:00, on the plant's clock or with a zone"
            ) from None
        except RundgangError as error:
            raise CellError("at", text, str(error)) from None
        at = self.scenario.window.starts_at.astimezone(UTC) + timedelta(minutes=minute)
        first, last = self.taken
        if not first <= at <= last:
            raise CellError("at", text, f"from {first:%Y-%m-%d %H:%M} to {last:%Y-%m-%d %H:%M} UTC")
        return at


def _value(signal: Signal, text: str) -> float:
    try:
        value = float(text)
    except ValueError:
        raise CellError("value", text, "a number with a point, for instance 231.5") from None
    if not is_possible(signal.quantity, value):
        raise CellError("value", text, possible(signal.quantity))
    return value
