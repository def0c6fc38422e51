"""Tools that wear: how fast a run wears them, and what a station may therefore take before they are renewed.

A slicer's blades last so many hours, a die so many strokes, a belt so many days. What a run wears is

    strokes of one lane = pieces / (machines x lanes x efficiency x pieces a stroke)
    hours               = from the first piece in to the last piece out

Days pass by themselves, from when the tool was renewed.
"""

from collections.abc import Iterator
from typing import NamedTuple

from rundgang.core.conditions import MINUTES_PER_DAY
from rundgang.core.kinds.batch import BatchStation
from rundgang.core.kinds.every import AnyStation, PieceStep
from rundgang.core.kinds.parts import WearingTool
from rundgang.core.kinds.rate import RateStation, RateStep
from rundgang.core.plant import Line
from rundgang.core.units import MINUTES_PER_HOUR

COUNTED_IN = {"strokes": 1, "hours": MINUTES_PER_HOUR, "days": MINUTES_PER_DAY}
"""What one stroke, hour or day of a tool's life comes to: strokes, or minutes."""


class Wear(NamedTuple):
    """What a step wears of a tool: strokes for a piece that enters, or minutes for a minute there; none by the day."""

    per_piece: float
    per_min: float


def wear_of(tool: WearingTool, step: PieceStep, station: AnyStation) -> Wear | None:
    """What a step wears of a tool of its station; None where it is done with another."""
    if tool.fits is not None and getattr(step, "tool", None) != tool.fits:
        return None
    if tool.counted == "strokes" and isinstance(step, RateStep) and isinstance(station, RateStation):
        lanes = station.machines * station.lanes * station.efficiency
        return Wear(1 / (lanes * step.takes), 0.0)
    return Wear(0.0, 1.0 if tool.counted == "hours" else 0.0)


def tools_of(line: Line) -> Iterator[tuple[AnyStation, WearingTool]]:
    """Every tool of a line that wears, with its station."""
    for station in line.stations:
        for tool in station.tools:
            yield station, tool


def tool_faults(line: Line, shared: set[str]) -> Iterator[str]:
    """What a station's tools must be: at machines, belts and benches of one line, strokes only where there are some."""
    for station, tool in tools_of(line):
        where = f"{line.name}, {station.name}: tools has {tool.name}"
        names = [other.id for other in station.tools]
        if isinstance(station, BatchStation) or station.kind == "held":
            yield f"{where}; allowed: at stations that pieces pass"
        elif station.id in shared:
            yield f"{where}; allowed: at a station that no other line shares"
        elif names.count(tool.id) > 1:
            yield f"{where}; allowed: each id once"
        elif not isinstance(station, RateStation) and (tool.counted == "strokes" or tool.fits):
            yield f"{where}, counted in {tool.counted}; allowed here: hours or days, in every run"
