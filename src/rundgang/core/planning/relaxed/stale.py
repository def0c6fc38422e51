"""Packs that whole pieces give too many, and that are too old for the next lorry."""

from collections.abc import Sequence
from math import ceil, floor

from rundgang.core.planning.decode.arrays import WHOLE
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.lorries import OrderItem
from rundgang.core.planning.objective import Weights
from rundgang.core.planning.relaxed.items import RelaxedItems, slowest_pace
from rundgang.core.units import MINUTES_PER_HOUR


def stale_floor(
    shop: Shop, listed: Sequence[OrderItem], items: RelaxedItems, weights: Weights, known: float
) -> float:  # fmt: skip
    """What packs cost that are over of whole pieces and too old for the next lorry, whatever the order, points.

    A piece that gives many packs, a sheet or a slab, makes some too many. Of what lorries want that only fresher packs
    than theirs can follow, all is made in so many pieces at least, and each further run can lose less than one pack.
    Those that end so late that what is over is fresh for the next lorry miss their own. Only of what is in no stock,
    and is made without fillings.

    Parameters
    ----------
    known : float
        What an order costs that is known, points: lorries that could be left out for less are left away.
    """
    total = 0.0
    for place in items.surplus:
        product = shop.arrays.products[place]
        ratio, streams = float(product["ratio"]), int(product["end_stream"] - product["first_stream"])
        own = [item for item, its in enumerate(items.places) if its == place]
        slowest = min(slowest_pace(shop, place, listed[item]) for item in own)
        own.sort(key=lambda item: items.due[item].loaded_by_min)
        plain = not len(shop.lots_of(place)[1]) and streams == 1
        for ahead, behind in _apart_in_age(items, own) if plain else ():
            wanted = int(items.wanted[ahead].sum())
            over = floor(ceil(wanted * ratio - WHOLE) / ratio + WHOLE) - wanted - (len(ahead) - 1)
            waits = items.good[behind].min() - max(items.due[item].loaded_by_min for item in ahead)
            late = waits * slowest / MINUTES_PER_HOUR / ratio
            weight = weights.packs_short * min(items.due[item].weight for item in ahead)
            left_out = weight * min(float(items.wanted[ahead].min()), late)
            total += weights.packs_stale * over if over > 0 and left_out >= known else 0.0
    return total


def _apart_in_age(items: RelaxedItems, own: Sequence[int]) -> list[tuple[list[int], list[int]]]:
    """Items of a product, by time, up to lorries that want nothing made for those before; each part, and all behind."""
    found, begin = list[tuple[list[int], list[int]]](), 0
    for place in range(1, len(own)):
        leaves = max(items.due[item].loaded_by_min for item in own[begin:place])
        if min(items.good[item] for item in own[place:]) > leaves:
            found.append((list(own[begin:place]), list(own[place:])))
            begin = place
    return found
