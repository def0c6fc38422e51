"""All orders of a line's items in the relaxation, the most promising first: what no order of them costs less than.

A best-first branch and bound (P. E. Hart, N. J. Nilsson and B. Raphael, IEEE Transactions on Systems Science and
Cybernetics 4, 1968): the beginning that could still become the cheapest is gone on with first, so what it could cost is
a bound whenever the search is stopped. Of two beginnings with the same items and the same product last, the one that
ends no later, costs no more and has made no less for any lorry makes the other needless.

An item that begins later than it must saves no more white time behind it than it costs before it: so each begins as
early as it can.
"""

from collections.abc import Sequence

import numpy as np

from rundgang.core.compiled import Ints, compiled, inner
from rundgang.core.planning.bound import LineBound
from rundgang.core.planning.decode.lorries import ON_TIME_MIN
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.lorries import OrderItem
from rundgang.core.planning.objective import Weights
from rundgang.core.planning.relaxed.beginnings import (
    NOTHING,
    ROOT,
    ZERO,
    Beginnings,
    chain_of,
    is_needless,
    pop,
    push,
    room_for,
    write_order,
)
from rundgang.core.planning.relaxed.items import RelaxedItems
from rundgang.core.planning.relaxed.least import at_least, costless, whole
from rundgang.core.planning.relaxed.line import RelaxedLine, relaxed_line
from rundgang.core.planning.relaxed.stale import stale_floor

SLICES = 16
"""A run fills and empties its store bit by bit: it is counted in so many parts, each from when all of it is in."""

MOST_ITEMS = 62
"""What has been used is a whole number, a bit for each item."""

ROUNDED = 1e-6
"""Of a store."""

UNKNOWN = -2
"""In an order that is not known."""


def relaxed_bound(
    shop: Shop, listed: Sequence[OrderItem], weights: Weights, most: int, known_cost: float
) -> LineBound:  # fmt: skip
    """Prove what the items of a line cost at least, whatever their order and wherever a run waits.

    Parameters
    ----------
    shop : Shop
        Of the line alone, on which nothing has begun.
    most : int
        Beginnings of orders to look at; with more the bound is higher, until the cheapest order is reached.
    known_cost : float
        What the plan of some order costs, points.
    """
    if len(listed) > MOST_ITEMS:
        return LineBound(0.0, None)
    items = RelaxedItems(shop, listed)
    line, stale = relaxed_line(shop, listed, items, weights), stale_floor(shop, listed, items, weights, known_cost)
    order = np.full(len(listed), UNKNOWN, dtype=np.int64)
    least, _ = cheapest(line, room_for(most, len(line.due)), known_cost - stale, order)
    if order[0] == UNKNOWN:
        return LineBound(least + stale, None)
    made = order[order >= 0]
    left_out = np.setdiff1d(np.arange(len(listed)), made)
    return LineBound(least + stale, np.concatenate([made, left_out]))


@compiled
def cheapest(line: RelaxedLine, found: Beginnings, known: float, order: Ints) -> tuple[float, int]:
    """Go through all orders of a line's items, the most promising first, as far as there is room for beginnings.

    Parameters
    ----------
    found : Beginnings
        Room for them, written.
    known : float
        What an order costs that is known, points: beginnings that cost as much are left.
    order : array, shape (N,)
        The cheapest order found, before it as many -1 as items are left out; written if there is one.

    Returns
    -------
    tuple
        What every order costs at least, points; and how many beginnings were looked at.
    """
    count, most = len(line.product), len(found.item)
    chain = np.empty(count, np.int64)
    many, waiting, least, here = ZERO, ZERO, 0.0, ROOT
    while True:
        depth = chain_of(found, here, chain)
        for choice in range(-1, 2 * count):
            if many == most:
                return least, many
            item, joins = (choice // 2, choice % 2) if choice >= 0 else (NOTHING, ZERO)
            if not _can_follow(line, found, here, item, joins):
                continue
            found.before[many], found.item[many], found.joins[many] = here, item, joins
            if item == NOTHING:
                found.start[many], found.oven[many] = 0.0, 0.0
                costs = whole(line, found, here)
            else:
                _follow(line, found, here, chain, depth, many)
                costs = at_least(line, found, many)
            found.least[many] = max(least, costs)
            if costs >= known or found.start[many] > line.window:
                continue
            if item != NOTHING and not line.store.is_there and is_needless(line, found, many):
                continue
            waiting = push(found, waiting, many)
            many += 1
        here = ROOT
        while waiting and here == ROOT:
            here = pop(found, waiting)
            waiting -= 1
            if found.oven[here] == np.inf:
                here = ROOT
        if here == ROOT:
            return known, many
        least = max(least, found.least[here])
        if found.item[here] == NOTHING:
            write_order(found, found.before[here], chain, order)
            return least, many


@inner
def _can_follow(line: RelaxedLine, found: Beginnings, here: int, item: int, joins: int) -> bool:
    """Whether an item can follow a beginning, or nothing; and, `joins`, be one run with what follows it."""
    used = found.used[here] if here != ROOT else ZERO
    in_run = here != ROOT and found.joins[here] == 1
    if item == NOTHING:
        return not in_run
    if used >> item & 1 or (in_run and line.store.costless[found.item[here], item] == -np.inf):
        return False
    if not joins:
        return True
    for other in range(len(line.product)):
        if (
            line.store.is_there
            and other != item
            and not used >> other & 1
            and line.store.costless[item, other] > -np.inf
        ):
            return True
    return False


@inner
def _follow(line: RelaxedLine, found: Beginnings, here: int, chain: Ints, depth: int, new: int) -> None:
    """Let an item follow a beginning as early as it can."""
    item, joins, store = found.item[new], found.joins[new], line.store
    p, used, gap, oven, idle, white = line.product[item], ZERO, 0.0, 0.0, 0.0, 0.0
    at, since = line.release[item], store.opens[item]
    if here != ROOT:
        last = line.product[found.item[here]]
        used, gap = found.used[here], line.gap[last, p]
        oven, idle, white = found.oven[here] + line.oven[last, p], found.idle[here] + gap, found.white[here] + gap
        at, since = max(at, found.ends[here] + gap), found.start[here] + store.most_feed[found.item[here]] + gap
    behind = at
    if store.is_there:
        at, behind = _held(line, found, chain, depth, item, used, joins, at)
        if here == ROOT or not found.joins[here]:
            since = max(since, costless(line, item, used, joins))
        white += at - since
    for due in range(len(line.due)):
        found.made[new, due] = found.made[here, due] if here != ROOT else 0.0
        if line.due[due] == p:
            minutes = line.by[due] + ON_TIME_MIN - line.gives[item] - behind
            found.made[new, due] += min(line.wanted[item], max(0.0, minutes / line.min_a_pack[item]))
    found.used[new] = used | 1 << item
    found.start[new], found.behind[new], found.ends[new] = at, behind, at + line.feed[item]
    found.oven[new], found.idle[new], found.white[new] = oven, idle, white


@inner
def _held(
    line: RelaxedLine, found: Beginnings, chain: Ints, depth: int, item: int, used: int, joins: int, at: float
) -> tuple[float, float]:  # fmt: skip
    """The earliest starts of an item's two legs, min: where the store has room, and its packs are fresh."""
    store, fresh = line.store, line.store.fresh_in[item]
    for part in range(SLICES):
        full = store.share[item] * (part + 1) / SLICES
        for place in range(depth - 1, -1, -1):
            other = found.item[chain[place]]
            parts = min(SLICES, max(0, int((1.0 + ROUNDED - full) / max(store.share[other] / SLICES, ROUNDED))))
            full += store.share[other] * parts / SLICES
            if parts < SLICES:
                left = found.behind[chain[place]] - store.leaves[other]
                left += store.empties[other] * (SLICES - 1 - parts) / SLICES
                at = max(at, left - store.enters[item] - store.fills[item] * (part + 1) / SLICES)
                break
    if joins:
        soonest = np.inf
        for other in range(len(line.product)):
            if other != item and not used >> other & 1 and store.costless[item, other] > -np.inf:
                soonest = min(soonest, store.fresh_in[other])
        fresh = max(fresh, soonest)
    at = max(at, fresh - store.span[item] - store.slack[item])
    behind = max(at + store.span[item], fresh)
    if depth:
        other = found.item[chain[depth - 1]]
        apart = store.empties[other] + store.apart[line.product[other], line.product[item]]
        behind = max(behind, found.behind[chain[depth - 1]] + apart)
    return at, behind
