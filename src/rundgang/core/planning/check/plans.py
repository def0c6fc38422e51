"""The check of plans: a line's by itself, and those of several lines in what they share."""

from collections.abc import Iterator, Sequence
from functools import partial

from rundgang.core.planning.check.dirt import Dirt
from rundgang.core.planning.check.dough import dough_faults, own_dough_faults
from rundgang.core.planning.check.fillings import filling_faults, kept_faults
from rundgang.core.planning.check.heat import heat_faults
from rundgang.core.planning.check.line import (
    Passage,
    Walks,
    good_packs,
    legs_needed,
    line_faults,
    own_line_faults,
    walk,
)
from rundgang.core.planning.check.lorries import Ordered, lorry_faults, ordered_by, score_faults
from rundgang.core.planning.check.materials import material_faults
from rundgang.core.planning.check.once import once
from rundgang.core.planning.check.past import past_faults
from rundgang.core.planning.check.ripening import ripening_faults
from rundgang.core.planning.check.shared import shared_faults
from rundgang.core.planning.check.tools import tool_faults
from rundgang.core.planning.check.violation import SLACK_MIN, SLACK_SHARE, Violation, fault
from rundgang.core.planning.model import CutRun, LinePlan, Run
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario


def check(scenario: Scenario, plan: LinePlan) -> tuple[Violation, ...]:
    """Every rule the plan breaks; empty when it is legal."""

    def work_out() -> tuple[Violation, ...]:
        return _check(Dirt(scenario), ordered_by(scenario), plan)

    return once(scenario, "plan", plan, work_out, by=scenario.opening)


def _check(dirt: Dirt, ordered: Ordered, plan: LinePlan) -> tuple[Violation, ...]:
    scenario = dirt.scenario
    unknown = tuple(_unknown(scenario, plan))
    if unknown:
        return unknown
    walks = {run.id: walk(scenario, run) for run in plan.runs}
    begun = {run.id for run in scenario.opening.begun_on(plan.line)}
    free = [run for run in plan.runs if run.id not in begun]
    return (
        *(
            violation
            for run in free
            for violation in once(scenario, "faults", run, partial(_run_faults, scenario, run))
        ),
        *past_faults(scenario, plan),
        *dough_faults(scenario, plan, dirt),
        *(violation for run in free for violation in filling_faults(scenario, run, walks[run.id])),
        *kept_faults(scenario, plan),
        *line_faults(scenario, plan, walks, dirt),
        *tool_faults(scenario, plan, walks),
        *_cut_faults(scenario, plan, walks),
        *lorry_faults(scenario, plan, ordered),
        *score_faults(scenario, plan, ordered),
    )


def check_plant(scenario: Scenario, plans: Sequence[LinePlan]) -> tuple[Violation, ...]:
    """Every rule that the plans of several lines break: each by itself, and in what they share."""
    dirt, ordered = Dirt(scenario), ordered_by(scenario)
    alone = tuple(violation for plan in plans for violation in _check(dirt, ordered, plan))
    lines = [plan.line for plan in plans]
    twice = tuple(fault("plan", "", f"has line {line} twice") for line in sorted(set(lines)) if lines.count(line) > 1)
    if twice or any(True for plan in plans for _ in _unknown(scenario, plan)):
        return (*twice, *alone)
    return (*alone, *shared_faults(dirt, plans), *material_faults(scenario, plans))


def check_shared(scenario: Scenario, plans: Sequence[LinePlan]) -> tuple[Violation, ...]:
    """Every rule that plans of several lines, each right by itself, break together in what they share."""
    return (*shared_faults(Dirt(scenario), plans), *material_faults(scenario, plans))


def _unknown(scenario: Scenario, plan: LinePlan) -> Iterator[Violation]:
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
        for filling in run.fillings:
            if filling.preparation not in known:
                yield fault(run.id, filling.kettle, f"makes {filling.preparation}, which the plant does not know")
        if made is not None and len(run.legs) != legs_needed(made):
            yield fault(run.id, "", f"has {len(run.legs)} legs, its route {legs_needed(made)}")
    for cut in plan.cut_runs:
        if cut.run not in seen or cut.product not in products:
            yield fault(cut.run, "", f"gives {cut.product} beside it, but there is no such run or product")


def _run_faults(scenario: Scenario, run: Run) -> tuple[Violation, ...]:
    """A run by itself, in all that it, the plant and the conditions alone decide."""
    passed = walk(scenario, run)
    return (
        *_pack_faults(scenario, run, passed),
        *own_dough_faults(scenario, run),
        *heat_faults(scenario, run, passed),
        *ripening_faults(scenario, run, passed),
        *own_line_faults(scenario, run, passed),
    )


def _pack_faults(scenario: Scenario, run: Run, passed: dict[str, Passage]) -> Iterator[Violation]:
    """Its pieces, its pace, its packs and its end."""
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


def _cut_faults(scenario: Scenario, plan: LinePlan, walks: Walks) -> Iterator[Violation]:
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
    for one in scenario.opening.gives:
        if (one.line, one.run, one.product) == (run.line, run.id, cut.id):
            good = float(one.packs)
    if said is None or said.product != cut.id or not good - 1 - SLACK_SHARE < said.packs <= good + SLACK_SHARE:
        yield fault(run.id, "", f"does not say that {good:.1f} packs of {cut.name} are cut out of it")
    elif max(abs(said.first_pack_min - out.first_out), abs(said.last_pack_min - out.last_out)) > SLACK_MIN:
        yield fault(run.id, "", f"says other times for the packs of {cut.name} than its way gives")
