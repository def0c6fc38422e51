"""Good on every seed: the worst of many against the best, the demo and each of its lines; a sample unless soaked."""

import os
from datetime import date

import pytest

from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.demo.ostermere import ostermere

DAY = ostermere(date(2026, 3, 11))
SOAKED = "SOAK_PLANTS" in os.environ
SEEDS = range(1, 31) if SOAKED else (2, 5)
"""2 and 5 once ended with 1,744 and 4,073 packs short."""

LINE_SEEDS = 10 if SOAKED else 2
ORDERS, LINE_ORDERS = 45_000 if SOAKED else 27_000, 60_000
LINES = [line.id for line in DAY.plant.lines] if SOAKED else ["pastry-line", "biscuit-line"]


def test_the_demo_is_as_good_on_the_worst_seed_as_on_the_best() -> None:
    """Within 3 %, and no lot left out that another seed places; no plan known saves the 173 packs short."""
    found = [plan_plant(DAY, seed=seed, stop=after_evaluations(ORDERS, ORDERS)) for seed in SEEDS]
    assert max(plan.cost for plan in found) <= 1.03 * min(plan.cost for plan in found)
    assert {plan.score.packs_short for plan in found} == {173}
    assert all(plan.lost <= 173 for plan in found)


@pytest.mark.parametrize("line", LINES)
def test_each_line_alone_is_as_good_on_the_worst_seed_as_on_the_best(line: str) -> None:
    """Within 1 %."""
    stop = after_evaluations(LINE_ORDERS, LINE_ORDERS)
    costs = [plan_plant(DAY, lines=[line], seed=seed, stop=stop).cost for seed in range(1, LINE_SEEDS + 1)]
    assert max(costs) <= 1.01 * min(costs)
