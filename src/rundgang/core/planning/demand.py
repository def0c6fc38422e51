"""Demand against stock: what is ordered of each product, what lies there, what is left to make, and who makes it."""

from collections import Counter
from collections.abc import Iterable

from rundgang.core.batching import batch_limits, options
from rundgang.core.capacity import dough_bounds
from rundgang.core.doughs import BatchSplit
from rundgang.core.errors import InfeasibleError
from rundgang.core.model import Id, Model
from rundgang.core.planning.model import LinePlan, RunItem
from rundgang.core.planning.packs import packs_by_now
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR


class DemandRun(Model):
    """A run that makes some of it.

    Attributes
    ----------
    wanted : int
        Packs asked of it; what it gives beyond goes to stock.
    """

    run: str
    start_min: float
    wanted: int
    packs: int
    batches: int
    policy: str
    items: tuple[RunItem, ...]


class Demand(Model):
    """A product's demand.

    Attributes
    ----------
    lying : int
        Packs that should lie in the store now: of stock and of the runs of the plan, less what lorries have taken.
    oldest_h : float or None
        Since the oldest of them was made, h: what the freshness of a lorry is counted against.
    net : int
        Ordered less what is in stock, not below nothing.
    choices : tuple of BatchSplit
        The whole net demand as one run, by every choice for the odd last dough; none where it is cut out of another's
        dough, or nothing is left to make.
    """

    product: Id
    line: Id
    ordered: int
    in_stock: int
    lying: int
    oldest_h: float | None
    net: int
    runs: tuple[DemandRun, ...]
    choices: tuple[BatchSplit, ...]


def demand(scenario: Scenario, plans: Iterable[LinePlan]) -> tuple[Demand, ...]:
    """The demand of every product that is ordered or in stock, in the plant's order."""
    runs: dict[str, list[DemandRun]] = {}
    for plan in plans:
        for run in plan.runs:
            runs.setdefault(run.product, []).append(
                DemandRun(
                    run=run.id,
                    start_min=run.start_min,
                    wanted=run.packs_wanted,
                    packs=run.packs,
                    batches=len(run.mixed),
                    policy=run.split.policy,
                    items=run.items,
                )
            )
    ordered: dict[str, int] = {}
    for order in scenario.orders:
        ordered[order.product] = ordered.get(order.product, 0) + order.packs
    stock = Counter[str]()
    for lot in scenario.finished:
        stock[lot.product] += lot.packs
    lying, oldest_h = Counter[str](), dict[str, float]()
    for lot in packs_by_now(scenario, (), ()).lots:
        lying[lot.product] += lot.packs
        age_h = (scenario.opening.now_min - lot.made_min) / MINUTES_PER_HOUR
        oldest_h[lot.product] = max(age_h, oldest_h.get(lot.product, 0.0))
    return tuple(
        Demand(
            product=product.id,
            line=product.line,
            ordered=ordered.get(product.id, 0),
            in_stock=stock[product.id],
            lying=lying[product.id],
            oldest_h=oldest_h.get(product.id),
            net=max(0, ordered.get(product.id, 0) - stock[product.id]),
            runs=tuple(runs.get(product.id, ())),
            choices=_choices(scenario, product.id, ordered.get(product.id, 0) - stock[product.id]),
        )
        for product in scenario.products
        if ordered.get(product.id) or stock[product.id] or lying[product.id]
    )


def _choices(scenario: Scenario, product_id: str, net: int) -> tuple[BatchSplit, ...]:
    product = scenario.product(product_id)
    if product.is_cut_out or net <= 0:
        return ()
    try:
        return options(product, net, batch_limits(product, dough_bounds(scenario, product)))
    except InfeasibleError:
        return ()
