"""The water's temperature by the factor school, and the ice it takes when the tap is too warm.

The rule of the trade: the dough ends at the mean of what goes into it, plus what mixing adds. With n
temperatures that count (flour, room and water make three), the water must be

    Tw = n Td - (the other temperatures) - FF

and where the tap is warmer, ice in place of part of the water:

    ice = W (Ttap - Tw) / (Ttap + 80)

80 is the heat of melting ice over the heat capacity of water, in kelvin.
"""

from rundgang.core.model import Model
from rundgang.core.products import Product
from rundgang.core.scenario import Conditions

MELTING_C = 80.0
"""Heat of melting of ice / specific heat of water, K: 333.55 / 4.186 = 79.7, said as 80 in the trade."""

TEMPERATURES = 3
"""Flour, room and water."""

ICE_STEP_G = 10
"""Flake ice is shovelled onto a scale; finer than this nobody weighs it, g."""

HOTTEST_WATER_C = 50.0
"""Above this the yeast is hurt where it meets the water, °C (common practice, no published source)."""


class Water(Model):
    """How much water, how warm, and how much of it as ice.

    Attributes
    ----------
    total_g : int
        Water of the formula, ice included, g.
    wanted_c : float
        Temperature the water must have, or would have to have, °C.
    liquid_g, ice_g : int
        They add up to `total_g`.
    liquid_c : float
        Temperature at which the liquid part is drawn, °C.
    feasible : bool
        False where neither ice nor warm water reaches the dough temperature.
    remark : str
        What to do at the water meter, or why it cannot be done.
    equations : tuple of str
        The arithmetic with its figures.
    """

    total_g: int
    wanted_c: float
    liquid_g: int
    liquid_c: float
    ice_g: int
    feasible: bool
    remark: str
    equations: tuple[str, ...]


def water_temperature(dough_c: float, others_c: tuple[float, ...], friction_c: float) -> float:
    """Water temperature by the factor rule, °C: n Td - sum of the others - FF."""
    return (len(others_c) + 1) * dough_c - sum(others_c) - friction_c


def ice_share(tap_c: float, wanted_c: float) -> float:
    """Share of the water to take as ice: (Ttap - Tw) / (Ttap + 80)."""
    return (tap_c - wanted_c) / (tap_c + MELTING_C)


def water_for(product: Product, conditions: Conditions, total_g: int, friction_c: float | None = None) -> Water:
    """Water for one dough of a product in today's conditions.

    Parameters
    ----------
    total_g : int
        Water of the formula, g.
    friction_c : float, optional
        The factor learnt from the probe, °C; by default the product's own.
    """
    dough = product.dough_temperature_c
    friction = product.mixing.friction_c if friction_c is None else friction_c
    wanted = water_temperature(dough, (conditions.flour_c, conditions.room_c), friction)
    rule = (
        f"3 × {dough:.1f} − {conditions.flour_c:.1f} flour − {conditions.room_c:.1f} room "
        f"− {friction:.1f} friction = {wanted:.1f} °C"
    )
    tap = conditions.tap_c
    if wanted >= tap:
        warm = wanted <= HOTTEST_WATER_C
        remark = f"Draw the water at {wanted:.1f} °C." if warm else _too_hot(wanted)
        return Water(
            total_g=total_g,
            wanted_c=wanted,
            liquid_g=total_g,
            liquid_c=wanted,
            ice_g=0,
            feasible=warm,
            remark=remark,
            equations=(rule,),
        )
    share = ice_share(tap, wanted)
    ice = min(total_g, round(total_g * share / ICE_STEP_G) * ICE_STEP_G)
    icing = (
        f"{total_g / 1000:.2f} × ({tap:.1f} tap − {wanted:.1f}) ÷ ({tap:.1f} + 80) "
        f"= {total_g * share / 1000:.2f} kg ice"
    )
    if share > 1:
        remark = (
            f"Cannot be reached: all the water as ice still leaves the water {-MELTING_C - wanted:.1f} °C too warm. "
            "Cool the flour or the bowl, or accept a warmer dough."
        )
    else:
        remark = f"Tap water at {tap:.1f} °C and {ice / 1000:.2f} kg of ice stand for water at {wanted:.1f} °C."
    return Water(
        total_g=total_g,
        wanted_c=wanted,
        liquid_g=total_g - ice,
        liquid_c=tap,
        ice_g=ice,
        feasible=share <= 1,
        remark=remark,
        equations=(rule, icing),
    )


def _too_hot(wanted: float) -> str:
    return (
        f"Cannot be reached: the water would have to be {wanted:.1f} °C, "
        f"{wanted - HOTTEST_WATER_C:.1f} °C above what yeast bears. Warm the flour, or accept a cooler dough."
    )
