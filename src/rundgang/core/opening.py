"""Where a plan begins: what is past at its *now* is fact, and no plan moves it."""

from pydantic import Field

from rundgang.core.model import Celsius, Id, Model
from rundgang.core.planning.model import Run


class HeatedOven(Model):
    """An oven that is on, and how hot it is."""

    line: Id
    station: Id
    temperature_c: Celsius


class Opening(Model):
    """The state that a window is planned from.

    Attributes
    ----------
    now_min : float
        Nothing is begun before that has not been; from the window's start, min.
    begun : tuple of Run
        Runs for which something has been mixed by now, as they were and as they go on.
    heated : tuple of HeatedOven
        Ovens that are on; all others are cold.
    """

    now_min: float = Field(default=0, ge=0, le=10_080)
    begun: tuple[Run, ...] = Field(default=(), max_length=1_000)
    heated: tuple[HeatedOven, ...] = Field(default=(), max_length=1_000)

    def oven_c(self, line_id: str, station_id: str) -> float | None:
        """How hot an oven is; None where it is off."""
        return next((o.temperature_c for o in self.heated if (o.line, o.station) == (line_id, station_id)), None)

    def begun_on(self, line_id: str) -> tuple[Run, ...]:
        """The runs of a line that have begun."""
        return tuple(run for run in self.begun if run.line == line_id)
