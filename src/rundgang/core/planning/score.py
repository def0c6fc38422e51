"""What a plan is worth: packs short and late by wave, changeovers, surplus, each at its price."""

from collections.abc import Iterable
from itertools import pairwise
from math import isnan

import numpy as np

from rundgang.core.kinds.conveyor import ConveyorStation
from rundgang.core.planning.headway import stops
from rundgang.core.planning.kernel import OVEN_OFF_AFTER_MIN, serve_lots
from rundgang.core.planning.lorries import Lot
from rundgang.core.planning.model import CutRun, Run, WaveOutcome
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR


def outcomes(scenario: Scenario, lots: tuple[Lot, ...], giving: Iterable[Run | CutRun]) -> tuple[WaveOutcome, ...]:
    """What every wave gets of every product, in the order of the lots (by departure)."""
    stock = {entry.product: entry for entry in scenario.finished if entry.packs}
    runs = sorted(giving, key=lambda run: run.first_pack_min)
    found: dict[tuple[str, str], WaveOutcome] = {}
    for product in dict.fromkeys(lot.product for lot in lots):
        own = [
            (run.first_pack_min, run.last_pack_min - run.first_pack_min, run.packs)
            for run in runs
            if run.product == product
        ]
        if product in stock:
            own.insert(0, (stock[product].made_min, 0.0, stock[product].packs))
        wanted = [lot for lot in lots if lot.product == product]
        outcome = np.empty((len(wanted), 4))
        serve_lots(
            np.array([lot.departs_min for lot in wanted]),
            np.array([lot.packs for lot in wanted], dtype=np.int64),
            np.array([lot.fresh_from_min for lot in wanted]),
            np.array([first for first, _, _ in own]),
            np.array([feed for _, feed, _ in own]),
            np.array([packs for _, _, packs in own], dtype=np.int64),
            outcome,
        )
        for lot, (short, late_minutes, stale, ready) in zip(wanted, outcome.tolist(), strict=True):
            found[lot.wave, product] = WaveOutcome(
                wave=lot.wave,
                product=product,
                packs=lot.packs,
                short=int(short),
                late_pack_hours=late_minutes / MINUTES_PER_HOUR,
                stale=int(stale),
                ready_min=None if isnan(ready) else ready,
            )
    return tuple(found[lot.wave, lot.product] for lot in lots)


def oven_empty_min(scenario: Scenario, runs: Iterable[Run]) -> float:
    """Minutes that the line's ovens stand hot and empty between runs; a longer gap counts as turned down."""
    empty = 0.0
    inside: dict[str, list[tuple[float, float]]] = {}
    for run in runs:
        line = scenario.line(run.line)
        for stop in stops(line, scenario.product(run.product), run.extra_hold_min):
            station = line.station(stop.station)
            if isinstance(station, ConveyorStation) and station.heating_c_per_min:
                enters = run.start_min + stop.offset_min
                inside.setdefault(stop.station, []).append((enters, enters + run.feed_min + stop.dwell_min))
    for passed in inside.values():
        left = passed[0][1]
        for (_, out), (enters, _) in pairwise(passed):
            left = max(left, out)
            empty += min(max(enters - left, 0.0), OVEN_OFF_AFTER_MIN)
    return empty
