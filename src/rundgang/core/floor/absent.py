"""Packs that are there and may not be loaded: to the plan they are absent, until somebody releases them.

Those of a run that has begun are packs which that run does not give; all others are packs that do not lie in stock.
"""

from collections.abc import Iterable, Sequence
from typing import NamedTuple

from rundgang.core.model import Id, Model
from rundgang.core.opening import Gives
from rundgang.core.orders import FinishedStock
from rundgang.core.planning.model import LinePlan, Run
from rundgang.core.scenario import Scenario


class PacksThere(NamedTuple):
    """Packs of a lot: of a run, or of nobody knows which; made when, min from the window's start."""

    product: str
    packs: int
    made_min: float
    line: str | None = None
    run: str | None = None


class LorryCost(Model):
    """What a lorry misses of a product before and after something happened."""

    wave: Id
    product: Id
    short_before: int
    short: int


def held_back(scenario: Scenario, packs: Iterable[PacksThere]) -> Scenario:
    """The scenario at a moment without some packs.

    Parameters
    ----------
    scenario : Scenario
        With what has begun.
    """
    for one in packs:
        run = _run_of(scenario, one)
        if run is None:
            scenario = scenario.changed(finished=_less(scenario.finished, one))
        else:
            scenario = _giving(scenario, run, max(0, run.packs - one.packs))
    return scenario


def put_back(scenario: Scenario, packs: Iterable[PacksThere]) -> Scenario:
    """The scenario at a moment with some packs again that were held back."""
    for one in packs:
        run = _run_of(scenario, one)
        if run is None:
            lot = FinishedStock(product=one.product, packs=one.packs, made_min=one.made_min)
            scenario = scenario.changed(finished=(*scenario.finished, lot))
        else:
            scenario = _giving(scenario, run, run.packs + one.packs)
    return scenario


def _run_of(scenario: Scenario, one: PacksThere) -> Run | None:
    """The begun run that has made packs; None where none has, or they were cut out of its pieces."""
    begun = (run for run in scenario.opening.begun if (run.line, run.id) == (one.line, one.run))
    return next((run for run in begun if run.product == one.product), None)


def _giving(scenario: Scenario, run: Run, packs: int) -> Scenario:
    """The scenario with a begun run that gives so many packs."""
    opening = scenario.opening
    others = tuple(one for one in opening.gives if (one.line, one.run) != (run.line, run.id))
    begun = tuple(run.with_packs(packs) if one is run else one for one in opening.begun)
    gives = (*others, Gives(line=run.line, run=run.id, packs=packs))
    return scenario.changed(opening=opening.model_copy(update={"begun": begun, "gives": gives}))


def _less(lots: Sequence[FinishedStock], one: PacksThere) -> tuple[FinishedStock, ...]:
    """Packs in stock without some: of those made nearest to when these were."""
    own = sorted((lot for lot in lots if lot.product == one.product), key=lambda lot: abs(lot.made_min - one.made_min))
    left, kept = one.packs, {id(lot): lot.packs for lot in lots}
    for lot in own:
        taken = min(left, lot.packs)
        left -= taken
        kept[id(lot)] -= taken
    return tuple(lot.model_copy(update={"packs": kept[id(lot)]}) for lot in lots if kept[id(lot)])


def costs(before: Iterable[LinePlan], after: Iterable[LinePlan]) -> tuple[LorryCost, ...]:
    """What lorries miss more, or less, by one plan than by another, those that miss most more first."""
    was = {(wave.wave, wave.product): wave.short for plan in before for wave in plan.waves}
    now = {(wave.wave, wave.product): wave.short for plan in after for wave in plan.waves}
    changed = (
        LorryCost(wave=wave, product=product, short_before=was.get((wave, product), 0), short=short)
        for (wave, product), short in now.items()
        if short != was.get((wave, product), 0)
    )
    return tuple(sorted(changed, key=lambda cost: cost.short_before - cost.short))
