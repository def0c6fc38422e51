"""Chamber: a room of racks in which pieces dwell on trays, each rack coming and going by itself."""

from functools import cached_property
from typing import ClassVar, Literal, Self

from pydantic import Field

from rundgang.core.kinds.conveyor import dwell_capacity
from rundgang.core.kinds.operation import Counted, Operation, Reason, room_gap_min
from rundgang.core.kinds.parts import DwellStep, StationBase, said
from rundgang.core.model import Minutes


class ChamberStation(StationBase):
    """A room of racks in which pieces dwell on trays: each rack comes and goes by itself.

    Attributes
    ----------
    racks, trays_per_rack : int
        How many trays the room holds.
    setup_min : float
        To set another climate once the room is empty, min.
    """

    dwells: ClassVar[bool] = True

    kind: Literal["chamber"] = "chamber"
    racks: int = Field(ge=1, le=10_000)
    trays_per_rack: int = Field(ge=1, le=1_000)
    setup_min: Minutes = 0

    @property
    def trays(self) -> int:
        """Trays the room holds."""
        return self.racks * self.trays_per_rack


class ChamberStep(DwellStep):
    """Dwelling in a room, on trays.

    Attributes
    ----------
    dwell_min : float
        From going in to coming out, min.
    pieces_per_tray : float
        How many lie on one tray.
    """

    kind: Literal["chamber"] = "chamber"
    pieces_per_tray: float = Field(ge=0.1, le=10_000)


class Chamber(Operation[ChamberStep, ChamberStation]):
    """Pieces dwelling in a room."""

    has_calculator = True

    @cached_property
    def capacity_per_h(self) -> float:
        """Pieces an hour: 60 C / d."""
        return dwell_capacity(self.places, self.step.dwell_min)

    @property
    def dwell_min(self) -> float:
        """From going in to coming out, min."""
        return self.step.dwell_min

    @cached_property
    def places(self) -> float:
        """Pieces on all trays."""
        return self.station.trays * self.step.pieces_per_tray

    @property
    def counted(self) -> Counted:
        """One room."""
        return Counted(1, "rooms", adjustable=False)

    @property
    def arithmetic(self) -> str:
        """60 C / d with its figures."""
        return f"60 × {self.places:,.0f} places ÷ {self.dwell_min:.4g} min"

    def refit(self, then: Self) -> tuple[Reason, ...]:
        """Another climate to set in the empty room."""
        if self.step.climate == then.step.climate:
            return ()
        changes = (
            f"{said(self.step.temperature_c)} to {said(then.step.temperature_c)} °C, "
            f"{said(self.step.humidity_pct)} to {said(then.step.humidity_pct)} %"
        )
        return (Reason(what=changes, minutes=self.station.setup_min),)

    def filling_gap_min(self, then: Self, flow_per_h: float) -> float:
        """White time that keeps it from overfilling, min."""
        return room_gap_min(self, then, flow_per_h)
