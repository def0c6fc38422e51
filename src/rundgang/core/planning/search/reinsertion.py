"""Reinsertion: items that are late or left out taken out of an order, and put back one by one where each costs least.

After ruin and recreate (G. Schrimpf et al., Journal of Computational Physics 159, 2000): annealing moves one item at a
time, and seldom finds the place for a large lot that nobody made room for.
"""

from collections.abc import Callable, Sequence

import numpy as np

from rundgang.core.compiled import Ints, Records
from rundgang.core.planning.decode.arrays import Runs, ShopArrays

TAKEN_OUT = 4
"""Items taken out because they are late."""

OF_THE_LATEST = 10
"""They are drawn from so many."""

BESIDE = 2
"""Items taken out beside them, from the same line and near them in the order."""

REACH = 4
"""So near, places."""


def late_items(
    shop: ShopArrays, runs: Runs, items: Records, order: Ints, random: np.random.Generator
) -> tuple[int, ...]:  # fmt: skip
    """Items to take out: some of those that cost most by being late or left out, and some beside them.

    Parameters
    ----------
    runs : Runs
        As the order was decoded.
    """
    costs = np.array([_late(shop, runs, items, int(item)) for item in order])
    latest = order[np.argsort(-costs, kind="stable")[: min(OF_THE_LATEST, int((costs > 0).sum()))]]
    if not len(latest):
        return ()
    chosen = random.permutation(latest)[:TAKEN_OUT].tolist()
    lines = shop.products["line"][items["product"]]
    for item in chosen[:BESIDE]:
        mine = order[lines[order] == lines[item]]
        at = int(np.flatnonzero(mine == item)[0])
        near = mine[max(0, at - REACH) : at + REACH + 1]
        chosen.append(int(random.choice(near)))
    return tuple(dict.fromkeys(int(item) for item in chosen))


def _late(shop: ShopArrays, runs: Runs, items: Records, item: int) -> float:
    """Packs x minutes that an item is late; to the window's end where it is never made."""
    run, leaves, packs = int(runs.joins[item]), float(items[item]["leaves"]), int(items[item]["packs"])
    ends = shop.window
    if run >= 0:
        product = shop.products[runs.of[run]["product"]]
        last = runs.times[run, int(product["legs"]) - 1]
        ends = float(last["start"] + last["feed"] + product["tail"])
    return packs * max(0.0, ends - leaves)


def inserted_best(
    cost: Callable[[Ints], float], lines: Ints, order: Ints, out: Sequence[int]
) -> tuple[Ints, int]:  # fmt: skip
    """An order with some of its items taken out and put back, each at its best place; how many were tried.

    An item is tried right behind each item of its line, and right before the next: first and last of the places where
    it stands between the same two of its line, which differ in who is served first of what lines share.

    Parameters
    ----------
    lines : array, shape (N,)
        The line of each item.
    cost : callable
        Of an order, which may lack items: those are not made then.
    """
    here, tried = order[~np.isin(order, out)], 0
    for item in out:
        own = np.flatnonzero(lines[here] == lines[item])
        places = sorted({0, len(here), *own.tolist(), *(own + 1).tolist()})
        orders = [np.insert(here, place, item) for place in places]
        costs = [cost(found) for found in orders]
        here, tried = orders[int(np.argmin(costs))], tried + len(orders)
    return here, tried
