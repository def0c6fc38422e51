"""Conditions: what the dough room measures, and how the air goes over the hours of a window."""

from math import ceil, floor, pi, sin

from pydantic import Field, model_validator

from rundgang.core.model import Celsius, Model
from rundgang.core.units import MINUTES_PER_HOUR

HOURS_PER_DAY = 24
MINUTES_PER_DAY = HOURS_PER_DAY * MINUTES_PER_HOUR

MOST_HOURS = 240
"""Ten days: longer than any window."""


LONGEST_READ_MIN = 10.0 * MINUTES_PER_DAY
"""When conditions were read is not told further from the window's start, min."""


class HourlyConditions(Model):
    """One hour, as it was read or is expected; what is not named is as at the start of the shift."""

    room_c: Celsius | None = None
    flour_c: Celsius | None = None
    tap_c: float | None = Field(default=None, gt=0, le=60)
    humidity_pct: float | None = Field(default=None, ge=0, le=100)


class RoomModel(Model):
    """How the room follows the air outside.

    Attributes
    ----------
    lag_h : float
        Time constant with which it follows, h.
    offset_k : float
        So much warmer than outside it would become, K.
    water_g_per_kg : float
        What dough, steam and people add to each kilogram of dry air, g.
    """

    lag_h: float = Field(ge=0.5, le=48)
    offset_k: float = Field(ge=-10, le=30)
    water_g_per_kg: float = Field(default=0, ge=0, le=20)


class Between(Model):
    """A day's lowest and highest."""

    low: float = Field(ge=-60, le=100)
    high: float = Field(ge=-60, le=100)

    @model_validator(mode="after")
    def _low_is_lower(self) -> "Between":
        if self.low > self.high:
            raise ValueError(f"low is {self.low:g}; allowed: at most high, {self.high:g}")
        return self


class RoomCourse(Model):
    """A day's two figures of the room, °C, and when it is warmest, from the window's start, min.

    Attributes
    ----------
    flour_c, tap_c, humidity_pct : Between or None
        The same of flour and tap, °C, which are warmest with the room, and of its humidity, which is lowest then, %.
    """

    low_c: Celsius
    high_c: Celsius
    warmest_min: float = Field(ge=-MINUTES_PER_DAY, le=MINUTES_PER_DAY)
    flour_c: Between | None = None
    tap_c: Between | None = None
    humidity_pct: Between | None = None

    @model_validator(mode="after")
    def _low_is_lower(self) -> "RoomCourse":
        if self.low_c > self.high_c:
            raise ValueError(f"low_c is {self.low_c:g}; allowed: at most high_c, {self.high_c:g}")
        return self

    def hours(self, minutes: float) -> tuple[HourlyConditions, ...]:
        """Each hour of a window so long, to a tenth."""
        count = ceil(minutes / MINUTES_PER_HOUR)
        courses = {
            "room_c": day_course(self.low_c, self.high_c, self.warmest_min, count),
            "flour_c": self._with_the_room(self.flour_c, count),
            "tap_c": self._with_the_room(self.tap_c, count),
            "humidity_pct": self._against_the_room(self.humidity_pct, count),
        }
        known = {name: course for name, course in courses.items() if course}
        return tuple(
            HourlyConditions.model_validate({name: round(course[hour], 1) for name, course in known.items()})
            for hour in range(count)
        )

    def _with_the_room(self, between: Between | None, hours: int) -> tuple[float, ...]:
        return day_course(between.low, between.high, self.warmest_min, hours) if between else ()

    def _against_the_room(self, between: Between | None, hours: int) -> tuple[float, ...]:
        return day_course(between.high, between.low, self.warmest_min, hours) if between else ()


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
    by_weather : bool
        Whether they were made from the weather outside.
    read_min : float or None
        When the figures were read, from the window's start, min; None where it is not known.
    """

    room_c: Celsius
    flour_c: Celsius
    tap_c: float = Field(gt=0, le=60)
    chilled_c: float | None = Field(default=None, gt=0, le=30)
    humidity_pct: float | None = Field(default=None, ge=0, le=100)
    flour_moisture_pct: float | None = Field(default=None, ge=5, le=20)
    by_hour: tuple[HourlyConditions, ...] = Field(default=(), max_length=MOST_HOURS)
    room_course: RoomCourse | None = None
    by_weather: bool = False
    read_min: float | None = Field(default=None, ge=-LONGEST_READ_MIN, le=LONGEST_READ_MIN)

    def at(self, minute: float) -> "Conditions":
        """What holds in the hour of a minute of the window."""
        if not self.by_hour:
            return self
        hour = self.by_hour[min(max(floor(minute / MINUTES_PER_HOUR), 0), len(self.by_hour) - 1)]
        return self.model_copy(
            update={"by_hour": (), "room_course": None, "by_weather": False, **hour.model_dump(exclude_none=True)}
        )

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
