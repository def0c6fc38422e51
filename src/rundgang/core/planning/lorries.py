"""Lots: what one product must give one wave. The order of lots is what a plan decides."""

from math import inf
from typing import NamedTuple

from rundgang.core.products import Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR


class Lot(NamedTuple):
    """Packs of one product for one wave, all its orders together.

    Attributes
    ----------
    fresh_from_min : float
        A pack made before is too old when the lorry leaves; -inf where the product's age does not matter.
    """

    product: str
    wave: str
    departs_min: float
    packs: int
    fresh_from_min: float = -inf


def lots_of(scenario: Scenario, line_id: str) -> tuple[Lot, ...]:
    """The line's demand, earliest lorry first, then in the plant's order of products; what is cut out included."""
    packs: dict[tuple[str, str], int] = {}
    on_line = {product.id: product for product in scenario.products if product.line == line_id}
    for order in scenario.orders:
        if order.product in on_line:
            key = (order.wave, order.product)
            packs[key] = packs.get(key, 0) + order.packs
    return tuple(
        Lot(
            product=product.id,
            wave=wave.id,
            departs_min=wave.departs_min,
            packs=packs[wave.id, product.id],
            fresh_from_min=fresh_from(product, wave.departs_min),
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
