"""The check of the dough room: every dough, what was prepared for it, its mixer and its trough."""

from collections.abc import Iterator, Sequence
from itertools import groupby, pairwise
from typing import NamedTuple

from rundgang.core.kinds.batch import BatchStation, BatchStep
from rundgang.core.kinds.every import AnyStation
from rundgang.core.kinds.held import HeldStation, HeldStep
from rundgang.core.planning.check.dirt import Content, Dirt
from rundgang.core.planning.check.violation import SLACK_MIN, SLACK_SHARE, Violation, fault
from rundgang.core.planning.model import Batch, FillingBatch, LinePlan, PreparationSlot, Run
from rundgang.core.plant import Line
from rundgang.core.products import Preparation, Product
from rundgang.core.scenario import Scenario

GRAM_KG = 0.001


class Use(NamedTuple):
    """A mixer, kettle, trough or tank taken by something for a run, min."""

    begin: float
    end: float
    run: str
    what: str
    content: Content


def dough_faults(scenario: Scenario, plan: LinePlan, dirt: Dirt) -> Iterator[Violation]:
    """Everything that is wrong in the dough room, from one run to another and in the calendar."""
    yield from shared_dough_faults(scenario, plan)
    yield from _name_faults(scenario, plan)
    for station in scenario.line(plan.line).stations:
        if isinstance(station, (BatchStation, HeldStation)):
            for unit, uses in unit_uses(dirt, plan, station.id).items():
                yield from unit_faults(dirt, station, unit, uses)
    yield from _closed_faults(dirt, plan)


def _cycle(step: BatchStep) -> float:
    return sum(phase.minutes for phase in step.phases) + step.charge_min + step.discharge_min


def own_dough_faults(scenario: Scenario, run: Run) -> Iterator[Violation]:
    """What is wrong there with a run by itself."""
    product = scenario.product(run.product)
    mixers = scenario.line(product.line).mixers(product.mixing.station)
    wanted_at = run.start_min
    for batch in run.batches:
        here = f"batch {batch.number}"
        if batch.shared:
            yield from _rest_faults(run, batch, product, wanted_at)
            wanted_at = batch.last_piece_min
            continue
        kg = batch.dough_g / 1000
        if baked_g(product, kg * 1000 / batch.pieces) * (1 + SLACK_SHARE) < product.baked_g:
            yield fault(run.id, batch.mixer, f"{here} has {kg:.2f} kg of dough, too little for its pieces")
        yield from fill_faults(run, batch.mixer, here, kg, mixers.min_fill_kg, mixers.max_fill_kg)
        yield from _trough_fill_faults(scenario, run, product.trough, batch.trough, here, kg)
        if batch.start_min < -SLACK_MIN:
            yield fault(run.id, batch.mixer, f"{here} starts before the window", -batch.start_min)
        for text, excess in _time_faults(run, batch, product, wanted_at):
            if excess > SLACK_MIN:
                yield fault(run.id, batch.mixer, f"{here} {text}", excess)
        yield from _preparation_faults(scenario, run, batch, product)
        wanted_at = batch.last_piece_min


def _rest_faults(run: Run, batch: Batch, product: Product, wanted_at: float) -> Iterator[Violation]:
    """The rest of another run's dough: it comes first, is enough for its pieces, and divided while it is good."""
    if batch is not run.batches[0]:
        yield fault(run.id, batch.mixer, f"batch {batch.number} is another run's dough, but not its first")
    if baked_g(product, batch.dough_g / batch.pieces) * (1 + SLACK_SHARE) < product.baked_g:
        yield fault(run.id, batch.mixer, f"has {batch.dough_g / 1000:.2f} kg of a dough, too little for its pieces")
    for text, excess in _time_faults(run, batch, product, wanted_at):
        if excess > SLACK_MIN:
            yield fault(run.id, batch.mixer, f"the rest of a dough {text}", excess)


def shared_dough_faults(scenario: Scenario, plan: LinePlan) -> Iterator[Violation]:
    """Doughs divided into two products: the rest is of one that is mixed there and then, and all of it fits."""
    begun = {run.id for run in scenario.opening.begun_on(plan.line)}
    taken: set[tuple[object, ...]] = set()
    for run in plan.runs:
        rest = run.batches[0]
        if not rest.shared or run.id in begun:
            continue
        before, whole = _mixed_there(plan, rest)
        if before is None or whole is None:
            yield fault(run.id, rest.mixer, "takes the rest of a dough that is mixed for no other run")
            continue
        if _stands(whole) in taken:
            yield fault(run.id, rest.mixer, f"takes the rest of a dough of {before.id} that another run has")
        taken.add(_stands(whole))
        made, of = scenario.product(run.product), scenario.product(before.product)
        if _dough(made) != _dough(of):
            yield fault(run.id, rest.mixer, f"takes the rest of a dough of {before.id}, which is another dough")
        if _stands(whole) != _stands(rest):
            yield fault(run.id, rest.mixer, f"takes the rest of a dough at other times than {before.id} has it mixed")
        both = before.model_copy(update={"batches": (_together(whole, rest),)})
        mixers, here = scenario.line(plan.line).mixers(made.mixing.station), f"the dough of {before.id} and {run.id}"
        kg = both.batches[0].dough_g / 1000
        yield from fill_faults(run, rest.mixer, here, kg, mixers.min_fill_kg, mixers.max_fill_kg)
        yield from _trough_fill_faults(scenario, run, of.trough, rest.trough, here, kg)
        yield from _preparation_faults(scenario, both, both.batches[0], of)


def _dough(product: Product) -> tuple[object, ...]:
    """What makes a dough that dough."""
    held = product.route[1] if isinstance(product.route[1], HeldStep) else None
    return product.formula, product.route[0], held, product.dough_temperature_c


def _mixed_there(plan: LinePlan, rest: Batch) -> tuple[Run | None, Batch | None]:
    """The run that a dough is mixed for, in the same mixer at the same moment, and the dough."""
    for run in plan.runs:
        for batch in run.batches:
            if not batch.shared and (batch.mixer, batch.start_min) == (rest.mixer, rest.start_min):
                return run, batch
    return None, None


def _stands(batch: Batch) -> tuple[object, ...]:
    """Where and when a dough, and what is prepared for it, is mixed and stands."""
    slots = [(s.preparation, s.mixer, s.position, s.start_min, s.discharged_min) for s in batch.preparations]
    return batch.mixer, batch.trough, batch.start_min, batch.discharged_min, *slots


def _together(whole: Batch, rest: Batch) -> Batch:
    """A dough with the rest of it, as it is mixed."""
    grams = {slot.preparation: slot.grams for slot in rest.preparations}
    slots = tuple(
        slot.model_copy(update={"grams": slot.grams + grams.get(slot.preparation, 0)}) for slot in whole.preparations
    )
    return whole.model_copy(update={"dough_g": whole.dough_g + rest.dough_g, "preparations": slots})


def fill_faults(run: Run, where: str, what: str, kg: float, least: float, most: float) -> Iterator[Violation]:
    """What a mixer or kettle is given lies between its least and its most fill."""
    if not least * (1 - SLACK_SHARE) - GRAM_KG <= kg <= most * (1 + SLACK_SHARE) + GRAM_KG:
        yield fault(run.id, where, f"{what} is {kg:.1f} kg; allowed {least:g} to {most:g}")


def _trough_fill_faults(
    scenario: Scenario, run: Run, held: HeldStep | None, position: str | None, what: str, kg: float
) -> Iterator[Violation]:
    """No trough is given more than fits it."""
    if held is None:
        return
    holder = scenario.line(run.line).holder(held.station)
    if holder.capacity_kg is not None and kg > holder.capacity_kg * (1 + SLACK_SHARE) + GRAM_KG:
        yield fault(run.id, position or holder.name, f"{what} is {kg:.1f} kg; one holds {holder.capacity_kg:g} kg")


def baked_g(product: Product, scaled_g: float) -> float:
    """What one piece weighs out of the oven, g, if so much dough was scaled for it: followed step by step."""
    mass = scaled_g
    steps = product.piece_steps
    for step in steps:
        if getattr(step, "bakes", False) or step is steps[-1]:
            break
        mass = mass * getattr(step, "takes", 1) / getattr(step, "makes", 1)
        mass += sum(addition.grams for addition in step.adds)
        cut = getattr(step, "cut_out", None)
        mass -= cut.grams if cut else 0.0
    return mass * (1 - product.bake_loss)


def _time_faults(run: Run, batch: Batch, product: Product, wanted_at: float) -> Iterator[tuple[str, float]]:
    step = product.mixing
    trough = product.route[1] if isinstance(product.route[1], HeldStep) else None
    into = batch.discharged_min + step.rest_min
    ready = into + (trough.least_min if trough else 0.0)
    yield "is not mixed for its time", abs(batch.start_min + _cycle(step) - batch.discharged_min)
    yield "does not follow the batch before it at the divider", abs(batch.divided_min - wanted_at)
    yield "is divided before it has rested", ready - batch.divided_min
    yield "is too old at its last piece", batch.last_piece_min - batch.discharged_min - step.max_age_min
    if trough:
        yield "has been in its trough too long", batch.last_piece_min - into - trough.most_min
        yield "stands in no trough", 0.0 if batch.trough else trough.least_min
    fed = 60 * batch.pieces / run.scaled_per_h
    yield "is not divided at the run's pace", abs(batch.last_piece_min - batch.divided_min - fed)


def _preparation_faults(scenario: Scenario, run: Run, batch: Batch, product: Product) -> Iterator[Violation]:
    """Each preparation of the formula is there once: enough of it, mixed, held and used in time."""
    total = sum(line.percent for line in product.formula)
    wanted = {
        line.ingredient: batch.dough_g * line.percent / total
        for line in product.formula
        if scenario.is_preparation(line.ingredient)
    }
    if sorted(wanted) != sorted(slot.preparation for slot in batch.preparations):
        yield fault(run.id, batch.mixer, f"batch {batch.number} is not given each of its preparations once")
        return
    for slot in batch.preparations:
        made = scenario.preparation(slot.preparation)
        here = f"{made.name} for batch {batch.number}"
        if abs(slot.grams - wanted[slot.preparation]) > 1:
            needed_kg = wanted[slot.preparation] / 1000
            yield fault(run.id, slot.mixer, f"{here} is {slot.grams / 1000:.2f} kg, needed {needed_kg:.2f} kg")
        kettle = scenario.line(made.line).mixers(made.mixing.station)
        kg = slot.grams / 1000
        yield from fill_faults(run, slot.mixer, here, kg, kettle.min_fill_kg, kettle.max_fill_kg)
        yield from _trough_fill_faults(scenario, run, made.held, slot.position, here, kg)
        for text, excess in _slot_faults(slot, made, batch):
            if excess > SLACK_MIN:
                yield fault(run.id, slot.mixer, f"{here} {text}", excess)


def _slot_faults(slot: PreparationSlot, made: Preparation, batch: Batch) -> Iterator[tuple[str, float]]:
    into = slot.discharged_min + made.mixing.rest_min
    yield "starts before the window", -slot.start_min
    yield "is not mixed for its time", abs(slot.start_min + _cycle(made.mixing) - slot.discharged_min)
    yield "is not used when the dough is charged", abs(slot.used_min - batch.start_min)
    yield "is used too early", into + (made.held.least_min if made.held else 0.0) - slot.used_min
    yield "is too old when it is used", slot.used_min - slot.discharged_min - made.mixing.max_age_min
    if made.held:
        yield "has been held too long", slot.used_min - into - made.held.most_min
        yield "stands in no trough", 0.0 if slot.position else made.held.least_min


def _name_faults(scenario: Scenario, plan: LinePlan) -> Iterator[Violation]:
    """Every mixer and kettle is one of its station's, every trough and tank one of its positions."""
    line = scenario.line(plan.line)
    for run in plan.runs:
        product = scenario.product(run.product)
        for batch in run.batches:
            asked: list[tuple[str, str | None]] = [(product.mixing.station, batch.mixer)]
            asked += [(product.trough.station, batch.trough)] if product.trough else []
            for slot in batch.preparations:
                made = scenario.preparation(slot.preparation)
                asked += [(made.mixing.station, slot.mixer)]
                asked += [(made.held.station, slot.position)] if made.held else []
            yield from _unknown_units(line, run.id, f"batch {batch.number}", asked)
        for filling in run.fillings:
            made = scenario.preparation(filling.preparation)
            asked = [(made.mixing.station, filling.kettle)]
            asked += [(made.held.station, filling.tank)] if made.held else []
            yield from _unknown_units(line, run.id, made.name, asked)


def _unknown_units(line: Line, run: str, what: str, asked: Sequence[tuple[str, str | None]]) -> Iterator[Violation]:
    for station_id, name in asked:
        station = line.station(station_id)
        if isinstance(station, BatchStation) and name not in station.mixers:
            yield fault(run, name or station.name, f"{what} is in a mixer the line does not have")
        elif isinstance(station, HeldStation):
            number = (name or "").removeprefix(f"{station.position} ")
            if not (number.isdecimal() and 1 <= int(number) <= station.positions):
                yield fault(run, station.name, f"{what}: {name or 'no position'} is none of its {station.positions}")


def unit_uses(dirt: Dirt, plan: LinePlan, station_id: str) -> dict[str, list[Use]]:
    """What each mixer, kettle, trough or tank of a station does in a plan."""
    scenario, used = dirt.scenario, dict[str, list[Use]]()

    def use(station: str, unit: str | None, begin: float, end: float, run: Run, what: str, content: Content) -> None:
        if station == station_id:
            used.setdefault(unit or "", []).append(Use(begin, end, run.id, what, content))

    line = scenario.line(plan.line)
    shared = (batch for run in plan.runs for batch in run.batches if batch.shared)
    rests = {(batch.mixer, batch.start_min): batch.last_piece_min for batch in shared}
    for run in plan.runs:
        product, dough = scenario.product(run.product), dirt.dough(run.product)
        for batch in run.batches:
            if batch.shared:
                continue
            here = f"batch {batch.number}"
            use(product.mixing.station, batch.mixer, batch.start_min, batch.discharged_min, run, here, dough)
            if product.trough:
                into = batch.discharged_min + product.mixing.rest_min
                away = batch.divided_min + line.holder(product.trough.station).turn_round_min
                away = max(away, batch.last_piece_min, rests.get((batch.mixer, batch.start_min), 0.0))
                use(product.trough.station, batch.trough, into, away, run, here, dough)
            for slot in batch.preparations:
                made, content = scenario.preparation(slot.preparation), dirt.preparation(slot.preparation)
                use(made.mixing.station, slot.mixer, slot.start_min, slot.discharged_min, run, here, content)
                if made.held:
                    away = slot.used_min + line.holder(made.held.station).turn_round_min
                    into = slot.discharged_min + made.mixing.rest_min
                    use(made.held.station, slot.position, into, away, run, here, content)
        for name, batches in groupby(run.fillings, key=lambda filling: filling.preparation):
            made, content, listed = scenario.preparation(name), dirt.preparation(name), list(batches)
            for one in (one for one in listed if not one.kept):
                use(made.mixing.station, one.kettle, one.start_min, one.emptied_min, run, made.name, content)
            if made.held and not listed[0].kept:
                away = _used_until(plan, listed[-1]) + line.holder(made.held.station).turn_round_min
                use(made.held.station, listed[0].tank, listed[0].emptied_min, away, run, made.name, content)
    return used


def _used_until(plan: LinePlan, last: FillingBatch) -> float:
    """Until when a tank is drawn on: by a run, and by those that go on with what is left, and leave something again."""
    until = last.used_until_min
    for run in plan.runs:
        own = [filling for filling in run.fillings if filling.preparation == last.preparation]
        if any(f.kept and (f.kettle, f.start_min) == (last.kettle, last.start_min) for f in own):
            goes_on = own[-1] if not own[-1].kept else None
            until = max(until, own[-1].used_until_min, _used_until(plan, goes_on) if goes_on else 0.0)
    return until


def unit_faults(dirt: Dirt, station: AnyStation, unit: str, uses: list[Use]) -> Iterator[Violation]:
    """Nothing holds two things at once, and it is clean for the next where its station is cleaned."""
    for before, after in pairwise(sorted(uses, key=lambda use: (use.begin, use.end))):
        missing = before.end - after.begin
        needed = 0.0
        if before.run != after.run:
            needed = dirt.unit_cleaning_min(station, before.content, after.content)
        if missing + needed > SLACK_MIN:
            why = "has not been cleaned" if needed and missing <= SLACK_MIN else "is still in use"
            yield fault(after.run, unit or station.name, f"{after.what}: {why} after {before.run}", missing + needed)


def _closed_faults(dirt: Dirt, plan: LinePlan) -> Iterator[Violation]:
    """No mixer, kettle, trough or tank is in use while its station is closed."""
    scenario = dirt.scenario
    begun = {run.id for run in scenario.opening.begun_on(plan.line)}
    for block in scenario.blocks:
        called = scenario.plant.called_on(plan.line, block.at)
        if called is None:
            continue
        station = scenario.line(plan.line).station(called)
        for uses in unit_uses(dirt, plan, called).values():
            for use in uses:
                inside = min(use.end, block.to_min) - max(use.begin, block.from_min)
                if inside > SLACK_MIN and use.run not in begun:
                    text = f"{use.what} is there while it is closed: {block.reason}"
                    yield fault(use.run, station.name, text, inside)
