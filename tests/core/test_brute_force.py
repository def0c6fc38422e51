"""The search against every order: up to eight order items on one line, up to four with two legs.

Cuts, pace and odd last dough are as they stand; whether two items of a product share a run is tried both ways.
"""

import pytest

from brute_force import PLANTS, every_order, with_items
from plants import make_plan
from rundgang.core.planning.objective import Weights
from rundgang.core.planning.search.stopping import after_evaluations

TRIES = 30_000
ROUNDED = 0.05
"""What fillings weighed to a gram may add to a plan's cost, points."""


@pytest.mark.parametrize("seed", range(PLANTS))
def test_four_items_with_two_legs(seed: int) -> None:
    """Every order and every choice of runs set apart: the search's plan costs the same."""
    plant = with_items(seed, 4, 2)
    plan = make_plan(plant, "line", seed=seed)
    assert plan.score.cost(Weights()) == pytest.approx(every_order(plant, runs_apart=True), abs=ROUNDED)


@pytest.mark.parametrize("seed", range(PLANTS))
def test_eight_items_on_one_line(seed: int) -> None:
    """40,320 orders: none with joined runs is better than what the search finds, which may also set runs apart."""
    plant = with_items(seed + 500, 8, 1)
    plan = make_plan(plant, "line", seed=seed, stop=after_evaluations(TRIES, TRIES))
    assert plan.score.cost(Weights()) <= every_order(plant, runs_apart=False) + ROUNDED
