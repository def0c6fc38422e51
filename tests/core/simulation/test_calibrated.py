"""Odds beside the simulated plant, which shares no code with them: of lorries given so much, as many are complete.

The plant steps without its clock through the demo's plan, a window for each seed. What it is told of its stations is
what is built into it. A sample of what `script/soak` does with 200 windows and more lines.
"""

import os
from collections.abc import Iterator
from datetime import date, timedelta
from math import ceil

from rundgang.core.kinds.parts import Standstill
from rundgang.core.planning.model import LinePlan
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario
from rundgang.core.simulation.line_odds import odds_of
from rundgang.demo.ostermere import ostermere
from rundgang.instruments.simulated.chance import (
    BETWEEN_STOPS_MIN,
    LEAST_BETWEEN_MIN,
    STANDS_MEDIAN_MIN,
    STANDS_SPREAD,
    Chance,
)
from rundgang.instruments.simulated.line import PARCEL_MIN, Passed
from rundgang.instruments.simulated.plant import SimulatedPlant

SOAKED = "SOAK_PLANTS" in os.environ
WINDOWS = 200 if SOAKED else 40
SELDOMER = (1.5, 3.0, 6.0)
LINES = ("ring-line", "bread-line", "biscuit-line") if SOAKED else ("ring-line",)
"""Those without stores: the simulated plant does not know that pieces can stay in one too long."""

GIVEN, COMPLETE = (0.8, 0.9), (0.75, 0.95)
LEAST_LORRIES = 100
ON_TIME_MIN = 0.01
BEGINS_BEFORE_MIN = 720


class Steadier(Chance):
    """What happens by chance where stations stop so many times seldomer."""

    def __init__(self, seed: int, seldomer: float) -> None:
        super().__init__(seed)
        self.seldomer = seldomer

    def between_min(self, line: str, station: str) -> float:
        """A station's mean time between two stops, beyond the least, min."""
        return self.seldomer * super().between_min(line, station)


def known(plant: Scenario, seldomer: float) -> Scenario:
    """The plant, with what is known of how its stations stop."""
    told = plant.model_dump(mode="json", by_alias=True)
    for line in told["plant"]["lines"]:
        for station in line["stations"]:
            if station["kind"] != "batch":
                station["stops_every_min"] = seldomer * BETWEEN_STOPS_MIN + LEAST_BETWEEN_MIN
                station["stands"] = Standstill(median_min=STANDS_MEDIAN_MIN, spread=STANDS_SPREAD).model_dump()
    return Scenario.model_validate(told, strict=False)


def packs_of(plant: Scenario, plan: LinePlan, chance: Chance) -> dict[str, list[float]]:
    """When each pack of each product leaves a window of the simulated plant, from the window's start, min, in order."""
    began = plant.window.starts_at - timedelta(minutes=BEGINS_BEFORE_MIN)
    at_work = SimulatedPlant(began, chance)
    at_work.publish(plant, [plan], began)
    passed, found = at_work.work_of(plan.line).passed, dict[str, list[float]]()
    at = dict.fromkeys(passed, 0)
    for run in sorted(plan.runs, key=lambda one: one.start_min):
        parcels = max(1, ceil(60 * run.pieces / run.scaled_per_h / PARCEL_MIN))
        product = plant.product(run.product)
        for made in (product, *(one for one in (plant.cut_from(product),) if one)):
            last = made.piece_steps[-1].station
            found.setdefault(made.id, []).extend(_left(passed[last], at[last], parcels))
            for step in made.piece_steps:
                at[step.station] += parcels
    return {product: sorted(minutes) for product, minutes in found.items()}


def _left(passed: Passed, first: int, parcels: int) -> Iterator[float]:
    for place in range(first, first + parcels):
        out, before = passed.outs[place], passed.outs[place - 1].total if place else 0
        for number in range(1, out.total - before + 1):
            ran = out.lasts_min * number / (out.total - before)
            yield passed.standing.after(out.from_min, ran) - BEGINS_BEFORE_MIN


def complete(plant: Scenario, plan: LinePlan, packs: dict[str, list[float]]) -> dict[str, bool]:
    """Whether each lorry gets of each product what the plan gives it: the oldest packs that are fresh enough."""
    short = {(one.wave, one.product): one.short for one in plan.waves}
    found = dict[str, bool]()
    for product in {product for _, product in short}:
        there = sorted(
            [
                *packs.get(product, []),
                *(lot.made_min for lot in plant.finished if lot.product == product for _ in range(lot.packs)),
            ]
        )
        for wave in sorted(plant.waves, key=lambda one: one.departs_min):
            wanted = sum(one.packs for one in plant.orders if (one.wave, one.product) == (wave.id, product))
            if not wanted:
                continue
            fresh_h = min(
                [plant.product(product).fresh_for_h or 1e6]
                + [one.fresh_for_h or 1e6 for one in plant.orders if (one.wave, one.product) == (wave.id, product)]
            )
            old = [minute for minute in there if minute < wave.departs_min - 60 * fresh_h - ON_TIME_MIN]
            fresh = there[len(old) :]
            taken, there = fresh[:wanted], old + fresh[wanted:]
            in_time = sum(minute <= wave.loaded_by_min + ON_TIME_MIN for minute in taken)
            found[wave.id] = found.get(wave.id, True) and wanted - in_time <= short[wave.id, product]
    return found


def test_of_lorries_that_are_given_so_much_as_many_are_complete() -> None:
    days = list[bool]()
    for seldomer in SELDOMER:
        plant = known(ostermere(date(2026, 3, 11)), seldomer)
        for line in LINES:
            plan = plan_plant(plant, lines=(line,), stop=after_evaluations(2_000, 2_000)).plans[0]
            given = [one.wave for one in odds_of(plant, plan).lorries if GIVEN[0] <= one.odds <= GIVEN[1]]
            for window in range(WINDOWS if given else 0):
                got = complete(plant, plan, packs_of(plant, plan, Steadier(window, seldomer)))
                days += [got[wave] for wave in given]
    assert len(days) >= LEAST_LORRIES
    assert COMPLETE[0] <= sum(days) / len(days) <= COMPLETE[1], f"{sum(days)} of {len(days)}"
