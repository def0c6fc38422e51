"""The batch card: what to weigh, the water, when each thing goes in, and until when the dough is good."""

from collections.abc import Mapping
from typing import NamedTuple

from rundgang.core.cautions import Caution, Hazard, allergen_caution, cautions_for
from rundgang.core.dough.adjust import adjusted
from rundgang.core.dough.bowl_water import (
    HeatWater,
    Mixing,
    bowl_temperatures,
    co2_in_room,
    fixed_dry_ice_g,
    heat_water,
    rule_water,
    temperatures,
    water_share,
    water_to_draw,
)
from rundgang.core.dough.choice import SaidBy, said
from rundgang.core.dough.dry_ice import RoomCheck
from rundgang.core.dough.mixed import Dough, doughs, filling_key, preparation_key
from rundgang.core.dough.probe import DOUGH_TOLERANCE_C, Measured, Probe, probe_of
from rundgang.core.dough.scaling import ScaledIngredient, scale_formula
from rundgang.core.dough.water import Counts, Water
from rundgang.core.errors import UnknownItemError
from rundgang.core.kinds.batch import BatchStation, BatchStep, MixPhase
from rundgang.core.kinds.held import HeldStep
from rundgang.core.model import Model
from rundgang.core.planning.model import FillingBatch, LinePlan, PreparationSlot, Run
from rundgang.core.products import FormulaLine, Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR


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


class CardTask(Model):
    """What is to be done while it stands, and when, min."""

    minute: float
    what: str


class CardRest(Model):
    """What of a dough, or of a filling, is for the next run, and when that begins to use it.

    Attributes
    ----------
    pieces : int
        Of the product that it is divided into, or put on.
    """

    run: str
    product_name: str
    pieces: int
    piece: str
    grams: int
    from_min: float


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
    tasks : tuple of CardTask
        To be done there.
    correction : str
        What was changed in the formula for today's flour or weather.
    rework_g : int
        Dough from rejects and cut-outs of this batch that a later one may take back.
    water : Water or None
        What the card says; None where the formula has none.
    water_by, water_why : str
        Whether factor rule or heat balance says so, and why where it is not the rule.
    rule : Water or None
        By the factor rule.
    rest : CardRest or None
        What the next run takes of it.
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
    tasks: tuple[CardTask, ...] = ()
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
    rest: CardRest | None = None
    dry_ice_g: int = 0
    room: RoomCheck | None = None
    water: Water | None
    rule: Water | None = None
    water_by: SaidBy = "factor rule"
    water_why: str = ""
    heat: HeatWater | None
    friction: Friction
    probe: Probe | None
    cautions: tuple[Caution, ...]


Learnt = Mapping[tuple[str, str], Friction]
"""Friction learnt, by product and mixer."""

Log = Mapping[tuple[str, int], Measured]
"""Probes by run and batch number of one plan."""


class _Bowl(NamedTuple):
    """What a card is of: a dough, a preparation for it, or a filling; where it is made, when, and of what."""

    key: str
    name: str
    preparation: str | None
    number: int
    of: int
    mixer: str
    station: BatchStation
    step: BatchStep
    formula: tuple[FormulaLine, ...]
    start_min: float
    discharged_min: float
    used_min: float
    use_from_min: float
    use_by_min: float
    trough: str | None
    held: HeldStep | None
    grams: int
    wanted_c: float
    counts: tuple[Counts, ...]
    friction: Friction
    every_min: float


def batch_card(
    scenario: Scenario, dough: Dough, learnt: Learnt | None = None, log: Log | None = None
) -> BatchCard:  # fmt: skip
    """The card of one dough of a planned run.

    A batch that has been measured shows the factor it was mixed with; the others follow what the probes
    have taught.
    """
    run, batch = dough.run, dough.whole
    scenario = scenario.during(batch.start_min)
    product = scenario.product(run.product)
    step = product.mixing
    measured = (log or {}).get((run.id, batch.number))
    friction = (learnt or {}).get((product.id, batch.mixer), Friction(friction_c=step.friction_in(batch.mixer)))
    if measured:
        friction = Friction(friction_c=measured.friction_c)
    bowl = _Bowl(
        key=str(batch.number),
        name=product.name,
        preparation=None,
        number=batch.number,
        of=run.batches[-1].number,
        mixer=batch.mixer,
        station=scenario.line_of(product).mixers(step.station),
        step=step,
        formula=product.formula,
        start_min=batch.start_min,
        discharged_min=batch.discharged_min,
        used_min=batch.divided_min,
        use_from_min=batch.discharged_min + product.rest_min,
        use_by_min=batch.discharged_min + product.max_age_min,
        trough=batch.trough,
        held=product.trough,
        grams=batch.dough_g,
        wanted_c=product.dough_temperature_c,
        counts=temperatures(scenario, product),
        friction=friction,
        every_min=batch.last_piece_min - batch.divided_min,
    )
    card = _card(scenario, run, product, batch.pieces, bowl)
    probe = probe_of(product.dough_temperature_c, len(bowl.counts) + 1, measured)
    found = {"probe": probe, "rework_g": round(batch.pieces * product.reworked_g), "rest": _rest(scenario, dough)}
    return card.model_copy(update=found)


def _rest(scenario: Scenario, dough: Dough) -> CardRest | None:
    if dough.rest is None:
        return None
    run, part = dough.rest
    product = scenario.product(run.product)
    return CardRest(
        run=run.id,
        product_name=product.name,
        pieces=part.pieces,
        piece=product.piece,
        grams=part.dough_g,
        from_min=part.divided_min,
    )


def preparation_card(scenario: Scenario, dough: Dough, slot: PreparationSlot) -> BatchCard:
    """The card of a preparation made for one dough of a planned run."""
    run, batch = dough.run, dough.batch
    scenario = scenario.during(slot.start_min)
    bowl = _prepared_bowl(scenario, run, slot.preparation)._replace(
        key=preparation_key(batch, slot),
        number=batch.number,
        of=run.batches[-1].number,
        mixer=slot.mixer,
        start_min=slot.start_min,
        discharged_min=slot.discharged_min,
        used_min=slot.used_min,
        trough=slot.position,
        grams=slot.grams,
        every_min=batch.last_piece_min - batch.divided_min,
    )
    return _card(scenario, run, scenario.product(run.product), batch.pieces, _aged(scenario, bowl))


def filling_card(scenario: Scenario, plan: LinePlan, run: Run, filling: FillingBatch) -> BatchCard:
    """The card of a batch of a filling or topping made for a run of a plan."""
    scenario = scenario.during(filling.start_min)
    same = [other for other in run.fillings if other.preparation == filling.preparation]
    product = scenario.product(run.product)
    bowl = _prepared_bowl(scenario, run, filling.preparation)._replace(
        key=filling_key(filling),
        number=filling.number,
        of=same[-1].number,
        mixer=filling.kettle,
        start_min=filling.start_min,
        discharged_min=filling.mixed_min,
        used_min=filling.used_from_min,
        trough=filling.tank,
        grams=filling.grams,
        every_min=max(filling.used_until_min - filling.used_from_min, 1.0),
    )
    pieces = _pieces_with(run, filling)
    card = _card(scenario, run, product, pieces, _aged(scenario, bowl))
    return card.model_copy(update={"rest": _kept_for(scenario, plan, filling)})


def _pieces_with(run: Run, filling: FillingBatch) -> int:
    """How many pieces of a run have a batch of a filling on them."""
    same = [other for other in run.fillings if other.preparation == filling.preparation]
    return round(run.pieces * filling.used_g / sum(other.used_g for other in same))


def _kept_for(scenario: Scenario, plan: LinePlan, filling: FillingBatch) -> CardRest | None:
    """What is left of a batch for the next run that uses it."""
    for run in plan.runs:
        for kept in (other for other in run.fillings if other.kept and other.is_of(filling)):
            product = scenario.product(run.product)
            return CardRest(
                run=run.id,
                product_name=product.name,
                pieces=_pieces_with(run, kept),
                piece=product.piece,
                grams=kept.grams,
                from_min=kept.used_from_min,
            )
    return None


def _prepared_bowl(scenario: Scenario, run: Run, name: str) -> _Bowl:
    """A preparation's bowl; when and how much is still to say."""
    product, made = scenario.product(run.product), scenario.preparation(name)
    return _Bowl(
        key="",
        name=f"{made.name} for {product.name}",
        preparation=made.id,
        number=1,
        of=1,
        mixer="",
        station=scenario.line(made.line).mixers(made.mixing.station),
        step=made.mixing,
        formula=made.formula,
        start_min=0.0,
        discharged_min=0.0,
        used_min=0.0,
        use_from_min=0.0,
        use_by_min=0.0,
        trough=None,
        held=made.held,
        grams=0,
        wanted_c=made.temperature_c,
        counts=bowl_temperatures(scenario, made),
        friction=Friction(friction_c=made.mixing.friction_c),
        every_min=1.0,
    )


def _aged(scenario: Scenario, bowl: _Bowl) -> _Bowl:
    """A preparation's bowl with its least and most age at use."""
    made = scenario.preparation(bowl.preparation or "")
    return bowl._replace(
        use_from_min=bowl.discharged_min + made.least_hold_min, use_by_min=bowl.discharged_min + made.most_hold_min
    )


def _card(scenario: Scenario, run: Run, product: Product, pieces: int, bowl: _Bowl) -> BatchCard:
    formula, correction = adjusted(scenario, bowl.formula)
    ingredients = scale_formula(scenario, formula, bowl.grams)
    rule = rule_water(scenario, ingredients, bowl.wanted_c, bowl.counts, bowl.friction.friction_c)
    mixing = Mixing(bowl.step, bowl.station, bowl.wanted_c, bowl.every_min)
    heat = heat_water(scenario, mixing, ingredients, rule)
    chosen = said(rule, water_to_draw(scenario, rule, heat), heat.water_c if heat else None, water_share(ingredients))
    dry_ice_g = fixed_dry_ice_g(bowl.step, ingredients)
    return BatchCard(
        run=run.id,
        key=bowl.key,
        product=product.id,
        product_name=bowl.name,
        preparation=bowl.preparation,
        number=bowl.number,
        of=bowl.of,
        mixer=bowl.mixer,
        start_min=bowl.start_min,
        discharged_min=bowl.discharged_min,
        divided_min=bowl.used_min,
        divide_from_min=bowl.use_from_min,
        divide_by_min=bowl.use_by_min,
        trough=bowl.trough,
        tasks=_tasks(bowl),
        charge_min=bowl.step.charge_min,
        discharge_min=bowl.step.discharge_min,
        pieces=pieces,
        piece=product.piece,
        dough_g=bowl.grams,
        dough_temperature_c=bowl.wanted_c,
        dough_tolerance_c=DOUGH_TOLERANCE_C,
        phases=bowl.step.phases,
        ingredients=ingredients,
        correction=correction,
        dry_ice_g=dry_ice_g,
        room=co2_in_room(bowl.station, dry_ice_g, MINUTES_PER_HOUR / bowl.every_min),
        water=chosen.water,
        water_by=chosen.by,
        water_why=chosen.why,
        rule=rule,
        heat=heat,
        friction=bowl.friction,
        probe=None,
        cautions=_cautions(scenario, bowl.step, bowl.station, ingredients),
    )


def _tasks(bowl: _Bowl) -> tuple[CardTask, ...]:
    """What is to be done while it stands, as far as it is not used before."""
    into = bowl.discharged_min + bowl.step.rest_min
    tasks = bowl.held.tasks if bowl.held else ()
    found = (CardTask(minute=into + task.at_min, what=task.what) for task in tasks)
    return tuple(task for task in found if task.minute < bowl.used_min)


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
    """All cards of a plan, those of preparations and fillings too, in the order of the clock."""
    mixed = tuple(doughs(plan))
    cards = [batch_card(scenario, dough, learnt, log) for dough in mixed]
    cards += [preparation_card(scenario, dough, slot) for dough in mixed for slot in dough.whole.preparations]
    cards += [filling_card(scenario, plan, run, filling) for run in plan.runs for filling in run.made_fillings]
    return tuple(sorted(cards, key=lambda card: (card.start_min, card.mixer)))


def find_card(
    scenario: Scenario, plan: LinePlan, run_id: str, key: str, learnt: Learnt | None = None, log: Log | None = None
) -> BatchCard:
    """A card of a plan by its run and key, or UnknownItemError."""
    for dough in doughs(plan):
        if dough.run.id != run_id:
            continue
        if key == str(dough.batch.number):
            return batch_card(scenario, dough, learnt, log)
        for slot in dough.whole.preparations:
            if key == preparation_key(dough.batch, slot):
                return preparation_card(scenario, dough, slot)
    for run in (run for run in plan.runs if run.id == run_id):
        for filling in run.made_fillings:
            if key == filling_key(filling):
                return filling_card(scenario, plan, run, filling)
    raise UnknownItemError("batch", f"{run_id} {key}", tuple(run.id for run in plan.runs))
