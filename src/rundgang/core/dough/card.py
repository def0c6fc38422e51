"""The batch card: what to weigh, the water, when each thing goes in, and until when the dough is good."""

from collections.abc import Mapping
from typing import NamedTuple

from rundgang.core.cautions import Caution, Hazard, allergen_caution, cautions_for
from rundgang.core.dough.adjust import adjusted
from rundgang.core.dough.dry_ice import RoomCheck, room_check
from rundgang.core.dough.friction import SMOOTHING
from rundgang.core.dough.heat_balance import Bowl, Remedy, remedies, water_by_heat
from rundgang.core.dough.proof import BAKERS, activity
from rundgang.core.dough.scaling import ScaledIngredient, scale_formula
from rundgang.core.dough.water import Counts, Water, water_for
from rundgang.core.errors import UnknownItemError
from rundgang.core.kinds.batch import BatchStation, BatchStep, MixPhase
from rundgang.core.kinds.parts import SECONDS_PER_MINUTE
from rundgang.core.model import Model
from rundgang.core.planning.model import Batch, LinePlan, PreparationSlot, Run
from rundgang.core.products import Preparation, Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import GRAMS_PER_KG, MINUTES_PER_HOUR

DOUGH_TOLERANCE_C = 1.0
"""So far from the temperature wanted a dough is still good, K (common practice, no published source)."""


DRY_ICE_STEP_G = 100
"""Dry ice is weighed no finer than this, g."""


class Friction(Model):
    """The friction factor a card was calculated with.

    Attributes
    ----------
    readings : int
        Probes it was learnt from; 0 where it is the product's own.
    """

    friction_c: float
    spread_c: float = 0
    readings: int = 0


class Measured(NamedTuple):
    """A probe as the log holds it: the dough that came out, the water and the friction factor that went in."""

    dough_c: float
    water_c: float
    friction_c: float


class Probe(Model):
    """What was measured in a dough, and what it means for this batch.

    Attributes
    ----------
    water_c : float
        Temperature of the water it was mixed with.
    above_c : float
        Dough above the temperature wanted, K.
    good : bool
        Within `DOUGH_TOLERANCE_C`.
    yeast_pace : float
        Pace of its yeast, as a share of what it would be at the temperature wanted.
    lesson : str
        What the next dough learns from it.
    """

    dough_c: float
    water_c: float
    above_c: float
    good: bool
    yeast_pace: float
    lesson: str


class HeatWater(Model):
    """The water by heat balance, beside the rule's.

    Attributes
    ----------
    remedies : tuple of Remedy
        What each single measure would give, where all the water as ice does not reach.
    """

    water_c: float
    ice_kg: float
    short_k: float
    equation: str
    remedies: tuple[Remedy, ...] = ()


class BatchCard(Model):
    """One dough, or one preparation made for it, as the dough room needs it.

    Times in minutes from the window's start.

    Attributes
    ----------
    key : str
        Names the card within its run.
    preparation : str or None
        The preparation that is made; None for the dough itself.
    number, of : int
        Which batch of how many of the run.
    discharged_min : float
        When it leaves the mixer.
    divide_from_min, divide_by_min : float
        Earliest first piece and latest last piece, by rest and by age; of a preparation, earliest and latest use.
    divided_min : float
        When the plan divides the first piece, or uses the preparation.
    trough : str or None
        Where it stands meanwhile.
    correction : str
        What was changed in the formula for today's flour or weather.
    rework_g : int
        Dough from rejects and cut-outs of this batch that a later one may take back.
    water : Water or None
        None where the formula has none.
    room : RoomCheck or None
        CO2 in the room, where dry ice goes in.
    """

    run: str
    key: str
    product: str
    product_name: str
    preparation: str | None = None
    number: int
    of: int
    mixer: str
    start_min: float
    discharged_min: float
    divided_min: float
    divide_from_min: float
    divide_by_min: float
    trough: str | None = None
    charge_min: float
    discharge_min: float
    pieces: int
    piece: str
    dough_g: int
    dough_temperature_c: float
    dough_tolerance_c: float
    phases: tuple[MixPhase, ...]
    ingredients: tuple[ScaledIngredient, ...]
    correction: str = ""
    rework_g: int = 0
    dry_ice_g: int = 0
    room: RoomCheck | None = None
    water: Water | None
    heat: HeatWater | None
    friction: Friction
    probe: Probe | None
    cautions: tuple[Caution, ...]


Learnt = Mapping[tuple[str, str], Friction]
"""Friction learnt, by product and mixer."""

Log = Mapping[tuple[str, int], Measured]
"""Probes by run and batch number of one plan."""


def batch_card(
    scenario: Scenario, run: Run, batch: Batch, learnt: Learnt | None = None, log: Log | None = None
) -> BatchCard:
    """The card of one batch of a planned run.

    A batch that has been measured shows the factor it was mixed with; the others follow what the probes
    have taught.
    """
    product = scenario.product(run.product)
    step = product.mixing
    mixers = scenario.line_of(product).mixers(step.station)
    formula, correction = adjusted(scenario, product.formula)
    ingredients = scale_formula(scenario, formula, batch.dough_g)
    measured = (log or {}).get((run.id, batch.number))
    friction = (learnt or {}).get((product.id, batch.mixer), Friction(friction_c=step.friction_c))
    if measured:
        friction = Friction(friction_c=measured.friction_c)
    counts = temperatures(scenario, product)
    water = _by_rule(scenario, ingredients, product.dough_temperature_c, counts, friction.friction_c)
    dry_ice_g = _dry_ice_g(step, ingredients)
    batches_per_h = MINUTES_PER_HOUR / (batch.last_piece_min - batch.divided_min)
    return BatchCard(
        run=run.id,
        key=str(batch.number),
        product=product.id,
        product_name=product.name,
        number=batch.number,
        of=len(run.batches),
        mixer=batch.mixer,
        start_min=batch.start_min,
        discharged_min=batch.discharged_min,
        divided_min=batch.divided_min,
        divide_from_min=batch.discharged_min + product.rest_min,
        divide_by_min=batch.discharged_min + product.max_age_min,
        trough=batch.trough,
        charge_min=step.charge_min,
        discharge_min=step.discharge_min,
        pieces=batch.pieces,
        piece=product.piece,
        dough_g=batch.dough_g,
        dough_temperature_c=product.dough_temperature_c,
        dough_tolerance_c=DOUGH_TOLERANCE_C,
        phases=step.phases,
        ingredients=ingredients,
        correction=correction,
        rework_g=round(batch.pieces * product.reworked_g),
        dry_ice_g=dry_ice_g,
        room=_room(mixers, dry_ice_g, batches_per_h),
        water=water,
        heat=_by_heat(scenario, step, mixers, ingredients, product.dough_temperature_c, water),
        friction=friction,
        probe=_probe(product.dough_temperature_c, len(counts) + 1, measured),
        cautions=_cautions(scenario, step, mixers, ingredients),
    )


def preparation_card(scenario: Scenario, run: Run, batch: Batch, slot: PreparationSlot) -> BatchCard:
    """The card of a preparation made for one batch of a planned run."""
    product, made = scenario.product(run.product), scenario.preparation(slot.preparation)
    step = made.mixing
    mixers = scenario.line(made.line).mixers(step.station)
    formula, correction = adjusted(scenario, made.formula)
    ingredients = scale_formula(scenario, formula, slot.grams)
    water = _by_rule(scenario, ingredients, made.temperature_c, bowl_temperatures(scenario, made), step.friction_c)
    dry_ice_g = _dry_ice_g(step, ingredients)
    batches_per_h = MINUTES_PER_HOUR / (batch.last_piece_min - batch.divided_min)
    return BatchCard(
        run=run.id,
        key=f"{batch.number}-{made.id}",
        product=product.id,
        product_name=f"{made.name} for {product.name}",
        preparation=made.id,
        number=batch.number,
        of=len(run.batches),
        mixer=slot.mixer,
        start_min=slot.start_min,
        discharged_min=slot.discharged_min,
        divided_min=slot.used_min,
        divide_from_min=slot.discharged_min + made.least_hold_min,
        divide_by_min=slot.discharged_min + made.most_hold_min,
        trough=slot.position,
        charge_min=step.charge_min,
        discharge_min=step.discharge_min,
        pieces=batch.pieces,
        piece=product.piece,
        dough_g=slot.grams,
        dough_temperature_c=made.temperature_c,
        dough_tolerance_c=DOUGH_TOLERANCE_C,
        phases=step.phases,
        ingredients=ingredients,
        correction=correction,
        dry_ice_g=dry_ice_g,
        room=_room(mixers, dry_ice_g, batches_per_h),
        water=water,
        heat=_by_heat(scenario, step, mixers, ingredients, made.temperature_c, water),
        friction=Friction(friction_c=step.friction_c),
        probe=None,
        cautions=_cautions(scenario, step, mixers, ingredients),
    )


def temperatures(scenario: Scenario, product: Product) -> tuple[Counts, ...]:
    """What counts in a dough's rule besides the water: flour, room, and a pre-ferment, °C."""
    prepared = tuple(Counts(made.name.lower(), made.used_c) for made, _ in scenario.preparations_in(product))
    return (*_flour_and_room(scenario), *prepared)


def bowl_temperatures(scenario: Scenario, made: Preparation) -> tuple[Counts, ...]:
    """What counts in a preparation's rule: flour and room; of one without flour, the room alone, °C."""
    with_flour = any(scenario.ingredient(line.ingredient).role == "flour" for line in made.formula)
    return _flour_and_room(scenario) if with_flour else _flour_and_room(scenario)[1:]


def _flour_and_room(scenario: Scenario) -> tuple[Counts, Counts]:
    today = scenario.conditions
    return Counts("flour", today.flour_c), Counts("room", today.room_c)


def _by_rule(
    scenario: Scenario,
    ingredients: tuple[ScaledIngredient, ...],
    wanted_c: float,
    counts: tuple[Counts, ...],
    friction_c: float,
) -> Water | None:
    total = sum(line.grams for line in ingredients if line.role == "water")
    return water_for(wanted_c, counts, scenario.conditions, total, friction_c) if total else None


def _probe(wanted: float, temperatures_counted: int, measured: Measured | None) -> Probe | None:
    if measured is None:
        return None
    above = measured.dough_c - wanted
    return Probe(
        dough_c=measured.dough_c,
        water_c=measured.water_c,
        above_c=above,
        good=abs(above) <= DOUGH_TOLERANCE_C,
        lesson=(
            f"A dough {above:+.1f} K off means a friction factor {temperatures_counted * above:+.1f} K off; the next "
            f"dough takes {SMOOTHING:.0%} of it, unless the reading stands far from its neighbours."
        ),
        yeast_pace=_yeast_pace(measured.dough_c, wanted),
    )


def _yeast_pace(dough_c: float, wanted_c: float) -> float:
    """Pace of the yeast, as a share of what it would be at the temperature wanted; 1 where it rests at both."""
    wanted = activity(BAKERS, wanted_c)
    return activity(BAKERS, dough_c) / wanted if wanted else 1.0


def _dry_ice_g(step: BatchStep, ingredients: tuple[ScaledIngredient, ...]) -> int:
    flour = sum(line.grams for line in ingredients if line.role == "flour")
    return round(flour * step.dry_ice_pct / 100 / DRY_ICE_STEP_G) * DRY_ICE_STEP_G


def _room(mixers: BatchStation, dry_ice_g: int, batches_per_h: float) -> RoomCheck | None:
    """CO2 in the mixers' room at the plan's pace, where dry ice goes in and the room is known."""
    if not dry_ice_g or mixers.room_m3 is None or mixers.air_changes_per_h is None:
        return None
    return room_check(dry_ice_g / GRAMS_PER_KG * batches_per_h, mixers.room_m3, mixers.air_changes_per_h)


def _by_heat(
    scenario: Scenario,
    step: BatchStep,
    mixers: BatchStation,
    ingredients: tuple[ScaledIngredient, ...],
    wanted_c: float,
    by_rule: Water | None,
) -> HeatWater | None:
    """The water by heat balance, where the mixing work is known; all but flour and water at room temperature.

    Where neither rule nor balance can cool the dough enough, it says what each remedy would give.
    """
    work = step.work_wh_per_kg
    kilograms: dict[str, float] = {}
    for line in ingredients:
        kilograms[line.role] = kilograms.get(line.role, 0.0) + line.grams / GRAMS_PER_KG
    if work is None or not {"flour", "water"} <= kilograms.keys():
        return None
    today = scenario.conditions
    prepared = [line for line in ingredients if line.role == "preparation"]
    warmth = sum(line.grams * scenario.preparation(line.ingredient).used_c for line in prepared)
    bowl = Bowl(
        flour_kg=kilograms["flour"],
        water_kg=kilograms["water"],
        other_kg=kilograms.get("other", 0.0),
        preparation_kg=kilograms.get("preparation", 0.0),
        preparation_c=warmth / sum(line.grams for line in prepared) if prepared else 0.0,
        flour_c=today.flour_c,
        other_c=today.room_c,
        tap_c=min(today.tap_c, today.chilled_c) if today.chilled_c is not None else today.tap_c,
        work_wh_per_kg=work,
        jacket_kj=mixers.jacket_kw * step.mix_min * SECONDS_PER_MINUTE,
        dry_ice_kg=_dry_ice_g(step, ingredients) / GRAMS_PER_KG,
    )
    found = water_by_heat(bowl, wanted_c)
    return HeatWater(
        water_c=found.water_c,
        ice_kg=found.ice_kg,
        short_k=found.short_k,
        equation=_heat_words(bowl, found.water_c),
        remedies=remedies(bowl, wanted_c) if found.short_k > 0 or _too_warm(by_rule) else (),
    )


def _too_warm(water: Water | None) -> bool:
    """Whether all the water as ice is not enough by the rule."""
    return water is not None and not water.feasible and water.ice_g > 0


def _heat_words(bowl: Bowl, water_c: float) -> str:
    less = f" less {bowl.jacket_kj:.0f} kJ by the jacket" if bowl.jacket_kj else ""
    less += f" less {bowl.dry_ice_kg:.1f} kg of dry ice" if bowl.dry_ice_kg else ""
    prepared = f", a preparation at {bowl.preparation_c:.1f}" if bowl.preparation_kg else ""
    return (
        f"{bowl.work_wh_per_kg:g} Wh/kg × {bowl.dough_kg:.1f} kg of mixing{less}, taken up by flour at "
        f"{bowl.flour_c:.1f}{prepared}, the rest at {bowl.other_c:.1f} and the water = {water_c:.1f} °C"
    )


def _cautions(
    scenario: Scenario, step: BatchStep, mixers: BatchStation, ingredients: tuple[ScaledIngredient, ...]
) -> tuple[Caution, ...]:
    """What can hurt someone at this bowl: the mixer, what goes in, and its allergens."""
    hazards: list[Hazard] = ["mixer", *mixers.hazards]
    if any(line.role == "flour" for line in ingredients):
        hazards.append("flour-dust")
    if step.dry_ice_pct:
        hazards.append("dry-ice")
    for line in ingredients:
        if line.role != "preparation":
            hazards += scenario.ingredient(line.ingredient).hazards
    allergens = tuple(sorted({allergen for line in ingredients for allergen in line.allergens}))
    return (*cautions_for(hazards), *((allergen_caution(allergens),) if allergens else ()))


def batch_cards(
    scenario: Scenario, plan: LinePlan, learnt: Learnt | None = None, log: Log | None = None
) -> tuple[BatchCard, ...]:
    """All cards of a plan, the preparations' too, in the order of the clock."""
    cards = [batch_card(scenario, run, batch, learnt, log) for run in plan.runs for batch in run.batches]
    cards += [
        preparation_card(scenario, run, batch, slot)
        for run in plan.runs
        for batch in run.batches
        for slot in batch.preparations
    ]
    return tuple(sorted(cards, key=lambda card: (card.start_min, card.mixer)))


def find_batch(plan: LinePlan, run_id: str, number: int) -> tuple[Run, Batch]:
    """A batch of a plan with its run, or UnknownItemError."""
    for run in plan.runs:
        for batch in run.batches:
            if (run.id, batch.number) == (run_id, number):
                return run, batch
    raise UnknownItemError("batch", f"{run_id} {number}", tuple(run.id for run in plan.runs))
