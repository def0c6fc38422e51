"""Stations: the headway of runs on one line, closings, and machines that lines share."""

from rundgang.core.compiled import inner
from rundgang.core.planning.decode.arrays import SAME_MOMENT_MIN, Runs, ShopArrays, State


@inner
def bound_legs(shop: ShopArrays, runs: Runs, count: int, p: int, state: State) -> None:
    """The earliest start of each leg by the headways to all runs before it on its line, and which run sets it."""
    headway, line = shop.headway, shop.products[p].line
    for leg in range(shop.products[p].legs):
        state.settling[leg].bound, state.settling[leg].bound_by = shop.set_free[p, leg], -1
    for run in range(count):
        q = runs.of[run].product
        if shop.products[q].line != line:
            continue
        for ahead in range(shop.products[q].legs):
            ends = runs.times[run, ahead].start + runs.times[run, ahead].feed
            for leg in range(shop.products[p].legs):
                free = ends + headway[q, p, ahead, leg]
                if free > state.settling[leg].bound:
                    state.settling[leg].bound, state.settling[leg].bound_by = free, run


@inner
def open_from(shop: ShopArrays, runs: Runs, count: int, p: int, leg: int, begin: float, feed: float) -> float:
    """The earliest start of a leg, not before `begin`, that no closing and no run of another line forbids, min."""
    moved = True
    while moved:
        moved = False
        for place in range(shop.products[p].first_closing, shop.products[p].end_closing):
            low, high = shop.closings[place].low - feed, shop.closings[place].high
            if shop.closings[place].leg == leg and low + SAME_MOMENT_MIN < begin < high - SAME_MOMENT_MIN:
                begin, moved = high, True
        for place in range(shop.products[p].first_meet, shop.products[p].end_meet):
            if shop.meetings[place].leg == leg:
                free = _met(shop, runs, count, p, place, begin, feed)
                if free > begin:
                    begin, moved = free, True
    return begin


@inner
def _met(shop: ShopArrays, runs: Runs, count: int, p: int, place: int, begin: float, feed: float) -> float:
    """The start after runs of other lines that are in the way at one shared machine, min."""
    offset = shop.meetings[place].offset
    for run in range(count):
        q = runs.of[run].product
        if shop.products[q].line == shop.products[p].line:
            continue
        for other in range(shop.products[q].first_meet, shop.products[q].end_meet):
            if shop.meetings[other].at != shop.meetings[place].at:
                continue
            leg = shop.meetings[other].leg
            first_in = runs.times[run, leg].start + shop.meetings[other].offset
            last_in = first_in + runs.times[run, leg].feed
            low = first_in - shop.meet_gap[place, other] - offset - feed
            high = last_in + shop.meet_gap[other, place] - offset
            if low + SAME_MOMENT_MIN < begin < high - SAME_MOMENT_MIN:
                begin = high
    return begin
