"""Order books: all orders of a window at one moment."""

from collections.abc import Collection
from datetime import datetime

from sqlmodel import col, func, select

from rundgang.core.errors import RundgangError, UnknownItemError
from rundgang.core.model import Model
from rundgang.core.orders import Order
from rundgang.core.orders import OrderLine as OrderKey
from rundgang.store.rows import Rows, key, written
from rundgang.store.tables import OrderBook, OrderLine, PlanningWindow

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

    def all(self) -> tuple[Book, ...]:
        """All books of the window, newest first."""
        query = select(OrderBook).where(OrderBook.window_id == self.window().id)
        found = self.session.exec(query.order_by(col(OrderBook.number).desc()))
        return tuple(_as_book(book) for book in found)

    def orders(self, book: OrderBook) -> tuple[Order, ...]:
        """The orders of a book."""
        lines = select(OrderLine).where(OrderLine.book_id == book.id).order_by(col(OrderLine.position))
        return tuple(
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

    def replace(self, orders: tuple[Order, ...], origin: str) -> Book:
        """Store the next book, in the open transaction: these orders alone."""
        return _as_book(self.write(self.locked_window(), orders, origin))

    def extend(self, orders: tuple[Order, ...], origin: str) -> Book:
        """Store the next book, in the open transaction: the newest one's orders and these."""
        window = self.locked_window()
        kept = self.orders(self.row())
        lines = {order.line for order in kept}
        twice = [order.id for order in orders if order.line in lines]
        if twice:
            raise RundgangError(
                f"Order {twice[0]} is in the book already, for that product and lorry. Allowed: a number that is not."
            )
        return _as_book(self.write(window, (*kept, *orders), origin))

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
        orders = self.orders(self.row())
        known = {order.line for order in orders}
        for line in lines:
            number, product, _ = line
            if line not in known:
                raise UnknownItemError("order", number, tuple(sorted({order.id for order in orders}))[:MOST_NAMED])
            if (number, product, to) in known:
                raise RundgangError(f"Order {number} has packs for that lorry already. Allowed: another lorry.")
        moved = tuple(order.model_copy(update={"wave": to}) if order.line in lines else order for order in orders)
        book = self.write(window, moved, origin)
        self.session.commit()
        return _as_book(book)

    def restore(self, number: int) -> Book:
        """Store the next book: a copy of an earlier one. Undo and redo are both this."""
        window = self.locked_window()
        book = self.write(window, self.orders(self.row(number)), f"book {number} brought back", number)
        self.session.commit()
        return _as_book(book)

    def write(
        self, window: PlanningWindow, orders: tuple[Order, ...], origin: str, restores: int | None = None
    ) -> OrderBook:
        """Write the next book of a window, in the open transaction."""
        last = self.session.exec(select(func.max(OrderBook.number)).where(OrderBook.window_id == window.id)).one()
        book = OrderBook(window_id=key(window.id), number=(last or 0) + 1, origin=origin, restores=restores)
        self.session.add(book)
        self.session.flush()
        self.session.add_all(
            OrderLine(
                book_id=key(book.id),
                position=position,
                order_no=order.id,
                product=order.product,
                wave=order.wave,
                packs=order.packs,
                priority=order.priority,
                customer=order.customer,
                reference=order.reference,
                fresh_for_h=order.fresh_for_h,
            )
            for position, order in enumerate(orders)
        )
        self.session.flush()
        return book


def _as_book(book: OrderBook) -> Book:
    return Book(number=book.number, created_at=written(book.created_at), origin=book.origin, restores=book.restores)
