"""Orders written as CSV or a workbook, as they are read again; and an example to fill in."""

import csv
import io
from datetime import datetime

from openpyxl import Workbook
from openpyxl.styles import Font

from rundgang.core.errors import RundgangError
from rundgang.core.orders import Wave
from rundgang.core.scenario import Scenario
from rundgang.formats.clock import local_time, minute_of
from rundgang.formats.order_columns import FRESH, NEEDED, OPTIONAL, PRIORITY
from rundgang.formats.plan_files import safe


def write_orders(scenario: Scenario) -> str:
    """The scenario's orders as CSV, as `orders_csv` reads it."""
    columns, rows = _written_orders(scenario)
    return _csv(rows, columns)


def write_orders_workbook(scenario: Scenario) -> bytes:
    """The scenario's orders as a workbook, as `orders_csv` reads it; nothing in it is taken for a formula."""
    columns, rows = _written_orders(scenario)
    book = Workbook()
    page = book.worksheets[0]
    page.title = "Orders"
    packs = columns.index("packs")
    for number, row in enumerate([list(columns), *rows], start=1):
        for place, text in enumerate(row):
            counted = number > 1 and place == packs
            cell = page.cell(number, place + 1, int(text) if counted else text)
            if not counted:
                cell.data_type = "s"
            cell.font = Font(bold=number == 1)
    page.freeze_panes = "A2"
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _written_orders(scenario: Scenario) -> tuple[tuple[str, ...], list[list[str]]]:
    """The columns that are needed, and a row for every order."""
    departs = {wave.id: written_departure(scenario, wave) for wave in scenario.waves}
    rows = [
        {
            "order": safe(order.id),
            "dispatch": departs[order.wave],
            "product": order.product,
            "packs": str(order.packs),
            PRIORITY: "" if order.priority == 1 else f"{order.priority:g}",
            FRESH: "" if order.fresh_for_h is None else f"{order.fresh_for_h:g}",
            "customer": safe(order.customer or ""),
            "reference": safe(order.reference or ""),
        }
        for order in scenario.orders
    ]
    columns = (*NEEDED, *(column for column in OPTIONAL if any(row[column] for row in rows)))
    return columns, [[row[column] for column in columns] for row in rows]


def template(scenario: Scenario) -> str:
    """An example file: one row for every wave, with products in turn."""
    return _csv(
        (f"example-{n + 1}", written_departure(scenario, wave), scenario.products[n % len(scenario.products)].id, 100)
        for n, wave in enumerate(scenario.waves)
    )


def _csv(rows: object, columns: tuple[str, ...] = NEEDED) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(columns)
    writer.writerows(rows)  # type: ignore[arg-type]
    return out.getvalue()


def written_departure(scenario: Scenario, wave: Wave) -> str:
    """A departure as it stands in a file: local time, with the offset only where it is needed."""
    moment = local_time(scenario, wave.departs_min)
    plain = moment.strftime("%Y-%m-%d %H:%M")
    try:
        minute_of(scenario, datetime.fromisoformat(plain))
    except RundgangError:
        return moment.isoformat(timespec="minutes")
    return plain
