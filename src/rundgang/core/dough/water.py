"""The water's temperature by the factor rule, and the chilled water or ice it takes when the tap is too warm.

The rule of the trade: the dough ends at the mean of what goes into it, plus what mixing adds. With n
temperatures that count (flour, room and water make three, a pre-ferment a fourth), the water must be

    Tw = n Td - (the other temperatures) - FF

Where the tap is warmer, water from the chiller is mixed in; where that is not cold enough either, ice stands
in place of part of the coldest water there is:

    ice = W (Tcold - Tw) / (Tcold + 80)

80 is the heat of melting ice over the heat capacity of water, in kelvin.
"""

from typing import NamedTuple

from rundgang.core.conditions import Conditions
from rundgang.core.model import Model

MELTING_C = 80.0
"""Heat of melting of ice / specific heat of water, K: 333.55 / 4.186 = 79.7, said as 80 in the trade."""

ICE_STEP_G = 10
"""Flake ice is shovelled onto a scale; finer than this nobody weighs it, g."""

CHILLED_STEP_G = 100
"""Chilled water is metered beside the tap's, g."""

HOTTEST_WATER_C = 50.0
"""Above this the yeast is hurt where it meets the water, °C (common practice, no published source)."""


class Counts(NamedTuple):
    """A temperature that counts in the rule, with its name, °C."""

    name: str
    celsius: float


class Water(Model):
    """How much water, how warm, and how much of it chilled or as ice.

    Attributes
    ----------
    total_g : int
        Water of the formula, ice included, g.
    wanted_c : float
        Temperature the water must have, or would have to have, °C.
    liquid_g, ice_g : int
        They add up to `total_g`.
    chilled_g : int
        Of the liquid, what comes from the chiller.
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
    chilled_g: int = 0
    liquid_c: float
    ice_g: int
    feasible: bool
    remark: str
    equations: tuple[str, ...]


def water_temperature(dough_c: float, others_c: tuple[float, ...], friction_c: float) -> float:
    """Water temperature by the factor rule, °C: n Td - sum of the others - FF."""
    return (len(others_c) + 1) * dough_c - sum(others_c) - friction_c


def ice_share(cold_c: float, wanted_c: float) -> float:
    """Share of the water to take as ice: (Tcold - Tw) / (Tcold + 80)."""
    return (cold_c - wanted_c) / (cold_c + MELTING_C)


def water_for(
    dough_c: float, others: tuple[Counts, ...], conditions: Conditions, total_g: int, friction_c: float
) -> Water:
    """Water for one dough in today's conditions.

    Parameters
    ----------
    dough_c : float
        Dough temperature wanted, °C.
    others : tuple of Counts
        The temperatures that count besides the water's: flour, room, and a pre-ferment's.
    total_g : int
        Water of the formula, g.
    friction_c : float
        The product's own factor, or the one learnt from the probe, °C.
    """
    wanted = water_temperature(dough_c, tuple(other.celsius for other in others), friction_c)
    minus = " ".join(f"− {other.celsius:.1f} °C {other.name}" for other in others)
    rule = f"{len(others) + 1} × {dough_c:.1f} °C {minus} − {friction_c:.1f} K friction = {wanted:.1f} °C"
    return water_at(wanted, conditions, total_g, rule)


def water_at(wanted: float, conditions: Conditions, total_g: int, rule: str) -> Water:
    """Water of a temperature from what there is: warmed, from the chiller, or with ice.

    Parameters
    ----------
    rule : str
        How the temperature was found, in figures.
    """
    if wanted >= conditions.tap_c:
        return _warm(wanted, total_g, rule)
    if conditions.chilled_c is not None and wanted >= conditions.chilled_c:
        return _blended(wanted, conditions.tap_c, conditions.chilled_c, total_g, rule)
    return _iced(wanted, conditions, total_g, rule)


def _warm(wanted: float, total_g: int, rule: str) -> Water:
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


def _blended(wanted: float, tap_c: float, chilled_c: float, total_g: int, rule: str) -> Water:
    """Tap and chilled water mixed to the temperature wanted."""
    share = (tap_c - wanted) / (tap_c - chilled_c)
    chilled = min(total_g, round(total_g * share / CHILLED_STEP_G) * CHILLED_STEP_G)
    mixing = (
        f"{total_g / 1000:.2f} kg × ({tap_c:.1f} °C tap − {wanted:.1f} °C) ÷ "
        f"({tap_c:.1f} °C − {chilled_c:.1f} °C chilled) = {total_g * share / 1000:.2f} kg chilled"
    )
    return Water(
        total_g=total_g,
        wanted_c=wanted,
        liquid_g=total_g,
        chilled_g=chilled,
        liquid_c=wanted,
        ice_g=0,
        feasible=True,
        remark=f"{chilled / 1000:.1f} kg from the chiller, the rest from the tap, mix to {wanted:.1f} °C.",
        equations=(rule, mixing),
    )


def _iced(wanted: float, conditions: Conditions, total_g: int, rule: str) -> Water:
    """Ice in place of part of the coldest water there is."""
    chilled = conditions.chilled_c is not None and conditions.chilled_c < conditions.tap_c
    cold = conditions.chilled_c if chilled and conditions.chilled_c is not None else conditions.tap_c
    source = "chilled" if chilled else "tap"
    share = ice_share(cold, wanted)
    ice = min(total_g, round(total_g * share / ICE_STEP_G) * ICE_STEP_G)
    icing = (
        f"{total_g / 1000:.2f} kg × ({cold:.1f} °C {source} − {wanted:.1f} °C) ÷ ({cold:.1f} °C + 80) "
        f"= {total_g * share / 1000:.2f} kg ice"
    )
    if share > 1:
        remark = (
            f"Cannot be reached: all the water as ice still leaves the water {-MELTING_C - wanted:.1f} K too warm. "
            "Cool the flour or the bowl, or accept a warmer dough."
        )
    else:
        drawn = f"{source.title()} water at {cold:.1f} °C and {ice / 1000:.2f} kg of ice"
        remark = f"{drawn} stand for water at {wanted:.1f} °C."
    return Water(
        total_g=total_g,
        wanted_c=wanted,
        liquid_g=total_g - ice,
        chilled_g=total_g - ice if chilled else 0,
        liquid_c=cold,
        ice_g=ice,
        feasible=share <= 1,
        remark=remark,
        equations=(rule, icing),
    )


def _too_hot(wanted: float) -> str:
    return (
        f"Cannot be reached: the water would have to be {wanted:.1f} °C, "
        f"{wanted - HOTTEST_WATER_C:.1f} K above what yeast bears. Warm the flour, or accept a cooler dough."
    )
