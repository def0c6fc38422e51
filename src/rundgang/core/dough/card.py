"""The batch card: what to weigh, the water, when each thing goes in, and until when the dough is good."""

from rundgang.core.cautions import FLOUR_DUST, MIXER, Caution, allergen_caution
from rundgang.core.dough.scaling import ScaledIngredient, scale_formula
from rundgang.core.dough.water import Water, water_for
from rundgang.core.errors import UnknownItemError
from rundgang.core.model import Model
from rundgang.core.planning.plan import Batch, Plan, Run
from rundgang.core.products import MixPhase
from rundgang.core.scenario import Scenario


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
    phases: tuple[MixPhase, ...]
    ingredients: tuple[ScaledIngredient, ...]
    water: Water
    cautions: tuple[Caution, ...]


def batch_card(scenario: Scenario, run: Run, batch: Batch) -> BatchCard:
    """The card of one batch of a planned run."""
    product = scenario.product(run.product)
    step = product.mixing
    ingredients = scale_formula(scenario, product, batch.dough_g)
    total_water = sum(line.grams for line in ingredients if line.role == "water")
    allergens = tuple(sorted(scenario.allergens(product)))
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
        phases=step.phases,
        ingredients=ingredients,
        water=water_for(product, scenario.conditions, total_water),
        cautions=(MIXER, FLOUR_DUST, *((allergen_caution(allergens),) if allergens else ())),
    )


def batch_cards(scenario: Scenario, plan: Plan) -> tuple[BatchCard, ...]:
    """All cards of a plan, in the order of the clock."""
    cards = (batch_card(scenario, run, batch) for run in plan.runs for batch in run.batches)
    return tuple(sorted(cards, key=lambda card: (card.start_min, card.mixer)))


def one_card(scenario: Scenario, plan: Plan, run_id: str, number: int) -> BatchCard:
    """One card of a plan, or UnknownItemError."""
    for run in plan.runs:
        for batch in run.batches:
            if (run.id, batch.number) == (run_id, number):
                return batch_card(scenario, run, batch)
    raise UnknownItemError("batch", f"{run_id} {number}", tuple(run.id for run in plan.runs))
