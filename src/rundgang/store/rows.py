"""What reading and writing rows have in common: keys, moments, and the window that is being planned."""

from datetime import datetime

from sqlalchemy import text
from sqlmodel import Session, col, select

from rundgang.core.errors import RundgangError
from rundgang.store.memory import Memory, memory_of
from rundgang.store.tables import PlanningWindow


class NoWindowError(RundgangError):
    """The database holds no window to plan."""

    def __init__(self) -> None:
        super().__init__("There is nothing to plan yet. Start with script/demo, which brings a plant and its orders.")


class Rows:
    """Rows of one noun, through one database session."""

    def __init__(self, session: Session) -> None:
        self.session = session

    @property
    def memory(self) -> Memory:
        """What was read from rows that never change."""
        return memory_of(self.session.get_bind())

    def window(self) -> PlanningWindow:
        """The window that is being planned: the newest."""
        newest = select(PlanningWindow).order_by(col(PlanningWindow.id).desc()).limit(1)
        found = self.session.exec(newest).first()
        if found is None:
            raise NoWindowError
        return found

    def locked_window(self) -> PlanningWindow:
        """The window, with numbering to itself until the transaction ends."""
        found = self.window()
        self.session.execute(text("SELECT pg_advisory_xact_lock(:window)"), {"window": found.id})
        return found


def key(value: int | None) -> int:
    """A row's key, once it is stored."""
    assert value is not None  # noqa: S101  (set by the flush)
    return value


def written(moment: datetime | None) -> datetime:
    """When a row was stored."""
    assert moment is not None  # noqa: S101  (set by the database)
    return moment
