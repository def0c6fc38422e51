"""Held: troughs, a warm room, a cold store. What was made stands there for a least and a most time."""

from collections.abc import Iterator
from functools import cached_property
from math import inf
from typing import ClassVar, Literal, Self

from pydantic import Field, model_validator

from rundgang.core.errors import InfeasibleError
from rundgang.core.kinds.operation import Counted, Operation, room_gap_min
from rundgang.core.kinds.parts import PieceStepBase, StationBase
from rundgang.core.kinds.ripening import Ripening
from rundgang.core.model import Minutes, Model, Name, PositiveMinutes
from rundgang.core.units import MINUTES_PER_HOUR


class HeldStation(StationBase):
    """Places that hold a dough or its pieces for a while: troughs, a warm room, a cold store.

    Attributes
    ----------
    positions : int
        How many there are.
    position : str
        What one is called, for instance "trough".
    capacity_kg : float or None
        The largest dough that fits one; None where nothing is too large.
    turn_round_min : float
        From when a position begins to be emptied until it is clean and back, min.
    """

    dwells: ClassVar[bool] = True

    kind: Literal["held"] = "held"
    positions: int = Field(ge=1, le=10_000)
    position: Name = "trough"
    capacity_kg: float | None = Field(default=None, ge=0.001, le=10_000)
    turn_round_min: Minutes = 0

    @property
    def units(self) -> tuple[str, ...]:
        """What its positions are called."""
        return tuple(f"{self.position} {number}" for number in range(1, self.positions + 1))

    def with_count(self, wanted: int) -> Self:
        """The station with so many positions."""
        return self.model_copy(update={"positions": wanted})


class HoldTask(Model):
    """Something to be done to what is held, so long after it was put in: break the crust to let the gas out."""

    at_min: Minutes
    what: Name


class HeldStep(PieceStepBase):
    """Held in a trough or a store.

    Attributes
    ----------
    least_min, most_min : float
        Least and most time from going in to coming out, min.
    pieces_per_position : float or None
        Pieces that one position holds; None right after mixing, where it holds one dough.
    tasks : tuple of HoldTask
        What is to be done meanwhile, in order; one that falls after it is taken out is not done.
    ripens : Ripening or None
        Limits by what the yeast has done, beside those on the clock.
    """

    kind: Literal["held"] = "held"
    least_min: Minutes
    most_min: PositiveMinutes
    pieces_per_position: float | None = Field(default=None, ge=0.01, le=1_000_000)
    tasks: tuple[HoldTask, ...] = Field(default=(), max_length=20)
    ripens: Ripening | None = None

    @model_validator(mode="after")
    def _holds_in_order(self) -> "HeldStep":
        if self.most_min <= self.least_min:
            raise ValueError(f"most_min is {self.most_min:g}; allowed: above least_min, {self.least_min:g}")
        late = [task for task in self.tasks if task.at_min > self.most_min]
        if late:
            raise ValueError(f"tasks: {late[0].what} is at {late[0].at_min:g} min; allowed: up to {self.most_min:g}")
        return self

    def ripened(self, dough_c: float) -> Self:
        """The step with the narrower of its limits, for what goes in at a temperature.

        Raises
        ------
        InfeasibleError
            The yeast does not get there in the most time.
        """
        if self.ripens is None:
            return self
        least, most = self.ripens.clock(dough_c)
        longest = self.most_min if most is None else min(self.most_min, most)
        if max(least, self.least_min) >= longest:
            raise InfeasibleError(
                f"{self.station}: at {dough_c:g} °C it needs {max(least, self.least_min):.0f} min and may have "
                f"{longest:.0f}. Allowed: limits that leave it time."
            )
        return self.model_copy(update={"least_min": max(least, self.least_min), "most_min": longest})

    def with_dwell(self, minutes: float) -> Self:
        """The step with another least hold."""
        return self.model_copy(update={"least_min": minutes, "most_min": max(self.most_min, minutes + 0.01)})


class Held(Operation[HeldStep, HeldStation]):
    """Pieces held in a store."""

    splits = True

    @property
    def slack_min(self) -> float:
        """Most hold less least hold, min."""
        return self.step.most_min - self.step.least_min

    @property
    def turn_round_min(self) -> float:
        """From when a position is emptied until it is back, min."""
        return self.station.turn_round_min

    @cached_property
    def capacity_per_h(self) -> float:
        """Pieces an hour: 60 N n / (d + t)."""
        return held_capacity(1, self.places, self.step.least_min, self.station.turn_round_min)

    @property
    def dwell_min(self) -> float:
        """The least hold, min."""
        return self.step.least_min

    @cached_property
    def places(self) -> float:
        """Pieces in all positions."""
        each = self.step.pieces_per_position
        return self.station.positions * each if each else inf

    @property
    def counted(self) -> Counted:
        """Its positions."""
        return Counted(self.station.positions, f"{self.station.position}s")

    @property
    def arithmetic(self) -> str:
        """60 N n / (d + t) with its figures."""
        station, step = self.station, self.step
        return (
            f"60 × {station.positions} {station.position}s × {step.pieces_per_position:g} pieces ÷ "
            f"({step.least_min:g} + {station.turn_round_min:g} min)"
        )

    def filling_gap_min(self, then: Self, flow_per_h: float) -> float:
        """White time that keeps it from overfilling, min."""
        return room_gap_min(self, then, flow_per_h)

    def faults(self) -> Iterator[str]:
        """A store must know how many pieces a position holds."""
        if self.step.pieces_per_position is None:
            yield "pieces_per_position is not given; allowed in a store: how many pieces one position holds"


def held_capacity(positions: int, pieces: float, hold_min: float, turn_round_min: float) -> float:
    """Capacity of troughs or store places, pieces/h: 60 N n / (d + t); endless where neither takes time."""
    round_min = hold_min + turn_round_min
    return MINUTES_PER_HOUR * positions * pieces / round_min if round_min else inf
