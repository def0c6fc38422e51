"""How far a search has come, and when it ends."""

from collections.abc import Callable, Mapping
from typing import NamedTuple

from rundgang.core.planning.lorries import OrderItem


class Progress(NamedTuple):
    """How far a search has come.

    Attributes
    ----------
    evaluated, since_better : int
        Orders tried, and how many of them since the last better one.
    cost, bound : float
        Of the best so far, and what every plan costs at least, points.
    """

    evaluated: int
    since_better: int
    cost: float
    bound: float


StopCriterion = Callable[[Progress], bool]
"""Told the progress after every round; True ends the search."""

Arrangement = Mapping[str, tuple[OrderItem, ...]]
"""Order items by group of lines that share something, named by the first line, in order."""

Watcher = Callable[[Progress, Callable[[], Arrangement]], Arrangement | None]
"""Told the progress after every round, and how to get the best order so far; answers with a better one, or none."""


def after_evaluations(most: int, idle: int) -> StopCriterion:
    """Stop after so many orders in all, or so many in a row without a better one."""
    return lambda progress: progress.evaluated >= most or progress.since_better >= idle


def thorough_enough(lines: int) -> StopCriterion:
    """The stop criterion when none is given: the same seed gives the same plan on every machine."""
    return after_evaluations(most=6_000 + 9_000 * lines, idle=2_000 + 4_000 * lines)


PROVING_SHARE, LATER_SHARE, LATER_S, MOST_PROVING_S = 0.1, 0.3, 20.0, 20.0


def proving_time(seconds: float) -> float:
    """How much of so many seconds a search spends on its bound, s: more of what it has beyond the first twenty."""
    early = min(max(0.0, seconds), LATER_S)
    return min(PROVING_SHARE * early + LATER_SHARE * (max(seconds, LATER_S) - LATER_S), MOST_PROVING_S)
