"""Learning as the product does it: from what the instruments of a straying plant have said, over windows that go on.

What is built into the plant comes back; nothing is counted twice; what was taken is not offered again.
"""

from collections.abc import Iterator
from datetime import datetime, timedelta

import pytest
from scipy.stats import binom
from sqlmodel import Session

from learnt import Week, built_in
from rundgang.clock import Clock
from rundgang.core.floor.instruments import Reading, Signal
from rundgang.core.learning.facts import TakenLesson
from rundgang.core.learning.lessons import Lesson
from rundgang.instruments.simulated.plant import SimulatedPlant
from rundgang.jobs.learning import edits_for, line_lessons
from rundgang.jobs.libraries import change_library
from rundgang.jobs.rolling import go_on
from rundgang.store.cluster import Urls
from rundgang.store.database import connect
from rundgang.store.repository import Repository

LINE = "ring-line"
DAY_MIN, END_MIN = 1_440, 3_900


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


@pytest.fixture
def store(urls: Urls) -> Iterator[Repository]:
    """A plant whose machines stray, two days and a half at work, its window gone on after the first."""
    engine = connect(urls.app)
    with Session(engine) as session:
        first = Repository(session)
        scenario = first.windows.scenario()
        starts_at = scenario.window.starts_at
        plant = SimulatedPlant(starts_at, Week(3, 0))
        plant.publish(scenario, first.plans.floor_plans(), starts_at)
        instruments = Instruments(plant, LINE)
        first.readings.append(list(instruments.read(0, DAY_MIN)))
        at = starts_at + timedelta(minutes=DAY_MIN)
        go_on(Repository(session), Clock(at), "Ida")
        second = Repository(session)
        plant.publish(second.windows.scenario(), second.plans.floor_plans(), at)
        second.readings.append(list(instruments.read(DAY_MIN, END_MIN)))
        yield Repository(session)
    engine.dispose()


@pytest.fixture
def clock(store: Repository) -> Clock:
    """At the end of all that was read."""
    first = store.windows.all()[-1]
    return Clock(first.starts_at + timedelta(minutes=END_MIN))


def test_what_is_built_in_comes_back_from_the_readings(store: Repository, clock: Clock) -> None:
    """As many within their 95 % interval as chance leaves, but once in ten thousand (binomial)."""
    lessons = line_lessons(store, clock, LINE).lessons
    assert {"pace", "yield", "stops", "stands"} <= {lesson.kind for lesson in lessons}
    within = [_holds(store, lesson) for lesson in lessons]
    assert sum(within) >= binom.ppf(1e-4, len(within), 0.95)


def _holds(store: Repository, lesson: Lesson) -> bool:
    truth = built_in(store.windows.scenario(), LINE, Week(3, 0), lesson)
    return lesson.estimate.low <= truth <= lesson.estimate.high


def test_a_window_that_went_on_is_counted_once(store: Repository, clock: Clock) -> None:
    """No station ran longer than there was time; no more pieces passed than its counter says."""
    counted = {
        station: store.readings.newest(clock.now())[Signal(line=LINE, station=station, quantity="count")].value
        for station in ("former", "oven", "slicer", "bagger")
    }
    passed = dict.fromkeys(counted, 0)
    for lesson in line_lessons(store, clock, LINE).lessons:
        if lesson.kind == "stops":
            assert lesson.estimate.value * lesson.estimate.observed <= END_MIN
        if lesson.kind == "yield" and lesson.station in passed:
            passed[lesson.station] += round(lesson.estimate.value * lesson.estimate.observed)
    assert any(passed.values())
    for station, number in passed.items():
        assert number <= counted[station]


def test_what_was_taken_is_said_and_not_offered_again(store: Repository, clock: Clock) -> None:
    """All at once; the record that taught it goes on saying the same, and no more than that."""
    before = line_lessons(store, clock, LINE)
    taken = [lesson for lesson in before.lessons if lesson.tells and not lesson.hint]
    assert taken
    asked = [
        TakenLesson(
            kind=lesson.kind,
            product=lesson.product,
            station=lesson.station,
            mixer=lesson.mixer,
            value=lesson.estimate.value,
            spread=lesson.estimate.spread,
        )
        for lesson in taken
    ]
    edits = edits_for(store.windows.scenario(), LINE, asked)
    note = change_library(store, before.library, edits, "learnt").note
    assert note
    assert note.number == before.library + 1
    after = {lesson.key: lesson for lesson in line_lessons(Repository(store.session), clock, LINE).lessons}
    for lesson in taken:
        known = after[lesson.key]
        assert known.estimate.value == pytest.approx(lesson.estimate.value, rel=1e-6), lesson.key
        assert known.hint or not known.tells, lesson.key
