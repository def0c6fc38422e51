"""Scaling a formula to a batch: every ingredient to its own scale's resolution, the sum kept exactly."""

from typing import Literal

from rundgang.core.model import Model
from rundgang.core.products import FormulaLine
from rundgang.core.scenario import Scenario

Role = Literal["flour", "water", "other", "packing", "preparation"]

PREPARATION_STEP_G = 1
"""A preparation is made for its dough, to the gram: all of its trough goes in."""


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
    role: Role
    percent: float
    grams: int
    at_min: float
    allergens: tuple[str, ...]


class _Weighed(Model):
    """What a formula names, as the scale needs it."""

    name: str
    role: Role
    step_g: int
    allergens: tuple[str, ...]


def scale_formula(scenario: Scenario, formula: tuple[FormulaLine, ...], total_g: int) -> tuple[ScaledIngredient, ...]:
    """Weights of all ingredients for a dough or a preparation.

    Each is rounded to its own scale; what rounding leaves over goes to the water, which is metered, or where
    there is none to the heaviest ingredient, so that the parts add up to the batch.

    Parameters
    ----------
    total_g : int
        Mass of the whole batch, g.

    Returns
    -------
    tuple of ScaledIngredient
        In the formula's order. Their grams add up to `total_g`.
    """
    total_percent = sum(line.percent for line in formula)
    exact = [total_g * line.percent / total_percent for line in formula]
    items = [_weighed(scenario, line.ingredient) for line in formula]
    grams = [round(mass / item.step_g) * item.step_g for mass, item in zip(exact, items, strict=True)]
    waters = [place for place, item in enumerate(items) if item.role == "water"]
    takes_rest = waters[0] if waters else grams.index(max(grams))
    grams[takes_rest] += total_g - sum(grams)
    return tuple(
        ScaledIngredient(
            ingredient=line.ingredient,
            name=item.name,
            role=item.role,
            percent=line.percent,
            grams=mass,
            at_min=line.at_min,
            allergens=item.allergens,
        )
        for line, item, mass in zip(formula, items, grams, strict=True)
    )


def _weighed(scenario: Scenario, item_id: str) -> _Weighed:
    if scenario.is_preparation(item_id):
        inside = [scenario.ingredient(line.ingredient).allergens for line in scenario.formula_of(item_id)]
        brought = tuple(sorted(frozenset().union(*inside)))
        name = scenario.item_name(item_id)
        return _Weighed(name=name, role="preparation", step_g=PREPARATION_STEP_G, allergens=brought)
    item = scenario.ingredient(item_id)
    allergens = tuple(sorted(item.allergens))
    return _Weighed(name=item.name, role=item.role, step_g=item.scale_step_g, allergens=allergens)
