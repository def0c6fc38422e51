"""What is late is taken out and put back where it costs least."""

from collections.abc import Callable
from datetime import date
from itertools import permutations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from plants import items_on
from rundgang.core.compiled import Ints
from rundgang.core.planning.decode.appraisal import appraise, priced
from rundgang.core.planning.decode.fixed import fixed_arrays
from rundgang.core.planning.decode.room import make_runs, make_state
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.objective import Weights, weight_array
from rundgang.core.planning.search.reinsertion import OF_THE_LATEST, inserted_best, late_items
from rundgang.demo.ring_line import ring_line

DAY = date(2026, 3, 11)


def tardiness(minutes: Ints, due: Ints) -> Callable[[Ints], float]:
    """One machine, one job after the other: minutes late in all; 1,000 for a job that is missing."""

    def cost(order: Ints) -> float:
        done = np.cumsum(minutes[order])
        late = np.maximum(done - due[order], 0).sum()
        return float(late + 1_000 * (len(minutes) - len(order)))

    return cost


@given(seed=st.integers(0, 10_000), out=st.integers(0, 5))
def test_the_last_item_is_at_the_best_of_all_its_places(seed: int, out: int) -> None:
    """Brute force: no other place of an order of six jobs costs less."""
    random = np.random.default_rng(seed)
    cost = tardiness(random.integers(5, 60, 6), random.integers(10, 200, 6))
    order, tried = inserted_best(cost, np.zeros(6, dtype=np.int64), random.permutation(6), (out,))
    others = order[order != out]
    every = [cost(np.insert(others, place, out)) for place in range(6)]
    assert sorted(order.tolist()) == list(range(6))
    assert cost(order) == min(every)
    assert tried == 6


def test_all_jobs_laid_anew_one_by_one() -> None:
    """W. E. Smith's rule orders jobs without due times by their length (1956); so does insertion, one at a time."""
    minutes = np.array([40, 10, 30, 20])
    cost = tardiness(minutes, np.zeros(4, dtype=np.int64))
    order, _ = inserted_best(cost, np.zeros(4, dtype=np.int64), np.arange(4), (0, 1, 2, 3))
    assert order.tolist() == [1, 3, 2, 0]
    assert cost(order) == min(cost(np.array(each)) for each in permutations(range(4)))


def test_an_item_is_tried_on_both_sides_of_each_of_its_line() -> None:
    """Two lines, three items each: first, last, before and behind each of its own; not between two of the other."""
    asked: list[list[int]] = []

    def cost(order: Ints) -> float:
        asked.append(order.tolist())
        return 0.0

    lines = np.array([0, 1, 1, 1, 0, 0])
    inserted_best(cost, lines, np.array([0, 1, 2, 3, 4]), (5,))
    assert [order.index(5) for order in asked] == [0, 1, 4, 5]


def test_what_is_left_out_is_among_the_latest() -> None:
    """The last lorry's items first: what the earliest want is late, and is taken out; what is in time is not."""
    day = ring_line(DAY)
    shop, listed = Shop(day, ["ring-line"]), items_on(day, "ring-line")
    arrays = shop.arrays, fixed_arrays(shop, ()), shop.items(listed)
    state, runs = make_state(*arrays), make_runs(*arrays)
    items, alone = arrays[2], np.zeros(len(listed), dtype=np.int64)
    order = np.argsort(-items["leaves"], kind="stable")
    found = appraise(*arrays, order, alone, state, runs)
    assert found[0] > 0, "packs are short"
    out = late_items(shop.arrays, runs, items, order, np.random.default_rng(0))
    assert 0 < len(out) <= OF_THE_LATEST
    ends = {i: float(runs.times[runs.joins[i], 0]["start"]) for i in out if runs.joins[i] >= 0}
    assert any(ends.get(i, np.inf) > items[i]["leaves"] - 300 for i in out)
    weights = weight_array(Weights())

    def cost(orders: Ints) -> float:
        return float(priced(appraise(*arrays, orders, alone, state, runs), weights))

    lines = shop.arrays.products["line"][items["product"]]
    better, _ = inserted_best(cost, lines, order, out)
    assert cost(better) < cost(order)


def test_in_time_nothing_is_taken_out() -> None:
    """An order of one item that is ready hours before its lorry."""
    day = ring_line(DAY)
    shop, listed = Shop(day, ["ring-line"]), items_on(day, "ring-line")[-1:]
    arrays = shop.arrays, fixed_arrays(shop, ()), shop.items(listed)
    runs = make_runs(*arrays)
    order = np.zeros(1, dtype=np.int64)
    appraise(*arrays, order, order, make_state(*arrays), runs)
    assert late_items(shop.arrays, runs, arrays[2], order, np.random.default_rng(0)) == ()
