"""Pages for paper: a label, a recall, a delivery note. Each is whole HTML; what people wrote is escaped."""

import base64
import io
from collections.abc import Iterable
from datetime import date, datetime
from html import escape
from zoneinfo import ZoneInfo

import segno

from rundgang.formats.recalled import DeliveryNote, Label, NoteLine, Recall

STYLE = """
@page { size: %s; margin: %s;
  @bottom-right { content: counter(page) " of " counter(pages); font: 8pt sans-serif; color: #5B5148 } }
body { font: 10pt/1.35 "Atkinson Hyperlegible Next", "DejaVu Sans", sans-serif; color: #2A2420; margin: 0 }
h1 { font-size: 16pt; margin: 0 0 2mm } h2 { font-size: 11pt; margin: 5mm 0 1mm }
p { margin: 0 0 1mm } .second { color: #5B5148 } .wrong { color: #C23B1E; font-weight: bold }
table { border-collapse: collapse; width: 100%% } th { text-align: left; font-size: 8pt; color: #5B5148 }
td, th { border-bottom: 0.3mm solid #E7DFD1; padding: 1mm 2mm 1mm 0; vertical-align: top }
td.n, th.n { text-align: right; font-variant-numeric: tabular-nums }
tr { break-inside: avoid } .code { float: right; width: 28mm } .big { font-size: 20pt; font-weight: bold }
"""

MOST_LISTED = 600
"""So many lots stand on paper; of more, how many: nobody reads them, and to set them takes long."""

A4, LABEL = ("A4", "15mm"), ("100mm 60mm", "4mm")


def page_of(title: str, body: str, sheet: tuple[str, str] = A4) -> str:
    """A whole page of HTML for paper; the body is HTML, the title is text."""
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{escape(title)}</title>'
        f"<style>{STYLE % sheet}</style></head><body>{body}</body></html>"
    )


def _code(address: str) -> str:
    """A QR code (ISO/IEC 18004) of an address, drawn in the page itself."""
    drawn = io.BytesIO()
    segno.make_qr(address, error="m").save(drawn, kind="svg", border=1, scale=4)
    return f'<img class="code" alt="" src="data:image/svg+xml;base64,{base64.b64encode(drawn.getvalue()).decode()}">'


def table_of(heads: Iterable[tuple[str, bool]], rows: Iterable[Iterable[str]]) -> str:
    """A table; columns of numbers stand to the right."""
    listed = list(heads)
    looks = [' class="n"' if number else "" for _, number in listed]
    top = "".join(f"<th{look}>{escape(name)}</th>" for look, (name, _) in zip(looks, listed, strict=True))
    body = "".join(
        "<tr>" + "".join(f"<td{look}>{cell}</td>" for look, cell in zip(looks, row, strict=True)) + "</tr>"
        for row in rows
    )
    return f"<table><thead><tr>{top}</tr></thead><tbody>{body}</tbody></table>"


def _amount(amount: float, unit: str) -> str:
    return f"{amount:,.2f} {unit}" if unit == "kg" else f"{amount:,.0f} {unit}"


def _clock(at: datetime, zone: ZoneInfo) -> str:
    return f"{at.astimezone(zone):%Y-%m-%d %H:%M}"


def label_page(label: Label) -> str:
    """A lot's label, 100 by 60 mm, with a code that opens its page."""
    best = f'<p>Best before <b class="big">{label.best_before:%d.%m.%Y}</b></p>' if label.best_before else ""
    allergens = f"<p><b>Contains {escape(', '.join(label.allergens))}</b></p>" if label.allergens else ""
    held = f'<p class="wrong">HELD: {escape(label.held)}</p>' if label.held else ""
    body = (
        f"{_code(label.address)}<h1>{escape(label.what)}</h1>{best}"
        f"<p>{_amount(label.amount, label.unit)}, {label.made_at:%Y-%m-%d %H:%M}</p>{allergens}{held}"
        f"<p><b>{escape(label.code)}</b></p><p class='second'>{escape(label.plant)}</p>"
    )
    return page_of(label.code, body, LABEL)


def recall_page(recall: Recall) -> str:
    """A recall: the lot, the balance, and everything that holds some of it with where it is."""
    zone = ZoneInfo(recall.zone)
    listed, more = recall.lots[:MOST_LISTED], len(recall.lots) - MOST_LISTED
    rows = [
        (
            escape(one.lot.code),
            escape(one.what),
            f"{_clock(one.begun_at, zone)} to {one.done_at.astimezone(zone):%H:%M}",
            _amount(one.lot.amount, one.unit),
            _amount(max(0.0, one.left), one.unit),
            f'<span class="wrong">{escape(one.held)}</span>' if one.held else "",
            "<br>".join(f"{escape(lorry)}: {packs:,}" for lorry, packs in one.sent),
        )
        for one in listed
    ]
    heads = (
        ("Lot", False), ("What", False), ("Made", False), ("Made of it", True), ("There", True), ("Held", False),
        ("Sent, packs", False),
    )  # fmt: skip
    body = (
        f"<h1>Recall of {escape(recall.lot.code)}</h1>"
        f"<p>{escape(recall.what)}, {_amount(recall.lot.amount, recall.unit)}"
        f"{f', supplier’s lot {escape(recall.lot.supplier)}' if recall.lot.supplier else ''}</p>"
        f"<p class='second'>{escape(recall.plant)}, {_clock(recall.made_at, zone)}</p>"
        f"{_balance(recall)}<h2>Everything that holds some of it</h2>{table_of(heads, rows)}"
        + (f"<p class='wrong'>And {more:,} more lots, which the EPCIS document lists.</p>" if more > 0 else "")
    )
    return page_of(f"Recall of {recall.lot.code}", body)


def _balance(recall: Recall) -> str:
    if recall.balance is None:
        return "<p>Nothing of it has been packed.</p>"
    packs, mass = recall.balance, recall.mass
    text = (
        f"<h2>Balance</h2><p>{packs.made:,} packs made = {packs.sent:,} sent + {packs.held:,} held + {packs.scrap:,} "
        f"scrap + {packs.in_stock:,} in stock</p>"
    )
    if mass:
        text += (
            f"<p>{mass.dough:,.1f} kg of dough + {mass.put_on:,.1f} kg put on = {mass.packs:,.1f} kg in packs + "
            f"{mass.bake_loss:,.1f} kg lost in baking + {mass.other_loss:,.1f} kg trimmed, pulled or left</p>"
        )
    return text


def delivery_note_page(note: DeliveryNote) -> str:
    """A delivery note: what is on the lorry, by product and lot, with room for who takes it over."""
    rows = [
        (
            escape(line.name),
            "<br>".join(_note_lot(code, packs, best) for code, packs, best in line.lots),
            f"{line.ordered:,}",
            f"{line.packs:,}",
            f"{line.kg:,.1f}",
            _off(line),
        )
        for line in note.lines
    ]
    heads = (
        ("Product", False), ("Lots", False), ("Ordered", True), ("Packs", True), ("kg", True), ("Remark", False),
    )  # fmt: skip
    packs, kg = sum(line.packs for line in note.lines), sum(line.kg for line in note.lines)
    left = f"left {note.left_at:%H:%M}" if note.left_at else "<span class='wrong'>not left yet</span>"
    customers = f"<p>For {escape(', '.join(note.customers))}</p>" if note.customers else ""
    body = (
        f"<h1>Delivery note, {escape(note.lorry)}</h1>"
        f"<p>{escape(note.plant)}, {escape(note.town)}; leaves {note.departs_at:%Y-%m-%d %H:%M}, {left}</p>{customers}"
        f"<p class='second'>{escape(note.number)}; printed {note.made_at:%Y-%m-%d %H:%M}</p>{table_of(heads, rows)}"
        f"<p><b>{packs:,} packs, {kg:,.1f} kg without packing</b></p>"
        "<h2>Taken over</h2><p>Name, date, signature: ______________________________________</p>"
    )
    return page_of(f"Delivery note {note.number}", body)


def _note_lot(code: str, packs: int, best_before: date | None) -> str:
    best = f", best before {best_before:%d.%m.%Y}" if best_before else ""
    return f"{escape(code)}: {packs:,}{best}"


def _off(line: NoteLine) -> str:
    if line.packs == line.ordered:
        return ""
    word = "short" if line.packs < line.ordered else "over"
    return escape(f"{abs(line.packs - line.ordered):,} {word}{f': {line.reason}' if line.reason else ''}")
