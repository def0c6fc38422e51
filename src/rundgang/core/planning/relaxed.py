"""The order items of a line as a relaxation takes them: each as soon and as short as any plan can have it.

Items follow each other at the divider, with the white time and the empty oven that the change between two products
takes at least. None begins so early that it would be too old, as far as its way through the line can be long. What has
gone the shortest way through it when a lorry has been loaded is what that lorry and those before it can have; the rest
is short. Lateness beyond that, people, doughs and what lines share are left away: that makes no plan dearer.
"""

from collections.abc import Sequence
from math import ceil, floor, inf
from typing import NamedTuple

import numpy as np

from rundgang.core.batching import packs_from_pieces, pieces_for_packs
from rundgang.core.compiled import Floats, Ints, Records
from rundgang.core.planning.bound import least_changes, least_ways, line_bits, through_others
from rundgang.core.planning.decode.arrays import WHOLE
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.decode.units import dough_pace
from rundgang.core.planning.lorries import OrderItem
from rundgang.core.planning.objective import Weights
from rundgang.core.planning.relaxed_orders import MOST_ITEMS, RelaxedLine, RelaxedStore, cheapest, room_for
from rundgang.core.units import MINUTES_PER_HOUR

UNKNOWN = -2
"""In an order that is not known."""

NEVER = -1e9
"""An item that need not be fresh waits for that until this minute."""


class RelaxedItems:
    """What a relaxation knows of the items of a line, by item.

    Attributes
    ----------
    wanted, packs, feed : array
        Packs; those that are made for it at least, for what a run before it has made too much is not; and how long
        these feed the divider, min.
    surplus : dict of int to int
        Packs of a product that can be over from a run at most.
    min_a_pack : array
        Feeding time of a pack, min.
    shortest, longest : array
        From its start to its first pack, min; `longest` is infinite where nothing says how long that can be.
    release : array
        The earliest start, min.
    fresh : array
        When its first pack may be made, min.
    """

    def __init__(self, shop: Shop, listed: Sequence[OrderItem]) -> None:
        arrays = shop.arrays
        dues = {(due.product, due.wave): due for due in shop.dues}
        self.due = [dues[item.due] for item in listed]
        self.places = [shop.index[item.product] for item in listed]
        products, legs = arrays.products[self.places], arrays.legs[self.places]
        wanted = np.array([item.packs for item in listed])
        self.surplus = {place: _surplus(shop, listed, place) for place in self.places}
        self.wanted, self.packs = wanted, np.maximum(wanted - [self.surplus[place] for place in self.places], 0)
        self.min_a_pack = MINUTES_PER_HOUR * products["ratio"] / legs["pace"][:, 0]
        self.feed = self.packs * self.min_a_pack
        ways = [_through(shop, place) for place in self.places]
        self.shortest, self.longest = (np.array(way) for way in zip(*ways, strict=True))
        self.release = np.maximum(arrays.now + products["lead"], arrays.set_free[self.places, 0])
        self.fresh = np.array([due.fresh_from_min for due in self.due])
        self.window = arrays.window


def _through(shop: Shop, place: int) -> tuple[float, float]:
    """From a run's start to its first pack in any heat class, min: at least, and with the longest stay in stores."""
    end = place + int(shop.arrays.products[place]["classes"])
    legs, tails = shop.arrays.legs[place:end], shop.arrays.products[place:end]["tail"]
    least = legs["span"].sum(axis=1) + tails
    most = inf if legs["waits"].any() else float((least + legs["slack"].sum(axis=1)).max())
    return float(least.min()), most


def _surplus(shop: Shop, listed: Sequence[OrderItem], place: int) -> int:
    """Packs of a product that can be over from a run at most, by the choice for its odd last dough."""
    product = shop.products[place]
    least, most = int(shop.arrays.products[place]["least"]), int(shop.arrays.products[place]["most"])
    own = [item for item in listed if shop.index[item.product] == place]
    choices = {item.odd_batch or shop.policy[product.id] for item in own}
    smallest = min(pieces_for_packs(product, item.packs) for item in own)
    if choices == {"equal"} and 2 * least <= most and smallest >= least:
        return ceil(1 / product.scaled_per_pack) - 1
    return packs_from_pieces(product, most if "round-up" in choices else least)


class RelaxedBound(NamedTuple):
    """What was proved of the order items of a line.

    Attributes
    ----------
    bound : float
        A cost below which no order of these items lies, points; what stock costs by itself is not in it.
    order : array or None
        The items in the cheapest order of the relaxation, those left out last; None where it was not reached.
    """

    bound: float
    order: Ints | None


def relaxed_bound(
    shop: Shop, listed: Sequence[OrderItem], weights: Weights, most: int, known_cost: float
) -> RelaxedBound:  # fmt: skip
    """Prove what the items of a line cost at least, whatever their order and wherever a run waits.

    Parameters
    ----------
    shop : Shop
        Of the line alone, on which nothing has begun.
    most : int
        Beginnings of orders to look at; with more the bound is higher, until the cheapest order is reached.
    known_cost : float
        What the plan of some order costs, points.
    """
    if len(listed) > MOST_ITEMS:
        return RelaxedBound(0.0, None)
    line = relaxed_line(shop, listed, weights)
    floor_costs = stale_floor(shop, RelaxedItems(shop, listed), weights, known_cost)
    order = np.full(len(listed), UNKNOWN, dtype=np.int64)
    least, _ = cheapest(line, room_for(most, len(line.due)), known_cost - floor_costs, order)
    found = [item for item in order.tolist() if item >= 0]
    if order[0] == UNKNOWN:
        return RelaxedBound(least + floor_costs, None)
    left_out = [item for item in range(len(listed)) if item not in found]
    return RelaxedBound(least + floor_costs, np.array(found + left_out, dtype=np.int64))


def relaxed_line(shop: Shop, listed: Sequence[OrderItem], weights: Weights) -> RelaxedLine:
    """The items of a line, alone in its shop, as the search through all their orders takes them."""
    items, arrays = RelaxedItems(shop, listed), shop.arrays
    places, store = np.array(items.places), relaxed_store(shop, listed, items)
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
        gives=_tails(shop, items.places)[0] if store.is_there else items.shortest,
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


def relaxed_store(shop: Shop, listed: Sequence[OrderItem], items: RelaxedItems) -> RelaxedStore:
    """What is known of the store that all items pass; `is_there` is 0 where they do not.

    So it is, too, where something else may delay them at no cost: a pin, a material that binds, a machine shared with
    another line.
    """
    products, legs = shop.arrays.products[items.places], shop.arrays.legs[items.places]
    if not _all_pass_a_store(shop, listed, products, legs):
        return _no_store(len(listed), len(shop.products))
    behind, (first_tail, last_tail) = legs[:, 1], _tails(shop, items.places)
    slowest = np.array([_slowest(shop, *of) for of in zip(items.places, listed, strict=True)])
    least = items.packs * products["ratio"]
    most = (items.wanted + [items.surplus[place] + 1 for place in items.places]) * products["ratio"]
    held = _held(shop.items(listed), items, most * behind["share"], behind, _longer(most, legs, listed))
    most_feed = MINUTES_PER_HOUR * most / slowest
    return RelaxedStore(
        is_there=1,
        span=behind["span"].copy(),
        slack=behind["slack"].copy(),
        fresh_in=items.fresh - last_tail,
        enters=behind["entry"].copy(),
        leaves=behind["span"] - behind["entry"] - behind["hold"],
        fills=MINUTES_PER_HOUR * least / slowest,
        empties=MINUTES_PER_HOUR * least / behind["pace"],
        share=least * behind["share"],
        most_feed=most_feed,
        apart=_apart(shop, items.places),
        costless=_costless(items, first_tail, held),
        opens=np.array([_opens(shop, place) for place in items.places]),
        allowance=_allowance(shop, items, most_feed, held),
    )


def _no_store(items: int, products: int) -> RelaxedStore:
    none = np.zeros(items)
    return RelaxedStore(
        is_there=0,
        span=none,
        slack=none,
        fresh_in=none,
        enters=none,
        leaves=none,
        fills=none,
        empties=none,
        share=none,
        most_feed=none,
        apart=np.zeros((products, products)),
        costless=np.zeros((items, items)),
        opens=none,
        allowance=0.0,
    )


def _all_pass_a_store(shop: Shop, listed: Sequence[OrderItem], products: Records, legs: Records) -> bool:
    """Whether all have two legs with a store between them, doughs alone, and nothing that delays them at no cost."""
    if len(shop.arrays.draws) or not (products["legs"] == 2).all() or (legs[:, 1]["store"] < 0).any():
        return False
    if (products["end_stream"] - products["first_stream"] > 1).any() or (
        products["end_meet"] > products["first_meet"]
    ).any():
        return False
    return all(item.pinned_min is None and item.not_before_min is None for item in listed)


def _classes(shop: Shop, place: int) -> Ints:
    """The places of a product's heat classes."""
    return np.arange(place, place + int(shop.arrays.products[place]["classes"]))


def _tails(shop: Shop, places: Sequence[int]) -> tuple[Floats, Floats]:
    """From the start of the last leg to the first pack in any heat class, at least and at most, min."""
    tails = [shop.arrays.products[_classes(shop, place)]["tail"] for place in places]
    return np.array([tail.min() for tail in tails]), np.array([tail.max() for tail in tails])


def _slowest(shop: Shop, place: int, item: OrderItem) -> float:
    """The slowest that a run feeds the divider, pieces/h: with the smallest doughs, or as the leg behind needs it."""
    arrays = shop.arrays
    ahead, behind = (float(arrays.legs[place, leg]["pace"]) * item.pace_share for leg in (0, 1))
    most_units = int((arrays.rooms.pools["end"] - arrays.rooms.pools["first"]).max())
    doughs = np.full(most_units + 2, int(arrays.products[place]["least"]), dtype=np.int64)
    return min(float(dough_pace(arrays, place, ahead, doughs)), behind)


def _longer(pieces: Floats, legs: Records, listed: Sequence[OrderItem]) -> Floats:
    """How much longer the second leg of so many pieces can be fed than the first, min."""
    shares = np.array([item.pace_share for item in listed])
    slower = np.maximum(0.0, 1 / legs[:, 1]["pace"] - 1 / legs[:, 0]["pace"])
    return np.asarray(MINUTES_PER_HOUR * pieces / shares * slower)


def _apart(shop: Shop, places: Sequence[int]) -> Floats:
    """From the end of one product's second leg to the start of another's at least, min; shape (P, P)."""
    found = np.zeros((len(shop.products), len(shop.products)))
    for one in set(places):
        for other in set(places) - {one}:
            headways = shop.arrays.headway[np.ix_(_classes(shop, one), _classes(shop, other))]
            found[one, other] = max(0.0, float(headways[:, :, 1, 1].min()))
    return found


def _held(items: Records, known: RelaxedItems, share: Floats, behind: Records, longer: Floats) -> Floats:
    """How long an item can be held at least from the start of its first leg, as one run with another, min.

    Shape (N, N); -inf where they cannot be one run. A run of more than the store is held no longer than it must be.

    Parameters
    ----------
    items : array, shape (N,)
        As the decoder takes them.
    share, longer : array, shape (N,)
        Of the store at most; how much longer the second leg is fed than the first, min.
    """
    count, places = len(items), np.array(known.places)
    found = np.full((count, count), -inf)
    for item in range(count):
        joins = places == places[item]
        joins &= (items["fresh"] < items[item]["leaves"]) & (items[item]["fresh"] < items["leaves"])
        for other in np.flatnonzero(joins | (np.arange(count) == item)).tolist():
            run = joins if other != item else np.arange(count) == item
            fits = share[run].sum() <= 1
            slack = max(0.0, float(behind["slack"][item] - longer[run].sum())) if fits else 0.0
            found[item, other] = behind["span"][item] + slack
    return found


def _costless(items: RelaxedItems, tail: Floats, held: Floats) -> Floats:
    """Until when an item waits at no cost to be fresh, as one run with another, min; -inf where they cannot be one.

    Parameters
    ----------
    tail : array, shape (N,)
        From the start of the second leg to the first pack at least, min.
    """
    fresh = np.maximum(np.maximum(items.fresh[:, None], items.fresh[None, :]), NEVER)
    return np.where(held > -inf, fresh - tail[:, None] - np.maximum(held, 0.0), -inf)


def _opens(shop: Shop, place: int) -> float:
    """When the line can be begun with a product in any heat class at the latest, min."""
    at = _classes(shop, place)
    return max(shop.arrays.now + float(shop.arrays.products[at]["lead"].max()), float(shop.arrays.set_free[at].max()))


def _allowance(shop: Shop, items: RelaxedItems, most_feed: Floats, held: Floats) -> float:
    """What closings may make items wait at no cost, min: each of them one, for as long as its run is in their way."""
    total = 0.0
    for item, place in enumerate(items.places):
        least_held = float(held[item][held[item] > -inf].min())
        for product in shop.arrays.products[_classes(shop, place)]:
            for closing in shop.arrays.closings[int(product["first_closing"]) : int(product["end_closing"])]:
                ahead = least_held if closing["leg"] == 1 else 0.0
                if closing["high"] - ahead > items.release[item]:
                    total += float(closing["high"] - closing["low"] + most_feed[item])
    return total


def stale_floor(shop: Shop, items: RelaxedItems, weights: Weights, known: float) -> float:
    """What packs cost that are over of whole pieces and too old for the next lorry, whatever the order, points.

    A piece that gives many packs, a sheet or a slab, makes some too many. Of what lorries want that only fresher packs
    than theirs can follow, all is made in so many pieces at least, and each further run can lose less than one pack.

    Parameters
    ----------
    known : float
        What an order costs that is known, points: lorries that could be left out for less are left away.
    """
    total = 0.0
    for place in items.surplus:
        ratio, goods = float(shop.arrays.products[place]["ratio"]), shop.arrays.goods[place]
        own = [item for item, its in enumerate(items.places) if its == place]
        own.sort(key=lambda item: items.due[item].loaded_by_min)
        for ahead, behind in _apart_in_age(items, own) if not goods["in_stock"] else ():
            wanted = int(items.wanted[ahead].sum())
            over = floor(ceil(wanted * ratio - WHOLE) / ratio + WHOLE) - wanted - (len(ahead) - 1)
            waits = items.fresh[behind].min() - max(items.due[item].loaded_by_min for item in ahead)
            weight = weights.packs_short * min(items.due[item].weight for item in ahead)
            left_out = weight * min(float(items.wanted[ahead].min()), waits / float(items.min_a_pack[ahead].max()))
            total += weights.packs_stale * over if over > 0 and left_out >= known else 0.0
    return total


def _apart_in_age(items: RelaxedItems, own: Sequence[int]) -> list[tuple[list[int], list[int]]]:
    """Items of a product, by time, up to lorries that want nothing made for those before; each part, and all behind."""
    found, begin = list[tuple[list[int], list[int]]](), 0
    for place in range(1, len(own)):
        leaves = max(items.due[item].loaded_by_min for item in own[begin:place])
        if min(items.fresh[item] for item in own[place:]) > leaves:
            found.append((list(own[begin:place]), list(own[place:])))
            begin = place
    return found
