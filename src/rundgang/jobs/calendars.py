"""Keeping a calendar: it counts from now on, and its new standing orders for the window that is planned, too."""

from datetime import UTC, timedelta

from rundgang.clock import Clock
from rundgang.core.calendar import Calendar, plant_faults, standing_orders
from rundgang.core.errors import MalformedError
from rundgang.formats.clock import zone_of
from rundgang.store.repository import Repository


def keep_calendar(store: Repository, clock: Clock, calendar: Calendar, author: str) -> int:
    """Store a calendar, in a transaction that the caller ends; its number.

    Raises
    ------
    MalformedError
        Its closings or standing orders name what the plant does not have or make.
    """
    store.windows.locked_window()
    newest, library = store.calendars.newest(), store.libraries.read()
    faults = tuple(plant_faults(calendar, library.plant, {product.id for product in library.products}))
    if faults:
        raise MalformedError("The calendar", faults)
    number = store.calendars.write(calendar, author)
    store.openings.set_calendar(number, author)
    _take_standing(store, clock, calendar, newest.calendar if newest else Calendar())
    return number


def _take_standing(store: Repository, clock: Clock, calendar: Calendar, before: Calendar) -> None:
    """Standing orders that are new count for the lorries of the window that have not left, too."""
    new = tuple(order for order in calendar.standing if order not in before.standing)
    scenario = store.windows.scenario()
    starts_at = scenario.window.starts_at.astimezone(UTC)
    ends_at = starts_at + timedelta(minutes=scenario.window.minutes)
    book = store.books.orders(store.books.row())
    known, planned = {order.line for order in book}, {wave.id for wave in scenario.waves}
    since = max(clock.now(), starts_at)
    found = standing_orders(calendar.model_copy(update={"standing": new}), zone_of(scenario), since, ends_at)
    taken = tuple(order for order in found if order.line not in known and order.wave in planned)
    if taken:
        store.books.write(store.windows.window(), (*book, *taken), f"{len(taken)} of standing orders")
