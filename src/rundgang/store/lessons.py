"""Lessons that were looked at and left, each with what was known then."""

from datetime import datetime

from sqlmodel import col, select

from rundgang.core.model import Model
from rundgang.store.floor_tables import LessonLeft
from rundgang.store.rows import Rows


class LeftLesson(Model):
    """A lesson that somebody left, and between which figures it lay then.

    Attributes
    ----------
    lesson : str
        Its key.
    """

    lesson: str
    low: float
    high: float
    at: datetime
    reason: str
    author: str


class Lessons(Rows):
    """Which lessons were left."""

    def leave(self, line: str, left: LeftLesson) -> None:
        """Store that a lesson was left, in the open transaction."""
        self.session.add(LessonLeft(line=line, **left.model_dump()))
        self.session.flush()

    def left(self, line: str) -> dict[str, LeftLesson]:
        """The lessons of a line that were left, each as it was left last, by its key."""
        rows = self.session.exec(select(LessonLeft).where(LessonLeft.line == line).order_by(col(LessonLeft.id)))
        return {
            row.lesson: LeftLesson(
                lesson=row.lesson, low=row.low, high=row.high, at=row.at, reason=row.reason, author=row.author
            )
            for row in rows
        }
