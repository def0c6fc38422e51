"""The planning window, and the scenario that it makes with a book, a library and an opening."""

from sqlmodel import Session, col, select

from rundgang.core.conditions import Conditions
from rundgang.core.opening import Opening
from rundgang.core.orders import Wave, Window
from rundgang.core.scenario import Scenario, Stock
from rundgang.formats.clock import zone_of
from rundgang.store.books import Books
from rundgang.store.libraries import Libraries
from rundgang.store.openings import NEWEST, Openings, as_opening
from rundgang.store.rows import Rows, key
from rundgang.store.tables import ConditionsEntry, OpeningEntry, OrderBook, PlanningWindow


class Windows(Rows):
    """The windows there are; the newest is planned."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.libraries, self.books, self.openings = Libraries(session), Books(session), Openings(session)

    def is_empty(self) -> bool:
        """Whether there is no window yet."""
        return self.session.exec(select(PlanningWindow.id).limit(1)).first() is None

    def add(self, scenario: Scenario, origin: str) -> None:
        """Store a scenario as a new window with its first order book."""
        data = scenario.model_dump(mode="json")
        library = self.libraries.add(scenario, "first entry")
        window = PlanningWindow(
            library_id=library.number,
            starts_at=scenario.window.starts_at,
            minutes=scenario.window.minutes,
            waves=data["waves"],
            conditions=data["conditions"],
            stocks=data["stocks"],
        )
        self.session.add(window)
        self.session.flush()
        self.books.write(window, scenario.orders, origin)
        if scenario.finished or scenario.blocks or scenario.opening != Opening():
            self.openings.write(scenario, origin)
        self.session.commit()

    def scenario(
        self, book: int | None = None, library: int | None = None, opening: int | None = NEWEST
    ) -> Scenario:  # fmt: skip
        """The window with the orders of a book, a version of the library and an opening; the newest by default."""
        window, row = self.window(), self.books.row(book)
        number, conditions, entry = self.libraries.number(library), self._conditions(window), self.openings.row(opening)
        found = ("scenario", window.id, row.id, number, conditions and conditions.id, entry and entry.id)
        return self.memory.recall(found, lambda: self._read(window, row, number, conditions, entry))

    def add_conditions(self, conditions: Conditions) -> None:
        """Store what the dough room measured; it counts from now on."""
        self.session.add(
            ConditionsEntry(window_id=key(self.window().id), conditions=conditions.model_dump(mode="json"))
        )
        self.session.commit()

    def _conditions(self, window: PlanningWindow) -> ConditionsEntry | None:
        query = select(ConditionsEntry).where(ConditionsEntry.window_id == window.id)
        return self.session.exec(query.order_by(col(ConditionsEntry.id).desc()).limit(1)).first()

    def _read(
        self,
        window: PlanningWindow,
        book: OrderBook,
        library_number: int,
        conditions: ConditionsEntry | None,
        entry: OpeningEntry | None,
    ) -> Scenario:
        library, opening = self.libraries.read(library_number), as_opening(entry)
        scenario = Scenario(
            plant=library.plant,
            preparations=library.preparations,
            products=library.products,
            window=Window(starts_at=window.starts_at, minutes=window.minutes),
            waves=tuple(Wave.model_validate(wave) for wave in window.waves),
            orders=self.books.orders(book),
            conditions=Conditions.model_validate(conditions.conditions if conditions else window.conditions),
            stocks=tuple(Stock.model_validate(stock) for stock in window.stocks),
            finished=opening.finished,
            blocks=opening.blocks,
            opening=Opening(heated=opening.heated, worn=opening.worn, last=opening.last),
        )
        starts = window.starts_at.astimezone(zone_of(scenario))
        return scenario.model_copy(update={"window": Window(starts_at=starts, minutes=window.minutes)})
