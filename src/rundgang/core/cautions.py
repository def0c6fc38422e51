"""The usual cautions, as data: attached to stations and ingredients, shown where the work can hurt someone.

Every one ends by deferring to local codes and to licensed or trained people: Rundgang advises, it
controls no machine.
"""

from collections.abc import Iterable
from typing import Literal

from rundgang.core.model import Model

DEFERENCE = "Local codes and licensed or trained people decide."

Hazard = Literal[
    "mixer",
    "rollers",
    "blades",
    "hot-oil",
    "hot-oven",
    "dry-ice",
    "flour-dust",
    "foreign-bodies",
    "warm-bagging",
    "cream-filling",
    "dark-bake",
    "lifting",
]


class Caution(Model):
    """A caution: what it is about, and what is usually done."""

    about: str
    text: str


def _caution(about: str, usual: str) -> Caution:
    return Caution(about=about, text=f"{usual} {DEFERENCE}")


CAUTIONS: dict[Hazard, Caution] = {
    "mixer": _caution("Rotating mixer", "Guards on; stop, isolate and lock out before reaching into the bowl."),
    "rollers": _caution(
        "Rollers, dividers, moulders", "Guards on; stop, isolate and lock out before clearing dough or changing a tool."
    ),
    "blades": _caution(
        "Blades", "Guards on; isolate and lock out; trained people change blades, in cut-proof gloves, counting them."
    ),
    "hot-oil": _caution(
        "Hot oil",
        "Fire and splash: never water; a separate high-limit cut-out beside the thermostat; oil quality limits are "
        "local law's.",
    ),
    "hot-oven": _caution("Hot oven, tins and steam", "Heatproof gloves and sleeves; let steam out before looking in."),
    "dry-ice": _caution(
        "Dry ice",
        "CO2 suffocates unnoticed and the ice burns: ventilate, monitor CO2 at head height and in pits, wear "
        "insulating gloves, never work alone in a closed room.",
    ),
    "flour-dust": _caution("Flour dust", "Keep extraction on, never blow down: dust harms lungs and can explode."),
    "foreign-bodies": _caution(
        "Foreign bodies", "Sieve and grid in place; test the metal detector at start, changeover and end."
    ),
    "warm-bagging": _caution(
        "Cool before bagging", "Check the core before bagging: a bag closed warm sweats and moulds."
    ),
    "cream-filling": _caution(
        "Cream and fillings", "Keep to the time and temperature limits of the filling; discard what has passed them."
    ),
    "dark-bake": _caution(
        "Dark bakes", "Acrylamide rises with colour: bake and fry no darker than the reference piece."
    ),
    "lifting": _caution("Lifting", "Sacks, troughs and fat blocks by hoist or by two; keep the back straight."),
}

HOT_OIL = CAUTIONS["hot-oil"]
DRY_ICE = CAUTIONS["dry-ice"]


def cautions_for(hazards: Iterable[Hazard]) -> tuple[Caution, ...]:
    """The cautions of some hazards, each once, in the order they are met."""
    return tuple(CAUTIONS[hazard] for hazard in dict.fromkeys(hazards))


def allergen_caution(allergens: tuple[str, ...]) -> Caution:
    """The caution for a dough that brings allergens."""
    return _caution(
        "Allergen: " + ", ".join(allergens),
        "Validated cleaning before the next dough without it; check the label at the changeover.",
    )
