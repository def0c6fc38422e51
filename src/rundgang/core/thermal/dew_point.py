"""The dew point of the packing room's air, and whether a bag sweats.

A product colder than the dew point gets wet from outside; a product warmer than its bag's wall gives off
steam that condenses inside where the wall is below the steam's own dew point. Dew point by the Magnus
form with the coefficients of O. A. Alduchov and R. E. Eskridge, Journal of Applied Meteorology 35, 1996
(from memory), within 0.1 K of the ASHRAE formulation in a bakery's range.
"""

from math import exp, log

from rundgang.core.errors import OutOfRangeError
from rundgang.core.model import Model

MAGNUS_A = 17.625
MAGNUS_B_C = 243.04
MAGNUS_HPA = 6.1094


class Sweating(Model):
    """Whether air condenses on a surface.

    Attributes
    ----------
    dew_point_c : float
        Of the air, °C.
    margin_k : float
        Surface above the dew point, K; negative where it sweats.
    """

    dew_point_c: float
    margin_k: float
    sweats: bool


def saturation_hpa(air_c: float) -> float:
    """Pressure of water vapour that saturates air over water, hPa."""
    return MAGNUS_HPA * exp(MAGNUS_A * air_c / (MAGNUS_B_C + air_c))


def dew_point(air_c: float, humidity_pct: float) -> float:
    """Dew point of air, °C.

    Raises
    ------
    OutOfRangeError
        Humidity not above 0 and at most 100 %.
    """
    if not 0 < humidity_pct <= 100:
        raise OutOfRangeError("The relative humidity", f"{humidity_pct:g} %", "above 0, at most 100 %")
    gamma = log(humidity_pct / 100) + MAGNUS_A * air_c / (MAGNUS_B_C + air_c)
    return MAGNUS_B_C * gamma / (MAGNUS_A - gamma)


def sweating(surface_c: float, air_c: float, humidity_pct: float) -> Sweating:
    """Whether air of this humidity condenses on a surface."""
    point = dew_point(air_c, humidity_pct)
    return Sweating(dew_point_c=point, margin_k=surface_c - point, sweats=surface_c <= point)
