"""Bench: people working by hand, side by side: headcount is the capacity."""

from functools import cached_property
from typing import Literal, Self

from pydantic import Field

from rundgang.core.kinds.operation import Counted, Operation
from rundgang.core.kinds.parts import ConvertingStep, StationBase
from rundgang.core.model import Minutes
from rundgang.core.units import MINUTES_PER_HOUR


class BenchStation(StationBase):
    """People side by side: headcount is the capacity.

    Attributes
    ----------
    people : int
        At the bench.
    pass_min : float
        How long one piece is in hand, min.
    """

    kind: Literal["bench"] = "bench"
    people: int = Field(ge=1, le=500)
    pass_min: Minutes = 0

    def with_count(self, wanted: int) -> Self:
        """The station with so many people."""
        return self.model_copy(update={"people": wanted})


class BenchStep(ConvertingStep):
    """Being worked by hand.

    Attributes
    ----------
    pieces_per_person_min : float
        Pieces one person takes in a minute.
    """

    kind: Literal["bench"] = "bench"
    pieces_per_person_min: float = Field(ge=0.01, le=1_000)


class Bench(Operation[BenchStep, BenchStation]):
    """Pieces worked by hand."""

    @cached_property
    def capacity_per_h(self) -> float:
        """Pieces an hour: 60 w p."""
        return bench_capacity(self.station.people, self.step.pieces_per_person_min)

    @property
    def dwell_min(self) -> float:
        """How long one piece is in hand, min."""
        return self.station.pass_min

    @property
    def counted(self) -> Counted:
        """Its people."""
        return Counted(self.station.people, "people")

    @property
    def arithmetic(self) -> str:
        """60 w p with its figures."""
        return f"60 × {self.station.people} people × {self.step.pieces_per_person_min:g} pieces a minute"


def bench_capacity(people: int, pieces_per_person_min: float) -> float:
    """Capacity of people working by hand, pieces/h: 60 w p."""
    return MINUTES_PER_HOUR * people * pieces_per_person_min
