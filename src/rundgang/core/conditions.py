"""Conditions: what the dough room measures, and how the air goes over the hours of a window."""

from math import ceil, floor, pi, sin

from pydantic import Field, model_validator

from rundgang.core.model import Celsius, Model
from rundgang.core.units import MINUTES_PER_HOUR

HOURS_PER_DAY = 24
MINUTES_PER_DAY = HOURS_PER_DAY * MINUTES_PER_HOUR

MOST_HOURS = 240
"""Ten days: longer than any window."""


class HourlyConditions(Model):
    """One hour, as it was read or is expected; what is not named is as at the start of the shift."""

    room_c: Celsius | None = None
    flour_c: Celsius | None = None
    tap_c: float | None = Field(default=None, gt=0, le=60)
    humidity_pct: float | None = Field(default=None, ge=0, le=100)


class RoomCourse(Model):
    """A day's two figures of the room, °C, and when it is warmest, from the window's start, min."""

    low_c: Celsius
    high_c: Celsius
    warmest_min: float = Field(ge=-MINUTES_PER_DAY, le=MINUTES_PER_DAY)

    @model_validator(mode="after")
    def _low_is_lower(self) -> "RoomCourse":
        if self.low_c > self.high_c:
            raise ValueError(f"low_c is {self.low_c:g}; allowed: at most high_c, {self.high_c:g}")
        return self

    def hours(self, minutes: float) -> tuple[HourlyConditions, ...]:
        """The room in each hour of a window so long, to a tenth of a degree."""
        found = day_course(self.low_c, self.high_c, self.warmest_min, ceil(minutes / MINUTES_PER_HOUR))
        return tuple(HourlyConditions(room_c=round(room_c, 1)) for room_c in found)


class Conditions(Model):
    """What the dough room measures at the start of a shift, and how it goes on from there.

    Attributes
    ----------
    room_c, flour_c, tap_c : float
        °C.
    chilled_c : float or None
        Water from the chiller, where there is one, °C.
    humidity_pct : float or None
        Relative humidity of the room, where it was read, %.
    flour_moisture_pct : float or None
        Moisture of the flour, where it was measured, %.
    by_hour : tuple of HourlyConditions
        The hours of the window, from its start; a later hour is as the last of them.
    room_course : RoomCourse or None
        What these hours were made from, where it was a day's two figures.
    """

    room_c: Celsius
    flour_c: Celsius
    tap_c: float = Field(gt=0, le=60)
    chilled_c: float | None = Field(default=None, gt=0, le=30)
    humidity_pct: float | None = Field(default=None, ge=0, le=100)
    flour_moisture_pct: float | None = Field(default=None, ge=5, le=20)
    by_hour: tuple[HourlyConditions, ...] = Field(default=(), max_length=MOST_HOURS)
    room_course: RoomCourse | None = None

    def at(self, minute: float) -> "Conditions":
        """What holds in the hour of a minute of the window."""
        if not self.by_hour:
            return self
        hour = self.by_hour[min(max(floor(minute / MINUTES_PER_HOUR), 0), len(self.by_hour) - 1)]
        return self.model_copy(update={"by_hour": (), "room_course": None, **hour.model_dump(exclude_none=True)})

    @property
    def room_by_hour(self) -> tuple[float, ...]:
        """The room's air in each hour of the window, °C; a later hour is as the last."""
        found = tuple(self.room_c if hour.room_c is None else hour.room_c for hour in self.by_hour)
        return found or (self.room_c,)


def day_course(low_c: float, high_c: float, warmest_min: float, hours: int) -> tuple[float, ...]:
    """The air by the hour from a day's two figures: a sine from the coldest to the warmest hour, day by day, °C.

    Parameters
    ----------
    warmest_min : float
        When it is warmest, from the window's start, min; coldest is half a day from it.
    hours : int
        How many, from the window's start; each figure is that of the middle of its hour.
    """
    middle, swing = (low_c + high_c) / 2, (high_c - low_c) / 2
    quarter = HOURS_PER_DAY / 4
    from_rise = (hour + 0.5 - warmest_min / MINUTES_PER_HOUR + quarter for hour in range(hours))
    return tuple(middle + swing * sin(2 * pi * passed / HOURS_PER_DAY) for passed in from_rise)
