"""Reading and writing core models: days, order books and plans."""

from datetime import datetime

from sqlalchemy import text
from sqlmodel import Session, col, func, select

from rundgang.core.dough.card import BatchCard, Log, Measured
from rundgang.core.dough.friction import ProbeReading
from rundgang.core.errors import RundgangError, UnknownItemError
from rundgang.core.library import Library, library_of
from rundgang.core.model import Model
from rundgang.core.orders import Horizon, Order, Wave
from rundgang.core.planning.check import Violation, check
from rundgang.core.planning.plan import Plan
from rundgang.core.plant import Plant
from rundgang.core.products import Preparation, Product
from rundgang.core.scenario import Conditions, Scenario, Stock
from rundgang.formats.clock import zone_of
from rundgang.store.memory import memory_of
from rundgang.store.tables import (
    ConditionsEntry,
    LibraryVersion,
    OrderBook,
    OrderLine,
    PlanningDay,
    PlanVersion,
    ProbeEntry,
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
    plan: Plan
    violations: tuple[Violation, ...]


class LoggedProbe(Model):
    """A probe in the log."""

    created_at: datetime
    run: str
    batch: int
    reading: ProbeReading


MOST_PROBES = 200
"""So far back the history of a product and mixer is read."""


class NoDayError(RundgangError):
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
        return self.session.exec(select(PlanningDay.id).limit(1)).first() is None

    def add_day(self, scenario: Scenario, origin: str) -> None:
        """Store a scenario as a new day with its first order book."""
        data = scenario.model_dump(mode="json")
        library = _version(scenario, "first entry")
        self.session.add(library)
        self.session.flush()
        day = PlanningDay(
            library_id=_key(library.id),
            starts_at=scenario.horizon.starts_at,
            minutes=scenario.horizon.minutes,
            waves=data["waves"],
            conditions=data["conditions"],
            stocks=data["stocks"],
        )
        self.session.add(day)
        self.session.flush()
        self._write_book(day, scenario.orders, origin, None)
        self.session.commit()

    def scenario(self, book: int | None = None, library: int | None = None) -> Scenario:
        """The day with the orders of a book and a version of the library, by default the newest of both."""
        day = self._day()
        return self._scenario(day, self._book(day, book), library)

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

    def add_plan(self, scenario: Scenario, book: int, library: int, plan: Plan) -> StoredPlan:
        """Check a plan made for an order book and a library, and store it under the next number."""
        day = self._locked_day()
        violations = check(scenario, plan)
        last = self.session.exec(select(func.max(PlanVersion.number)).where(PlanVersion.day_id == day.id)).one()
        version = PlanVersion(
            day_id=_key(day.id),
            number=(last or 0) + 1,
            book_id=_key(self._book(day, book).id),
            library_id=library,
            line=plan.line,
            document=plan.model_dump(mode="json"),
            violations=[violation.model_dump(mode="json") for violation in violations],
        )
        self.session.add(version)
        self.session.commit()
        return self._as_plan(version)

    def plan(self, number: int | None = None, line: str | None = None) -> StoredPlan:
        """A plan of the day, by default the newest, of a line or of any, or UnknownItemError."""
        query = select(PlanVersion.id).where(PlanVersion.day_id == self._day().id)
        if number is not None:
            query = query.where(PlanVersion.number == number)
        if line is not None:
            query = query.where(PlanVersion.line == line)
        key = self.session.exec(query.order_by(col(PlanVersion.number).desc()).limit(1)).first()
        if key is None:
            raise UnknownItemError("plan", "yet" if number is None else str(number))
        return self._plan_of(key)

    def newest_plans(self) -> tuple[StoredPlan, ...]:
        """The newest plan of every line that has one, in the order they were made."""
        newest = (
            select(func.max(PlanVersion.number)).where(PlanVersion.day_id == self._day().id).group_by(PlanVersion.line)
        )
        query = select(PlanVersion.id).where(PlanVersion.day_id == self._day().id, col(PlanVersion.number).in_(newest))
        keys = self.session.exec(query.order_by(col(PlanVersion.number))).all()
        return tuple(self._plan_of(_key(key)) for key in keys)

    def _plan_of(self, key: int) -> StoredPlan:
        return self.memory.recall(("plan", key), lambda: self._as_plan(self.session.get_one(PlanVersion, key)))

    def add_conditions(self, conditions: Conditions) -> None:
        """Store what the dough room measured; it counts from now on."""
        self.session.add(ConditionsEntry(day_id=_key(self._day().id), conditions=conditions.model_dump()))
        self.session.commit()

    def add_probe(
        self, plan: int, card: BatchCard, dough_c: float, others_c: tuple[float, ...], conditions: Conditions
    ) -> None:
        """Store a probe of the dough of a card, with the temperatures its water was reckoned from."""
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

    def _day(self) -> PlanningDay:
        day = self.session.exec(select(PlanningDay).order_by(col(PlanningDay.id).desc()).limit(1)).first()
        if day is None:
            raise NoDayError
        return day

    def _locked_day(self) -> PlanningDay:
        """The day, with numbering to itself until the transaction ends."""
        day = self._day()
        self.session.execute(text("SELECT pg_advisory_xact_lock(:day)"), {"day": day.id})
        return day

    def _book(self, day: PlanningDay, number: int | None) -> OrderBook:
        query = select(OrderBook).where(OrderBook.day_id == day.id)
        if number is not None:
            query = query.where(OrderBook.number == number)
        book = self.session.exec(query.order_by(col(OrderBook.number).desc()).limit(1)).first()
        if book is None:
            raise UnknownItemError("order book", str(number))
        return book

    def _write_book(self, day: PlanningDay, orders: tuple[Order, ...], origin: str, restores: int | None) -> OrderBook:
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

    def _scenario(self, day: PlanningDay, book: OrderBook, number: int | None = None) -> Scenario:
        library, entry = self._library_key(number), self._conditions_entry(day)
        key = ("scenario", day.id, book.id, library, entry.id if entry else None)
        return self.memory.recall(key, lambda: self._read_scenario(day, book, self.library(library), entry))

    def _read_scenario(
        self, day: PlanningDay, book: OrderBook, library: Library, entry: ConditionsEntry | None
    ) -> Scenario:
        rows = self.session.exec(
            select(OrderLine).where(OrderLine.book_id == book.id).order_by(col(OrderLine.position))
        )
        scenario = Scenario(
            plant=library.plant,
            preparations=library.preparations,
            products=library.products,
            horizon=Horizon(starts_at=day.starts_at, minutes=day.minutes),
            waves=tuple(Wave.model_validate(wave) for wave in day.waves),
            orders=tuple(Order(id=row.order_no, product=row.product, wave=row.wave, packs=row.packs) for row in rows),
            conditions=Conditions.model_validate(entry.conditions if entry else day.conditions),
            stocks=tuple(Stock.model_validate(stock) for stock in day.stocks),
        )
        starts = day.starts_at.astimezone(zone_of(scenario))
        return scenario.model_copy(update={"horizon": Horizon(starts_at=starts, minutes=day.minutes)})

    def _conditions_entry(self, day: PlanningDay) -> ConditionsEntry | None:
        query = select(ConditionsEntry).where(ConditionsEntry.day_id == day.id)
        return self.session.exec(query.order_by(col(ConditionsEntry.id).desc()).limit(1)).first()

    def _as_plan(self, version: PlanVersion) -> StoredPlan:
        book = self.session.get_one(OrderBook, version.book_id)
        return StoredPlan(
            number=version.number,
            created_at=_written(version.created_at),
            book=book.number,
            library=version.library_id,
            plan=Plan.model_validate(version.document),
            violations=tuple(Violation.model_validate(violation) for violation in version.violations),
        )


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
