"""The routes of conditions: what the dough room measures, a day's course of it, and the weather outside."""

from collections.abc import Iterator
from datetime import time

from fastapi import APIRouter
from pydantic import ValidationError

from rundgang.api.deps import Now, Number, Planned, Store
from rundgang.api.views import Reading, WithdrawalRequest
from rundgang.core.conditions import (
    LONGEST_READ_MIN,
    Between,
    Conditions,
    HourlyConditions,
    RoomCourse,
    RoomModel,
)
from rundgang.core.errors import MalformedError, OutOfRangeError, RundgangError
from rundgang.core.model import Celsius, Model
from rundgang.core.plausible import RANGES, refuse_implausible
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR
from rundgang.core.weather import FittedRoom, OutdoorHour
from rundgang.formats.clock import room_course
from rundgang.formats.documents import faults_of
from rundgang.instruments.weather import SimulatedWeather
from rundgang.jobs.weathering import FITTED_OVER, fitted, weather_of, with_weather
from rundgang.store.windows import ReadConditions

router = APIRouter(prefix="/api")


class RoomRequest(Model):
    """A day's two figures of the room, °C, and when on the plant's clock it is warmest; perhaps more that follow it."""

    low_c: Celsius
    high_c: Celsius
    warmest_at: time
    flour_c: Between | None = None
    tap_c: Between | None = None
    humidity_pct: Between | None = None


class ConditionsRequest(Reading, Conditions):
    """What the dough room measures now, and perhaps a day's two figures, or the weather, in place of its hours.

    Attributes
    ----------
    room_read : bool
        Whether the room was read just now; otherwise the last reading still counts.
    """

    room_c: float
    flour_c: float
    tap_c: float
    chilled_c: float | None = None
    humidity_pct: float | None = None
    flour_moisture_pct: float | None = None
    room: RoomRequest | None = None
    room_read: bool = True

    def readings(self) -> Iterator[dict[str, float | None]]:
        """All that was read or is expected: now, by the hour, and as a day's two figures."""
        yield self.model_dump(include=set(RANGES))
        yield from (hour.model_dump() for hour in self.by_hour)
        if self.room:
            for end in ("low", "high"):
                of = {"flour_c": self.room.flour_c, "tap_c": self.room.tap_c, "humidity_pct": self.room.humidity_pct}
                others = {name: getattr(between, end) for name, between in of.items() if between}
                yield {"room_c": getattr(self.room, f"{end}_c"), **others}


class NoRoomModelError(RundgangError):
    """The weather is asked for the room of a plant that does not say how its room follows it."""

    def __init__(self) -> None:
        super().__init__(
            "The plant does not say how its room follows the weather. Allowed: to enter it on the Plant page, under "
            "The plant, first."
        )


@router.post("/conditions", status_code=201)
def set_conditions(store: Planned, now: Now, request: ConditionsRequest) -> Conditions:
    """Take today's room, flour and tap; every card not yet mixed follows, and every plan that is made from now on."""
    refuse_implausible(request.readings(), request.units, confirmed=request.confirmed)
    scenario = store.windows.scenario()
    read_min = now.minute_of(scenario.window.starts_at)
    read = {"read_min": _within(read_min)} if request.room_read else _last_read(scenario.conditions, request)
    said = request.model_dump(exclude=set(ConditionsRequest.model_fields) - set(Conditions.model_fields))
    entered = Conditions.model_validate({**said, **read})
    if request.by_weather:
        if scenario.plant.room is None:
            raise NoRoomModelError
        entered = with_weather(scenario, entered, now.now())
    elif request.room:
        entered = _by_course(scenario, entered, request.room)
    store.windows.add_conditions(entered)
    return entered


MOST_READ = 12
"""So many readings are listed."""


@router.get("/conditions")
def readings(store: Store) -> tuple[ReadConditions, ...]:
    """What was read in this window, newest first."""
    return store.windows.read_conditions(MOST_READ)


@router.post("/conditions/{number}/withdraw", status_code=201)
def withdraw(store: Planned, number: Number, request: WithdrawalRequest) -> tuple[ReadConditions, ...]:
    """Let what was read not count: the reading before it does again, and nothing learns from it."""
    store.windows.withdraw_conditions(number, request.reason, request.author)
    return readings(store)


def _last_read(before: Conditions, request: ConditionsRequest) -> dict[str, float | None]:
    """The weather goes on from the room as it was read last; what it made of the room is no reading."""
    return {"room_c": before.room_c, "read_min": before.read_min} if request.by_weather else {"read_min": None}


def _within(read_min: float) -> float:
    return min(max(read_min, -LONGEST_READ_MIN), LONGEST_READ_MIN)


def _by_course(scenario: Scenario, entered: Conditions, room: RoomRequest) -> Conditions:
    try:
        course = room_course(scenario, room.low_c, room.high_c, room.warmest_at)
        whole = {**course.model_dump(), **room.model_dump(include={"flour_c", "tap_c", "humidity_pct"})}
        hours = RoomCourse.model_validate(whole)
    except ValidationError as error:
        raise MalformedError("The room by the hour", tuple(faults_of(error))) from None
    return entered.model_copy(update={"by_hour": hours.hours(scenario.window.minutes), "room_course": hours})


class WeatherHour(Model):
    """An hour of the window, outside and as the room follows it; None where the plant does not say how."""

    minute: float
    outdoor: OutdoorHour
    expected: bool
    room: HourlyConditions | None


class WeatherView(Model):
    """The weather of the window.

    Attributes
    ----------
    simulated : bool
        Whether it is invented.
    fitted : FittedRoom or None
        How the room has followed it by what was read; None where that is too little.
    too_little : str or None
        Why, then.
    """

    simulated: bool
    place: str
    hours: tuple[WeatherHour, ...]
    model: RoomModel | None
    fitted: FittedRoom | None
    too_little: str | None


@router.get("/weather")
def weather(store: Store, now: Now) -> WeatherView:
    """The weather of the window, now and expected, and what it makes of the room."""
    scenario, moment = store.windows.scenario(), now.now()
    found = weather_of(scenario, moment)
    air = with_weather(scenario, scenario.conditions, moment)
    rooms = air.by_hour if scenario.plant.room else ()
    now_min = now.minute_of(scenario.window.starts_at)
    fit, too_little = None, None
    try:
        fit = fitted(scenario, store.windows.room_readings(moment - FITTED_OVER), moment)
    except OutOfRangeError as error:
        too_little = str(error)
    return WeatherView(
        simulated=SimulatedWeather.is_simulated,
        place=scenario.plant.town,
        hours=tuple(
            WeatherHour(
                minute=hour * MINUTES_PER_HOUR,
                outdoor=outdoor,
                expected=hour * MINUTES_PER_HOUR > now_min,
                room=rooms[hour] if rooms else None,
            )
            for hour, outdoor in enumerate(found.outdoor[found.lead_in :])
        ),
        model=scenario.plant.room,
        fitted=fit,
        too_little=too_little,
    )
