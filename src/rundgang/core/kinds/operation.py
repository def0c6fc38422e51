"""An operation: a step done at its station. What every kind must answer, whichever it is.

Capacities are pieces an hour at the station's own entry; times are minutes.
"""

from abc import ABC, abstractmethod
from collections.abc import Iterator
from math import inf
from typing import Generic, NamedTuple, Self, TypeVar

from rundgang.core.kinds.parts import PieceStepBase, StationBase
from rundgang.core.model import Model
from rundgang.core.units import MINUTES_PER_HOUR


class Reason(Model):
    """A part of a gap: what it is for, and how long it takes, min."""

    what: str
    minutes: float


class Counted(NamedTuple):
    """How many of what work side by side at a station.

    Attributes
    ----------
    adjustable : bool
        Whether one can ask what one more would give; a belt or a room is one.
    """

    number: int
    what: str
    adjustable: bool = True


StepT = TypeVar("StepT", bound=PieceStepBase)
StationT = TypeVar("StationT", bound=StationBase)


class Operation(ABC, Generic[StepT, StationT]):
    """A step done at its station.

    Attributes
    ----------
    has_calculator : bool
        Whether there is a calculator for what happens there.
    splits : bool
        Whether it ends a leg of the route: behind it pieces come at a time of their own.
    waits_for : float
        Pieces after it that a piece must wait for, before or behind its own dwell; at f pieces/h it waits
        60 x waits_for / f longer.
    belt_m : float or None
        Length of its belt, where it has one, m.
    """

    has_calculator: bool = False
    splits: bool = False
    waits_for: float = 0
    belt_m: float | None = None

    def __init__(self, step: StepT, station: StationT) -> None:
        self.step, self.station = step, station

    @property
    @abstractmethod
    def capacity_per_h(self) -> float:
        """Most pieces it can take in, an hour."""

    @property
    @abstractmethod
    def dwell_min(self) -> float:
        """How long a piece is inside, min; as short as it may be, and without what it waits for others."""

    @property
    def places(self) -> float:
        """Pieces it holds at once; infinite where nothing dwells."""
        return inf

    @property
    @abstractmethod
    def counted(self) -> Counted:
        """How many of what work side by side."""

    @property
    @abstractmethod
    def arithmetic(self) -> str:
        """The capacity's equation with its figures."""

    def stay_min(self, flow_per_h: float) -> float:
        """How long a piece is inside at so many pieces an hour, min: dwell + 60 x waits_for / flow."""
        return self.dwell_min + MINUTES_PER_HOUR * self.waits_for / flow_per_h

    @property
    def slack_min(self) -> float:
        """How much longer than its dwell a piece may stay, min."""
        return 0.0

    @property
    def stands_min(self) -> float:
        """How long a piece inside may stand beyond its time when the line does, min; inf where it only waits."""
        return self.step.stands_min

    @property
    def turn_round_min(self) -> float:
        """From when a place is emptied until it can be filled again, min."""
        return 0.0

    def refit(self, then: Self) -> tuple[Reason, ...]:
        """What must be set anew once it is empty, before another operation of its kind; none where nothing."""
        return ()

    def filling_gap_min(self, then: Self, flow_per_h: float) -> float:
        """White time that keeps it from overfilling when another operation follows while it is still emptied, min."""
        return 0.0

    def faults(self) -> Iterator[str]:
        """What of the step does not fit the station: the field, what it is, and what is allowed."""
        return iter(())


def room_gap_min(first: Operation[StepT, StationT], then: Operation[StepT, StationT], flow_per_h: float) -> float:
    """The gap of two runs that may stand in a room together: only so long that it never overfills, min.

    While the first run's pieces leave after d_r, the second's come in at u a minute; when the last of the
    first goes, the second has filled u (d_r - g) of the C places, so g >= d_r - C / u.
    """
    return first.dwell_min - then.places * MINUTES_PER_HOUR / flow_per_h
