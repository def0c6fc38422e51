"""Beginnings of orders: what is known of each, which are needless, and the most promising first."""

from typing import Any, NamedTuple

import numpy as np

from rundgang.core.compiled import Floats, Ints, inner
from rundgang.core.planning.relaxed.line import RelaxedLine

NOTHING: Any = np.int64(-1)
"""Instead of an item: no more is made."""

ROOT: Any = np.int64(-1)
"""Instead of a beginning: none."""

ZERO: Any = np.int64(0)
JOINED: Any = np.int64(1)
"""Of a type that Numba takes for any whole number: with a bare one it compiles all that takes it twice."""


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


@inner
def chain_of(found: Beginnings, here: int, chain: Ints) -> int:
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
def write_order(found: Beginnings, here: int, chain: Ints, order: Ints) -> None:
    """Write the order that a beginning is, behind as many -1 as items are left out."""
    left_out = len(order) - chain_of(found, here, chain)
    for place in range(len(order)):
        order[place] = NOTHING if place < left_out else found.item[chain[place - left_out]]


@inner
def is_needless(line: RelaxedLine, found: Beginnings, new: int) -> bool:
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
def push(found: Beginnings, waiting: int, new: int) -> int:
    """Put a beginning among those to go on with; how many there are."""
    heap, least, place = found.heap, found.least, waiting
    while place and least[heap[(place - 1) // 2]] > least[new]:
        heap[place] = heap[(place - 1) // 2]
        place = (place - 1) // 2
    heap[place] = new
    return waiting + 1


@inner
def pop(found: Beginnings, waiting: int) -> int:
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
