"""The batch card: what to weigh, the water, when each thing goes in, and until when the dough is good."""

from collections.abc import Mapping
from typing import NamedTuple

from rundgang.core.cautions import FLOUR_DUST, MIXER, Caution, allergen_caution
from rundgang.core.dough.friction import SMOOTHING
from rundgang.core.dough.heat_balance import Bowl, water_by_heat
from rundgang.core.dough.proof import BAKERS, activity
from rundgang.core.dough.scaling import ScaledIngredient, scale_formula
from rundgang.core.dough.water import TEMPERATURES, Water, water_for
from rundgang.core.errors import UnknownItemError
from rundgang.core.model import Model
from rundgang.core.planning.plan import Batch, Plan, Run
from rundgang.core.products import MixPhase, Product
from rundgang.core.scenario import Scenario

DOUGH_TOLERANCE_C = 1.0
"""So far from the temperature wanted a dough is still good, K (common practice, no published source)."""


class Friction(Model):
    """The friction factor a card was reckoned with.

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


class HeatSchool(Model):
    """The water by heat balance, beside the rule's."""

    water_c: float
    ice_kg: float
    short_k: float
    equation: str


class BatchCard(Model):
    """One dough, as the dough room needs it. Times in minutes from the horizon's start.

    Attributes
    ----------
    number, of : int
        Which batch of how many of the run.
    discharged_min : float
        When the dough leaves the mixer.
    divide_from_min, divide_by_min : float
        Earliest first piece and latest last piece, by rest and by age.
    divided_min : float
        When the plan divides the first piece.
    """

    run: str
    product: str
    product_name: str
    number: int
    of: int
    mixer: str
    start_min: float
    discharged_min: float
    divided_min: float
    divide_from_min: float
    divide_by_min: float
    charge_min: float
    discharge_min: float
    pieces: int
    piece: str
    dough_g: int
    dough_temperature_c: float
    dough_tolerance_c: float
    phases: tuple[MixPhase, ...]
    ingredients: tuple[ScaledIngredient, ...]
    water: Water
    heat: HeatSchool | None
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
    ingredients = scale_formula(scenario, product, batch.dough_g)
    total_water = sum(line.grams for line in ingredients if line.role == "water")
    allergens = tuple(sorted(scenario.allergens(product)))
    measured = (log or {}).get((run.id, batch.number))
    friction = (learnt or {}).get((product.id, batch.mixer), Friction(friction_c=step.friction_c))
    if measured:
        friction = Friction(friction_c=measured.friction_c)
    return BatchCard(
        run=run.id,
        product=product.id,
        product_name=product.name,
        number=batch.number,
        of=len(run.batches),
        mixer=batch.mixer,
        start_min=batch.start_min,
        discharged_min=batch.discharged_min,
        divided_min=batch.divided_min,
        divide_from_min=batch.discharged_min + step.rest_min,
        divide_by_min=batch.discharged_min + step.max_age_min,
        charge_min=step.charge_min,
        discharge_min=step.discharge_min,
        pieces=batch.pieces,
        piece=product.piece,
        dough_g=batch.dough_g,
        dough_temperature_c=product.dough_temperature_c,
        dough_tolerance_c=DOUGH_TOLERANCE_C,
        phases=step.phases,
        ingredients=ingredients,
        water=water_for(product, scenario.conditions, total_water, friction.friction_c),
        heat=_by_heat(scenario, product, ingredients),
        friction=friction,
        probe=_probe(product, measured),
        cautions=(MIXER, FLOUR_DUST, *((allergen_caution(allergens),) if allergens else ())),
    )


def _probe(product: Product, measured: Measured | None) -> Probe | None:
    if measured is None:
        return None
    wanted = product.dough_temperature_c
    above = measured.dough_c - wanted
    return Probe(
        dough_c=measured.dough_c,
        water_c=measured.water_c,
        above_c=above,
        good=abs(above) <= DOUGH_TOLERANCE_C,
        lesson=(
            f"A dough {above:+.1f} K off means a friction factor {TEMPERATURES * above:+.1f} K off; the next dough "
            f"takes {SMOOTHING:.0%} of it, unless the reading stands far from its neighbours."
        ),
        yeast_pace=activity(BAKERS, measured.dough_c) / activity(BAKERS, wanted),
    )


def _by_heat(scenario: Scenario, product: Product, ingredients: tuple[ScaledIngredient, ...]) -> HeatSchool | None:
    """The water by heat balance, where the mixing work is known; all but flour and water at room temperature."""
    work = product.mixing.work_wh_per_kg
    if work is None:
        return None
    kilograms = dict.fromkeys(("flour", "water", "other"), 0.0)
    for line in ingredients:
        kilograms[line.role] += line.grams / 1_000
    today = scenario.conditions
    bowl = Bowl(
        flour_kg=kilograms["flour"],
        water_kg=kilograms["water"],
        other_kg=kilograms["other"],
        flour_c=today.flour_c,
        other_c=today.room_c,
        tap_c=today.tap_c,
        work_wh_per_kg=work,
    )
    found = water_by_heat(bowl, product.dough_temperature_c)
    return HeatSchool(
        water_c=found.water_c,
        ice_kg=found.ice_kg,
        short_k=found.short_k,
        equation=(
            f"{work:g} Wh/kg × {bowl.dough_kg:.1f} kg of mixing, taken up by flour at {today.flour_c:.1f}, the rest "
            f"at {today.room_c:.1f} and the water = {found.water_c:.1f} °C"
        ),
    )


def batch_cards(
    scenario: Scenario, plan: Plan, learnt: Learnt | None = None, log: Log | None = None
) -> tuple[BatchCard, ...]:
    """All cards of a plan, in the order of the clock."""
    cards = (batch_card(scenario, run, batch, learnt, log) for run in plan.runs for batch in run.batches)
    return tuple(sorted(cards, key=lambda card: (card.start_min, card.mixer)))


def find_batch(plan: Plan, run_id: str, number: int) -> tuple[Run, Batch]:
    """A batch of a plan with its run, or UnknownItemError."""
    for run in plan.runs:
        for batch in run.batches:
            if (run.id, batch.number) == (run_id, number):
                return run, batch
    raise UnknownItemError("batch", f"{run_id} {number}", tuple(run.id for run in plan.runs))
