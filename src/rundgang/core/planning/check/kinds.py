"""The kinds of station, as the check sees them: told apart by a match of its own."""

from typing import NamedTuple, assert_never

from rundgang.core.kinds.bench import BenchStation, BenchStep
from rundgang.core.kinds.chamber import ChamberStation, ChamberStep
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep
from rundgang.core.kinds.every import PieceStation, PieceStep
from rundgang.core.kinds.held import HeldStation, HeldStep
from rundgang.core.kinds.load import LoadStation, LoadStep
from rundgang.core.kinds.rate import RateStation, RateStep


class Stay(NamedTuple):
    """How long a piece is inside, min: at least, and at most."""

    least: float
    most: float


def stay_of(step: PieceStep, station: PieceStation, flow_per_h: float) -> Stay:
    """How long a piece may be inside at so many pieces an hour, min."""
    match step:
        case RateStep() | BenchStep():
            inside = getattr(station, "pass_min", 0.0)
            return Stay(inside, inside)
        case ConveyorStep() | ChamberStep():
            return Stay(step.dwell_min, step.dwell_min)
        case HeldStep():
            return Stay(step.least_min, step.most_min)
        case LoadStep():
            assert isinstance(station, LoadStation)  # noqa: S101
            cycle = station.load_min + step.dwell_min + station.unload_min
            load = station.racks * station.trays_per_rack * step.pieces_per_tray
            wait = cycle + 60 * max(load - 1, 0) / flow_per_h
            return Stay(wait, wait)
        case _:
            assert_never(step)


def ends_leg(step: PieceStep) -> bool:
    """Whether pieces leave the station at a time of their own."""
    match step:
        case HeldStep() | LoadStep():
            return True
        case RateStep() | BenchStep() | ConveyorStep() | ChamberStep():
            return False
        case _:
            assert_never(step)


def made_of_one(step: PieceStep) -> float:
    """Good pieces that come out for one that goes in."""
    match step:
        case RateStep() | BenchStep():
            return step.yield_ * step.makes / step.takes
        case HeldStep() | ConveyorStep() | ChamberStep() | LoadStep():
            return step.yield_
        case _:
            assert_never(step)


def most_per_h(step: PieceStep, station: PieceStation) -> float | None:
    """What machines, people or chambers can take, pieces/h; None where only the filling counts."""
    match step:
        case RateStep():
            assert isinstance(station, RateStation)  # noqa: S101
            strokes = 60 * step.strokes_per_min * station.lanes * station.machines * station.efficiency
            return strokes * step.takes
        case BenchStep():
            assert isinstance(station, BenchStation)  # noqa: S101
            return 60 * station.people * step.pieces_per_person_min
        case LoadStep():
            assert isinstance(station, LoadStation)  # noqa: S101
            cycle = station.load_min + step.dwell_min + station.unload_min
            return 60 * station.chambers * station.racks * station.trays_per_rack * step.pieces_per_tray / cycle
        case HeldStep() | ConveyorStep() | ChamberStep():
            return None
        case _:
            assert_never(step)


def room_of(step: PieceStep, station: PieceStation) -> float | None:
    """Pieces that a belt, a room or a store holds; None where that is not what limits it."""
    match step:
        case ChamberStep():
            assert isinstance(station, ChamberStation)  # noqa: S101
            return step.pieces_per_tray * station.racks * station.trays_per_rack
        case HeldStep():
            assert isinstance(station, HeldStation)  # noqa: S101
            return (step.pieces_per_position or 1) * station.positions
        case ConveyorStep():
            assert isinstance(station, ConveyorStation)  # noqa: S101
            if step.geometry and station.width_m:
                lie = step.geometry
                across = int((station.width_m * 1000 + lie.gap_mm) / (lie.across_mm + lie.gap_mm) + 1e-9)
                return float(across * int(station.length_m * 1000 / lie.pitch_mm))
            return step.pieces_per_place * (station.places or 1)
        case RateStep() | BenchStep() | LoadStep():
            return None
        case _:
            assert_never(step)


def set_anew_min(before: PieceStep, after: PieceStep, station: PieceStation) -> float | None:
    """How long an empty station takes to be set for the next run, min; None where it need not be empty."""
    match before:
        case RateStep():
            assert isinstance(after, RateStep)  # noqa: S101
            mount = station.changeover.tool_change_min
            return mount if mount and after.tool and after.tool != before.tool else None
        case BenchStep() | HeldStep():
            return None
        case ChamberStep():
            assert isinstance(after, ChamberStep) and isinstance(station, ChamberStation)  # noqa: S101, PT018
            other_air = (before.temperature_c, before.humidity_pct) != (after.temperature_c, after.humidity_pct)
            return station.setup_min if other_air else None
        case LoadStep():
            assert isinstance(after, LoadStep) and isinstance(station, LoadStation)  # noqa: S101, PT018
            other_air = (before.temperature_c, before.humidity_pct) != (after.temperature_c, after.humidity_pct)
            return station.setup_min if other_air else 0.0
        case ConveyorStep():
            assert isinstance(after, ConveyorStep) and isinstance(station, ConveyorStation)  # noqa: S101, PT018
            return _belt_min(before, after, station)
        case _:
            assert_never(before)


def _belt_min(before: ConveyorStep, after: ConveyorStep, station: ConveyorStation) -> float | None:
    same_belt = before.dwell_min == after.dwell_min
    zones, zones_then = zones_of(before, station), zones_of(after, station)
    if same_belt and zones == zones_then and before.humidity_pct == after.humidity_pct:
        return None
    return max(slowest_ramp_min(station, zones, zones_then), station.setup_min)


def zones_of(step: ConveyorStep, station: ConveyorStation) -> list[float | None]:
    """What each zone of an oven is set to, °C."""
    return [*step.zone_c] if step.zone_c else [step.temperature_c for _ in station.zones or (None,)]


def slowest_ramp_min(station: ConveyorStation, now: list[float | None], then: list[float | None]) -> float:
    """How long the slowest zone takes from one temperature to another, min."""
    longest, up, down = 0.0, station.heating_c_per_min, station.cooling_c_per_min
    for one, other in zip(now, then, strict=True):
        rise = other - one if one is not None and other is not None else 0.0
        longest = max(longest, rise / up if rise > 0 and up else -rise / down if rise < 0 and down else 0.0)
    return longest
