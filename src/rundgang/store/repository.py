"""Reading and writing core models: days, order books and plans."""

from datetime import datetime
from typing import NamedTuple

from sqlalchemy import text
from sqlmodel import Session, col, func, select

from rundgang.core.dough.card import BatchCard, Log, Measured
from rundgang.core.dough.friction import ProbeReading
from rundgang.core.errors import RundgangError, UnknownItemError
from rundgang.core.library import Library, library_of
from rundgang.core.model import Model
from rundgang.core.orders import Block, FinishedStock, Order, Wave, Window
from rundgang.core.planning.check import Violation, check, check_shared
from rundgang.core.planning.model import Plan, PlantPlan, Score
from rundgang.core.plant import Plant
from rundgang.core.products import Preparation, Product
from rundgang.core.scenario import Conditions, Scenario, Stock
from rundgang.formats.clock import zone_of
from rundgang.store.memory import memory_of
from rundgang.store.tables import (
    ConditionsEntry,
    DaySettings,
    LibraryVersion,
    OrderBook,
    OrderLine,
    PlanningWindow,
    PlantVersion,
    PlanVersion,
    ProbeEntry,
    Publication,
)


class Book(Model):
    """An order book: which one, since when, and where it came from."""

    number: int
    created_at: datetime
    origin: str
    restores: int | None


class LibraryNote(Model):
    """A version of the library without its contents."""

    number: int
    created_at: datetime
    origin: str


class StoredPlan(Model):
    """A plan as it was stored, with the order book and the library it was made for."""

    number: int
    created_at: datetime
    book: int
    library: int
    settings: int | None = None
    plan: Plan
    violations: tuple[Violation, ...]


class LoggedProbe(Model):
    """A probe in the log."""

    created_at: datetime
    run: str
    batch: int
    reading: ProbeReading


class Made(Model):
    """What a version is made for, by whom and from what.

    Attributes
    ----------
    settings : int
        The day's stock and blocks; 0 where there are none.
    parent : int or None
        The version it was changed from.
    job : int or None
        The search that found it.
    """

    book: int
    library: int
    settings: int = 0
    author: str = "planner"
    note: str
    parent: int | None = None
    restores: int | None = None
    job: int | None = None


class VersionNote(Model):
    """A version of the plant's plan without its lines."""

    number: int
    created_at: datetime
    author: str
    note: str
    parent: int | None
    restores: int | None
    book: int
    library: int
    settings: int
    score: Score
    cost: float
    bound: float


class Basis(NamedTuple):
    """What a plan made now would be made of: orders, library, and stock with blocks.

    Attributes
    ----------
    books : frozenset of int
        The newest order book, and the earlier one it repeats, if it does.
    """

    books: frozenset[int | None]
    library: int
    settings: int

    def outdates(self, made: StoredPlan | VersionNote) -> bool:
        """Whether a plan was made of something else."""
        return made.book not in self.books or made.library != self.library or (made.settings or 0) != self.settings


class StoredVersion(Model):
    """A version with its lines' plans, and what it breaks in what they share."""

    note: VersionNote
    plans: tuple[StoredPlan, ...]
    plan: PlantPlan
    violations: tuple[Violation, ...]


class Published(Model):
    """Which version the floor works by, since when, and who said so."""

    version: int
    author: str
    created_at: datetime


class Settled(Model):
    """Packs in stock at the day's start, and when stations are blocked."""

    number: int
    finished: tuple[FinishedStock, ...]
    blocks: tuple[Block, ...]


NEWEST = -1
"""Asks for the day's newest settings; 0 or None for none."""

MOST_PROBES = 200
"""So far back the history of a product and mixer is read."""


class NoWindowError(RundgangError):
    """The database holds no day to plan."""

    def __init__(self) -> None:
        super().__init__("There is no day to plan yet. Start with script/demo, which brings one.")


class Repository:
    """The current day, through one database session."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.memory = memory_of(session.get_bind())

    def is_empty(self) -> bool:
        """Whether there is no day yet."""
        return self.session.exec(select(PlanningWindow.id).limit(1)).first() is None

    def add_day(self, scenario: Scenario, origin: str) -> None:
        """Store a scenario as a new day with its first order book."""
        data = scenario.model_dump(mode="json")
        library = _version(scenario, "first entry")
        self.session.add(library)
        self.session.flush()
        day = PlanningWindow(
            library_id=_key(library.id),
            starts_at=scenario.window.starts_at,
            minutes=scenario.window.minutes,
            waves=data["waves"],
            conditions=data["conditions"],
            stocks=data["stocks"],
        )
        self.session.add(day)
        self.session.flush()
        self._write_book(day, scenario.orders, origin, None)
        if scenario.finished or scenario.blocks:
            self.session.add(
                DaySettings(day_id=_key(day.id), origin=origin, finished=data["finished"], blocks=data["blocks"])
            )
        self.session.commit()

    def scenario(self, book: int | None = None, library: int | None = None, settings: int | None = NEWEST) -> Scenario:
        """The day with the orders of a book, a version of the library and the day's settings; the newest by default."""
        day = self._day()
        return self._scenario(day, self._book(day, book), library, settings)

    def library(self, number: int | None = None) -> Library:
        """A version of the library, by default the newest, or UnknownItemError."""
        key = self._library_key(number)
        return self.memory.recall(("library", key), lambda: self._read_library(key))

    def newest_library(self) -> int:
        """Number of the newest version of the library."""
        return self._library_key(None)

    def libraries(self) -> tuple[LibraryNote, ...]:
        """All versions of the library, newest first."""
        query = select(LibraryVersion.id, LibraryVersion.created_at, LibraryVersion.origin)
        found = self.session.exec(query.order_by(col(LibraryVersion.id).desc()))
        return tuple(
            LibraryNote(number=_key(number), created_at=_written(moment), origin=origin)
            for number, moment, origin in found
        )

    def add_library(self, scenario: Scenario, origin: str) -> LibraryNote:
        """Store the plant, preparations and products of a scenario as the next version of the library."""
        version = _version(scenario, origin)
        self.session.add(version)
        self.session.commit()
        return LibraryNote(number=_key(version.id), created_at=_written(version.created_at), origin=origin)

    def book(self) -> Book:
        """The newest order book."""
        return _as_book(self._book(self._day(), None))

    def basis(self) -> Basis:
        """What a plan made now would be made of."""
        book = self.book()
        return Basis(frozenset({book.number, book.restores}), self.newest_library(), self.settings().number)

    def replace_orders(self, orders: tuple[Order, ...], origin: str) -> Book:
        """Store the next order book of the day."""
        day = self._locked_day()
        book = self._write_book(day, orders, origin, None)
        self.session.commit()
        return _as_book(book)

    def add_orders(self, orders: tuple[Order, ...], origin: str) -> Book:
        """Store the next order book: the newest one's orders and these."""
        day = self._locked_day()
        kept = self._scenario(day, self._book(day, None)).orders
        numbers = {order.id for order in kept}
        twice = [order.id for order in orders if order.id in numbers]
        if twice:
            raise RundgangError(f"Order {twice[0]} is in the day already. Allowed: a number that is not.")
        book = self._write_book(day, (*kept, *orders), origin, None)
        self.session.commit()
        return _as_book(book)

    def books(self) -> tuple[Book, ...]:
        """All order books of the day, newest first."""
        query = select(OrderBook).where(OrderBook.day_id == self._day().id)
        found = self.session.exec(query.order_by(col(OrderBook.number).desc()))
        return tuple(_as_book(book) for book in found)

    def restore_orders(self, number: int) -> Book:
        """Store the next order book: a copy of an earlier one. Undo and redo are both this."""
        day = self._locked_day()
        orders = self._scenario(day, self._book(day, number)).orders
        book = self._write_book(day, orders, f"book {number} brought back", number)
        self.session.commit()
        return _as_book(book)

    def add_version(self, scenario: Scenario, plan: PlantPlan, made: Made) -> StoredVersion:
        """Check a plan of the plant, and store it under the next number; lines that have not changed are shared.

        A job's version is stored once: asked again, the one there is comes back.
        """
        day = self._locked_day()
        if made.job is not None:
            known = self.session.exec(select(PlantVersion).where(PlantVersion.job_id == made.job)).first()
            if known:
                self.session.commit()
                return self._as_version(known)
        book = _key(self._book(day, made.book).id)
        settings = made.settings or None
        parent = self._version_row(day, made.parent) if made.parent else None
        shared = {p.plan.line: p for p in self._version_plans(parent)} if parent else {}
        keys = []
        for line in plan.plans:
            before = shared.get(line.line)
            if before and before.plan == line and _made_for(before) == (made.book, made.library, settings):
                keys.append(self._plan_key(before.number))
            else:
                keys.append(self._write_plan(day, scenario, (book, made.library, settings), line))
        sound = not any(self._plan_of(key).violations for key in keys)
        violations = check_shared(scenario, plan.plans) if sound else ()
        last = self.session.exec(select(func.max(PlantVersion.number)).where(PlantVersion.day_id == day.id)).one()
        version = PlantVersion(
            day_id=_key(day.id),
            number=(last or 0) + 1,
            parent=made.parent,
            restores=made.restores,
            author=made.author,
            note=made.note,
            book_id=book,
            library_id=made.library,
            settings_id=settings,
            plans=keys,
            result=plan.model_dump(mode="json", exclude={"plans"}),
            violations=[violation.model_dump(mode="json") for violation in violations],
            job_id=made.job,
        )
        self.session.add(version)
        self.session.commit()
        return self._as_version(version)

    def _write_plan(
        self, day: PlanningWindow, scenario: Scenario, made_for: tuple[int, int, int | None], plan: Plan
    ) -> int:
        book, library, settings = made_for
        last = self.session.exec(select(func.max(PlanVersion.number)).where(PlanVersion.day_id == day.id)).one()
        row = PlanVersion(
            day_id=_key(day.id),
            number=(last or 0) + 1,
            book_id=book,
            library_id=library,
            settings_id=settings,
            line=plan.line,
            document=plan.model_dump(mode="json"),
            violations=[violation.model_dump(mode="json") for violation in check(scenario, plan)],
        )
        self.session.add(row)
        self.session.flush()
        return _key(row.id)

    def version(self, number: int | None = None) -> StoredVersion:
        """A version of the day's plan, by default the newest, or UnknownItemError."""
        day = self._day()
        row = self._newest_version(day) if number is None else self._version_row(day, number)
        if row is None:
            raise UnknownItemError("version of the plan", "yet")
        return self.memory.recall(("version", row.id), lambda: self._as_version(row))

    def newest_version_number(self) -> int | None:
        """Number of the newest version, if there is one."""
        newest = self._newest_version(self._day())
        return newest.number if newest else None

    def versions(self) -> tuple[VersionNote, ...]:
        """All versions of the day's plan, newest first."""
        query = select(PlantVersion).where(PlantVersion.day_id == self._day().id)
        found = self.session.exec(query.order_by(col(PlantVersion.number).desc()))
        return tuple(self._version_note(row) for row in found)

    def restore_version(self, number: int, author: str) -> StoredVersion:
        """Store the next version: an earlier one brought back. Undo and redo are both this."""
        day = self._locked_day()
        row = self._version_row(day, number)
        last = self._newest_version(day)
        copied = {
            name: getattr(row, name)
            for name in ("day_id", "book_id", "library_id", "settings_id", "plans", "result", "violations")
        }
        version = PlantVersion(
            number=_key(last.number if last else 0) + 1,
            parent=row.restores or number,
            restores=row.restores or number,
            author=author,
            note=f"version {row.restores or number} brought back",
            **copied,
        )
        self.session.add(version)
        self.session.commit()
        return self._as_version(version)

    def publish(self, number: int, author: str) -> None:
        """Make a version the one that the floor works by."""
        day = self._day()
        row = self._version_row(day, number)
        if row.violations or any(stored.violations for stored in self._version_plans(row)):
            raise RundgangError(
                f"Version {number} breaks rules, so it cannot be published. Allowed: versions that pass the check."
            )
        self.session.add(Publication(day_id=_key(day.id), version=number, author=author))
        self.session.commit()

    def published(self) -> Published | None:
        """The version that the floor works by, if one is published."""
        query = select(Publication).where(Publication.day_id == self._day().id)
        found = self.session.exec(query.order_by(col(Publication.id).desc()).limit(1)).first()
        if found is None:
            return None
        return Published(version=found.version, author=found.author, created_at=_written(found.created_at))

    def settings(self) -> Settled:
        """The day's stock and blocks, the newest entry; number 0 where nobody has entered any."""
        day = self._day()
        entry = self._settings_entry(day)
        scenario = self._scenario(day, self._book(day, None))
        number = _key(entry.id) if entry else 0
        return Settled(number=number, finished=scenario.finished, blocks=scenario.blocks)

    def add_settings(self, finished: tuple[FinishedStock, ...], blocks: tuple[Block, ...], origin: str) -> Settled:
        """Store the day's stock and blocks, once they fit its lines and products; they count from now on."""
        day = self._day()
        scenario = self._scenario(day, self._book(day, None))
        fields = {name: getattr(scenario, name) for name in Scenario.model_fields}
        Scenario(**fields | {"finished": finished, "blocks": blocks})
        self.session.add(
            DaySettings(
                day_id=_key(day.id),
                origin=origin,
                finished=[entry.model_dump(mode="json") for entry in finished],
                blocks=[block.model_dump(mode="json") for block in blocks],
            )
        )
        self.session.commit()
        return self.settings()

    def floor_plan(self, line: str | None = None) -> StoredPlan:
        """The plan of a line that the floor works by: of the version published, or where none is, of the newest."""
        published = self.published()
        plans = self.version(published.version).plans if published else ()
        return next((stored for stored in plans if line in {None, stored.plan.line}), None) or self.plan(line=line)

    def plan(self, number: int | None = None, line: str | None = None) -> StoredPlan:
        """A line's plan by its number, or that of the newest version, of a line or of any, or UnknownItemError."""
        if number is not None:
            return self._plan_of(self._plan_key(number))
        newest = self.newest_plans()
        found = [stored for stored in newest if line is None or stored.plan.line == line]
        if not found:
            raise UnknownItemError("plan", "yet")
        return found[0] if line else max(found, key=lambda stored: stored.number)

    def newest_plans(self) -> tuple[StoredPlan, ...]:
        """The plans of the newest version's lines, in the plant's order."""
        row = self._newest_version(self._day())
        return self._version_plans(row) if row else ()

    def _newest_version(self, day: PlanningWindow) -> PlantVersion | None:
        query = select(PlantVersion).where(PlantVersion.day_id == day.id)
        return self.session.exec(query.order_by(col(PlantVersion.number).desc()).limit(1)).first()

    def _version_row(self, day: PlanningWindow, number: int) -> PlantVersion:
        query = select(PlantVersion).where(PlantVersion.day_id == day.id, PlantVersion.number == number)
        row = self.session.exec(query).first()
        if row is None:
            raise UnknownItemError("version of the plan", str(number))
        return row

    def _version_plans(self, row: PlantVersion) -> tuple[StoredPlan, ...]:
        found = [self._plan_of(key) for key in row.plans]
        order = [line.id for line in self.library(row.library_id).plant.lines]
        return tuple(sorted(found, key=lambda stored: order.index(stored.plan.line)))

    def _version_note(self, row: PlantVersion) -> VersionNote:
        book = self.session.get_one(OrderBook, row.book_id)
        return VersionNote(
            number=row.number,
            created_at=_written(row.created_at),
            author=row.author,
            note=row.note,
            parent=row.parent,
            restores=row.restores,
            book=book.number,
            library=row.library_id,
            settings=row.settings_id or 0,
            score=Score.model_validate(row.result["score"]),
            cost=row.result["cost"],
            bound=row.result["bound"],
        )

    def _as_version(self, row: PlantVersion) -> StoredVersion:
        plans = self._version_plans(row)
        return StoredVersion(
            note=self._version_note(row),
            plans=plans,
            plan=PlantPlan.model_validate({**row.result, "plans": tuple(stored.plan for stored in plans)}),
            violations=tuple(Violation.model_validate(violation) for violation in row.violations),
        )

    def _plan_of(self, key: int) -> StoredPlan:
        return self.memory.recall(("plan", key), lambda: self._as_plan(self.session.get_one(PlanVersion, key)))

    def add_conditions(self, conditions: Conditions) -> None:
        """Store what the dough room measured; it counts from now on."""
        self.session.add(ConditionsEntry(day_id=_key(self._day().id), conditions=conditions.model_dump()))
        self.session.commit()

    def add_probe(
        self, plan: int, card: BatchCard, dough_c: float, others_c: tuple[float, ...], conditions: Conditions
    ) -> None:
        """Store a probe of the dough of a card, with the temperatures its water was calculated from."""
        self.session.add(
            ProbeEntry(
                plan_id=self._plan_key(plan),
                run=card.run,
                batch=card.number,
                product=card.product,
                mixer=card.mixer,
                dough_c=dough_c,
                water_c=card.water.wanted_c if card.water else 0,
                friction_c=card.friction.friction_c,
                others_c=list(others_c),
                conditions=conditions.model_dump(),
            )
        )
        self.session.commit()

    def probes(self, product: str, mixer: str) -> tuple[LoggedProbe, ...]:
        """The probes of a product from a mixer, oldest first; of a batch probed twice, the later one."""
        query = select(ProbeEntry).where(ProbeEntry.product == product, ProbeEntry.mixer == mixer)
        newest = self.session.exec(query.order_by(col(ProbeEntry.id).desc()).limit(MOST_PROBES))
        last: dict[tuple[int, str, int], ProbeEntry] = {}
        for entry in newest:
            last.setdefault((entry.plan_id, entry.run, entry.batch), entry)
        return tuple(_as_probe(entry) for entry in reversed(last.values()))

    def probe_log(self, plan: int) -> Log:
        """The probes of a plan by run and batch, the later one where a batch was probed twice."""
        query = select(ProbeEntry).where(ProbeEntry.plan_id == self._plan_key(plan)).order_by(col(ProbeEntry.id))
        return {
            (entry.run, entry.batch): Measured(entry.dough_c, entry.water_c, entry.friction_c)
            for entry in self.session.exec(query)
        }

    def _plan_key(self, number: int) -> int:
        query = select(PlanVersion.id).where(PlanVersion.day_id == self._day().id, PlanVersion.number == number)
        key = self.session.exec(query).first()
        if key is None:
            raise UnknownItemError("plan", str(number))
        return key

    def _day(self) -> PlanningWindow:
        day = self.session.exec(select(PlanningWindow).order_by(col(PlanningWindow.id).desc()).limit(1)).first()
        if day is None:
            raise NoWindowError
        return day

    def _locked_day(self) -> PlanningWindow:
        """The day, with numbering to itself until the transaction ends."""
        day = self._day()
        self.session.execute(text("SELECT pg_advisory_xact_lock(:day)"), {"day": day.id})
        return day

    def _book(self, day: PlanningWindow, number: int | None) -> OrderBook:
        query = select(OrderBook).where(OrderBook.day_id == day.id)
        if number is not None:
            query = query.where(OrderBook.number == number)
        book = self.session.exec(query.order_by(col(OrderBook.number).desc()).limit(1)).first()
        if book is None:
            raise UnknownItemError("order book", str(number))
        return book

    def _write_book(
        self, day: PlanningWindow, orders: tuple[Order, ...], origin: str, restores: int | None
    ) -> OrderBook:
        last = self.session.exec(select(func.max(OrderBook.number)).where(OrderBook.day_id == day.id)).one()
        book = OrderBook(day_id=_key(day.id), number=(last or 0) + 1, origin=origin, restores=restores)
        self.session.add(book)
        self.session.flush()
        self.session.add_all(
            OrderLine(
                book_id=_key(book.id),
                position=position,
                order_no=order.id,
                product=order.product,
                wave=order.wave,
                packs=order.packs,
            )
            for position, order in enumerate(orders)
        )
        self.session.flush()
        return book

    def _library_key(self, number: int | None) -> int:
        query = select(LibraryVersion.id)
        if number is not None:
            query = query.where(LibraryVersion.id == number)
        key = self.session.exec(query.order_by(col(LibraryVersion.id).desc()).limit(1)).first()
        if key is None:
            raise UnknownItemError("version of the library", str(number))
        return key

    def _read_library(self, key: int) -> Library:
        version = self.session.get_one(LibraryVersion, key)
        return Library(
            plant=Plant.model_validate(version.plant),
            preparations=tuple(Preparation.model_validate(made) for made in version.preparations),
            products=tuple(Product.model_validate(product) for product in version.products),
        )

    def _scenario(
        self, day: PlanningWindow, book: OrderBook, number: int | None = None, settings: int | None = NEWEST
    ) -> Scenario:
        library, conditions = self._library_key(number), self._conditions_entry(day)
        entry = self._settings_entry(day, settings)
        key = (
            "scenario",
            day.id,
            book.id,
            library,
            conditions.id if conditions else None,
            entry.id if entry else None,
        )
        return self.memory.recall(key, lambda: self._read_scenario(day, book, self.library(library), conditions, entry))

    def _settings_entry(self, day: PlanningWindow, key: int | None = NEWEST) -> DaySettings | None:
        if not key:
            return None
        query = select(DaySettings).where(DaySettings.day_id == day.id)
        if key != NEWEST:
            query = query.where(DaySettings.id == key)
        return self.session.exec(query.order_by(col(DaySettings.id).desc()).limit(1)).first()

    def _read_scenario(
        self,
        day: PlanningWindow,
        book: OrderBook,
        library: Library,
        entry: ConditionsEntry | None,
        settings: DaySettings | None,
    ) -> Scenario:
        rows = self.session.exec(
            select(OrderLine).where(OrderLine.book_id == book.id).order_by(col(OrderLine.position))
        )
        scenario = Scenario(
            plant=library.plant,
            preparations=library.preparations,
            products=library.products,
            window=Window(starts_at=day.starts_at, minutes=day.minutes),
            waves=tuple(Wave.model_validate(wave) for wave in day.waves),
            orders=tuple(Order(id=row.order_no, product=row.product, wave=row.wave, packs=row.packs) for row in rows),
            conditions=Conditions.model_validate(entry.conditions if entry else day.conditions),
            stocks=tuple(Stock.model_validate(stock) for stock in day.stocks),
            finished=tuple(FinishedStock.model_validate(one) for one in settings.finished) if settings else (),
            blocks=tuple(Block.model_validate(one) for one in settings.blocks) if settings else (),
        )
        starts = day.starts_at.astimezone(zone_of(scenario))
        return scenario.model_copy(update={"window": Window(starts_at=starts, minutes=day.minutes)})

    def _conditions_entry(self, day: PlanningWindow) -> ConditionsEntry | None:
        query = select(ConditionsEntry).where(ConditionsEntry.day_id == day.id)
        return self.session.exec(query.order_by(col(ConditionsEntry.id).desc()).limit(1)).first()

    def _as_plan(self, version: PlanVersion) -> StoredPlan:
        book = self.session.get_one(OrderBook, version.book_id)
        return StoredPlan(
            number=version.number,
            created_at=_written(version.created_at),
            book=book.number,
            library=version.library_id,
            settings=version.settings_id,
            plan=Plan.model_validate(version.document),
            violations=tuple(Violation.model_validate(violation) for violation in version.violations),
        )


def _made_for(stored: StoredPlan) -> tuple[int, int, int | None]:
    return stored.book, stored.library, stored.settings


def _version(scenario: Scenario, origin: str) -> LibraryVersion:
    data = library_of(scenario).model_dump(mode="json")
    return LibraryVersion(origin=origin, **data)


def _key(value: int | None) -> int:
    assert value is not None  # noqa: S101  (set by the flush)
    return value


def _written(moment: datetime | None) -> datetime:
    assert moment is not None  # noqa: S101  (set by the database)
    return moment


def _as_probe(entry: ProbeEntry) -> LoggedProbe:
    reading = ProbeReading(dough_c=entry.dough_c, others_c=tuple(entry.others_c), water_c=entry.water_c)
    return LoggedProbe(created_at=_written(entry.created_at), run=entry.run, batch=entry.batch, reading=reading)


def _as_book(book: OrderBook) -> Book:
    return Book(number=book.number, created_at=_written(book.created_at), origin=book.origin, restores=book.restores)
