"""A plan as files that other programs read: CSV, a workbook, a calendar. JSON is the plan's own document."""

import csv
import io
from collections.abc import Iterator, Sequence
from datetime import UTC, datetime

from icalendar import Calendar, Event
from openpyxl import Workbook
from openpyxl.styles import Font
from openpyxl.utils import get_column_letter

from rundgang.core.model import FORMULA_SIGNS
from rundgang.core.planning.model import LinePlan, Run
from rundgang.core.scenario import Scenario
from rundgang.core.units import GRAMS_PER_KG, System, to_us, unit_of
from rundgang.formats.clock import local_time

RUN_COLUMNS = (
    "line",
    "run",
    "product",
    "product_name",
    "cut_out_of",
    "first_dough",
    "start",
    "first_pack",
    "last_pack",
    "feed_min",
    "pieces_per_h",
    "batches",
    "dough_kg",
    "pieces",
    "packs",
    "packs_wanted",
    "lorries",
)
BATCH_COLUMNS = (
    "line",
    "run",
    "batch",
    "product",
    "mixer",
    "start",
    "discharged",
    "divided",
    "last_piece",
    "pieces",
    "dough_kg",
    "rest_of_a_dough",
)
LORRY_COLUMNS = ("line", "lorry", "product", "leaves", "packs", "short", "pack_hours_late", "too_old", "ready")
BETWEEN = RUN_COLUMNS.index("packs") - RUN_COLUMNS.index("feed_min")
"""Columns that say something of doughs and pieces, which what is cut out has none of."""

WIDEST = 40
MOMENT = "yyyy-mm-dd hh:mm:ss"

Cell = str | float | datetime | None
"""None where there is nothing to say, as of the doughs of what is cut out of another run's pieces."""


def plan_csv(scenario: Scenario, plans: Sequence[LinePlan], units: System = "metric") -> str:
    """The runs of a plan, one a row, in the order of the lines; moments in ISO 8601 with the plant's offset."""
    file = io.StringIO()
    writer = csv.writer(file, lineterminator="\r\n")
    writer.writerow(_named(RUN_COLUMNS, units))
    for row in run_rows(scenario, plans, units):
        writer.writerow(cell.isoformat(timespec="seconds") if isinstance(cell, datetime) else cell for cell in row)
    return file.getvalue()


DOUGH = "dough_kg"
MASS = "dough mass"


def _named(columns: Sequence[str], units: System) -> tuple[str, ...]:
    """The columns' names; a mass by the unit that it is in."""
    unit = unit_of(MASS)
    return tuple(f"dough_{unit.us if units == 'us' else unit.metric}" if name == DOUGH else name for name in columns)


def _mass(grams: int, units: System) -> float:
    """A mass in the file's unit, to its gram."""
    return round(to_us(MASS, grams / GRAMS_PER_KG), 4) if units == "us" else grams / GRAMS_PER_KG


def run_rows(
    scenario: Scenario, plans: Sequence[LinePlan], units: System = "metric"
) -> Iterator[tuple[Cell, ...]]:  # fmt: skip
    """What the columns of the runs hold; what is cut out of a run's pieces, and packed, in a row behind it."""
    lorries = {wave.id: wave.name for wave in scenario.waves}
    for plan in plans:
        for run in plan.runs:
            product = scenario.product(run.product)
            yield (
                plan.line,
                run.id,
                product.id,
                safe(product.name),
                None,
                _at(scenario, run.first_mixed_min),
                _at(scenario, run.start_min),
                _at(scenario, run.first_pack_min),
                _at(scenario, run.last_pack_min),
                round(run.feed_min, 2),
                round(run.scaled_per_h, 1),
                len(run.mixed),
                _mass(sum(batch.dough_g for batch in run.batches), units),
                run.pieces,
                run.packs,
                run.packs_wanted,
                safe("; ".join(f"{lorries.get(lot.wave, lot.wave)}: {lot.packs}" for lot in run.items)),
            )
            for cut in (one for one in plan.cut_runs if one.run == run.id):
                made = (_at(scenario, cut.first_pack_min), _at(scenario, cut.last_pack_min))
                name = safe(scenario.product(cut.product).name)
                known = (plan.line, run.id, cut.product, name, product.id)
                yield (*known, None, None, *made, *[None] * BETWEEN, cut.packs, None, None)


def plan_workbook(scenario: Scenario, plans: Sequence[LinePlan], units: System = "metric") -> bytes:
    """The plan as a workbook: runs, batches and lorries, a sheet each."""
    book = Workbook()
    book.remove(book.worksheets[0])
    _sheet(book, "Runs", _named(RUN_COLUMNS, units), list(run_rows(scenario, plans, units)))
    _sheet(book, "Batches", _named(BATCH_COLUMNS, units), list(_batch_rows(scenario, plans, units)))
    _sheet(book, "Lorries", LORRY_COLUMNS, list(_lorry_rows(scenario, plans)))
    file = io.BytesIO()
    book.save(file)
    return file.getvalue()


def _sheet(book: Workbook, name: str, columns: Sequence[str], rows: Sequence[tuple[Cell, ...]]) -> None:
    """A sheet; a moment is a cell of time, as the plant's clock shows it, for a spreadsheet knows no zones."""
    sheet = book.create_sheet(name)
    sheet.append(list(columns))
    for cell in sheet[1]:
        cell.font = Font(bold=True)
    for row in rows:
        sheet.append([cell.replace(tzinfo=None) if isinstance(cell, datetime) else cell for cell in row])
        for place, cell in enumerate(row, start=1):
            if isinstance(cell, datetime):
                sheet.cell(sheet.max_row, place).number_format = MOMENT
    sheet.freeze_panes = "A2"
    for place, column in enumerate(columns, start=1):
        longest = max([len(column), *(len(_shown(row[place - 1])) for row in rows)])
        sheet.column_dimensions[get_column_letter(place)].width = min(longest + 2, WIDEST)


def _shown(cell: Cell) -> str:
    return MOMENT if isinstance(cell, datetime) else str(cell)


def _batch_rows(scenario: Scenario, plans: Sequence[LinePlan], units: System) -> Iterator[tuple[Cell, ...]]:
    for plan in plans:
        for run in plan.runs:
            for batch in run.batches:
                yield (
                    plan.line,
                    run.id,
                    batch.number,
                    run.product,
                    safe(batch.mixer),
                    _at(scenario, batch.start_min),
                    _at(scenario, batch.discharged_min),
                    _at(scenario, batch.divided_min),
                    _at(scenario, batch.last_piece_min),
                    batch.pieces,
                    _mass(batch.dough_g, units),
                    "yes" if batch.shared else "",
                )


def _lorry_rows(scenario: Scenario, plans: Sequence[LinePlan]) -> Iterator[tuple[Cell, ...]]:
    waves = {wave.id: wave for wave in scenario.waves}
    for plan in plans:
        for outcome in plan.waves:
            ready = None if outcome.ready_min is None else _at(scenario, outcome.ready_min)
            yield (
                plan.line,
                safe(waves[outcome.wave].name),
                outcome.product,
                _at(scenario, waves[outcome.wave].departs_min),
                outcome.packs,
                outcome.short,
                round(outcome.late_pack_hours, 3),
                outcome.stale,
                ready,
            )


def plan_calendar(scenario: Scenario, plans: Sequence[LinePlan], version: int, made_at: datetime) -> bytes:
    """The plan as a calendar (RFC 5545): one event a run, from its first dough to its last pack.

    A run is the same event in every version of its window's plan, so a later one replaces it: its `SEQUENCE` is higher.
    """
    window = scenario.window.starts_at.astimezone(UTC)
    calendar = Calendar()
    calendar.add("prodid", "-//Rundgang//plan//EN")
    calendar.add("version", "2.0")
    for plan in plans:
        line = scenario.line(plan.line).name
        for run in plan.runs:
            event = Event()
            event.add("uid", f"{window:%Y%m%dT%H%MZ}-{plan.line}-{run.id.lower()}@rundgang")
            event.add("sequence", version)
            event.add("dtstamp", made_at)
            event.add("dtstart", _utc(scenario, run.first_mixed_min))
            event.add("dtend", _utc(scenario, run.last_pack_min))
            event.add("summary", f"{line}: {run.id} {scenario.product(run.product).name}, {run.packs} packs")
            event.add("location", line)
            event.add("description", _told(scenario, plan, run))
            calendar.add_component(event)
    return bytes(calendar.to_ical())


def _told(scenario: Scenario, plan: LinePlan, run: Run) -> str:
    """A run's doughs and its start, and what is cut out of its pieces."""
    cut = (f"{one.packs} packs of {scenario.product(one.product).name}" for one in plan.cut_runs if one.run == run.id)
    begins = _at(scenario, run.start_min).isoformat(timespec="seconds")
    return "; ".join((f"{len(run.mixed)} batches, divider from {begins}", *(f"beside it {what}" for what in cut)))


def safe(text: str) -> str:
    """A text that no spreadsheet takes for a formula."""
    return f"'{text}" if text[:1] in {*FORMULA_SIGNS, "\t", "\r"} else text


def _at(scenario: Scenario, minute: float) -> datetime:
    return local_time(scenario, minute).replace(microsecond=0)


def _utc(scenario: Scenario, minute: float) -> datetime:
    return local_time(scenario, minute).astimezone(UTC)
