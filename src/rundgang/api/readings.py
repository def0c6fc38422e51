"""The routes of readings: what was read of a signal, files of it, and readings that come by themselves."""

import tempfile
from collections.abc import Iterator
from datetime import datetime, timedelta
from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import StreamingResponse
from pydantic import AwareDatetime, Field

from rundgang.api.deps import ContentType, Csv, NotCsvError, Now, Store
from rundgang.clock import Clock
from rundgang.core.errors import MalformedError, UnknownItemError
from rundgang.core.floor.instruments import Quantity, Reading, Signal, signals_of
from rundgang.core.model import Id, Model
from rundgang.formats.readings_files import write_csv, write_parquet
from rundgang.jobs.readings import Taken, take_readings, take_sent
from rundgang.store.readings import ReadStretch
from rundgang.store.repository import Repository

router = APIRouter(prefix="/api/readings")

LONGEST = timedelta(days=31)
CHUNK = 1 << 16
MOST_SENT = 5_000


class Series(Model):
    """What a signal was, stretch by stretch."""

    signal: Signal
    points: tuple[ReadStretch, ...]


class ReadingSent(Model):
    """What an instrument read."""

    line: Id
    station: Id
    quantity: Quantity
    zone: int = Field(default=0, ge=0, le=30)
    at: AwareDatetime
    value: float

    @property
    def signal(self) -> Signal:
        """What it is of."""
        return Signal(line=self.line, station=self.station, quantity=self.quantity, zone=self.zone)


class ReadingsRequest(Model):
    """Readings that come by themselves; what has come before is known by its moment and is not stored twice."""

    readings: tuple[ReadingSent, ...] = Field(min_length=1, max_length=MOST_SENT)


Line = Annotated[Id, Query()]
From = Annotated[AwareDatetime | None, Query(alias="from", description="a moment with its zone; none: hours ago")]
Hours = Annotated[int, Query(ge=1, le=744, description="so many hours back, where no beginning is given")]
Until = Annotated[AwareDatetime | None, Query(description="a moment with its zone; none: now")]


@router.get("")
def series(
    store: Store,
    now: Now,
    line: Line,
    station: Line,
    quantity: Quantity,
    zone: Annotated[int, Query(ge=0, le=30)] = 0,
    begin: From = None,
    until: Until = None,
    hours: Hours = 1,
    most: Annotated[int, Query(ge=1, le=2_000, description="so many stretches at most")] = 300,
) -> Series:
    """What was read of a signal."""
    signal = Signal(line=line, station=station, quantity=quantity, zone=zone)
    known = signals_of(store.windows.scenario())
    if signal not in known:
        raise UnknownItemError("signal", signal.path, tuple(one.path for one in known if one.line == line))
    begin, until = _span(now, begin, until, hours)
    return Series(signal=signal, points=store.readings.series(signal, begin, until, most))


@router.get("/readings.csv", response_class=StreamingResponse)
def as_csv(
    store: Store, now: Now, line: Line, begin: From = None, until: Until = None, hours: Hours = 1
) -> StreamingResponse:
    """Every reading of a line as CSV."""
    return StreamingResponse(
        (piece.encode() for piece in write_csv(_each(store, line, *_span(now, begin, until, hours)))),
        media_type="text/csv",
        headers={"Content-Disposition": f'attachment; filename="readings-{line}.csv"'},
    )


@router.get("/readings.parquet", response_class=StreamingResponse)
def as_parquet(
    store: Store, now: Now, line: Line, begin: From = None, until: Until = None, hours: Hours = 1
) -> StreamingResponse:
    """Every reading of a line as Apache Parquet."""
    out = tempfile.TemporaryFile()  # noqa: SIM115  (closed by whoever reads it)
    write_parquet(_each(store, line, *_span(now, begin, until, hours)), out)
    out.seek(0)

    def pieces() -> Iterator[bytes]:
        with out:
            while piece := out.read(CHUNK):
                yield piece

    return StreamingResponse(
        pieces(),
        media_type="application/vnd.apache.parquet",
        headers={"Content-Disposition": f'attachment; filename="readings-{line}.parquet"'},
    )


@router.post("", status_code=201)
def send(store: Store, now: Now, request: ReadingsRequest) -> Taken:
    """Take readings; all of them are stored once this is answered, or none."""
    return take_sent(store, now, [Reading(sent.signal, sent.at, sent.value) for sent in request.readings])


@router.post("/import", status_code=201)
def import_readings(store: Store, now: Now, data: Csv, content_type: ContentType = "") -> Taken:
    """Take a file of readings, all rows or none."""
    if content_type.partition(";")[0].strip() != "text/csv":
        raise NotCsvError(content_type)
    return take_readings(store, now, data)


def _each(store: Repository, line: str, begin: datetime, until: datetime) -> Iterator[Reading]:
    signals = [signal for signal in signals_of(store.windows.scenario()) if signal.line == line]
    if not signals:
        raise UnknownItemError("line", line, tuple(line.id for line in store.windows.scenario().plant.lines))
    return store.readings.each(signals, begin, until)


def _span(now: Clock, begin: datetime | None, until: datetime | None, hours: int) -> tuple[datetime, datetime]:
    end = until or now.now()
    first = begin or end - timedelta(hours=hours)
    if not timedelta(0) < end - first <= LONGEST:
        said = f"it is from {first:%Y-%m-%d %H:%M} to {end:%Y-%m-%d %H:%M}; allowed: at least a moment, at most 31 days"
        raise MalformedError("The time", (said,))
    return first, end
