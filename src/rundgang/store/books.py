"""Order books: all orders of a window at one moment."""

from collections.abc import Collection
from datetime import datetime

from psycopg import sql
from sqlmodel import col, func, select

from rundgang.core.errors import RundgangError, UnknownItemError
from rundgang.core.model import Model
from rundgang.core.orders import Order
from rundgang.core.orders import OrderLine as OrderKey
from rundgang.store.rows import Rows, key, written
from rundgang.store.tables import OrderBook, OrderLine, PlanningWindow

DEEPEST = 40
"""So many books may each say what differs from the one before; the next is written whole."""

OF_ORDER = ("id", "product", "wave", "packs", "priority", "customer", "reference", "fresh_for_h")
LINE = ("book_id", "position", "order_no", *OF_ORDER[1:])
"""What of an order a line has, and under which columns."""

MOST_NAMED = 16
"""So many order numbers a message names."""


class Book(Model):
    """An order book: which one, since when, and where it came from."""

    number: int
    created_at: datetime
    origin: str
    restores: int | None


class Books(Rows):
    """The books of the window; importing or undoing writes the next one."""

    def row(self, number: int | None = None) -> OrderBook:
        """A book's row, by default the newest's, or UnknownItemError."""
        query = select(OrderBook).where(OrderBook.window_id == self.window().id)
        if number is not None:
            query = query.where(OrderBook.number == number)
        book = self.session.exec(query.order_by(col(OrderBook.number).desc()).limit(1)).first()
        if book is None:
            raise UnknownItemError("order book", str(number))
        return book

    def newest(self) -> Book:
        """The newest book."""
        return _as_book(self.row())

    def all(self, before: int | None, most: int) -> tuple[Book, ...]:
        """So many books of the window, newest first; where asked, of those before one."""
        query = select(OrderBook).where(OrderBook.window_id == self.window().id)
        if before is not None:
            query = query.where(col(OrderBook.number) < before)
        found = self.session.exec(query.order_by(col(OrderBook.number).desc()).limit(most))
        return tuple(_as_book(book) for book in found)

    def orders(self, book: OrderBook) -> tuple[Order, ...]:
        """The orders of a book."""
        return self.memory.recall(("orders", book.id), lambda: self._read(book))

    def _read(self, book: OrderBook) -> tuple[Order, ...]:
        lines = select(OrderLine).where(OrderLine.book_id == book.id).order_by(col(OrderLine.position))
        own = tuple(
            Order(
                id=row.order_no,
                product=row.product,
                wave=row.wave,
                packs=row.packs,
                priority=row.priority,
                customer=row.customer,
                reference=row.reference,
                fresh_for_h=row.fresh_for_h,
            )
            for row in self.session.exec(lines)
        )
        if book.based_on is None:
            return own
        base = self.session.exec(select(OrderBook).where(OrderBook.id == book.based_on)).one()
        gone = {tuple(line) for line in book.gone}
        return (*(order for order in self.orders(base) if order.line not in gone), *own)

    def replace(self, orders: tuple[Order, ...], origin: str) -> Book:
        """Store the next book, in the open transaction: these orders alone."""
        return _as_book(self.write(self.locked_window(), orders, origin))

    def extend(self, orders: tuple[Order, ...], origin: str) -> Book:
        """Store the next book, in the open transaction: the newest one's orders and these."""
        window = self.locked_window()
        newest = self.row()
        kept = self.orders(newest)
        lines = {order.line for order in kept}
        twice = [order.id for order in orders if order.line in lines]
        if twice:
            raise RundgangError(
                f"Order {twice[0]} is in the book already, for that product and lorry. Allowed: a number that is not."
            )
        return _as_book(self.write(window, (*kept, *orders), origin, base=newest))

    def move(self, lines: Collection[OrderKey], to: str, origin: str) -> Book:
        """Store the next book: the newest one's orders, some lines of them for another lorry.

        Raises
        ------
        UnknownItemError
            A line is not in the book.
        RundgangError
            That lorry has such a line already.
        """
        window = self.locked_window()
        newest = self.row()
        orders = self.orders(newest)
        known = {order.line for order in orders}
        for line in lines:
            number, product, _ = line
            if line not in known:
                raise UnknownItemError("order", number, tuple(sorted({order.id for order in orders}))[:MOST_NAMED])
            if (number, product, to) in known:
                raise RundgangError(f"Order {number} has packs for that lorry already. Allowed: another lorry.")
        stay = (order for order in orders if order.line not in lines)
        moved = (order.model_copy(update={"wave": to}) for order in orders if order.line in lines)
        book = self.write(window, (*stay, *moved), origin, base=newest)
        self.session.commit()
        return _as_book(book)

    def change(self, line: OrderKey, packs: int | None, origin: str) -> Book:
        """Store the next book: the newest one's orders, a line of them with other packs, or without it where none.

        Raises
        ------
        UnknownItemError
            The line is not in the book.
        """
        window = self.locked_window()
        newest = self.row()
        orders = self.orders(newest)
        found = next((order for order in orders if order.line == line), None)
        if found is None:
            raise UnknownItemError("order", line[0], tuple(sorted({order.id for order in orders}))[:MOST_NAMED])
        stay = tuple(order for order in orders if order.line != line)
        changed = () if packs is None else (found.model_copy(update={"packs": packs}),)
        book = self.write(window, (*stay, *changed), origin, base=newest)
        self.session.commit()
        return _as_book(book)

    def restore(self, number: int) -> Book:
        """Store the next book: a copy of an earlier one. Undo and redo are both this."""
        book = self.write_again(number)
        self.session.commit()
        return _as_book(book)

    def was_written_at(self, number: int, moment: datetime) -> bool:
        """Whether there was a book before one, and it was written in the transaction of that moment."""
        return number > 1 and written(self.row(number).created_at) == moment

    def write_again(self, number: int) -> OrderBook:
        """Write the next book, in the open transaction: a copy of an earlier one."""
        again = self.row(number)
        return self.write(self.locked_window(), self.orders(again), f"book {number} restored", number, base=again)

    def write(
        self,
        window: PlanningWindow,
        orders: tuple[Order, ...],
        origin: str,
        restores: int | None = None,
        base: OrderBook | None = None,
    ) -> OrderBook:
        """Write the next book of a window, in the open transaction.

        Parameters
        ----------
        base : OrderBook, optional
            A book that has most of the orders, in the same order; what differs from it is written, where it can be.
        """
        last = self.session.exec(select(func.max(OrderBook.number)).where(OrderBook.window_id == window.id)).one()
        book = OrderBook(window_id=key(window.id), number=(last or 0) + 1, origin=origin, restores=restores)
        own = orders
        if base is not None and base.depth < DEEPEST:
            own = self._beside(base, orders, book)
        self.session.add(book)
        self.session.flush()
        if own:
            self._copy(key(book.id), own)
        self.memory.keep(("orders", book.id), orders)
        return book

    def _copy(self, book: int, orders: tuple[Order, ...]) -> None:
        """Write the lines of a book, all in one go."""
        raw = self.session.connection().connection.driver_connection
        assert raw is not None  # noqa: S101  (a connection that is open)
        columns = sql.SQL(", ").join(map(sql.Identifier, LINE))
        with raw.cursor().copy(sql.SQL("COPY order_line ({}) FROM STDIN").format(columns)) as rows:
            for position, order in enumerate(orders):
                rows.write_row((book, position, *(getattr(order, name) for name in OF_ORDER)))

    def _beside(self, base: OrderBook, orders: tuple[Order, ...], book: OrderBook) -> tuple[Order, ...]:
        """The orders that a book has beside those of its base, if it can be told so; else all of them."""
        wanted, known = set(orders), self.orders(base)
        kept = tuple(order for order in known if order in wanted)
        if kept != orders[: len(kept)]:
            return orders
        book.based_on, book.depth = base.id, base.depth + 1
        book.gone = [list(order.line) for order in known if order not in wanted]
        return orders[len(kept) :]


def _as_book(book: OrderBook) -> Book:
    return Book(number=book.number, created_at=written(book.created_at), origin=book.origin, restores=book.restores)
