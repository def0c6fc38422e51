"""Scaling a formula to a batch: every ingredient to its own scale's resolution, the sum kept exactly."""

from rundgang.core.model import Model
from rundgang.core.plant import Ingredient
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario


class ScaledIngredient(Model):
    """One line of a batch card.

    Attributes
    ----------
    percent : float
        Baker's percent.
    grams : int
        To weigh, at the resolution of the ingredient's scale.
    at_min : float
        Minute of mixing at which it goes in.
    """

    ingredient: str
    name: str
    role: str
    percent: float
    grams: int
    at_min: float
    allergens: tuple[str, ...]


def scale_formula(scenario: Scenario, product: Product, dough_g: int) -> tuple[ScaledIngredient, ...]:
    """Weights of all ingredients for a dough.

    Each is rounded to its own scale; what rounding leaves over goes to the water, which is metered, so
    that the parts add up to the batch.

    Parameters
    ----------
    dough_g : int
        Mass of the whole dough, g.

    Returns
    -------
    tuple of ScaledIngredient
        In the formula's order. Their grams add up to `dough_g`.
    """
    total_percent = sum(line.percent for line in product.formula)
    exact = [dough_g * line.percent / total_percent for line in product.formula]
    items = [scenario.ingredient(line.ingredient) for line in product.formula]
    grams = [_to_step(mass, item) for mass, item in zip(exact, items, strict=True)]
    water = next(place for place, item in enumerate(items) if item.role == "water")
    grams[water] += dough_g - sum(grams)
    return tuple(
        ScaledIngredient(
            ingredient=item.id,
            name=item.name,
            role=item.role,
            percent=line.percent,
            grams=mass,
            at_min=line.at_min,
            allergens=tuple(sorted(item.allergens)),
        )
        for line, item, mass in zip(product.formula, items, grams, strict=True)
    )


def _to_step(mass_g: float, item: Ingredient) -> int:
    return round(mass_g / item.scale_step_g) * item.scale_step_g
