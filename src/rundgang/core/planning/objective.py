"""The objective: what a plan is judged by, first things first, and how much each part counts.

The one place where a part is named: its field in `Score` and in `Weights`, its order, its cost. The array that the
compiled search takes, and what it answers, are derived from them.
"""

from collections.abc import Iterable
from math import ceil

import numpy as np
from pydantic import Field

from rundgang.core.compiled import Floats
from rundgang.core.model import Model

MOST_WEIGHT = 1_000_000

PROVED_WITHIN = 1e-4
"""A plan so near the bound is the best there is: the bound is made of hundredths of a minute, rounded down."""


class Weights(Model):
    """What each part of a plan's score costs, in points: first things first, and yours to change.

    Attributes
    ----------
    packs_short, late_pack_hours, packs_stale : float
        A pack that misses its lorry; an hour that one pack is late; one thrown away.
    changeover_min, oven_empty_min : float
        A minute that a divider waits at a change; one that a hot oven stands empty.
    surplus_packs : float
        A pack that nobody ordered.
    filling_left_kg : float
        A kilogram of filling or topping that is left over when a run ends.
    crew_peak : float
        One more person at the peak of a crew.
    moved_min : float
        A minute that an order item starts earlier or later than published.
    last_pack_min : float
        A minute until a line's last pack.
    """

    packs_short: float = Field(default=50, ge=0, le=MOST_WEIGHT)
    late_pack_hours: float = Field(default=5, ge=0, le=MOST_WEIGHT)
    packs_stale: float = Field(default=20, ge=0, le=MOST_WEIGHT)
    changeover_min: float = Field(default=2, ge=0, le=MOST_WEIGHT)
    oven_empty_min: float = Field(default=0.5, ge=0, le=MOST_WEIGHT)
    surplus_packs: float = Field(default=0.2, ge=0, le=MOST_WEIGHT)
    filling_left_kg: float = Field(default=1, ge=0, le=MOST_WEIGHT)
    crew_peak: float = Field(default=1, ge=0, le=MOST_WEIGHT)
    moved_min: float = Field(default=0.05, ge=0, le=MOST_WEIGHT)
    last_pack_min: float = Field(default=0.001, ge=0, le=MOST_WEIGHT)


PARTS = tuple(Weights.model_fields)
"""The parts by name, in order."""


class Score(Model):
    """The parts a plan is judged by, each under the name of its weight.

    The surplus counts what is mixed for itself; what is cut out follows its parent and is none.

    Attributes
    ----------
    packs_short, late_pack_hours : float
        As they count: a pack of an order with a priority counts so many times.
    crew_peak : float
        People at work at once at most, all crews together, each at its own peak.
    moved_min : float
        How far the order items' starts are from those published, min.
    last_pack_min : float
        When the last pack comes; of several lines, their times added up.
    """

    packs_short: float
    late_pack_hours: float
    packs_stale: float = 0
    changeover_min: float
    oven_empty_min: float = 0
    surplus_packs: float
    filling_left_kg: float = 0
    crew_peak: float = 0
    moved_min: float = 0
    last_pack_min: float

    def cost(self, weights: Weights) -> float:
        """All parts times their weights, points."""
        return float(sum(getattr(weights, part) * getattr(self, part) for part in PARTS))


def how_near(cost: float, bound: float) -> str:
    """How far a plan is from the best that is possible, in words; "" where nothing is known.

    Parameters
    ----------
    cost, bound : float
        Of the plan, and what every plan costs at least, points.
    """
    if cost <= bound * (1 + PROVED_WITHIN) + PROVED_WITHIN:
        return "no plan is better"
    if bound <= 0:
        return ""
    above = cost / bound - 1
    return (
        f"within {ceil(100 * above):,} % of the best possible" if above < 1 else f"best possible {bound:,.0f} or more"
    )


OFF_PIN = len(PARTS)
"""Behind the parts, in what the compiled search counts: minutes off what the planner has pinned."""

PIN_WEIGHT = 1e6
"""What a minute off a pin costs in a search, points: more than any plan is worth."""


def weight_array(weights: Weights) -> Floats:
    """The weights in the order of the parts, and that of a minute off a pin behind them."""
    return np.array([*(getattr(weights, part) for part in PARTS), PIN_WEIGHT])


def together(scores: Iterable[Score], crew_peak: float) -> Score:
    """The scores of several lines as one; people are counted over all of them."""
    found = tuple(scores)
    summed = {part: sum(getattr(score, part) for score in found) for part in PARTS}
    return Score(**summed | {"crew_peak": crew_peak})
