"""Runs: from an order of items to runs with times. Items are gathered into runs, sized, and placed one by one."""

from typing import Any

import numpy as np

from rundgang.core.batching import dough_sizes
from rundgang.core.compiled import Ints, Records, compiled, inner
from rundgang.core.planning.decode.arrays import SAME_MOMENT_MIN, WHOLE, Fixed, Runs, ShopArrays, State
from rundgang.core.planning.decode.coolers import cools_enough
from rundgang.core.planning.decode.crews import add_people, begin_people, crew_delay
from rundgang.core.planning.decode.materials import begin_draws, draw_all, stock_delay
from rundgang.core.planning.decode.rests import (
    begin_rest,
    begin_rests,
    find_kept,
    has_kept,
    keep_rests,
    kept_in_time,
    rest_for,
    rest_in_time,
)
from rundgang.core.planning.decode.stations import bound_legs, open_from
from rundgang.core.planning.decode.stores import fit_legs, store_delay
from rundgang.core.planning.decode.streams import give_back_all, take_all
from rundgang.core.planning.decode.tools import begin_tools, tool_delay, wear_tools
from rundgang.core.planning.decode.units import (
    begin_units,
    dough_pace,
    filling_pace,
)

TURNS = 10_000
"""So often a start is put off at most before the run counts as impossible."""

OPENING, ORDER, HEADWAY, FRESHNESS, CLOSING, STORE, CREW, UNITS, PIN, TOOL, MATERIALS = range(11)
"""What keeps a run from starting earlier: the window's start; its place in the order; a run before it; the
freshness of its packs; a closed station or a shared machine; a full store; people; mixers, troughs, kettles or tanks;
the planner; a tool to renew; a delivery."""


NONE: Any = np.int64(-1)
NO_DOUGHS: Any = np.int64(0)
"""Of a type that Numba takes for any whole number: a bare one would have all that it is given to compiled once more."""

LEFT_OUT = -2
"""In `Runs.joins`: an item that is not made; so many below it, for want of that material."""


@inner
def _begin(shop: ShopArrays, fixed: Fixed, items: Records, order: Ints, state: State, runs: Runs) -> tuple[int, int]:
    """Put down what is fixed, and link the places of each line; how many runs and stretches of people there are."""
    begin_units(fixed, state.units)
    begin_tools(shop, state.tools)
    begin_draws(fixed, state)
    begin_rests(fixed, state)
    state.line_end[:] = -np.inf
    state.line_last[:] = -1
    for p in range(len(shop.products)):
        state.over[p].packs, state.over[p].since, state.over[p].by = 0, 0.0, -1
    runs.joins[:] = -1
    people = begin_people(shop, state)
    for run in range(len(fixed.runs)):
        made, known = runs.of[run], fixed.runs[run]
        made.product, made.packs, made.pieces = known.product, known.packs, known.pieces
        made.item, made.idle, made.end_slot = -1, 0.0, 0
        for leg in range(runs.times.shape[1]):
            runs.times[run, leg].start, runs.times[run, leg].feed = (
                fixed.times[run, leg].start,
                fixed.times[run, leg].feed,
            )
        begin_rest(fixed, runs, run)
        _end_line(shop, runs, run, state)
        people = add_people(shop, runs, run, state, people)
        wear_tools(shop, runs, run, state.tools)
    state.next_of_line[:] = len(order)
    for place in range(len(order) - 1, -1, -1):
        line = shop.products[items[order[place]].product].line
        state.next_place[place] = state.next_of_line[line]
        state.next_of_line[line] = place
    return len(fixed.runs), people


@inner
def _end_line(shop: ShopArrays, runs: Runs, run: int, state: State) -> None:
    """A run is the last of its line, if it is fed last."""
    line, first = shop.products[runs.of[run].product].line, runs.times[run, 0]
    if first.start + first.feed >= state.line_end[line]:
        state.line_end[line], state.line_last[line] = first.start + first.feed, run


@inner
def _gather(
    shop: ShopArrays, items: Records, order: Ints, alone: Ints, place: int, run: int, state: State, runs: Runs
) -> tuple[int, float]:
    """Take up into a run what stands next on its line and can be one with it; its packs, and since when fresh."""
    head = order[place]
    p = items[head].product
    packs, fresh, first_leaves = 0, -np.inf, np.inf
    while place < len(order):
        item = order[place]
        if item != head and (
            items[item].product != p
            or alone[item]
            or not np.isnan(items[item].pin)
            or items[item].share != items[head].share
            or items[item].policy != items[head].policy
            or packs + items[item].packs > shop.products[p].cap
            or items[item].fresh >= first_leaves
            or fresh >= items[item].leaves
        ):
            break
        packs += items[item].packs
        fresh = max(fresh, items[item].fresh)
        first_leaves = min(first_leaves, items[item].leaves)
        runs.joins[item], runs.heads[item] = run, head
        place = state.next_place[place]
    return packs, fresh


@inner
def _size(shop: ShopArrays, item: Records, wanted: int, run: int, state: State, runs: Runs) -> int:
    """A run's doughs, paces and feeding times; how many doughs are mixed for it, -1 where it cannot be fed in time.

    What `shared` says comes of the last dough of the run before it.
    """
    made = runs.of[run]
    p, product = made.product, shop.products[made.product]
    made.policy = item.policy if item.policy >= 0 else product.policy
    need = _need(shop, made.product, wanted) - made.shared
    doughs = dough_sizes(need, product.least, product.most, made.policy, state.sizes) if need > 0 else 0
    pieces, largest = made.shared, 0
    for dough in range(doughs):
        pieces += state.sizes[dough]
        largest = max(largest, state.sizes[dough])
    possible = _leg_feeds(shop, p, pieces, item.share, state.sizes[:doughs], state)
    fit_legs(shop, p, pieces, state)
    for leg in range(product.legs):
        runs.times[run, leg].feed = state.settling[leg].feed
    made.pieces, made.wanted = pieces, wanted
    made.pace, made.packs = 60.0 * pieces / runs.times[run, 0].feed, int(np.floor(pieces / product.ratio + WHOLE))
    too_old = 60.0 * largest / made.pace > product.age_span + 1e-7
    return doughs if possible and not too_old else -1


@inner
def _need(shop: ShopArrays, p: int, wanted: int) -> int:
    """Pieces to scale for so many packs."""
    return int(np.ceil(wanted * shop.products[p].ratio - WHOLE))


@inner
def _leg_feeds(shop: ShopArrays, p: int, pieces: int, share: float, sizes: Ints, state: State) -> bool:
    """Write how long each leg is fed by itself, min: as stations, doughs and fillings let it; whether they do."""
    product, possible = shop.products[p], True
    for leg in range(product.legs):
        pace = shop.legs[p, leg].pace * share
        if leg == 0:
            pace = dough_pace(shop, p, pace, sizes)
        for stream in range(product.first_stream + 1, product.end_stream):
            if shop.streams[stream].leg == leg and pace > 0:
                pace = filling_pace(shop, stream, pieces, pace)
        possible = possible and pace > 0
        state.settling[leg].feed = 60.0 * pieces / max(pace, 1.0)
    return possible


@inner
def _settle_legs(shop: ShopArrays, fresh: float, run: int, state: State, runs: Runs) -> tuple[float, int, int]:
    """Start every leg behind the one before, at its earliest; by how much the first is too early, why, and by what."""
    p = runs.of[run].product
    product, times = shop.products[p], runs.times[run]
    last = product.legs - 1
    for leg in range(last + 1):
        settling, cause, of = state.settling[leg], ORDER, -1
        at = times[leg - 1].start + settling.low if leg else times[0].start
        if settling.bound > at:
            at, cause, of = settling.bound, HEADWAY, settling.bound_by
        if leg == last and fresh - product.tail > at:
            at, cause = fresh - product.tail, FRESHNESS
        free = open_from(shop, runs, run, p, leg, at, times[leg].feed)
        if free > at:
            at, cause = free, CLOSING
        over = at - times[0].start if leg == 0 else at - times[leg - 1].start - settling.high
        if over > SAME_MOMENT_MIN:
            return over, cause, of
        times[leg].start = at
    return 0.0, ORDER, -1


@inner
def _place(
    shop: ShopArrays, item: Records, fresh: float, doughs: int, run: int, people: int, state: State, runs: Runs
) -> bool:
    """Find a run's earliest start and take what it needs; whether there is one."""
    made, times = runs.of[run], runs.times[run]
    product = shop.products[made.product]
    bound_legs(shop, runs, run, made.product, state)
    opening, line_end = shop.now + product.lead, state.line_end[product.line]
    times[0].start = max(opening, item.hold)
    made.cause, made.cause_of = (OPENING if times[0].start == opening else ORDER), -1
    ahead = 0.0
    for leg in range(product.legs):
        ahead += state.settling[leg].high if leg else 0.0
        if state.settling[leg].bound - ahead > times[0].start:
            times[0].start = state.settling[leg].bound - ahead
            made.cause, made.cause_of = HEADWAY, state.settling[leg].bound_by
    made.idle = times[0].start - line_end if line_end > -np.inf else 0.0
    if item.pin > times[0].start:
        times[0].start = item.pin
        made.cause, made.cause_of = PIN, -1
    for _ in range(TURNS):
        delay, cause, of = _settle_legs(shop, fresh, run, state, runs)
        waits = delay <= 0
        if waits:
            delay, cause, of = wait_for_room(shop, run, doughs, people, state, runs)
            if delay <= 0:
                delay, of = take_all(shop, run, doughs, state, runs)
                cause = UNITS
        if delay <= 0:
            made.idle = max(0.0, made.idle)
            return True
        times[0].start += delay
        made.cause, made.cause_of = cause, of
        made.idle += delay if waits and cause != MATERIALS else 0.0
        if times[0].start > shop.window:
            break
    return False


@inner
def wait_for_room(
    shop: ShopArrays, run: int, doughs: int, people: int, state: State, runs: Runs
) -> tuple[float, int, int]:
    """By how much a run must wait for its stores, tools, materials and people, min, and for which of them."""
    p = runs.of[run].product
    delay, tool = tool_delay(shop, runs, run, state.tools)
    if delay > 0:
        return delay, TOOL, tool
    delay, stock = stock_delay(shop, runs, run, doughs, state)
    if delay > 0:
        return delay, MATERIALS, stock
    for leg in range(1, shop.products[p].legs):
        if shop.legs[p, leg].store >= 0:
            delay = store_delay(shop, runs, run, p, leg, state)
            if delay > 0:
                return delay, STORE, leg
    if shop.products[p].end_use > shop.products[p].first_use:
        delay, crew = crew_delay(shop, runs, run, state, people)
        return delay, CREW, crew
    return 0.0, CREW, -1


@inner
def ends_min(shop: ShopArrays, runs: Runs, run: int) -> float:
    """When a run's last pack comes off the line, cut-outs included, min."""
    product = shop.products[runs.of[run].product]
    time = runs.times[run, product.legs - 1]
    end = time.start + time.feed + product.tail
    if product.cut_of >= 0:
        cut = runs.times[run, product.cut_leg]
        end = max(end, cut.start + cut.feed + product.cut_tail)
    return float(end)


@inner
def _place_as(
    shop: ShopArrays, p: int, item: Records, fresh: float, wanted: int, run: int, people: int, state: State, runs: Runs
) -> tuple[int, float]:
    """Place a run in one heat class: how many doughs are mixed for it, -1 where it cannot be; and its last pack, min.

    With what runs before it leave where that can be used in time, otherwise without.
    """
    made, before = runs.of[run], state.line_last[shop.products[p].line]
    made.product, made.shared_of = p, before
    made.shared, keeps = rest_for(shop, runs, before, p, _need(shop, p, wanted)), True
    while True:
        doughs, rest, kept = _size(shop, item, wanted, run, state, runs), True, True
        find_kept(shop, runs, run, state, keeps)
        if doughs >= 0 and _place(shop, item, fresh, doughs, run, people, state, runs):
            end = ends_min(shop, runs, run)
            if end <= shop.window + SAME_MOMENT_MIN and cools_enough(shop, runs, run):
                rest, kept = rest_in_time(shop, runs, run, state), kept_in_time(shop, runs, run, state)
                if rest and kept:
                    return doughs, end
            give_back_all(shop, run, doughs, shop.products[p].end_stream, state, runs)
        if not rest or not kept:
            keeps, made.shared = keeps and kept, made.shared if rest else 0
        elif has_kept(shop, runs, run):
            keeps = False
        elif made.shared > 0:
            made.shared = 0
        else:
            return -1, np.inf


@inner
def _soonest(
    shop: ShopArrays, p: int, item: Records, fresh: float, wanted: int, run: int, state: State, runs: Runs
) -> float:
    """When a run in a heat class gives its last pack at the earliest by its line alone; inf where never."""
    runs.of[run].product, runs.of[run].shared = p, 0
    if _size(shop, item, wanted, run, state, runs) < 0:
        return np.inf
    bound_legs(shop, runs, run, p, state)
    at, last = max(shop.now + shop.products[p].lead, item.hold), shop.products[p].legs - 1
    for leg in range(last + 1):
        at = max(at + (state.settling[leg].low if leg else 0.0), state.settling[leg].bound)
    at = max(at, fresh - shop.products[p].tail)
    return float(at + runs.times[run, last].feed + shop.products[p].tail)


@inner
def _place_cooled(
    shop: ShopArrays, item: Records, fresh: float, wanted: int, run: int, people: int, state: State, runs: Runs
) -> int:
    """Place a run in the heat class that ends it first; how many doughs are mixed for it, -1 where it can be in none.

    Classes are tried by how soon each could end, until none left could end sooner than the best found.
    """
    first, classes = item.product, shop.products[item.product].classes
    could = state.could[:classes]
    could[:] = 0.0
    for place in range(classes if classes > 1 else 0):
        could[place] = _soonest(shop, first + place, item, fresh, wanted, run, state, runs)
    best, soonest, held, doughs = NONE, np.inf, NONE, NO_DOUGHS
    while True:
        place = int(np.argmin(could))
        if could[place] >= soonest - SAME_MOMENT_MIN:
            if held == best:
                return doughs if held >= 0 else -1
            place = best
        could[place] = np.inf
        if held >= 0:
            give_back_all(shop, run, doughs, shop.products[first + held].end_stream, state, runs)
        doughs, end = _place_as(shop, first + place, item, fresh, wanted, run, people, state, runs)
        held = place if doughs >= 0 else -1
        if end < soonest - SAME_MOMENT_MIN:
            best, soonest = place, end


@compiled
def decode(
    shop: ShopArrays, fixed: Fixed, items: Records, order: Ints, alone: Ints, state: State, runs: Runs
) -> tuple[int, int]:
    """Runs with times for an order of items, behind the fixed ones.

    An item whose run cannot be made, or not within the window, is left out: it has no run, and its packs are short.

    Parameters
    ----------
    order : array, shape (N,)
        The items, first to last, of all lines together; items of one line follow each other in this order.
    alone : array, shape (N,)
        1 where an item begins a run of its own, by item.

    Returns
    -------
    tuple
        How many runs there are, the fixed ones included; and how many stretches of people at work.
    """
    run, people = _begin(shop, fixed, items, order, state, runs)
    for place in range(len(order)):
        head = order[place]
        if runs.joins[head] >= 0:
            continue
        item = items[head]
        over = state.over[item.product]
        packs, fresh = _gather(shop, items, order, alone, place, run, state, runs)
        wanted = packs - (over.packs if over.since >= fresh else 0)
        if wanted <= 0:
            over.packs = -wanted
            _rename(runs, run, over.by)
            continue
        runs.of[run].cause = ORDER
        doughs = _place_cooled(shop, item, fresh, wanted, run, people, state, runs)
        if doughs < 0:
            made = runs.of[run]
            _rename(runs, run, LEFT_OUT - 1 - made.cause_of if made.cause == MATERIALS else LEFT_OUT)
            continue
        runs.of[run].item = head
        people = add_people(shop, runs, run, state, people)
        wear_tools(shop, runs, run, state.tools)
        draw_all(shop, runs, run, doughs, state)
        made = runs.of[run]
        product = shop.products[made.product]
        time = runs.times[run, product.legs - 1]
        over.packs, over.by = made.packs - wanted, run
        over.since = time.start + product.tail + time.feed * (1.0 - over.packs / max(made.packs, 1))
        keep_rests(shop, runs, run, doughs, state)
        _end_line(shop, runs, run, state)
        run += 1
    return run, people


@inner
def _rename(runs: Runs, run: int, to: int) -> None:
    """Let the items of a run that is not made go to another, or be left out."""
    for item in range(len(runs.joins)):
        if runs.joins[item] == run:
            runs.joins[item] = to
