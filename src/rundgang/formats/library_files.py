"""The library as files: one JSON document, or a workbook with a sheet for each kind of thing.

In the workbook every row is one thing, and a column `a.b` is the field b of the part a. Short lists stand
in one cell, parted by semicolons: "gluten; milk", and with figures "slow 4; fast 6".
"""

import io
import json
from collections.abc import Iterable, Iterator, Sequence
from typing import Any

from openpyxl import Workbook
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter
from pydantic import ValidationError

from rundgang.core.errors import MalformedError
from rundgang.core.library import Library
from rundgang.formats import workbooks
from rundgang.formats.documents import faults_of

MOST_ROWS = 20_000
WIDEST_COLUMN = 42

Row = dict[str, Any]

FIGURES = {"folds", "zone_c", "passes_mm"}
"""Fields that are lists of figures."""

WORDS = {"mixers", "allergens", "hazards", "traits", *FIGURES}
"""Fields that are lists of words or figures."""

PAIRS = {
    "phases": ("speed", "minutes"),
    "adds": ("item", "grams"),
    "zones": ("name", "length_m"),
    "tasks": ("what", "at_min"),
}
"""Fields that are lists of a word and a figure."""

SAYINGS = {"set_up": ("what", "wanted")}
"""Fields that are lists of two words, "gap of the rollers: 4 mm"."""

SHEETS = (
    "Plant",
    "Ingredients",
    "Lines",
    "Stations",
    "Tools",
    "Carriers",
    "Preparations",
    "Products",
    "Formulas",
    "Routes",
    "Packing",
    "Rides",
    "Crews",
    "Shared",
)

NEED_NOT_BE = {"Tools", "Crews", "Shared"}
"""Sheets that a workbook may leave out: a plant need not have any."""


KINDS = {"batch", "held", "rate", "conveyor", "chamber", "load", "bench"}
"""Kinds stand in the path of a fault, but in no column."""


class _SheetRow(dict[str, Any]):
    """What a row of a sheet says, and where it stands."""

    def __init__(self, row: Row, place: str) -> None:
        super().__init__(row)
        self.place = place


PLANT_SHEETS = {"ingredients", "lines", "crews", "shared"}
"""Parts of the plant that have sheets of their own."""


def read_library(text: str | bytes) -> Library:
    """A library from JSON, or MalformedError naming every fault."""
    try:
        data = json.loads(text)
    except (json.JSONDecodeError, UnicodeDecodeError, RecursionError) as error:
        raise MalformedError("The library", (f"document: {error}",)) from None
    return as_library(data)


def as_library(data: Any) -> Library:
    """A library from plain data, or MalformedError naming every fault with the id of the thing it is in."""
    try:
        return Library.model_validate(data)
    except ValidationError as error:
        raise MalformedError("The library", tuple(placed(data, fault) for fault in faults_of(error))) from None


def placed(data: Any, fault: str) -> str:
    """A fault's place: its sheet, row and column, or else its path with ids beside the numbers.

    products.3 (tarn-white).route.2 (moulder).strokes_per_min, or Routes, row 24, column strokes_per_min.
    """
    where, colon, rest = fault.partition(": ")
    here, parts = data, []
    cell, column = None, list[str]()
    for part in where.split("."):
        above, here = here, _inside(here, part)
        name = here.get("id") or here.get("station") or here.get("ingredient") if isinstance(here, dict) else None
        parts.append(f"{part} ({name})" if part.isdigit() and isinstance(name, str) else part)
        column.append(part)
        if isinstance(here, _SheetRow) and here is not above:
            cell, column = here.place, []
    if cell is None:
        return ".".join(parts) + colon + rest
    named = ".".join(part for part in column if part not in KINDS)
    return f"{cell}, column {named}{colon}{rest}" if named else cell + colon + rest


def _inside(data: Any, part: str) -> Any:
    if isinstance(data, list) and part.isdigit() and int(part) < len(data):
        return data[int(part)]
    if isinstance(data, dict):
        return data.get(part, data)
    return None


Sheets = dict[str, list[Row]]
"""The rows of each sheet."""


def write_workbook(library: Library) -> bytes:
    """The library as a workbook."""
    return write_sheets(rows_of(library))


def rows_of(library: Library) -> Sheets:
    """The rows of every sheet of a library."""
    found = _rows_of(library.model_dump(mode="json"))
    return {sheet: found.get(sheet, []) for sheet in SHEETS}


def write_sheets(sheets: Sheets) -> bytes:
    """A workbook of these sheets; nothing in it is taken for a formula."""
    book = Workbook()
    book.remove(book.active)
    for sheet, rows in sheets.items():
        page = book.create_sheet(sheet)
        columns = list(dict.fromkeys(name for row in rows for name in row))
        for place, name in enumerate(columns, start=1):
            page.cell(1, place, name).font = Font(bold=True)
            widest = max([len(name), *(len(str(row.get(name, ""))) for row in rows)])
            page.column_dimensions[get_column_letter(place)].width = min(widest + 2, WIDEST_COLUMN)
        for number, row in enumerate(rows, start=2):
            for place, name in enumerate(columns, start=1):
                cell = page.cell(number, place, row.get(name))
                if isinstance(cell.value, str):
                    cell.data_type = "s"
        page.freeze_panes = "B2"
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _rows_of(data: Row) -> dict[str, list[Row]]:
    plant = data["plant"]
    makers = [("preparation", made) for made in data["preparations"]] + [("product", p) for p in data["products"]]
    return {
        "Plant": [_flat({name: value for name, value in plant.items() if name not in PLANT_SHEETS})],
        "Ingredients": [_flat(item) for item in plant["ingredients"]],
        "Lines": [{"id": line["id"], "name": line["name"]} for line in plant["lines"]],
        "Stations": [
            {"line": line["id"]} | _flat({name: value for name, value in s.items() if name != "tools"})
            for line in plant["lines"]
            for s in line["stations"]
        ],
        "Tools": [
            {"line": line["id"], "station": s["id"]} | _flat(tool)
            for line in plant["lines"]
            for s in line["stations"]
            for tool in s["tools"]
        ],
        "Carriers": [{"line": line["id"]} | _flat(c) for line in plant["lines"] for c in line["carriers"]],
        "Preparations": [_flat({k: v for k, v in made.items() if k != "formula"}) for made in data["preparations"]],
        "Products": [
            _flat({k: v for k, v in p.items() if k not in {"formula", "route", "packing", "carriers"}})
            for p in data["products"]
        ],
        "Formulas": [{kind: made["id"]} | _flat(part) for kind, made in makers for part in made["formula"]],
        "Routes": [{"product": p["id"]} | _flat(step) for p in data["products"] for step in p["route"]],
        "Packing": [{"product": p["id"]} | _flat(use) for p in data["products"] for use in p["packing"]],
        "Crews": [_flat(crew) for crew in plant["crews"]],
        "Shared": [
            {"id": shared["id"], "name": shared["name"]} | _flat(ref)
            for shared in plant["shared"]
            for ref in shared["stations"]
        ],
        "Rides": [{"product": p["id"]} | _flat(use) for p in data["products"] for use in p["carriers"]],
    }


def _flat(value: Row, above: str = "") -> Row:
    """Nested fields as dotted columns; what is not set is left out."""
    row: Row = {}
    for name, inner in value.items():
        column = f"{above}{name}"
        if isinstance(inner, dict):
            row |= _flat(inner, f"{column}.")
        elif isinstance(inner, list):
            row[column] = "; ".join(_in_a_cell(name, member) for member in inner) or None
        else:
            row[column] = inner
    return {name: inner for name, inner in row.items() if inner is not None}


def _in_a_cell(name: str, member: Any) -> str:
    if name in SAYINGS:
        return ": ".join(member[word] for word in SAYINGS[name])
    if name not in PAIRS:
        return str(member)
    word, figure = PAIRS[name]
    return f"{member[word]} {member[figure]:g}"


def read_workbook(data: bytes) -> Library:
    """A library from a workbook.

    Raises
    ------
    NotAWorkbookError
        It cannot be opened, or is too large when unpacked.
    MalformedError
        Naming every fault.
    """
    return library_of(read_sheets(data, SHEETS))


def library_of(sheets: Sheets) -> Library:
    """A library from its sheets, or MalformedError."""
    missing = [sheet for sheet in SHEETS if sheet not in sheets and sheet not in NEED_NOT_BE]
    if missing:
        raise MalformedError("The workbook", tuple(f"sheet {sheet} is missing" for sheet in missing))
    return as_library(_data_of(sheets))


def read_sheets(data: bytes, names: Sequence[str]) -> Sheets:
    """The rows of those of the sheets that a workbook has; each knows where it stands."""
    found = workbooks.read_sheets(data, MOST_ROWS + 1, names)
    return {sheet: list(_rows_in(sheet, found[sheet])) for sheet in names if sheet in found}


def _rows_in(sheet: str, rows: Iterable[tuple[int, Sequence[workbooks.Cell]]]) -> Iterator[Row]:
    head: tuple[str, ...] | None = None
    for number, row in rows:
        if head is None:
            head = tuple("" if cell is None else str(cell).strip() for cell in row)
            continue
        filled = {name: cell for name, cell in zip(head, row, strict=False) if name and cell is not None}
        if filled:
            yield _SheetRow(filled, f"{sheet}, row {number}")


def _data_of(sheets: dict[str, list[Row]]) -> Row:
    """Plain data of a library from the rows of its sheets."""

    def of(sheet: str, kind: str, name: object) -> list[Row]:
        return [_nested(row, kind) for row in sheets[sheet] if row.get(kind) == name]

    plant = _nested(sheets["Plant"][0]) if sheets["Plant"] else {}
    lines = [
        _with(
            _nested(line),
            stations=[
                _with(station, tools=_tools(sheets.get("Tools", []), line.get("id"), station.get("id")))
                for station in of("Stations", "line", line.get("id"))
            ],
            carriers=of("Carriers", "line", line.get("id")),
        )
        for line in sheets["Lines"]
    ]
    return {
        "plant": _with(
            plant,
            ingredients=[_nested(row) for row in sheets["Ingredients"]],
            lines=lines,
            crews=[_nested(row) for row in sheets.get("Crews", [])],
            shared=_shared(sheets.get("Shared", [])),
        ),
        "preparations": [
            _with(_nested(made), formula=_without(of("Formulas", "preparation", made.get("id")), "product"))
            for made in sheets["Preparations"]
        ],
        "products": [
            _with(
                _nested(product),
                formula=_without(of("Formulas", "product", product.get("id")), "preparation"),
                route=of("Routes", "product", product.get("id")),
                packing=of("Packing", "product", product.get("id")),
                carriers=of("Rides", "product", product.get("id")),
            )
            for product in sheets["Products"]
        ],
    }


def _with(row: Row, **more: Any) -> Row:
    """A row with what stands on other sheets."""
    return _like(row, {**row, **more})


def _tools(rows: list[Row], line: object, station: object) -> list[Row]:
    """The tools of a station of a line."""
    own = [row for row in rows if (row.get("line"), row.get("station")) == (line, station)]
    return _without([_nested(row, "line") for row in own], "station")


def _shared(rows: list[Row]) -> list[Row]:
    """Shared stations, each from its rows, one for every line."""
    found: dict[Any, Row] = {}
    for row in rows:
        entry = found.setdefault(row.get("id"), {"id": row.get("id"), "name": row.get("name"), "stations": []})
        entry["stations"].append({name: row.get(name) for name in ("line", "station")})
    return list(found.values())


def _without(rows: list[Row], name: str) -> list[Row]:
    return [_like(row, {key: value for key, value in row.items() if key != name}) for row in rows]


def _like(row: Row, changed: Row) -> Row:
    """A row with other contents, where the first stands."""
    return _SheetRow(changed, row.place) if isinstance(row, _SheetRow) else changed


def _nested(row: Row, leave_out: str = "") -> Row:
    """A row's dotted columns as nested fields."""
    found: Row = {}
    for column, cell in row.items():
        if column == leave_out:
            continue
        *above, name = column.split(".")
        inside = found
        for part in above:
            inside = inside.setdefault(part, {})
        inside[name] = _from_a_cell(name, cell)
    return _like(row, found)


def _from_a_cell(name: str, cell: Any) -> Any:
    if name not in WORDS and name not in PAIRS and name not in SAYINGS:
        return cell
    parts = [part.strip() for part in str(cell).split(";") if part.strip()]
    if name in SAYINGS:
        said = [part.partition(":") for part in parts]
        return [dict(zip(SAYINGS[name], (what.strip(), wanted.strip()), strict=True)) for what, _, wanted in said]
    if name not in PAIRS:
        return [_figure(part) for part in parts] if name in FIGURES else parts
    word, figure = PAIRS[name]
    split = [part.rpartition(" ") for part in parts]
    return [{word: before.strip(), figure: _figure(after)} for before, _, after in split]


def _figure(written: str) -> float | str:
    """A figure; what is none stays, for the fault to name."""
    try:
        value = float(written)
    except ValueError:
        return written
    return int(value) if value.is_integer() else value
