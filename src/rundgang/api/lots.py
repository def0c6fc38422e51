"""The routes of lots: found by what stands on their labels, traced both ways, held, released, scrapped, recalled."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query, Request, Response
from pydantic import Field

from rundgang.api.deps import PAGE, Author, Before, Most, Now, Number, Planned, Store
from rundgang.core.floor.absent import LorryCost
from rundgang.core.floor.waste import WasteCause
from rundgang.core.model import Model, Text
from rundgang.formats.epcis import epcis_document
from rundgang.formats.paper import label_page, recall_page
from rundgang.formats.pdf import pdf_of
from rundgang.jobs import holding, printing
from rundgang.jobs.holding import HeldLots, Scrap
from rundgang.jobs.printing import Printed
from rundgang.jobs.tracing import LotLine, LotView, label_of, lines_of, lot_view, recall_of
from rundgang.store.repository import Repository

router = APIRouter(prefix="/api/lots")

Reason = Annotated[Text, Field(min_length=1, max_length=200)]

PDF = "application/pdf"


class Told(Model):
    """Who does something to a lot, and why; its id is given where it is made: sent twice, it is done once."""

    uuid: UUID
    reason: Reason
    author: Author = "planner"


class HoldRequest(Told):
    """To hold or to release; `onward`, with all that holds some of it."""

    onward: bool = True


class ScrapRequest(Model):
    """To scrap packs, for which cause, and what else is said of it."""

    uuid: UUID
    cause: WasteCause
    reason: Text = Field(default="", max_length=200)
    author: Author = "planner"
    packs: int = Field(ge=1, le=1_000_000)


class ClearRequest(Model):
    """To clear packs to be loaded."""

    uuid: UUID
    lots: tuple[int, ...] = Field(min_length=1, max_length=1_000)
    author: Author = "planner"


class Scrapped(Model):
    """What scrapping packs does to which lorry."""

    costs: tuple[LorryCost, ...]


@router.get("")
def lots(
    store: Store,
    words: Annotated[str, Query(max_length=120, description="Some of what stands on its label.")] = "",
    before: Before = None,
    most: Most = PAGE,
) -> tuple[LotLine, ...]:
    """So many lots, newest first; those with some words in their code, item or supplier's lot."""
    return lines_of(store, store.lots.found(words, before, most))


@router.post("/clear", status_code=201)
def clear(store: Planned, now: Now, request: ClearRequest) -> tuple[LotLine, ...]:
    """Clear packs to be loaded, as the plant asks of quality control."""
    holding.clear(store, now, request.lots, request.author, request.uuid)
    return lines_of(store, [store.lots.lot(number) for number in request.lots])


@router.get("/{number}")
def lot(store: Store, number: Number) -> LotView:
    """A lot: what it is of, what is of it, where that is, and whether it balances."""
    return lot_view(store, number)


@router.post("/{number}/hold", status_code=201)
def hold(store: Planned, now: Now, number: Number, request: HoldRequest) -> HeldLots:
    """Hold it: it is not weighed in or loaded, and the plan counts its packs as absent."""
    return holding.hold(store, now, number, request.onward, request.reason, request.author, request.uuid)


@router.post("/{number}/release", status_code=201)
def release(store: Planned, now: Now, number: Number, request: HoldRequest) -> HeldLots:
    """Release it, by name and with a reason."""
    return holding.release(store, now, number, request.onward, request.reason, request.author, request.uuid)


@router.post("/{number}/scrap", status_code=201)
def scrap(store: Planned, now: Now, number: Number, request: ScrapRequest) -> Scrapped:
    """Scrap packs of it."""
    why = Scrap(cause=request.cause, reason=request.reason)
    made = holding.scrap(store, now, number, request.packs, why, request.author, request.uuid)
    return Scrapped(costs=made)


@router.get("/{number}/recall.pdf", response_class=Response)
def recall_pdf(store: Store, now: Now, number: Number) -> Response:
    """All that holds some of it, where that is, and the balance, on paper."""
    found = recall_of(store, number, now.now())
    return _file(pdf_of(recall_page(found)), PDF, f"recall-{found.lot.code}.pdf")


@router.get("/{number}/recall.json")
def recall_json(store: Store, now: Now, number: Number) -> Response:
    """The same as GS1 EPCIS 2.0 events: what was transformed into what, and what was shipped."""
    found = recall_of(store, number, now.now())
    return _file(epcis_document(found).encode(), "application/ld+json", f"recall-{found.lot.code}.json")


@router.get("/{number}/label.pdf", response_class=Response)
def label(store: Store, http: Request, number: Number) -> Response:
    """Its label, with a code that opens its page."""
    code, page = _label(store, http, number)
    return _file(pdf_of(page), PDF, f"{code}.pdf")


class PrintRequest(Model):
    """To print a label so many times."""

    copies: int = Field(default=1, ge=1, le=50)


@router.post("/{number}/label/print", status_code=201)
def print_label(store: Store, now: Now, http: Request, number: Number, request: PrintRequest) -> Printed:
    """Print its label on the plant's printer; where it has none, on one that is simulated, and says so."""
    code, page = _label(store, http, number)
    return printing.print_label(http.app.state.settings, page, code, request.copies, now.now())


def _label(store: Repository, http: Request, number: int) -> tuple[str, str]:
    """A lot's code, and the page of its label."""
    line = lines_of(store, [store.lots.lot(number)])[0]
    address = f"{str(http.base_url).rstrip('/')}/lots/{number}"
    return line.lot.code, label_page(label_of(store, line, address))


def _file(data: bytes, kind: str, name: str) -> Response:
    return Response(data, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})
