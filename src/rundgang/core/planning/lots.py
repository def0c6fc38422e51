"""Lots: what one product must give one wave. The order of lots is what a plan decides."""

from rundgang.core.model import Model
from rundgang.core.scenario import Scenario


class Lot(Model):
    """Packs of one product for one wave, all its orders together."""

    product: str
    wave: str
    departs_min: float
    packs: int


def lots_of(scenario: Scenario, line_id: str) -> tuple[Lot, ...]:
    """The line's demand, earliest lorry first, then in the plant's order of products."""
    packs: dict[tuple[str, str], int] = {}
    on_line = [product.id for product in scenario.products if product.line == line_id]
    for order in scenario.orders:
        if order.product in on_line:
            key = (order.wave, order.product)
            packs[key] = packs.get(key, 0) + order.packs
    return tuple(
        Lot(product=product, wave=wave.id, departs_min=wave.departs_min, packs=packs[wave.id, product])
        for wave in sorted(scenario.waves, key=lambda wave: wave.departs_min)
        for product in on_line
        if (wave.id, product) in packs
    )
