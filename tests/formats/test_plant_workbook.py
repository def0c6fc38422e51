"""A plant's library and calendar as a workbook: what is written is read; faults have sheet, row and column."""

import io
from datetime import UTC, date, datetime, time
from typing import Any

import pytest
from openpyxl import load_workbook

from rundgang.core.calendar import (
    Calendar,
    CancelledLorry,
    CrewShift,
    ExtraLorry,
    Holiday,
    Lorry,
    MovedLorry,
    StandingOrder,
    WeeklyClosing,
)
from rundgang.core.errors import MalformedError
from rundgang.core.library import library_of
from rundgang.core.orders import Window
from rundgang.demo.ostermere import ostermere
from rundgang.formats.library_files import write_workbook
from rundgang.formats.plant_workbook import read_plant_workbook, write_plant_workbook

LIBRARY = library_of(ostermere(date(2026, 3, 11)))
WINDOW = Window(starts_at=datetime(2026, 3, 10, 19, tzinfo=UTC), minutes=4_320)
CALENDAR = Calendar(
    lorries=(
        Lorry(id="harbour", name="Harbour lorry", leaves=time(3, 30), weekdays=(0, 2, 4), loading_min=20),
        Lorry(id="hill", name="Hill towns", leaves=time(5, 45), valid_until=date(2026, 12, 31)),
    ),
    moved=(MovedLorry(lorry="harbour", on=date(2026, 3, 11), leaves=datetime(2026, 3, 11, 4, 15)),),
    cancelled=(CancelledLorry(lorry="hill", on=date(2026, 3, 12)),),
    extra=(ExtraLorry(id="fair", name="To the fair", leaves=datetime(2026, 3, 14, 9)),),
    holidays=(Holiday(on=date(2026, 4, 6), name="Easter Monday"),),
    closings=(
        WeeklyClosing(
            id="wash", line="ring-line", station="oven", kind="cleaning", begins=time(15), minutes=90, reason="wash",
            weekdays=(6,),
        ),
    ),
    shifts=(CrewShift(id="early", crew="packers", begins=time(6), minutes=480, people=12),),
    standing=(StandingOrder(number="S1", lorry="hill", product="lantern-plain", packs=300, weekdays=(1, 3)),),
    days=4,
    rolls_at=time(14),
)  # fmt: skip


def changed(sheet: str, row: int, column: str, value: object) -> bytes:
    """The workbook with another cell."""
    book: Any = load_workbook(io.BytesIO(write_plant_workbook(LIBRARY, CALENDAR)))
    page = book[sheet]
    page.cell(row, [head.value for head in page[1]].index(column) + 1).value = value
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def test_what_is_written_is_read() -> None:
    found = read_plant_workbook(write_plant_workbook(LIBRARY, CALENDAR), WINDOW)
    assert found.calendar == CALENDAR
    assert library_of(found.scenario) == LIBRARY
    assert found.scenario.orders == ()


def test_a_workbook_of_a_library_alone_begins_without_lorries() -> None:
    assert read_plant_workbook(write_workbook(LIBRARY), WINDOW).calendar == Calendar()


@pytest.mark.parametrize(
    ("cell", "value"),
    [(("Lorries", 2, "leaves"), time(4)), (("Lorries", 2, "leaves"), "04:00"), (("Lorries", 2, "leaves"), "04:00:00")],
)
def test_a_time_is_read_as_a_spreadsheet_has_it(cell: tuple[str, int, str], value: object) -> None:
    calendar = read_plant_workbook(changed(*cell, value), WINDOW).calendar
    assert calendar is not None
    assert calendar.lorries[0].leaves == time(4)


@pytest.mark.parametrize(
    ("cell", "value", "said"),
    [
        (("Lorries", 2, "leaves"), "early", "Lorries, row 2, column leaves: "),
        (("Lorries", 3, "weekdays"), "Mon; Someday", "Lorries, row 3, column weekdays.1: "),
        (("Shifts", 2, "people"), 0, "Shifts, row 2, column people: is 0; allowed: at least 1"),
        (("Shifts", 2, "crew"), "bakers", "is of bakers; allowed: Packers"),
        (("Standing orders", 2, "lorry"), "moon", "is for moon, no lorry of the timetable; allowed: Harbour lorry"),
        (("Holidays", 2, "on"), "never", "Holidays, row 2, column on: "),
        (("Routes", 6, "dwell_min"), 0, "Routes, row 6, column dwell_min: "),
    ],
)
def test_a_fault_has_its_sheet_row_and_column(cell: tuple[str, int, str], value: object, said: str) -> None:
    with pytest.raises(MalformedError) as refused:
        read_plant_workbook(changed(*cell, value), WINDOW)
    assert any(said in fault for fault in refused.value.faults), refused.value.faults
