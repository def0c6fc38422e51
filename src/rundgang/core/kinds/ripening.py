"""Ripening: limits of a hold or a proof by what the yeast has done, in minutes at its best temperature.

The air is not the dough: a piece nears it by Newton's law, and the yeast works by the piece's own temperature
(`dough.proof`). Where a step says how fast its pieces warm, its limits on the clock follow from the dough's
temperature.
"""

from pydantic import Field, model_validator

from rundgang.core.dough.proof import BAKERS, Piece, minutes_for, over_proofed_after
from rundgang.core.model import Celsius, Model


class Ripening(Model):
    """How far what is held must ripen, and may: minutes at the yeast's best temperature.

    Attributes
    ----------
    air_c : float
        Where it stands, °C.
    k_per_min : float
        How fast it nears the air, 1/min.
    """

    air_c: Celsius
    k_per_min: float = Field(ge=0.0001, le=2)
    least_done_min: float = Field(default=0, ge=0, le=2_880)
    most_done_min: float | None = Field(default=None, ge=0.01, le=2_880)

    @model_validator(mode="after")
    def _in_order(self) -> "Ripening":
        if self.most_done_min is not None and self.most_done_min <= self.least_done_min:
            raise ValueError(
                f"most_done_min is {self.most_done_min:g}; allowed: above least_done_min, {self.least_done_min:g}"
            )
        return self

    def clock(self, dough_c: float) -> tuple[float, float | None]:
        """The least and the most time of a dough that goes in at a temperature, min.

        Raises
        ------
        InfeasibleError
            The yeast rests there.
        """
        piece = Piece(dough_c=dough_c, air_c=self.air_c, k_per_min=self.k_per_min)
        least = minutes_for(BAKERS, piece, self.least_done_min) if self.least_done_min else 0.0
        return least, None if self.most_done_min is None else minutes_for(BAKERS, piece, self.most_done_min)


class Bears(Model):
    """How much of its proof a piece bears when the line stands, %; how fast it nears the proofer's air, 1/min."""

    most_pct: float = Field(gt=100, le=400)
    k_per_min: float = Field(ge=0.0001, le=2)

    def grace_min(self, dough_c: float, air_c: float, dwell_min: float) -> float:
        """How much longer than its dwell a piece may stay, min; InfeasibleError where its yeast rests."""
        piece = Piece(dough_c=dough_c, air_c=air_c, k_per_min=self.k_per_min)
        return over_proofed_after(BAKERS, dwell_min, piece, piece, self.most_pct / 100) - dwell_min
