"""Flour that is drier or damper than the formula thinks, and the room's humidity: water moves, mass stays."""

from rundgang.core.errors import OutOfRangeError
from rundgang.core.model import Model

REFERENCE_MOISTURE_PCT = 14.0
"""The flour moisture on which formulas are written, % (common practice; ICC and AACC report on 14 %)."""


class Adjusted(Model):
    """Flour and water of a dough after a correction, kg; together they weigh what they did before."""

    flour_kg: float
    water_kg: float


def same_dry_matter(flour_kg: float, water_kg: float, moisture_pct: float) -> Adjusted:
    """Flour and water that bring the same dry matter with flour of another moisture.

    flour' = flour (100 - 14) / (100 - m); the water moves by the difference.

    Raises
    ------
    OutOfRangeError
        Moisture outside 5 to 20 %, or more water than there is would have to go.
    """
    if not 5 <= moisture_pct <= 20:
        raise OutOfRangeError("The flour's moisture", f"{moisture_pct:g} %", "5 to 20 %")
    flour = flour_kg * (100 - REFERENCE_MOISTURE_PCT) / (100 - moisture_pct)
    water = water_kg - (flour - flour_kg)
    if water < 0:
        raise OutOfRangeError("The water", f"{water:.2f} kg after the correction", "0 kg or more")
    return Adjusted(flour_kg=flour, water_kg=water)


def room_rule(water_kg: float, humidity_pct: float, reference_pct: float, percent_per_ten: float) -> float:
    """Water by the plant's rule of thumb, kg: so many per cent less for every 10 points above its reference.

    Raises
    ------
    OutOfRangeError
        Humidity outside 0 to 100 %.
    """
    if not 0 <= humidity_pct <= 100:
        raise OutOfRangeError("The relative humidity", f"{humidity_pct:g} %", "0 to 100 %")
    return water_kg * (1 - percent_per_ten / 100 * (humidity_pct - reference_pct) / 10)
