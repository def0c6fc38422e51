"""The account of a line on paper and as a workbook."""

import io
from collections.abc import Mapping
from datetime import datetime, timedelta
from html import escape

from openpyxl import Workbook

from rundgang.core.floor.account import Account, Effectiveness, Loss
from rundgang.formats.paper import page_of, table_of

HOUR = timedelta(hours=1)


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


def account_page(
    account: Account, line: str, since: datetime, until: datetime, stations: Mapping[str, str]
) -> str:  # fmt: skip
    """The shift's report, with room for what the next shift must know."""
    hours = [
        (
            f"{since + number * HOUR:%H:%M}",
            f"{hour.planned:,}",
            f"{hour.made:,}",
            f"{hour.made - hour.planned:+,}",
            "<br>".join(f"{loss.packs:,} {escape(loss_words(loss, stations))}" for loss in hour.losses),
        )
        for number, hour in enumerate(account.hours)
    ]
    heads = (("Hour", False), ("Planned", True), ("Made", True), ("More", True), ("Why", False))
    causes = [(escape(loss_words(loss, stations)), f"{loss.packs:,}") for loss in account.pareto]
    body = (
        f"<h1>Account of the {escape(line)}</h1><p>{since:%Y-%m-%d %H:%M} to {until:%Y-%m-%d %H:%M}</p>"
        f"<p><b>{account.made:,} of {account.planned:,} packs</b></p>{_figures(account.figures)}"
        f"<h2>By the hour</h2>{table_of(heads, hours)}"
        f"<h2>By cause</h2>{table_of((('Cause', False), ('Packs', True)), causes)}"
        "<h2>For the next shift</h2><p>______________________________________________________</p>"
    )
    return page_of(f"Account of the {line}", body)


def _figures(found: Effectiveness) -> str:
    named = (
        ("Availability", found.availability, f"{found.production_min:,.0f} of {found.busy_min:,.0f} min"),
        ("Effectiveness", found.effectiveness, "planned time for what was made, of the time it took"),
        ("Quality", found.quality, f"{found.good:,} of {found.produced:,} packs"),
        ("OEE", found.oee, "the product of the three"),
    )
    rows = [(name, "none" if value is None else f"{value:.1%}", escape(how)) for name, value, how in named]
    return table_of((("Figure", False), ("", True), ("By", False)), rows)


def account_workbook(account: Account, since: datetime, stations: Mapping[str, str]) -> bytes:
    """Two sheets: the hours with their losses, and the losses by cause. Moments have no zone there."""
    book = Workbook()
    hours = book.active
    hours.title = "Hours"
    hours.append(("hour", "planned", "made", "cause", "lost"))
    for number, hour in enumerate(account.hours):
        at = (since + number * HOUR).replace(tzinfo=None)
        listed = hour.losses or (None,)
        for loss in listed:
            words = (loss_words(loss, stations), loss.packs) if loss else (None, 0)
            hours.append((at, hour.planned, hour.made, *words))
    causes = book.create_sheet("Causes")
    causes.append(("cause", "packs", "minutes"))
    for loss in account.pareto:
        causes.append((loss_words(loss, stations), loss.packs, loss.minutes))
    found = io.BytesIO()
    book.save(found)
    return found.getvalue()
