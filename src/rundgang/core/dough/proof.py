"""Proof by time and temperature: yeast works faster in the warm, up to a point.

The cardinal temperature model with inflection of L. Rosso, J. R. Lobry and J.-P. Flandrois, Journal of
Theoretical Biology 162, 1993: activity is 0 at the least and the most temperature, 1 at the best. The
parameters for baker's yeast are from memory; a plant fits its own.
"""

from rundgang.core.errors import InfeasibleError, OutOfRangeError
from rundgang.core.model import Model


class Yeast(Model):
    """Cardinal temperatures of a yeast, °C."""

    least_c: float = 2.0
    best_c: float = 37.0
    most_c: float = 46.0


BAKERS = Yeast()

LEAST_ACTIVITY = 1e-3
"""Below this share of its best the yeast is taken to rest: minutes would become days."""


def activity(yeast: Yeast, dough_c: float) -> float:
    """Activity of the yeast at a temperature, share of its best.

    Raises
    ------
    OutOfRangeError
        Cardinal temperatures out of order: the best must lie above the middle of the other two.
    """
    low, best, high = yeast.least_c, yeast.best_c, yeast.most_c
    if not low < (low + high) / 2 < best < high:
        raise OutOfRangeError("The best temperature", f"{best:g} °C", f"between {(low + high) / 2:g} and {high:g} °C")
    if not low < dough_c < high:
        return 0.0
    above = (dough_c - high) * (dough_c - low) ** 2
    slope = (best - low) * (dough_c - best) - (best - high) * (best + low - 2 * dough_c)
    return above / ((best - low) * slope)


def equivalent_minutes(yeast: Yeast, minutes: float, dough_c: float, reference_c: float) -> float:
    """Minutes at the reference temperature that do what these minutes did."""
    return minutes * activity(yeast, dough_c) / _working(yeast, reference_c)


def corrected_minutes(yeast: Yeast, minutes: float, reference_c: float, dough_c: float) -> float:
    """Minutes that a dough of another temperature needs to do what the reference's would."""
    return minutes * activity(yeast, reference_c) / _working(yeast, dough_c)


def over_proofed_after(yeast: Yeast, minutes: float, reference_c: float, dough_c: float, most_share: float) -> float:
    """Minutes at a dough temperature from which a piece is over-proofed.

    Parameters
    ----------
    minutes, reference_c : float
        The proof that is right, and the dough temperature it is meant for.
    most_share : float
        What the piece bears, as a share of the proof that is right; above 1.

    Raises
    ------
    OutOfRangeError
        The share is not above 1.
    """
    if most_share <= 1:
        raise OutOfRangeError("The most proof a piece bears", f"{most_share:.0%}", "above 100 %")
    return corrected_minutes(yeast, minutes * most_share, reference_c, dough_c)


def _working(yeast: Yeast, dough_c: float) -> float:
    share = activity(yeast, dough_c)
    if share < LEAST_ACTIVITY:
        raise InfeasibleError(
            f"The yeast does not work at {dough_c:g} °C. "
            f"Allowed: well between {yeast.least_c:g} and {yeast.most_c:g} °C."
        )
    return share
