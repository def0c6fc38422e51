"""The order items of a line as a relaxation takes them: each as soon and as short as any plan can have it.

Items follow each other at the divider, with the white time and the empty oven that the change between two products
takes at least. None begins so early that it would be too old, as far as its way through the line can be long. What has
gone the shortest way through it when a lorry has been loaded is what that lorry and those before it can have; the rest
is short. Lateness beyond that, people, doughs and what lines share are left away: that makes no plan dearer.
"""

from collections.abc import Sequence
from math import ceil, inf

import numpy as np

from rundgang.core.batching import packs_from_pieces, pieces_for_packs
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.decode.units import dough_pace
from rundgang.core.planning.lorries import OrderItem
from rundgang.core.units import MINUTES_PER_HOUR


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
    fresh, good : array
        When its first pack may be made, for its lorry and for any that leaves as late, min.
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
        self.good = np.array([due.good_from_min for due in self.due])
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


def slowest_pace(shop: Shop, place: int, item: OrderItem) -> float:
    """The slowest that a run without fillings is fed, pieces/h: with the smallest doughs, or as its slowest leg is."""
    arrays = shop.arrays
    paces = arrays.legs[place, : arrays.products[place]["legs"]]["pace"] * item.pace_share
    most_units = int((arrays.rooms.pools["end"] - arrays.rooms.pools["first"]).max())
    doughs = np.full(most_units + 2, int(arrays.products[place]["least"]), dtype=np.int64)
    return min(float(dough_pace(arrays, place, float(paces[0]), doughs)), float(paces.min()))
