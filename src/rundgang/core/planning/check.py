"""The independent check of a plan: from first principles, sharing no code with what made it.

It walks the first and the last piece of every run down its route and looks at every station, mixer,
trough, dough and lorry: nothing may overlap, overfill, age out, be late unannounced, or be lost.
"""

from collections.abc import Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from rundgang.core.planning.check_dough import Dirt, dough_faults
from rundgang.core.planning.check_line import Passage, Walks, good_packs, line_faults, walk
from rundgang.core.planning.check_shared import shared_faults
from rundgang.core.planning.model import CutRun, Plan, Run
from rundgang.core.planning.violation import SLACK_MIN, SLACK_SHARE, Violation, fault
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario

Ordered = dict[str, dict[str, int]]
Times = NDArray[np.float64]

__all__ = ["Violation", "check", "check_plant", "check_shared"]


def check(scenario: Scenario, plan: Plan) -> tuple[Violation, ...]:
    """Every rule the plan breaks; empty when it is legal."""
    return _check(Dirt(scenario), _ordered(scenario), plan)


def _check(dirt: Dirt, ordered: Ordered, plan: Plan) -> tuple[Violation, ...]:
    scenario = dirt.scenario
    unknown = tuple(_unknown(scenario, plan))
    if unknown:
        return unknown
    walks = {run.id: walk(scenario, run) for run in plan.runs}
    return (
        *(violation for run in plan.runs for violation in _run_faults(scenario, run, walks[run.id])),
        *dough_faults(scenario, plan, dirt),
        *line_faults(scenario, plan, walks, dirt),
        *_cut_faults(scenario, plan, walks),
        *_lorry_faults(scenario, plan, ordered),
        *_score_faults(scenario, plan, ordered),
    )


def check_plant(scenario: Scenario, plans: Sequence[Plan]) -> tuple[Violation, ...]:
    """Every rule that the plans of several lines break: each by itself, and in what they share."""
    dirt, ordered = Dirt(scenario), _ordered(scenario)
    alone = tuple(violation for plan in plans for violation in _check(dirt, ordered, plan))
    lines = [plan.line for plan in plans]
    twice = tuple(fault("plan", "", f"has line {line} twice") for line in sorted(set(lines)) if lines.count(line) > 1)
    if twice or any(True for plan in plans for _ in _unknown(scenario, plan)):
        return (*twice, *alone)
    return (*alone, *shared_faults(dirt, plans))


def check_shared(scenario: Scenario, plans: Sequence[Plan]) -> tuple[Violation, ...]:
    """Every rule that plans of several lines, each right by itself, break together in what they share."""
    return tuple(shared_faults(Dirt(scenario), plans))


def _ordered(scenario: Scenario) -> Ordered:
    """Packs ordered, by product and then by lorry."""
    found: Ordered = {}
    for order in scenario.orders:
        lorries = found.setdefault(order.product, {})
        lorries[order.wave] = lorries.get(order.wave, 0) + order.packs
    return found


def _unknown(scenario: Scenario, plan: Plan) -> Iterator[Violation]:
    lines = {line.id: line for line in scenario.plant.lines}
    products = {product.id: product for product in scenario.products}
    if plan.line not in lines:
        yield fault("plan", "", f"is for line {plan.line}, which the plant does not have")
        return
    known = {preparation.id for preparation in scenario.preparations}
    seen: set[str] = set()
    for run in plan.runs:
        if run.id in seen:
            yield fault(run.id, "", "stands twice")
        seen.add(run.id)
        made = products.get(run.product)
        if made is None or made.line != plan.line or run.line != plan.line or not made.formula:
            yield fault(run.id, "", f"makes {run.product} on {run.line}, which this line does not make")
        for batch in run.batches:
            for slot in batch.preparations:
                if slot.preparation not in known:
                    yield fault(run.id, slot.mixer, f"prepares {slot.preparation}, which the plant does not know")
    for cut in plan.cut_runs:
        if cut.run not in seen or cut.product not in products:
            yield fault(cut.run, "", f"gives {cut.product} beside it, but there is no such run or product")


def _run_faults(scenario: Scenario, run: Run, passed: dict[str, Passage]) -> Iterator[Violation]:
    """A run by itself: its pieces, its pace, its packs and its end."""
    product = scenario.product(run.product)
    window = scenario.window.minutes
    if run.last_pack_min > window + SLACK_MIN:
        yield fault(run.id, "", "gives its last pack after the window ends", run.last_pack_min - window)
    if sum(batch.pieces for batch in run.batches) != run.pieces:
        yield fault(run.id, "", f"has {run.pieces} pieces, its batches {sum(b.pieces for b in run.batches)}")
    good = good_packs(product, run.pieces)
    if not good - 1 < run.packs * (1 + SLACK_SHARE) or run.packs > good * (1 + SLACK_SHARE):
        yield fault(run.id, "", f"promises {run.packs} packs, its pieces give {good:.1f}")
    fed = 60 * run.pieces / run.scaled_per_h
    if abs(fed - run.feed_min) > SLACK_MIN:
        yield fault(run.id, "", "says another feeding time than its pace gives", abs(fed - run.feed_min))
    out = passed[product.piece_steps[-1].station]
    for what, said, walked in (
        ("first", run.first_pack_min, out.first_out),
        ("last", run.last_pack_min, out.last_out),
    ):
        if abs(said - walked) > SLACK_MIN:
            yield fault(run.id, "", f"says another time for its {what} pack", abs(said - walked))


def _cut_faults(scenario: Scenario, plan: Plan, walks: Walks) -> Iterator[Violation]:
    """What is cut out of each run: as many packs, at the times that its way gives, and of no other run."""
    said = {cut.run: cut for cut in plan.cut_runs}
    if len(said) < len(plan.cut_runs):
        yield fault("plan", "", "says twice what is cut out of a run")
    for run in plan.runs:
        parent = scenario.product(run.product)
        cutters = [place for place, s in enumerate(parent.piece_steps) if getattr(s, "cut_out", None)]
        sold = parent.cut_out[1].product if cutters and parent.cut_out else None
        if sold is None:
            if run.id in said:
                yield fault(run.id, "", f"gives {said[run.id].product} beside it, but nothing is cut out of it")
            continue
        cut = scenario.product(sold)
        out = walks[run.id][cut.piece_steps[-1].station]
        yield from _cut_run_faults((scenario, run, out), cut, said.get(run.id), cutters[0])


def _cut_run_faults(
    made: tuple[Scenario, Run, Passage], cut: Product, said: CutRun | None, cutter: int
) -> Iterator[Violation]:
    scenario, run, out = made
    parent = scenario.product(run.product)
    route = (parent.route[0], *parent.piece_steps[: cutter + 1])
    to_cutter = Product.model_construct(
        **{name: getattr(parent, name) for name in Product.model_fields} | {"route": route}
    )
    good = good_packs(cut, good_packs(to_cutter, run.pieces))
    if said is None or said.product != cut.id or not good - 1 - SLACK_SHARE < said.packs <= good + SLACK_SHARE:
        yield fault(run.id, "", f"does not say that {good:.1f} packs of {cut.name} are cut out of it")
    elif max(abs(said.first_pack_min - out.first_out), abs(said.last_pack_min - out.last_out)) > SLACK_MIN:
        yield fault(run.id, "", f"says other times for the packs of {cut.name} than its way gives")


def _lorry_faults(scenario: Scenario, plan: Plan, ordered: Ordered) -> Iterator[Violation]:
    """Pack by pack: which lorry it is for, whether it makes it, and whether the plan said so."""
    announced = {(wave.wave, wave.product): wave for wave in plan.waves}
    stock = {entry.product: entry for entry in scenario.finished}
    waves = sorted(scenario.waves, key=lambda wave: wave.departs_min)
    for product in (scenario.product(name) for name in ordered):
        if product.line != plan.line:
            continue
        lying = np.full(stock[product.id].packs, stock[product.id].made_min) if product.id in stock else np.empty(0)
        packs = np.sort(
            np.concatenate([lying, *(_pack_times(run) for run in plan.giving if run.product == product.id)])
        )
        for wave in waves:
            due = ordered[product.id].get(wave.id, 0)
            if not due:
                continue
            stale = _stale(product, packs, wave.departs_min)
            packs = packs[stale:]
            loaded, packs = packs[:due], packs[due:]
            late = loaded[loaded > wave.departs_min + SLACK_MIN]
            hours = float((late - wave.departs_min).sum()) / 60
            said = announced.get((wave.id, product.id))
            if len(loaded) < due and product.formula:
                yield fault("plan", wave.name, f"never makes {due - len(loaded)} packs of {product.name}")
            short = len(late) + due - len(loaded)
            if said is None or said.packs != due:
                yield fault("plan", wave.name, f"leaves out {due} packs of {product.name}")
            elif abs(said.stale - stale) > 1:
                yield fault("plan", wave.name, f"announces {said.stale} packs of {product.name} too old; it is {stale}")
            elif abs(said.short - short) > 1 or abs(said.late_pack_hours - hours) > 0.01 + hours * 1e-4:
                yield fault(
                    "plan",
                    wave.name,
                    f"announces {said.short} packs of {product.name} short, {said.late_pack_hours:.1f} pack hours "
                    f"late; it is {short} and {hours:.1f}",
                )


def _pack_times(run: Run | CutRun) -> Times:
    """When each pack of a run is made, min."""
    return run.first_pack_min + (run.last_pack_min - run.first_pack_min) * np.arange(1, run.packs + 1) / run.packs


def _stale(product: Product, made: Times, departs_min: float) -> int:
    """How many of the packs there are would be older than the product may be when a lorry leaves."""
    if product.fresh_for_h is None:
        return 0
    return int((departs_min - made > product.fresh_for_h * 60 + SLACK_MIN).sum())


def _score_faults(scenario: Scenario, plan: Plan, ordered: Ordered) -> Iterator[Violation]:
    mixed = {product.id for product in scenario.products if product.line == plan.line and product.formula}
    mixed &= {*ordered} | {run.product for run in plan.runs}
    wanted = sum(sum(ordered.get(name, {}).values()) for name in mixed)
    made = sum(run.packs for run in plan.runs)
    made += sum(entry.packs for entry in scenario.finished if entry.product in mixed)
    if plan.score.surplus_packs != made - wanted:
        yield fault("plan", "", f"says {plan.score.surplus_packs} packs of surplus, it is {made - wanted}")
    if plan.score.packs_short != sum(wave.short for wave in plan.waves):
        yield fault("plan", "", "says another number of packs short than its waves add up to")
