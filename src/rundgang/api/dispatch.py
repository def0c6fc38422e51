"""The routes of dispatch: what each lorry is due, what is on it, of which lots; that it has left; its delivery note."""

from fastapi import APIRouter, Response

from rundgang.api.deps import Now, Planned, Store
from rundgang.core.model import Id
from rundgang.formats.paper import delivery_note_page
from rundgang.formats.pdf import pdf_of
from rundgang.jobs import loading
from rundgang.jobs.dispatching import LorryView, lorries_around, lorry_view, note_of
from rundgang.jobs.loading import LeaveEntry, LoadEntry, OldestEntry

router = APIRouter(prefix="/api/dispatch")


@router.get("")
def lorries(store: Store, now: Now) -> tuple[LorryView, ...]:
    """The lorries that leave soon, and those that have left last, with what each is due and what is on it."""
    return lorries_around(store, now)


@router.get("/{lorry}")
def lorry(store: Store, lorry: Id) -> LorryView:
    """A lorry with what it is due, what is on it, and which lots may be loaded."""
    return lorry_view(store, lorry)


@router.post("/loads", status_code=201)
def load(store: Planned, now: Now, entry: LoadEntry) -> LorryView:
    """Load packs of a lot on a lorry, or take some off. Sent twice, it is done once."""
    loading.load(store, now, entry)
    return lorry_view(store, entry.lorry)


@router.post("/loads/oldest", status_code=201)
def load_oldest(store: Planned, now: Now, entry: OldestEntry) -> LorryView:
    """Load the oldest packs of a product that may go, as many as are due. Sent twice, it is done once."""
    loading.load_oldest(store, now, entry)
    return lorry_view(store, entry.lorry)


@router.post("/left", status_code=201)
def leave(store: Planned, now: Now, entry: LeaveEntry) -> LorryView:
    """Let a lorry leave with what is on it; short or over with a reason."""
    loading.leave(store, now, entry)
    return lorry_view(store, entry.lorry)


@router.get("/{lorry}/note.pdf", response_class=Response)
def delivery_note(store: Store, now: Now, lorry: Id) -> Response:
    """A lorry's delivery note: what is on it, by product and lot."""
    page = delivery_note_page(note_of(store, lorry, now.now()))
    headers = {"Content-Disposition": f'attachment; filename="delivery-{lorry}.pdf"'}
    return Response(pdf_of(page), media_type="application/pdf", headers=headers)
