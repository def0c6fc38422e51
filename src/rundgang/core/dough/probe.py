"""The probe of a dough: how far it is from the temperature wanted, and what that means for it and for the next."""

from typing import NamedTuple

from rundgang.core.dough.friction import SMOOTHING
from rundgang.core.dough.proof import BAKERS, activity
from rundgang.core.model import Model

DOUGH_TOLERANCE_C = 1.0
"""So far from the temperature wanted a dough is still good, K (common practice, no published source)."""


class Measured(NamedTuple):
    """A probe as the log holds it: the dough that came out, the water and the friction factor that went in."""

    dough_c: float
    water_c: float
    friction_c: float


class Probe(Model):
    """What was measured in a dough, and what it means for this batch.

    Attributes
    ----------
    water_c : float
        Temperature of the water it was mixed with.
    above_c : float
        Dough above the temperature wanted, K.
    good : bool
        Within `DOUGH_TOLERANCE_C`.
    yeast_pace : float
        Pace of its yeast, as a share of what it would be at the temperature wanted.
    lesson : str
        What the next dough learns from it.
    """

    dough_c: float
    water_c: float
    above_c: float
    good: bool
    yeast_pace: float
    lesson: str


def probe_of(wanted: float, temperatures_counted: int, measured: Measured | None) -> Probe | None:
    """What a measured dough says; None where none was measured."""
    if measured is None:
        return None
    above = measured.dough_c - wanted
    return Probe(
        dough_c=measured.dough_c,
        water_c=measured.water_c,
        above_c=above,
        good=abs(above) <= DOUGH_TOLERANCE_C,
        lesson=(
            f"A dough {above:+.1f} K off means a friction factor {temperatures_counted * above:+.1f} K off; the next "
            f"dough takes {SMOOTHING:.0%} of it, unless the reading stands far from its neighbours."
        ),
        yeast_pace=_yeast_pace(measured.dough_c, wanted),
    )


def _yeast_pace(dough_c: float, wanted_c: float) -> float:
    """Pace of the yeast, as a share of what it would be at the temperature wanted; 1 where it rests at both."""
    wanted = activity(BAKERS, wanted_c)
    return activity(BAKERS, dough_c) / wanted if wanted else 1.0
