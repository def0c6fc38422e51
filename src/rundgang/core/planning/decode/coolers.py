"""Coolers: whether a run cools enough in the room's air of the hours that it passes."""

from collections.abc import Sequence

import numpy as np

from rundgang.core.compiled import inner
from rundgang.core.heat import cooling_steps, in_room
from rundgang.core.planning.decode.arrays import Runs, ShopArrays
from rundgang.core.planning.legs import Passage
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario

SAME_AIR_K = 1e-9
"""Air this little above a class's limit is at it, K."""


def cooler_rows(
    scenario: Scenario, product: Product, passages: Sequence[Passage]
) -> list[tuple[int, float, float]]:  # fmt: skip
    """Leg, offset and dwell of every passage of a cooler in the room's air."""
    cooled = {step.station for step in cooling_steps(scenario, product) if in_room(step)}
    stops = [stop for stop, _ in passages if stop.station in cooled]
    return [(stop.leg, stop.offset_min, stop.dwell_min) for stop in stops]


@inner
def warmest(shop: ShopArrays, begin: float, end: float) -> float:
    """The warmest hour of the room between two moments, °C."""
    last = len(shop.air) - 1
    first, until = int(np.floor(begin / 60.0)), int(np.floor(end / 60.0))
    found = -np.inf
    for hour in range(min(max(first, 0), last), min(max(until, 0), last) + 1):
        found = max(found, shop.air[hour])
    return found


@inner
def cools_enough(shop: ShopArrays, runs: Runs, run: int) -> bool:
    """Whether the air at every cooler, from first piece in to last piece out, is cold enough for a run's class."""
    product = shop.products[runs.of[run].product]
    for place in range(product.first_cooler, product.end_cooler):
        cooler = shop.coolers[place]
        begin = runs.times[run, cooler.leg].start + cooler.offset
        end = begin + runs.times[run, cooler.leg].feed + cooler.dwell
        if warmest(shop, begin, end) > product.most_c + SAME_AIR_K:
            return False
    return bool(product.most_c > -np.inf)
