"""Weather and the room: how the air outside, hour by hour, becomes the air that doughs are made in.

The room follows the air outside by a lag, and stands above it by what ovens and people give off. Air that comes in
keeps its water: its humidity ratio is the same inside, and so warm rooms are drier than the air outside and a wet
day is wet inside too (ASHRAE Handbook of Fundamentals 2017, chapter 1).
"""

from collections.abc import Sequence
from math import exp, sqrt
from statistics import fmean
from typing import NamedTuple

from pydantic import Field

from rundgang.core.conditions import Conditions, HourlyConditions, RoomModel
from rundgang.core.dough.flour import room_rule
from rundgang.core.errors import OutOfRangeError
from rundgang.core.model import Celsius, Model
from rundgang.core.scenario import Scenario
from rundgang.core.thermal.dew_point import saturation_hpa
from rundgang.core.units import GRAMS_PER_KG, MINUTES_PER_HOUR

WATER_TO_AIR = 0.621945
"""Molar mass of water to that of dry air (ASHRAE Handbook of Fundamentals 2017, from memory)."""

LEAD_IN_H = 72
"""So many hours before the window are taken along: what the room still remembers of them."""

LAGS_H = tuple(0.5 * step for step in range(1, 97))
"""Lags that a fit tries, h."""

LEAST_READINGS = 4
LEAST_SPAN_H = 6
"""Fewer readings, or all within so few hours, tell nothing of a lag."""

WET_POINTS = 10.0
"""So many points above the rule's reference the room is called wet: the step that rules of thumb go by, %."""

TOLD_AHEAD_MIN = 720.0
"""Wet hours are told so long before they begin, min: the shift that they come in, or the one before (common practice,
no published source)."""


class OutdoorHour(Model):
    """The air outside in one hour."""

    air_c: Celsius
    humidity_pct: float = Field(ge=0, le=100)
    pressure_hpa: float = Field(ge=500, le=1_100)


class RoomReading(NamedTuple):
    """The room as it was read, so many hours from the first hour of a series of weather."""

    hour: float
    room_c: float


class FittedRoom(Model):
    """Lag and offset as readings have it.

    Attributes
    ----------
    spread_k : float
        Root mean square of what the readings are off, K.
    """

    lag_h: float
    offset_k: float
    spread_k: float
    readings: int


class WetSpell(Model):
    """Hours of a window in which the room is wet, and what that does to the water of a dough.

    Attributes
    ----------
    told_from_min, from_min, to_min : float
        Since when it is told, when it begins and ends, from the window's start, min.
    humidity_pct : float
        The most of it.
    water_pct : float
        Change of the water by the plant's rule at that, %.
    """

    told_from_min: float
    from_min: float
    to_min: float
    humidity_pct: float
    water_pct: float


def room_air(
    outdoor_c: Sequence[float], model: RoomModel, read: RoomReading | None = None
) -> tuple[float, ...]:  # fmt: skip
    """The room in the middle of each hour, °C: dT/dt = (T_out + offset - T) / lag, solved hour by hour.

    Parameters
    ----------
    outdoor_c : sequence of float
        The air outside, by the hour, °C.
    read : RoomReading or None
        From there on the room begins at what was read.
    """
    kept = exp(-1 / model.lag_h)
    room, found = outdoor_c[0] + model.offset_k, list[float]()
    for hour, outside in enumerate(outdoor_c):
        if read and int(read.hour) == hour:
            room = read.room_c
        elif hour:
            room = outside + model.offset_k + (room - outside - model.offset_k) * kept
        found.append(room)
    return tuple(found)


def indoor_humidity(outside: OutdoorHour, room_c: float, water_g_per_kg: float = 0) -> float:
    """Relative humidity of outside air in a room of another temperature, %: the humidity ratio is kept.

    W = 0.622 p_w / (p - p_w), with p_w the vapour's pressure outside; inside what W is at the room's own saturation.
    """
    vapour_hpa = outside.humidity_pct / 100 * saturation_hpa(outside.air_c)
    ratio = WATER_TO_AIR * vapour_hpa / (outside.pressure_hpa - vapour_hpa) + water_g_per_kg / GRAMS_PER_KG
    inside_hpa = outside.pressure_hpa * ratio / (WATER_TO_AIR + ratio)
    return min(100.0, 100 * inside_hpa / saturation_hpa(room_c))


def hours_indoors(
    outdoor: Sequence[OutdoorHour], model: RoomModel, lead_in: int = 0, read: RoomReading | None = None
) -> tuple[HourlyConditions, ...]:
    """Room and humidity by the hour, to a tenth, behind so many hours of lead-in."""
    rooms = room_air([hour.air_c for hour in outdoor], model, read)
    return tuple(
        HourlyConditions(
            room_c=round(room, 1), humidity_pct=round(indoor_humidity(hour, room, model.water_g_per_kg), 1)
        )
        for hour, room in zip(outdoor[lead_in:], rooms[lead_in:], strict=True)
    )


def by_weather(
    conditions: Conditions, outdoor: Sequence[OutdoorHour], model: RoomModel, lead_in: int, read_min: float | None
) -> Conditions:
    """Conditions whose hours are what the weather makes of the room.

    Parameters
    ----------
    outdoor : sequence of OutdoorHour
        From `lead_in` hours before the window to its end.
    read_min : float or None
        When the conditions' own room was read, from the window's start, min; None where it was not.
    """
    read = None if read_min is None else RoomReading(lead_in + read_min / MINUTES_PER_HOUR, conditions.room_c)
    hours = hours_indoors(outdoor, model, lead_in, read)
    return conditions.model_copy(update={"by_hour": hours, "room_course": None, "by_weather": True})


def fit(readings: Sequence[RoomReading], outdoor_c: Sequence[float]) -> FittedRoom:
    """Lag and offset with the least squares of what the readings are off.

    Raises
    ------
    OutOfRangeError
        Too few readings, or too close together.
    """
    known = [reading for reading in readings if 0 <= reading.hour < len(outdoor_c)]
    hours = [reading.hour for reading in known]
    if len(known) < LEAST_READINGS or max(hours) - min(hours) < LEAST_SPAN_H:
        allowed = f"at least {LEAST_READINGS}, over at least {LEAST_SPAN_H} h"
        raise OutOfRangeError("The number of readings of the room", len(known), allowed)
    return min((_with_lag(known, outdoor_c, lag) for lag in LAGS_H), key=lambda found: found.spread_k)


def _with_lag(readings: Sequence[RoomReading], outdoor_c: Sequence[float], lag_h: float) -> FittedRoom:
    """The offset is the mean of what the readings stand above the lagged air: the room is linear in it."""
    lagged = room_air(outdoor_c, RoomModel(lag_h=lag_h, offset_k=0))
    above = [reading.room_c - lagged[int(reading.hour)] for reading in readings]
    offset = fmean(above)
    spread = sqrt(fmean((one - offset) ** 2 for one in above))
    return FittedRoom(lag_h=lag_h, offset_k=round(offset, 2), spread_k=round(spread, 2), readings=len(above))


def wet_spells(scenario: Scenario, from_min: float = 0) -> tuple[WetSpell, ...]:
    """The wet hours still to come; none where the flour's moisture was measured, or the plant has no rule."""
    rule, conditions = scenario.plant.humidity_rule, scenario.conditions
    if rule is None or conditions.flour_moisture_pct is not None:
        return ()
    spells, begun = list[WetSpell](), None
    hours = conditions.by_hour or (HourlyConditions(humidity_pct=conditions.humidity_pct),)
    for place, hour in enumerate((*hours, HourlyConditions(humidity_pct=0))):
        humidity = conditions.humidity_pct if hour.humidity_pct is None else hour.humidity_pct
        wet = (humidity or 0) >= rule.reference_pct + WET_POINTS
        if wet and begun is None:
            begun = place
        if not wet and begun is not None:
            spells.append(_spell(scenario, begun, place))
            begun = None
    return tuple(spell for spell in spells if spell.to_min > from_min)


def _spell(scenario: Scenario, first: int, end: int) -> WetSpell:
    rule, conditions = scenario.plant.humidity_rule, scenario.conditions
    assert rule is not None  # noqa: S101  (the caller has looked)
    found = [conditions.at(hour * MINUTES_PER_HOUR).humidity_pct or 0.0 for hour in range(first, end)]
    most = max(found)
    return WetSpell(
        told_from_min=first * MINUTES_PER_HOUR - TOLD_AHEAD_MIN,
        from_min=first * MINUTES_PER_HOUR,
        to_min=end * MINUTES_PER_HOUR if end < len(conditions.by_hour) else scenario.window.minutes,
        humidity_pct=most,
        water_pct=room_rule(100.0, most, rule.reference_pct, rule.percent_per_ten) - 100.0,
    )
