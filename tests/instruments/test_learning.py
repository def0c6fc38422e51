"""Learning from the record of a plant in which the figures are known: they come back within their intervals.

An interval of 95 % holds what is built in 95 times of 100. How many of so many then do is binomial; a sample is held
to what fails but once in ten thousand, forty seeds in `script/soak` to 35 of 40 of each kind and 93 to 97 % of all.
"""

import os
from collections import Counter

import pytest
from scipy.stats import binom

from learnt import Week, built_in, observed_in
from rundgang.core.learning.lessons import lessons_of
from rundgang.core.planning.model import PlantPlan
from rundgang.core.scenario import Scenario
from rundgang.store.cluster import Urls
from simulated import planned_in

SEEDS, MANY = int(os.environ.get("SOAK_LEARNT", "1")), 40
WEEKS = 4
LINES = ("bread-line", "ring-line")

KINDS = {"friction", "cooling", "yield", "bake loss", "pace", "tool change", "belt set", "stops", "stands"}


@pytest.fixture
def planned(urls: Urls) -> tuple[Scenario, PlantPlan]:
    """A scenario and its plan, from the tests' database."""
    return planned_in(urls)


@pytest.mark.whole
def test_what_is_built_into_the_plant_comes_back_within_its_interval(planned: tuple[Scenario, PlantPlan]) -> None:
    """Each kind of figure by itself, and all together."""
    scenario, _ = planned
    within, told = Counter[str](), Counter[str]()
    for seed in range(SEEDS):
        for line in LINES:
            seen = [one for week in range(WEEKS) for one in observed_in(planned, line, Week(seed, week))]
            for lesson in lessons_of(scenario, line, seen):
                truth = built_in(scenario, line, Week(seed, 0), lesson)
                told[lesson.kind] += 1
                within[lesson.kind] += lesson.estimate.low <= truth <= lesson.estimate.high
    assert set(told) == KINDS
    for kind, number in told.items():
        print(f"{kind}: {within[kind]} of {number}, {within[kind] / number:.1%}")
        least = 35 / 40 if SEEDS >= MANY else 0.0
        assert within[kind] >= max(least * number, binom.ppf(1e-4, number, 0.95)), kind
    share = within.total() / told.total()
    print(f"all: {within.total()} of {told.total()}, {share:.1%}")
    if SEEDS >= MANY:
        assert 0.93 <= share <= 0.97
