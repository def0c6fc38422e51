"""How sure a line's plan is: each lorry's odds, the packs over time with their bands, what each station's stops cost.

What a station's stops cost is the packs that lorries miss with them less those they miss without, on the same days with
the same dice: so the difference is the station's own.
"""

from collections.abc import Iterator, Sequence
from itertools import groupby
from math import inf, sqrt
from typing import NamedTuple

import numpy as np

from rundgang.core.compiled import Bools, Floats
from rundgang.core.kinds.parts import Standstill
from rundgang.core.learning.estimates import Estimate, share_of
from rundgang.core.model import Id, Model
from rundgang.core.planning.model import LinePlan
from rundgang.core.scenario import Scenario
from rundgang.core.simulation.chances import (
    CHANGE_SPREAD,
    LATE_MIN,
    PACE_SPREAD,
    chances_of,
    every_min,
    is_suggested,
    stands_of,
)
from rundgang.core.simulation.days import LineDays, days_of
from rundgang.core.simulation.model import LineModel, model_of
from rundgang.core.simulation.odds import Sure, add_made_at, made_by, sure

DAYS, COST_DAYS, SEED = 1_000, 300, 1
"""So many days are run through; for what each station costs fewer of them."""

POINTS = 72
"""The packs are drawn at so many moments."""

QUANTILES = (0.025, 0.1, 0.25, 0.5, 0.75, 0.9, 0.975)
"""Bands of 95, 80 and 50 of 100 days, and the middle."""

SHORTEST_SHARE, LONGEST_SHARE = 0.1, 0.9
"""Eight of ten stops last from so long to so long, and eight of ten runs begin so late."""

LATE_QUANTILE = 0.9
"""A run's last pack is late by no more on so many of the days."""

ERRORS = 3
"""A cost is clear that is so many standard errors from none."""

SURE = 0.95
"""What is less sure is at risk."""


class ProductOdds(Model):
    """How sure a lorry is of a product.

    Attributes
    ----------
    planned_short : int
        Packs that it misses by the plan itself.
    odds : float
        On which share of the days it missed no more than that.
    at_risk : bool
        Whether that is too few of them.
    short : float
        Packs that it missed in the mean.
    """

    product: Id
    packs: int
    planned_short: int
    odds: float
    at_risk: bool
    short: float


class LorryOdds(Model):
    """How sure a lorry is of all that the line owes it.

    Attributes
    ----------
    odds : float
        On which share of the days it missed of no product more than by the plan itself.
    """

    wave: Id
    loaded_by_min: float
    odds: float
    at_risk: bool
    products: tuple[ProductOdds, ...]


class StationRisk(Model):
    """What a station's stops cost.

    Attributes
    ----------
    every_min, shortest_min, longest_min : float
        How often it stops, and how long eight of ten stops last, min.
    suggested : bool
        Whether that is only the usual, for nobody knows.
    packs : float
        Packs that lorries miss because of them, in the mean.
    clear : bool
        Whether that is farther from none than three standard errors.
    """

    station: Id
    name: str
    every_min: float
    shortest_min: float
    longest_min: float
    suggested: bool
    packs: float
    clear: bool


class RunRisk(Model):
    """What a run, or what is cut out of it, is late and loses by chance.

    Attributes
    ----------
    late_min : float
        On nine of ten days its last pack is no later than so long after it was planned, min.
    lost : float
        Packs of it that are spoiled, in the mean.
    missed : float or None
        Packs that the lorries it is made for did not get of it in time, beyond those by the plan itself, in the mean;
        None of what is cut out, which is made for no lorry of its own.
    """

    run: str
    product: Id
    start_min: float
    packs: int
    late_min: float
    lost: float
    missed: float | None


class Suggested(Model):
    """What else is random, the same on every line: suggested, for nobody has counted it.

    Attributes
    ----------
    earliest_min, latest_min : float
        Eight of ten runs begin so late, min.
    pace_pct, change_pct : float
        Two of three paces, and of three settings, are so far at most from what the plan says, %.
    """

    earliest_min: float
    latest_min: float
    pace_pct: float
    change_pct: float


class CurvePoint(Model):
    """Packs made by a moment: by how many of the days no more, at each of the quantiles; and those owed then."""

    minute: float
    packs: tuple[float, ...]
    owed: int


class LineOdds(Model):
    """How sure a line's plan is.

    Attributes
    ----------
    all_complete : Estimate or None
        On which share of the days every lorry that the plan fills was complete; None where it fills none.
    at_risk : bool
        Whether that is too few of them.
    """

    line: Id
    days: int
    all_complete: Estimate | None
    at_risk: bool
    lorries: tuple[LorryOdds, ...]
    stations: tuple[StationRisk, ...]
    runs: tuple[RunRisk, ...]
    suggested: Suggested
    curve: tuple[CurvePoint, ...]


def run_through(scenario: Scenario, plan: LinePlan) -> tuple[LineModel, LineDays]:
    """A line's plan, and all its days by what is known of its stations; with the same dice whatever the plan."""
    model = model_of(scenario, plan, chances_of(scenario.line(plan.line)))
    return model, days_of(model, SEED, 0, DAYS)


def odds_of(scenario: Scenario, plan: LinePlan) -> LineOdds:
    """How sure a line's plan is; the same for the same plan, whenever it is asked."""
    model, days = run_through(scenario, plan)
    found, planned = sure(scenario, model, days), {(one.wave, one.product): one.short for one in plan.waves}
    got = [_Got(one, planned.get((one.due.wave, one.due.product), 0)) for one in found]
    filled = [one.enough for one in got if not one.planned_short]
    complete = share_of(good := int(np.all(filled, axis=0).sum()), DAYS - good) if filled else None
    return LineOdds(
        line=plan.line,
        days=DAYS,
        all_complete=complete,
        at_risk=complete is not None and complete.value < SURE,
        lorries=tuple(_lorries(got)),
        stations=tuple(sorted(_risks(scenario, plan, model), key=lambda risk: -risk.packs)),
        runs=tuple(sorted(_runs(scenario, plan, model, days), key=lambda risk: -(risk.missed or 0.0))),
        suggested=_suggested(),
        curve=tuple(_curve(model, days, found)),
    )


class _Got(NamedTuple):
    """What a lorry got of a product, and what it misses by the plan itself."""

    sure: Sure
    planned_short: int

    @property
    def enough(self) -> Bools:
        """Whether it missed no more, day by day."""
        return self.sure.short <= self.planned_short


def _lorries(got: Sequence[_Got]) -> Iterator[LorryOdds]:
    """Each lorry with its products, in the order in which they are loaded."""

    def lorry(one: _Got) -> tuple[float, str]:
        return one.sure.due.loaded_by_min, one.sure.due.wave

    for (loaded_by_min, wave), there in groupby(sorted(got, key=lorry), lorry):
        of_it = list(there)
        odds = float(np.all([one.enough for one in of_it], axis=0).mean())
        yield LorryOdds(
            wave=wave,
            loaded_by_min=loaded_by_min,
            odds=odds,
            at_risk=odds < SURE,
            products=tuple(
                ProductOdds(
                    product=one.sure.due.product,
                    packs=one.sure.due.packs,
                    planned_short=one.planned_short,
                    odds=float(one.enough.mean()),
                    at_risk=float(one.enough.mean()) < SURE,
                    short=float(one.sure.short.mean()),
                )
                for one in of_it
            ),
        )


def _risks(scenario: Scenario, plan: LinePlan, model: LineModel) -> Iterator[StationRisk]:
    """What the stops of each station cost that the line's products pass."""
    with_all = _missed(scenario, model)
    passed = {step.station for run in plan.runs for step in scenario.product(run.product).piece_steps}
    for place, station in enumerate(scenario.line(plan.line).piece_stations):
        if station.id in passed:
            without, stands = model.chances.copy(), stands_of(station)
            without[place, 0] = inf
            cost = with_all - _missed(scenario, model._replace(chances=without))
            yield StationRisk(
                station=station.id,
                name=station.name,
                every_min=every_min(station),
                shortest_min=stands.shorter_than_min(SHORTEST_SHARE),
                longest_min=stands.shorter_than_min(LONGEST_SHARE),
                suggested=is_suggested(station),
                packs=float(cost.mean()),
                clear=bool(abs(cost.mean()) > ERRORS * cost.std() / sqrt(len(cost))),
            )


def _missed(scenario: Scenario, model: LineModel) -> Floats:
    """Packs that lorries miss, day by day."""
    missed = np.zeros(COST_DAYS)
    for one in sure(scenario, model, days_of(model, SEED, 0, COST_DAYS)):
        missed += one.short
    return missed


def _runs(scenario: Scenario, plan: LinePlan, model: LineModel, days: LineDays) -> Iterator[RunRisk]:
    """What each run is late and loses, beside a day on which nothing is left to chance."""
    planned = days_of(model._replace(chances=np.full_like(model.chances, inf), spreads=np.zeros(4)), SEED, 0, 1)
    loaded = {wave.id: wave.loaded_by_min for wave in scenario.waves}
    runs = {run.id: run for run in plan.runs}
    for place, (leg, product, packs) in enumerate(model.gives):
        run, (first, last) = runs[model.runs[model.legs[leg, 0]]], days.first[place : place + 2]
        missed, wanted, is_own = np.zeros(len(days.good)), 0, product == run.product
        for item in run.items if is_own else ():
            made, by_plan = np.zeros(len(days.good)), np.zeros(1)
            add_made_at(model, days, place, loaded[item.wave], made)
            add_made_at(model, planned, place, loaded[item.wave], by_plan)
            wanted += item.packs
            missed += np.clip(min(wanted, by_plan[0]) - made, 0, item.packs)
        yield RunRisk(
            run=run.id,
            product=product,
            start_min=run.start_min,
            packs=packs,
            late_min=float(np.quantile(days.until_min[:, last - 1], LATE_QUANTILE) - planned.until_min[0, last - 1]),
            lost=packs * float((~days.good[:, first:last]).mean()),
            missed=float(missed.mean()) if is_own else None,
        )


def _suggested() -> Suggested:
    late = Standstill(median_min=LATE_MIN[0], spread=LATE_MIN[1])
    return Suggested(
        earliest_min=late.shorter_than_min(SHORTEST_SHARE),
        latest_min=late.shorter_than_min(LONGEST_SHARE),
        pace_pct=100 * PACE_SPREAD,
        change_pct=100 * CHANGE_SPREAD,
    )


def _curve(model: LineModel, days: LineDays, found: Sequence[Sure]) -> Iterator[CurvePoint]:
    """All packs of the line over time, from its first to the last lorry."""
    if not model.gives:
        return
    products = {product for _, product, _ in model.gives}
    begin = float(days.from_min.min())
    end = max([float(np.quantile(days.until_min[:, -1], 0.9)), *(one.due.loaded_by_min for one in found)])
    for minute in np.linspace(begin, end, POINTS):
        made: Floats = sum((made_by(model, days, product, minute) for product in products), np.zeros(len(days.good)))
        owed = sum(one.due.packs for one in found if one.due.loaded_by_min <= minute)
        yield CurvePoint(minute=float(minute), packs=tuple(np.quantile(made, QUANTILES).tolist()), owed=owed)
