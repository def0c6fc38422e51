"""How sure each lorry is of each product: on how many of the simulated days it was complete.

By the plan's own rule: each lorry takes the oldest packs that are fresh enough for it, the late ones among them; those
which were not there when it was loaded, it is short of.
"""

from itertools import pairwise
from math import inf
from typing import NamedTuple

import numpy as np

from rundgang.core.compiled import Bools, Floats, compiled
from rundgang.core.planning.decode.lorries import ON_TIME_MIN
from rundgang.core.planning.lorries import Due, dues_of
from rundgang.core.scenario import Scenario
from rundgang.core.simulation.days import LineDays
from rundgang.core.simulation.model import LineModel

WHOLE = 1e-6
"""So much of a pack may be lost by adding floats."""


class Sure(NamedTuple):
    """What a lorry got of a product, day by day.

    Attributes
    ----------
    short : float array (days,)
        Packs that were not there when it was loaded.
    """

    due: Due
    short: Floats


class _Packs:
    """A product's packs, day by day, in the order in which they were made: which are still there."""

    def __init__(self, scenario: Scenario, model: LineModel, days: LineDays, product: str) -> None:
        self.model, self.days, self.product = model, days, product
        stock = sorted((lot.made_min, lot.packs) for lot in scenario.finished if lot.product == product)
        self.made_min, self.packs = [made for made, _ in stock], [packs for _, packs in stock]
        ends = np.cumsum([0, *self.packs])
        count = len(days.good)
        self.there = [(np.full(count, float(a)), np.full(count, float(b))) for a, b in pairwise(ends)]
        self.stocked = float(ends[-1])
        self.there.append((np.full(count, self.stocked), self.by(inf)))

    def by(self, minute: float) -> Floats:
        """How many there were by a moment, those in stock included."""
        old = sum(packs for made, packs in zip(self.made_min, self.packs, strict=True) if made <= minute)
        if old < self.stocked:
            return np.full(len(self.days.good), float(old))
        made: Floats = self.stocked + made_by(self.model, self.days, self.product, minute)
        return made

    def short_of(self, due: Due, after_min: float) -> Floats:
        """Take what a lorry is due of; how many were not there in time, or so much later."""
        oldest, loaded = self.by(due.fresh_from_min - 2 * ON_TIME_MIN), self.by(due.loaded_by_min + after_min)
        wanted, short, left = (
            np.full(len(loaded), float(due.packs)),
            np.zeros(len(loaded)),
            list[tuple[Floats, Floats]](),
        )
        for begin, end in self.there:
            first = np.clip(oldest, begin, end)
            last = np.minimum(first + wanted, end)
            short += np.maximum(0.0, last - np.maximum(first, loaded))
            wanted -= last - first
            left += [part for part in ((begin, first), (last, end)) if (part[1] > part[0]).any()]
        self.there = left
        missed: Floats = short + wanted
        return missed


def sure(scenario: Scenario, model: LineModel, days: LineDays, after_min: float = 0.0) -> tuple[Sure, ...]:
    """What each lorry got of each product of a line; or would have got, had it been loaded so much later."""
    dues, made = dues_of(scenario, model.line), dict[str, _Packs]()
    for due in dues:
        if due.product not in made:
            made[due.product] = _Packs(scenario, model, days, due.product)
    return tuple(Sure(due, made[due.product].short_of(due, after_min)) for due in dues)


def made_by(model: LineModel, days: LineDays, product: str, minute: float) -> Floats:
    """Packs of a product that a line has made by a moment, day by day."""
    made = np.zeros(len(days.good))
    for place, (_, given, _packs) in enumerate(model.gives):
        if given == product:
            add_made_at(model, days, place, minute, made)
    return made


def add_made_at(model: LineModel, days: LineDays, place: int, minute: float, made: Floats) -> None:
    """Add, day by day, what one of those that give packs has given by a moment."""
    packs, (first, last) = model.gives[place][2], days.first[place : place + 2]
    if packs:
        _add_made(days.from_min, days.until_min, days.good, first, last, packs, minute + ON_TIME_MIN, made)


@compiled
def _add_made(
    begin: Floats, until: Floats, good: Bools, first: int, last: int, packs: int, minute: float, made: Floats
) -> None:  # fmt: skip
    """Add what a leg's parcels have given by a moment, day by day; they come in order."""
    for day in range(len(made)):
        share = 0.0
        for parcel in range(first, last):
            if begin[day, parcel] >= minute:
                break
            if good[day, parcel]:
                lasts = until[day, parcel] - begin[day, parcel]
                share += 1.0 if until[day, parcel] <= minute else (minute - begin[day, parcel]) / lasts
        made[day] += np.floor(share * packs / (last - first) + WHOLE)
