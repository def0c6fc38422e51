"""Calendars: when lorries leave and stations are closed, version by version."""

from datetime import datetime

from sqlmodel import col, select

from rundgang.core.calendar import Calendar
from rundgang.core.errors import UnknownItemError
from rundgang.core.model import Model
from rundgang.store.rows import Rows, key, written
from rundgang.store.tables import CalendarVersion


class StoredCalendar(Model):
    """A version of the calendar; number 0 and no moment where nobody has entered one."""

    number: int
    created_at: datetime | None
    origin: str
    calendar: Calendar


class Calendars(Rows):
    """The versions there are; the newest counts."""

    def newest(self) -> StoredCalendar | None:
        """The newest version; None where nobody has entered one."""
        row = self.session.exec(select(CalendarVersion).order_by(col(CalendarVersion.id).desc()).limit(1)).first()
        return _as_calendar(row) if row else None

    def read(self, number: int) -> Calendar:
        """A version's calendar, or UnknownItemError."""
        return self.memory.recall(("calendar", number), lambda: self._read(number))

    def write(self, calendar: Calendar, origin: str) -> int:
        """Store the next version, in the open transaction; its number."""
        row = CalendarVersion(origin=origin, document=calendar.model_dump(mode="json"))
        self.session.add(row)
        self.session.flush()
        return key(row.id)

    def _read(self, number: int) -> Calendar:
        row = self.session.get(CalendarVersion, number)
        if row is None:
            raise UnknownItemError("version of the calendar", str(number))
        return _as_calendar(row).calendar


def _as_calendar(row: CalendarVersion) -> StoredCalendar:
    return StoredCalendar(
        number=key(row.id),
        created_at=written(row.created_at),
        origin=row.origin,
        calendar=Calendar.model_validate(row.document),
    )
