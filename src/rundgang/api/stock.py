"""The routes of stock: packs and materials are counted, deliveries entered; each with who said so and why."""

from datetime import date, datetime

from fastapi import APIRouter
from pydantic import Field

from rundgang.api.deps import Author, Now, Planned, Store, at_present
from rundgang.core.errors import MalformedError, RundgangError, UnknownItemError
from rundgang.core.materials import draws
from rundgang.core.model import Id, Model, Name
from rundgang.core.scenario import Delivery, Scenario, Stock
from rundgang.core.stock import counted_packs, counted_stock, with_delivery
from rundgang.formats.clock import clock, minute_of
from rundgang.store.openings import OpeningNote
from rundgang.store.repository import Repository

router = APIRouter(prefix="/api/stock")


class PacksCounted(Model):
    """So many packs of a product are in stock now."""

    product: Id
    packs: int = Field(ge=0, le=1_000_000)


class PacksRequest(Model):
    """Products that have been counted."""

    counted: tuple[PacksCounted, ...] = Field(min_length=1, max_length=5_000)
    reason: Name
    author: Author = "planner"


class MaterialRequest(Model):
    """A material that has been counted: kg, or pieces of packing."""

    item: Id
    amount: float = Field(ge=0, le=10_000_000)
    reason: Name
    author: Author = "planner"


class DeliveryRequest(Model):
    """What comes in of a material, and when; by supplier's lot, where it is known."""

    item: Id
    amount: float = Field(gt=0, le=10_000_000)
    at: datetime = Field(description="on the plant's clock")
    lot: Name | None = None
    best_before: date | None = None
    author: Author = "planner"


@router.get("/entries")
def entries(store: Store) -> tuple[OpeningNote, ...]:
    """Who has entered what of stock, closings and the state of the plant in this window, newest first."""
    return store.openings.notes()


@router.post("/packs", status_code=201)
def count_packs(store: Planned, now: Now, request: PacksRequest) -> OpeningNote:
    """Enter what was counted of packs; fewer than there should be are the oldest that have gone."""
    store.openings.locked_window()
    scenario = at_present(store, now, store.windows.scenario())
    for one in request.counted:
        scenario = scenario.changed(finished=counted_packs(scenario, scenario.product(one.product).id, one.packs))
    said = ", ".join(f"{one.packs:,} {scenario.product(one.product).name}" for one in request.counted[:3])
    more = f" and {len(request.counted) - 3} more" if len(request.counted) > 3 else ""
    return _kept(store, scenario, f"{request.author} counted {said}{more}: {request.reason}")


@router.post("/materials", status_code=201)
def count_material(store: Planned, now: Now, request: MaterialRequest) -> OpeningNote:
    """Enter what was counted of a material at this moment, by the plan that the floor works by."""
    store.openings.locked_window()
    scenario = at_present(store, now, store.windows.scenario())
    stock = _stock(scenario, request.item)
    floor = store.plans.floor_plans()
    drawn = [draw for plan in floor for draw in draws(scenario, plan)]
    minute = max(0.0, now.minute_of(scenario.window.starts_at))
    found = counted_stock(stock, drawn, minute, request.amount)
    name, unit = scenario.ingredient(stock.item).name, _unit(scenario, stock.item)
    origin = f"{request.author} counted {request.amount:,g} {unit} of {name}: {request.reason}"
    return _kept(store, scenario.changed(stocks=_with(scenario, found)), origin)


@router.post("/deliveries", status_code=201)
def deliver(store: Planned, request: DeliveryRequest) -> OpeningNote:
    """Enter a delivery, one that has come or one that will."""
    store.openings.locked_window()
    scenario = store.windows.scenario()
    try:
        at_min = minute_of(scenario, request.at)
    except RundgangError as error:
        said = f"it comes at {request.at:%Y-%m-%d %H:%M}; allowed: {error}"
        raise MalformedError("The delivery", (said,)) from None
    if not 0 <= at_min <= scenario.window.minutes:
        first, last = (clock(scenario, minute) for minute in (0, scenario.window.minutes))
        raise MalformedError("The delivery", (f"it comes at {request.at:%Y-%m-%d %H:%M}; allowed: {first} to {last}",))
    delivery = Delivery(at_min=at_min, amount=request.amount, lot=request.lot, best_before=request.best_before)
    found = with_delivery(_stock(scenario, request.item), delivery)
    name, unit = scenario.ingredient(found.item).name, _unit(scenario, found.item)
    origin = f"{request.author}: {request.amount:,g} {unit} of {name} come {clock(scenario, at_min)}"
    return _kept(store, scenario.changed(stocks=_with(scenario, found)), origin)


def _stock(scenario: Scenario, item: str) -> Stock:
    """The stock of a material, nothing where none is known; UnknownItemError where the plant does not have it."""
    known = tuple(one.id for one in scenario.plant.ingredients)
    if item not in known:
        raise UnknownItemError("material", item, known)
    return next((stock for stock in scenario.stocks if stock.item == item), Stock(item=item, on_hand=0))


def _with(scenario: Scenario, stock: Stock) -> tuple[Stock, ...]:
    if all(one.item != stock.item for one in scenario.stocks):
        return (*scenario.stocks, stock)
    return tuple(stock if one.item == stock.item else one for one in scenario.stocks)


def _unit(scenario: Scenario, item: str) -> str:
    return "pieces" if scenario.ingredient(item).role == "packing" else "kg"


def _kept(store: Repository, scenario: Scenario, origin: str) -> OpeningNote:
    store.openings.write(scenario, origin)
    store.session.commit()
    return store.openings.notes()[0]
