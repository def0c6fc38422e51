"""Moves: one small change of an order, by which the search goes on."""

import numpy as np

from rundgang.core.compiled import Ints, Records, compiled, inner

ELSEWHERE = 0.2
"""So often an item is moved in the whole list, which changes who is served first of what lines share."""

NEAR = 4
"""Half of the moves go no further than so many places."""

MOST_RUNS = 3
"""So many are moved at once at most."""


@compiled
def change(lines: Ints, items: Records, here: Ints, alone: Ints, order: Ints, apart: Ints) -> None:
    """One change: within the sequence of one line, the others' places kept; or one item moved in the whole list.

    Parameters
    ----------
    lines : array, shape (N,)
        The line of each item.
    here, alone : array, shape (N,)
        The order, and the items that begin a run of their own.
    order, apart : array, shape (N,)
        The changed ones, written.
    """
    order[:] = here
    apart[:] = alone
    one = np.random.randint(0, len(here))
    line = lines[here[one]]
    mine = np.flatnonzero(lines[here] == line)
    if len(mine) < len(here) and np.random.random() < ELSEWHERE:
        _move(order, one, 1, np.random.randint(0, len(here)))
        return
    sequence = here[mine]
    _change_line(items, sequence.copy(), alone, sequence, apart, int(np.searchsorted(mine, one)))
    order[mine] = sequence


@compiled
def _change_line(items: Records, here: Ints, alone: Ints, sequence: Ints, apart: Ints, one: int) -> None:
    """Swap, move, move a run or some, join one of the same product, or set a run apart; or together again."""
    count, kind = len(here), np.random.randint(0, 10)
    if kind == 9 or count == 1:
        apart[here[one]] = 1 - alone[here[one]]
        return
    reach = NEAR if np.random.random() < 0.5 else count
    other = one
    while other == one:
        other = min(max(one + np.random.randint(-reach, reach + 1), 0), count - 1)
    if kind <= 2:
        sequence[one], sequence[other] = here[other], here[one]
        return
    length = 1
    if kind >= 6:
        while one > 0 and _is_one_run(items, here, alone, one):
            one -= 1
        runs = 1 if kind < 8 else np.random.randint(2, MOST_RUNS + 1)
        while one + length < count:
            runs -= not _is_one_run(items, here, alone, one + length)
            if not runs:
                break
            length += 1
    elif kind == 5:
        places = np.flatnonzero(items[here].product == items[here[one]].product)
        other = places[np.random.randint(0, len(places))]
        if np.random.random() < 0.5 and other > 0:
            other -= 1
    if one <= other < one + length or length >= count:
        other = 0 if one > 0 else min(one + length, count - 1)
    _move(sequence, one, length, min(other, count - length))


@inner
def _is_one_run(items: Records, here: Ints, alone: Ints, place: int) -> bool:
    """Whether what stands at a place goes on with the run before it."""
    return bool(items[here[place - 1]].product == items[here[place]].product and not alone[here[place]])


@compiled
def _move(order: Ints, one: int, length: int, other: int) -> None:
    """Move so many items from one place to another."""
    moved = order[one : one + length].copy()
    if other > one:
        for step in range(one, other):
            order[step] = order[step + length]
    else:
        for step in range(one - 1, other - 1, -1):
            order[step + length] = order[step]
    order[other : other + length] = moved
