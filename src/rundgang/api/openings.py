"""The routes of the opening: packs in stock, ovens, tools, what was made last, and when stations are closed."""

from datetime import datetime
from itertools import count

from fastapi import APIRouter
from pydantic import Field, ValidationError

from rundgang.api.deps import Author, ChangedSinceError, Planned, Store
from rundgang.core.errors import MalformedError, RundgangError
from rundgang.core.model import Id, Model, Name
from rundgang.core.opening import Gives, HeatedOven, LastRun, Loaded, Opening, WornTool
from rundgang.core.orders import Block, ClosingKind, FinishedStock
from rundgang.core.scenario import Scenario, Stock
from rundgang.formats.clock import clock, minute_of
from rundgang.formats.documents import faults_of

router = APIRouter(prefix="/api/opening")


class OpeningView(Model):
    """What the window is planned from, but for what has begun before it, which the plan has.

    Attributes
    ----------
    number : int
        0 where nobody has entered any.
    now_min : float
        Nothing new is begun before that, from the window's start, min.
    gives : tuple of Gives
        Begun runs of which fewer packs may be loaded than they make, as some are held or gone.
    loaded : tuple of Loaded
        What lorries that have left got, where that is not what was ordered.
    """

    number: int
    finished: tuple[FinishedStock, ...]
    blocks: tuple[Block, ...]
    heated: tuple[HeatedOven, ...]
    worn: tuple[WornTool, ...]
    last: tuple[LastRun, ...]
    stocks: tuple[Stock, ...]
    now_min: float
    gives: tuple[Gives, ...]
    loaded: tuple[Loaded, ...]


class OpeningRequest(Model):
    """Stock, closings, hot ovens, tools, what was made last and materials, to keep for the window; None: as it is."""

    finished: tuple[FinishedStock, ...] = Field(max_length=5_000)
    blocks: tuple[Block, ...] = Field(max_length=2_000)
    heated: tuple[HeatedOven, ...] | None = Field(default=None, max_length=1_000)
    worn: tuple[WornTool, ...] | None = Field(default=None, max_length=1_000)
    last: tuple[LastRun, ...] | None = Field(default=None, max_length=1_000)
    stocks: tuple[Stock, ...] | None = Field(default=None, max_length=2_000)
    seen: int = Field(ge=0, description="number of the opening this is a change of")
    author: Author = "planner"


@router.get("")
def opening(store: Store) -> OpeningView:
    """The window's packs and materials in stock, ovens, tools, what was made last, and when its stations are closed."""
    found = store.openings.newest()
    known = found.model_dump(exclude={"begun", "calendar", "restores", "stocks"})
    return OpeningView.model_validate({**known, "stocks": store.windows.scenario().stocks})


@router.post("", status_code=201)
def set_opening(store: Planned, request: OpeningRequest) -> OpeningView:
    """Store another opening for the window, once it fits its lines and products; it counts from now on."""
    store.openings.locked_window()
    current = store.openings.newest()
    if request.seen != current.number:
        raise ChangedSinceError("opening", request.seen, current.number)
    scenario = store.windows.scenario()
    fields = {name: getattr(scenario, name) for name in Scenario.model_fields}
    begins = Opening(
        heated=current.heated if request.heated is None else request.heated,
        worn=current.worn if request.worn is None else request.worn,
        last=current.last if request.last is None else request.last,
        now_min=current.now_min,
        begun=current.begun,
        gives=current.gives,
        loaded=current.loaded,
    )
    weekly = tuple(block for block in scenario.blocks if block.weekly)
    fields |= {"finished": request.finished, "blocks": (*request.blocks, *weekly), "opening": begins}
    fields["stocks"] = scenario.stocks if request.stocks is None else request.stocks
    try:
        store.openings.write(Scenario(**fields), request.author)
    except ValidationError as error:
        raise MalformedError("The opening", tuple(faults_of(error))) from None
    store.session.commit()
    return opening(store)


class ClosingRequest(Model):
    """A station to close, from a time on the plant's clock."""

    line: Id
    station: Id
    kind: ClosingKind
    begins: datetime = Field(description="on the plant's clock; with an offset where the clocks change")
    minutes: float = Field(gt=0, le=10_080)
    reason: Name
    renews: Id | None = Field(default=None, description="the station's tool that is renewed meanwhile")
    author: Author = "planner"


@router.post("/closings", status_code=201)
def close_station(store: Planned, request: ClosingRequest) -> OpeningView:
    """Close a station for a time; it counts from now on."""
    store.openings.locked_window()
    scenario, current = store.windows.scenario(), store.openings.newest()
    try:
        begins = minute_of(scenario, request.begins)
    except RundgangError as error:
        raise MalformedError("The closing", (f"begins is {request.begins:%Y-%m-%d %H:%M}; allowed: {error}",)) from None
    if not 0 <= begins <= scenario.window.minutes:
        said = f"begins is {request.begins:%Y-%m-%d %H:%M}; allowed: {clock(scenario, 0)} and later, in the window"
        raise MalformedError("The closing", (said,))
    taken = {block.id for block in current.blocks}
    number = next(number for number in count(len(taken) + 1) if f"block-{number}" not in taken)
    block = Block(
        id=f"block-{number}",
        line=request.line,
        station=request.station,
        kind=request.kind,
        from_min=begins,
        to_min=begins + request.minutes,
        reason=request.reason,
        renews=request.renews,
    )
    changed = OpeningRequest(
        finished=current.finished, blocks=(*current.blocks, block), seen=current.number, author=request.author
    )
    return set_opening(store, changed)
