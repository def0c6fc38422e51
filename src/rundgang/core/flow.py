"""Where the mass goes: every kilogram on its way from the mixer to the pack, at a pace.

What comes into a step and what it adds is what goes out, what is baked or fried away, what is cut out, and
what is rejected; of the cut-out and the rejected some goes back into a dough.
"""

from rundgang.core.kinds.rate import cut_out_of
from rundgang.core.model import Model
from rundgang.core.products import Product
from rundgang.core.units import GRAMS_PER_KG


class StepFlow(Model):
    """One step's mass balance, kg/h: in + added = out + evaporated + cut out + rejected.

    Attributes
    ----------
    pieces_in, pieces_out : float
        Good pieces, an hour.
    reworked : float
        Of what is cut out and rejected here, what goes back into a dough, kg/h.
    """

    station: str
    pieces_in: float
    pieces_out: float
    in_kg: float
    added_kg: float
    evaporated_kg: float
    cut_out_kg: float
    rejected_kg: float
    reworked_kg: float
    out_kg: float


def mass_flow(product: Product, pace_per_h: float) -> tuple[StepFlow, ...]:
    """The mass balance of every step after mixing, at so many finished pieces an hour."""
    needs = product.taken_per_finished
    flows = []
    for place, (step, need) in enumerate(zip(product.piece_steps, needs, strict=True)):
        taken = pace_per_h * float(need)
        made = taken / float(step.conversion)
        entering_kg = product.entering_g[place] / GRAMS_PER_KG
        added_kg = made * step.added_g / GRAMS_PER_KG
        cut = cut_out_of(step)
        cut_kg = made * cut.grams / GRAMS_PER_KG if cut else 0.0
        baked = place == product.bake_place
        evaporated_kg = taken * entering_kg * product.bake_loss if baked else 0.0
        whole_kg = taken * entering_kg + added_kg - evaporated_kg - cut_kg
        rejected_kg = whole_kg * (1 - step.yield_)
        back = rejected_kg * step.rework + (cut_kg if cut and cut.product is None else 0.0)
        flows.append(
            StepFlow(
                station=step.station,
                pieces_in=taken,
                pieces_out=made * step.yield_,
                in_kg=taken * entering_kg,
                added_kg=added_kg,
                evaporated_kg=evaporated_kg,
                cut_out_kg=cut_kg,
                rejected_kg=rejected_kg,
                reworked_kg=back,
                out_kg=whole_kg * step.yield_,
            )
        )
    return tuple(flows)
