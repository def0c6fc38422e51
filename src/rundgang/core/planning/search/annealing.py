"""Annealing: an order changed again and again; and, for few items, every order there is."""

import numpy as np

from rundgang.core.compiled import Floats, Ints, Records, compiled, inner
from rundgang.core.planning.decode.appraisal import appraise, priced
from rundgang.core.planning.decode.arrays import Fixed, Runs, ShopArrays, State
from rundgang.core.planning.search.moves import change

BETTER = 1e-9
"""A cost lower by less than this, points, is none."""


@compiled
def lines_of(shop: ShopArrays, items: Records) -> Ints:
    """The line of each item."""
    lines = np.empty(len(items), np.int64)
    for item in range(len(items)):
        lines[item] = shop.products[items[item].product].line
    return lines


@compiled
def anneal(
    shop: ShopArrays,
    fixed: Fixed,
    items: Records,
    state: State,
    runs: Runs,
    order: Ints,
    alone: Ints,
    weights: Floats,
    seed: int,
    tries: int,
    warm: float,
    cold: float,
) -> tuple[Ints, Ints, float]:
    """Change an order again and again; keep what is no worse, and what is worse the less often the cooler it gets.

    Parameters
    ----------
    order, alone : array, shape (N,)
        Where to begin; where it has come to, written.

    Returns
    -------
    tuple
        The best order, its runs set apart, and its cost; those it began with if nothing is better.
    """
    np.random.seed(seed % 2_147_483_647)
    lines = lines_of(shop, items)
    here, apart = order, alone
    cost = priced(appraise(shop, fixed, items, here, apart, state, runs), weights)
    best, best_alone, least = here.copy(), apart.copy(), cost
    new, new_apart = here.copy(), apart.copy()
    cooling = (cold / warm) ** (1.0 / max(tries, 1))
    heat = warm
    for _ in range(tries):
        heat *= cooling
        change(lines, items, here, apart, new, new_apart)
        found = priced(appraise(shop, fixed, items, new, new_apart, state, runs), weights)
        if found <= cost or np.random.random() < np.exp((cost - found) / heat):
            here[:], apart[:] = new, new_apart
            cost = found
            if cost < least - BETTER:
                least = cost
                best[:], best_alone[:] = here, apart
    return best, best_alone, least


@inner
def _is_useful(lines: Ints, items: Records, order: Ints, alone: Ints) -> bool:
    """Whether every item set apart stands behind one of its product on its line: else it begins a run anyway."""
    for place in range(len(order)):
        if not alone[order[place]]:
            continue
        before = place - 1
        while before >= 0 and lines[order[before]] != lines[order[place]]:
            before -= 1
        if before < 0 or items[order[before]].product != items[order[place]].product:
            return False
    return True


@compiled
def every_order(
    shop: ShopArrays, fixed: Fixed, items: Records, state: State, runs: Runs, weights: Floats
) -> tuple[Ints, Ints, float, int]:
    """The best of all orders of the items, with every choice of runs set apart, and how many were tried.

    The orders come by B. R. Heap's algorithm (Computer Journal 6, 1963).
    """
    count = len(items)
    lines = lines_of(shop, items)
    order, alone = np.arange(count), np.zeros(count, np.int64)
    best, best_alone, least, tried = order.copy(), alone.copy(), np.inf, 0
    stack = np.zeros(count, np.int64)
    place, fresh = 0, True
    while place < count or fresh:
        if fresh:
            for choice in range(2**count):
                for item in range(count):
                    alone[item] = (choice >> item) & 1
                if _is_useful(lines, items, order, alone):
                    tried += 1
                    cost = priced(appraise(shop, fixed, items, order, alone, state, runs), weights)
                    if cost < least - BETTER:
                        least = cost
                        best[:], best_alone[:] = order, alone
            fresh = False
        if place < count and stack[place] < place:
            swap = 0 if place % 2 == 0 else stack[place]
            order[swap], order[place] = order[place], order[swap]
            stack[place] += 1
            place, fresh = 0, True
        elif place < count:
            stack[place] = 0
            place += 1
    return best, best_alone, least, tried
