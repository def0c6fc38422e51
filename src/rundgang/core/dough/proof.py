"""Proof by time and temperature: yeast works faster in the warm, up to a point, and the air is not the dough.

A piece approaches the air of its proofer by Newton's law, T(t) = Ta + (T0 - Ta) e^(-k t), and works by its own
temperature. What it has done is the integral of the activity along that curve, in minutes at the best temperature.

The cardinal temperature model with inflection of L. Rosso, J. R. Lobry and J.-P. Flandrois, Journal of
Theoretical Biology 162, 1993: activity is 0 at the least and the most temperature, 1 at the best. The
parameters for baker's yeast are from memory; a plant fits its own.
"""

import numpy as np

from rundgang.core.compiled import Floats
from rundgang.core.errors import InfeasibleError, OutOfRangeError
from rundgang.core.model import Model


class Yeast(Model):
    """Cardinal temperatures of a yeast, °C."""

    least_c: float = 2.0
    best_c: float = 37.0
    most_c: float = 46.0


BAKERS = Yeast()

LONGEST_MIN = 2_880
"""No proof is followed longer."""

STEP_MIN = 0.1
"""Of the sum that stands for the integral."""


LEAST_DONE_MIN = 0.01
"""A proof that does less, in minutes at the best temperature, is none."""


class Piece(Model):
    """A piece in its proofer: dough as it comes in and the air there, °C; rate of its warming, 1/min."""

    dough_c: float
    air_c: float
    k_per_min: float


def activity(yeast: Yeast, dough_c: float) -> float:
    """Activity of the yeast at a temperature, share of its best.

    Raises
    ------
    OutOfRangeError
        Cardinal temperatures out of order: the best must lie above the middle of the other two.
    """
    return float(_activities(yeast, np.array([dough_c]))[0])


def proof_done(yeast: Yeast, piece: Piece, minutes: float) -> float:
    """What a piece has done after so many minutes in its proofer, minutes at the yeast's best temperature."""
    return float(np.interp(minutes, _minutes(), _done(yeast, piece)))


def minutes_for(yeast: Yeast, piece: Piece, done: float) -> float:
    """Minutes that a piece needs in its proofer to have done so much.

    Parameters
    ----------
    done : float
        Minutes at the yeast's best temperature.

    Raises
    ------
    InfeasibleError
        The yeast rests, in this air or in the proof that is to be matched.
    """
    if done < LEAST_DONE_MIN:
        raise InfeasibleError(
            "The yeast rests in the proof that is to be matched. "
            f"Allowed: a dough and air well between {yeast.least_c:g} and {yeast.most_c:g} °C."
        )
    reached = _done(yeast, piece)
    if reached[-1] < done:
        raise InfeasibleError(
            f"The yeast does not get there at {piece.air_c:g} °C, not in {LONGEST_MIN / 60:g} h. "
            f"Allowed: well between {yeast.least_c:g} and {yeast.most_c:g} °C."
        )
    return float(np.interp(done, reached, _minutes()))


def same_proof(yeast: Yeast, minutes: float, usual: Piece, today: Piece) -> float:
    """Minutes that today's piece needs to have done what the usual one has after its own."""
    return minutes_for(yeast, today, proof_done(yeast, usual, minutes))


def over_proofed_after(yeast: Yeast, minutes: float, usual: Piece, today: Piece, most_share: float) -> float:
    """Minutes from which today's piece is over-proofed.

    Parameters
    ----------
    minutes, usual : float, Piece
        The proof that is right, and the piece it is meant for.
    most_share : float
        What the piece bears, as a share of the proof that is right; above 1.

    Raises
    ------
    OutOfRangeError
        The share is not above 1.
    """
    if most_share <= 1:
        raise OutOfRangeError("The most proof a piece bears", f"{most_share:.0%}", "above 100 %")
    return minutes_for(yeast, today, most_share * proof_done(yeast, usual, minutes))


def _activities(yeast: Yeast, dough_c: Floats) -> Floats:
    low, best, high = yeast.least_c, yeast.best_c, yeast.most_c
    if not low < (low + high) / 2 < best < high:
        raise OutOfRangeError("The best temperature", f"{best:g} °C", f"between {(low + high) / 2:g} and {high:g} °C")
    above = (dough_c - high) * (dough_c - low) ** 2
    slope = (best - low) * (dough_c - best) - (best - high) * (best + low - 2 * dough_c)
    works = (low < dough_c) & (dough_c < high)
    return np.divide(above, (best - low) * slope, out=np.zeros_like(dough_c), where=works)


def _minutes() -> Floats:
    return np.linspace(0, LONGEST_MIN, round(LONGEST_MIN / STEP_MIN) + 1)


def _done(yeast: Yeast, piece: Piece) -> Floats:
    """What has been done by each moment: the sum by trapezoids."""
    minutes = _minutes()
    works = _activities(yeast, piece.air_c + (piece.dough_c - piece.air_c) * np.exp(-piece.k_per_min * minutes))
    return np.concatenate([[0.0], np.cumsum((works[1:] + works[:-1]) / 2 * np.diff(minutes))])
