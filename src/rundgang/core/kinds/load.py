"""Load: a chamber that takes all its pieces in together and lets them out together: a rack oven, a vacuum cooler."""

from functools import cached_property
from typing import ClassVar, Literal, Self

from pydantic import Field

from rundgang.core.kinds.operation import Counted, Operation, Reason
from rundgang.core.kinds.parts import DwellStep, StationBase, said
from rundgang.core.model import Minutes
from rundgang.core.units import MINUTES_PER_HOUR


class LoadStation(StationBase):
    """Chambers side by side that are filled, closed for a time, and emptied.

    Attributes
    ----------
    chambers, racks, trays_per_rack : int
        How many there are, and what one takes.
    load_min, unload_min : float
        To push a load in, and to pull it out, min.
    setup_min : float
        To set another temperature or climate once all chambers are empty, min.
    """

    dwells: ClassVar[bool] = True

    kind: Literal["load"] = "load"
    chambers: int = Field(default=1, ge=1, le=100)
    racks: int = Field(ge=1, le=1_000)
    trays_per_rack: int = Field(ge=1, le=1_000)
    load_min: Minutes = 0
    unload_min: Minutes = 0
    setup_min: Minutes = 0

    def with_count(self, wanted: int) -> Self:
        """The station with so many chambers."""
        return self.model_copy(update={"chambers": wanted})


class LoadStep(DwellStep):
    """Dwelling in a chamber with a whole load.

    Attributes
    ----------
    dwell_min : float
        From door shut to door open, min.
    pieces_per_tray : float
        How many lie on one tray.
    """

    kind: Literal["load"] = "load"
    pieces_per_tray: float = Field(ge=0.1, le=10_000)


class Load(Operation[LoadStep, LoadStation]):
    """Pieces going in and out together.

    Filled and emptied piece by piece, every piece waits for the L - 1 others of its load, before or behind it.
    """

    has_calculator = True
    splits = True

    def __init__(self, step: LoadStep, station: LoadStation) -> None:
        super().__init__(step, station)
        self.waits_for = max(self.pieces_per_load - 1, 1e-9)

    @property
    def pieces_per_load(self) -> float:
        """Pieces that one chamber takes."""
        return self.station.racks * self.station.trays_per_rack * self.step.pieces_per_tray

    @cached_property
    def dwell_min(self) -> float:
        """The cycle: load, dwell, unload, min."""
        return self.station.load_min + self.step.dwell_min + self.station.unload_min

    @cached_property
    def capacity_per_h(self) -> float:
        """Pieces an hour: 60 m L / c."""
        return load_capacity(self.station.chambers, self.pieces_per_load, self.dwell_min)

    @property
    def places(self) -> float:
        """Pieces in all chambers."""
        return self.station.chambers * self.pieces_per_load

    @property
    def counted(self) -> Counted:
        """Its chambers."""
        return Counted(self.station.chambers, "chambers")

    @property
    def arithmetic(self) -> str:
        """60 m L / c with its figures."""
        station = self.station
        return (
            f"60 × {station.chambers} chambers × {self.pieces_per_load:,.0f} pieces ÷ ({station.load_min:g} + "
            f"{self.step.dwell_min:g} + {station.unload_min:g} min)"
        )

    def refit(self, then: Self) -> tuple[Reason, ...]:
        """The last load must be out; then another temperature or climate is set."""
        out = Reason(what="the last load is out", minutes=0)
        if self.step.climate == then.step.climate:
            return (out,)
        changes = (
            f"{said(self.step.temperature_c)} to {said(then.step.temperature_c)} °C, "
            f"{said(self.step.humidity_pct)} to {said(then.step.humidity_pct)} %"
        )
        return (out, Reason(what=changes, minutes=self.station.setup_min))


def load_capacity(chambers: int, pieces: float, cycle_min: float) -> float:
    """Capacity of chambers that are loaded and unloaded whole, pieces/h: 60 m L / c."""
    return MINUTES_PER_HOUR * chambers * pieces / cycle_min
