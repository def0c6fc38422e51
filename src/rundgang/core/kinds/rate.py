"""Rate: machines that take pieces in lanes, stroke by stroke: dividers, formers, depositors, slicers, wrappers."""

from functools import cached_property
from typing import Literal, Self

from pydantic import Field

from rundgang.core.kinds.operation import Counted, Operation, Reason
from rundgang.core.kinds.parts import ConvertingStep, StationBase
from rundgang.core.model import Id, Minutes, Model, Name, Share
from rundgang.core.units import MINUTES_PER_HOUR


class RateStation(StationBase):
    """Machines that take pieces in lanes, stroke by stroke.

    Attributes
    ----------
    machines, lanes : int
        Side by side.
    efficiency : float
        Share of the strokes that make a good piece, 0 to 1.
    pass_min : float
        How long one piece is inside, min.
    """

    kind: Literal["rate"] = "rate"
    machines: int = Field(default=1, ge=1, le=100)
    lanes: int = Field(default=1, ge=1, le=200)
    efficiency: Share = 1
    pass_min: Minutes = 0

    def with_count(self, wanted: int) -> Self:
        """The station with so many machines."""
        return self.model_copy(update={"machines": wanted})


class CutOut(Model):
    """What is cut out of each piece: the centre of a ring.

    Attributes
    ----------
    grams : float
        Dough cut out of one piece, g.
    product : str or None
        What it is sold as; None where it goes back into the dough.
    """

    grams: float = Field(ge=0.01, le=5_000)
    product: Id | None = None


class RateStep(ConvertingStep):
    """Passing a machine stroke by stroke.

    Attributes
    ----------
    strokes_per_min : float
        Of one lane of one machine; each stroke takes `takes` pieces and makes `makes`.
    tool : str or None
        The die, roller or film that must be mounted.
    takes, makes : int
        Six rings taken, one bag made: takes 6, makes 1. One sheet taken, forty pieces made: 1 and 40.
    cut_out : CutOut or None
        What is cut out of each piece made.
    """

    kind: Literal["rate"] = "rate"
    strokes_per_min: float = Field(ge=0.01, le=10_000)
    tool: Name | None = None
    cut_out: CutOut | None = None


class Rate(Operation[RateStep, RateStation]):
    """Pieces passing machines."""

    @cached_property
    def capacity_per_h(self) -> float:
        """Pieces an hour: 60 m L s e n."""
        station, step = self.station, self.step
        return rate_capacity(station.machines, station.lanes, step.strokes_per_min, station.efficiency, step.takes)

    @property
    def dwell_min(self) -> float:
        """How long one piece is inside, min."""
        return self.station.pass_min

    @property
    def counted(self) -> Counted:
        """Its machines."""
        return Counted(self.station.machines, "machines")

    @property
    def arithmetic(self) -> str:
        """60 m L s e n with its figures."""
        station, step = self.station, self.step
        return (
            f"60 × {station.machines} × {station.lanes} lanes × {step.strokes_per_min:g} strokes/min "
            f"× {station.efficiency:g} efficiency"
        ) + (f" × {step.takes} pieces" if step.takes > 1 else "")

    def refit(self, then: Self) -> tuple[Reason, ...]:
        """Another tool to mount."""
        minutes = self.station.changeover.tool_change_min
        if self.step.tool == then.step.tool or not then.step.tool or not minutes:
            return ()
        return (Reason(what=f"mount {then.step.tool}", minutes=minutes),)


def cut_out_of(step: object) -> CutOut | None:
    """What a step cuts out of each piece; None where it cuts out nothing."""
    return step.cut_out if isinstance(step, RateStep) else None


def rate_capacity(machines: int, lanes: int, strokes_per_min: float, efficiency: float, taken: int = 1) -> float:
    """Capacity of machines with lanes and strokes, each taking so many pieces, pieces/h: 60 m L s e n."""
    return MINUTES_PER_HOUR * machines * lanes * strokes_per_min * efficiency * taken
