"""The formula as today's flour and weather ask for it: by measured moisture, or by the plant's rule on humidity.

A moisture that was measured counts; the rule of thumb is for days on which none was. Either way the batch keeps
its mass: flour and water trade places, or all else moves up by what is left out of the water.
"""

from typing import NamedTuple

from rundgang.core.dough.flour import REFERENCE_MOISTURE_PCT, room_rule, same_dry_matter
from rundgang.core.products import FormulaLine
from rundgang.core.scenario import Scenario


class AdjustedFormula(NamedTuple):
    """A formula after the correction, and what was corrected, in words; empty where nothing was."""

    formula: tuple[FormulaLine, ...]
    correction: str


def adjusted(scenario: Scenario, formula: tuple[FormulaLine, ...]) -> AdjustedFormula:
    """A dough's formula for today's conditions.

    Raises
    ------
    OutOfRangeError
        Flour so damp that more water would have to go than there is.
    """
    today, rule = scenario.conditions, scenario.plant.humidity_rule
    flour = sum(line.percent for line in formula if _role(scenario, line) == "flour")
    water = sum(line.percent for line in formula if _role(scenario, line) == "water")
    if not water:
        return AdjustedFormula(formula, "")
    if today.flour_moisture_pct is not None:
        if today.flour_moisture_pct == REFERENCE_MOISTURE_PCT or not flour:
            return AdjustedFormula(formula, "")
        found = same_dry_matter(flour, water, today.flour_moisture_pct)
        said = (
            f"Flour at {today.flour_moisture_pct:g} % moisture instead of {REFERENCE_MOISTURE_PCT:g} %: flour × "
            f"{found.flour_kg / flour:.4f}, water {found.water_kg - water:+.2f} % of flour."
        )
        return AdjustedFormula(_scaled(scenario, formula, found.flour_kg / flour, found.water_kg / water), said)
    if rule is None or today.humidity_pct is None or today.humidity_pct == rule.reference_pct:
        return AdjustedFormula(formula, "")
    kept = room_rule(water, today.humidity_pct, rule.reference_pct, rule.percent_per_ten)
    said = (
        f"Room at {today.humidity_pct:g} % humidity against {rule.reference_pct:g} %: by the plant's rule water "
        f"{(kept / water - 1) * 100:+.1f} %."
    )
    return AdjustedFormula(_scaled(scenario, formula, 1.0, kept / water), said)


def _role(scenario: Scenario, line: FormulaLine) -> str:
    if scenario.is_preparation(line.ingredient):
        return "preparation"
    return scenario.ingredient(line.ingredient).role


def _scaled(
    scenario: Scenario, formula: tuple[FormulaLine, ...], flours: float, waters: float
) -> tuple[FormulaLine, ...]:
    by_role = {"flour": flours, "water": waters}
    return tuple(
        line.model_copy(update={"percent": line.percent * by_role.get(_role(scenario, line), 1.0)}) for line in formula
    )
