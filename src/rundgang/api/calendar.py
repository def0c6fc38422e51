"""The routes of the calendar: when lorries leave, what is closed every week, and how far a window reaches."""

from datetime import UTC, datetime, timedelta

from fastapi import APIRouter
from pydantic import Field

from rundgang.api.deps import Author, ChangedSinceError, Now, Planned, Store
from rundgang.core.calendar import Calendar, Departure, departures, written_out
from rundgang.core.model import Model
from rundgang.formats.clock import zone_of
from rundgang.jobs.calendars import keep_calendar
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
    """The newest calendar, and the lorries of the coming weeks.

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
    keep_calendar(store, now, request.calendar, request.author)
    store.session.commit()
    return calendar(store, now)


def _view(store: Repository, since: datetime) -> CalendarView:
    scenario, newest = store.windows.scenario(), store.calendars.newest()
    found = newest.calendar if newest else written_out(scenario.waves, scenario.window, zone_of(scenario))
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
