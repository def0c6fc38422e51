"""Taking readings that come as files: all rows or none."""

from datetime import datetime, timedelta

from rundgang.clock import Clock
from rundgang.core.errors import MalformedError
from rundgang.core.floor.instruments import signals_of
from rundgang.core.model import Model
from rundgang.formats.readings_files import read_csv
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
    file = read_csv(data, scenario, signals_of(scenario), taken_between(store, now))
    if file.faults or not file.readings:
        faults = file.named_faults or ("it has no row; allowed: at least one reading",)
        raise MalformedError("The file has wrong rows, so nothing was taken. It", faults)
    return Taken(sent=len(file.readings), new=store.readings.append(file.readings))


def taken_between(store: Repository, now: Clock) -> tuple[datetime, datetime]:
    """From when until when readings are taken: as far back as every one is kept."""
    keep = timedelta(days=store.instruments.newest().instruments.keep_days)
    return now.now() - keep, now.now() + AHEAD
