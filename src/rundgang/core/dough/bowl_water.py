"""The water of a bowl: by the factor rule and by heat balance, with ice or dry ice, for a dough as it is scaled."""

from typing import NamedTuple

from rundgang.core.dough.dry_ice import RoomCheck, room_check
from rundgang.core.dough.heat_balance import Bowl, Remedy, remedies, water_by_heat
from rundgang.core.dough.scaling import ScaledIngredient
from rundgang.core.dough.water import ICE_STEP_G, Counts, Water, water_at, water_for
from rundgang.core.kinds.batch import BatchStation, BatchStep
from rundgang.core.kinds.parts import SECONDS_PER_MINUTE
from rundgang.core.model import Model
from rundgang.core.products import Preparation, Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import GRAMS_PER_KG, MINUTES_PER_HOUR

DRY_ICE_STEP_G = 100
"""Dry ice is weighed no finer than this, g."""


class HeatWater(Model):
    """The water by heat balance, beside the rule's.

    Attributes
    ----------
    dry_ice_kg : float
        What dry ice alone would do it, all the water from the tap or the chiller, kg; 0 where it needs none.
    dry_ice_room : RoomCheck or None
        CO2 in the room with so much of it in every batch.
    remedies : tuple of Remedy
        What each single measure would give, where all the water as ice does not reach.
    """

    water_c: float
    ice_kg: float
    short_k: float
    dry_ice_kg: float = 0
    dry_ice_room: RoomCheck | None = None
    equation: str
    remedies: tuple[Remedy, ...] = ()


class Mixing(NamedTuple):
    """How a bowl is mixed and where, the temperature wanted, °C, and how often one is, min."""

    step: BatchStep
    station: BatchStation
    wanted_c: float
    every_min: float


def water_share(ingredients: tuple[ScaledIngredient, ...]) -> float:
    """Water over flour, by mass; 1 where there is no flour."""
    flour = sum(line.grams for line in ingredients if line.role == "flour")
    water = sum(line.grams for line in ingredients if line.role == "water")
    return water / flour if flour else 1.0


def water_to_draw(scenario: Scenario, rule: Water | None, heat: HeatWater | None) -> Water | None:
    """The water to draw by the heat balance."""
    if rule is None or heat is None:
        return None
    if heat.ice_kg == 0:
        return water_at(heat.water_c, scenario.conditions, rule.total_g, heat.equation)
    ice = min(rule.total_g, round(heat.ice_kg * GRAMS_PER_KG / ICE_STEP_G) * ICE_STEP_G)
    chilled = scenario.conditions.chilled_c
    cold = scenario.conditions.tap_c if chilled is None else min(chilled, scenario.conditions.tap_c)
    words = f"{ice / GRAMS_PER_KG:.2f} kg of ice, the rest of the water at {cold:.1f} °C."
    if heat.short_k > 0:
        words = f"Cannot be reached: all the water as ice still leaves the dough {heat.short_k:.1f} K too warm."
    return Water(
        total_g=rule.total_g,
        wanted_c=heat.water_c,
        liquid_g=rule.total_g - ice,
        chilled_g=rule.total_g - ice if chilled is not None and chilled == cold else 0,
        liquid_c=cold,
        ice_g=ice,
        feasible=heat.short_k <= 0,
        remark=words,
        equations=(heat.equation,),
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


def rule_water(
    scenario: Scenario,
    ingredients: tuple[ScaledIngredient, ...],
    wanted_c: float,
    counts: tuple[Counts, ...],
    friction_c: float,
) -> Water | None:
    """The water by the factor rule; None where the formula has none."""
    total = sum(line.grams for line in ingredients if line.role == "water")
    return water_for(wanted_c, counts, scenario.conditions, total, friction_c) if total else None


def fixed_dry_ice_g(step: BatchStep, ingredients: tuple[ScaledIngredient, ...]) -> int:
    """The fixed share of dry ice that a step asks for, g."""
    flour = sum(line.grams for line in ingredients if line.role == "flour")
    return round(flour * step.dry_ice_pct / 100 / DRY_ICE_STEP_G) * DRY_ICE_STEP_G


def co2_in_room(mixers: BatchStation, dry_ice_g: int, batches_per_h: float) -> RoomCheck | None:
    """CO2 in the mixers' room at the plan's pace, where dry ice goes in and the room is known."""
    if not dry_ice_g or mixers.room_m3 is None or mixers.air_changes_per_h is None:
        return None
    return room_check(dry_ice_g / GRAMS_PER_KG * batches_per_h, mixers.room_m3, mixers.air_changes_per_h)


def heat_water(
    scenario: Scenario, mixing: Mixing, ingredients: tuple[ScaledIngredient, ...], by_rule: Water | None
) -> HeatWater | None:
    """The water by heat balance, where the mixing work is known; all but flour and water at room temperature.

    Where neither rule nor balance can cool the dough enough, it says what each remedy would give.
    """
    step, mixers, wanted_c, every_min = mixing
    work = step.work_wh_per_kg
    kilograms: dict[str, float] = {}
    for line in ingredients:
        kilograms[line.role] = kilograms.get(line.role, 0.0) + line.grams / GRAMS_PER_KG
    if work is None or not {"flour", "water"} <= kilograms.keys():
        return None
    today = scenario.conditions
    prepared = [line for line in ingredients if line.role == "preparation"]
    warmth = sum(line.grams * scenario.preparation(line.ingredient).used_c for line in prepared)
    filled = Bowl(
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
        dry_ice_kg=fixed_dry_ice_g(step, ingredients) / GRAMS_PER_KG,
    )
    found = water_by_heat(filled, wanted_c)
    asked = step.dry_ice_pct > 0 or found.short_k > 0
    dry_ice_kg = found.dry_ice_kg if asked else 0.0
    return HeatWater(
        water_c=found.water_c,
        ice_kg=found.ice_kg,
        short_k=found.short_k,
        dry_ice_kg=dry_ice_kg,
        dry_ice_room=co2_in_room(mixers, round(dry_ice_kg * GRAMS_PER_KG), MINUTES_PER_HOUR / every_min),
        equation=_heat_words(filled, found.water_c),
        remedies=remedies(filled, wanted_c) if found.short_k > 0 or _too_warm(by_rule) else (),
    )


def _too_warm(water: Water | None) -> bool:
    """Whether all the water as ice is not enough by the rule."""
    return water is not None and not water.feasible and water.ice_g > 0


def _heat_words(bowl: Bowl, water_c: float) -> str:
    less = f" less {bowl.jacket_kj:.0f} kJ by the jacket" if bowl.jacket_kj else ""
    less += f" less {bowl.dry_ice_kg:.1f} kg of dry ice" if bowl.dry_ice_kg else ""
    prepared = f", a preparation at {bowl.preparation_c:.1f} °C" if bowl.preparation_kg else ""
    return (
        f"{bowl.work_wh_per_kg:g} Wh/kg × {bowl.dough_kg:.1f} kg of mixing{less}, taken up by flour at "
        f"{bowl.flour_c:.1f} °C{prepared}, the rest at {bowl.other_c:.1f} °C and the water = {water_c:.1f} °C"
    )
