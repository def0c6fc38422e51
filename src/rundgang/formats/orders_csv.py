"""Orders read from CSV or a workbook.

Leniently, as spreadsheets and order systems write: comma, semicolon or tab; UTF-8, UTF-16 or
Windows-1252; German or English figures. Where a figure could mean two things it is refused, not
guessed. Every wrong row is named with its line, its column, what was found and what is allowed.
"""

import csv
import io
import re
from collections.abc import Iterator
from datetime import datetime
from difflib import get_close_matches
from math import nan

from rundgang.core.errors import RundgangError
from rundgang.core.model import FORMULA_SIGNS, LEAST_FRESH_H, MOST_FRESH_H
from rundgang.core.orders import MAX_PACKS, Order, OrderLine
from rundgang.core.scenario import Scenario
from rundgang.formats.clock import local_time, minute_of
from rundgang.formats.moments import DateOrder, moments, order_of
from rundgang.formats.order_columns import FRESH, NEEDED, OPTIONAL, PRIORITY, OrderColumns
from rundgang.formats.orders_written import written_departure
from rundgang.formats.row_faults import ReadRows, RowFaults
from rundgang.formats.workbooks import Cell, NotAWorkbookError, read_sheets

WORKBOOK = b"PK\x03\x04"
"""A workbook begins so: it is an archive."""

LEAST_PRIORITY, MOST_PRIORITY = 0.1, 10.0
MAX_BYTES = 2 * 1024 * 1024
MAX_ROWS = 50_000
LONGEST_ID, LONGEST_NAME = 40, 80
MOST_NAMED = 16
"""So many lorries or products a message names."""


class OrderFile(ReadRows):
    """What a file of orders says: the good rows, and what is wrong in the others.

    Attributes
    ----------
    encoding, delimiter : str
        How the file was read; a workbook has no delimiter.
    headings : tuple of str
        The headings that the file has.
    first_row : tuple of str
        What stands in its first row, column by column.
    ignored_columns : tuple of str
        Columns that Rundgang does not need.
    """

    encoding: str
    delimiter: str
    headings: tuple[str, ...]
    first_row: tuple[str, ...]
    ignored_columns: tuple[str, ...]
    orders: tuple[Order, ...]


class TooLargeError(RundgangError):
    """A file larger than is read."""

    def __init__(self, size: int) -> None:
        super().__init__(
            f"The file has {size / 1048576:.1f} MB; allowed: at most {MAX_BYTES // 1048576} MB "
            f"or {MAX_ROWS:,} rows of orders."
        )


def read_orders(
    data: bytes,
    scenario: Scenario,
    taken: frozenset[OrderLine] = frozenset(),
    columns: OrderColumns | None = None,
) -> OrderFile:
    """Read a file of orders against a scenario.

    Parameters
    ----------
    data : bytes
        The file, CSV or a workbook, of which the first sheet is read.
    scenario : Scenario
        Whose products and waves the orders are for.
    taken : frozenset of tuple
        Lines of orders that are in the day already.
    columns : OrderColumns, optional
        Under which headings the file has our columns; by default their own names.

    Raises
    ------
    TooLargeError
        More than `MAX_BYTES`.
    """
    if len(data) > MAX_BYTES:
        raise TooLargeError(len(data))
    if data.startswith(WORKBOOK):
        reader = _Reader(scenario, taken, "", columns)
        reader.read(_sheet(data))
        return reader.found("workbook")
    text, encoding = _decoded(data)
    reader = _Reader(scenario, taken, _delimiter(text), columns)
    reader.read(_lines(text, reader.delimiter))
    return reader.found(encoding)


class _BrokenRowError(Exception):
    """A row that is no row of a CSV file; and its line."""

    def __init__(self, line: int, why: str) -> None:
        super().__init__(why)
        self.line = line


def _lines(text: str, delimiter: str) -> Iterator[tuple[int, list[str]]]:
    """The rows of a CSV file with their lines."""
    rows = csv.reader(io.StringIO(text), delimiter=delimiter)
    while True:
        try:
            row = next(rows)
        except StopIteration:
            return
        except csv.Error as error:
            raise _BrokenRowError(rows.line_num, str(error)) from None
        yield rows.line_num, row


def _sheet(data: bytes) -> Iterator[tuple[int, list[str]]]:
    """The rows of a workbook's first sheet with their lines."""
    try:
        rows = next(iter(read_sheets(data, MAX_ROWS + 2).values()), [])
    except NotAWorkbookError as error:
        raise _BrokenRowError(1, str(error)) from None
    for line, cells in rows:
        yield line, [_written_cell(cell) for cell in cells]


def _written_cell(cell: Cell) -> str:
    """A cell as it would stand in a CSV file."""
    if cell is None:
        return ""
    if isinstance(cell, datetime):
        return cell.isoformat(sep=" ", timespec="minutes")
    return str(cell)


def _decoded(data: bytes) -> tuple[str, str]:
    if data.startswith((b"\xff\xfe", b"\xfe\xff")):
        return data.decode("utf-16", errors="replace"), "UTF-16"
    try:
        return data.decode("utf-8-sig"), "UTF-8"
    except UnicodeDecodeError:
        return data.decode("cp1252", errors="replace"), "Windows-1252"


def _delimiter(text: str) -> str:
    """The delimiter that the header line holds most of; a comma where it holds none."""
    header = next((line for line in text.splitlines() if line.strip()), "")
    return max(",;\t", key=lambda mark: (header.count(mark), mark == ","))


class _Reader:
    """One pass over a file, collecting good rows and faults."""

    def __init__(
        self, scenario: Scenario, taken: frozenset[OrderLine], delimiter: str, columns: OrderColumns | None
    ) -> None:
        self.scenario = scenario
        self.taken = taken
        self.delimiter = delimiter
        named = columns.headings if columns else {}
        self.wanted = {
            ours: (named.get(ours) or ours).casefold() for ours in (*NEEDED, *OPTIONAL) if not columns or ours in named
        }
        self.products = {name.casefold(): p.id for p in scenario.products for name in (p.id, p.name)}
        self.departures = self._departures()
        self.waves = {name.casefold(): w for w in reversed(scenario.waves) for name in (w.id, w.name)}
        self.known_waves = dict[str, tuple[str | None, str]]()
        self.date_order: DateOrder | None = None
        self.first_line: dict[OrderLine, int] = {}
        self.has_header = columns is None or columns.has_header
        self.headings: tuple[str, ...] = ()
        self.first_row: tuple[str, ...] = ()
        self.ignored: tuple[str, ...] = ()
        self.orders: list[Order] = []
        self.faults = RowFaults()

    def found(self, encoding: str) -> OrderFile:
        """What was read."""
        return OrderFile(
            encoding=encoding,
            delimiter=self.delimiter,
            headings=self.headings,
            first_row=self.first_row,
            ignored_columns=self.ignored,
            orders=tuple(self.orders),
            faults=tuple(self.faults.first),
            fault_count=self.faults.count,
            wrong_rows=self.faults.rows,
        )

    def read(self, rows: Iterator[tuple[int, list[str]]]) -> None:
        """Read all rows; the dates of all together tell whether day or month stands first."""
        found, broken = _filled(rows)
        header: dict[str, int] | None = None
        if found:
            self.first_row = tuple(cell.strip() for cell in found[0][1])
            header = self._columns(*found[0])
        if header is not None:
            listed = found[int(self.has_header) :][:MAX_ROWS]
            self.date_order = order_of({_cell(row, header["dispatch"]) for _, row in listed})
            for line, row in listed:
                self._row(line, {name: _cell(row, at) for name, at in header.items()})
            if len(found) - self.has_header > MAX_ROWS:
                self.faults.add(found[-1][0], "row", "one row more", f"at most {MAX_ROWS:,} rows")
        if broken:
            self.faults.add(broken.line, "row", str(broken), "rows of a CSV file, or a workbook")
        if not found and not broken:
            self.faults.add(1, "header", "an empty file", ", ".join(NEEDED))

    def _columns(self, line: int, row: list[str]) -> dict[str, int] | None:
        """At which place each of our columns stands; None where one that is needed does not."""
        if self.has_header:
            return self._header(line, row)
        missing = [(ours, place) for ours, place in self.wanted.items() if int(place) > len(row)]
        for ours, place in missing:
            self.faults.add(line, ours, f"{len(row)} columns", f"at least {place}")
        return None if missing else {ours: int(place) - 1 for ours, place in self.wanted.items()}

    def _header(self, line: int, row: list[str]) -> dict[str, int] | None:
        self.headings = tuple(cell.strip() for cell in row if cell.strip())
        names = [cell.strip().casefold() for cell in row]
        missing = [ours for ours in NEEDED if self.wanted[ours] not in names]
        for ours in missing:
            self.faults.add(line, ours, ", ".join(cell.strip() for cell in row), f"a column named {self.wanted[ours]}")
        known = {heading: ours for ours, heading in self.wanted.items()}
        self.ignored = tuple(name for name in names if name and name not in known)
        return None if missing else {known[name]: at for at, name in enumerate(names) if name in known}

    def _row(self, line: int, cells: dict[str, str]) -> None:
        before = self.faults.count
        number = self._number(line, cells["order"])
        wave = self._wave(line, cells["dispatch"])
        product = self.products.get(cells["product"].casefold())
        if product is None:
            self.faults.add(line, "product", cells["product"], self._product_allowed(cells["product"].casefold()))
        packs = self._packs(line, cells["packs"])
        priority = self._figure(
            line, PRIORITY, cells.get(PRIORITY, ""), LEAST_PRIORITY, MOST_PRIORITY, "; 2 counts double"
        )
        fresh = self._figure(line, FRESH, cells.get(FRESH, ""), LEAST_FRESH_H, MOST_FRESH_H, " hours")
        words = {name: self._words(line, name, cells.get(name, "")) for name in ("customer", "reference")}
        if self.faults.count > before or product is None or wave is None:
            return
        weight = 1.0 if priority is None else priority
        order = Order(id=number, wave=wave, product=product, packs=packs, priority=weight, fresh_for_h=fresh, **words)
        if order.line in self.taken:
            self.faults.add(line, "order", number, "a line that is not in the day yet; or replace the day's orders")
        elif order.line in self.first_line:
            first = self.first_line[order.line]
            self.faults.add(
                line, "order", number, f"each number once for a product and a lorry; it stands in line {first}"
            )
        else:
            self.first_line[order.line] = line
            self.orders.append(order)

    def _words(self, line: int, column: str, found: str) -> str | None:
        if not found or (len(found) <= LONGEST_NAME and found.isprintable() and found[0] not in FORMULA_SIGNS):
            return found or None
        self.faults.add(
            line, column, found, f"empty, or at most {LONGEST_NAME} letters or signs, the first not = + - @"
        )
        return None

    def _number(self, line: int, found: str) -> str:
        if not 1 <= len(found) <= LONGEST_ID or not found.isprintable() or found[0] in FORMULA_SIGNS:
            self.faults.add(line, "order", found, f"1 to {LONGEST_ID} letters, digits or signs, the first not = + - @")
        return found

    def _product_allowed(self, found: str) -> str:
        """The products whose names are nearest to one that there is not, or the first of all."""
        if self.faults.are_counted_only:
            return ""
        named = {product.id: product.name for product in self.scenario.products}
        nearest = dict.fromkeys(named[self.products[name]] for name in get_close_matches(found, self.products, 6, 0.6))
        if nearest:
            return f"a product; the nearest {'is' if len(nearest) == 1 else 'are'} {', '.join(nearest)}"
        more = len(named) - MOST_NAMED
        first = ", ".join(tuple(named.values())[:MOST_NAMED])
        return f"a product: {first}{f' and {more} more' if more > 0 else ''}"

    def _wave(self, line: int, found: str) -> str | None:
        if found not in self.known_waves:
            self.known_waves[found] = self._wave_or_allowed(found)
        wave, allowed = self.known_waves[found]
        if wave is None:
            self.faults.add(line, "dispatch", found, allowed)
        return wave

    def _wave_or_allowed(self, found: str) -> tuple[str | None, str]:
        """The lorry that is meant; or what is allowed instead."""
        named = self.waves.get(found.casefold())
        if named:
            return named.id, ""
        read = moments(found)
        if isinstance(read, dict):
            return self._wave_of_two(read)
        if read is None:
            return None, f"a date and time such as {self.departures}"
        return self._wave_at(read)

    def _wave_of_two(self, read: dict[DateOrder, datetime]) -> tuple[str | None, str]:
        """The lorry of a date whose day and month the file tells apart; else the only one that leaves on either."""
        if self.date_order in read:
            return self._wave_at(read[self.date_order])
        found = [self._wave_at(moment) for moment in read.values()]
        leave = [(wave, "") for wave, _ in found if wave]
        if len(set(leave)) > 1:
            said = " or ".join(f"{moment:%Y-%m-%d %H:%M}" for moment in read.values())
            return None, f"a date that cannot be read in two ways: write {said}"
        return (leave or found)[0]

    def _wave_at(self, moment: datetime) -> tuple[str | None, str]:
        """The lorry that leaves at a moment; or what is allowed instead."""
        try:
            minute = minute_of(self.scenario, moment)
        except (RundgangError, OverflowError) as error:
            return None, str(error) or "a date within the planned day"
        window = self.scenario.window.minutes
        if not 0 <= minute <= window:
            start, end = (local_time(self.scenario, m).strftime("%Y-%m-%d %H:%M") for m in (0, window))
            return None, f"within the planned day, {start} to {end}"
        for wave in self.scenario.waves:
            if abs(wave.departs_min - minute) < 0.5:
                return wave.id, ""
        return None, f"a time a lorry leaves: {self.departures}"

    def _departures(self) -> str:
        named = [f"{written_departure(self.scenario, wave)} ({wave.name})" for wave in self.scenario.waves[:MOST_NAMED]]
        return ", ".join((*named, *(("or a later one",) if len(self.scenario.waves) > MOST_NAMED else ())))

    def _packs(self, line: int, found: str) -> int:
        allowed = f"a whole number from 1 to {MAX_PACKS:,}"
        try:
            packs = whole_number(found, decimal="," if self.delimiter == ";" else ".")
        except ValueError as error:
            self.faults.add(line, "packs", found, str(error) or allowed)
            return 0
        if not 1 <= packs <= MAX_PACKS:
            self.faults.add(line, "packs", found, allowed)
        return packs

    def _figure(self, line: int, column: str, found: str, least: float, most: float, said: str) -> float | None:
        """A figure that need not be there."""
        if not found:
            return None
        try:
            figure = float(found.replace(",", "."))
        except ValueError:
            figure = nan
        if not least <= figure <= most:
            self.faults.add(line, column, found, f"empty, or {least:g} to {most:g}{said}")
        return figure


def _filled(rows: Iterator[tuple[int, list[str]]]) -> tuple[list[tuple[int, list[str]]], _BrokenRowError | None]:
    """The rows in which something stands, as many as are read and one more; and what ended them, if anything did."""
    found = list[tuple[int, list[str]]]()
    try:
        for line, row in rows:
            if any(cell.strip() for cell in row):
                found.append((line, row))
            if len(found) > MAX_ROWS + 1:
                break
    except _BrokenRowError as error:
        return found, error
    return found, None


def _cell(row: list[str], at: int) -> str:
    return row[at].strip() if at < len(row) else ""


def whole_number(found: str, decimal: str) -> int:
    """A whole number as people write it, with thousands apart or a fraction of nothing.

    Parameters
    ----------
    decimal : {".", ","}
        The decimal sign expected in this file; the other one sets thousands apart.

    Raises
    ------
    ValueError
        Not a whole number (empty message), or one that can be read in two ways (a message saying so).
    """
    plain = found.replace("\u00a0", " ").replace("\u202f", " ").strip()
    other = "," if decimal == "." else "."
    if re.fullmatch(r"[+-]?\d{1,12}", plain):
        return int(plain)
    if re.fullmatch(rf"[+-]?\d{{1,3}}([{other} '’]\d{{3}})+({re.escape(decimal)}0+)?", plain):
        return int(re.sub(rf"[{other} '’]", "", plain.split(decimal)[0]))
    if re.fullmatch(rf"\d{{1,3}}{re.escape(decimal)}\d{{3}}", plain):
        together = plain.replace(decimal, "")
        raise ValueError(f"a number that cannot be read in two ways: write {together} without signs between")
    if re.fullmatch(rf"[+-]?\d{{1,12}}{re.escape(decimal)}0+", plain):
        return int(plain.split(decimal)[0])
    raise ValueError
