"""How sure a line's plan is: each lorry's odds, the packs over time with their bands, what each station's stops cost.

What a station's stops cost is the packs that lorries miss with them less those they miss without, on the same days with
the same dice: so the difference is the station's own.
"""

from collections.abc import Iterator, Sequence
from math import inf, sqrt

import numpy as np

from rundgang.core.compiled import Floats
from rundgang.core.model import Id, Model
from rundgang.core.planning.model import LinePlan
from rundgang.core.scenario import Scenario
from rundgang.core.simulation.chances import chances_of, every_min, is_suggested, piece_stations, stands_of
from rundgang.core.simulation.days import LineDays, days_of
from rundgang.core.simulation.model import Chances, LineModel, model_of
from rundgang.core.simulation.odds import Sure, made_by, sure

DAYS, COST_DAYS, SEED = 1_000, 300, 1
"""So many days are run through; for what each station costs fewer of them."""

POINTS = 72
"""The packs are drawn at so many moments."""

QUANTILES = (0.025, 0.1, 0.25, 0.5, 0.75, 0.9, 0.975)
"""Bands of 95, 80 and 50 of 100 days, and the middle."""

SHORTEST_SHARE, LONGEST_SHARE = 0.1, 0.9
"""Eight of ten stops last from so long to so long."""


class LorryOdds(Model):
    """How sure a lorry is of a product.

    Attributes
    ----------
    planned_short : int
        Packs that it misses by the plan itself.
    odds : float
        On which share of the days it was complete, or missed no more than planned.
    short : float
        Packs that it missed in the mean.
    """

    wave: Id
    product: Id
    packs: int
    loaded_by_min: float
    planned_short: int
    odds: float
    short: float


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
    """

    station: Id
    name: str
    every_min: float
    shortest_min: float
    longest_min: float
    suggested: bool
    packs: float


class CurvePoint(Model):
    """Packs made by a moment: by how many of the days no more, at each of the quantiles; and those owed then."""

    minute: float
    packs: tuple[float, ...]
    owed: int


class LineOdds(Model):
    """How sure a line's plan is.

    Attributes
    ----------
    all_complete : float
        On which share of the days every lorry that the plan fills was complete.
    error : float
        Three standard errors of that.
    """

    line: Id
    days: int
    all_complete: float
    error: float
    lorries: tuple[LorryOdds, ...]
    stations: tuple[StationRisk, ...]
    curve: tuple[CurvePoint, ...]


def odds_of(scenario: Scenario, plan: LinePlan) -> LineOdds:
    """How sure a line's plan is; the same for the same plan, whenever it is asked."""
    chances = chances_of(scenario.line(plan.line))
    model = model_of(scenario, plan, chances)
    days = days_of(model, SEED, 0, DAYS)
    found, planned = sure(scenario, model, days), {(one.wave, one.product): one.short for one in plan.waves}
    filled = [(one.short == 0) for one in found if not planned.get((one.due.wave, one.due.product), 0)]
    complete = float(np.all(filled, axis=0).mean()) if filled else 0.0
    return LineOdds(
        line=plan.line,
        days=DAYS,
        all_complete=complete,
        error=3 * sqrt(complete * (1 - complete) / DAYS),
        lorries=tuple(_lorry(one, planned.get((one.due.wave, one.due.product), 0)) for one in found),
        stations=tuple(sorted(_risks(scenario, plan, chances), key=lambda risk: -risk.packs)),
        curve=tuple(_curve(model, days, found)),
    )


def _lorry(one: Sure, planned_short: int) -> LorryOdds:
    return LorryOdds(
        wave=one.due.wave,
        product=one.due.product,
        packs=one.due.packs,
        loaded_by_min=one.due.loaded_by_min,
        planned_short=planned_short,
        odds=float((one.short <= planned_short).mean()),
        short=float(one.short.mean()),
    )


def _risks(scenario: Scenario, plan: LinePlan, chances: Chances) -> Iterator[StationRisk]:
    with_all = _missed(scenario, plan, chances)
    passed = {step.station for run in plan.runs for step in scenario.product(run.product).piece_steps}
    for station in piece_stations(scenario.line(plan.line)):
        if station.id in passed:
            without = {**chances.stops_every_min, station.id: inf}
            stands = stands_of(station)
            yield StationRisk(
                station=station.id,
                name=station.name,
                every_min=every_min(station),
                shortest_min=stands.shorter_than_min(SHORTEST_SHARE),
                longest_min=stands.shorter_than_min(LONGEST_SHARE),
                suggested=is_suggested(station),
                packs=with_all - _missed(scenario, plan, chances._replace(stops_every_min=without)),
            )


def _missed(scenario: Scenario, plan: LinePlan, chances: Chances) -> float:
    """Packs that lorries miss in the mean."""
    model = model_of(scenario, plan, chances)
    return float(sum(one.short.mean() for one in sure(scenario, model, days_of(model, SEED, 0, COST_DAYS))))


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
