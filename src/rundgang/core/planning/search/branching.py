"""Branching: all orders of the items, but for those of which the beginning alone costs more than an order known.

A depth-first branch and bound (A. H. Land and A. G. Doig, Econometrica 28, 1960) over the first item, the second, and
so on, and over whether each begins a run of its own. It proves what annealing can only find.
"""

import numpy as np

from rundgang.core.compiled import Floats, Ints, Records, compiled, inner
from rundgang.core.planning.decode.appraisal import appraise, priced
from rundgang.core.planning.decode.arrays import Fixed, Runs, ShopArrays, State
from rundgang.core.planning.decode.runs import decode
from rundgang.core.planning.search.annealing import BETTER
from rundgang.core.planning.search.beginnings import Ahead, least_of


@compiled
def branch(
    shop: ShopArrays,
    fixed: Fixed,
    items: Records,
    state: State,
    runs: Runs,
    weights: Floats,
    ahead: Ahead,
    path: Ints,
    best: Ints,
    best_alone: Ints,
    least: float,
    most: int,
) -> tuple[float, int]:
    """Go on through all orders, for so many beginnings.

    Parameters
    ----------
    path : array, shape (N + 1,)
        How many choices have been followed at each depth, and the depth itself, last, -1 at the end; zeros to begin
        with, written. Each item is two choices: behind what stands before it, and as a run of its own.
    best, best_alone : array, shape (N,)
        The best order known, and its runs set apart; written.
    least : float
        What it costs, points.

    Returns
    -------
    tuple
        What the best order costs, and how many were tried whole.
    """
    count = len(items)
    order, alone, used = np.empty(count, np.int64), np.zeros(count, np.int64), np.zeros(count, np.int64)
    depth, tried, whole = path[count], 0, 0
    for place in range(depth):
        order[place] = (path[place] - 1) // 2
        alone[order[place]], used[order[place]] = (path[place] - 1) % 2, 1
    while depth >= 0 and tried < most:
        choice = path[depth]
        item = choice // 2
        path[depth] += 1
        if item == count:
            path[depth] = 0
            depth -= 1
            if depth >= 0:
                used[order[depth]] = 0
            continue
        if used[item]:
            continue
        order[depth], alone[item], used[item] = item, choice % 2, 1
        tried += 1
        begun = order[: depth + 1]
        made, _ = decode(shop, fixed, items, begun, alone, state, runs)
        before = _before(shop, items, order[:depth], item)
        together = before >= 0 and runs.heads[before] == runs.heads[item]
        if not together and not alone[item]:
            path[depth] += 1
        if not (together and before > item and _are_alike(items, before, item)):
            if depth + 1 == count:
                whole += 1
                cost = priced(appraise(shop, fixed, items, order, alone, state, runs), weights)
                if cost < least - BETTER:
                    least = cost
                    best[:], best_alone[:] = order, alone
            elif least_of(shop, ahead, items, begun, used, weights, runs, made) < least - BETTER:
                depth += 1
                continue
        used[item] = 0
    path[count] = depth
    return least, whole


@inner
def _before(shop: ShopArrays, items: Records, order: Ints, item: int) -> int:
    """The item that stands before one on its line; -1 where it is the first."""
    line = shop.products[items[item].product].line
    for place in range(len(order) - 1, -1, -1):
        if shop.products[items[order[place]].product].line == line:
            return int(order[place])
    return -1


@inner
def _are_alike(items: Records, one: int, other: int) -> bool:
    """Whether it is the same which of two items comes first in a run."""
    for item in (one, other):
        if not (np.isnan(items[item].pin) and np.isnan(items[item].was) and items[item].hold == -np.inf):
            return False
    return True
