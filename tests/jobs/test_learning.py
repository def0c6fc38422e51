"""Learning as the product does it: from what the instruments of a straying plant have said, over windows that go on.

What is built into the plant comes back; nothing is counted twice; what was taken is not offered again.
"""

from collections.abc import Iterator
from datetime import timedelta

import pytest
from scipy.stats import binom

from learnt import Week, built_in
from rolled import END_MIN, rolled
from rundgang.clock import Clock
from rundgang.core.floor.instruments import Signal
from rundgang.core.learning.facts import TakenLesson
from rundgang.core.learning.lessons import Lesson
from rundgang.jobs.learning import edits_for, line_lessons
from rundgang.jobs.libraries import change_library
from rundgang.store.cluster import Urls
from rundgang.store.repository import Repository

LINE = "ring-line"


@pytest.fixture
def store(urls: Urls) -> Iterator[Repository]:
    """A plant whose machines stray, two days and a half at work, its window gone on after the first."""
    with rolled(urls, LINE, Week(3, 0)) as (made, _):
        yield made


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
