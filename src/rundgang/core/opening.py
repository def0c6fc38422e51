"""Where a plan begins: what is past at its *now* is fact, and no plan moves it."""

from pydantic import Field

from rundgang.core.model import Celsius, Id, Model
from rundgang.core.planning.model import Run


class HeatedOven(Model):
    """An oven that is on, and how hot it is; each of its zones, where they differ and are known one by one, °C."""

    line: Id
    station: Id
    temperature_c: Celsius
    zone_c: tuple[Celsius, ...] = Field(default=(), max_length=30)


class WornTool(Model):
    """How far a tool is worn when the window starts: strokes, hours or days, as it is counted.

    Attributes
    ----------
    used : float
        Below nothing for one that was renewed after the window's start: by what had worn the one before it by then.
    """

    line: Id
    station: Id
    tool: Id
    used: float = Field(ge=-1e9, le=1e9)


class LastRun(Model):
    """A product that has passed a line in no run of the plan: its stations are set to it, and soiled by it.

    Attributes
    ----------
    left_min : float
        When its last piece left the line, from the window's start: by now, min.
    """

    line: Id
    product: Id
    left_min: float = Field(default=0, ge=-100_000, le=10_080)


class Gives(Model):
    """What a begun run gives that may be loaded: fewer packs than come off the line where some are held, or gone.

    Attributes
    ----------
    product : str or None
        What is cut out of its pieces and sold; None: its own packs.
    """

    line: Id
    run: str = Field(max_length=40)
    product: Id | None = None
    packs: int = Field(ge=0, le=10_000_000)

    @property
    def of(self) -> tuple[str, str, str | None]:
        """Which packs are meant: the line, the run, and what is cut out of it."""
        return self.line, self.run, self.product


class Loaded(Model):
    """What a lorry that has left got of a product, as it was told: more or less than was ordered."""

    wave: Id
    product: Id
    packs: int = Field(ge=0, le=10_000_000)


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
    worn : tuple of WornTool
        Tools that are not new.
    last : tuple of LastRun
        What the lines made last; of several that passed a station the latest counts.
    gives : tuple of Gives
        Begun runs that give otherwise than they say.
    loaded : tuple of Loaded
        What lorries that have left got.
    """

    now_min: float = Field(default=0, ge=0, le=10_000_000)
    begun: tuple[Run, ...] = Field(default=(), max_length=1_000)
    heated: tuple[HeatedOven, ...] = Field(default=(), max_length=1_000)
    worn: tuple[WornTool, ...] = Field(default=(), max_length=1_000)
    last: tuple[LastRun, ...] = Field(default=(), max_length=1_000)
    gives: tuple[Gives, ...] = Field(default=(), max_length=1_000)
    loaded: tuple[Loaded, ...] = Field(default=(), max_length=5_000)

    def given(self, run: Run) -> Run:
        """A run with the packs that it gives."""
        packs = self.given_of(run, None, run.packs)
        return run if packs == run.packs else run.with_packs(packs)

    def given_of(self, run: Run, cut: str | None, packs: int) -> int:
        """The packs that a run gives, or that are cut out of it, where it gives otherwise than so many."""
        return next((one.packs for one in self.gives if one.of == (run.line, run.id, cut)), packs)

    def oven_c(self, line_id: str, station_id: str, zones: int = 1) -> tuple[float, ...] | None:
        """How hot each zone of an oven is, °C; None where it is off."""
        for oven in self.heated:
            if (oven.line, oven.station) == (line_id, station_id):
                return oven.zone_c if len(oven.zone_c) == zones else (oven.temperature_c,) * zones
        return None

    def used(self, line_id: str, station_id: str, tool_id: str) -> float:
        """How far a tool is worn at the window's start, as it is counted."""
        at = line_id, station_id, tool_id
        return next((tool.used for tool in self.worn if (tool.line, tool.station, tool.tool) == at), 0.0)

    def last_on(self, line_id: str) -> tuple[LastRun, ...]:
        """What a line made before the window, the latest first."""
        return tuple(sorted((r for r in self.last if r.line == line_id), key=lambda run: run.left_min, reverse=True))

    def begun_on(self, line_id: str) -> tuple[Run, ...]:
        """The runs of a line that have begun."""
        return tuple(run for run in self.begun if run.line == line_id)
