"""The check of ripening: what the yeast has done in a trough or a store, summed up minute by minute."""

from collections.abc import Iterator

import numpy as np

from rundgang.core.compiled import Floats
from rundgang.core.kinds.held import HeldStep
from rundgang.core.kinds.ripening import Ripening
from rundgang.core.planning.check.line import Passage
from rundgang.core.planning.check.violation import Violation, fault
from rundgang.core.planning.model import Run
from rundgang.core.scenario import Scenario

LEAST_C, BEST_C, MOST_C = 2.0, 37.0, 46.0
"""Cardinal temperatures of baker's yeast, °C (from memory)."""

STEP_MIN = 0.5
SLACK_DONE_MIN = 0.05
"""What two ways of summing may differ by, minutes at the best temperature."""


def ripening_faults(scenario: Scenario, run: Run, passed: dict[str, Passage]) -> Iterator[Violation]:
    """Every dough and piece that ripens too little or too much."""
    product = scenario.product(run.product)
    for step in product.route:
        if not isinstance(step, HeldStep) or step.ripens is None:
            continue
        name = scenario.line(run.line).station(step.station).name
        stays = [
            (b.divided_min - b.discharged_min - product.mixing.rest_min,
             b.last_piece_min - b.discharged_min - product.mixing.rest_min)
            for b in run.batches
        ]  # fmt: skip
        if step.station in passed:
            at = passed[step.station]
            stays = [tuple(sorted((at.first_out - at.first_in, at.last_out - at.last_in)))]  # type: ignore[list-item]
        for shortest, longest in stays:
            yield from _stay_faults(run, name, step.ripens, product.dough_temperature_c, shortest, longest)


def _stay_faults(
    run: Run, name: str, ripens: Ripening, dough_c: float, shortest: float, longest: float
) -> Iterator[Violation]:
    done = _done(ripens, dough_c, shortest)
    if ripens.least_done_min - done > SLACK_DONE_MIN:
        text = f"has ripened {done:.1f} min of the yeast's best in {shortest:.0f}, needed {ripens.least_done_min:g}"
        yield fault(run.id, name, text)
    done = _done(ripens, dough_c, longest)
    if ripens.most_done_min is not None and done - ripens.most_done_min > SLACK_DONE_MIN:
        text = f"has ripened {done:.1f} min of the yeast's best in {longest:.0f}, allowed {ripens.most_done_min:g}"
        yield fault(run.id, name, text)


def _done(ripens: Ripening, dough_c: float, minutes: float) -> float:
    """The pace of the yeast along the dough's way to the air's temperature, by the rule of the middle of each step."""
    steps = max(1, int(minutes / STEP_MIN))
    each = minutes / steps
    return float(each * _pace(ripens, dough_c, (np.arange(steps, dtype=np.float64) + 0.5) * each).sum())


def _pace(ripens: Ripening, dough_c: float, minute: Floats) -> Floats:
    """L. Rosso, J. R. Lobry and J.-P. Flandrois, 1993: 1 at the best temperature, 0 beyond the least and the most."""
    at = ripens.air_c + (dough_c - ripens.air_c) * np.exp(-ripens.k_per_min * minute)
    over = (at - MOST_C) * (at - LEAST_C) ** 2
    under = (BEST_C - LEAST_C) * (at - BEST_C) - (BEST_C - MOST_C) * (BEST_C + LEAST_C - 2 * at)
    works = (at > LEAST_C) & (at < MOST_C)
    return np.where(works, over / ((BEST_C - LEAST_C) * np.where(works, under, 1.0)), 0.0)
