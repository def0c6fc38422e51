"""The routes of the calendar: when lorries leave, what is closed every week, and how far a window reaches."""

from datetime import UTC, datetime, timedelta

from fastapi import APIRouter
from pydantic import Field

from rundgang.api.deps import Author, ChangedSinceError, Now, Planned, Store
from rundgang.core.calendar import Calendar, Departure, ExtraLorry, departures, plant_faults, standing_orders
from rundgang.core.errors import MalformedError
from rundgang.core.model import Model
from rundgang.core.scenario import Scenario
from rundgang.formats.clock import local_time, zone_of
from rundgang.store.repository import Repository

router = APIRouter(prefix="/api/calendar")

SHOWN = timedelta(days=28)
"""So far ahead the lorries are listed one by one."""


class DepartureView(Model):
    """A lorry of a day, and what is ordered for it.

    Attributes
    ----------
    is_planned, has_left : bool
        Whether it leaves in the window that is planned; and whether it has by now.
    """

    departure: Departure
    packs: int
    is_planned: bool
    has_left: bool


class CalendarView(Model):
    """The newest calendar, the lorries of the coming weeks, and the stations that can be closed.

    Attributes
    ----------
    number : int
        0 where nobody has entered one: it is then as the window has its lorries.
    """

    number: int
    created_at: datetime | None
    origin: str
    calendar: Calendar
    departures: tuple[DepartureView, ...]


class CalendarRequest(Model):
    """A calendar that counts from now on."""

    calendar: Calendar
    seen: int = Field(ge=0, le=2_000_000_000, description="number of the calendar this is a change of")
    author: Author = "planner"


@router.get("")
def calendar(store: Store, now: Now) -> CalendarView:
    """The newest calendar."""
    return _view(store, now.now())


@router.post("", status_code=201)
def set_calendar(store: Planned, now: Now, request: CalendarRequest) -> CalendarView:
    """Store another calendar, once its closings fit the plant; orders of a lorry that goes are listed without one."""
    store.windows.locked_window()
    newest = store.calendars.newest()
    current = newest.number if newest else 0
    if request.seen != current:
        raise ChangedSinceError("calendar", request.seen, current)
    library = store.libraries.read()
    faults = tuple(plant_faults(request.calendar, library.plant, {product.id for product in library.products}))
    if faults:
        raise MalformedError("The calendar", faults)
    number = store.calendars.write(request.calendar, request.author)
    store.openings.set_calendar(number, request.author)
    _take_standing(store, now, request.calendar, newest.calendar if newest else Calendar())
    store.session.commit()
    return calendar(store, now)


def _take_standing(store: Repository, now: Now, calendar: Calendar, before: Calendar) -> None:
    """Standing orders that are new count for the lorries of the window that have not left, too."""
    new = tuple(order for order in calendar.standing if order not in before.standing)
    scenario = store.windows.scenario()
    ends = scenario.window.starts_at + timedelta(minutes=scenario.window.minutes)
    book = store.books.orders(store.books.row())
    known, planned = {order.line for order in book}, {wave.id for wave in scenario.waves}
    since = max(now.now(), scenario.window.starts_at)
    found = standing_orders(calendar.model_copy(update={"standing": new}), zone_of(scenario), since, ends)
    taken = tuple(order for order in found if order.line not in known and order.wave in planned)
    if taken:
        store.books.write(store.windows.window(), (*book, *taken), f"{len(taken)} of standing orders")


def _view(store: Repository, since: datetime) -> CalendarView:
    scenario, newest = store.windows.scenario(), store.calendars.newest()
    found = newest.calendar if newest else as_it_is(scenario)
    zone, planned = zone_of(scenario), {wave.id for wave in scenario.waves}
    first = max(since, scenario.window.starts_at.astimezone(UTC)).astimezone(zone).date()
    packs: dict[str, int] = {}
    for order in (*scenario.orders, *store.windows.beyond(scenario)):
        packs[order.wave] = packs.get(order.wave, 0) + order.packs
    return CalendarView(
        number=newest.number if newest else 0,
        created_at=newest.created_at if newest else None,
        origin=newest.origin if newest else "",
        calendar=found,
        departures=tuple(
            DepartureView(
                departure=one, packs=packs.get(one.id, 0), is_planned=one.id in planned, has_left=one.leaves <= since
            )
            for one in departures(found, zone, first, first + SHOWN)
        ),
    )


def as_it_is(scenario: Scenario) -> Calendar:
    """The lorries of a window that nobody has entered a calendar for, each leaving once."""
    return Calendar(
        extra=tuple(
            ExtraLorry(
                id=wave.id,
                name=wave.name,
                leaves=local_time(scenario, wave.departs_min).replace(tzinfo=None),
                loading_min=wave.loading_min,
            )
            for wave in scenario.waves
        )
    )
