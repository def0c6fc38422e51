"""Mixers as they are heard: when a batch that somebody weighs up began to be mixed, and when it was out of its bowl."""

from collections.abc import Iterator, Mapping
from datetime import UTC, datetime, timedelta
from typing import NamedTuple

from rundgang.core.floor.instruments import Signal, state_of_mixer
from rundgang.core.floor.record import BatchName, MadeBatch
from rundgang.core.scenario import Scenario
from rundgang.formats.clock import minute_of, moment_of
from rundgang.store.lots import StoredLot
from rundgang.store.repository import Repository

BY_SIGNAL = "the mixer's signal"
"""Who says so where the mixer itself does."""

SOONER_MIN = 30.0
"""A mixer that begins so long before its batch was to be mixed mixes another one, min."""


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
        since = max(_begun(store, lot), moment_of(scenario, one.start_min - SOONER_MIN).astimezone(UTC))
        mixed = _mixed(store, scenario, signal, since, until) if since < until else None
        if mixed:
            yield name, mixed


def _begun(store: Repository, lot: StoredLot) -> datetime:
    """When somebody first told something of a batch."""
    told = [use.at for use in store.lots.uses_into([lot.number])]
    told += [event.at for event in store.lots.events_of([lot.number])]
    return min(told, default=lot.at)


def _mixed(
    store: Repository, scenario: Scenario, signal: Signal, since: datetime, until: datetime
) -> Mixed | None:  # fmt: skip
    """The first time that a mixer ran from its beginning on, since a moment."""
    before = store.readings.newest_of(signal, since)
    runs, began = before is not None and before.value != 0, None
    for reading in store.readings.each([signal], since, until + timedelta(seconds=1)):
        goes = reading.value != 0
        if goes and not runs:
            began = reading.at
        if runs and not goes and began:
            return Mixed(minute_of(scenario, began), minute_of(scenario, reading.at))
        runs = goes
    return Mixed(minute_of(scenario, began), None) if began else None
