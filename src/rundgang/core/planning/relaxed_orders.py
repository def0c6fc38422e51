"""All orders of a line's items in the relaxation, the most promising first: what no order of them costs less than.

A best-first branch and bound (P. E. Hart, N. J. Nilsson and B. Raphael, IEEE Transactions on Systems Science and
Cybernetics 4, 1968): the beginning that could still become the cheapest is gone on with first, so what it could cost is
a bound whenever the search is stopped. Of two beginnings with the same items and the same product last, the one that
ends no later, costs no more and has made no less for any lorry makes the other needless.

Where all products pass one store, a retarder or a rack room, no more stands in it than it holds, so the divider must
wait, and waiting is white time. An item waits since the one before it ended; what it waits to be fresh, or for the end
of a closing, is no change and costs nothing. An item that begins later than it must saves no more white time behind it
than it costs before it: so each begins as early as it can.
"""

from typing import Any, NamedTuple

import numpy as np

from rundgang.core.compiled import Floats, Ints, compiled, inner
from rundgang.core.planning.decode.lorries import ON_TIME_MIN

SLICES = 16
"""A run fills and empties its store bit by bit: it is counted in so many parts, each from when all of it is in."""

MOST_ITEMS = 62
"""What has been used is a whole number, a bit for each item."""

ALIKE = 1e-6

NOTHING: Any = np.int64(-1)
"""Instead of an item: no more is made."""

ROOT: Any = np.int64(-1)
"""Instead of a beginning: none."""

ZERO: Any = np.int64(0)
JOINED: Any = np.int64(1)
"""Of a type that Numba takes for any whole number: with a bare one it compiles all that takes it twice."""


class RelaxedStore(NamedTuple):
    """What is known of the items that pass a store, each array by item; times in minutes.

    Attributes
    ----------
    is_there : int
        1 where they do; else the rest says nothing.
    span, slack : array
        From the start of the first leg to that of the second at the least hold, and most beyond it.
    fresh_in : array
        Earliest start of the second leg, for the first pack to be fresh.
    enters, leaves : array
        From the start of the first leg to entering the store; from leaving it to the start of the second leg.
    fills, empties : array
        How long the pieces made for it take to come in at most, and to leave at least.
    share : array
        Of the store, that it fills at least.
    most_feed : array
        How long it feeds the divider at most.
    apart : array, shape (P, P)
        From the end of one product's second leg to the start of another's at least.
    costless : array, shape (N, N)
        Until when an item may wait at no cost, alone and made as one run with another; -inf where it cannot be one.
    opens : array
        Until when it may wait at no cost as the first of all.
    allowance : float
        What closings may make wait at no cost.
    """

    is_there: int
    span: Floats
    slack: Floats
    fresh_in: Floats
    enters: Floats
    leaves: Floats
    fills: Floats
    empties: Floats
    share: Floats
    most_feed: Floats
    apart: Floats
    costless: Floats
    opens: Floats
    allowance: float


class RelaxedLine(NamedTuple):
    """A line's items, the changes between its products and its lorries; N items, P products, D demands of lorries.

    Attributes
    ----------
    product : array, shape (N,)
        The product of each item.
    wanted, feed, release, shortest, gives, min_a_pack : array, shape (N,)
        Packs; feeding time at least; earliest start; to the first pack at least, from the start, and from that of the
        last leg; time that a pack takes there, min.
    gap, oven : array, shape (P, P)
        White time between two products at least, min, and what the oven that burns empty costs, points.
    bit : array, shape (P,)
        Which of the line's products each is; -1 of those that are too many.
    onward : array, shape (subsets, P)
        What it costs at least to go on from a product through a subset of the line's, points.
    due : array, shape (D,)
        The product of each demand, all of one product together, by time.
    by, demand, packs, short_costs : array, shape (D,)
        Until when packs can be loaded, min; packs made by then at least that serve it and those before it; its own
        packs; what one that is short costs, points.
    white_costs, last_costs : float
        A minute of white time, and one until the last pack, points.
    window : float
        min.
    """

    product: Ints
    wanted: Floats
    feed: Floats
    release: Floats
    shortest: Floats
    gives: Floats
    min_a_pack: Floats
    gap: Floats
    oven: Floats
    bit: Ints
    onward: Floats
    due: Ints
    by: Floats
    demand: Floats
    packs: Floats
    short_costs: Floats
    white_costs: float
    last_costs: float
    window: float
    store: RelaxedStore


class Beginnings(NamedTuple):
    """Beginnings of orders, each by the one it goes on from and its last item.

    Attributes
    ----------
    before, item : array, shape (most,)
    used : array, shape (most,)
        A bit for each item in it.
    joins : array, shape (most,)
        1 where its last item is one run with the next.
    start, behind, ends : array, shape (most,)
        When its last item begins, when its last leg does, and when it has been fed, min.
    least, oven : array, shape (most,)
        What it costs at least with all that follows, and so far for ovens that burn empty, points; infinite where the
        beginning is needless.
    idle, white : array, shape (most,)
        Changes, and white time less what could be waited later at no cost, min.
    made : array, shape (most, D)
        Packs made for each demand and those before it.
    alike : array, shape (most,)
        The one found before with the same items and the same product last.
    table : array
        The last found of those, by a hash of these.
    heap : array, shape (most,)
        Those to go on with, the most promising first.
    """

    before: Ints
    item: Ints
    used: Ints
    joins: Ints
    start: Floats
    behind: Floats
    ends: Floats
    least: Floats
    oven: Floats
    idle: Floats
    white: Floats
    made: Floats
    alike: Ints
    table: Ints
    heap: Ints


def room_for(most: int, demands: int) -> Beginnings:
    """Room for so many beginnings."""
    whole, times = [np.empty(most, np.int64) for _ in range(6)], [np.empty(most) for _ in range(7)]
    before, item, used, joins, alike, heap = whole
    start, behind, ends, least, oven, idle, white = times
    table = np.full(2 * most + 1, ROOT, np.int64)
    return Beginnings(
        before, item, used, joins, start, behind, ends, least, oven, idle, white,
        np.empty((most, demands)), alike, table, heap,
    )  # fmt: skip


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
        depth = _chain(found, here, chain)
        for choice in range(-1, 2 * count):
            if many == most:
                return least, many
            item, joins = (choice // 2, choice % 2) if choice >= 0 else (NOTHING, ZERO)
            if not _can_follow(line, found, here, item, joins):
                continue
            found.before[many], found.item[many], found.joins[many] = here, item, joins
            if item == NOTHING:
                found.start[many], found.oven[many] = 0.0, 0.0
                costs = _whole(line, found, here)
            else:
                _follow(line, found, here, chain, depth, many)
                costs = _at_least(line, found, many)
            found.least[many] = max(least, costs)
            if costs >= known or found.start[many] > line.window:
                continue
            if item != NOTHING and not line.store.is_there and _is_needless(line, found, many):
                continue
            waiting = _push(found, waiting, many)
            many += 1
        here = ROOT
        while waiting and here == ROOT:
            here = _pop(found, waiting)
            waiting -= 1
            if found.oven[here] == np.inf:
                here = ROOT
        if here == ROOT:
            return known, many
        least = max(least, found.least[here])
        if found.item[here] == NOTHING:
            _write(found, found.before[here], chain, order)
            return least, many


@inner
def _chain(found: Beginnings, here: int, chain: Ints) -> int:
    """Write the beginnings from the first item to the last; how many there are."""
    depth, place = ZERO, here
    while place != ROOT:
        depth, place = depth + 1, found.before[place]
    place = here
    for at in range(depth - 1, -1, -1):
        chain[at] = place
        place = found.before[place]
    return int(depth)


@inner
def _write(found: Beginnings, here: int, chain: Ints, order: Ints) -> None:
    """Write the order that a beginning is, behind as many -1 as items are left out."""
    left_out = len(order) - _chain(found, here, chain)
    for place in range(len(order)):
        order[place] = NOTHING if place < left_out else found.item[chain[place - left_out]]


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
            since = max(since, _costless(line, item, used, joins))
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
            parts = min(SLICES, int((1.0 + ALIKE - full) / max(store.share[other] / SLICES, ALIKE)))
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


@inner
def _costless(line: RelaxedLine, item: int, used: int, joins: int) -> float:
    """Until when an item may wait at no cost, by itself or, `joins`, as one run with another, min."""
    until = line.store.costless[item, item]
    for other in range(len(line.product)):
        if joins and not used >> other & 1:
            until = max(until, line.store.costless[item, other])
    return float(until)


@inner
def _white(line: RelaxedLine, found: Beginnings, here: int, saved: float) -> float:
    """What ovens and changes cost, or the white time that could not be saved, points."""
    white = max(found.idle[here], found.white[here] - saved) if line.store.is_there else found.idle[here]
    return float(found.oven[here] + line.white_costs * white)


@inner
def _whole(line: RelaxedLine, found: Beginnings, here: int) -> float:
    """What an order costs that is no more than a beginning, points."""
    costs = 0.0
    if here != ROOT:
        last = found.ends[here] + line.shortest[found.item[here]]
        costs = _white(line, found, here, line.store.allowance) + line.last_costs * last
    for due in range(len(line.due)):
        costs += _costs_short(line, due, line.demand[due] - (found.made[here, due] if here != ROOT else 0.0))
    return float(costs)


@inner
def _costs_short(line: RelaxedLine, due: int, lacks: float) -> float:
    """What packs cost that are not made in time for a demand and those before it, points."""
    return float(line.short_costs[due] * min(max(np.ceil(lacks - ALIKE), 0.0), line.packs[due]))


@inner
def _at_least(line: RelaxedLine, found: Beginnings, here: int) -> float:
    """What every order costs at least that begins so, points."""
    used, at, store, saved = found.used[here], found.ends[here], line.store, line.store.allowance
    last = line.product[found.item[here]]
    for item in range(len(line.product)):
        if store.is_there and (item == found.item[here] or not used >> item & 1):
            saved += store.most_feed[item] - line.feed[item]
        if store.is_there and not used >> item & 1:
            saved += max(0.0, _costless(line, item, used, JOINED) - max(at, line.release[item]))
    short = max(_short_alone(line, found.made[here], used, at, last), _short_together(line, found.made[here], used, at))
    onward = _onward(line, found.made[here], used, last, short)
    return float(_white(line, found, here, saved) + short + onward + line.last_costs * at)


@inner
def _short_alone(line: RelaxedLine, made: Floats, used: int, at: float, last: int) -> float:
    """What is short at least if each product had the line for itself from now on, points."""
    total, begin = 0.0, 0
    while begin < len(line.due):
        p, end, left, pace, start, way = line.due[begin], begin, 0.0, np.inf, np.inf, np.inf
        for item in range(len(line.product)):
            if line.product[item] == p and not used >> item & 1:
                left += line.wanted[item]
                pace, start = min(pace, line.min_a_pack[item]), min(start, line.release[item])
                way = min(way, line.shortest[item])
        start = max(start, at + line.gap[last, p])
        while end < len(line.due) and line.due[end] == p:
            minutes = line.by[end] + ON_TIME_MIN - way - start
            could = min(left, max(0.0, minutes / pace)) if left > 0 else 0.0
            total += _costs_short(line, end, line.demand[end] - made[end] - could)
            end += 1
        begin = end
    return total


@inner
def _short_together(line: RelaxedLine, made: Floats, used: int, at: float) -> float:
    """What is short at least of all that some lorry and those before it still want, fed one after another, points."""
    over, slowest, least, soonest = 0.0, 0.0, np.inf, np.inf
    for item in range(len(line.product)):
        if not used >> item & 1:
            soonest = min(soonest, max(at, line.release[item]) + line.shortest[item])
            slowest = max(slowest, line.min_a_pack[item])
    if soonest == np.inf:
        return 0.0
    for one in range(len(line.due)):
        needed, begin, least = 0.0, 0, min(least, line.short_costs[one])
        while begin < len(line.due):
            p, end, lacks, pace, left = line.due[begin], begin, 0.0, np.inf, 0.0
            while end < len(line.due) and line.due[end] == p:
                if line.by[end] <= line.by[one]:
                    lacks = max(lacks, line.demand[end] - made[end])
                end += 1
            for item in range(len(line.product)):
                if line.product[item] == p and not used >> item & 1:
                    pace, left = min(pace, line.min_a_pack[item]), left + line.wanted[item]
            needed += min(lacks, left) * (pace if left > 0 else 0.0)
            begin = end
        over = max(over, needed - max(0.0, line.by[one] + ON_TIME_MIN - soonest))
    return float(least * np.ceil(over / slowest - ALIKE)) if over > 0 else 0.0


@inner
def _onward(line: RelaxedLine, made: Floats, used: int, last: int, short: float) -> float:
    """What the changes to the products still to be made cost at least, or leaving one of them out, points."""
    subset, leaving_out, begin = 0, np.inf, 0
    for item in range(len(line.product)):
        p = line.product[item]
        if not used >> item & 1 and p != last and line.bit[p] >= 0:
            subset |= 1 << line.bit[p]
    while begin < len(line.due):
        p, end, costs = line.due[begin], begin, np.inf
        while end < len(line.due) and line.due[end] == p:
            costs, lacks = min(costs, line.short_costs[end]), line.demand[end] - made[end]
            end += 1
        if line.bit[p] >= 0 and subset >> line.bit[p] & 1:
            if lacks > 0:
                leaving_out = min(leaving_out, max(0.0, costs * lacks - short))
            else:
                subset &= ~(1 << line.bit[p])
        begin = end
    return float(min(line.onward[subset, last], leaving_out)) if subset else 0.0


@inner
def _is_needless(line: RelaxedLine, found: Beginnings, new: int) -> bool:
    """Whether there is a beginning as good; else it is noted, and those that it makes needless are given up."""
    used, last, size = found.used[new], line.product[found.item[new]], len(found.table)
    slot = int((used * 31 + last) % size)
    while found.table[slot] != ROOT:
        other = found.table[slot]
        if found.used[other] == used and line.product[found.item[other]] == last:
            break
        slot = (slot + 1) % size
    other = found.table[slot]
    while other != ROOT:
        if _is_no_worse(found, other, new):
            return True
        if _is_no_worse(found, new, other):
            found.oven[other] = np.inf
        other = found.alike[other]
    found.alike[new], found.table[slot] = found.table[slot], new
    return False


@inner
def _is_no_worse(found: Beginnings, one: int, other: int) -> bool:
    """Whether one beginning is as good as another, and is not given up itself."""
    if (
        found.ends[one] > found.ends[other]
        or found.oven[one] > found.oven[other]
        or found.idle[one] > found.idle[other]
    ):
        return False
    fewer = 0
    for due in range(found.made.shape[1]):
        fewer += found.made[one, due] < found.made[other, due]
    return fewer == 0


@inner
def _push(found: Beginnings, waiting: int, new: int) -> int:
    """Put a beginning among those to go on with; how many there are."""
    heap, least, place = found.heap, found.least, waiting
    while place and least[heap[(place - 1) // 2]] > least[new]:
        heap[place] = heap[(place - 1) // 2]
        place = (place - 1) // 2
    heap[place] = new
    return waiting + 1


@inner
def _pop(found: Beginnings, waiting: int) -> int:
    """Take the most promising of so many."""
    heap, least = found.heap, found.least
    first, moved, place = heap[0], heap[waiting - 1], 0
    while 2 * place + 1 < waiting - 1:
        child = 2 * place + 1
        if child + 1 < waiting - 1 and least[heap[child + 1]] < least[heap[child]]:
            child += 1
        if least[heap[child]] >= least[moved]:
            break
        heap[place] = heap[child]
        place = child
    heap[place] = moved
    return int(first)
