"""A recall as a document of GS1 EPCIS 2.0, JSON-LD: what was transformed into what, and what was shipped.

The structure is that of the standard's sections 7.4 and 10 (from memory). A lot is named by a URI of the plant's own:
the plant has told no GS1 numbers.
"""

import json
from collections.abc import Iterator
from datetime import datetime
from typing import Any
from urllib.parse import quote
from zoneinfo import ZoneInfo

from rundgang.formats.recalled import Recall, RecalledLot

CONTEXT = "https://ref.gs1.org/standards/epcis/2.0.0/epcis-context.jsonld"
"""Names the vocabulary; nothing is fetched from there."""

UNITS = {"kg": "KGM", "pieces": "H87", "packs": "H87"}
"""UN/ECE Recommendation 20: kilogram, piece (from memory)."""


def epcis_document(recall: Recall) -> str:
    """The document."""
    zone = ZoneInfo(recall.zone)
    lots = {one.lot.number: one for one in recall.lots}
    events = [*_transformations(recall, lots, zone), *_shippings(recall, lots, zone)]
    events.sort(key=lambda event: event["eventTime"])
    document = {
        "@context": [CONTEXT],
        "type": "EPCISDocument",
        "schemaVersion": "2.0",
        "creationDate": _moment(recall.made_at),
        "epcisBody": {"eventList": events},
    }
    return json.dumps(document, indent=2, ensure_ascii=False)


def lot_uri(code: str) -> str:
    """By which a lot is named."""
    return f"urn:rundgang:lot:{quote(code, safe='-')}"


def _transformations(recall: Recall, lots: dict[int, RecalledLot], zone: ZoneInfo) -> Iterator[dict[str, Any]]:
    for number, made in lots.items():
        used = [use for use in recall.uses if use.into == number and use.amount > 0]
        if used:
            yield {
                "type": "TransformationEvent",
                **_when(made.done_at, zone),
                "transformationID": f"{lot_uri(made.lot.code)}:made",
                "inputQuantityList": [_quantity(lots[use.lot], use.amount) for use in used],
                "outputQuantityList": [_quantity(made, made.lot.amount)],
                "bizStep": "commissioning",
                "disposition": "in_progress",
                "readPoint": {"id": f"urn:rundgang:line:{made.lot.line or 'plant'}"},
            }


def _shippings(recall: Recall, lots: dict[int, RecalledLot], zone: ZoneInfo) -> Iterator[dict[str, Any]]:
    for number, lorry, packs, at in recall.loads:
        if packs > 0:
            yield {
                "type": "ObjectEvent",
                **_when(at, zone),
                "action": "OBSERVE",
                "quantityList": [_quantity(lots[number], packs)],
                "bizStep": "shipping",
                "disposition": "in_transit",
                "bizTransactionList": [
                    {"type": "desadv", "bizTransaction": f"urn:rundgang:lorry:{quote(lorry, safe='-')}"}
                ],
            }


def _quantity(one: RecalledLot, amount: float) -> dict[str, Any]:
    return {"epcClass": lot_uri(one.lot.code), "quantity": round(amount, 3), "uom": UNITS[one.unit]}


def _when(at: datetime, zone: ZoneInfo) -> dict[str, str]:
    offset = at.astimezone(zone).strftime("%z")
    return {"eventTime": _moment(at), "eventTimeZoneOffset": f"{offset[:3]}:{offset[3:]}"}


def _moment(at: datetime) -> str:
    return at.astimezone(ZoneInfo("UTC")).isoformat(timespec="milliseconds").replace("+00:00", "Z")
