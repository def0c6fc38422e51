"""The weather of a window: what it makes of the plant's room, and how the room has followed it so far."""

from datetime import datetime, timedelta
from math import ceil
from typing import NamedTuple

from rundgang.core.conditions import Conditions
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR
from rundgang.core.weather import LEAD_IN_H, FittedRoom, OutdoorHour, RoomReading, by_weather, fit
from rundgang.instruments.weather import SimulatedWeather, full_hour

FITTED_OVER = timedelta(days=30)
"""Readings of so long are fitted."""


class WindowWeather(NamedTuple):
    """The air outside, by the hour.

    Attributes
    ----------
    outdoor : tuple of OutdoorHour
        From `lead_in` hours before the window to its end.
    """

    outdoor: tuple[OutdoorHour, ...]
    lead_in: int


def weather_of(scenario: Scenario, now: datetime) -> WindowWeather:
    """The weather of a window's place, from some days before it on: known up to now, expected behind it."""
    first = full_hour(scenario.window.starts_at) - timedelta(hours=LEAD_IN_H)
    count = LEAD_IN_H + ceil(scenario.window.minutes / MINUTES_PER_HOUR)
    return WindowWeather(SimulatedWeather(scenario.plant.town).hours(first, count, now), LEAD_IN_H)


def with_weather(scenario: Scenario, conditions: Conditions, now: datetime) -> Conditions:
    """Conditions with the hours that the weather makes of the plant's room; as they are where it has no model."""
    model = scenario.plant.room
    if model is None:
        return conditions
    found = weather_of(scenario, now)
    return by_weather(conditions, found.outdoor, model, found.lead_in, conditions.read_min)


def fitted(scenario: Scenario, readings: tuple[tuple[datetime, float], ...], now: datetime) -> FittedRoom:
    """How the room has followed the weather, from what was read of it; OutOfRangeError where that is too little."""
    first = full_hour(now - FITTED_OVER)
    hours = SimulatedWeather(scenario.plant.town).hours(first, int(FITTED_OVER / timedelta(hours=1)) + 1, now)
    read = [RoomReading((at - first) / timedelta(hours=1), room_c) for at, room_c in readings]
    return fit(read, [hour.air_c for hour in hours])
