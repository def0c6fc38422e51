"""The routes: the day, its orders, its plans and cards, and the balance of a line."""

from collections.abc import Iterable, Iterator
from functools import cache
from typing import Annotated, Literal

from fastapi import APIRouter, Body, Depends, Header, Query, Request, Response
from pydantic import Field
from sqlmodel import Session

from rundgang.api.views import (
    BalanceRequest,
    LineView,
    OptionsView,
    OrdersView,
    PlanState,
    PlanView,
    ProductView,
    ReadView,
    WindowView,
)
from rundgang.core.balance import LineBalance, balance
from rundgang.core.batching import batch_limits, options
from rundgang.core.capacity import dough_bounds
from rundgang.core.errors import MalformedError, RundgangError, UnknownItemError
from rundgang.core.materials import ItemSupply, supply
from rundgang.core.planning.timeline import timeline
from rundgang.core.scenario import Scenario
from rundgang.core.whatif import with_setting
from rundgang.formats.orders_csv import OrderFile, read_orders, template, write_orders
from rundgang.store.repository import Basis, Book, Repository, StoredPlan

router = APIRouter(prefix="/api")


class NotCsvError(RundgangError):
    """A body of another kind than CSV."""

    def __init__(self, found: str) -> None:
        super().__init__(f"The upload is {found or 'of no stated type'}; allowed: text/csv.")


def repository(request: Request) -> Iterator[Repository]:
    """The day, through a session of this request."""
    with Session(request.app.state.engine) as session:
        yield Repository(session)


Store = Annotated[Repository, Depends(repository)]
Mode = Annotated[Literal["add", "replace"], Query(description="Beside the day's orders, or instead of them.")]
FileName = Annotated[
    str, Query(max_length=120, pattern=r"^[^\x00-\x1f]*$", description="Name of the file, for the history.")
]
Csv = Annotated[bytes, Body(media_type="text/csv")]
ContentType = Annotated[str, Header()]
Number = Annotated[int, Field(ge=1, le=2_000_000_000)]


@router.get("/health")
def health(store: Store) -> dict[str, str]:
    """Whether the application and its database answer."""
    store.is_empty()
    return {"status": "ok"}


@router.get("/window")
def window(store: Store) -> WindowView:
    """The day that is being planned."""
    scenario, book, basis = store.scenario(), store.book(), store.basis()
    return WindowView(
        plant=scenario.plant.name,
        town=scenario.plant.town,
        time_zone=scenario.plant.time_zone,
        window=scenario.window,
        waves=scenario.waves,
        conditions=scenario.conditions,
        lines=tuple(LineView(id=line.id, name=line.name) for line in scenario.plant.lines),
        products=tuple(_product_view(scenario, product.id) for product in scenario.products),
        book=book,
        orders=len(scenario.orders),
        packs=sum(order.packs for order in scenario.orders),
        plans=tuple(_plan_state(stored, basis) for stored in store.newest_plans()),
        library=store.newest_library(),
    )


def _product_view(scenario: Scenario, product_id: str) -> ProductView:
    product = scenario.product(product_id)
    return ProductView(
        id=product.id,
        name=product.name,
        line=product.line,
        family=product.family,
        piece=product.piece,
        pieces=product.pieces,
        pieces_per_pack=product.pieces_per_pack,
        target_per_hour=product.target_per_hour,
        allergens=tuple(sorted(scenario.allergens(product))),
        traits=tuple(sorted(product.traits)),
        same_as=product.same_as,
    )


def _plan_state(stored: StoredPlan, basis: Basis) -> PlanState:
    starts = [slot.start_min for run in stored.plan.runs for batch in run.batches for slot in batch.slots]
    return PlanState(
        line=stored.plan.line,
        number=stored.number,
        book=stored.book,
        stale=basis.outdates(stored),
        packs_short=stored.plan.score.packs_short,
        violations=len(stored.violations),
        first_dough_min=min(starts, default=None),
    )


@router.get("/orders")
def orders(store: Store) -> OrdersView:
    """The orders of the newest book."""
    return OrdersView(book=store.book(), orders=store.scenario().orders)


@router.get("/orders/books")
def books(store: Store) -> tuple[Book, ...]:
    """Every order book of the day, newest first."""
    return store.books()


@router.get("/orders.csv", response_class=Response)
def orders_csv(store: Store) -> Response:
    """The orders as a file."""
    return _file(write_orders(store.scenario()), "orders.csv")


@router.get("/orders-template.csv", response_class=Response)
def orders_template(store: Store) -> Response:
    """An example file to fill in."""
    return _file(template(store.scenario()), "orders-template.csv")


def _file(text: str, name: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(text, media_type="text/csv; charset=utf-8", headers=headers)


@router.post("/orders/read")
def read(store: Store, data: Csv, mode: Mode = "add", content_type: ContentType = "") -> ReadView:
    """Read a file of orders and name every wrong row; nothing is taken."""
    file = _read(store, data, mode, content_type)
    return ReadView(file=file, packs=sum(order.packs for order in file.orders))


@router.post("/orders/import", status_code=201)
def import_orders(
    store: Store,
    data: Csv,
    mode: Mode = "add",
    take: Annotated[Literal["all", "good"], Query(description="All rows or none, or the good ones.")] = "all",
    name: FileName = "orders.csv",
    content_type: ContentType = "",
) -> Book:
    """Take a file of orders: all rows or none, or the good ones if asked."""
    file = _read(store, data, mode, content_type)
    if file.faults and take == "all":
        raise MalformedError("The file has wrong rows, so nothing was taken. It", tuple(map(str, file.faults)))
    if not file.orders:
        raise MalformedError("The file has no good row. It", tuple(map(str, file.faults)))
    origin = f"{name}, {len(file.orders)} {'added' if mode == 'add' else 'in place of all'}"
    if mode == "add":
        return store.add_orders(file.orders, origin)
    return store.replace_orders(file.orders, origin)


def _read(store: Repository, data: bytes, mode: str, content_type: str) -> OrderFile:
    if not content_type.startswith("text/csv"):
        raise NotCsvError(content_type)
    scenario = store.scenario()
    taken = frozenset(order.id for order in scenario.orders) if mode == "add" else frozenset[str]()
    return read_orders(data, scenario, taken)


@router.post("/orders/books/{number}/restore", status_code=201)
def restore(store: Store, number: Number) -> Book:
    """Bring an earlier order book back, as the newest."""
    return store.restore_orders(number)


@router.post("/lines/{line}/balance/{product}")
def line_balance(store: Store, line: str, product: str, request: BalanceRequest) -> LineBalance:
    """What a line can carry of a product, as it is or set otherwise."""
    scenario = store.scenario()
    if scenario.product(product).line != scenario.line(line).id:
        made = tuple(p.id for p in scenario.products if p.line == line)
        raise UnknownItemError(f"product on {line}", product, made)
    return balance(with_setting(scenario, product, request.setting), product, request.pace)


@router.get("/materials")
def materials(store: Store) -> tuple[ItemSupply, ...]:
    """What the newest plans of all lines draw, hour by hour, against stock, deliveries and the ice machine."""
    scenario = store.scenario()
    current = (stored for stored in store.newest_plans() if stored.library == store.newest_library())
    return supply(scenario, (stored.plan for stored in current))


@router.get("/plans/newest")
def newest_plan(
    store: Store,
    line: Annotated[str | None, Query(max_length=40)] = None,
    floor: Annotated[bool, Query(description="That of the published version, if there is one.")] = False,
) -> PlanView:
    """The newest plan, of a line or of any; or the one that the floor works by."""
    return plan_view(store, store.floor_plan(line) if floor else store.plan(line=line))


@router.get("/plans/{number}")
def one_plan(store: Store, number: Number) -> PlanView:
    """A plan by its number."""
    return plan_view(store, store.plan(number))


def plan_view(store: Repository, stored: StoredPlan) -> PlanView:
    """A line's plan with all that its chart draws."""
    return plan_views(store, (stored,))[0]


def plan_views(store: Repository, plans: Iterable[StoredPlan]) -> tuple[PlanView, ...]:
    """Plans of lines, each with all that its chart draws."""
    basis, scenario_of = store.basis(), cache(store.scenario)
    return tuple(
        PlanView(
            number=stored.number,
            created_at=stored.created_at,
            book=stored.book,
            library=stored.library,
            stale=basis.outdates(stored),
            plan=stored.plan,
            timeline=timeline(scenario_of(stored.book, stored.library, stored.settings), stored.plan),
            violations=stored.violations,
        )
        for stored in plans
    )


@router.get("/plans/{number}/runs/{run}/batching")
def batching(store: Store, number: Number, run: str) -> OptionsView:
    """Every choice for the odd last batch of a run."""
    stored = store.plan(number)
    scenario = store.scenario(stored.book, stored.library, stored.settings)
    for planned in stored.plan.runs:
        if planned.id == run:
            product = scenario.product(planned.product)
            limits = batch_limits(product, dough_bounds(scenario, product))
            return OptionsView(
                run=run,
                product=product.id,
                chosen=planned.split.policy,
                options=options(product, planned.packs_wanted, limits),
            )
    raise UnknownItemError("run", run, tuple(planned.id for planned in stored.plan.runs))
