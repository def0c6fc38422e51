"""Beginnings: what every order costs at least that begins with some items, the others still to be put in order.

Orders are decoded from their first item on, so what a beginning has cost, every order costs that begins so. What is
still to be made costs the white time between its products at least, and the packs that no order of it can make by
their lorry.
"""

from typing import NamedTuple

import numpy as np

from rundgang.core.compiled import Floats, Ints, Records, compiled, inner
from rundgang.core.planning.bound import idle_between, least_changes, least_ways, line_bits, through_others
from rundgang.core.planning.decode.appraisal import CHANGEOVER, LAST, LATE, OVEN, SHORT, STALE, oven_empty
from rundgang.core.planning.decode.arrays import WHOLE, Runs, ShopArrays
from rundgang.core.planning.decode.lorries import LATE_MIN, NEVER, ON_TIME_MIN, given_by, serve
from rundgang.core.planning.decode.lorries import SHORT as PACKS_SHORT
from rundgang.core.planning.decode.lorries import STALE as PACKS_STALE
from rundgang.core.planning.decode.runs import ends_min
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.objective import Weights
from rundgang.core.units import MINUTES_PER_HOUR


class Ahead(NamedTuple):
    """What is known of the products of a shop before any order, at the places of their first heat classes.

    Attributes
    ----------
    idle : array, shape (P, P)
        White time at the divider between two at least, others between them allowed, min.
    min_a_pack, shortest, release : array, shape (P,)
        Feeding time of a pack; from the run's start to its first pack at least; the earliest start, min.
    surplus : array, shape (P,)
        Packs that can be over from a run at most.
    bit : array, shape (P,)
        Which of its line's products it is; -1 of those that are too many.
    onward : array, shape (subsets, P)
        What it costs at least to go on from a product through a subset of its line's, points.
    weight : array, shape (P,)
        How much a pack counts at least.
    """

    idle: Floats
    min_a_pack: Floats
    shortest: Floats
    release: Floats
    surplus: Ints
    bit: Ints
    onward: Floats
    weight: Floats


def ahead_of(shop: Shop, weights: Weights) -> Ahead:
    """What is known of a shop's products before any order."""
    arrays, count = shop.arrays, len(shop.products)
    products, legs, article = arrays.products, arrays.legs, arrays.products["article"]
    idle, empty = least_changes(shop)
    bit = line_bits(shop)
    known = np.isfinite(idle)
    change = np.full(idle.shape, np.inf)
    change[known] = weights.changeover_min * idle[known] + weights.oven_empty_min * empty[known]
    np.fill_diagonal(change, 0.0)

    def least(by_class: Floats) -> Floats:
        found = np.full(count, np.inf)
        np.minimum.at(found, article, by_class)
        return found

    surplus = np.zeros(count, dtype=np.int64)
    np.maximum.at(surplus, article, np.ceil(products["most"] / products["ratio"]).astype(np.int64))
    dues = arrays.dues[arrays.dues["product"] < count]
    weight = np.full(count, np.inf)
    np.minimum.at(weight, dues["product"], dues["weight"])
    return Ahead(
        idle=idle_between(shop),
        min_a_pack=least(MINUTES_PER_HOUR * products["ratio"] / legs["pace"][:, 0]),
        shortest=least(legs["span"].sum(axis=1) + products["tail"]),
        release=least(np.maximum(arrays.now + products["lead"], arrays.set_free[:, 0])),
        surplus=surplus,
        bit=bit,
        onward=least_ways(through_others(shop, change), bit),
        weight=weight,
    )


@inner
def _closed(shop: ShopArrays, items: Records, order: Ints, used: Ints, runs: Runs, count: int) -> int:
    """So many runs, from the first, that nothing put behind these items changes: the last of a line can still grow."""
    closed = count
    for item in range(len(items)):
        if used[item]:
            continue
        line = shop.products[items[item].product].line
        for place in range(len(order) - 1, -1, -1):
            before = items[order[place]].product
            if shop.products[before].line == line:
                run = runs.joins[order[place]]
                if before == items[item].product and 0 <= run < closed:
                    closed = run
                break
    return closed


@compiled
def least_of(
    shop: ShopArrays, ahead: Ahead, items: Records, order: Ints, used: Ints, weights: Floats, runs: Runs, count: int
) -> float:  # fmt: skip
    """What every order costs at least that begins with these items, points.

    Parameters
    ----------
    order : array, shape (n,)
        The items that it begins with, as they have been decoded into so many runs.
    used : array, shape (N,)
        1 for each of them, by item.
    """
    closed, many = _closed(shop, items, order, used, runs, count), len(ahead.surplus)
    cost = weights[OVEN] * oven_empty(shop, runs, closed)
    fed, last, ends = np.full(shop.lines, -np.inf), np.full(shop.lines, -1), np.zeros(shop.lines)
    for run in range(closed):
        p, first = runs.of[run].product, runs.times[run, 0]
        line = shop.products[p].line
        ends[line] = max(ends[line], ends_min(shop, runs, run))
        if first.start + first.feed >= fed[line]:
            fed[line], last[line] = first.start + first.feed, shop.products[p].article
        if runs.of[run].item >= 0:
            cost += weights[CHANGEOVER] * runs.of[run].idle
    cost += weights[LAST] * ends.sum()
    left, lots = np.zeros(many, np.int64), np.zeros(many, np.int64)
    for item in range(len(items)):
        if not used[item] or not 0 <= runs.joins[item] < closed:
            left[items[item].product] += items[item].packs
            lots[items[item].product] += 1
    given, short = _given_and_short(shop, ahead, weights, fed, last, left + lots * ahead.surplus, runs, closed)
    return float(cost + given + short + _changes(shop, ahead, weights, last, left, lots, short))


@compiled
def _given_and_short(
    shop: ShopArrays, ahead: Ahead, weights: Floats, fed: Floats, last: Ints, most: Ints, runs: Runs, closed: int
) -> tuple[float, float]:  # fmt: skip
    """What closed runs give too late or too old; and what is short at least of the packs that they do not give, points.

    Each product by itself has its line for all that is left; or all of a line's have it one after another.

    Parameters
    ----------
    fed, last : array, shape (lines,)
        When the last closed run of a line has been fed, and its product, -1 before the first.
    most : array, shape (P,)
        Packs that can still be made.
    """
    many = len(shop.dues)
    room = closed + len(shop.lots)
    first, feed, packs = np.empty(room), np.empty(room), np.empty(room, np.int64)
    departs, wanted, fresh, good = np.empty(many), np.empty(many, np.int64), np.empty(many), np.empty(many)
    outcome, missing, at = np.empty((many, 5)), np.zeros(many), np.empty(many, np.int64)
    alone, given = np.zeros(shop.lines), 0.0
    for p in range(len(ahead.surplus)):
        dues = 0
        for place in range(many):
            if shop.dues[place].product == p:
                departs[dues], wanted[dues] = shop.dues[place].departs, shop.dues[place].packs
                fresh[dues], good[dues], at[dues] = shop.dues[place].fresh, shop.dues[place].good, place
                dues += 1
        if not dues:
            continue
        giving = given_by(shop, runs, closed, p, first, feed, packs)
        serve(
            departs[:dues], wanted[:dues], fresh[:dues], good[:dues], first[:giving], feed[:giving], packs[:giving],
            shop.window, outcome,
        )  # fmt: skip
        line, lost = shop.products[p].line, 0.0
        begins = max(ahead.release[p], fed[line] + (ahead.idle[last[line], p] if last[line] >= 0 else 0.0))
        for place in range(dues):
            weight, never = shop.dues[at[place]].weight, outcome[place, NEVER]
            late_min = outcome[place, LATE_MIN] - never * max(0.0, shop.window - departs[place])
            given += weight * weights[SHORT] * (outcome[place, PACKS_SHORT] - never)
            given += weight * weights[LATE] * late_min / MINUTES_PER_HOUR + weights[STALE] * outcome[place, PACKS_STALE]
            lost += never
            missing[at[place]] = never
            minutes = departs[place] + ON_TIME_MIN - ahead.shortest[p] - begins
            made = np.floor(minutes / ahead.min_a_pack[p] + WHOLE)
            alone[line] += weight * weights[SHORT] * min(never, max(0.0, lost - min(float(most[p]), max(0.0, made))))
    short = 0.0
    for line in range(shop.lines):
        short += max(alone[line], weights[SHORT] * _line_short(shop, ahead, missing, fed[line], line))
    return given, short


@inner
def _line_short(shop: ShopArrays, ahead: Ahead, missing: Floats, fed: float, line: int) -> float:
    """Packs, as they count, that a line cannot feed at least of all that is missing until some lorry."""
    soonest, needed, over, slowest, least = np.inf, 0.0, 0.0, 0.0, np.inf
    for p in range(len(ahead.surplus)):
        if shop.products[p].line == line and ahead.shortest[p] < np.inf:
            soonest = min(soonest, max(ahead.release[p], fed) + ahead.shortest[p])
    for place in range(len(shop.dues)):
        due = shop.dues[place]
        if missing[place] > 0 and shop.products[due.product].line == line:
            needed += missing[place] * ahead.min_a_pack[due.product]
            slowest, least = max(slowest, ahead.min_a_pack[due.product]), min(least, due.weight)
            over = max(over, needed - max(0.0, due.departs - soonest))
    return float(least * np.ceil((over - ON_TIME_MIN) / slowest)) if over > ON_TIME_MIN else 0.0


@compiled
def _changes(
    shop: ShopArrays, ahead: Ahead, weights: Floats, last: Ints, left: Ints, lots: Ints, short: float
) -> float:  # fmt: skip
    """What the changes to the products still to be made cost at least, or leaving one of them out, points."""
    subset, leaving_out = np.zeros(shop.lines, np.int64), np.full(shop.lines, np.inf)
    for p in range(len(left)):
        line, packs = shop.products[p].line, left[p] - ahead.surplus[p]
        if packs > 0 and lots[p] and ahead.bit[p] >= 0 and last[line] != p:
            subset[line] |= 1 << ahead.bit[p]
            cost = ahead.weight[p] * weights[SHORT] * packs - short
            leaving_out[line] = min(leaving_out[line], max(0.0, cost))
    total = 0.0
    for line in range(shop.lines):
        way = ahead.onward[subset[line], last[line]] if last[line] >= 0 else np.inf
        for p in range(len(left) if last[line] < 0 else 0):
            if shop.products[p].line == line and ahead.bit[p] >= 0 and subset[line] >> ahead.bit[p] & 1:
                way = min(way, ahead.onward[subset[line] & ~(1 << ahead.bit[p]), p])
        if subset[line]:
            total += min(way, leaving_out[line])
    return float(total)
