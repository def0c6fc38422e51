"""What every plan of some lines costs at least: each part bounded by itself, at its weight."""

from collections.abc import Sequence
from itertools import accumulate
from math import ceil, inf
from typing import NamedTuple

import numpy as np

from rundgang.core.compiled import Floats, Ints, Records
from rundgang.core.planning.decode.arrays import WHOLE
from rundgang.core.planning.decode.lorries import LATE_MIN, ON_TIME_MIN, SHORT, STALE, serve
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.model import Run
from rundgang.core.planning.objective import Weights
from rundgang.core.units import MINUTES_PER_HOUR

MOST_PRODUCTS = 12
"""Of more products on a line the least way through them is not worked out: every subset would be looked at."""


class LineBound(NamedTuple):
    """What was proved of the order items of a line.

    Attributes
    ----------
    bound : float
        A cost below which no order of these items lies, points; what stock costs by itself is not in it.
    order : array or None
        The items in the cheapest order of what was looked at, those left out last; None where none was reached.
    """

    bound: float
    order: Ints | None


def shop_bound(shop: Shop, lines: Sequence[str], fixed: Sequence[Run], weights: Weights) -> float:
    """A cost below which no plan of the lines lies, points; 0 of a line on which runs have begun."""
    begun, idle = {run.line for run in fixed}, idle_between(shop)
    return sum(line_bound(shop, line, weights, idle) for line in lines if line not in begun)


def line_bound(shop: Shop, line_id: str, weights: Weights, idle_min: Floats) -> float:
    """A cost below which no plan of the line lies, points.

    Either all is made, and what that takes at least in changeovers and time is paid; or something is left out, and
    the packs of the smallest demand are short at least.

    Parameters
    ----------
    idle_min : array, shape (P, P)
        Of the shop, as `idle_between` says it.
    """
    own = [place for place in shop.index.values() if shop.products[place].line == line_id]
    alone = {place: _product_alone(shop, place) for place in own}
    late_hours = sum(found[1] for found in alone.values())
    short = _least_short(shop, own)
    made = [place for place in own if alone[place][2] > 0]
    idle = least_idle(idle_min[np.ix_(made, made)])
    feed = sum(alone[place][2] for place in made)
    end = min((_first_pack(shop, place) for place in made), default=0.0) + feed + idle if made else 0.0
    spare = sum(found[3] for found in alone.values())
    floor = weights.packs_short * short + weights.late_pack_hours * late_hours
    whole = weights.changeover_min * idle + weights.surplus_packs * spare + weights.last_pack_min * end
    dues = shop.arrays.dues[np.isin(shop.arrays.dues["product"], own)]
    leaving_out = weights.packs_short * float(dues["weight"].min(initial=inf))
    return floor + min(whole, leaving_out)


def packs_lost(shop: Shop, lines: Sequence[str], fixed: Sequence[Run]) -> int:
    """Packs that miss their lorry in every plan of the lines; none are known of a line on which runs have begun."""
    begun, lost = {run.line for run in fixed}, 0
    for line in lines:
        own = [place for place in shop.index.values() if shop.products[place].line == line]
        dues = shop.arrays.dues[np.isin(shop.arrays.dues["product"], own)]
        if line not in begun and len(dues):
            lost += int(_least_short(shop, own) / float(dues["weight"].max()) + WHOLE)
    return lost


def _least_short(shop: Shop, own: Sequence[int]) -> float:
    """Packs short at least on a line that makes these products, as they count."""
    return max(sum(_product_alone(shop, place)[0] for place in own), _line_short(shop, own))


def _first_pack(shop: Shop, place: int) -> float:
    """The earliest first pack of a product, min."""
    product, spans = shop.arrays.products[place], shop.arrays.legs[place]["span"]
    return float(shop.arrays.now + product["lead"] + spans.sum() + product["tail"])


def _min_a_pack(shop: Shop, place: int) -> tuple[float, float]:
    """Feeding time of a pack at the divider, and where it is fed fastest, min."""
    product = shop.arrays.products[place]
    paces = shop.arrays.legs[place, : product["legs"]]["pace"]
    scaled = MINUTES_PER_HOUR * float(product["ratio"])
    return scaled / float(paces[0]), scaled / float(paces.max())


def _product_alone(shop: Shop, place: int) -> tuple[float, float, float, int]:
    """Packs short, pack hours late, feeding time and packs left over, if the line made nothing but one product."""
    dues, (since, lots) = shop.arrays.dues[shop.arrays.dues["product"] == place], shop.lots_of(place)
    stock, wanted = int(lots.sum()), int(dues["packs"].sum())
    left = max(0, wanted - stock)
    divided, fastest = _min_a_pack(shop, place)
    first = [*since, *[_first_pack(shop, place)] * bool(left)]
    outcome = _served(
        shop,
        dues,
        np.array(first),
        np.array([*np.zeros(len(lots)), *[fastest * left] * bool(left)]),
        np.array([*lots, *[left] * bool(left)], dtype=np.int64),
        aged=False,
    )
    weight = float(dues["weight"].min(initial=1.0))
    never = np.maximum(0.0, shop.arrays.window - dues["departs"]) * dues["packs"]
    late = np.minimum(outcome[:, LATE_MIN], never)
    short, hours = float(weight * outcome[:, SHORT].sum()), float(weight * late.sum()) / MINUTES_PER_HOUR
    return short, hours, divided * left, max(0, stock - wanted)


def _served(shop: Shop, dues: Records, first: Floats, feed: Floats, packs: Ints, aged: bool) -> Floats:
    """What lorries get of a product from so many packs, as `serve` says it; where not `aged`, as if none grew old."""
    outcome = np.empty((len(dues), 5))
    departs, wanted = dues["departs"].copy(), dues["packs"].copy()
    fresh, good = (dues[of].copy() if aged else np.full(len(dues), -inf) for of in ("fresh", "good"))
    serve(departs, wanted, fresh, good, first, feed, packs, shop.arrays.window, outcome)
    return outcome


def _line_short(shop: Shop, own: Sequence[int]) -> float:
    """Packs that miss their lorry because the line cannot feed all that is wanted by then, the fastest first."""
    dues = shop.arrays.dues[np.isin(shop.arrays.dues["product"], own)]
    if not len(dues):
        return 0
    begins = min(_first_pack(shop, place) for place in own)
    per_pack = {place: _min_a_pack(shop, place)[1] for place in own}
    needed = accumulate(int(due["packs"]) * per_pack[int(due["product"])] for due in dues)
    stock = sum(int(shop.lots_of(place)[1].sum()) * per_pack[place] for place in own)
    slowest = max(per_pack[int(due["product"])] for due in dues)
    over = max(
        minutes - stock - max(0.0, float(due["departs"]) - begins) for due, minutes in zip(dues, needed, strict=True)
    )
    return float(dues["weight"].min()) * max(0, ceil((over - ON_TIME_MIN) / slowest))


def is_timed(shop: Shop) -> bool:
    """Whether anything can be late or too old: else a plan costs what its changes and its last piece cost."""
    dues = shop.arrays.dues
    return bool((dues["departs"] < shop.arrays.window).any() or (dues["fresh"] > -inf).any())


def stock_floor(shop: Shop, weights: Weights) -> float:
    """What finished stock costs whatever is made: what of it grows too old, and what nobody ordered, points."""
    stale = spare = 0.0
    for place in shop.index.values():
        dues, (since, lots) = shop.arrays.dues[shop.arrays.dues["product"] == place], shop.lots_of(place)
        if not len(lots):
            continue
        outcome = _served(shop, dues, since, np.zeros(len(lots)), lots, aged=True)
        stale += float(outcome[:, STALE].sum())
        spare += max(0, int(lots.sum()) - int(dues["packs"].sum()))
    return weights.packs_stale * stale + weights.surplus_packs * spare


def least_changes(shop: Shop) -> tuple[Floats, Floats]:
    """Least white time at the divider, and least time that ovens burn empty, from one article to the next, min.

    Shape (P, P), at the places of their first heat classes: the least that any of their classes takes; infinite
    between two lines, and at the places of other classes.
    """
    count = len(shop.products)
    idle, empty = np.full((count, count), inf), np.full((count, count), inf)
    for own in _classes_by_line(shop):
        idle[np.ix_(own, own)], empty[np.ix_(own, own)] = _least_changes_on(shop, own)
    return idle, empty


def _classes_by_line(shop: Shop) -> list[Ints]:
    """The places of all heat classes of each line's products."""
    return [np.flatnonzero(shop.arrays.products["line"] == line) for line in range(shop.arrays.lines)]


def _least_changes_on(shop: Shop, own: Ints) -> tuple[Floats, Floats]:
    """`least_changes` between the classes of one line."""
    arrays, between = shop.arrays, np.ix_(own, own)
    idle = np.maximum(arrays.headway[:, :, 0, 0][between], 0.0)
    empty = np.zeros_like(idle)
    for oven in arrays.ovens[own].T:
        first = oven["leg"] == 0
        stands = idle + oven["offset"][None, :] - (oven["offset"] + oven["dwell"])[:, None]
        least = np.minimum(np.maximum(stands, 0.0), oven["heat_up"][None, :])
        empty += np.where(first[:, None] & first[None, :], least, 0.0)
    first_classes = np.searchsorted(own, arrays.products["article"][own])
    return between_articles(idle, first_classes), between_articles(empty, first_classes)


def between_articles(least: Floats, article: Ints) -> Floats:
    """The least of what the heat classes of two products take, at the places of their first."""
    found = np.full(least.shape, inf)
    np.minimum.at(found, np.ix_(article, article), least)
    return found


def idle_between(shop: Shop) -> Floats:
    """Least white time at the divider between two products, other products between them allowed, min."""
    return through_others(shop, least_changes(shop)[0])


def through_others(shop: Shop, least: Floats) -> Floats:
    """The least from one product to another, with others of its line between them allowed."""
    found = least.copy()
    for own in _classes_by_line(shop):
        within = least[np.ix_(own, own)]
        for via in range(len(own)):
            within = np.minimum(within, within[:, via, None] + within[None, via, :])
        found[np.ix_(own, own)] = within
    return found


def line_bits(shop: Shop) -> Ints:
    """Which of its line's products each is, at the place of its first heat class."""
    products = shop.arrays.products
    bit = np.full(len(products), -1)
    for line in range(shop.arrays.lines):
        own = np.flatnonzero((products["line"] == line) & (products["article"] == np.arange(len(products))))
        bit[own[:MOST_PRODUCTS]] = np.arange(len(own[:MOST_PRODUCTS]))
    return bit


def least_ways(least: Floats, bit: Ints) -> Floats:
    """The least way from each product through each subset, by M. Held and R. Karp's recursion (1962).

    Shape (subsets, P). A subset is named by the bits of its products; -1 of one that is in none.
    """
    found = np.full((1 << int(bit.max(initial=-1) + 1), len(least)), inf)
    found[0] = 0.0
    for subset in range(1, len(found)):
        for p in np.flatnonzero((bit >= 0) & (subset >> np.maximum(bit, 0) & 1 == 1)).tolist():
            found[subset] = np.minimum(found[subset], least[:, p] + found[subset & ~(1 << bit[p]), p])
    return found


def least_idle(idle: Floats) -> float:
    """The shortest way through all products."""
    count = len(idle)
    if count < 2:
        return 0.0
    if count > MOST_PRODUCTS:
        apart = idle + np.diag(np.full(count, inf))
        return float(np.sort(apart.min(axis=1))[:-1].sum())
    ways = least_ways(idle, np.arange(count))
    return min(float(ways[len(ways) - 1 - (1 << first), first]) for first in range(count))
