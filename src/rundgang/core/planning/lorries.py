"""What each lorry is due of each product, and the order items of a line: what a plan puts in order."""

from collections.abc import Iterable, Iterator, Mapping
from math import inf
from typing import NamedTuple

from pydantic import Field

from rundgang.core.model import Id, Model
from rundgang.core.planning.model import Run
from rundgang.core.products import OddBatch, Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR


class Due(NamedTuple):
    """Packs of one product for one lorry, all its orders together.

    Attributes
    ----------
    loaded_by_min : float
        When the lorry's loading ends, min.
    fresh_from_min : float
        A pack made before is too old when the lorry leaves; -inf where the product's age does not matter.
    weight : float
        How much a pack counts: 1, or what the orders' priorities come to on average.
    """

    product: str
    wave: str
    loaded_by_min: float
    packs: int
    fresh_from_min: float
    weight: float


class OrderItem(Model):
    """A lorry's packs of a product, or some of them, as the planner may want them made.

    Attributes
    ----------
    pinned_min : float or None
        Where it must start; None where it may.
    not_before_min : float or None
        It starts no earlier; None where it may as early as can be.
    pace_share : float
        Of the line's pace for the product.
    odd_batch : str or None
        Choice for the odd last dough; None for the product's.
    alone : bool
        Whether it begins a run of its own.
    was_min : float or None
        Where the published plan starts it.
    """

    product: Id
    wave: Id
    packs: int = Field(ge=1)
    pinned_min: float | None = None
    not_before_min: float | None = None
    pace_share: float = Field(default=1.0, gt=0, le=1)
    odd_batch: OddBatch | None = None
    alone: bool = False
    was_min: float | None = None

    @property
    def due(self) -> tuple[str, str]:
        """Its product and its lorry."""
        return self.product, self.wave


def dues_of(scenario: Scenario, line_id: str) -> tuple[Due, ...]:
    """What lorries are due of a line, the earliest first, then in the plant's order; what is cut out included."""
    packs: dict[tuple[str, str], int] = {}
    counted: dict[tuple[str, str], float] = {}
    on_line = {product.id: product for product in scenario.products if product.line == line_id}
    for order in scenario.orders:
        if order.product in on_line:
            key = (order.wave, order.product)
            packs[key] = packs.get(key, 0) + order.packs
            counted[key] = counted.get(key, 0.0) + order.packs * order.priority
    return tuple(
        Due(
            product=product.id,
            wave=wave.id,
            loaded_by_min=wave.loaded_by_min,
            packs=packs[wave.id, product.id],
            fresh_from_min=fresh_from(product, wave.departs_min),
            weight=counted[wave.id, product.id] / packs[wave.id, product.id],
        )
        for wave in sorted(scenario.waves, key=lambda wave: wave.departs_min)
        for product in on_line.values()
        if (wave.id, product.id) in packs
    )


def fresh_from(product: Product, departs_min: float) -> float:
    """From when on a pack must be made to be fresh enough for a lorry, min; -inf where its age does not matter."""
    if product.fresh_for_h is None:
        return -inf
    return departs_min - product.fresh_for_h * MINUTES_PER_HOUR


def order_items(scenario: Scenario, line_id: str, made: Iterable[Run], most: Mapping[str, int]) -> Iterator[OrderItem]:
    """What a line has still to make, by lorry: what is due less what is in stock and what runs make already.

    Stock goes to the earliest lorry for which it is fresh enough.

    Parameters
    ----------
    made : iterable of Run
        Runs that stay.
    most : mapping of str to int
        Packs that one run may give, by product; an item is cut where it is larger. What has no entry is cut out.
    """
    lots: dict[str, list[tuple[float, int]]] = {}
    for lot in sorted(scenario.finished, key=lambda lot: lot.made_min):
        lots.setdefault(lot.product, []).append((lot.made_min, lot.packs))
    beforehand: dict[tuple[str, str], int] = {}
    over: dict[str, int] = {}
    for run in made:
        for item in run.items:
            key = run.product, item.wave
            beforehand[key] = beforehand.get(key, 0) + item.packs
        over[run.product] = over.get(run.product, 0) + max(0, run.packs - run.packs_wanted)
    for due in dues_of(scenario, line_id):
        if due.product not in most:
            continue
        left = due.packs - min(due.packs, beforehand.get((due.product, due.wave), 0))
        left -= _from_stock(lots.get(due.product, []), due, left)
        given = min(over.get(due.product, 0), left)
        over[due.product] = over.get(due.product, 0) - given
        left -= given
        while left > 0:
            packs = min(left, most[due.product])
            yield OrderItem(product=due.product, wave=due.wave, packs=packs)
            left -= packs


def _from_stock(lots: list[tuple[float, int]], due: Due, wanted: int) -> int:
    """Packs that a lorry takes of stock, of so many wanted; what is too old for it is too old for all later ones."""
    given = 0
    while lots and given < wanted:
        made_min, packs = lots.pop(0)
        taken = min(packs, wanted - given) if made_min >= due.fresh_from_min else 0
        given += taken
        if 0 < taken < packs:
            lots.insert(0, (made_min, packs - taken))
    return given


def items_of(runs: Iterable[Run]) -> tuple[OrderItem, ...]:
    """The order items that give these runs again, in their order."""
    return tuple(
        OrderItem(
            product=run.product,
            wave=item.wave,
            packs=item.packs,
            pinned_min=run.pinned_min if number == 0 else None,
            pace_share=run.pace_share,
            odd_batch=run.odd_batch,
            alone=number == 0 and run.alone,
        )
        for run in runs
        for number, item in enumerate(run.items)
    )
