"""Stretches: a few neighbours of a line in every order there is.

What one day's lots cost is often a matter of their order alone, and annealing, which changes one thing at a time, can
stand before an order that only several changes together make better.
"""

import numpy as np

from rundgang.core.compiled import Floats, Ints, Records, compiled
from rundgang.core.planning.decode.appraisal import appraise, priced
from rundgang.core.planning.decode.arrays import Fixed, Runs, ShopArrays, State
from rundgang.core.planning.search.annealing import BETTER

STRETCH = 6
"""So many items."""


def stretch_at(lines: Ints, order: Ints, place: int) -> Ints:
    """Where items of a line stand in an order from a place on, or the line's last ones if those are too few."""
    mine = np.flatnonzero(lines[order] == lines[order[place]])
    first = min(int(np.searchsorted(mine, place)), max(0, len(mine) - STRETCH))
    return mine[first : first + STRETCH]


@compiled
def best_stretch(
    shop: ShopArrays,
    fixed: Fixed,
    items: Records,
    state: State,
    runs: Runs,
    order: Ints,
    alone: Ints,
    weights: Floats,
    at: Ints,
    cost: float,
) -> tuple[Ints, float, int]:
    """An order with the items at some places in the order that costs least.

    All orders of them by B. R. Heap's exchanges (The Computer Journal 6, 1963).

    Parameters
    ----------
    order, alone : array, shape (N,)
    at : array
        The places in the order.
    cost : float
        What the order costs, points.

    Returns
    -------
    tuple
        The order, what it costs, points, and how many were tried.
    """
    here, best, turn = order.copy(), order.copy(), np.zeros(len(at), np.int64)
    tried, depth = 0, 1
    while depth < len(at):
        if turn[depth] == depth:
            turn[depth] = 0
            depth += 1
            continue
        other = 0 if depth % 2 == 0 else turn[depth]
        here[at[depth]], here[at[other]] = here[at[other]], here[at[depth]]
        found, tried = priced(appraise(shop, fixed, items, here, alone, state, runs), weights), tried + 1
        if found < cost - BETTER:
            cost = found
            best[:] = here
        turn[depth] += 1
        depth = 1
    return best, float(cost), tried
