"""The fryer: places and pace, the turn, oil taken up and made up, and how fast the oil turns over."""

from rundgang.core.errors import OutOfRangeError
from rundgang.core.model import Model
from rundgang.core.units import GRAMS_PER_KG

LEAST_TAKEN_KG_H = 1e-3
"""Less oil than this with the product is none, kg/h."""


class Frying(Model):
    """A fryer at a pace.

    Attributes
    ----------
    capacity_per_h : float
        Pieces/h its places allow.
    turn_after_s : float
        When each piece is turned, s after it went in.
    oil_taken_kg_h : float
        Oil that leaves with the product: the make-up, kg/h.
    turnover_h : float or None
        Hours in which the make-up replaces the whole filling; None where hardly any is taken.
    """

    capacity_per_h: float
    turn_after_s: float
    oil_taken_kg_h: float
    turnover_h: float | None


def frying(
    places: int,
    side_one_s: float,
    side_two_s: float,
    pieces_per_h: float,
    oil_per_piece_g: float,
    filling_kg: float,
) -> Frying:
    """Capacity, turn and oil of a fryer.

    Parameters
    ----------
    side_one_s, side_two_s : float
        Frying time of each side, s. A total time turned halfway has both equal.

    Raises
    ------
    OutOfRangeError
        The pace is above what the places allow, or a time is not above 0.
    """
    if min(side_one_s, side_two_s) <= 0:
        raise OutOfRangeError("The frying time of a side", f"{min(side_one_s, side_two_s):g} s", "above 0 s")
    capacity = places * 3_600 / (side_one_s + side_two_s)
    if not 0 < pieces_per_h <= capacity:
        raise OutOfRangeError("The pace", f"{pieces_per_h:g} pieces/h", f"above 0, at most {capacity:.0f}")
    taken = oil_taken_kg_h(pieces_per_h, oil_per_piece_g)
    return Frying(
        capacity_per_h=capacity,
        turn_after_s=side_one_s,
        oil_taken_kg_h=taken,
        turnover_h=turnover_h(filling_kg, taken),
    )


def oil_taken_kg_h(pieces_per_h: float, oil_per_piece_g: float) -> float:
    """Oil that leaves with the product, kg/h: what must be made up."""
    return pieces_per_h * oil_per_piece_g / GRAMS_PER_KG


def turnover_h(filling_kg: float, taken_kg_h: float) -> float | None:
    """Hours in which the make-up replaces the whole filling; None where hardly any is taken."""
    return filling_kg / taken_kg_h if taken_kg_h >= LEAST_TAKEN_KG_H else None
