"""What a line's runs come to: packs short and late by lorry, ovens that burn empty, people at work at once."""

from collections.abc import Iterable, Iterator
from itertools import pairwise
from math import isnan
from typing import NamedTuple

import numpy as np

from rundgang.core.kinds.conveyor import ConveyorStation, heat_up_min
from rundgang.core.planning.decode.arrays import SAME_MOMENT_MIN
from rundgang.core.planning.decode.lorries import serve
from rundgang.core.planning.decode.ovens import oven_temperatures
from rundgang.core.planning.legs import passings_at
from rundgang.core.planning.lorries import Due, dues_of
from rundgang.core.planning.model import CutRun, LinePlan, Run, WaveOutcome
from rundgang.core.planning.objective import Score, together
from rundgang.core.scenario import Scenario
from rundgang.core.units import GRAMS_PER_KG, MINUTES_PER_HOUR


def outcomes(scenario: Scenario, dues: Iterable[Due], giving: Iterable[Run | CutRun]) -> tuple[WaveOutcome, ...]:
    """What every lorry gets of every product, in the order of what it is due."""
    listed = tuple(dues)
    lots = sorted((lot for lot in scenario.finished if lot.packs), key=lambda lot: lot.made_min)
    runs = sorted(giving, key=lambda run: run.first_pack_min)
    found: dict[tuple[str, str], WaveOutcome] = {}
    for product in dict.fromkeys(due.product for due in listed):
        own = [(lot.made_min, 0.0, lot.packs) for lot in lots if lot.product == product]
        own += [
            (run.first_pack_min, run.last_pack_min - run.first_pack_min, run.packs)
            for run in runs
            if run.product == product
        ]
        own.sort(key=lambda one: one[0])
        wanted = [due for due in listed if due.product == product]
        wanted.sort(key=lambda due: (due.loaded_by_min, due.fresh_from_min))
        outcome = np.empty((len(wanted), 5))
        serve(
            np.array([due.loaded_by_min for due in wanted]),
            np.array([due.packs for due in wanted], dtype=np.int64),
            np.array([due.fresh_from_min for due in wanted]),
            np.array([due.good_from_min for due in wanted]),
            np.array([first for first, _, _ in own]),
            np.array([feed for _, feed, _ in own]),
            np.array([packs for _, _, packs in own], dtype=np.int64),
            float(scenario.window.minutes),
            outcome,
        )
        for due, (short, late_min, stale, ready, never) in zip(wanted, outcome.tolist(), strict=True):
            found[due.wave, product] = WaveOutcome(
                wave=due.wave,
                product=product,
                packs=due.packs,
                fresh_for_h=due.asked_h,
                short=int(short),
                late_pack_hours=late_min / MINUTES_PER_HOUR,
                stale=int(stale),
                never=int(never),
                ready_min=None if isnan(ready) else ready,
            )
    return tuple(found[due.wave, due.product] for due in listed)


def score_of(scenario: Scenario, line_id: str, runs: tuple[Run, ...], cuts: tuple[CutRun, ...], moved: float) -> Score:
    """The parts of a line's runs.

    Parameters
    ----------
    moved : float
        How far its order items are from where they were published, min.
    """
    dues = dues_of(scenario, line_id)
    waves = outcomes(scenario, dues, (*runs, *cuts))
    weights = {(due.wave, due.product): due.weight for due in dues}
    mixed = {p.id for p in scenario.made_on(line_id)} & ({due.product for due in dues} | {run.product for run in runs})
    stock = sum(entry.packs for entry in scenario.finished if entry.product in mixed)
    given = sum(wave.packs - wave.never for wave in waves if wave.product in mixed)
    return Score(
        packs_short=sum(weights[wave.wave, wave.product] * wave.short for wave in waves),
        late_pack_hours=sum(weights[wave.wave, wave.product] * wave.late_pack_hours for wave in waves),
        packs_stale=sum(wave.stale for wave in waves),
        changeover_min=sum(run.changeover_min for run in runs),
        oven_empty_min=oven_empty_min(scenario, runs),
        surplus_packs=sum(run.packs for run in runs) + stock - given,
        filling_left_kg=filling_left_kg(runs),
        crew_peak=crew_peak(scenario, runs),
        moved_min=moved,
        last_pack_min=max((*(run.last_pack_min for run in runs), *(cut.last_pack_min for cut in cuts)), default=0.0),
    )


class EmptyOven(NamedTuple):
    """An oven burns without product before a run enters it: so long, until when, min."""

    station: str
    minutes: float
    until_min: float


def oven_empty_min(scenario: Scenario, runs: Iterable[Run]) -> float:
    """Minutes that a line's ovens burn without product."""
    return sum((empty.minutes for empty in empty_ovens(scenario, runs)), 0.0)


def empty_ovens(scenario: Scenario, runs: Iterable[Run]) -> Iterator[EmptyOven]:
    """When a line's ovens burn without product: hot between two runs, or heated up anew, whichever is less."""
    inside: dict[str, list[tuple[float, float, float]]] = {}
    for run in runs:
        line = scenario.line(run.line)
        ovens = {s.id: s for s in line.stations if isinstance(s, ConveyorStation) and s.heating_c_per_min}
        for passing in passings_at(scenario, run, ovens):
            if passing.product.listed_id == run.product:
                station = ovens[passing.station]
                heat_up = heat_up_min(station, oven_temperatures(passing.product, station))
                stretch = (passing.first_in, passing.last_out, heat_up)
                inside.setdefault(passing.station, []).append(stretch)
    for oven, passed in inside.items():
        passed.sort()
        left = passed[0][1]
        for (_, out, _), (enters, _, heat_up) in pairwise(passed):
            left = max(left, out)
            yield EmptyOven(oven, min(max(enters - left, 0.0), heat_up), enters)


def filling_left_kg(runs: Iterable[Run]) -> float:
    """What is left over of fillings in the end, kg: what their batches are beyond what is put on pieces."""
    made = (filling for run in runs for filling in run.fillings)
    return sum((0 if one.kept else one.grams) - one.used_g for one in made) / GRAMS_PER_KG


def crew_peak(scenario: Scenario, runs: Iterable[Run]) -> float:
    """People at work at once at most, each crew at its own peak, all crews together."""
    changes: dict[str, list[tuple[float, int]]] = {}
    for run in runs:
        needed = {station.id: station.staffed for station in scenario.line(run.line).stations if station.staffed}
        for passing in passings_at(scenario, run, needed):
            use = needed[passing.station]
            shifts = ((passing.first_in, use.people), (passing.last_out - SAME_MOMENT_MIN, -use.people))
            changes.setdefault(use.crew, []).extend(shifts)
    total = 0
    for found in changes.values():
        now = peak = 0
        for _, people in sorted(found):
            now += people
            peak = max(peak, now)
        total += peak
    return float(total)


def plant_score(scenario: Scenario, plans: Iterable[LinePlan]) -> Score:
    """The parts of several lines together; people are counted over all of them."""
    listed = tuple(plans)
    return together((plan.score for plan in listed), crew_peak(scenario, (r for plan in listed for r in plan.runs)))
