"""The library as JSON and as a workbook: what is written is read, and every fault is named with its place."""

import io
import zipfile
from datetime import date
from typing import Any

import pytest
from openpyxl import Workbook, load_workbook

from rundgang.core.errors import MalformedError
from rundgang.core.library import Library, library_of
from rundgang.demo.ostermere import ostermere
from rundgang.formats.library_files import (
    SHEETS,
    as_library,
    read_library,
    read_workbook,
    write_workbook,
)
from rundgang.formats.library_words import changes_in_words
from rundgang.formats.workbooks import NotAWorkbookError

LIBRARY = library_of(ostermere(date(2026, 3, 11)))


def book() -> Any:
    return load_workbook(io.BytesIO(write_workbook(LIBRARY)))


def saved(workbook: Any) -> bytes:
    out = io.BytesIO()
    workbook.save(out)
    return out.getvalue()


def cell(workbook: Any, sheet: str, row: int, column: str) -> Any:
    page = workbook[sheet]
    names = [head.value for head in page[1]]
    return page.cell(row, names.index(column) + 1)


def test_a_library_goes_round_in_both_formats() -> None:
    assert read_library(LIBRARY.model_dump_json()) == LIBRARY
    assert read_workbook(write_workbook(LIBRARY)) == LIBRARY


def test_the_workbook_reads_as_people_write() -> None:
    """A sheet for each kind of thing, short lists in one cell."""
    written = book()
    assert tuple(written.sheetnames) == SHEETS
    assert cell(written, "Routes", 2, "phases").value == "slow 4; fast 6"
    assert cell(written, "Stations", 2, "mixers").value == "Mixer Alder; Mixer Birch"
    oven = cell(written, "Routes", 6, "temperature_c")
    assert oven.value == 236
    oven.value = 240
    changed = read_workbook(saved(written))
    assert changes_in_words(LIBRARY, changed) == ("Lantern Plain, Steam oven, Temperature: 236 °C → 240 °C",)


def test_a_name_is_never_a_formula() -> None:
    data = LIBRARY.model_dump(mode="json")
    data["products"][0]["name"] = '=HYPERLINK("x")'
    written = load_workbook(io.BytesIO(write_workbook(as_library(data))))
    assert cell(written, "Products", 2, "name").data_type == "s"
    assert read_workbook(write_workbook(as_library(data))).products[0].name == '=HYPERLINK("x")'


@pytest.mark.parametrize(
    ("sheet", "row", "column", "value", "words"),
    [
        ("Routes", 6, "dwell_min", 0, "Routes, row 6, column dwell_min: is 0; allowed: at least 0.01"),
        ("Routes", 3, "yield", -0.5, "Routes, row 3, column yield: is -0.5; allowed: at least 0.01"),
        ("Stations", 2, "mixers", None, "Stations, row 2, column mixers: is missing"),
        ("Ingredients", 2, "role", "dust", "Ingredients, row 2, column role"),
        ("Formulas", 2, "percent", "lots", "Formulas, row 2, column percent: is lots; allowed: a number"),
    ],
)
def test_a_wrong_cell_is_named(sheet: str, row: int, column: str, value: object, words: str) -> None:
    written = book()
    cell(written, sheet, row, column).value = value
    with pytest.raises(MalformedError) as refused:
        read_workbook(saved(written))
    assert any(words in fault for fault in refused.value.faults), refused.value.faults


def test_what_is_no_workbook_is_refused() -> None:
    with pytest.raises(NotAWorkbookError, match="cannot be opened"):
        read_workbook(b"order,dispatch\n")
    with pytest.raises(MalformedError, match="sheet Plant is missing"):
        read_workbook(saved(Workbook()))


def test_a_workbook_that_unpacks_to_too_much_is_not_read() -> None:
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("xl/workbook.xml", b"0" * 60_000_000)
    assert len(packed.getvalue()) < 100_000
    with pytest.raises(NotAWorkbookError, match="unpacks to 57 MB; allowed: at most 40 MB"):
        read_workbook(packed.getvalue())


@pytest.mark.parametrize("text", ["", "[", "[]", '{"plant": 1}', "[" * 100_000, b"\xff\xfe"])
def test_what_is_no_library_is_refused(text: str | bytes) -> None:
    with pytest.raises(MalformedError, match="The library cannot be read"):
        read_library(text)


def test_the_same_names_in_another_order_are_no_change() -> None:
    data = LIBRARY.model_dump(mode="json")
    traits = ["zest", "anise", "maple", "nutmeg", "curry", "basil", "thyme", "sumac"]
    data["products"][0]["traits"] = traits
    one, other = (
        Library.model_validate(data),
        Library.model_validate(
            data | {"products": [data["products"][0] | {"traits": traits[::-1]}, *data["products"][1:]]}
        ),
    )
    assert one.model_dump(mode="json")["products"][0]["traits"] == sorted(traits)
    assert changes_in_words(one, other) == ()


def test_changes_are_said_in_words() -> None:
    data = LIBRARY.model_dump(mode="json")
    data["products"][0]["formula"] = data["products"][0]["formula"][::-1]
    data["products"][1]["traits"] = []
    data["plant"]["ingredients"].pop()
    del data["products"][2]["packing"]
    found = changes_in_words(LIBRARY, Library.model_validate(data))
    assert "Lantern Plain, Formula stand in another order" in found
    assert "Harvest Sesame, Leaves behind: seeds → none" in found
    assert "Label is gone" in found
    assert len(found) == 3, "packing was empty before"
