"""Random plants of a few order items, and the least cost of all their orders."""

import os
from itertools import permutations, product
from random import Random

import numpy as np

from plants import items_on
from random_plants import random_plant
from rundgang.core.orders import Order
from rundgang.core.planning.decode.appraisal import appraise, priced
from rundgang.core.planning.decode.fixed import fixed_arrays
from rundgang.core.planning.decode.room import make_runs, make_state
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.objective import Weights, weight_array
from rundgang.core.scenario import Scenario

PLANTS = max(2, int(os.environ.get("SOAK_PLANTS", "40")) // 40)
"""So many by a test."""


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
