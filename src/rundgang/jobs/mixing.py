"""Mixers as they are heard: when a batch that somebody weighs up began to be mixed, and when it was out of its bowl."""

from collections.abc import Iterator, Mapping
from datetime import datetime, timedelta
from typing import NamedTuple

from rundgang.core.floor.instruments import Signal, state_of_mixer
from rundgang.core.floor.record import BatchName, MadeBatch, batch_begun
from rundgang.core.scenario import Scenario
from rundgang.formats.clock import minute_of
from rundgang.store.lots import StoredLot
from rundgang.store.repository import Repository

BY_SIGNAL = "the mixer's signal"
"""Who says so where the mixer itself does."""


class Mixed(NamedTuple):
    """When a mixer began with a batch, and when it was done, min; None while it goes on."""

    from_min: float
    done_min: float | None


def heard_mixers(
    store: Repository, scenario: Scenario, line: str, batches: Mapping[BatchName, StoredLot],
    made: Mapping[BatchName, MadeBatch], until: datetime,
) -> Iterator[tuple[BatchName, Mixed]]:  # fmt: skip
    """Of batches that somebody has begun to weigh, those whose mixer was heard to begin since.

    Parameters
    ----------
    batches : mapping of BatchName to StoredLot
        That are not out of their bowls.
    made : mapping of BatchName to MadeBatch
        All of the plan.
    """
    stations = {mixer: station for station in scenario.line(line).batch_stations for mixer in station.mixers}
    for name, lot in batches.items():
        one = made.get(name)
        if one is None or one.mixer not in stations:
            continue
        signal = state_of_mixer(line, stations[one.mixer], one.mixer)
        for mixed in _ran(store, scenario, signal, _begun(store, lot), until):
            if batch_begun(made.values(), one.mixer, mixed.from_min) == name:
                yield name, mixed
                break


def _begun(store: Repository, lot: StoredLot) -> datetime:
    """When somebody first told something of a batch."""
    told = [use.at for use in store.lots.uses_into([lot.number])]
    told += [event.at for event in store.lots.events_of([lot.number])]
    return min(told, default=lot.at)


def _ran(
    store: Repository, scenario: Scenario, signal: Signal, since: datetime, until: datetime
) -> Iterator[Mixed]:  # fmt: skip
    """Each time that a mixer ran, of those that began since a moment."""
    before = store.readings.newest_of(signal, since)
    runs, began = before is not None and before.value != 0, None
    for reading in store.readings.each([signal], since, until + timedelta(seconds=1)):
        goes = reading.value != 0
        if goes and not runs:
            began = reading.at
        if runs and not goes and began:
            yield Mixed(minute_of(scenario, began), minute_of(scenario, reading.at))
            began = None
        runs = goes
    if began:
        yield Mixed(minute_of(scenario, began), None)
