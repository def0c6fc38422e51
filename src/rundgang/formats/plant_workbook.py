"""A plant as a workbook: the sheets of its library, and those of its calendar, which may be left out.

Days of the week stand in one cell, "Mon; Tue; Fri"; times and dates as a spreadsheet has them, or in ISO 8601.
"""

from typing import Any

from pydantic import ValidationError

from rundgang.core.calendar import Calendar
from rundgang.core.errors import MalformedError
from rundgang.core.library import Library
from rundgang.core.orders import Window
from rundgang.core.whole_plant import WholePlant, begun_with
from rundgang.formats.documents import faults_of
from rundgang.formats.library_files import SHEETS, Row, Sheets, library_of, placed, read_sheets, rows_of, write_sheets

CALENDAR_SHEETS = {
    "Lorries": "lorries",
    "Moved lorries": "moved",
    "Cancelled lorries": "cancelled",
    "Extra lorries": "extra",
    "Holidays": "holidays",
    "Closings": "closings",
    "Shifts": "shifts",
    "Standing orders": "standing",
}
"""Each sheet, and the part of the calendar that stands on it."""

AHEAD = "Ahead"
"""The sheet with the days that are planned, and when the window goes on by itself."""

DAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")


def write_plant_workbook(library: Library, calendar: Calendar) -> bytes:
    """A plant's library and calendar as a workbook, readable by `read_plant_workbook`."""
    data = calendar.model_dump(mode="json")
    sheets: Sheets = dict(rows_of(library))
    for sheet, part in CALENDAR_SHEETS.items():
        sheets[sheet] = [_written(row) for row in data[part]]
    sheets[AHEAD] = [{name: data[name] for name in ("days", "rolls_at") if data[name] is not None}]
    return write_sheets(sheets)


def _written(row: Row) -> Row:
    known = {name: value for name, value in row.items() if value is not None}
    if "weekdays" in known:
        known["weekdays"] = "; ".join(DAYS[day] for day in known["weekdays"])
    return known


def read_plant_workbook(data: bytes, window: Window) -> WholePlant:
    """A plant from a workbook, which begins with a window.

    Raises
    ------
    NotAWorkbookError
        It cannot be opened, or is too large when unpacked.
    MalformedError
        Naming every fault by its sheet, row and column.
    """
    found = read_sheets(data, (*SHEETS, *CALENDAR_SHEETS, AHEAD))
    begun = begun_with(library_of(found), window)
    known: dict[str, Any] = {
        part: [_read(row) for row in found.get(sheet, [])] for sheet, part in CALENDAR_SHEETS.items()
    }
    known |= dict(next(iter(found.get(AHEAD, [])), {}))
    try:
        calendar = Calendar.model_validate(known)
    except ValidationError as error:
        faults = tuple(placed(known, fault) for fault in faults_of(error))
        raise MalformedError("The plant's calendar", faults) from None
    try:
        return WholePlant(scenario=begun.scenario, calendar=calendar)
    except ValidationError as error:
        raise MalformedError("The plant's calendar", faults_of(error)) from None


def _read(row: Row) -> Row:
    if "weekdays" in row:
        row["weekdays"] = [_day(part.strip()) for part in str(row["weekdays"]).split(";") if part.strip()]
    return row


def _day(name: str) -> int | str:
    """A day of the week by its number, 0 is Monday; what is none stays, for the fault to name."""
    short = name[:3].title()
    return DAYS.index(short) if short in DAYS else name
