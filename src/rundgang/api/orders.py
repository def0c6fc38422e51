"""The routes of orders: books, files, an urgent one, and demand against stock."""

from pathlib import Path
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request, Response
from pydantic import AfterValidator, Field

from rundgang.api.changing import Changed, fit_newest
from rundgang.api.deps import (
    PAGE,
    XLSX,
    Author,
    Before,
    ContentType,
    Csv,
    FileName,
    Most,
    NotCsvError,
    Now,
    Number,
    Planned,
    Store,
    at_present,
)
from rundgang.api.views import BeyondLorry, BeyondOrder, LorryAhead, OrdersView, ReadView
from rundgang.core.calendar import Departure
from rundgang.core.errors import MalformedError, UnknownItemError
from rundgang.core.model import Id, Model, no_formula
from rundgang.core.order_changes import order_changes
from rundgang.core.orders import MAX_PACKS, Order
from rundgang.core.planning.demand import Demand, demand
from rundgang.formats.order_columns import OrderColumns
from rundgang.formats.orders_csv import OrderFile
from rundgang.formats.orders_written import template, write_orders, write_orders_workbook
from rundgang.jobs.inbox import HeldFile, held_files
from rundgang.jobs.order_files import Mode, lorries_ahead, read_file, take_file, to_leave
from rundgang.store.books import MOST_NAMED, Book
from rundgang.store.repository import Repository

router = APIRouter(prefix="/api")

AsMode = Annotated[Mode, Query(description="Beside the window's orders, or instead of them.")]


def _can_be_saved(order: Order) -> Order:
    """The order, or ValueError where a spreadsheet would take what it is called for a formula."""
    for text in (order.id, order.customer, order.reference):
        no_formula(text or "")
    return order


class UrgentOrder(Model):
    """An order that comes in when the plan is made: taken into the book and into the plan."""

    order: Annotated[Order, AfterValidator(_can_be_saved)]
    author: Author = "planner"


@router.get("/orders")
def orders(store: Store, now: Now) -> OrdersView:
    """The orders of the newest book: for the window's lorries, and for later ones or none."""
    scenario = store.windows.scenario()
    lorries = {one.id: one for one in lorries_ahead(store, scenario)}
    beyond = (
        BeyondOrder(order=order, lorry=_lorry(lorries.get(order.wave))) for order in store.windows.beyond(scenario)
    )
    return OrdersView(
        book=store.books.newest(),
        orders=scenario.orders,
        beyond=tuple(sorted(beyond, key=lambda one: (one.lorry is not None, one.lorry and one.lorry.leaves))),
        ahead=tuple(LorryAhead(id=one.id, name=one.name, leaves=one.leaves) for one in to_leave(store, scenario, now)),
    )


class MovedOrder(Model):
    """A line of an order, by what tells it from all others."""

    number: str = Field(max_length=40)
    product: Id
    wave: str = Field(max_length=80)


class MoveRequest(Model):
    """Orders that are to go with another lorry."""

    orders: tuple[MovedOrder, ...] = Field(min_length=1, max_length=5_000)
    to: Id
    author: Author = "planner"


@router.post("/orders/moves", status_code=201)
def move(store: Planned, now: Now, request: MoveRequest) -> Book:
    """Give orders to another lorry, for instance those whose own does not leave."""
    ahead = {one.id: one for one in to_leave(store, store.windows.scenario(), now)}
    if request.to not in ahead:
        raise UnknownItemError("lorry", request.to, tuple(ahead)[:MOST_NAMED])
    lines = {(one.number, one.product, one.wave) for one in request.orders}
    count = f"{len(lines)} order lines" if len(lines) > 1 else "an order line"
    return store.books.move(lines, request.to, f"{request.author} gave {count} to {ahead[request.to].name}")


class LineRequest(Model):
    """A line of an order with other packs; or cancelled, where it is to have none."""

    order: MovedOrder
    packs: int | None = Field(ge=1, le=MAX_PACKS)
    author: Author = "planner"


@router.post("/orders/change", status_code=201)
def change(store: Planned, request: LineRequest) -> Book:
    """Change how many packs an order line is for, or cancel it; the plan is fitted when the planner says so."""
    number, packs = request.order.number, request.packs
    said = "cancelled" if packs is None else f"changed to {packs:,} packs"
    line = number, request.order.product, request.order.wave
    return store.books.change(line, packs, f"{request.author}: order {number} {said}")


def _lorry(departure: Departure | None) -> BeyondLorry | None:
    return BeyondLorry(name=departure.name, leaves=departure.leaves) if departure else None


Columns = Annotated[
    str | None, Query(max_length=80, description="Name of the headings under which the file has the columns.")
]


@router.get("/orders/columns")
def order_columns(store: Store) -> tuple[OrderColumns, ...]:
    """The headings of customers' files that are kept, each by its name."""
    return store.mappings.all()


@router.post("/orders/columns", status_code=201)
def keep_columns(store: Store, request: OrderColumns) -> tuple[OrderColumns, ...]:
    """Keep under which headings a customer's file has the columns; those of the same name are replaced."""
    store.mappings.write(request)
    return store.mappings.all()


@router.get("/orders/books")
def books(store: Store, before: Before = None, most: Most = PAGE) -> tuple[Book, ...]:
    """The order books of the window, newest first, so many at a time."""
    return store.books.all(before, most)


@router.get("/orders.csv", response_class=Response)
def orders_csv(store: Store) -> Response:
    """The orders as a file."""
    return _file(write_orders(store.windows.scenario()), "orders.csv")


@router.get("/orders.xlsx", response_class=Response)
def orders_workbook(store: Store) -> Response:
    """The orders as a workbook."""
    headers = {"Content-Disposition": 'attachment; filename="orders.xlsx"'}
    return Response(write_orders_workbook(store.windows.scenario()), media_type=XLSX, headers=headers)


@router.get("/orders-template.csv", response_class=Response)
def orders_template(store: Store) -> Response:
    """An example file to fill in."""
    return _file(template(store.windows.scenario()), "orders-template.csv")


def _file(text: str, name: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(text, media_type="text/csv; charset=utf-8", headers=headers)


@router.post("/orders/read")
def read(
    store: Store, data: Csv, mode: AsMode = "add", columns: Columns = None, content_type: ContentType = ""
) -> ReadView:
    """Read a file of orders for any lorry of the calendar and name every wrong row; nothing is taken."""
    file = _read(store, data, mode, columns, content_type)
    scenario = store.windows.scenario()
    before = scenario.orders if mode == "replace" else ()
    return ReadView(
        file=file,
        packs=sum(order.packs for order in file.orders),
        changes=order_changes(before, file.orders) if mode == "replace" else (),
    )


@router.post("/orders/import", status_code=201)
def import_orders(
    store: Planned,
    data: Csv,
    mode: AsMode = "add",
    take: Annotated[Literal["all", "good"], Query(description="All rows or none, or the good ones.")] = "all",
    name: FileName = "orders.csv",
    columns: Columns = None,
    content_type: ContentType = "",
) -> Book:
    """Take a file of orders: all rows or none, or the good ones if asked."""
    file = _read(store, data, mode, columns, content_type)
    if file.faults and take == "all":
        raise MalformedError("The file has wrong rows, so nothing was taken. It", file.named_faults)
    if not file.orders:
        raise MalformedError("The file has no good row. It", file.named_faults)
    return take_file(store, file, mode, name)


def _read(store: Repository, data: bytes, mode: Mode, columns: str | None, content_type: str) -> OrderFile:
    if content_type.partition(";")[0].strip() not in {"text/csv", XLSX}:
        raise NotCsvError(content_type)
    return read_file(store, data, mode, columns)


@router.get("/orders/held")
def held(http: Request) -> tuple[HeldFile, ...]:
    """The files of the inbox that were not taken, and why."""
    folder: Path | None = http.app.state.inbox
    return held_files(folder) if folder else ()


@router.post("/orders/books/{number}/restore", status_code=201)
def restore(store: Planned, number: Number) -> Book:
    """Bring an earlier order book back, as the newest."""
    return store.books.restore(number)


@router.post("/orders/urgent", status_code=201)
def urgent(store: Planned, now: Now, request: UrgentOrder) -> Changed:
    """Take one order into the book and into the newest version, which changes as little as possible."""
    scenario = store.windows.scenario()
    product = scenario.product(request.order.product)
    own = {wave.id for wave in scenario.waves}
    waves = tuple(one.id for one in to_leave(store, scenario, now) if one.id in own)
    if request.order.wave not in waves:
        raise UnknownItemError("lorry that is still to be loaded", request.order.wave, waves)
    before = store.plans.version()
    store.books.extend((request.order,), f"urgent: {request.order.packs} packs of {product.id}")
    return fit_newest(store, now, before, (product.line,), request.author)


@router.get("/demand")
def demand_view(store: Store, now: Now) -> tuple[Demand, ...]:
    """What is ordered, in stock and left to make of every product, and the newest version's runs for it."""
    present = at_present(store, now, store.windows.scenario())
    return demand(present, (stored.plan for stored in store.plans.newest_lines()))
