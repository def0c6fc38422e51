"""Cooling on a conveyor by Newton's law: T(t) = Ta + (T0 - Ta) e^(-k t).

k belongs to a product on its cooler. It comes from one known run, and better from many core readings:
their logarithms lie on a line through the origin whose slope is -k.
"""

from math import exp, log, sqrt

from rundgang.core.errors import InfeasibleError, OutOfRangeError
from rundgang.core.model import Model

LEAST_STEP_K = 0.01
"""Temperatures closer than this are the same: no probe tells them apart, K."""


class CoreReading(Model):
    """A probe in a piece: minutes on the cooler, core and air temperature, °C."""

    minutes: float
    core_c: float
    air_c: float


class FittedRate(Model):
    """The cooling rate of a product on its cooler.

    Attributes
    ----------
    k_per_min : float
        Rate, 1/min.
    standard_error : float
        Of the rate, 1/min; 0 from a single reading.
    readings : int
        How many it was fitted to.
    """

    k_per_min: float
    standard_error: float
    readings: int


def temperature_after(minutes: float, start_c: float, air_c: float, k_per_min: float) -> float:
    """Core temperature after so many minutes, °C."""
    return air_c + (start_c - air_c) * exp(-k_per_min * minutes)


def rate_from_run(start_c: float, end_c: float, air_c: float, minutes: float) -> float:
    """Cooling rate of one known run, 1/min: ln((T0 - Ta) / (T - Ta)) / t.

    Raises
    ------
    OutOfRangeError
        The run did not cool, or cooled below its air.
    """
    if end_c - air_c < LEAST_STEP_K or start_c - end_c < LEAST_STEP_K:
        allowed = f"above the air, {air_c:g} °C, and below the start, {start_c:g} °C"
        raise OutOfRangeError("The temperature after cooling", f"{end_c:g} °C", allowed)
    if minutes <= 0:
        raise OutOfRangeError("The cooling time", f"{minutes:g} min", "above 0 min")
    return log((start_c - air_c) / (end_c - air_c)) / minutes


def time_to(end_c: float, start_c: float, air_c: float, k_per_min: float) -> float:
    """Minutes until the core has come down to a temperature.

    Raises
    ------
    InfeasibleError
        The air is not colder than the temperature wanted: it is never reached.
    """
    if end_c >= start_c:
        return 0.0
    if end_c - air_c < LEAST_STEP_K:
        raise InfeasibleError(
            f"{end_c:g} °C is never reached in air of {air_c:g} °C. "
            f"Allowed: air at least a little below {end_c:g} °C, or a warmer bagging temperature."
        )
    return log((start_c - air_c) / (end_c - air_c)) / k_per_min


def fit_rate(start_c: float, readings: tuple[CoreReading, ...]) -> FittedRate:
    """The cooling rate that fits core readings best, least squares on the logarithms through the origin.

    Raises
    ------
    OutOfRangeError
        No reading, or one that is not between its air and the start.
    """
    if not readings:
        raise OutOfRangeError("The number of core readings", 0, "at least 1")
    rates = [rate_from_run(start_c, r.core_c, r.air_c, r.minutes) for r in readings]
    weights = [reading.minutes**2 for reading in readings]
    k = sum(rate * weight for rate, weight in zip(rates, weights, strict=True)) / sum(weights)
    error = 0.0
    if len(readings) > 1:
        residual = sum(weight * (rate - k) ** 2 for rate, weight in zip(rates, weights, strict=True))
        error = sqrt(residual / (len(readings) - 1) / sum(weights))
    return FittedRate(k_per_min=k, standard_error=error, readings=len(readings))
