"""Stock as CSV, in and out: packs with their age, materials, and what comes.

A row is one lot, one material or one delivery. Packs with the moment they were made are lots of the stock, all of
that product's together; packs without one were counted, whatever their age.
"""

import csv
import io
from collections.abc import Callable, Iterator
from datetime import date, datetime
from typing import Any

from pydantic import Field

from rundgang.core.errors import RundgangError
from rundgang.core.model import Model, Names
from rundgang.core.scenario import Scenario
from rundgang.formats.clock import local_time, minute_of
from rundgang.formats.plan_files import safe
from rundgang.formats.row_faults import CellError, ReadRows, RowFault, RowFaults

COLUMNS = ("entry", "name", "amount", "at", "lot", "best_before")
ENTRIES = ("packs", "material", "delivery")
MOST_PACKS, MOST_AMOUNT = 1_000_000, 10_000_000.0
MAX_BYTES = 1024 * 1024
WRITTEN = "%Y-%m-%d %H:%M"
LONGEST_LOT = 80


class Coming(Model):
    """What comes in of a material, and when on the plant's clock; by supplier's lot, where it is known."""

    item: str
    amount: float
    at: datetime
    lot: str | None = None
    best_before: date | None = None
    allergens: Names = frozenset()


class StockFile(ReadRows):
    """What a file of stock says, and what is wrong in it.

    Attributes
    ----------
    counted : tuple of (str, int)
        Products and how many packs were counted.
    lots : dict of str to tuple of (float, int)
        By product, when packs were made, min from the window's start, and how many.
    materials : dict of str to float
        What was counted of each, kg or pieces.
    """

    rows: int
    counted: tuple[tuple[str, int], ...] = ()
    lots: dict[str, tuple[tuple[float, int], ...]] = Field(default_factory=dict)
    materials: dict[str, float] = Field(default_factory=dict)
    deliveries: tuple[Coming, ...] = ()


def write_stock(scenario: Scenario) -> str:
    """The stock of a scenario as CSV, readable by `read_stock`."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(COLUMNS)
    for lot in scenario.finished:
        made = local_time(scenario, lot.made_min)
        writer.writerow(("packs", safe(scenario.product(lot.product).name), lot.packs, f"{made:{WRITTEN}}", "", ""))
    for stock in scenario.stocks:
        name = safe(scenario.ingredient(stock.item).name)
        writer.writerow(("material", name, f"{stock.on_hand:.10g}", "", "", ""))
        for come in stock.deliveries:
            at = f"{local_time(scenario, come.at_min):{WRITTEN}}"
            writer.writerow(("delivery", name, f"{come.amount:.10g}", at, safe(come.lot or ""), come.best_before or ""))
    return out.getvalue()


def read_stock(data: bytes, scenario: Scenario) -> StockFile:
    """A file of stock; every wrong row is named with its line, its column, what was found and what is allowed."""
    if len(data) > MAX_BYTES:
        return _refused("file", "too long", "at most 1 MB")
    text = data.decode("utf-8-sig", errors="replace")
    delimiter = max(",;\t", key=text.partition("\n")[0].count)
    reader = csv.DictReader(io.StringIO(text, newline=""), delimiter=delimiter)
    heads = [(head or "").strip().lower() for head in reader.fieldnames or ()]
    missing = [column for column in COLUMNS[:3] if column not in heads]
    if missing:
        return _refused(missing[0], "no such column", f"columns {', '.join(COLUMNS)}")
    return _Reading(scenario).read(
        {head: (value or "").strip().removeprefix("'") for head, value in zip(heads, row.values(), strict=False)}
        for row in reader
    )


def _refused(column: str, found: str, allowed: str) -> StockFile:
    """A file of which no row is read."""
    fault = RowFault(line=1, column=column, found=found, allowed=allowed)
    return StockFile(rows=0, faults=(fault,), fault_count=1, wrong_rows=1)


class _Reading:
    """The rows of a file as they are read, one after another."""

    def __init__(self, scenario: Scenario) -> None:
        self.scenario = scenario
        self.products = _named(scenario.products)
        self.materials = _named(scenario.plant.ingredients)
        self.counted, self.stock = dict[str, int](), dict[str, float]()
        self.lots, self.coming = dict[str, list[tuple[float, int]]](), list[Coming]()

    def read(self, rows: Iterator[dict[str, str]]) -> StockFile:
        """The file that these rows are."""
        faults, count = RowFaults(), 0
        for line, row in enumerate(rows, start=2):
            if not any(row.values()):
                continue
            count += 1
            try:
                self._row(row)
            except CellError as wrong:
                faults.add(line, wrong.column, wrong.found, wrong.allowed)
        return StockFile(
            rows=count,
            counted=tuple(self.counted.items()),
            lots={product: tuple(lots) for product, lots in self.lots.items()},
            materials=self.stock,
            deliveries=tuple(self.coming),
            faults=tuple(faults.first),
            fault_count=faults.count,
            wrong_rows=faults.rows,
        )

    def _row(self, row: dict[str, str]) -> None:
        take: dict[str, Callable[[dict[str, str]], None]] = {
            "packs": self._packs,
            "material": self._material,
            "delivery": self._delivery,
        }
        entry = row["entry"].lower()
        if entry not in take:
            raise CellError("entry", row["entry"], " or ".join(ENTRIES))
        take[entry](row)

    def _packs(self, row: dict[str, str]) -> None:
        product = _one(self.products, row["name"])
        amount = _amount(row["amount"], MOST_PACKS)
        if amount != round(amount):
            raise CellError("amount", row["amount"], "whole packs")
        if not row.get("at"):
            if product in self.counted or product in self.lots:
                raise CellError("name", row["name"], "each product once, or all its packs by when they were made")
            self.counted[product] = round(amount)
            return
        if product in self.counted:
            raise CellError("at", row["at"], "all packs of a product with it, or none")
        made_min = self._moment(row["at"])
        if made_min > max(0.0, self.scenario.opening.now_min):
            raise CellError("at", row["at"], "a moment before the window began; what was made since is its run's")
        self.lots.setdefault(product, []).append((made_min, round(amount)))

    def _material(self, row: dict[str, str]) -> None:
        item = _one(self.materials, row["name"])
        if item in self.stock:
            raise CellError("name", row["name"], "each material once")
        self.stock[item] = _amount(row["amount"], MOST_AMOUNT)

    def _delivery(self, row: dict[str, str]) -> None:
        item, amount = _one(self.materials, row["name"]), _amount(row["amount"], MOST_AMOUNT)
        if amount == 0:
            raise CellError("amount", row["amount"], "more than 0")
        self._moment(row.get("at", ""))
        lot, best_before = row.get("lot") or None, row.get("best_before") or None
        if lot and len(lot) > LONGEST_LOT:
            raise CellError("lot", lot[:LONGEST_LOT], f"at most {LONGEST_LOT} characters")
        try:
            until = date.fromisoformat(best_before) if best_before else None
        except ValueError:
            raise CellError("best_before", best_before or "", "a date, 2026-03-31") from None
        at = datetime.fromisoformat(row["at"])
        self.coming.append(Coming(item=item, amount=amount, at=at, lot=lot, best_before=until))

    def _moment(self, found: str) -> float:
        try:
            return minute_of(self.scenario, datetime.fromisoformat(found))
        except ValueError:
            raise CellError("at", found, "a moment on the plant's clock, 2026-03-11 14:30") from None
        except CellError:
            raise
        except RundgangError as error:
            raise CellError("at", found, str(error)) from None


def _named(things: Any) -> dict[str, str]:
    """Things by their keys and by their names, in small letters."""
    return {name.lower(): thing.id for thing in things for name in (thing.name, thing.id)}


def _one(known: dict[str, str], name: str) -> str:
    if name.lower() not in known:
        raise CellError("name", name, "a product or material of the plant, by its name")
    return known[name.lower()]


def _amount(found: str, most: float) -> float:
    plain = found.replace(" ", "").replace("\u00a0", "")
    try:
        value = float(plain.replace(",", ".") if plain.count(",") == 1 and "." not in plain else plain)
    except ValueError:
        raise CellError("amount", found, "a number") from None
    if not 0 <= value <= most:
        raise CellError("amount", found, f"0 to {most:,.0f}")
    return value
