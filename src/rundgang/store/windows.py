"""The planning windows, and the scenario that one makes with a book, a library and an opening."""

from collections.abc import Sequence
from datetime import datetime, timedelta
from math import inf
from typing import Any
from zoneinfo import ZoneInfo

from sqlmodel import Session, col, func, select

from rundgang.core.calendar import Calendar, closings_of, waves_of
from rundgang.core.conditions import Conditions
from rundgang.core.errors import RundgangError, UnknownItemError
from rundgang.core.model import Model
from rundgang.core.opening import Opening
from rundgang.core.orders import Order, Wave, Window
from rundgang.core.planning.packs import as_loaded
from rundgang.core.rolling.roll import Rolled, Settled
from rundgang.core.scenario import Scenario, Stock
from rundgang.core.shifts import Shift, absences_of, shifts_of
from rundgang.core.units import SECONDS_PER_MINUTE
from rundgang.core.whole_plant import WholePlant
from rundgang.formats.clock import zone_named
from rundgang.store.books import Books
from rundgang.store.calendars import Calendars
from rundgang.store.libraries import Libraries
from rundgang.store.openings import NEWEST, Openings, StoredOpening, as_opening
from rundgang.store.rows import Rows, key, written
from rundgang.store.tables import ConditionsEntry, ConditionsWithdrawal, OpeningEntry, OrderBook, PlanningWindow

MOST_WORKED_OUT = 20_000
"""When so much has been worked out for a library, for the air of ever other days, it begins anew."""


class WindowNote(Model):
    """A window: from when to when, since when it is planned and by whom, and what was over when it began.

    Attributes
    ----------
    goes_on_at : datetime
        When the one before it went on to it; its start where there was none.
    """

    number: int
    created_at: datetime
    author: str
    starts_at: datetime
    goes_on_at: datetime
    ends_at: datetime
    sent: int
    short: int
    thrown: int
    runs: int


class ReadConditions(Model):
    """What the dough room measured, when that was entered; and why it does not count, where it was withdrawn."""

    number: int
    created_at: datetime
    conditions: Conditions
    withdrawn: str | None


class Windows(Rows):
    """The windows there are; the newest is planned."""

    def __init__(self, session: Session, window: int | None = None) -> None:
        super().__init__(session, window)
        self.libraries, self.books, self.openings = (
            Libraries(session),
            Books(session, window),
            Openings(session, window),
        )
        self.calendars = Calendars(session)

    def is_empty(self) -> bool:
        """Whether there is no window yet."""
        return self.session.exec(select(PlanningWindow.id).limit(1)).first() is None

    def number(self) -> int:
        """The window's number."""
        return key(self.window().id)

    def newest_number(self) -> int:
        """The number of the window that is planned."""
        return key(self.session.exec(select(func.max(PlanningWindow.id))).one())

    def all(self) -> tuple[WindowNote, ...]:
        """All windows, newest first."""
        rows = self.session.exec(select(PlanningWindow).order_by(col(PlanningWindow.id).desc()))
        return tuple(self._note(row) for row in rows)

    def rolled_from(self) -> frozenset[int]:
        """The window's number, and those of the windows that it has gone on from: in all of them runs keep their names.

        A window of another plant, or one begun anew, is none of them.
        """
        query = select(PlanningWindow.id, col(PlanningWindow.settled).is_not(None))
        found = set[int]()
        for number, goes_on in self.session.exec(
            query.where(col(PlanningWindow.id) <= self.number()).order_by(col(PlanningWindow.id).desc())
        ):
            found.add(key(number))
            if not goes_on:
                break
        return frozenset(found)

    def add(self, whole: WholePlant, origin: str) -> None:
        """Store a plant with its first window, its order book and its calendar."""
        scenario = whole.scenario
        library = self.libraries.add(scenario, "first entry")
        self._add(scenario, library.number, "Rundgang", None)
        self.books.write(self.window(), (*scenario.orders, *whole.later), origin)
        if whole.calendar or scenario.finished or scenario.blocks or scenario.opening != Opening():
            number = self.calendars.write(whole.calendar, origin) if whole.calendar else None
            self.openings.write_whole(scenario, origin, number)
        self.session.commit()

    def go_on(self, rolled: Rolled, author: str) -> None:
        """Store the next window with its first order book, in the open transaction."""
        calendar = self.openings.newest().calendar
        self._add(rolled.scenario, self.libraries.number(), author, rolled.settled)
        self.books.write(self.window(), rolled.book, "gone on from the window before")
        self.openings.write_whole(rolled.scenario, author, calendar)

    def _add(self, scenario: Scenario, library: int, author: str, settled: Settled | None) -> None:
        data = scenario.model_dump(mode="json")
        window = PlanningWindow(
            library_id=library,
            starts_at=scenario.window.starts_at,
            minutes=scenario.window.minutes,
            waves=data["waves"],
            conditions=data["conditions"],
            stocks=data["stocks"],
            author=author,
            settled=settled.model_dump(mode="json") if settled else None,
        )
        self.session.add(window)
        self.session.flush()

    def scenario(
        self, book: int | None = None, library: int | None = None, opening: int | None = NEWEST
    ) -> Scenario:  # fmt: skip
        """The window with the orders of a book, a version of the library and an opening; the newest by default."""
        return self.known(("scenario", book, library, opening), lambda: self._scenario(book, library, opening))

    def _scenario(self, book: int | None, library: int | None, opening: int | None) -> Scenario:
        window, row = self.window(), self.books.row(book)
        number, conditions, entry = self.libraries.number(library), self._conditions(window), self.openings.row(opening)
        found = ("scenario", window.id, row.id, number, conditions and conditions.id, entry and entry.id)
        return self.memory.recall(found, lambda: self._read(window, row, number, conditions, entry))

    def shifts(self, scenario: Scenario) -> tuple[Shift, ...]:
        """The shifts of a scenario of the window; none where no calendar says any."""
        number = self.openings.newest().calendar
        if number is None:
            return ()
        return shifts_of(self.calendars.read(number), scenario.plant, scenario.window.starts_at.tzinfo, scenario.window)

    def beyond(self, scenario: Scenario) -> tuple[Order, ...]:
        """The orders of the newest book that are for no lorry of a scenario: later, or without a lorry."""
        known = {wave.id for wave in scenario.waves}
        return tuple(order for order in self.books.orders(self.books.row()) if order.wave not in known)

    def settled(self) -> Settled:
        """What was over when the window began."""
        return Settled.model_validate(self.window().settled or {})

    def add_conditions(self, conditions: Conditions) -> None:
        """Store what the dough room measured; it counts from now on."""
        self.session.add(
            ConditionsEntry(window_id=key(self.locked_window().id), conditions=conditions.model_dump(mode="json"))
        )
        self.session.commit()

    def read_conditions(self, most: int) -> tuple[ReadConditions, ...]:
        """So many of what was read in this window, newest first, with why some of it does not count."""
        query = (
            select(ConditionsEntry, ConditionsWithdrawal)
            .join(ConditionsWithdrawal, isouter=True)
            .where(ConditionsEntry.window_id == self.window().id)
            .order_by(col(ConditionsEntry.id).desc())
        )
        return tuple(
            ReadConditions(
                number=key(entry.id),
                created_at=written(entry.created_at),
                conditions=Conditions.model_validate(entry.conditions),
                withdrawn=f"{gone.reason}, {gone.author}" if gone else None,
            )
            for entry, gone in self.session.exec(query.limit(most))
        )

    def withdraw_conditions(self, number: int, reason: str, author: str) -> None:
        """Let what was read not count any more; it stays in the list, with the reason.

        Raises
        ------
        UnknownItemError
            This window has no such reading.
        RundgangError
            It has been withdrawn before.
        """
        window = self.locked_window()
        entry = self.session.get(ConditionsEntry, number)
        if entry is None or entry.window_id != window.id:
            raise UnknownItemError("reading of the conditions", str(number))
        known = select(ConditionsWithdrawal).where(ConditionsWithdrawal.conditions_id == number)
        if self.session.exec(known).first():
            raise RundgangError("This reading has been withdrawn already.")
        self.session.add(ConditionsWithdrawal(conditions_id=number, reason=reason, author=author))
        self.session.commit()

    def room_readings(self, since: datetime) -> tuple[tuple[datetime, float], ...]:
        """When the room was read since a moment, in any window, to the second, and what it was, °C."""
        query = select(ConditionsEntry, PlanningWindow.starts_at).join(PlanningWindow).where(_counts())
        found = dict[datetime, float]()
        for entry, starts_at in self.session.exec(query.order_by(col(ConditionsEntry.id))):
            read = Conditions.model_validate(entry.conditions)
            if read.read_min is not None:
                moment = starts_at + timedelta(seconds=round(read.read_min * SECONDS_PER_MINUTE))
                found[moment] = read.room_c
        return tuple((moment, room_c) for moment, room_c in found.items() if moment >= since)

    def _conditions(self, window: PlanningWindow) -> ConditionsEntry | None:
        query = select(ConditionsEntry).where(ConditionsEntry.window_id == window.id, _counts())
        return self.session.exec(query.order_by(col(ConditionsEntry.id).desc()).limit(1)).first()

    def _note(self, row: PlanningWindow) -> WindowNote:
        settled = Settled.model_validate(row.settled or {})
        now_min = self.went_on_min(row)
        return WindowNote(
            number=key(row.id),
            created_at=written(row.created_at),
            author=row.author,
            starts_at=row.starts_at,
            goes_on_at=row.starts_at + timedelta(minutes=now_min),
            ends_at=row.starts_at + timedelta(minutes=row.minutes),
            sent=settled.sent,
            short=settled.short,
            thrown=sum(settled.thrown.values()),
            runs=settled.runs,
        )

    def _read(
        self,
        window: PlanningWindow,
        book: OrderBook,
        library_number: int,
        conditions: ConditionsEntry | None,
        entry: OpeningEntry | None,
    ) -> Scenario:
        library, opening = self.libraries.read(library_number), as_opening(entry)
        zone = zone_named(library.plant.time_zone)
        planned = Window(starts_at=window.starts_at.astimezone(zone), minutes=window.minutes)
        calendar = self.calendars.read(opening.calendar) if opening.calendar else None
        waves = _waves(tuple(Wave.model_validate(wave) for wave in window.waves), opening, calendar, zone, planned)
        known = {wave.id for wave in waves}
        parts: dict[str, Any] = {
            "window": planned,
            "waves": waves,
            "orders": as_loaded(
                tuple(order for order in self.books.orders(book) if order.wave in known), opening.loaded
            ),
            "conditions": Conditions.model_validate(conditions.conditions if conditions else window.conditions),
            "stocks": tuple(map(Stock.model_validate, window.stocks)) if opening.stocks is None else opening.stocks,
            "finished": opening.finished,
            "blocks": (*opening.blocks, *(closings_of(calendar, zone, planned) if calendar else ())),
            "absences": absences_of(calendar, library.plant, zone, planned) if calendar else (),
            "opening": opening.opening,
        }
        made = {"plant": library.plant, "preparations": library.preparations, "products": library.products}
        # What is worked out of stations and products is worked out once for a library, whatever the window.
        at = "made for", library_number
        first = self.memory.recall(at, lambda: Scenario(**made, **parts))
        if len(first.known) > MOST_WORKED_OUT:
            first = Scenario(**made, **parts)
            self.memory.keep(at, first)
        return first.going_on(**parts)


def _counts() -> Any:
    """Whether what was read has not been withdrawn."""
    return col(ConditionsEntry.id).not_in(select(ConditionsWithdrawal.conditions_id))


def _waves(
    stored: Sequence[Wave], opening: StoredOpening, calendar: Calendar | None, zone: ZoneInfo, window: Window
) -> tuple[Wave, ...]:
    """The lorries of a window: of the calendar from the window's now on, and before it those that were stored."""
    if calendar is None:
        return tuple(stored)
    now = opening.now_min or -inf
    before = tuple(wave for wave in stored if wave.loaded_by_min <= now)
    return (*before, *(wave for wave in waves_of(calendar, zone, window) if wave.loaded_by_min > now))
