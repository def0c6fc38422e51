"""Conveyor: a belt of fixed length and one speed: proofer, oven, fryer, cooler, tunnel."""

from collections.abc import Iterator, Sequence
from functools import cached_property
from math import floor
from typing import ClassVar, Literal, Self

from pydantic import Field, model_validator

from rundgang.core.kinds.operation import Counted, Operation, Reason
from rundgang.core.kinds.parts import ROUNDING, SECONDS_PER_MINUTE, DwellStep, StationBase, said
from rundgang.core.model import Celsius, Minutes, Model, Name, PositiveMinutes
from rundgang.core.units import MINUTES_PER_HOUR

MM_PER_M = 1_000

COLD_C = 20.0
"""An oven that was off is as cold as the room, °C (common practice, no published source)."""


class Zone(Model):
    """A stretch of an oven with a temperature of its own."""

    name: Name
    length_m: float = Field(ge=0.01, le=5_000)


ZONES_SLACK_M = 0.01
"""So far zones may be off the belt's length: rounding, m."""


class ConveyorStation(StationBase):
    """A belt of fixed length and one speed: proofer, oven, cooling conveyor.

    Attributes
    ----------
    places : int or None
        Pieces the belt holds, at one piece a place; None where the product's geometry decides.
    length_m, width_m : float
        Of the belt, m; the width may be unknown where `places` are counted.
    oil_kg : float or None
        Its filling, where it is a fryer.
    setup_min : float
        To set a new belt speed or climate once the belt is empty, min.
    heating_c_per_min, cooling_c_per_min : float or None
        How fast an oven's temperature can be raised and lowered; None where nothing is heated.
    zones : tuple of Zone
        Of an oven, in walking order; none where it is all one. Together they are as long as the belt.
    """

    dwells: ClassVar[bool] = True

    kind: Literal["conveyor"] = "conveyor"
    places: int | None = Field(default=None, ge=1, le=1_000_000)
    length_m: float = Field(ge=0.01, le=5_000)
    width_m: float | None = Field(default=None, ge=0.01, le=50)
    oil_kg: float | None = Field(default=None, ge=1, le=100_000)
    setup_min: Minutes = 0
    heating_c_per_min: float | None = Field(default=None, ge=0.01, le=100)
    cooling_c_per_min: float | None = Field(default=None, ge=0.01, le=100)
    zones: tuple[Zone, ...] = Field(default=(), max_length=30)

    @model_validator(mode="after")
    def _zones_fill_the_belt(self) -> "ConveyorStation":
        zoned = sum(zone.length_m for zone in self.zones)
        if self.zones and abs(zoned - self.length_m) > ZONES_SLACK_M:
            raise ValueError(f"zones are {zoned:g} m together; allowed: the belt's length, {self.length_m:g} m")
        return self


class PieceGeometry(Model):
    """How pieces lie on a belt of known width and length, mm.

    Attributes
    ----------
    across_mm : float
        Width of a piece across the belt.
    gap_mm : float
        Between two neighbours across.
    pitch_mm : float
        From one row to the next, along the belt.
    """

    across_mm: float = Field(ge=1, le=10_000)
    gap_mm: float = Field(ge=0, le=10_000)
    pitch_mm: float = Field(ge=1, le=10_000)


class KnownCooling(Model):
    """A run on the cooler that was measured: from one core temperature to another in known air, °C and min."""

    from_c: Celsius
    to_c: Celsius
    air_c: Celsius
    minutes: PositiveMinutes

    @model_validator(mode="after")
    def _it_cools(self) -> "KnownCooling":
        if not self.air_c < self.to_c < self.from_c:
            raise ValueError(
                f"to_c is {self.to_c:g}; allowed: between air_c, {self.air_c:g}, and from_c, {self.from_c:g}"
            )
        return self


class FriedSides(Model):
    """How long each side is fried, s: both equal where a total time is turned halfway."""

    first_s: float = Field(ge=1, le=3_600)
    second_s: float = Field(ge=1, le=3_600)

    @property
    def total_min(self) -> float:
        """Both together, min."""
        return (self.first_s + self.second_s) / SECONDS_PER_MINUTE


class ConveyorStep(DwellStep):
    """Dwelling on a belt.

    Attributes
    ----------
    dwell_min : float
        From the belt's start to its end, min.
    temperature_c, humidity_pct : float or None
        The climate, where the belt has one.
    zone_c : tuple of float
        The temperature of each of the oven's zones, where they differ, °C; `temperature_c` is not set then.
    pieces_per_place : float
        More than 1 where a small piece shares a place.
    geometry : PieceGeometry or None
        How pieces lie, where the belt's places are not counted.
    sides : FriedSides or None
        How long each side is fried, in a fryer.
    cooling : KnownCooling or None
        A run that was measured, from which the core in warmer or colder rooms follows.
    """

    kind: Literal["conveyor"] = "conveyor"
    zone_c: tuple[Celsius, ...] = Field(default=(), max_length=30)
    pieces_per_place: float = Field(default=1, ge=0.01, le=100)
    geometry: PieceGeometry | None = None
    sides: FriedSides | None = None
    cooling: KnownCooling | None = None

    @model_validator(mode="after")
    def _sides_fill_the_dwell(self) -> "ConveyorStep":
        if self.sides and abs(self.sides.total_min - self.dwell_min) > 0.01:
            raise ValueError(
                f"sides take {self.sides.total_min:g} min; allowed: together the dwell of {self.dwell_min:g} min"
            )
        return self

    @model_validator(mode="after")
    def _one_temperature_or_zones(self) -> "ConveyorStep":
        if self.zone_c and self.temperature_c is not None:
            raise ValueError("temperature_c and zone_c are both given; allowed: one or the other")
        return self


class Conveyor(Operation[ConveyorStep, ConveyorStation]):
    """Pieces dwelling on a belt."""

    has_calculator = True

    def __init__(self, step: ConveyorStep, station: ConveyorStation) -> None:
        super().__init__(step, station)
        self.belt_m = station.length_m

    @cached_property
    def capacity_per_h(self) -> float:
        """Pieces an hour: 60 C / d."""
        return dwell_capacity(self.places, self.step.dwell_min)

    @property
    def dwell_min(self) -> float:
        """From the belt's start to its end, min."""
        return self.step.dwell_min

    @cached_property
    def places(self) -> float:
        """Pieces on the belt: counted, or from its width and the piece's geometry."""
        lie, station = self.step.geometry, self.station
        if lie and station.width_m:
            across = rows_on(station.width_m * MM_PER_M, lie.across_mm, lie.gap_mm)
            return across * floor(station.length_m * MM_PER_M / lie.pitch_mm)
        assert station.places is not None  # noqa: S101  (the scenario has made sure)
        return station.places * self.step.pieces_per_place

    @property
    def counted(self) -> Counted:
        """One belt."""
        return Counted(1, "belts", adjustable=False)

    @property
    def arithmetic(self) -> str:
        """60 C / d with its figures."""
        return f"60 × {self.places:,.0f} places ÷ {self.dwell_min:.4g} min"

    def refit(self, then: Self) -> tuple[Reason, ...]:
        """Another speed, temperature or humidity to set on the empty belt."""
        first, second, ramp = self.step, then.step, 0.0
        changes = []
        if first.dwell_min != second.dwell_min:
            changes.append(f"belt from {first.dwell_min:g} to {second.dwell_min:g} min")
        if first.humidity_pct != second.humidity_pct:
            changes.append(f"humidity from {said(first.humidity_pct)} to {said(second.humidity_pct)} %")
        before, after = zone_temperatures(first, self.station), zone_temperatures(second, self.station)
        if before != after:
            changes.append(f"{_said_zones(before)} to {_said_zones(after)} °C")
            ramp = ramp_min(self.station, before, after)
        if not changes:
            return ()
        return (Reason(what=", ".join(changes), minutes=max(ramp, self.station.setup_min)),)

    def faults(self) -> Iterator[str]:
        """A belt's places are counted, or follow from its width and the piece's geometry."""
        lie, station = self.step.geometry, self.station
        if self.step.zone_c and len(self.step.zone_c) != len(station.zones):
            yield f"zone_c has {len(self.step.zone_c)} figures; allowed: one for each of the {len(station.zones)} zones"
        if lie is None:
            if station.places is None:
                yield f"geometry is not given; {station.name} has no counted places; allowed: one or the other"
        elif station.width_m is None:
            yield f"geometry is given, but {station.name} has no width_m; allowed: both, or counted places"
        elif lie.across_mm > station.width_m * MM_PER_M or lie.pitch_mm > station.length_m * MM_PER_M:
            yield f"geometry: not even one piece fits {station.name}; allowed: a piece smaller than the belt"


def dwell_capacity(pieces: float, dwell_min: float) -> float:
    """Capacity of a belt or room that holds so many pieces for so many minutes, pieces/h: 60 C / d."""
    return MINUTES_PER_HOUR * pieces / dwell_min


def rows_on(length_mm: float, piece_mm: float, gap_mm: float) -> int:
    """Rows that fit side by side: floor((width + gap) / (piece + gap))."""
    return floor((length_mm + gap_mm) / (piece_mm + gap_mm) * (1 + ROUNDING))


def zone_temperatures(step: ConveyorStep, station: ConveyorStation) -> tuple[float | None, ...]:
    """The temperature of every zone, °C; of the whole oven where it has no zones; None where it is not set."""
    return step.zone_c or (step.temperature_c,) * max(1, len(station.zones))


def _said_zones(zones: tuple[float | None, ...]) -> str:
    return said(zones[0]) if len({*zones}) == 1 else "/".join(said(zone) for zone in zones)


def ramp_min(
    station: ConveyorStation, before: Sequence[float | None], after: Sequence[float | None]
) -> float:  # fmt: skip
    """Time to bring an empty oven from some temperatures to others, min: |dT| / rate of the slowest zone."""
    return max((_zone_ramp_min(station, one, other) for one, other in zip(before, after, strict=True)), default=0.0)


def _zone_ramp_min(station: ConveyorStation, before_c: float | None, after_c: float | None) -> float:
    """|dT| / rate, up and down apart."""
    if before_c is None or after_c is None:
        return 0.0
    rate = station.heating_c_per_min if after_c > before_c else station.cooling_c_per_min
    return abs(after_c - before_c) / rate if rate else 0.0


def heat_up_min(station: ConveyorStation, wanted: Sequence[float | None]) -> float:
    """From cold to the temperatures wanted in an oven, min; 0 where nothing is heated."""
    hotter = [COLD_C if (zone_c or 0) > COLD_C else zone_c for zone_c in wanted]
    return ramp_min(station, hotter, wanted) if station.heating_c_per_min else 0.0
