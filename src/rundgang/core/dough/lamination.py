"""Laminated dough: layers after folding, how thin they get, and the fat blocks a line needs."""

from math import prod

from rundgang.core.errors import OutOfRangeError
from rundgang.core.model import Model


class Lamination(Model):
    """A sheet after its folds.

    Attributes
    ----------
    fat_layers : int
        The folds multiplied: three folds in three are 27.
    dough_layers : int
        One more than the fat has, where touching dough faces have grown together.
    fat_um, dough_um : float
        Thickness of a layer at the final sheet, micrometres.
    fat_blocks_per_h : float
        Blocks to lay in at the pace.
    """

    fat_layers: int
    dough_layers: int
    fat_um: float
    dough_um: float
    fat_blocks_per_h: float


def laminate(
    folds: tuple[int, ...], sheet_mm: float, fat_share: float, dough_kg_per_h: float, block_kg: float
) -> Lamination:
    """Layers and fat of a laminated dough.

    Parameters
    ----------
    folds : tuple of int
        Each fold by the number of its parts: 3 for a single turn, 4 for a double.
    sheet_mm : float
        Final sheet, mm.
    fat_share : float
        Roll-in fat as a share of the laminated dough, by mass; taken as by volume.
    dough_kg_per_h : float
        Laminated dough an hour, kg.

    Raises
    ------
    OutOfRangeError
        No fold, a fold of fewer than two parts, or a share not between 0 and 1.
    """
    if not folds or min(folds) < 2 or max(folds) > 12:
        raise OutOfRangeError("The folds", folds or "none", "one or more, each of 2 to 12 parts")
    if not 0 < fat_share < 1:
        raise OutOfRangeError("The fat", f"{fat_share:g} of the dough", "above 0, below 1")
    for what, value, unit in (("The sheet", sheet_mm, "mm"), ("A fat block", block_kg, "kg")):
        if value <= 0:
            raise OutOfRangeError(what, f"{value:g} {unit}", f"above 0 {unit}")
    layers = prod(folds)
    return Lamination(
        fat_layers=layers,
        dough_layers=layers + 1,
        fat_um=sheet_mm * 1_000 * fat_share / layers,
        dough_um=sheet_mm * 1_000 * (1 - fat_share) / (layers + 1),
        fat_blocks_per_h=dough_kg_per_h * fat_share / block_kg,
    )
