"""What each lorry is due of each product, and the order items of a line: what a plan puts in order."""

from collections.abc import Iterable, Iterator, Mapping
from math import inf
from typing import NamedTuple

from pydantic import Field

from rundgang.core.model import Id, Model
from rundgang.core.orders import Wave
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
        A pack made before is too old for this lorry: for the product, or for what one of its customers asks; -inf
        where the age does not matter.
    good_from_min : float
        A pack made before is too old for the product when the lorry leaves, and so for every later one.
    weight : float
        How much a pack counts: 1, or what the orders' priorities come to on average.
    asked_h : float or None
        How old its packs may be, where one of its customers asks for fresher ones than the product, h.
    """

    product: str
    wave: str
    loaded_by_min: float
    packs: int
    fresh_from_min: float
    good_from_min: float
    weight: float
    asked_h: float | None = None


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
    """What lorries are due of a line, the earliest first, then in the plant's order; what is cut out included.

    What one customer of a lorry asks of a product's age counts for all its packs on that lorry.
    """
    packs: dict[tuple[str, str], int] = {}
    counted: dict[tuple[str, str], float] = {}
    asked: dict[tuple[str, str], float] = {}
    on_line = {product.id: product for product in scenario.products if product.line == line_id}
    for order in scenario.orders:
        if order.product in on_line:
            key = (order.wave, order.product)
            packs[key] = packs.get(key, 0) + order.packs
            counted[key] = counted.get(key, 0.0) + order.packs * order.priority
            asked[key] = min(asked.get(key, inf), order.fresh_for_h or inf)
    return tuple(
        Due(
            product=product.id,
            wave=wave.id,
            loaded_by_min=wave.loaded_by_min,
            packs=packs[wave.id, product.id],
            fresh_from_min=fresh_from_min(product, wave, asked[wave.id, product.id]),
            good_from_min=fresh_from_min(product, wave),
            weight=counted[wave.id, product.id] / packs[wave.id, product.id],
            asked_h=own if (own := asked[wave.id, product.id]) < good_for_h(product) else None,
        )
        for wave in sorted(scenario.waves, key=lambda wave: wave.departs_min)
        for product in on_line.values()
        if (wave.id, product.id) in packs
    )


def fresh_from_min(product: Product, wave: Wave, asked_h: float = inf) -> float:
    """A pack made before is too old for a lorry, min: for the product, or for what one of its customers asks, h."""
    return wave.departs_min - MINUTES_PER_HOUR * min(good_for_h(product), asked_h)


def good_for_h(product: Product) -> float:
    """How old a pack may be when its lorry leaves, h; inf where its age does not matter."""
    return inf if product.fresh_for_h is None else product.fresh_for_h


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
    """Packs that a lorry takes of stock, of so many wanted; what is too old for it stays for later ones."""
    given = 0
    for place, (made_min, packs) in enumerate(lots):
        taken = min(packs, wanted - given) if made_min >= due.fresh_from_min else 0
        given += taken
        lots[place] = made_min, packs - taken
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
