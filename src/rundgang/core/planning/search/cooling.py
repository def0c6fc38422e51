"""How the search cools: epochs, each longer than the one before, in rounds short enough to be watched.

An epoch begins warm and ends cold, so that what is short ends with a good order, and what is long with a better one,
whenever it is stopped. How warm is said as a share of what an order costs above the least that any can cost.
"""

from collections.abc import Iterator
from itertools import count
from typing import NamedTuple

FIRST_EPOCH, SECOND_EPOCH = 20, 500
"""Orders tried by each island: few at first, so that better plans come soon."""

LONG_EPOCH, LONGER, TWICE = 3_000, 1.25, 2.0
"""An epoch is twice as long as the one before; that of a line by itself with few items, behind one so long, so many
times: what one misses, another like it finds more often than one twice as long."""

FEW_ITEMS = 30
"""Of more, a longer epoch finds more than another one."""

LONGEST_ROUND = 1_000

HOT, WARM = 0.1, 0.03
"""As the first epochs of a line by itself begin, and every other later one; and as all the rest do."""

HOT_EPOCHS = 2
"""So many of a search that begins with the rule's order."""

APART_EPOCHS = 4
"""So many are given to lines by themselves before they are searched together."""

FIRST_AROUND, AROUND_EPOCHS = 3, 3
"""After how many epochs of all together each line is searched around the others first, and for how many."""

COOLED = 0.003
"""An epoch ends at this share of the warmth it began with."""


class Round(NamedTuple):
    """So many orders, tried while it cools.

    Attributes
    ----------
    epoch, number : int
        Of the epoch, and of all rounds.
    of_epoch : int
        Orders tried in the whole epoch.
    warm, cold : float
        As it begins and ends, as shares of what an order costs above the bound.
    begins, ends : bool
        Whether it is the first of its epoch, and the last.
    """

    epoch: int
    number: int
    tries: int
    of_epoch: int
    warm: float
    cold: float
    begins: bool
    ends: bool


def rounds(hot_epochs: int, *, by_itself: bool = False, items: int = 0) -> Iterator[Round]:
    """All rounds there can be, without end.

    Parameters
    ----------
    hot_epochs : int
        So many begin hot; of a line by itself every other one after them too.
    by_itself : bool
        Whether it is a line by itself that is searched.
    items : int
        So many are put in order.
    """
    number, length, longer = 0, float(FIRST_EPOCH), LONGER if by_itself and items <= FEW_ITEMS else TWICE
    for epoch in count():
        if epoch == 1:
            length = SECOND_EPOCH
        elif epoch:
            length *= longer if length > LONG_EPOCH else TWICE
        tries = int(length)
        warm, parts = HOT if epoch < hot_epochs or (by_itself and epoch % 2) else WARM, -(-tries // LONGEST_ROUND)
        for part in range(parts):
            begin, end = (warm * COOLED ** (step / parts) for step in (part, part + 1))
            yield Round(epoch, number, tries // parts, tries, begin, end, part == 0, part == parts - 1)
            number += 1
