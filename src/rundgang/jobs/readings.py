"""Taking readings that are sent, and files of them: all or none."""

from collections.abc import Iterator, Sequence
from datetime import datetime, timedelta

from rundgang.clock import Clock
from rundgang.core.errors import MalformedError
from rundgang.core.floor.instruments import Reading, Signal, is_possible, possible, signals_of
from rundgang.core.model import Model
from rundgang.formats.readings_files import read_csv
from rundgang.formats.row_faults import MOST_FAULTS
from rundgang.store.repository import Repository

AHEAD = timedelta(minutes=5)
"""Clocks may be so far apart."""


class Taken(Model):
    """How many readings were new; all that were sent are there now."""

    sent: int
    new: int


def take_readings(store: Repository, now: Clock, data: bytes) -> Taken:
    """Take a file of readings; MalformedError with what is wrong in it."""
    scenario = store.windows.scenario()
    file = read_csv(data, scenario, signals_of(scenario), _taken_between(store, now))
    if file.faults or not file.readings:
        faults = file.named_faults or ("it has no row; allowed: at least one reading",)
        raise MalformedError("The file has wrong rows, so nothing was taken. It", faults)
    return Taken(sent=len(file.readings), new=store.readings.append(file.readings))


def take_sent(store: Repository, now: Clock, readings: Sequence[Reading]) -> Taken:
    """Take readings; MalformedError with what is wrong with the first of them."""
    first, last = _taken_between(store, now)
    known = frozenset(signals_of(store.windows.scenario()))
    faults = [
        f"reading {number}: found {found}; allowed: {allowed}"
        for number, reading in enumerate(readings, start=1)
        for found, allowed in _wrong_with(reading, known, (first, last))
    ]
    if faults:
        raise MalformedError("Some readings are wrong, so none was taken. Wrong is", tuple(faults[:MOST_FAULTS]))
    return Taken(sent=len(readings), new=store.readings.append(readings))


def _wrong_with(
    reading: Reading, known: frozenset[Signal], taken: tuple[datetime, datetime]
) -> Iterator[tuple[str, str]]:  # fmt: skip
    signal = reading.signal
    if signal not in known:
        yield signal.path, "a line, station and quantity of this plant"
    if not is_possible(signal.quantity, reading.value):
        yield f"{reading.value:g}", possible(signal.quantity)
    if not taken[0] <= reading.at <= taken[1]:
        yield f"{reading.at:%Y-%m-%d %H:%M}", f"from {taken[0]:%Y-%m-%d %H:%M} to now"


def _taken_between(store: Repository, now: Clock) -> tuple[datetime, datetime]:
    """From when until when readings are taken: as far back as every one is kept."""
    keep = timedelta(days=store.instruments.newest().instruments.keep_days)
    return now.now() - keep, now.now() + AHEAD
