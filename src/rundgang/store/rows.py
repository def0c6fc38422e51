"""What reading and writing rows have in common: keys, moments, and the window that is being planned."""

from collections.abc import Callable, Hashable
from datetime import datetime

from sqlalchemy import Connection, event, text
from sqlmodel import Session, col, func, select

from rundgang.core.errors import RundgangError, UnknownItemError
from rundgang.store.memory import Kept, Memory, memory_of
from rundgang.store.tables import WRITTEN, OpeningEntry, PlanningWindow


class NoWindowError(RundgangError):
    """The database holds no window to plan."""

    def __init__(self) -> None:
        super().__init__("There is no plant yet. Look at the demo plant, or bring one in, on the first page.")


class WindowOverError(RundgangError):
    """The window has gone on to the next one."""

    def __init__(self, seen: int, newest: int) -> None:
        super().__init__(
            f"The window has gone on: window {newest} is planned now, and this is for window {seen}. Nothing was "
            "changed. Allowed: changes of the newest window; load it anew."
        )


_NEWEST = select(*(func.coalesce(select(func.max(table.id)).scalar_subquery(), 0) for table in WRITTEN))


def newest_rows(connection: Connection) -> tuple[int, ...]:
    """The newest row of every table: while they are the same, nothing that is read has changed.

    A row is there for all before the next of its table gets its number; the database sees to that.
    """
    return tuple(connection.execute(_NEWEST).one())


STATE = "newest rows"

OF_REQUEST = "of a request"
"""Marks a session, in its `info`, that is one request's: to it the database is as it was at its first look."""


def forget_state(session: Session, *_: object) -> None:
    """The newest rows may be others from here on."""
    session.info.pop(STATE, None)


for _moment in ("after_flush", "after_begin", "after_commit", "after_rollback"):
    event.listen(Session, _moment, forget_state)


class Rows:
    """Rows of one noun, through one database session; of the newest window, or of an earlier one."""

    def __init__(self, session: Session, window: int | None = None) -> None:
        self.session, self._of = session, window

    @property
    def memory(self) -> Memory:
        """What was read from rows that never change."""
        return memory_of(self.session.get_bind())

    def known(self, key: Hashable, read: Callable[[], Kept]) -> Kept:
        """What was read under a key while nothing has been written since; else what `read` gives."""
        return self.memory.recall((key, self._of, self.state()), read)

    def state(self) -> tuple[int, ...]:
        """The newest rows; for one request asked once, and again where it has written something or taken a lock."""
        self.session.flush()
        found: tuple[int, ...] | None = self.session.info.get(STATE)
        if found is None:
            found = newest_rows(self.session.connection())
        if OF_REQUEST in self.session.info:
            self.session.info[STATE] = found
        return found

    def window(self) -> PlanningWindow:
        """The window that is being planned, the newest; or the one that was asked for, or UnknownItemError."""
        query = select(PlanningWindow)
        if self._of is not None:
            query = query.where(PlanningWindow.id == self._of)
        found = self.session.exec(query.order_by(col(PlanningWindow.id).desc()).limit(1)).first()
        if found is None and self._of is not None:
            raise UnknownItemError("window", str(self._of))
        if found is None:
            raise NoWindowError
        return found

    def went_on_min(self, window: PlanningWindow) -> float:
        """When the window before one went on to it, from its start, min; 0 where there was none."""
        first = select(OpeningEntry.now_min).where(OpeningEntry.window_id == window.id)
        return self.session.exec(first.order_by(col(OpeningEntry.id)).limit(1)).first() or 0.0

    def locked_window(self) -> PlanningWindow:
        """The window, with numbering to itself until the transaction ends; WindowOverError where it has gone on."""
        found = self.window()
        self.session.execute(text("SELECT pg_advisory_xact_lock(:window)"), {"window": found.id})
        forget_state(self.session)
        self.refuse_over()
        return found

    def refuse_over(self) -> None:
        """WindowOverError where the window has gone on to the next."""
        found = self.window()
        newest = self.session.exec(select(func.max(PlanningWindow.id))).one()
        if newest != found.id:
            raise WindowOverError(key(found.id), key(newest))


def key(value: int | None) -> int:
    """A row's key, once it is stored."""
    assert value is not None  # noqa: S101  (set by the flush)
    return value


def written(moment: datetime | None) -> datetime:
    """When a row was stored."""
    assert moment is not None  # noqa: S101  (set by the database)
    return moment
