"""Stock as it is entered: packs and materials counted, deliveries; by hand or by file, with who said so and why."""

from collections.abc import Sequence
from datetime import datetime
from typing import NamedTuple

from rundgang.clock import Clock
from rundgang.core.errors import MalformedError, RundgangError, UnknownItemError
from rundgang.core.materials import draws
from rundgang.core.orders import FinishedStock
from rundgang.core.planning.past import opened
from rundgang.core.scenario import Delivery, Scenario, Stock
from rundgang.core.stock import counted_packs, counted_stock, level_at, with_delivery
from rundgang.formats.clock import clock as clock_of
from rundgang.formats.clock import minute_of
from rundgang.formats.stock_csv import Coming, StockFile
from rundgang.jobs.weighed import as_weighed
from rundgang.store.openings import OpeningNote
from rundgang.store.repository import Repository


class Counted(NamedTuple):
    """So many packs of a product are there; and when those that nobody knew of were made, where somebody says so."""

    product: str
    packs: int
    made: datetime | None = None


MOST_NAMED = 3
"""So many products are named in the history; of more, how many."""


def count_packs(
    store: Repository, now: Clock, counted: Sequence[Counted], reason: str, author: str
) -> OpeningNote:  # fmt: skip
    """Enter what was counted of packs; fewer than there should be are the oldest that have gone."""
    scenario = _with_packs(store, _present(store, now), counted)
    said = ", ".join(f"{one.packs:,} {scenario.product(one.product).name}" for one in counted[:MOST_NAMED])
    more = f" and {len(counted) - MOST_NAMED} more" if len(counted) > MOST_NAMED else ""
    return _kept(store, scenario, f"{author} counted {said}{more}: {reason}")


def count_material(
    store: Repository, now: Clock, item: str, amount: float, reason: str, author: str
) -> OpeningNote:  # fmt: skip
    """Enter what was counted of a material at this moment, by the plan that the floor works by."""
    scenario = _with_material(store, now, _present(store, now), item, amount)
    name, unit = scenario.ingredient(item).name, _unit(scenario, item)
    return _kept(store, scenario, f"{author} counted {amount:,g} {unit} of {name}: {reason}")


def deliver(store: Repository, coming: Coming, author: str) -> OpeningNote:
    """Enter a delivery, one that has come or one that will; MalformedError where it is outside of the window."""
    store.openings.locked_window()
    scenario, at_min = _with_coming(store.windows.scenario(), coming)
    name, unit = scenario.ingredient(coming.item).name, _unit(scenario, coming.item)
    return _kept(store, scenario, f"{author}: {coming.amount:,g} {unit} of {name} come {clock_of(scenario, at_min)}")


def take_file(store: Repository, now: Clock, file: StockFile, name: str, author: str) -> OpeningNote:
    """Enter all that a file of stock says, or nothing of it; a delivery that is known already is not entered twice.

    Raises
    ------
    MalformedError
        It has faults; or a delivery is outside of the window.
    """
    if file.faults:
        raise MalformedError("The file has wrong rows, so nothing was taken. It", file.named_faults)
    counted = tuple(Counted(product, packs) for product, packs in file.counted)
    scenario = _with_packs(store, _present(store, now), counted)
    for product, lots in file.lots.items():
        others = tuple(lot for lot in scenario.finished if lot.product != product)
        own = (FinishedStock(product=product, packs=packs, made_min=made_min) for made_min, packs in lots)
        scenario = scenario.changed(finished=(*others, *own))
    for item, amount in file.materials.items():
        scenario = _with_material(store, now, scenario, item, amount)
    for one in file.deliveries:
        scenario, _ = _with_coming(scenario, one)
    return _kept(store, scenario, f"{author}: {file.rows} rows of {name}")


def levels(store: Repository, now: Clock) -> Scenario:
    """The window with its materials as they should be there at this moment, by the plan that the floor works by."""
    scenario = as_weighed(store, store.windows.scenario())
    drawn = [draw for plan in store.plans.floor_plans() for draw in draws(scenario, plan)]
    minute = max(0.0, now.minute_of(scenario.window.starts_at))
    there = (stock.model_copy(update={"on_hand": level_at(stock, drawn, minute)}) for stock in scenario.stocks)
    return scenario.changed(stocks=tuple(there))


def _present(store: Repository, now: Clock) -> Scenario:
    store.openings.locked_window()
    scenario = store.windows.scenario()
    minute = now.minute_of(scenario.window.starts_at)
    return opened(scenario, store.plans.floor_plans(), minute) if minute > 0 else scenario


def _with_packs(store: Repository, scenario: Scenario, counted: Sequence[Counted]) -> Scenario:
    since = store.openings.newest().now_min
    for product, packs, made in counted:
        made_min = _minute_of(scenario, made) if made else None
        lots = counted_packs(scenario, scenario.product(product).id, packs, since, made_min)
        scenario = scenario.changed(finished=lots)
    return scenario


def _minute_of(scenario: Scenario, made: datetime) -> float:
    try:
        return minute_of(scenario, made)
    except RundgangError as error:
        raise MalformedError("The count", (f"made is {made:%Y-%m-%d %H:%M}; allowed: {error}",)) from None


def _with_material(store: Repository, now: Clock, scenario: Scenario, item: str, amount: float) -> Scenario:
    stock = _stock(scenario, item)
    drawn = [draw for plan in store.plans.floor_plans() for draw in draws(scenario, plan)]
    minute = max(0.0, now.minute_of(scenario.window.starts_at))
    counted = counted_stock(stock, drawn, minute, amount + store.lots.weighed_off().get(item, 0.0))
    return scenario.changed(stocks=_with(scenario, counted))


def _with_coming(scenario: Scenario, coming: Coming) -> tuple[Scenario, float]:
    said = f"it comes at {coming.at:%Y-%m-%d %H:%M}; allowed: "
    try:
        at_min = minute_of(scenario, coming.at)
    except RundgangError as error:
        raise MalformedError("The delivery", (f"{said}{error}",)) from None
    if not 0 <= at_min <= scenario.window.minutes:
        first, last = (clock_of(scenario, minute) for minute in (0, scenario.window.minutes))
        raise MalformedError("The delivery", (f"{said}{first} to {last}",))
    delivery = Delivery(at_min=at_min, **coming.model_dump(exclude={"item", "at"}))
    stock = _stock(scenario, coming.item)
    found = stock if delivery in stock.deliveries else with_delivery(stock, delivery)
    return scenario.changed(stocks=_with(scenario, found)), at_min


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
    return store.openings.notes(None, 1)[0]
