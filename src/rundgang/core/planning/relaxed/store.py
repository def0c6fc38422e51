"""A store that all products of a line pass, a retarder or a rack room, as a relaxation takes it.

No more stands in it than it holds, so the divider must wait, and waiting is white time. An item waits since the one
before it ended; what it waits to be fresh, or for the end of a closing, is no change and costs nothing.
"""

from collections.abc import Sequence
from math import inf
from typing import NamedTuple

import numpy as np

from rundgang.core.compiled import Floats, Ints, Records
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.lorries import OrderItem
from rundgang.core.planning.objective import Weights
from rundgang.core.planning.relaxed.items import RelaxedItems, slowest_pace
from rundgang.core.units import MINUTES_PER_HOUR

NEVER = -1e9
"""An item that need not be fresh waits for that until this minute."""


class RelaxedStore(NamedTuple):
    """What is known of the items that pass a store, each array by item; times in minutes.

    Attributes
    ----------
    is_there : int
        1 where they do; else the rest says nothing.
    span, slack : array
        From the start of the first leg to that of the second at the least hold, and most beyond it.
    fresh_in : array
        Earliest start of the second leg, for the first pack to be fresh.
    enters, leaves : array
        From the start of the first leg to entering the store, of the slowest of all that may have come before; from
        leaving it, turn-round included, to the start of the second leg, of the first of all to leave.
    fills, empties : array
        How long the pieces made for it take to come in at most, and to leave at least.
    share : array
        Of the store, that it fills at least.
    most_feed : array
        How long it feeds the divider at most.
    apart : array, shape (P, P)
        From the end of one product's second leg to the start of another's at least.
    costless : array, shape (N, N)
        Until when an item may wait at no cost, alone and made as one run with another; -inf where it cannot be one.
    opens : array
        Until when it may wait at no cost as the first of all.
    allowance : float
        What closings may make wait at no cost.
    """

    is_there: int
    span: Floats
    slack: Floats
    fresh_in: Floats
    enters: Floats
    leaves: Floats
    fills: Floats
    empties: Floats
    share: Floats
    most_feed: Floats
    apart: Floats
    costless: Floats
    opens: Floats
    allowance: float


def relaxed_store(
    shop: Shop, listed: Sequence[OrderItem], items: RelaxedItems, weights: Weights
) -> RelaxedStore:  # fmt: skip
    """What is known of the store that all items pass; `is_there` is 0 where they do not.

    So it is, too, where something else may delay them at no cost, a pin, a material that binds, a machine shared with
    another line; where one may leave it before another; and where a minute of waiting costs more than being late.

    The first of all may begin as late as its own lorry lets it at no cost: a planner can hold it back.
    """
    products, legs = shop.arrays.products[items.places], shop.arrays.legs[items.places]
    if not _all_pass_a_store(shop, listed, products, legs):
        return _no_store(len(listed), len(shop.products))
    apart = _apart(shop, items.places)
    behind, (first_tail, last_tail) = legs[:, 1], tails(shop, items.places)
    slowest = np.array([slowest_pace(shop, *of) for of in zip(items.places, listed, strict=True)])
    least = items.packs * products["ratio"]
    most = (items.wanted + [items.surplus[place] + 1 for place in items.places]) * products["ratio"]
    held = _held(shop.items(listed), items, most * behind["share"], behind, _longer(most, legs, listed))
    fills, empties = MINUTES_PER_HOUR * least / slowest, MINUTES_PER_HOUR * least / behind["pace"]
    most_feed = MINUTES_PER_HOUR * most / slowest
    packs_a_min = behind["pace"] / MINUTES_PER_HOUR / products["ratio"]
    late_costs = weights.packs_short * packs_a_min * [due.weight for due in items.due]
    if (apart < 0).any() or (late_costs < weights.changeover_min).any():
        return _no_store(len(listed), len(shop.products))
    latest = np.array([due.loaded_by_min for due in items.due]) - first_tail - behind["span"] - empties
    opens = np.array([_opens(shop, place) for place in items.places])
    return RelaxedStore(
        is_there=1,
        span=behind["span"].copy(),
        slack=behind["slack"].copy(),
        fresh_in=items.fresh - last_tail,
        enters=np.maximum(behind["entry"], (behind["entry"] + fills - items.feed).max()),
        leaves=np.full(len(listed), (behind["span"] - behind["entry"] - behind["hold"]).max()),
        fills=fills,
        empties=empties,
        share=least * behind["share"],
        most_feed=most_feed,
        apart=apart,
        costless=_costless(items, first_tail, held),
        opens=np.maximum(opens, latest),
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


def tails(shop: Shop, places: Sequence[int]) -> tuple[Floats, Floats]:
    """From the start of the last leg to the first pack in any heat class, at least and at most, min."""
    tails = [shop.arrays.products[_classes(shop, place)]["tail"] for place in places]
    return np.array([tail.min() for tail in tails]), np.array([tail.max() for tail in tails])


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
            found[one, other] = float(headways[:, :, 1, 1].min())
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
