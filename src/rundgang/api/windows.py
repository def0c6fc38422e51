"""The routes of the planning windows: which there have been, and going on to the next."""

from fastapi import APIRouter

from rundgang.api.deps import Author, Now, Planned, Store
from rundgang.core.model import Model
from rundgang.core.rolling.roll import Settled
from rundgang.jobs.rolling import go_on
from rundgang.store.windows import WindowNote

router = APIRouter(prefix="/api/windows")


class NextRequest(Model):
    """Who goes on to the next window."""

    author: Author = "planner"


@router.get("")
def windows(store: Store) -> tuple[WindowNote, ...]:
    """Every window, newest first; each can be read at its own address."""
    return store.windows.all()


@router.get("/settled")
def settled(store: Store) -> Settled:
    """What was over when the window began: what lorries got, what was thrown away, what was drawn."""
    return store.windows.settled()


@router.post("/next", status_code=201)
def next_window(store: Planned, now: Now, request: NextRequest) -> WindowNote:
    """Go on to the next window from this moment on, a day longer; the whole of it is stored, or nothing."""
    return go_on(store, now, request.author)
