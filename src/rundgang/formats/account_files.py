"""The account of a line on paper and as a workbook, and accounts beside each other as a workbook."""

import io
from collections.abc import Iterable, Mapping
from datetime import datetime, timedelta
from html import escape
from typing import Any
from zoneinfo import ZoneInfo

from openpyxl import Workbook

from rundgang.core.floor.account import Loss
from rundgang.formats.accounted import AccountTable, LineAccount, Tally
from rundgang.formats.paper import page_of, table_of

HOUR = timedelta(hours=1)

NONE = "none"


def loss_words(loss: Loss, stations: Mapping[str, str]) -> str:
    """A loss by its cause, as people say it."""
    match loss.kind:
        case "stood":
            told = f" ({loss.cause})" if loss.cause else ""
            return f"{stations.get(loss.station or '', loss.station)} stood {loss.minutes:.0f} min{told}"
        case "slower":
            return "slower or later than planned"
        case "made up":
            return "made up"


def account_page(found: LineAccount, zone: ZoneInfo) -> str:
    """The shift's report, with what the next shift must know."""
    account, since, until = found.account, found.since.astimezone(zone), found.until.astimezone(zone)
    hours = [
        (
            f"{since + number * HOUR:%H:%M}",
            f"{hour.planned:,}",
            f"{hour.made:,}",
            f"{hour.made - hour.planned:+,}",
            "<br>".join(f"{loss.packs:,} {escape(loss_words(loss, found.stations))}" for loss in hour.losses),
        )
        for number, hour in enumerate(account.hours)
    ]
    heads = (("Hour", False), ("Planned", True), ("Made", True), ("More", True), ("Why", False))
    causes = [(escape(loss_words(loss, found.stations)), f"{loss.packs:,}") for loss in account.pareto]
    runs = [
        (run.run, escape(found.products.get(run.product, run.product)), f"{run.planned:,}", f"{run.made:,}")
        for run in found.runs
    ]
    body = (
        f"<h1>Account of the {escape(found.name)}</h1><p>{since:%Y-%m-%d %H:%M} to {until:%Y-%m-%d %H:%M}</p>"
        f"<p><b>{account.made:,} of {account.planned:,} packs</b></p>{_figures(found.tally, found.currency)}"
        f"<h2>By the hour</h2>{table_of(heads, hours)}"
        f"<h2>By cause</h2>{table_of((('Cause', False), ('Packs', True)), causes)}"
        f"<h2>By run</h2>{table_of((('Run', False), ('Product', False), ('Planned', True), ('Made', True)), runs)}"
        f"{_off(found)}<h2>For the next shift</h2>{_notes(found, zone)}"
    )
    return page_of(f"Account of the {found.name}", body)


def _figures(tally: Tally, currency: str | None) -> str:
    found = tally.figures
    named = (
        ("Availability", _share(found.availability), f"{found.production_min:,.0f} of {found.busy_min:,.0f} min"),
        ("Effectiveness", _share(found.effectiveness), "planned time for what was made, of the time it took"),
        ("Quality", _share(found.quality), f"{found.good:,} of {found.produced:,} packs"),
        ("OEE", _share(found.oee), "the product of the three"),
        ("Adherence", _share(tally.adherence), "of what was planned of each product, how much was made"),
        ("Oven idle", f"{tally.oven_empty_min:,.0f} min", "ovens without product"),
        ("Giveaway", NONE if tally.given_kg is None else f"{tally.given_kg:,.1f} kg", _money(tally, currency)),
    )
    rows = [(name, value, escape(how)) for name, value, how in named]
    return table_of((("Figure", False), ("", True), ("By", False)), rows)


def _share(value: float | None) -> str:
    return NONE if value is None else f"{value:.1%}"


def _money(tally: Tally, currency: str | None) -> str:
    priced = "" if tally.given_money is None else f", {tally.given_money:,.2f} {currency}"
    return f"dough in pieces heavier than they should be{priced}"


def _off(found: LineAccount) -> str:
    """What was scrapped and pulled, by cause."""
    heads = (("Cause", False), ("Packs scrapped", True), ("Pieces pulled", True))
    rows = [(escape(off.cause), f"{off.packs:,}", f"{off.pieces:,}") for off in found.off]
    return f"<h2>Scrap and pulled pieces</h2>{table_of(heads, rows)}" if rows else ""


def _notes(found: LineAccount, zone: ZoneInfo) -> str:
    told = [
        f"<p style='white-space: pre-line'>{escape(note.says)} "
        f"<span class='second'>{escape(note.author)}, {_wall(note.at, zone):%H:%M}</span></p>"
        for note in found.notes
    ]
    return "".join(told) or "<p>______________________________________________________</p>"


def account_workbook(found: LineAccount, zone: ZoneInfo) -> bytes:
    """Sheets: the hours with their losses, the losses by cause, the runs, and what was scrapped and pulled.

    Moments have no zone there.
    """
    book, since = Workbook(), found.since.astimezone(zone)
    hours = book.active
    hours.title = "Hours"
    hours.append(("hour", "planned", "made", "cause", "lost"))
    for number, hour in enumerate(found.account.hours):
        at = _wall(since + number * HOUR, zone)
        for loss in hour.losses or (None,):
            words = (loss_words(loss, found.stations), loss.packs) if loss else (None, 0)
            hours.append((at, hour.planned, hour.made, *words))
    causes = [(loss_words(loss, found.stations), loss.packs, loss.minutes) for loss in found.account.pareto]
    _sheet(book, "Causes", ("cause", "packs", "minutes"), causes)
    runs = [(run.run, found.products.get(run.product, run.product), run.planned, run.made) for run in found.runs]
    _sheet(book, "Runs", ("run", "product", "planned", "made"), runs)
    off = [(_wall(one.at, zone), one.code, one.packs, "packs", one.cause, one.reason) for one in found.scrapped]
    pulled = [
        (_wall(one.at, zone), found.stations.get(one.station, one.station), one.pieces, "pieces", one.cause, one.note)
        for one in found.pulled
    ]
    _sheet(book, "Off", ("when", "what", "count", "unit", "cause", "said"), sorted((*off, *pulled)))
    return _saved(book)


def table_workbook(found: AccountTable, zone: ZoneInfo) -> bytes:
    """One sheet: a row for each shift, day, week, line or product, and their total. Moments have no zone there."""
    book = Workbook()
    sheet = book.active
    sheet.title = f"By {found.by}"
    sheet.append(
        (
            *(found.by, "from", "to", "planned", "made", "availability", "effectiveness", "quality", "OEE"),
            *("adherence", "packs scrapped", "pieces pulled", "giveaway kg", "oven idle min"),
        )
    )
    rows = [(row.name, row.since, row.until, row.tally) for row in found.rows]
    for name, since, until, tally in (*rows, ("all", found.since, found.until, found.total)):
        known = tally.figures
        shares = (known.availability, known.effectiveness, known.quality, known.oee, tally.adherence)
        off = (tally.scrapped, tally.pulled, tally.given_kg, tally.oven_empty_min)
        sheet.append((name, _wall(since, zone), _wall(until, zone), known.planned, known.produced, *shares, *off))
    return _saved(book)


def _sheet(book: Workbook, title: str, heads: tuple[str, ...], rows: Iterable[tuple[Any, ...]]) -> None:
    sheet = book.create_sheet(title)
    sheet.append(heads)
    for row in rows:
        sheet.append(row)


def _wall(moment: datetime, zone: ZoneInfo) -> datetime:
    return moment.astimezone(zone).replace(tzinfo=None)


def _saved(book: Workbook) -> bytes:
    data = io.BytesIO()
    book.save(data)
    return data.getvalue()
