"""The friction factor learnt from the probe: smoothed per product and mixer, outliers held out.

From every dough measured, FF = n Td - (the others + Tw): what the rule should have used. A reading far
from its neighbours' middle is kept in the history but not learnt from.
"""

from statistics import median

from rundgang.core.model import Model

SMOOTHING = 0.3
"""Weight of the newest reading."""

MAD_TO_SIGMA = 1.4826
"""Median absolute deviation to standard deviation, for normal scatter."""

OUTLIER_SIGMAS = 3.5
LEAST_SIGMA_K = 0.5
"""No probe reads finer than this; closer readings are never outliers, K."""

NEIGHBOURS = 9
READINGS_TO_JUDGE = 4
"""So many accepted readings are needed before one is called an outlier."""

READINGS_OF_A_CHANGE = 3
"""So many outliers in a row that agree are no outliers but a change: the factor begins anew from them."""


class ProbeReading(Model):
    """A dough that was measured: target of the rule, what went in, and what came out, °C."""

    dough_c: float
    others_c: tuple[float, ...]
    water_c: float


class LearntFriction(Model):
    """The friction factor after a history of readings.

    Attributes
    ----------
    friction_c : float
        To use for the next dough, °C.
    spread_c : float
        Robust standard deviation of the accepted readings, °C.
    factors : tuple of float
        The factor of each reading, in order.
    held_out : tuple of bool
        Which of them were outliers.
    """

    friction_c: float
    spread_c: float
    factors: tuple[float, ...]
    held_out: tuple[bool, ...]


def factor_of(reading: ProbeReading) -> float:
    """The friction factor that would have given the dough measured, °C."""
    return (len(reading.others_c) + 1) * reading.dough_c - sum(reading.others_c) - reading.water_c


def learn(start_c: float, readings: tuple[ProbeReading, ...]) -> LearntFriction:
    """Friction factor after readings in the order of the clock.

    Parameters
    ----------
    start_c : float
        The factor to begin from, °C: the product's own.
    """
    smoothed = start_c
    accepted: list[float] = []
    suspects: list[float] = []
    factors, held = [], []
    for reading in readings:
        factor = factor_of(reading)
        factors.append(factor)
        limit = _limit(accepted)
        if limit is None or abs(factor - median(accepted[-NEIGHBOURS:])) <= limit:
            held.append(False)
            suspects = []
            accepted.append(factor)
            smoothed += SMOOTHING * (factor - smoothed)
            continue
        held.append(True)
        suspects = [factor, *suspects] if suspects and abs(factor - suspects[0]) <= limit else [factor]
        if len(suspects) == READINGS_OF_A_CHANGE:
            accepted, suspects = suspects, []
            smoothed = median(accepted)
    return LearntFriction(
        friction_c=smoothed, spread_c=_robust_sigma(accepted), factors=tuple(factors), held_out=tuple(held)
    )


def _limit(accepted: list[float]) -> float | None:
    """How far from its neighbours' middle a factor may lie, °C; None while there are too few to judge."""
    if len(accepted) < READINGS_TO_JUDGE:
        return None
    return OUTLIER_SIGMAS * max(LEAST_SIGMA_K, _robust_sigma(accepted[-NEIGHBOURS:]))


def _robust_sigma(factors: list[float]) -> float:
    if not factors:
        return 0.0
    middle = median(factors)
    return MAD_TO_SIGMA * median(abs(factor - middle) for factor in factors)
