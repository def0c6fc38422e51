"""A line as the search through all orders of its relaxation takes it."""

from collections.abc import Sequence
from math import inf
from typing import NamedTuple

import numpy as np

from rundgang.core.compiled import Floats, Ints
from rundgang.core.planning.bound import least_changes, least_ways, line_bits, through_others
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.lorries import OrderItem
from rundgang.core.planning.objective import Weights
from rundgang.core.planning.relaxed.items import RelaxedItems
from rundgang.core.planning.relaxed.store import RelaxedStore, relaxed_store, tails
from rundgang.core.units import MINUTES_PER_HOUR


class RelaxedLine(NamedTuple):
    """A line's items, the changes between its products and its lorries; N items, P products, D demands of lorries.

    Attributes
    ----------
    product : array, shape (N,)
        The product of each item.
    wanted, feed, release, shortest, gives, min_a_pack : array, shape (N,)
        Packs; feeding time at least; earliest start; to the first pack at least, from the start, and from that of the
        last leg; time that a pack takes there, min.
    gap, oven : array, shape (P, P)
        White time between two products at least, min, and what the oven that burns empty costs, points.
    bit : array, shape (P,)
        Which of the line's products each is; -1 of those that are too many.
    onward : array, shape (subsets, P)
        What it costs at least to go on from a product through a subset of the line's, points.
    due : array, shape (D,)
        The product of each demand, all of one product together, by time.
    by, demand, packs, short_costs : array, shape (D,)
        Until when packs can be loaded, min; packs made by then at least that serve it and those before it; its own
        packs; what one that is short costs, points.
    white_costs, last_costs : float
        A minute of white time, and one until the last pack, points.
    window : float
        min.
    """

    product: Ints
    wanted: Floats
    feed: Floats
    release: Floats
    shortest: Floats
    gives: Floats
    min_a_pack: Floats
    gap: Floats
    oven: Floats
    bit: Ints
    onward: Floats
    due: Ints
    by: Floats
    demand: Floats
    packs: Floats
    short_costs: Floats
    white_costs: float
    last_costs: float
    window: float
    store: RelaxedStore


def relaxed_line(shop: Shop, listed: Sequence[OrderItem], items: RelaxedItems, weights: Weights) -> RelaxedLine:
    """The items of a line, alone in its shop, as the search through all their orders takes them."""
    arrays, places, store = shop.arrays, np.array(items.places), relaxed_store(shop, listed, items, weights)
    idle, empty = least_changes(shop)
    same, known = np.eye(len(idle), dtype=bool), np.isfinite(idle)
    gap = np.where(known & ~same, idle, 0.0)
    oven = np.where(known & ~same, weights.oven_empty_min * empty, 0.0)
    change = np.where(known | same, weights.changeover_min * gap + oven, inf)
    bit, last_leg = line_bits(shop), int(store.is_there)
    ratio, pace = arrays.products[places]["ratio"], arrays.legs[places, last_leg]["pace"]
    due, by, demand, packs, short_costs = _demands(items, weights)
    return RelaxedLine(
        product=places,
        wanted=items.wanted.astype(float),
        feed=items.feed,
        release=np.maximum(items.release, items.fresh - items.longest),
        shortest=items.shortest,
        gives=tails(shop, items.places)[0] if store.is_there else items.shortest,
        min_a_pack=MINUTES_PER_HOUR * ratio / pace,
        gap=gap,
        oven=oven,
        bit=bit,
        onward=least_ways(through_others(shop, change), bit),
        due=due,
        by=by,
        demand=demand,
        packs=packs,
        short_costs=short_costs,
        white_costs=float(weights.changeover_min),
        last_costs=float(weights.last_pack_min),
        window=items.window,
        store=store,
    )


def _demands(items: RelaxedItems, weights: Weights) -> tuple[Ints, Floats, Floats, Floats, Floats]:
    """What lorries want, product by product, by time, as `RelaxedLine` has it, less what can be over of a run."""
    found = list[tuple[int, float, int, int, float]]()
    for place, surplus in items.surplus.items():
        own = [item for item, its in enumerate(items.places) if its == place]
        until = -surplus
        for due in sorted({items.due[item] for item in own}, key=lambda due: (due.loaded_by_min, due.wave)):
            packs = sum(int(items.wanted[item]) for item in own if items.due[item] == due)
            until += packs
            found.append((place, due.loaded_by_min, until, packs, weights.packs_short * due.weight))
    places, by, demand, packs_of, costs = (np.array(column, dtype=float) for column in zip(*found, strict=True))
    return places.astype(np.int64), by, demand, packs_of, costs
