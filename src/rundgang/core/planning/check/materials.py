"""The check of materials: what binds is never drawn before it is there, counted batch by batch over all lines."""

from collections.abc import Iterator, Sequence
from functools import partial
from typing import NamedTuple

from rundgang.core.dough.adjust import adjusted
from rundgang.core.planning.check.line import Passage, walk
from rundgang.core.planning.check.once import once
from rundgang.core.planning.check.violation import SLACK_MIN, Violation, fault
from rundgang.core.planning.model import CutRun, LinePlan, Run
from rundgang.core.products import FormulaLine, Product
from rundgang.core.scenario import Scenario, Stock

CRUMB = 1e-6
"""So far below nothing a level may be by adding floats, kg or pieces."""


class _Taken(NamedTuple):
    """So much taken at a minute by a run, and whether that has begun."""

    at_min: float
    amount: float
    run: str
    begun: bool


class _Draw(NamedTuple):
    """So much of an item at a minute, kg or pieces."""

    item: str
    at_min: float
    amount: float


def material_faults(scenario: Scenario, plans: Sequence[LinePlan]) -> Iterator[Violation]:
    """Every run that draws of what binds and is not there."""
    binding = {stock.item: stock for stock in scenario.stocks if stock.binds}
    for item, taken in taken_by(scenario, plans, tuple(binding)).items():
        yield from _faults(scenario, binding[item], sorted(taken))


def _faults(scenario: Scenario, stock: Stock, taken: list[_Taken]) -> Iterator[Violation]:
    """At each draw: what was there, what has come by then, and all that was taken."""
    drawn, said = 0.0, set[str]()
    for draw in taken:
        drawn += draw.amount
        there = stock.on_hand + sum(come.amount for come in stock.deliveries if come.at_min <= draw.at_min + SLACK_MIN)
        if draw.amount > 0 and drawn > there + CRUMB and not draw.begun and draw.run not in said:
            said.add(draw.run)
            name = scenario.ingredient(stock.item).name
            text = f"draws {name} that is not there: {drawn - there:.1f} short at minute {draw.at_min:.0f}"
            yield fault(draw.run, "", text)


def taken_by(scenario: Scenario, plans: Sequence[LinePlan], items: tuple[str, ...]) -> dict[str, list[_Taken]]:
    """What plans take of each of some items."""
    taken: dict[str, list[_Taken]] = {item: [] for item in items}
    for plan in plans:
        _take(scenario, plan, taken)
    return taken


def _take(scenario: Scenario, plan: LinePlan, taken: dict[str, list[_Taken]]) -> None:
    """Note what the runs of a line, and what is cut out of them, take of each item."""
    begun = {run.id for run in scenario.opening.begun_on(plan.line)}
    cuts = {cut.run: cut for cut in plan.cut_runs}
    for run in plan.runs:
        own = once(scenario, ("draws", *taken), run, partial(_drawn, scenario, run, tuple(taken)))
        cut = _packed(scenario, run, cuts[run.id]) if run.id in cuts else ()
        who = f"{run.id} of {scenario.line(plan.line).name}"
        for item, at_min, amount in (*own, *cut):
            if item in taken:
                taken[item].append(_Taken(at_min, amount, who, run.id in begun))


def _drawn(scenario: Scenario, run: Run, items: Sequence[str]) -> tuple[_Draw, ...]:
    """What a run's doughs are weighed of items, what its steps put on the pieces, and what its packs are packed in."""
    mixed = (
        _Draw(item, *draw) for item in items for draw in (*_mixed(scenario, run, item), *_added(scenario, run, item))
    )
    return (*mixed, *_packed(scenario, run, run))


def _packed(scenario: Scenario, run: Run, packed: Run | CutRun) -> Iterator[_Draw]:
    """What the packs of a run, or of what is cut out of it, are packed in."""
    spread = packed.last_pack_min - packed.first_pack_min
    for use in scenario.product(packed.product).packing:
        for share, part in _parts(run):
            yield _Draw(use.item, packed.first_pack_min + share * spread, packed.packs * part * use.per_pack)


def _parts(run: Run) -> Iterator[tuple[float, float]]:
    """Of each dough, which share of the run's feeding is over when it is divided, and its share of the pieces."""
    for batch in run.batches:
        yield (batch.divided_min - run.start_min) / run.feed_min, batch.pieces / run.pieces


def _mixed(scenario: Scenario, run: Run, item: str) -> Iterator[tuple[float, float]]:
    """What each dough, and each batch prepared for it or for its pieces, is weighed of it, kg."""
    product = scenario.product(run.product)
    for batch in run.batches:
        yield batch.start_min, batch.dough_g / 1000 * _share(scenario, product.formula, batch.start_min, item)
        for slot in batch.preparations:
            formula = scenario.formula_of(slot.preparation)
            yield slot.start_min, slot.grams / 1000 * _share(scenario, formula, slot.start_min, item)
    for filling in (one for one in run.fillings if not one.kept):
        formula = scenario.formula_of(filling.preparation)
        yield filling.start_min, filling.grams / 1000 * _share(scenario, formula, filling.start_min, item)


def _share(scenario: Scenario, formula: tuple[FormulaLine, ...], minute: float, item: str) -> float:
    """Mass of an item in a batch's, by the formula of the hour; water comes from the tap."""
    if item not in {line.ingredient for line in formula} or scenario.ingredient(item).role == "water":
        return 0.0
    of_hour = adjusted(scenario.during(minute), formula).formula
    own = sum(line.percent for line in of_hour if line.ingredient == item)
    return own / sum(line.percent for line in of_hour)


def _added(scenario: Scenario, run: Run, item: str) -> Iterator[tuple[float, float]]:
    """What steps put on the pieces, dough by dough, kg."""
    if not _is_put_on(scenario, scenario.product(run.product), item):
        return
    passed: dict[str, Passage] = walk(scenario, run)
    for at in passed.values():
        step = at.step
        grams = sum(addition.grams for addition in step.adds if addition.item == item)
        taken = getattr(step, "takes", 1) / getattr(step, "makes", 1)
        made = at.flow_per_h * (at.last_in - at.first_in) / 60 / taken
        for share, part in _parts(run) if grams else ():
            yield at.first_in + share * (at.last_in - at.first_in), made * part * grams / 1000


def _is_put_on(scenario: Scenario, product: Product, item: str) -> bool:
    """Whether a step of a product, or of what is cut out of it, puts an item on the pieces."""
    for step in product.piece_steps:
        sold = getattr(step, "cut_out", None)
        if any(addition.item == item for addition in step.adds) or (
            sold and sold.product and _is_put_on(scenario, scenario.product(sold.product), item)
        ):
            return True
    return False
