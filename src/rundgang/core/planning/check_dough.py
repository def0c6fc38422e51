"""The check of the dough room: every dough, what was prepared for it, its mixer and its trough."""

from collections.abc import Iterator
from itertools import pairwise
from typing import NamedTuple

from rundgang.core.kinds.batch import BatchStation, BatchStep
from rundgang.core.kinds.bench import BenchStep
from rundgang.core.kinds.conveyor import ConveyorStep
from rundgang.core.kinds.every import AnyStation
from rundgang.core.kinds.held import HeldStep
from rundgang.core.kinds.rate import RateStep
from rundgang.core.planning.model import Batch, Plan, PreparationSlot, Run
from rundgang.core.planning.violation import SLACK_MIN, SLACK_SHARE, Violation, fault
from rundgang.core.products import Preparation, Product
from rundgang.core.scenario import Scenario

GRAM_KG = 0.001


class Use(NamedTuple):
    """A mixer or a trough taken by a dough or a preparation, min."""

    begin: float
    end: float
    run: Run
    batch: Batch


class Dirt:
    """What products leave behind: allergens by product, each found once."""

    def __init__(self, scenario: Scenario) -> None:
        self.scenario = scenario
        self._known: dict[str, frozenset[str]] = {}
        self._parents = {p.cut_out[1].product: p for p in scenario.products if p.cut_out}

    def cleaning_min(self, station: AnyStation, dirty: Product, next_: Product) -> float:
        """Cleaning that one product makes necessary before another at a station, min."""
        if self.allergens(dirty) - self.allergens(next_) and station.changeover.allergen_clean_min:
            return station.changeover.allergen_clean_min
        return station.changeover.trait_clean_min if dirty.traits - next_.traits else 0.0

    def allergens(self, product: Product) -> frozenset[str]:
        """What a product's ingredients, additions and preparations bring; of a cut-out, its parent's dough too."""
        if product.id not in self._known:
            self._known[product.id] = self._brought(product)
        return self._known[product.id]

    def _brought(self, product: Product) -> frozenset[str]:
        parent = self._parents.get(product.id)
        used = {line.ingredient for dough in (product, parent) if dough for line in dough.formula}
        used |= {addition.item for step in product.piece_steps for addition in step.adds}
        if parent:
            cutter = next(place for place, step in enumerate(parent.piece_steps) if getattr(step, "cut_out", None))
            used |= {addition.item for step in parent.piece_steps[: cutter + 1] for addition in step.adds}
        for made in self.scenario.preparations:
            if made.id in used:
                used |= {line.ingredient for line in made.formula}
        return frozenset(a for item in self.scenario.plant.ingredients if item.id in used for a in item.allergens)


def dough_faults(scenario: Scenario, plan: Plan, dirt: Dirt) -> Iterator[Violation]:
    """Everything that is wrong in the dough room."""
    for run in plan.runs:
        yield from _run_faults(scenario, run, scenario.product(run.product))
    yield from _mixer_faults(scenario, plan, dirt)
    yield from _trough_faults(scenario, plan)
    yield from _block_faults(scenario, plan)


def _cycle(step: BatchStep) -> float:
    return sum(phase.minutes for phase in step.phases) + step.charge_min + step.discharge_min


def _run_faults(scenario: Scenario, run: Run, product: Product) -> Iterator[Violation]:
    mixers = scenario.line(product.line).mixers(product.mixing.station)
    wanted_at = run.start_min
    for batch in run.batches:
        here = f"batch {batch.number}"
        kg = batch.dough_g / 1000
        if baked_g(product, kg * 1000 / batch.pieces) * (1 + SLACK_SHARE) < product.baked_g:
            yield fault(run.id, batch.mixer, f"{here} has {kg:.2f} kg of dough, too little for its pieces")
        yield from _fill_faults(run, batch.mixer, here, kg, mixers.min_fill_kg, mixers.max_fill_kg)
        if batch.start_min < -SLACK_MIN:
            yield fault(run.id, batch.mixer, f"{here} starts before the window", -batch.start_min)
        for text, excess in _time_faults(run, batch, product, wanted_at):
            if excess > SLACK_MIN:
                yield fault(run.id, batch.mixer, f"{here} {text}", excess)
        yield from _preparation_faults(scenario, run, batch, product)
        wanted_at = batch.last_piece_min


def _fill_faults(run: Run, where: str, what: str, kg: float, least: float, most: float) -> Iterator[Violation]:
    if not least * (1 - SLACK_SHARE) - GRAM_KG <= kg <= most * (1 + SLACK_SHARE) + GRAM_KG:
        yield fault(run.id, where, f"{what} is {kg:.1f} kg; allowed {least:g} to {most:g}")


def baked_g(product: Product, scaled_g: float) -> float:
    """What one piece weighs out of the oven, g, if so much dough was scaled for it: followed step by step."""
    mass = scaled_g
    steps = [step for step in product.route if not isinstance(step, BatchStep)]
    heat = max((getattr(step, "temperature_c", None) or 0.0 for step in steps), default=0.0)
    for step in steps:
        if isinstance(step, ConveyorStep) and heat > 0 and step.temperature_c == heat:
            break
        if heat <= 0 and step is steps[-1]:
            break
        if isinstance(step, (RateStep, BenchStep)):
            mass = mass * step.takes / step.makes
        mass += sum(addition.grams for addition in step.adds)
        if isinstance(step, RateStep) and step.cut_out:
            mass -= step.cut_out.grams
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
            yield fault(run.id, slot.mixer, f"{here} is {slot.grams / 1000:.2f} kg, needed {needed_kg:.2f}")
        kettle = scenario.line(made.line).mixers(made.mixing.station)
        kg = slot.grams / 1000
        yield from _fill_faults(run, slot.mixer, here, kg, kettle.min_fill_kg, kettle.max_fill_kg)
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


def _mixer_faults(scenario: Scenario, plan: Plan, dirt: Dirt) -> Iterator[Violation]:
    line = scenario.line(plan.line)
    owners = {mixer: station for station in line.batch_stations for mixer in station.mixers}
    for run in plan.runs:
        for batch in run.batches:
            for slot in batch.slots:
                if slot.mixer not in owners:
                    yield fault(run.id, slot.mixer, f"batch {batch.number} is in a mixer the line does not have")
                    return
    for station in line.batch_stations:
        uses = mixer_uses(plan, station.mixers)
        yield from mixing_faults(dirt, station, uses)


def mixer_uses(plan: Plan, mixers: tuple[str, ...]) -> dict[str, list[Use]]:
    """What each of some mixers does in a plan."""
    used: dict[str, list[Use]] = {mixer: [] for mixer in mixers}
    for run in plan.runs:
        for batch in run.batches:
            for slot in batch.slots:
                if slot.mixer in used:
                    used[slot.mixer].append(Use(slot.start_min, slot.discharged_min, run, batch))
    return used


def mixing_faults(dirt: Dirt, station: AnyStation, used: dict[str, list[Use]]) -> Iterator[Violation]:
    """No mixer holds two doughs at once, and each is clean for the next."""
    for mixer, uses in used.items():
        for before, after in pairwise(sorted(uses, key=lambda use: use.begin)):
            missing = before.end - after.begin
            needed = 0.0
            if before.run is not after.run:
                products = (dirt.scenario.product(use.run.product) for use in (before, after))
                needed = dirt.cleaning_min(station, *products)
            if missing + needed > SLACK_MIN:
                why = "has not been cleaned" if needed else "is still in use"
                text = f"batch {after.batch.number}: the mixer {why} after {before.run.id}"
                yield fault(after.run.id, mixer, text, missing + needed)


def _block_faults(scenario: Scenario, plan: Plan) -> Iterator[Violation]:
    """No mixer or trough is in use while its station is closed."""
    for block in scenario.blocks:
        called = scenario.plant.called_on(plan.line, block.at)
        if called is None:
            continue
        station = scenario.line(plan.line).station(called)
        uses = list(mixer_uses(plan, station.mixers).values()) if isinstance(station, BatchStation) else []
        uses += [found for (name, _), found in position_uses(scenario, plan).items() if name == called]
        for use in (use for found in uses for use in found):
            inside = min(use.end, block.to_min) - max(use.begin, block.from_min)
            if inside > SLACK_MIN:
                text = f"batch {use.batch.number} is there while it is closed: {block.reason}"
                yield fault(use.run.id, station.name, text, inside)


def _trough_faults(scenario: Scenario, plan: Plan) -> Iterator[Violation]:
    """No trough holds two at once; each is away for its turn-round after it has begun to be emptied."""
    line = scenario.line(plan.line)
    for (station, position), uses in position_uses(scenario, plan).items():
        holder = line.holder(station)
        place = position.removeprefix(f"{holder.position} ")
        if not (place.isdecimal() and 1 <= int(place) <= holder.positions):
            yield fault(uses[0].run.id, holder.name, f"{position or 'no position'} is none of its {holder.positions}")
        yield from holding_faults(holder.name, position, uses)


def holding_faults(name: str, position: str, uses: list[Use]) -> Iterator[Violation]:
    """One trough, from use to use."""
    for before, after in pairwise(sorted(uses, key=lambda taken: taken.begin)):
        missing = before.end - after.begin
        if missing > SLACK_MIN:
            text = f"batch {after.batch.number}: {position} is still taken by {before.run.id}"
            yield fault(after.run.id, name, text, missing)


def position_uses(scenario: Scenario, plan: Plan) -> dict[tuple[str, str], list[Use]]:
    """What each trough holds in a plan, by station and position."""
    line = scenario.line(plan.line)
    used: dict[tuple[str, str], list[Use]] = {}

    def use(station: str, position: str | None, begin: float, end: float, run: Run, batch: Batch) -> None:
        used.setdefault((station, position or ""), []).append(Use(begin, end, run, batch))

    for run in plan.runs:
        product = scenario.product(run.product)
        trough = product.route[1] if isinstance(product.route[1], HeldStep) else None
        for batch in run.batches:
            if trough:
                away = batch.divided_min + line.holder(trough.station).turn_round_min
                into = batch.discharged_min + product.mixing.rest_min
                use(trough.station, batch.trough, into, max(away, batch.last_piece_min), run, batch)
            for slot in batch.preparations:
                made = scenario.preparation(slot.preparation)
                if made.held:
                    away = slot.used_min + line.holder(made.held.station).turn_round_min
                    into = slot.discharged_min + made.mixing.rest_min
                    use(made.held.station, slot.position, into, away, run, batch)
    return used
