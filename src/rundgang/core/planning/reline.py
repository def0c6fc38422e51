"""Making a run on another line: its lots become the demand of the same article there."""

from collections.abc import Iterator, Mapping

from rundgang.core.errors import RundgangError
from rundgang.core.orders import Order, OrderLine
from rundgang.core.planning.model import Run
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario


class NotTheSameArticleError(RundgangError):
    """A product that is not the same article as the run's."""


def articles(scenario: Scenario, product: Product) -> tuple[Product, ...]:
    """The products of other lines that are the same article."""
    base = product.same_as or product.id
    return tuple(p for p in scenario.products if (p.same_as or p.id) == base and p.id != product.id)


def relined(scenario: Scenario, run: Run, to: str) -> tuple[Order, ...]:
    """The orders, with those that a run is for given to the same article of another line.

    Parameters
    ----------
    run : Run
        Its lots say which lorries, and how many packs for each.
    to : str
        The product of the other line.

    Raises
    ------
    NotTheSameArticleError
        It is not the run's article made on another line.
    """
    allowed = articles(scenario, scenario.product(run.product))
    if to not in {product.id for product in allowed}:
        names = ", ".join(product.id for product in allowed) or "none, it is made on one line only"
        raise NotTheSameArticleError(f"{run.id} cannot be made as {to}; allowed: {names}.")
    return given_to(scenario, run.product, {lot.wave: lot.packs for lot in run.items}, to)


def given_to(scenario: Scenario, product: str, packs: Mapping[str, int], to: str) -> tuple[Order, ...]:
    """The orders, with so many packs of a product for each lorry given to another."""
    left, taken = dict(packs), {order.id for order in scenario.orders}
    lines = {order.line for order in scenario.orders}
    return tuple(part for order in scenario.orders for part in _parted(order, product, to, left, taken, lines))


def _parted(
    order: Order, product: str, to: str, left: dict[str, int], taken: set[str], lines: set[OrderLine]
) -> Iterator[Order]:  # fmt: skip
    """An order as it was, or what stays of it and what goes to the other line."""
    moved = min(order.packs, left.get(order.wave, 0)) if order.product == product else 0
    if moved == 0:
        yield order
        return
    left[order.wave] -= moved
    if moved == order.packs and (order.id, to, order.wave) not in lines:
        yield order.model_copy(update={"product": to})
        return
    if moved < order.packs:
        yield order.model_copy(update={"packs": order.packs - moved})
    number = 2
    while f"{order.id[:34]}/{number}" in taken:
        number += 1
    taken.add(f"{order.id[:34]}/{number}")
    yield order.model_copy(update={"id": f"{order.id[:34]}/{number}", "product": to, "packs": moved})
