"""Packs that are there and may not be loaded: to the plan they are absent, until somebody releases them.

Those of a run that has begun, or of what is cut out of it, are packs which that run does not give; all others are packs
that do not lie in stock.
"""

from collections.abc import Iterable, Sequence
from typing import NamedTuple

from rundgang.core.model import Id, Model
from rundgang.core.opening import Gives
from rundgang.core.orders import FinishedStock
from rundgang.core.planning.cut_runs import cut_runs
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


def held_back(scenario: Scenario, packs: PacksThere) -> tuple[Scenario, int]:
    """The scenario at a moment, with what has begun, without some packs; and how many of them it had counted."""
    run = _run_of(scenario, packs)
    if run is None:
        lots, taken = _less(scenario.finished, packs)
        return scenario.changed(finished=lots), taken
    gives = _given(scenario, run, packs.product)
    taken = min(gives, packs.packs)
    return _giving(scenario, run, packs.product, gives - taken), taken


def put_back(scenario: Scenario, packs: PacksThere) -> Scenario:
    """The scenario at a moment with packs again that were held back."""
    run = _run_of(scenario, packs)
    if run is not None:
        gives = _given(scenario, run, packs.product)
        return _giving(scenario, run, packs.product, gives + packs.packs)
    lot = FinishedStock(product=packs.product, packs=packs.packs, made_min=packs.made_min)
    return scenario.changed(finished=(*scenario.finished, lot))


def _run_of(scenario: Scenario, packs: PacksThere) -> Run | None:
    """The begun run that has made packs, or out of whose pieces they were cut; None where none has."""
    return next((run for run in scenario.opening.begun if (run.line, run.id) == (packs.line, packs.run)), None)


def _given(scenario: Scenario, run: Run, product: str) -> int:
    """The packs of a product that a begun run gives: its own, or what is cut out of its pieces."""
    if run.product == product:
        return run.packs
    return sum(cut.packs for cut in cut_runs(scenario, (run,)) if cut.product == product)


def _giving(scenario: Scenario, run: Run, product: str, packs: int) -> Scenario:
    """The scenario with a begun run that gives so many packs of a product."""
    opening = scenario.opening
    own = run.product == product
    told = Gives(line=run.line, run=run.id, product=None if own else product, packs=packs)
    begun = tuple(run.with_packs(packs) if own and one is run else one for one in opening.begun)
    gives = (*(one for one in opening.gives if one.of != told.of), told)
    return scenario.changed(opening=opening.model_copy(update={"begun": begun, "gives": gives}))


def _less(lots: Sequence[FinishedStock], packs: PacksThere) -> tuple[tuple[FinishedStock, ...], int]:
    """Packs in stock without some, of those made nearest to when these were; and how many there were of them."""
    others = [lot for lot in lots if lot.product != packs.product]
    own = [lot for lot in lots if lot.product == packs.product]
    own.sort(key=lambda lot: abs(lot.made_min - packs.made_min))
    left = packs.packs
    for lot in own:
        taken = min(left, lot.packs)
        left -= taken
        if taken < lot.packs:
            others.append(lot.model_copy(update={"packs": lot.packs - taken}))
    return tuple(others), packs.packs - left


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
