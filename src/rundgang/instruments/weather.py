"""A weather service's stand-in: simulated, and saying so.

The air outside at any hour follows from a seed and the hour alone, so that every process sees the same weather, and
yesterday's stays as it was: a season, days that are warmer or wetter than it, smooth over several, and the sun's
course. A forecast is off by more the further it looks ahead. All of it is invented.
"""

from datetime import UTC, datetime, timedelta
from functools import lru_cache
from math import cos, pi, sqrt
from random import Random

from rundgang.core.weather import OutdoorHour

DAYS_A_YEAR = 365.25
HOUR, DAY = timedelta(hours=1), timedelta(days=1)
ISSUED_EVERY_H = 6
SMOOTH_DAYS = 3
LONGEST_LEAD_H = 240
"""Behind ten days a forecast is no worse than the season, h."""

MEAN_C, SEASON_K, DAYS_K = 10.0, 9.5, 3.5
"""The year's mean, °C; how far a season, and some days by one standard deviation, are from it, K."""

SUN_K, WET_SUN_K = 4.5, 1.0
"""The sun's course from the day's mean, and how much less it is on wet days, by one standard deviation, K."""

MEAN_PCT, SEASON_PCT, DAYS_PCT, SUN_PCT, DRIEST_PCT = 76.0, 5.0, 13.0, 14.0, 20.0
"""Relative humidity: the year's mean, how far season, wet days and sun are from it, and the least there is, %."""

MEAN_HPA, DAYS_HPA = 1_013.0, 9.0
"""Pressure: its mean, and some days from it by one standard deviation, hPa."""

OFF_K, OFF_PCT = 0.25, 0.8
"""A forecast's error by one standard deviation, for the square root of the hours ahead, K and %."""

WARMEST_HOUR, WARMEST_DAY = 15, 201
"""The warmest hour of a day, and the warmest day of a year."""


class SimulatedWeather:
    """Weather of one place, by its name.

    Parameters
    ----------
    place : str
        The seed.
    """

    is_simulated = True

    def __init__(self, place: str) -> None:
        self.place = place

    def hours(self, first: datetime, count: int, now: datetime) -> tuple[OutdoorHour, ...]:
        """So many hours from a full hour on: as they were up to now, and as they are expected behind it."""
        return tuple(self._hour(first + number * HOUR, now) for number in range(count))

    def _hour(self, at: datetime, now: datetime) -> OutdoorHour:
        lead_h = min(max(0.0, (at - now) / HOUR), LONGEST_LEAD_H)
        off = self._noise("forecast", int(at.timestamp() // HOUR.total_seconds()) // ISSUED_EVERY_H) * sqrt(lead_h)
        air_c = self.air_c(at) + OFF_K * off
        return OutdoorHour(
            air_c=round(air_c, 1),
            humidity_pct=round(min(100.0, max(DRIEST_PCT, self.humidity_pct(at) + OFF_PCT * off)), 1),
            pressure_hpa=round(MEAN_HPA + DAYS_HPA * self._days("pressure", at), 1),
        )

    def air_c(self, at: datetime) -> float:
        """The air as it was or will be, °C."""
        sun_k = (SUN_K - WET_SUN_K * self._days("wet", at)) * _sun(at)
        return MEAN_C + SEASON_K * _season(at) + DAYS_K * self._days("warm", at) + sun_k

    def humidity_pct(self, at: datetime) -> float:
        """Relative humidity as it was or will be, %."""
        found = MEAN_PCT - SEASON_PCT * _season(at) + DAYS_PCT * self._days("wet", at) - SUN_PCT * _sun(at)
        return min(100.0, max(DRIEST_PCT, found))

    def _days(self, what: str, at: datetime) -> float:
        """How far some days are from the season, in standard deviations; between two days it changes smoothly."""
        day = at.timestamp() / DAY.total_seconds()
        left = int(day)
        return self._smooth(what, left) * (1 - day + left) + self._smooth(what, left + 1) * (day - left)

    def _smooth(self, what: str, day: int) -> float:
        return sum(self._noise(what, day + step) for step in range(SMOOTH_DAYS)) / sqrt(SMOOTH_DAYS)

    def _noise(self, what: str, number: int) -> float:
        return _gauss(f"{self.place} {what} {number}")


@lru_cache(maxsize=20_000)
def _gauss(seed: str) -> float:
    """A standard normal figure that a seed decides."""
    return Random(seed).gauss(0, 1)  # noqa: S311  (weather, no secret)


def _season(at: datetime) -> float:
    """1 in the warmest week of a northern year, -1 in the coldest."""
    return cos(2 * pi * (at.timetuple().tm_yday - WARMEST_DAY) / DAYS_A_YEAR)


def _sun(at: datetime) -> float:
    """1 in the warmest hour of a day, -1 half a day from it."""
    since = at - at.replace(hour=WARMEST_HOUR, minute=0, second=0, microsecond=0)
    return cos(2 * pi * (since / DAY))


def full_hour(at: datetime) -> datetime:
    """The full hour that a moment is in, in UTC."""
    return at.astimezone(UTC).replace(minute=0, second=0, microsecond=0)
