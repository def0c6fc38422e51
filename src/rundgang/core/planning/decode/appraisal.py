"""What a decoded order is worth: every part of the objective, and how far it is from what the planner pinned."""

import numpy as np

from rundgang.core.compiled import Floats, Ints, Records, compiled, inner
from rundgang.core.planning.decode.arrays import Fixed, Runs, ShopArrays, State
from rundgang.core.planning.decode.crews import crew_peak
from rundgang.core.planning.decode.lorries import serve_all
from rundgang.core.planning.decode.runs import decode, ends_min
from rundgang.core.planning.decode.units import own_batches
from rundgang.core.planning.objective import OFF_PIN, PARTS


@compiled
def oven_empty(shop: ShopArrays, runs: Runs, count: int) -> float:
    """Minutes that ovens burn without product: hot between two runs, or heated up anew, whichever is less."""
    empty = 0.0
    for oven in range(shop.ovens.shape[1]):
        enters, leaves, heat_up = np.empty(count), np.empty(count), np.empty(count)
        passing = 0
        for run in range(count):
            p = runs.of[run].product
            leg = shop.ovens[p, oven].leg
            if leg >= 0:
                enters[passing] = runs.times[run, leg].start + shop.ovens[p, oven].offset
                leaves[passing] = enters[passing] + runs.times[run, leg].feed + shop.ovens[p, oven].dwell
                heat_up[passing] = shop.ovens[p, oven].heat_up
                passing += 1
        order = np.argsort(enters[:passing])
        left = 0.0
        for place in range(passing):
            run = order[place]
            if place:
                empty += min(max(enters[run] - left, 0.0), heat_up[run])
            left = max(left, leaves[run]) if place else leaves[run]
    return empty


@inner
def filling_left(shop: ShopArrays, runs: Runs, count: int) -> float:
    """What is left over of fillings when runs end, kg: what their batches are beyond what is put on pieces."""
    left = 0.0
    for run in range(count):
        product = shop.products[runs.of[run].product]
        for stream in range(product.first_stream + 1, product.end_stream):
            batches, size = own_batches(shop, runs, run, stream)
            left += batches * size - runs.of[run].pieces * shop.streams[stream].ratio
    return left


SHORT, LATE, STALE, CHANGEOVER, OVEN, SURPLUS, LEFT, CREW, MOVED, LAST = (
    PARTS.index(part)
    for part in (
        "packs_short",
        "late_pack_hours",
        "packs_stale",
        "changeover_min",
        "oven_empty_min",
        "surplus_packs",
        "filling_left_kg",
        "crew_peak",
        "moved_min",
        "last_pack_min",
    )
)
"""Where each part of the objective stands."""


@compiled
def appraise(
    shop: ShopArrays, fixed: Fixed, items: Records, order: Ints, alone: Ints, state: State, runs: Runs
) -> Floats:
    """Decode an order and say what it comes to, part by part of the objective, and minutes off what was pinned."""
    count, people = decode(shop, fixed, items, order, alone, state, runs)
    parts = np.zeros(OFF_PIN + 1)
    short, late, stale, surplus = serve_all(shop, runs, count)
    parts[SHORT], parts[LATE], parts[STALE], parts[SURPLUS] = short, late / 60.0, stale, surplus
    ends = np.zeros(shop.lines)
    for run in range(count):
        line = shop.products[runs.of[run].product].line
        ends[line] = max(ends[line], ends_min(shop, runs, run))
        item = runs.of[run].item
        if item < 0:
            continue
        parts[CHANGEOVER] += runs.of[run].idle
        if not np.isnan(items[item].was):
            parts[MOVED] += abs(runs.times[run, 0].start - items[item].was)
        if not np.isnan(items[item].pin):
            parts[OFF_PIN] += runs.times[run, 0].start - items[item].pin
    parts[CREW] = crew_peak(state, len(shop.absences), people, len(shop.crew_size)) if people else 0.0
    parts[OVEN] = oven_empty(shop, runs, count)
    parts[LEFT] = filling_left(shop, runs, count)
    parts[LAST] = ends.sum()
    return parts


@compiled
def priced(parts: Floats, weights: Floats) -> float:
    """The cost of a decoded order: each part times its weight, points."""
    cost = 0.0
    for part in range(len(weights)):
        cost += weights[part] * parts[part]
    return cost
