"""All orders of a few items: no beginning costs more than an order that begins so; branching loses nothing better."""

from datetime import date
from itertools import permutations

import numpy as np
import pytest

from brute_force import PLANTS, with_items
from plants import items_on
from rundgang.core.planning.decode.appraisal import appraise, priced
from rundgang.core.planning.decode.runs import decode
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.objective import Weights
from rundgang.core.planning.search.beginnings import ahead_of, least_of
from rundgang.core.planning.search.groups import Group
from rundgang.demo.ostermere import ostermere

SAME = 1e-6
AT_ONCE = 500


@pytest.mark.parametrize("legs", [1, 2])
@pytest.mark.parametrize("seed", range(PLANTS))
def test_no_order_costs_less_than_its_beginning_says(seed: int, legs: int) -> None:
    """Random plants, every order of five items, each cut off after one, two, three and four of them.

    On every other plant changes cost nothing: what cannot follow at all must not make the bound no number.
    """
    weights = Weights(changeover_min=0, oven_empty_min=0) if seed % 2 else Weights()
    plant = with_items(seed + 1_700, 5 if legs == 1 else 4, legs)
    shop = Shop(plant, ["line"])
    group = Group(["line"], shop, (), items_on(plant), weights)
    tables, room = (shop.arrays, group.fixed_arrays, group.items), group._room()
    ahead, alone, random = ahead_of(shop, weights), np.zeros(len(group.listed), np.int64), np.random.default_rng(seed)
    looked = 0
    for way in permutations(range(len(group.listed))):
        order = np.array(way)
        alone[:] = random.integers(0, 2, len(alone))
        cost = priced(appraise(*tables, order, alone, *room), group.weights)
        for length in range(1, len(order)):
            used = np.zeros(len(order), np.int64)
            used[order[:length]] = 1
            made, _ = decode(*tables, order[:length], alone, *room)
            least = least_of(shop.arrays, ahead, group.items, order[:length], used, group.weights, room[1], made)
            assert least <= cost + SAME
            looked += least > 0
    assert looked > 0 or len({item.product for item in group.listed}) == 1, "a run that can still grow says nothing"


def test_branching_goes_on_where_it_was() -> None:
    """In pieces or at one go: the same order of the pastry line's nine items, proved, and no annealed one is better."""
    day = ostermere(date(2026, 3, 11))
    shop = Shop(day, ["pastry-line"])
    listed = items_on(day, "pastry-line")
    whole, pieces = (Group(["pastry-line"], shop, (), listed, Weights()) for _ in range(2))
    whole.branch(10**9)
    goes = 0
    while not pieces.proved:
        pieces.branch(AT_ONCE)
        goes += 1
    assert whole.proved
    assert goes > 1
    assert pieces.branching is not None
    assert whole.branching is not None
    assert pieces.branching.order.tolist() == whole.branching.order.tolist()
    assert pieces.cost == whole.cost
    assert whole.bound == whole.quick_bound < whole.cost, "what no order betters a plan with waits may"


def test_changes_that_cost_nothing_leave_every_bound_a_number() -> None:
    """The demo's products dwell longer in warm hours, so that some classes of them never follow each other."""
    day = ostermere(date(2026, 3, 11))
    shop = Shop(day, [line.id for line in day.plant.lines])
    onward = ahead_of(shop, Weights(changeover_min=0, oven_empty_min=0)).onward
    assert np.isinf(onward).any()
    assert not np.isnan(onward).any()
