"""What every plan of a line costs at least: each part bounded by itself, at its price."""

from itertools import accumulate
from math import inf

import numpy as np

from rundgang.core.compiled import Floats
from rundgang.core.planning.arrays import LineShop
from rundgang.core.planning.kernel import serve_lots
from rundgang.core.planning.model import Weights
from rundgang.core.units import MINUTES_PER_HOUR

MOST_PRODUCTS = 13
"""Of more products the least changeover is not worked out: every subset of them would be looked at."""


def line_bound(shop: LineShop, weights: Weights) -> float:
    """A cost below which no plan of the line lies, points."""
    alone = [_product_alone(shop, place) for place in range(len(shop.products))]
    short = sum(found[0] for found in alone)
    late_hours = sum(found[1] for found in alone)
    feed = sum(found[2] for found in alone)
    spare = sum(found[3] for found in alone)
    made = [place for place, found in enumerate(alone) if found[2] > 0]
    idle = least_idle(idle_between(shop)[np.ix_(made, made)])
    end = (
        min((float(shop.data.lead[p] + shop.data.transit[p]) for p in made), default=0.0) + feed + idle if made else 0.0
    )
    return (
        weights.packs_short * max(short, _line_short(shop))
        + weights.late_pack_hours * late_hours
        + weights.changeover_min * idle
        + weights.surplus_packs * spare
        + weights.last_pack_min * end
    )


def _product_alone(shop: LineShop, place: int) -> tuple[int, float, float, int]:
    """Packs short, pack hours late, feeding time and packs left over, if the line made nothing but one product."""
    data = shop.data
    lots = np.flatnonzero(data.lot_product == place)
    stock, wanted = int(data.in_stock[place]), int(data.lot_packs[lots].sum())
    left = max(0, wanted - stock)
    feed = MINUTES_PER_HOUR * left * float(data.ratio[place] / data.pace[place])
    first = [float(data.stock_made[place])] * bool(stock) + [float(data.lead[place] + data.transit[place])] * bool(left)
    outcome = np.empty((len(lots), 4))
    serve_lots(
        data.lot_departs[lots],
        data.lot_packs[lots],
        np.full(len(lots), -inf),
        np.array(first),
        np.array([0.0] * bool(stock) + [feed] * bool(left)),
        np.array([stock] * bool(stock) + [left] * bool(left), dtype=np.int64),
        outcome,
    )
    return int(outcome[:, 0].sum()), float(outcome[:, 1].sum()) / MINUTES_PER_HOUR, feed, max(0, stock - wanted)


def _line_short(shop: LineShop) -> int:
    """Packs that miss their lorry because the line cannot feed all that is wanted by then, the fastest first."""
    data = shop.data
    mixed = [lot for lot in range(len(data.lot_product)) if data.lot_product[lot] < len(shop.products)]
    if not mixed:
        return 0
    begins = float((data.lead + data.transit).min())
    per_pack = MINUTES_PER_HOUR * data.ratio / data.pace
    needed = accumulate(float(data.lot_packs[lot] * per_pack[data.lot_product[lot]]) for lot in mixed)
    stock = float((data.in_stock[: len(per_pack)] * per_pack).sum())
    slowest = float(max(per_pack[data.lot_product[lot]] for lot in mixed))
    over = max(
        minutes - stock - max(0.0, float(data.lot_departs[lot]) - begins)
        for lot, minutes in zip(mixed, needed, strict=True)
    )
    return max(0, int(over / slowest))


def idle_between(shop: LineShop) -> Floats:
    """Least white time at the divider between two products, other products between them allowed, min."""
    legs = shop.data.headway.copy()
    legs[:, :, :, 1] -= shop.data.slack[None, :, None]
    least: Floats = np.maximum(legs.max(axis=(2, 3)), 0.0)
    for via in range(len(least)):
        least = np.minimum(least, least[:, via, None] + least[None, via, :])
    return least


def least_idle(idle: Floats) -> float:
    """The shortest way through all products, by M. Held and R. Karp's recursion over subsets (1962)."""
    count = len(idle)
    if count < 2:
        return 0.0
    if count > MOST_PRODUCTS:
        apart = idle + np.diag(np.full(count, inf))
        return float(np.sort(apart.min(axis=1))[:-1].sum())
    best = np.full((1 << count, count), inf)
    for first in range(count):
        best[1 << first, first] = 0.0
    for subset in range(1, 1 << count):
        for then in range(count):
            if not subset >> then & 1:
                through = float((best[subset] + idle[:, then]).min())
                grown = subset | 1 << then
                best[grown, then] = min(best[grown, then], through)
    return float(best[-1].min())
