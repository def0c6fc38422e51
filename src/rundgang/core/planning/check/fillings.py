"""The check of fillings and toppings: enough of each, young and old enough, in a kettle and a tank that hold it."""

from collections.abc import Iterator

from rundgang.core.planning.check.dough import GRAM_KG, fill_faults
from rundgang.core.planning.check.kinds import made_of_one
from rundgang.core.planning.check.line import Passage
from rundgang.core.planning.check.violation import SLACK_MIN, SLACK_SHARE, Violation, fault
from rundgang.core.planning.model import FillingBatch, LinePlan, Run
from rundgang.core.products import Preparation, Product
from rundgang.core.scenario import Scenario


def kept_faults(scenario: Scenario, plan: LinePlan) -> Iterator[Violation]:
    """What runs use of a filling that another has left: that one made it, has done with it, and left so much."""
    begun = {run.id for run in scenario.opening.begun_on(plan.line)}
    used: dict[tuple[object, ...], float] = {}
    for run in sorted(plan.runs, key=lambda run: run.start_min):
        for kept in (filling for filling in run.fillings if filling.kept and run.id not in begun):
            name = scenario.preparation(kept.preparation).name
            owner, batch = _left_by(plan, run, kept)
            if owner is None or batch is None:
                yield fault(run.id, kept.kettle, f"uses {name} that no run has left")
                continue
            taken = used[_made(batch)] = used.get(_made(batch), batch.used_g) + kept.grams
            if taken > batch.grams + 2 + SLACK_SHARE * batch.grams:
                yield fault(
                    run.id, name, f"uses {kept.grams / 1000:.2f} kg of what {owner.id} left, which is not so much"
                )
            drawn = (one for other in plan.runs if other is not run for one in other.fillings if one.tank == kept.tank)
            ends = max(one.used_until_min for one in drawn if one.used_from_min < kept.used_from_min)
            first = min(f.used_from_min if f.kept else f.emptied_min for f in run.fillings if f.tank == kept.tank)
            if ends - first > SLACK_MIN:
                yield fault(run.id, name, "goes into its tank while another run still draws on it", ends - first)


def _made(batch: FillingBatch) -> tuple[object, ...]:
    """Where and when a batch was made, and where it went."""
    return batch.preparation, batch.kettle, batch.start_min, batch.mixed_min, batch.emptied_min, batch.tank


def _left_by(plan: LinePlan, run: Run, kept: FillingBatch) -> tuple[Run | None, FillingBatch | None]:
    """The run that made what is left, and the batch: its last."""
    for other in plan.runs:
        own = [one for one in other.fillings if not one.kept and one.preparation == kept.preparation]
        if other is not run and own and _made(own[-1]) == _made(kept):
            return other, own[-1]
    return None, None


def filling_faults(scenario: Scenario, run: Run, passed: dict[str, Passage]) -> Iterator[Violation]:
    """Everything that is wrong with the fillings of a run."""
    wanted = dict(_wanted(scenario, passed))
    listed: dict[str, list[FillingBatch]] = {}
    for batch in run.fillings:
        listed.setdefault(batch.preparation, []).append(batch)
    for name in sorted(wanted.keys() | listed.keys()):
        made = scenario.preparation(name)
        if name not in wanted:
            yield fault(run.id, made.name, "is made for it, but no step adds it")
            continue
        at, grams = wanted[name]
        yield from _amount_faults(run, made, listed.get(name, []), at, grams)
        for batch in listed.get(name, []):
            yield from _batch_faults(scenario, run, made, batch)
        yield from _tank_faults(scenario, run, made, listed.get(name, []), at, grams)


def _wanted(scenario: Scenario, passed: dict[str, Passage]) -> Iterator[tuple[str, tuple[Passage, float]]]:
    """By preparation, where it is added and how much in all, g."""
    for product_id in dict.fromkeys(at.product for at in passed.values()):
        product: Product = scenario.product(product_id)
        for step in product.piece_steps:
            at = passed[step.station]
            pieces = at.flow_per_h * (at.last_in - at.first_in) / 60 * made_of_one(step) / step.yield_
            for addition in step.adds:
                if scenario.is_preparation(addition.item):
                    yield addition.item, (at, pieces * addition.grams)


def _amount_faults(
    run: Run, made: Preparation, batches: list[FillingBatch], at: Passage, grams: float
) -> Iterator[Violation]:
    """The tank is never empty while pieces pass: batch after batch, each ready when the one before is used up."""
    made_g = sum(batch.grams for batch in batches)
    if made_g < grams * (1 - SLACK_SHARE) - len(batches):
        yield fault(run.id, made.name, f"{made_g / 1000:.2f} kg are made, needed {grams / 1000:.2f} kg")
        return
    per_min, empty = grams / (at.last_in - at.first_in), at.first_in
    for before, batch in enumerate(sorted(batches, key=lambda batch: batch.used_from_min)):
        rounded_min = (before + 1) / per_min  # each batch is weighed to a gram
        if abs(batch.used_from_min - empty) > SLACK_MIN + rounded_min:
            yield fault(
                run.id,
                made.name,
                f"batch {batch.number} does not follow the one before",
                abs(batch.used_from_min - empty),
            )
        if batch.ready_min - batch.used_from_min > SLACK_MIN:
            yield fault(
                run.id,
                made.name,
                f"batch {batch.number} is not ready when needed",
                batch.ready_min - batch.used_from_min,
            )
        empty = min(empty + batch.grams / per_min, at.last_in)
        if abs(batch.used_until_min - empty) > SLACK_MIN + rounded_min + 1 / per_min:
            yield fault(
                run.id,
                made.name,
                f"batch {batch.number} is not used up when it says",
                abs(batch.used_until_min - empty),
            )


def _batch_faults(scenario: Scenario, run: Run, made: Preparation, batch: FillingBatch) -> Iterator[Violation]:
    """A batch by itself: its kettle's fill, its mixing, and its age when it is used."""
    here, step = f"{made.name} batch {batch.number}", made.mixing
    kettle = scenario.line(made.line).mixers(step.station)
    if not batch.kept:
        yield from fill_faults(run, batch.kettle, here, batch.grams / 1000, kettle.min_fill_kg, kettle.max_fill_kg)
    cycle = sum(phase.minutes for phase in step.phases) + step.charge_min + step.discharge_min
    least = step.rest_min + (made.held.least_min if made.held else 0.0)
    most = min(step.max_age_min, step.rest_min + made.held.most_min) if made.held else step.max_age_min
    for text, excess in (
        ("is not mixed for its time", abs(batch.start_min + cycle - batch.mixed_min)),
        ("leaves its kettle before it is mixed", batch.mixed_min - batch.emptied_min),
        ("is used too early", batch.mixed_min + least - batch.used_from_min),
        ("is too old when it is used", batch.used_until_min - batch.mixed_min - most),
        ("is begun before the plan's now", 0.0 if batch.kept else scenario.opening.now_min - batch.start_min),
    ):
        known = run.id in {begun.id for begun in scenario.opening.begun_on(run.line)}
        if excess > SLACK_MIN and not (known and "now" in text):
            yield fault(run.id, batch.kettle, f"{here} {text}", excess)


def _tank_faults(
    scenario: Scenario, run: Run, made: Preparation, batches: list[FillingBatch], at: Passage, grams: float
) -> Iterator[Violation]:
    """A batch goes into the tank when there is room for it: what came in, less what was drawn by then."""
    if made.held is None or not batches:
        return
    holder = scenario.line(made.line).holder(made.held.station)
    if len({batch.tank for batch in batches}) > 1 or batches[0].tank is None:
        yield fault(run.id, holder.name, f"{made.name} does not stand in one {holder.position}")
    if holder.capacity_kg is None:
        return
    per_min = grams / (at.last_in - at.first_in)
    for batch in batches:
        came = sum(other.grams for other in batches if other.emptied_min <= batch.emptied_min + SLACK_MIN)
        drawn = per_min * min(max(batch.emptied_min - at.first_in, 0.0), at.last_in - at.first_in)
        level = (came - drawn) / 1000
        if level > holder.capacity_kg * (1 + SLACK_SHARE) + GRAM_KG * (1 + len(batches)):
            text = f"{made.name} batch {batch.number} brings it to {level:.1f} kg; it holds {holder.capacity_kg:g} kg"
            yield fault(run.id, holder.name, text)
