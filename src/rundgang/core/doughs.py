"""How a demand is cut into doughs: the choices for the odd last one, and what comes of a choice."""

from rundgang.core.model import Model
from rundgang.core.products import OddBatch

POLICIES: tuple[OddBatch, ...] = ("equal", "short-last", "round-up")


class BatchLimits(Model):
    """The fewest and most pieces one dough may be scaled to."""

    least_pieces: int
    most_pieces: int


class BatchSplit(Model):
    """One way to cut a demand into doughs.

    Attributes
    ----------
    pieces : tuple of int
        Pieces scaled from each dough, in order.
    packs : int
        Good packs they give.
    surplus_packs : int
        Packs beyond the demand, to stock.
    least_fill : float
        Fill of the emptiest mixer, share of its maximum.
    """

    policy: OddBatch
    pieces: tuple[int, ...]
    packs: int
    surplus_packs: int
    least_fill: float
