"""The plant's clock: minutes from the window's start, and the local time on the wall.

Minutes are elapsed time, so the night the clocks change has 23 or 25 hours and every duration stays
right. A local time that the change skips is refused; one that happens twice must name its offset.
"""

from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from rundgang.core.conditions import RoomCourse
from rundgang.core.errors import MalformedError, RundgangError
from rundgang.core.floor.due import Day
from rundgang.core.scenario import Scenario

DAY_MIN = 24 * 60


def zone_of(scenario: Scenario) -> ZoneInfo:
    """The plant's time zone, or MalformedError."""
    return zone_named(scenario.plant.time_zone)


def zone_named(name: str) -> ZoneInfo:
    """The time zone of a name, or MalformedError."""
    try:
        return ZoneInfo(name)
    except (ZoneInfoNotFoundError, ValueError, OSError):
        fault = f"plant.time_zone is {name}; allowed: an IANA name, for instance Europe/Vienna"
        raise MalformedError("The scenario", (fault,)) from None


def local_time(scenario: Scenario, minute: float) -> datetime:
    """The local time of a minute of the window, to the second."""
    moment = scenario.window.starts_at.astimezone(UTC) + timedelta(seconds=round(minute * 60))
    return moment.astimezone(zone_of(scenario))


def moment_of(scenario: Scenario, minute: float) -> datetime:
    """The moment of a minute of the window, in UTC."""
    return scenario.window.starts_at.astimezone(UTC) + timedelta(minutes=minute)


def days_of(scenario: Scenario) -> tuple[Day, ...]:
    """The plant's days that the window touches, by their dates; each begins at its own midnight."""
    first, last = (local_time(scenario, minute).date() for minute in (0, scenario.window.minutes))
    dates = [first + timedelta(days=number) for number in range((last - first).days + 1)]
    return tuple(Day(day.isoformat(), _midnight_min(scenario, day)) for day in dates)


def _midnight_min(scenario: Scenario, day: date) -> float:
    midnight = datetime.combine(day, time(), zone_of(scenario)).astimezone(UTC)
    return (midnight - scenario.window.starts_at.astimezone(UTC)).total_seconds() / 60


def clock(scenario: Scenario, minute: float) -> str:
    """The local time of a minute as people read it, for instance 05:30; over several days Wed 05:30."""
    form = "%H:%M" if scenario.window.minutes <= DAY_MIN else "%a %H:%M"
    return (local_time(scenario, minute) + timedelta(seconds=30)).strftime(form)


def room_course(scenario: Scenario, low_c: float, high_c: float, warmest_at: time) -> RoomCourse:
    """A day's two figures with the time on the wall at which the room is warmest, on the window's first day."""
    first = local_time(scenario, 0).date()
    warmest = minute_of(scenario, datetime.combine(first, warmest_at))
    return RoomCourse(low_c=low_c, high_c=high_c, warmest_min=warmest)


def minute_of(scenario: Scenario, moment: datetime) -> float:
    """Minutes from the window's start to a moment; without offset it is local time.

    Raises
    ------
    RundgangError
        The local time does not exist or happens twice, that night.
    """
    if moment.tzinfo is None:
        zone = zone_of(scenario)
        first, second = (moment.replace(tzinfo=zone, fold=fold) for fold in (0, 1))
        if first.utcoffset() != second.utcoffset():
            if first.astimezone(UTC).astimezone(zone).replace(tzinfo=None) != moment:
                raise RundgangError("a time that exists: the clocks skip this one that night")
            raise RundgangError(
                f"one of the two times of that name: write {first.isoformat(timespec='minutes')} "
                f"or {second.isoformat(timespec='minutes')}"
            )
        moment = first
    return (moment.astimezone(UTC) - scenario.window.starts_at.astimezone(UTC)).total_seconds() / 60
