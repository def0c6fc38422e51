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
HOUR = timedelta(hours=1)
ISSUED_EVERY_H = 6
SMOOTH_DAYS = 3
LONGEST_LEAD_H = 240
"""Behind ten days a forecast is no worse than the season, h."""


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
        off = self._noise("forecast", int(at.timestamp()) // 3_600 // ISSUED_EVERY_H) * sqrt(lead_h)
        air_c = self.air_c(at) + 0.25 * off
        return OutdoorHour(
            air_c=round(air_c, 1),
            humidity_pct=round(min(100.0, max(20.0, self.humidity_pct(at) + 0.8 * off)), 1),
            pressure_hpa=round(1_013 + 9 * self._days("pressure", at), 1),
        )

    def air_c(self, at: datetime) -> float:
        """The air as it was or will be, °C."""
        sun = cos(2 * pi * (_hour_of_day(at) - 15) / 24)
        return 10 + 9.5 * _season(at) + 3.5 * self._days("warm", at) + (4.5 - self._days("wet", at)) * sun

    def humidity_pct(self, at: datetime) -> float:
        """Relative humidity as it was or will be, %."""
        sun = cos(2 * pi * (_hour_of_day(at) - 15) / 24)
        return min(100.0, max(20.0, 76 - 5 * _season(at) + 13 * self._days("wet", at) - 14 * sun))

    def _days(self, what: str, at: datetime) -> float:
        """How far some days are from the season, in standard deviations; between two days it changes smoothly."""
        day = at.timestamp() / 86_400
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
    return cos(2 * pi * (at.timetuple().tm_yday - 201) / DAYS_A_YEAR)


def _hour_of_day(at: datetime) -> float:
    return at.hour + at.minute / 60


def full_hour(at: datetime) -> datetime:
    """The full hour that a moment is in, in UTC."""
    return at.astimezone(UTC).replace(minute=0, second=0, microsecond=0)
