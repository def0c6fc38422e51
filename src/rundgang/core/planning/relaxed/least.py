"""What a beginning costs by itself, and at least with all that can follow it."""

import numpy as np

from rundgang.core.compiled import Floats, inner
from rundgang.core.planning.decode.lorries import ON_TIME_MIN
from rundgang.core.planning.relaxed.beginnings import JOINED, ROOT, Beginnings
from rundgang.core.planning.relaxed.line import RelaxedLine

ALIKE = 1e-6
"""Packs."""


@inner
def costless(line: RelaxedLine, item: int, used: int, joins: int) -> float:
    """Until when an item may wait at no cost, by itself or, `joins`, as one run with another, min."""
    until = line.store.costless[item, item]
    for other in range(len(line.product)):
        if joins and not used >> other & 1:
            until = max(until, line.store.costless[item, other])
    return float(until)


@inner
def _white(line: RelaxedLine, found: Beginnings, here: int, saved: float) -> float:
    """What ovens and changes cost, or the white time that could not be saved, points."""
    white = max(found.idle[here], found.white[here] - saved) if line.store.is_there else found.idle[here]
    return float(found.oven[here] + line.white_costs * white)


@inner
def whole(line: RelaxedLine, found: Beginnings, here: int) -> float:
    """What an order costs that is no more than a beginning, points."""
    costs = 0.0
    if here != ROOT:
        last = found.ends[here] + line.shortest[found.item[here]]
        costs = _white(line, found, here, line.store.allowance) + line.last_costs * last
    for due in range(len(line.due)):
        costs += _costs_short(line, due, line.demand[due] - (found.made[here, due] if here != ROOT else 0.0))
    return float(costs)


@inner
def _costs_short(line: RelaxedLine, due: int, lacks: float) -> float:
    """What packs cost that are not made in time for a demand and those before it, points."""
    return float(line.short_costs[due] * min(max(np.ceil(lacks - ALIKE), 0.0), line.packs[due]))


@inner
def at_least(line: RelaxedLine, found: Beginnings, here: int) -> float:
    """What every order costs at least that begins so, points."""
    used, at, store, saved = found.used[here], found.ends[here], line.store, line.store.allowance
    last = line.product[found.item[here]]
    for item in range(len(line.product)):
        if store.is_there and (item == found.item[here] or not used >> item & 1):
            saved += store.most_feed[item] - line.feed[item]
        if store.is_there and not used >> item & 1:
            saved += max(0.0, costless(line, item, used, JOINED) - max(at, line.release[item]))
    short = max(_short_alone(line, found.made[here], used, at, last), _short_together(line, found.made[here], used, at))
    onward = _onward(line, found.made[here], used, last, short)
    return float(_white(line, found, here, saved) + short + onward + line.last_costs * at)


@inner
def _short_alone(line: RelaxedLine, made: Floats, used: int, at: float, last: int) -> float:
    """What is short at least if each product had the line for itself from now on, points."""
    total, begin = 0.0, 0
    while begin < len(line.due):
        p, end, left, pace, start, way = line.due[begin], begin, 0.0, np.inf, np.inf, np.inf
        for item in range(len(line.product)):
            if line.product[item] == p and not used >> item & 1:
                left += line.wanted[item]
                pace, start = min(pace, line.min_a_pack[item]), min(start, line.release[item])
                way = min(way, line.shortest[item])
        start = max(start, at + line.gap[last, p])
        while end < len(line.due) and line.due[end] == p:
            minutes = line.by[end] + ON_TIME_MIN - way - start
            could = min(left, max(0.0, minutes / pace)) if left > 0 else 0.0
            total += _costs_short(line, end, line.demand[end] - made[end] - could)
            end += 1
        begin = end
    return total


@inner
def _short_together(line: RelaxedLine, made: Floats, used: int, at: float) -> float:
    """What is short at least of all that some lorry and those before it still want, fed one after another, points."""
    over, slowest, least, soonest = 0.0, 0.0, np.inf, np.inf
    for item in range(len(line.product)):
        if not used >> item & 1:
            soonest = min(soonest, max(at, line.release[item]) + line.shortest[item])
            slowest = max(slowest, line.min_a_pack[item])
    if soonest == np.inf:
        return 0.0
    for one in range(len(line.due)):
        needed, begin, least = 0.0, 0, min(least, line.short_costs[one])
        while begin < len(line.due):
            p, end, lacks, pace, left = line.due[begin], begin, 0.0, np.inf, 0.0
            while end < len(line.due) and line.due[end] == p:
                if line.by[end] <= line.by[one]:
                    lacks = max(lacks, line.demand[end] - made[end])
                end += 1
            for item in range(len(line.product)):
                if line.product[item] == p and not used >> item & 1:
                    pace, left = min(pace, line.min_a_pack[item]), left + line.wanted[item]
            needed += min(lacks, left) * (pace if left > 0 else 0.0)
            begin = end
        over = max(over, needed - max(0.0, line.by[one] + ON_TIME_MIN - soonest))
    return float(least * np.ceil(over / slowest - ALIKE)) if over > 0 else 0.0


@inner
def _onward(line: RelaxedLine, made: Floats, used: int, last: int, short: float) -> float:
    """What the changes to the products still to be made cost at least, or leaving one of them out, points."""
    subset, leaving_out, begin = 0, np.inf, 0
    for item in range(len(line.product)):
        p = line.product[item]
        if not used >> item & 1 and p != last and line.bit[p] >= 0:
            subset |= 1 << line.bit[p]
    while begin < len(line.due):
        p, end, costs = line.due[begin], begin, np.inf
        while end < len(line.due) and line.due[end] == p:
            costs, lacks = min(costs, line.short_costs[end]), line.demand[end] - made[end]
            end += 1
        if line.bit[p] >= 0 and subset >> line.bit[p] & 1:
            if lacks > 0:
                leaving_out = min(leaving_out, max(0.0, costs * lacks - short))
            else:
                subset &= ~(1 << line.bit[p])
        begin = end
    return float(min(line.onward[subset, last], leaving_out)) if subset else 0.0
