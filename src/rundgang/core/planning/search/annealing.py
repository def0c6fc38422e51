"""Annealing: an order changed again and again."""

import numpy as np

from rundgang.core.compiled import Floats, Ints, Records, compiled
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
