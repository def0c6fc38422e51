"""Mixers, kettles or troughs side by side, each with the stretches of time in which it is taken."""

from bisect import bisect_left, insort
from typing import NamedTuple

SAME_MOMENT_MIN = 1e-9
"""Two times closer than this are the same moment, min."""


class Stretch(NamedTuple):
    """From when to when a unit is taken, and by which product."""

    begin: float
    end: float
    product: str


class Pattern(NamedTuple):
    """The stretches that a run takes in a pool, from its start on.

    Attributes
    ----------
    stretches : tuple of (float, float)
        Beginning, from the run's start, and length of each, in order, min.
    first, last : float
        When the first begins and the last of them ends, from the run's start, min.
    """

    stretches: tuple[tuple[float, float], ...]
    first: float
    last: float


Cleaning = dict[tuple[str, str], float]
"""Minutes of cleaning between two products, first and then; none where a pair is missing."""


class Pool:
    """Units of one kind, and when one of them is free for so long, cleaned before and after.

    A run whose stretches all begin when the whole pool is free again takes its units in turn; that is noted
    and worked out only when a later run must fit in between.

    Parameters
    ----------
    count : int
        Units side by side.
    cleaning : dict
        Minutes between two products in the same unit.
    """

    def __init__(self, count: int, cleaning: Cleaning) -> None:
        self._units: list[list[Stretch]] = [[] for _ in range(count)]
        self._cleaning = cleaning
        self._next = 0
        self._noted: list[tuple[float, Pattern, str]] = []
        self._ends: dict[str, float] = {}

    def ready(self, product: str) -> float:
        """From when on all units are free and clean for a product, min."""
        free = float("-inf")
        for before, end in self._ends.items():
            free = max(free, end + self._cleaning.get((before, product), 0.0))
        return free

    def note(self, start: float, pattern: Pattern, product: str) -> None:
        """Take units in turn for a run all of whose stretches begin after `ready`."""
        self._noted.append((start, pattern, product))
        self._ends[product] = max(self._ends.get(product, float("-inf")), start + pattern.last)

    def settle(self) -> tuple[int, ...]:
        """Work out what was noted; the units taken, in the stretches' order."""
        units: list[int] = []
        for start, pattern, product in self._noted:
            for offset, length in pattern.stretches:
                units.append(self._next)
                self.take(self._next, Stretch(start + offset, start + offset + length, product))
        self._noted.clear()
        return tuple(units)

    def earliest(self, begin: float, length: float, product: str) -> tuple[float, int]:
        """The earliest moment not before `begin` at which a unit is free for so long, and that unit.

        Of several free at once, the one that follows the unit taken last: they take turns. What was noted must
        be settled.
        """
        best, chosen = float("inf"), -1
        count = len(self._units)
        for turn in range(count):
            unit = (self._next + turn) % count
            free = self._free_in(self._units[unit], begin, length, product)
            if free <= begin + SAME_MOMENT_MIN:
                return begin, unit
            if free < best:
                best, chosen = free, unit
        return best, chosen

    def take(self, unit: int, stretch: Stretch) -> None:
        """Take a unit for a stretch."""
        insort(self._units[unit], stretch)
        self._next = (unit + 1) % len(self._units)
        if stretch.end > self._ends.get(stretch.product, float("-inf")):
            self._ends[stretch.product] = stretch.end

    def give_back(self, unit: int, stretch: Stretch) -> None:
        """Undo a `take`; of several, the last first. The pool may seem taken longer than it is, never shorter."""
        taken = self._units[unit]
        del taken[bisect_left(taken, stretch)]
        self._next = unit

    def _free_in(self, taken: list[Stretch], begin: float, length: float, product: str) -> float:
        if not taken or taken[-1].end + self._clean(taken[-1].product, product) <= begin + SAME_MOMENT_MIN:
            return begin
        at = begin
        for place in range(max(0, bisect_left(taken, (begin,)) - 1), len(taken)):
            before = taken[place]
            if at + length + self._clean(product, before.product) <= before.begin + SAME_MOMENT_MIN:
                return at
            if before.end + self._clean(before.product, product) > at + SAME_MOMENT_MIN:
                at = before.end + self._clean(before.product, product)
        return at

    def _clean(self, first: str, then: str) -> float:
        return self._cleaning.get((first, then), 0.0)
