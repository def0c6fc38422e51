"""The heat balance: what goes into the bowl, what mixing adds, and the dough that comes out.

    sum of m c (Td - T) + ice + dry ice + jacket = mixing work

Solved for the water's temperature, or for the ice that stands in for part of it. Ice warms to 0 °C,
melts, and warms on as water; dry ice sublimes and its gas warms to the dough's temperature on leaving.
"""

from rundgang.core.errors import OutOfRangeError
from rundgang.core.model import Model
from rundgang.core.thermal.properties import DOUGH_KJ_KG_K

FLOUR_KJ_KG_K = 1.76
"""Specific heat of flour, kJ/kgK (from memory)."""

WATER_KJ_KG_K = 4.186
"""Specific heat of water between 0 and 40 °C, kJ/kgK (from memory; IAPWS gives 4.18 to 4.22)."""

OTHER_KJ_KG_K = 1.9
"""Specific heat taken for sugar, fat, salt and yeast together, kJ/kgK (from memory)."""

ICE_KJ_KG_K = 2.1
"""Specific heat of ice, kJ/kgK (from memory)."""

MELTING_KJ_KG = 333.55
"""Heat of melting of ice, kJ/kg."""

SUBLIMATION_KJ_KG = 571.0
"""Heat of sublimation of dry ice, kJ/kg (from memory)."""

CO2_GAS_KJ_KG_K = 0.85
"""Specific heat of CO2 gas, kJ/kgK (from memory)."""

DRY_ICE_C = -78.5

KJ_PER_WH = 3.6


class Bowl(Model):
    """What goes into one dough, and what mixing does to it.

    Attributes
    ----------
    flour_kg, water_kg, other_kg : float
        Water is all of it, ice included.
    flour_c, other_c, tap_c, ice_c : float
    preparation_kg, preparation_c : float
        Pre-ferment or slurry, with the specific heat of dough.
    work_wh_per_kg : float
        Mixing work that becomes heat, per kg of dough.
    jacket_kj : float
        Heat taken away by a cooling jacket, kJ.
    dry_ice_kg : float
    """

    flour_kg: float
    water_kg: float
    other_kg: float = 0
    flour_c: float
    other_c: float
    tap_c: float
    ice_c: float = -5
    preparation_kg: float = 0
    preparation_c: float = 0
    work_wh_per_kg: float
    jacket_kj: float = 0
    dry_ice_kg: float = 0

    @property
    def dough_kg(self) -> float:
        """Mass of the dough; dry ice leaves as gas."""
        return self.flour_kg + self.water_kg + self.other_kg + self.preparation_kg


class HeatBalance(Model):
    """The water a dough needs by heat balance.

    Attributes
    ----------
    water_c : float
        Temperature of all the water as liquid, °C; may be one that water cannot have.
    ice_kg : float
        Ice in place of so much water, the rest from the tap; 0 where the tap is cold enough.
    short_k : float
        By how much the dough stays too warm though all water is ice, K; 0 where it is feasible.
    dry_ice_kg : float
        What dry ice alone would do it, all the water drawn cold and none of it ice, kg; 0 where it needs none.
    """

    water_c: float
    ice_kg: float
    short_k: float
    dry_ice_kg: float = 0


class Remedy(Model):
    """What a single measure would give, K on the dough."""

    measure: str
    cools_k: float


def work_kj(bowl: Bowl) -> float:
    """Heat that mixing leaves in the dough, less what the jacket takes, kJ, at the dough's end."""
    return bowl.work_wh_per_kg * KJ_PER_WH * bowl.dough_kg - bowl.jacket_kj


def dry_ice_kj(kg: float, dough_c: float) -> float:
    """Heat that dry ice takes, kJ: sublimation, and the gas warmed to the dough's temperature."""
    return kg * (SUBLIMATION_KJ_KG + CO2_GAS_KJ_KG_K * (dough_c - DRY_ICE_C))


def dry_ice_to(bowl: Bowl, dough_c: float) -> float:
    """Dry ice that brings a dough to its temperature with all its water from the tap, kg: heat to take out / its own.

    What of it the bowl already gets is in it.
    """
    of_water = bowl.water_kg * WATER_KJ_KG_K * (dough_c - bowl.tap_c)
    return max(0.0, (_without_water(bowl, dough_c) - of_water) / dry_ice_kj(1, dough_c))


def _without_water(bowl: Bowl, dough_c: float) -> float:
    """Heat that water, ice and dry ice together must take, kJ: mixing less what all else takes up."""
    return (
        work_kj(bowl)
        - bowl.flour_kg * FLOUR_KJ_KG_K * (dough_c - bowl.flour_c)
        - bowl.other_kg * OTHER_KJ_KG_K * (dough_c - bowl.other_c)
        - bowl.preparation_kg * DOUGH_KJ_KG_K * (dough_c - bowl.preparation_c)
    )


def ice_kj_per_kg(ice_c: float, dough_c: float) -> float:
    """Heat that a kilogram of ice takes on its way to the dough's temperature, kJ/kg."""
    return ICE_KJ_KG_K * (0 - ice_c) + MELTING_KJ_KG + WATER_KJ_KG_K * dough_c


def water_by_heat(bowl: Bowl, dough_c: float) -> HeatBalance:
    """Water temperature and ice for a dough temperature.

    Raises
    ------
    OutOfRangeError
        No water, or no flour.
    """
    if bowl.water_kg <= 0 or bowl.flour_kg <= 0:
        raise OutOfRangeError("Flour and water", f"{bowl.flour_kg:g} and {bowl.water_kg:g} kg", "both above 0 kg")
    surplus = _without_water(bowl, dough_c) - dry_ice_kj(bowl.dry_ice_kg, dough_c)
    dry_ice_kg = dry_ice_to(bowl, dough_c)
    water_c = dough_c - surplus / (bowl.water_kg * WATER_KJ_KG_K)
    if water_c >= bowl.tap_c:
        return HeatBalance(water_c=water_c, ice_kg=0, short_k=0, dry_ice_kg=dry_ice_kg)
    of_tap = WATER_KJ_KG_K * (dough_c - bowl.tap_c)
    of_ice = ice_kj_per_kg(bowl.ice_c, dough_c)
    ice = (surplus - bowl.water_kg * of_tap) / (of_ice - of_tap)
    if ice <= bowl.water_kg:
        return HeatBalance(water_c=water_c, ice_kg=ice, short_k=0, dry_ice_kg=dry_ice_kg)
    left = surplus - bowl.water_kg * of_ice
    short_k = left / (bowl.dough_kg * DOUGH_KJ_KG_K)
    return HeatBalance(water_c=water_c, ice_kg=bowl.water_kg, short_k=short_k, dry_ice_kg=dry_ice_kg)


def work_rise(work_wh_per_kg: float) -> float:
    """By how much mixing work warms a dough that loses nothing, K: work / specific heat of dough."""
    return work_wh_per_kg * KJ_PER_WH / DOUGH_KJ_KG_K


def remedies(bowl: Bowl, dough_c: float) -> tuple[Remedy, ...]:
    """What each single measure would give when ice alone does not reach, best first.

    Flour 5 K colder; a kilogram of dry ice for every 100 kg of dough; a tenth less mixing work; a jacket
    that takes 10 kJ per kg of dough.
    """
    kilojoule_per_k = bowl.dough_kg * DOUGH_KJ_KG_K
    dry = bowl.dough_kg / 100
    found = (
        Remedy(measure="flour 5 °C colder", cools_k=bowl.flour_kg * FLOUR_KJ_KG_K * 5 / kilojoule_per_k),
        Remedy(measure=f"{dry:.1f} kg of dry ice", cools_k=dry_ice_kj(dry, dough_c) / kilojoule_per_k),
        Remedy(measure="a tenth less mixing work", cools_k=work_rise(bowl.work_wh_per_kg) / 10),
        Remedy(measure="a jacket that takes 10 kJ/kg", cools_k=10 / DOUGH_KJ_KG_K),
    )
    return tuple(sorted(found, key=lambda remedy: -remedy.cools_k))
