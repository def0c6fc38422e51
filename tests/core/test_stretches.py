"""Neighbours of a line put in the order that costs least, against every order of them."""

from itertools import permutations

import numpy as np
import pytest

from brute_force import with_items
from plants import items_on
from rundgang.core.planning.decode.appraisal import appraise, priced
from rundgang.core.planning.decode.fixed import fixed_arrays
from rundgang.core.planning.decode.room import make_runs, make_state
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.objective import Weights, weight_array
from rundgang.core.planning.search.stretches import STRETCH, best_stretch, stretch_at


@pytest.mark.parametrize("seed", [3, 14, 15, 92])
def test_a_stretch_is_left_in_the_best_of_all_its_orders(seed: int) -> None:
    """Four places of five, the fifth item staying where it is: brute force over their 24 orders."""
    plant = with_items(seed, 5, 1)
    shop, listed = Shop(plant, ["line"]), items_on(plant)
    arrays = shop.arrays, fixed_arrays(shop, ()), shop.items(listed)
    room, weights = (make_state(*arrays), make_runs(*arrays)), weight_array(Weights())
    order, alone = np.arange(len(listed)), np.zeros(len(listed), dtype=np.int64)
    at = np.delete(order, 1)

    def cost(found: np.ndarray) -> float:
        return float(priced(appraise(*arrays, found, alone, *room), weights))

    every = []
    for chosen in permutations(order[at]):
        found = order.copy()
        found[at] = chosen
        every.append(cost(found))
    best, least, tried = best_stretch(*arrays, *room, order, alone, weights, at, cost(order))
    assert least == pytest.approx(min(every))
    assert cost(best) == pytest.approx(least)
    assert best[1] == 1
    assert tried == len(every) - 1


def test_a_stretch_is_of_one_line_and_never_short_of_items_that_there_are() -> None:
    """Items of two lines taking turns: from the second of one line on; near the end the last ones are taken."""
    lines, order = np.tile([0, 1], 10), np.arange(20)
    assert stretch_at(lines, order, 2).tolist() == [2 * place for place in range(1, STRETCH + 1)]
    assert stretch_at(lines, order, 17).tolist() == [2 * place + 1 for place in range(10 - STRETCH, 10)]
