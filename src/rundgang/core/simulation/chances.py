"""What is random on a line: what its library says, learnt or entered, and else the usual, marked as a suggestion."""

from collections.abc import Mapping

from rundgang.core.kinds.every import PieceStation
from rundgang.core.kinds.parts import Standstill
from rundgang.core.plant import Line
from rundgang.core.simulation.model import Chances

USUAL_EVERY_MIN: Mapping[str, float] = {"rate": 600.0, "conveyor": 2_400.0}
"""How long stations of a kind run until they stop; common practice, no published source."""

SELDOM_MIN = 4_800.0
"""The same of all other kinds: little moves there."""

USUAL_STANDS = Standstill(median_min=5.0, spread=0.9)
"""How long they stand then; common practice, no published source."""

LATE_MIN = (0.6, 0.8)
"""How late people begin a run: the median, min, and the spread of its logarithm; suggested here, nobody has counted."""

PACE_SPREAD, CHANGE_SPREAD = 0.006, 0.1
"""How far paces and settings are from what is planned: the spread of their logarithm; suggested here as well."""


def is_suggested(station: PieceStation) -> bool:
    """Whether nobody knows how often a station stops."""
    return station.stops_every_min is None


def every_min(station: PieceStation) -> float:
    """How long a station runs in the mean until it stops, min."""
    return station.stops_every_min or USUAL_EVERY_MIN.get(station.kind, SELDOM_MIN)


def stands_of(station: PieceStation) -> Standstill:
    """How long it stands then."""
    return station.stands or USUAL_STANDS


def chances_of(line: Line) -> Chances:
    """What is random on a line."""
    stations = line.piece_stations
    return Chances(
        stops_every_min={station.id: every_min(station) for station in stations},
        stands_min={station.id: (stands_of(station).median_min, stands_of(station).spread) for station in stations},
        late_min=LATE_MIN,
        pace_spread=PACE_SPREAD,
        change_spread=CHANGE_SPREAD,
    )
