"""Order files: read for any lorry of the calendar, and taken into the book."""

from datetime import UTC, datetime, timedelta
from math import ceil
from typing import Literal, NamedTuple

from rundgang.clock import Clock
from rundgang.core.calendar import Departure, departures, minutes_until
from rundgang.core.orders import Wave
from rundgang.core.scenario import Scenario
from rundgang.formats.clock import local_time, zone_of
from rundgang.formats.orders_csv import OrderFile, read_orders
from rundgang.store.books import Book
from rundgang.store.repository import Repository

REACH = timedelta(days=92)
"""Orders can be entered for lorries so far ahead."""

Mode = Literal["add", "replace"]
"""Beside the window's orders, or instead of them."""


def lorries_ahead(store: Repository, scenario: Scenario) -> tuple[Departure, ...]:
    """The lorries for which orders can be entered, those of the window too; none where nobody has a calendar."""
    newest = store.calendars.newest()
    if newest is None:
        return ()
    first = local_time(scenario, scenario.opening.now_min).date()
    found = departures(newest.calendar, zone_of(scenario), first, first + REACH)
    return tuple(one for one in found if one.leaves_at_all)


class ToLeave(NamedTuple):
    """A lorry that has not been loaded yet, and when it leaves."""

    id: str
    name: str
    leaves: datetime


def to_leave(store: Repository, scenario: Scenario, now: Clock) -> tuple[ToLeave, ...]:
    """The lorries that orders can still be given to, of the window and behind it, by when they leave."""
    moment, starts_at = now.now(), scenario.window.starts_at
    zone, known = zone_of(scenario), {wave.id for wave in scenario.waves}
    own = (
        ToLeave(wave.id, wave.name, (starts_at + timedelta(minutes=wave.departs_min)).astimezone(zone))
        for wave in scenario.waves
        if starts_at + timedelta(minutes=wave.loaded_by_min) > moment
    )
    later = (
        ToLeave(one.id, one.name, one.leaves)
        for one in lorries_ahead(store, scenario)
        if one.id not in known and one.leaves.astimezone(UTC) > moment
    )
    return tuple(sorted((*own, *later), key=lambda one: one.leaves.astimezone(UTC)))


def _ahead(store: Repository) -> Scenario:
    """The window with all lorries for which orders can be entered."""
    scenario = store.windows.scenario()
    known, now = {wave.id for wave in scenario.waves}, local_time(scenario, scenario.opening.now_min)
    later = [
        Wave(
            id=one.id,
            name=one.name,
            departs_min=minutes_until(scenario.window.starts_at, one.leaves),
            loading_min=one.loading_min,
        )
        for one in lorries_ahead(store, scenario)
        if one.id not in known and one.leaves.astimezone(UTC) > now
    ]
    if not later:
        return scenario
    longer = scenario.window.model_copy(update={"minutes": ceil(max(wave.departs_min for wave in later))})
    return scenario.changed(waves=(*scenario.waves, *later), window=longer)


def read_file(store: Repository, data: bytes, mode: Mode, columns: str | None) -> OrderFile:
    """Read a file of orders; `columns` names the headings that it has, where they are not ours."""
    scenario = _ahead(store)
    known = (*scenario.orders, *store.windows.beyond(store.windows.scenario()))
    taken = frozenset(order.line for order in known if mode == "add")
    return read_orders(data, scenario, taken, store.mappings.read(columns) if columns else None)


def take_file(store: Repository, file: OrderFile, mode: Mode, name: str) -> Book:
    """Take the good rows of a file into the next book; those for later lorries stay where it replaces the day's."""
    origin = f"{name}, {len(file.orders)} {'added' if mode == 'add' else 'in place of all'}"
    if mode == "add":
        book = store.books.extend(file.orders, origin)
    else:
        lines = {order.line for order in file.orders}
        beyond = store.windows.beyond(store.windows.scenario())
        book = store.books.replace((*file.orders, *(order for order in beyond if order.line not in lines)), origin)
    store.session.commit()
    return book
