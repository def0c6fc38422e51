"""The search against every order: up to eight order items on one line, up to four with two legs.

Cuts, pace and odd last dough are as they stand; whether two items of a product share a run is tried both ways.
"""

import os
from itertools import permutations, product
from random import Random

import numpy as np
import pytest

from plants import items_on, make_plan
from random_plants import random_plant
from rundgang.core.orders import Order
from rundgang.core.planning.decode.appraisal import appraise, priced
from rundgang.core.planning.decode.fixed import fixed_arrays
from rundgang.core.planning.decode.room import make_runs, make_state
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.objective import Weights, weight_array
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario

PLANTS = max(2, int(os.environ.get("SOAK_PLANTS", "40")) // 40)
TRIES = 30_000
ROUNDED = 0.05
"""What fillings weighed to a gram may add to a plan's cost, points."""


def with_items(seed: int, items: int, legs: int) -> Scenario:
    """A random plant of so many order items at most, of which a product has so many legs."""
    number = seed
    while True:
        plant, rng = random_plant(number), Random(number)
        orders = []
        for place in range(items):
            made = rng.choice([p for p in plant.products if p.formula and p.line == "line"])
            orders.append(
                Order(id=f"o{place}", product=made.id, wave=f"w{rng.randrange(4)}", packs=rng.randint(20, 400))
            )
        found = plant.changed(orders=tuple(orders))
        ordered = {order.product for order in orders}
        most = max(1 + sum(step.kind == "held" for step in p.piece_steps) for p in plant.products if p.id in ordered)
        if most == legs and len(items_on(found)) >= items - 2 and len(items_on(found)) <= items:
            return found
        number += 1_000_003


def every_order(plant: Scenario, runs_apart: bool) -> float:
    """The least cost of all orders; with `runs_apart` also of every choice of runs set apart."""
    shop, listed = Shop(plant, ["line"]), items_on(plant)
    arrays = shop.arrays, fixed_arrays(shop, ()), shop.items(listed)
    state, runs, weights = make_state(*arrays), make_runs(*arrays), weight_array(Weights())
    choices = product((0, 1), repeat=len(listed)) if runs_apart else [(0,) * len(listed)]
    aparts = [np.array(choice, dtype=np.int64) for choice in choices]
    orders = [np.array(order, dtype=np.int64) for order in permutations(range(len(listed)))]
    return min(
        float(priced(appraise(*arrays, order, apart, state, runs), weights)) for order in orders for apart in aparts
    )


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
