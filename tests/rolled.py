"""A line over two windows, as the instruments of the simulated plant have told of it."""

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import datetime, timedelta

from sqlmodel import Session

from rundgang.clock import Clock
from rundgang.core.floor.instruments import Reading, Signal
from rundgang.instruments.simulated.chance import Chance
from rundgang.instruments.simulated.plant import SimulatedPlant
from rundgang.jobs.rolling import go_on
from rundgang.store.cluster import Urls
from rundgang.store.database import connect
from rundgang.store.repository import Repository

DAY_MIN, END_MIN = 1_440, 3_900
"""When the window goes on, and when what is read ends, min from the first one's start."""


class Instruments:
    """What reads a simulated plant once a minute, and its states whenever they change."""

    def __init__(self, plant: SimulatedPlant, line: str) -> None:
        self.plant, self.line = plant, line

    def read(self, begin: int, until: int) -> Iterator[Reading]:
        for station, passed in self.plant.work_of(self.line).passed.items():
            count = Signal(line=self.line, station=station, quantity="count")
            for minute in range(begin, until):
                yield Reading(count, self._at(minute), float(passed.count_at(minute)))
            state = Signal(line=self.line, station=station, quantity="state")
            yield Reading(state, self._at(begin), float(not passed.standing.stands_at(begin)))
            for since, end in zip(passed.standing.begins, passed.standing.ends, strict=True):
                for moment, value in ((since, 0.0), (end, 1.0)):
                    if begin < moment < until:
                        yield Reading(state, self._at(moment), value)

    def _at(self, minute: float) -> datetime:
        return self.plant.began + timedelta(minutes=minute)


@contextmanager
def rolled(urls: Urls, line: str, chance: Chance) -> Iterator[tuple[Repository, SimulatedPlant]]:
    """Two days and a half at work, the window gone on after the first; and the plant itself."""
    engine = connect(urls.app)
    with Session(engine) as session:
        first = Repository(session)
        scenario = first.windows.scenario()
        starts_at = scenario.window.starts_at
        plant = SimulatedPlant(starts_at, chance)
        plant.publish(scenario, first.plans.floor_plans(), starts_at)
        instruments = Instruments(plant, line)
        first.readings.append(list(instruments.read(0, DAY_MIN)))
        at = starts_at + timedelta(minutes=DAY_MIN)
        go_on(Repository(session), Clock(at), "Ida")
        second = Repository(session)
        plant.publish(second.windows.scenario(), second.plans.floor_plans(), at)
        second.readings.append(list(instruments.read(DAY_MIN, END_MIN)))
        yield Repository(session), plant
    engine.dispose()
