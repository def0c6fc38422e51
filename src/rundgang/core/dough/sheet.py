"""A product's sheet: what follows from its formula and its way, without a plan."""

from rundgang.core.dough.scaling import ScaledIngredient, scale_formula
from rundgang.core.model import Model
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import GRAMS_PER_KG


class ProductSheet(Model):
    """What follows from a product's formula and way.

    Attributes
    ----------
    scaling_g : float
        Dough in one piece as it enters the first step after mixing, g.
    batch_kg : float
        The largest dough.
    formula : tuple of ScaledIngredient
        Weighed for that dough.
    allergens : tuple of str
        From its ingredients.
    """

    scaling_g: float
    batch_kg: float
    formula: tuple[ScaledIngredient, ...]
    allergens: tuple[str, ...]


def product_sheet(scenario: Scenario, product: Product, batch_kg: float) -> ProductSheet:
    """What a product weighs, and what is weighed for a dough of so many kg."""
    whole = scenario.whole(product)
    return ProductSheet(
        scaling_g=whole.scaling_g,
        batch_kg=batch_kg,
        formula=scale_formula(scenario, whole.formula, round(batch_kg * GRAMS_PER_KG)),
        allergens=tuple(sorted(scenario.allergens(product))),
    )
