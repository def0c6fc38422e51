"""The independent check of a plan: from first principles, sharing no code with what made it.

It walks the first and the last piece of every run down its route and looks at every station, mixer,
trough, dough and lorry: nothing may overlap, overfill, age out, be late unannounced, or be lost.
"""

from collections.abc import Iterator, Sequence

from rundgang.core.planning.check_dough import dough_faults
from rundgang.core.planning.check_line import Passage, Walks, good_packs, line_faults, walk
from rundgang.core.planning.check_shared import shared_faults
from rundgang.core.planning.plan import CutRun, Plan, Run
from rundgang.core.planning.violation import SLACK_MIN, SLACK_SHARE, Violation, fault
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario

__all__ = ["Violation", "check", "check_plant"]


def check(scenario: Scenario, plan: Plan) -> tuple[Violation, ...]:
    """Every rule the plan breaks; empty when it is legal."""
    unknown = tuple(_unknown(scenario, plan))
    if unknown:
        return unknown
    walks = {run.id: walk(scenario, run) for run in plan.runs}
    return (
        *(violation for run in plan.runs for violation in _run_faults(scenario, run, walks[run.id])),
        *dough_faults(scenario, plan),
        *line_faults(scenario, plan, walks),
        *_cut_faults(scenario, plan, walks),
        *_lorry_faults(scenario, plan),
        *_score_faults(scenario, plan),
    )


def check_plant(scenario: Scenario, plans: Sequence[Plan]) -> tuple[Violation, ...]:
    """Every rule that the plans of several lines break: each by itself, and in what they share."""
    alone = tuple(violation for plan in plans for violation in check(scenario, plan))
    known = {line.id for line in scenario.plant.lines}
    if any(plan.line not in known for plan in plans):
        return alone
    return (*alone, *shared_faults(scenario, plans))


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
    horizon = scenario.horizon.minutes
    if run.last_pack_min > horizon + SLACK_MIN:
        yield fault(run.id, "", "gives its last pack after the horizon ends", run.last_pack_min - horizon)
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


def _lorry_faults(scenario: Scenario, plan: Plan) -> Iterator[Violation]:
    """Pack by pack: which lorry it is for, whether it makes it, and whether the plan said so."""
    announced = {(wave.wave, wave.product): wave for wave in plan.waves}
    stock = {entry.product: entry for entry in scenario.finished}
    for product in (p for p in scenario.products if p.line == plan.line):
        lying = [stock[product.id].made_min] * stock[product.id].packs if product.id in stock else []
        packs = lying + sorted(
            run.first_pack_min + (run.last_pack_min - run.first_pack_min) * number / run.packs
            for run in plan.giving
            if run.product == product.id
            for number in range(1, run.packs + 1)
        )
        for wave in sorted(scenario.waves, key=lambda wave: wave.departs_min):
            due = sum(o.packs for o in scenario.orders if (o.wave, o.product) == (wave.id, product.id))
            if not due:
                continue
            stale = _stale(product, packs, wave.departs_min)
            packs = packs[stale:]
            loaded, packs = packs[:due], packs[due:]
            late = [made for made in loaded if made > wave.departs_min + SLACK_MIN]
            hours = sum(made - wave.departs_min for made in late) / 60
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


def _stale(product: Product, made: list[float], departs_min: float) -> int:
    """How many of the packs there are would be older than the product may be when a lorry leaves."""
    if product.fresh_for_h is None:
        return 0
    return sum(departs_min - minute > product.fresh_for_h * 60 + SLACK_MIN for minute in made)


def _score_faults(scenario: Scenario, plan: Plan) -> Iterator[Violation]:
    mixed = {product.id for product in scenario.products if product.line == plan.line and product.formula}
    mixed &= {order.product for order in scenario.orders} | {run.product for run in plan.runs}
    ordered = sum(order.packs for order in scenario.orders if order.product in mixed)
    made = sum(run.packs for run in plan.runs)
    made += sum(entry.packs for entry in scenario.finished if entry.product in mixed)
    if plan.score.surplus_packs != made - ordered:
        yield fault("plan", "", f"says {plan.score.surplus_packs} packs of surplus, it is {made - ordered}")
    if plan.score.packs_short != sum(wave.short for wave in plan.waves):
        yield fault("plan", "", "says another number of packs short than its waves add up to")
