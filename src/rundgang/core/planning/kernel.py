"""The compiled heart of the search: from an order of lots to runs with times, and what they cost.

Neighbouring lots of one product become one run; what an earlier run made too much is taken from the next
one's demand. A run starts when every run before it has the headway it needs at every station of both its
legs, when its stations are not blocked, its store has room and its people are free, and when a mixer and a
trough are free for every one of its doughs and for what is prepared for them. Doughs are mixed as late as
they may be, so none is older than it must be. The second leg follows when the store's least hold is over,
and waits there, up to the most, for what stands in its way.

Everything here works on arrays of one line; `arrays` makes them of a scenario, `runs` reads the result.
"""

from typing import NamedTuple

import numpy as np

from rundgang.core.batching import dough_sizes
from rundgang.core.compiled import Floats, Ints, compiled

SAME_MOMENT_MIN = 1e-9
"""Two times closer than this are the same moment, min."""

ON_TIME_MIN = 1e-6
"""A pack made this little after the lorry leaves is on time, min."""

WHOLE = 1e-9
"""A count this little off a whole number is that number: what a product of yields loses as a float."""

OVEN_OFF_AFTER_MIN = 90.0
"""An oven that stands empty longer is turned down; only so much of a gap is baked into the void, min."""

LEAST_STEP_MIN = 0.25
"""A run that finds its store full is put off by so much at least, min."""

TURNS = 10_000
"""So often a start is put off at most before the run counts as impossible."""


class LineData(NamedTuple):
    """A line and its products as arrays: P products mixed, D delivered (the cut-outs behind the P), U units.

    Attributes
    ----------
    lead, transit, slack : array, shape (P,)
        Earliest start; from start to first pack at the least hold; most beyond the least hold in the store, min.
    headway : array, shape (P, P, 2, 2)
        Beyond the feeding of the first, by product first and then, and by the leg of each; -inf where none, min.
    ratio, least, most, pace, policy, age_span, cap : array, shape (P,)
        Pieces scaled a pack; pieces in a dough; pieces/h; choice for the odd last dough; from rest to age, min;
        packs a run may give.
    need_from : array, shape (P + 1,)
        Where each product's needs begin in the arrays of needs: pool, minutes before the divider, minutes taken,
        and whether at least until the dough is divided.
    unit_from : array, shape (pools + 1,)
        Where each pool's units begin.
    cleaning : array, shape (pools, K, K)
        Minutes between two products, the line's own first, then those of other lines that share a pool.
    store, store_offset, store_least, store_share : array, shape (P,)
        The store that splits the route, or -1; entry behind the start and least hold, min; share of it that
        one piece a minute fills in a minute.
    crew_from, crew, crew_leg, crew_begin, crew_end, crew_people : arrays
        People that a product's stations need, from leg start + begin to leg start + end + feed.
    crew_size : array
        People in each crew.
    oven_leg, oven_offset, oven_dwell : array, shape (P, O)
        Passage of every oven; leg -1 where a product skips it.
    cut_of, cut_ratio, cut_transit, cut_leg : array, shape (P,)
        What is delivered beside, or -1; its pieces scaled a pack; start to first pack; and the leg it belongs to.
    lot_product, lot_departs, lot_packs, lot_fresh : array, shape (L,)
        What every lorry wants, by departure.
    in_stock, stock_made : array, shape (D,)
        Packs there are at the start, and when they were made, min.
    window : float
    """

    lead: Floats
    transit: Floats
    slack: Floats
    headway: Floats
    ratio: Floats
    least: Ints
    most: Ints
    pace: Floats
    policy: Ints
    age_span: Floats
    cap: Ints
    need_from: Ints
    need_pool: Ints
    need_before: Floats
    need_length: Floats
    need_empties: Ints
    unit_from: Ints
    cleaning: Floats
    store: Ints
    store_offset: Floats
    store_least: Floats
    store_share: Floats
    crew_from: Ints
    crew: Ints
    crew_leg: Ints
    crew_begin: Floats
    crew_end: Floats
    crew_people: Floats
    crew_size: Floats
    oven_leg: Ints
    oven_offset: Floats
    oven_dwell: Floats
    cut_of: Ints
    cut_ratio: Floats
    cut_transit: Floats
    cut_leg: Ints
    lot_product: Ints
    lot_departs: Floats
    lot_packs: Ints
    lot_fresh: Floats
    in_stock: Ints
    stock_made: Floats
    window: float


class Outside(NamedTuple):
    """What the calendar and the other lines have taken.

    Attributes
    ----------
    window_from : array, shape (P + 1,)
        Where each product's windows begin: a leg may not start between `window_low` less the feeding time and
        `window_high`.
    taken_unit, taken_begin, taken_end, taken_class : array
        Units taken, by unit and time; class -1 needs no cleaning.
    crew, crew_begin, crew_end, crew_people : array
        People at work elsewhere.
    stored, stored_entry, stored_hold, stored_feed, stored_share : array
        Shared stores filled from elsewhere: which, first piece in, hold and feeding time, min, share of it a minute.
    """

    window_from: Ints
    window_leg: Ints
    window_low: Floats
    window_high: Floats
    taken_unit: Ints
    taken_begin: Floats
    taken_end: Floats
    taken_class: Ints
    crew: Ints
    crew_begin: Floats
    crew_end: Floats
    crew_people: Floats
    stored: Ints
    stored_entry: Floats
    stored_hold: Floats
    stored_feed: Floats
    stored_share: Floats


class Items(NamedTuple):
    """What is put in order: lots, or parts of lots, shape (N,) each.

    Attributes
    ----------
    fresh, leaves : array
        Made before is too old; the lorry leaves, min.
    pin : array
        Start asked for by the planner; NaN where free, min.
    not_before : array
        Earliest mixing of its first dough: -inf, or now, min.
    share : array
        Pace asked for, of the line's.
    policy : array
        Choice for the odd last dough; -1 for the product's.
    was : array
        Start in the published plan; NaN where it has none, min.
    """

    product: Ints
    packs: Ints
    fresh: Floats
    leaves: Floats
    pin: Floats
    not_before: Floats
    share: Floats
    policy: Ints
    was: Floats


class Runs(NamedTuple):
    """Runs with times, the first `count` of each array; doughs and their units one after the other."""

    product: Ints
    item: Ints
    first_place: Ints
    places: Ints
    start: Floats
    extra: Floats
    feed: Floats
    pace: Floats
    packs: Ints
    wanted: Ints
    policy: Ints
    idle: Floats
    slot_from: Ints
    slot_unit: Ints


class Room(NamedTuple):
    """Working room for `decode`: units with their stretches, and the doughs of the run at hand."""

    begin: Floats
    end: Floats
    kind: Ints
    filled: Ints
    turn: Ints
    ends: Floats
    sizes: Ints
    divided: Floats
    stock: Ints
    stock_from: Floats
    crew: Ints
    crew_begin: Floats
    crew_end: Floats
    crew_people: Floats


class Parts(NamedTuple):
    """What a decoded order is worth, and how far it is from being a plan at all."""

    runs: int
    short: int
    late_hours: float
    stale: int
    idle: float
    oven_empty: float
    surplus: int
    end: float
    crew_peak: float
    moved: float
    off_pin: float
    beyond: float


@compiled
def fed_pace(pace: float, sizes: Ints, units: Ints, length: Floats, before: Floats, empties: Ints) -> float:
    """Pace at which doughs of these sizes can be fed, pieces/h; 0 where they cannot without a break.

    With m units of a station, dough b + m takes the unit of dough b, so the m doughs between must feed the
    line for at least the time that the unit is taken. A trough by the divider is taken at least until its dough
    is divided, which leaves the m - 1 doughs after it to feed the line while the next one ferments.
    """
    for need in range(len(units)):
        many = units[need]
        for first in range(len(sizes) - many):
            others = 0
            for dough in range(first + 1, first + many):
                others += sizes[dough]
            if length[need] > 0:
                pace = min(pace, 60.0 * (others + sizes[first]) / length[need])
            if empties[need] and before[need] > 0:
                pace = min(pace, 60.0 * others / before[need])
    return pace


@compiled
def make_room(line: LineData, outside: Outside, items: Items) -> Room:
    """Working room large enough for every order of the items."""
    units = line.unit_from[-1]
    pools = len(line.unit_from) - 1
    doughs = 4
    for item in range(len(items.product)):
        p = items.product[item]
        doughs += int(items.packs[item] * line.ratio[p] / line.most[p]) + 2
    crews = len(outside.crew) + (len(items.product) + 1) * (len(line.crew) + 1)
    return Room(
        np.empty((units, doughs + len(outside.taken_unit))),
        np.empty((units, doughs + len(outside.taken_unit))),
        np.empty((units, doughs + len(outside.taken_unit)), np.int64),
        np.zeros(units, np.int64),
        np.zeros(pools, np.int64),
        np.empty((pools, line.cleaning.shape[1])),
        np.empty(doughs, np.int64),
        np.empty(doughs + 1),
        np.zeros(len(line.lead), np.int64),
        np.zeros(len(line.lead)),
        np.empty(crews, np.int64),
        np.empty(crews),
        np.empty(crews),
        np.empty(crews),
    )


@compiled
def make_runs(line: LineData, items: Items) -> Runs:
    """Room for the runs of every order of the items."""
    count = len(items.product)
    slots = 4
    for item in range(count):
        p = items.product[item]
        needs = line.need_from[p + 1] - line.need_from[p]
        slots += (int(items.packs[item] * line.ratio[p] / line.most[p]) + 2) * needs
    whole, real = np.zeros(count, np.int64), np.zeros(count)
    return Runs(
        whole,
        whole.copy(),
        whole.copy(),
        whole.copy(),
        real,
        real.copy(),
        real.copy(),
        real.copy(),
        whole.copy(),
        whole.copy(),
        whole.copy(),
        real.copy(),
        np.zeros(count + 1, np.int64),
        np.zeros(slots, np.int64),
    )


@compiled
def _begin(line: LineData, outside: Outside, room: Room) -> int:
    """Empty the working room but for what others have taken; how many crew stretches there are."""
    room.filled[:] = 0
    room.turn[:] = 0
    room.ends[:] = -np.inf
    room.stock[:] = 0
    room.stock_from[:] = 0.0
    for taken in range(len(outside.taken_unit)):
        unit = outside.taken_unit[taken]
        place = room.filled[unit]
        room.begin[unit, place] = outside.taken_begin[taken]
        room.end[unit, place] = outside.taken_end[taken]
        room.kind[unit, place] = outside.taken_class[taken]
        room.filled[unit] += 1
    for stretch in range(len(outside.crew)):
        room.crew[stretch] = outside.crew[stretch]
        room.crew_begin[stretch] = outside.crew_begin[stretch]
        room.crew_end[stretch] = outside.crew_end[stretch]
        room.crew_people[stretch] = outside.crew_people[stretch]
    return len(outside.crew)


@compiled
def _free(
    cleaning: Floats, begins: Floats, ends: Floats, kinds: Ints, filled: int, begin: float, length: float, kind: int
) -> float:
    """From when a unit is free for so long, cleaned before and after, not before `begin`.

    Parameters
    ----------
    cleaning : array, shape (K, K)
        Of the unit's pool, min.
    begins, ends, kinds : array
        What the unit has taken, the first `filled` of each, by time; kind -1, closed, needs no cleaning itself, but
        that between the doughs before and after it goes on.
    """
    if filled == 0:
        return begin
    last = filled - 1
    if kinds[last] >= 0 and ends[last] + cleaning[kinds[last], kind] <= begin + SAME_MOMENT_MIN:
        return begin
    low, high = 0, filled
    while low < high:
        middle = (low + high) // 2
        if begins[middle] < begin:
            low = middle + 1
        else:
            high = middle
    first = max(0, low - 1)
    while first > 0 and kinds[first] < 0:
        first -= 1
    at = begin
    for place in range(first, filled):
        other = kinds[place]
        before = cleaning[kind, other] if other >= 0 else 0.0
        if at + length + before <= begins[place] + SAME_MOMENT_MIN:
            if other >= 0:
                return at
            continue
        free = ends[place] + (cleaning[other, kind] if other >= 0 else 0.0)
        if free > at + SAME_MOMENT_MIN:
            at = free
    return at


@compiled
def _take(begins: Floats, ends: Floats, kinds: Ints, filled: int, begin: float, end: float, kind: int) -> None:
    place = filled
    while place > 0 and begins[place - 1] > begin:
        begins[place], ends[place], kinds[place] = begins[place - 1], ends[place - 1], kinds[place - 1]
        place -= 1
    begins[place], ends[place], kinds[place] = begin, end, kind


@compiled
def _give_back(begins: Floats, ends: Floats, kinds: Ints, filled: int, begin: float, end: float) -> None:
    place = filled - 1
    while begins[place] != begin or ends[place] != end:
        place -= 1
    for after in range(place, filled - 1):
        begins[after], ends[after], kinds[after] = begins[after + 1], ends[after + 1], kinds[after + 1]


@compiled
def _mix(line: LineData, room: Room, p: int, doughs: int, start: float, units: Ints, first_slot: int) -> float:
    """Take a unit for every need of every dough; or, taking none, by how much the start is too early, min."""
    low = line.need_from[p]
    needs = line.need_from[p + 1] - low
    pools, before, length_of, empties = line.need_pool, line.need_before, line.need_length, line.need_empties
    unit_from, cleaning, divided = line.unit_from, line.cleaning, room.divided
    begins, ends, kinds, filled, turn_of = room.begin, room.end, room.kind, room.filled, room.turn
    for dough in range(doughs):
        for place in range(needs):
            pool = pools[low + place]
            begin = start + divided[dough] - before[low + place]
            length = length_of[low + place]
            if empties[low + place]:
                length = max(length, start + divided[dough + 1] - begin)
            first, many = unit_from[pool], unit_from[pool + 1] - unit_from[pool]
            best, chosen = np.inf, -1
            for turn in range(many):
                unit = first + (turn_of[pool] + turn) % many
                free = _free(cleaning[pool], begins[unit], ends[unit], kinds[unit], filled[unit], begin, length, p)
                if free < best:
                    best, chosen = free, unit
                if free <= begin + SAME_MOMENT_MIN:
                    break
            if best > begin + SAME_MOMENT_MIN:
                _undo(line, room, p, dough * needs + place, start, units, first_slot)
                return float(best - begin)
            _take(begins[chosen], ends[chosen], kinds[chosen], filled[chosen], begin, begin + length, p)
            filled[chosen] += 1
            units[first_slot + dough * needs + place] = chosen
            turn_of[pool] = chosen - first + 1
    return 0.0


@compiled
def _undo(line: LineData, room: Room, p: int, many: int, start: float, units: Ints, first_slot: int) -> None:
    """Give back the first so many units that a run has taken, the last first."""
    low = line.need_from[p]
    needs = line.need_from[p + 1] - low
    for taken in range(many - 1, -1, -1):
        need, dough = low + taken % needs, taken // needs
        begin = start + room.divided[dough] - line.need_before[need]
        length = line.need_length[need]
        if line.need_empties[need]:
            length = max(length, start + room.divided[dough + 1] - begin)
        unit = units[first_slot + taken]
        _give_back(room.begin[unit], room.end[unit], room.kind[unit], room.filled[unit], begin, begin + length)
        room.filled[unit] -= 1
        pool = line.need_pool[need]
        room.turn[pool] = unit - line.unit_from[pool]


@compiled
def _blocked(legs: Ints, lows: Floats, highs: Floats, leg: int, begin: float, feed: float) -> float:
    """The earliest start of a leg, not before `begin`, that no window forbids, min."""
    moved = True
    while moved:
        moved = False
        for window in range(len(legs)):
            if legs[window] == leg and lows[window] - feed + SAME_MOMENT_MIN < begin < highs[window] - SAME_MOMENT_MIN:
                begin, moved = highs[window], True
    return begin


@compiled
def _crew_delay(line: LineData, room: Room, taken: int, p: int, start: float, extra: float, feed: float) -> float:
    """By how much a run must wait for people, min; 0 where all its hands are free."""
    near = np.empty(taken, np.int64)
    for need in range(line.crew_from[p], line.crew_from[p + 1]):
        crew, size = line.crew[need], line.crew_size[line.crew[need]]
        shift = start + (extra if line.crew_leg[need] else 0.0)
        begin, end = shift + line.crew_begin[need], shift + line.crew_end[need] + feed
        beside = 0
        for other in range(taken):
            if room.crew[other] == crew and room.crew_begin[other] < end and begin < room.crew_end[other]:
                near[beside] = other
                beside += 1
        for probe in range(-1, beside):
            at = begin if probe < 0 else max(begin, room.crew_begin[near[probe]])
            people, frees = 0.0, np.inf
            for own in range(line.crew_from[p], line.crew_from[p + 1]):
                from_ = start + (extra if line.crew_leg[own] else 0.0)
                if line.crew[own] == crew and (from_ + line.crew_begin[own] <= at < from_ + line.crew_end[own] + feed):
                    people += line.crew_people[own]
            for place in range(beside):
                other = near[place]
                if room.crew_begin[other] <= at < room.crew_end[other]:
                    people += room.crew_people[other]
                    frees = min(frees, room.crew_end[other])
            if people > size + WHOLE and frees < np.inf:
                return float(max(frees - begin, 0.01))
    return 0.0


@compiled
def _filled(at: float, entry: float, hold: float, feed: float) -> float:
    """Minutes of feeding that stand in a store at a moment."""
    return float(min(max(at - entry, 0.0), feed) - min(max(at - entry - hold, 0.0), feed))


@compiled
def _store_delay(
    line: LineData,
    outside: Outside,
    runs: Runs,
    count: int,
    p: int,
    start: float,
    extra: float,
    feed: float,
    pace: float,
) -> float:
    """By how much a run must wait until its store has room for it beside the others, min."""
    store, own = line.store[p], pace / 60.0 * line.store_share[p]
    most = 1 + count + len(outside.stored)
    entry, hold, fed, share = np.empty(most), np.empty(most), np.empty(most), np.empty(most)
    entry[0], hold[0], fed[0], share[0] = start + line.store_offset[p], line.store_least[p] + extra, feed, own
    many = 1
    for run in range(count):
        q = runs.product[run]
        if line.store[q] == store:
            entry[many] = runs.start[run] + line.store_offset[q]
            hold[many] = line.store_least[q] + runs.extra[run]
            fed[many] = runs.feed[run]
            share[many] = runs.pace[run] / 60.0 * line.store_share[q]
            many += 1
    for other in range(len(outside.stored)):
        if outside.stored[other] == store:
            entry[many], hold[many] = outside.stored_entry[other], outside.stored_hold[other]
            fed[many], share[many] = outside.stored_feed[other], outside.stored_share[other]
            many += 1
    delay = 0.0
    for probe in range(many):
        for corner in range(4):
            at = entry[probe] + (hold[probe] if corner >= 2 else 0.0) + (fed[probe] if corner % 2 else 0.0)
            alone = own * _filled(at, entry[0], hold[0], feed)
            full = 0.0
            for one in range(many):
                full += share[one] * _filled(at, entry[one], hold[one], fed[one])
            if full > 1.0 + WHOLE and alone > WHOLE:
                delay = max(delay, (full - 1.0) / own, LEAST_STEP_MIN)
    return delay


@compiled
def decode(
    line: LineData, outside: Outside, items: Items, order: Ints, alone: Ints, room: Room, runs: Runs
) -> tuple[int, float, float]:
    """Runs with times for an order of items.

    Parameters
    ----------
    order : array, shape (N,)
        The items, first to last.
    alone : array, shape (N,)
        1 where an item begins a run of its own, by item.

    Returns
    -------
    tuple
        How many runs; minutes off what was pinned; and how many runs cannot be made at all.
    """
    crews = _begin(line, outside, room)
    count, off_pin, impossible, place = 0, 0.0, 0.0, 0
    last_end = -np.inf
    while place < len(order):
        head, first_place = order[place], place
        p = items.product[head]
        packs, fresh, first_leaves = 0, -np.inf, np.inf
        while place < len(order):
            item = order[place]
            if item != head and (
                items.product[item] != p
                or alone[item]
                or items.pin[item] == items.pin[item]
                or items.share[item] != items.share[head]
                or items.policy[item] != items.policy[head]
                or packs + items.packs[item] > line.cap[p]
                or items.fresh[item] >= first_leaves
                or fresh >= items.leaves[item]
            ):
                break
            packs += items.packs[item]
            fresh = max(fresh, items.fresh[item])
            first_leaves = min(first_leaves, items.leaves[item])
            place += 1
        wanted = packs
        if room.stock_from[p] >= fresh:
            wanted -= room.stock[p]
        room.stock[p] = max(0, -wanted)
        if wanted <= 0:
            continue
        policy = items.policy[head] if items.policy[head] >= 0 else line.policy[p]
        need = int(np.ceil(wanted * line.ratio[p] - WHOLE))
        doughs = dough_sizes(need, line.least[p], line.most[p], policy, room.sizes)
        low, high = line.need_from[p], line.need_from[p + 1]
        units = np.empty(high - low, np.int64)
        for index in range(high - low):
            pool = line.need_pool[low + index]
            units[index] = line.unit_from[pool + 1] - line.unit_from[pool]
        pace = fed_pace(
            line.pace[p] * items.share[head],
            room.sizes[:doughs],
            units,
            line.need_length[low:high],
            line.need_before[low:high],
            line.need_empties[low:high],
        )
        pieces, largest = 0, 0
        for dough in range(doughs):
            pieces += room.sizes[dough]
            largest = max(largest, room.sizes[dough])
        if pace <= 0 or 60.0 * largest / pace > line.age_span[p] + 1e-7:
            impossible += 1
            pace = max(pace, 1.0)
        room.divided[0] = 0.0
        for dough in range(doughs):
            room.divided[dough + 1] = room.divided[dough] + 60.0 * room.sizes[dough] / pace
        feed = room.divided[doughs]
        made = int(np.floor(pieces / line.ratio[p] + WHOLE))
        slack = line.slack[p]
        if line.store[p] >= 0 and pace / 60.0 * line.store_share[p] * feed > 1.0:
            slack = min(slack, 60.0 / (pace * line.store_share[p]) - line.store_least[p])

        start, second = line.lead[p] + max(0.0, items.not_before[head]), -np.inf
        for run in range(count):
            q = runs.product[run]
            done = runs.start[run] + runs.feed[run]
            start = max(start, done + line.headway[q, p, 0, 0], done + runs.extra[run] + line.headway[q, p, 1, 0])
            second = max(second, done + line.headway[q, p, 0, 1], done + runs.extra[run] + line.headway[q, p, 1, 1])
        idle = 0.0
        if count:
            start = max(start, second - slack)
            idle = start - last_end
        if items.pin[head] == items.pin[head]:
            start = max(start, items.pin[head])
        low_place, high_place = outside.window_from[p], outside.window_from[p + 1]
        legs, lows, highs = (
            outside.window_leg[low_place:high_place],
            outside.window_low[low_place:high_place],
            outside.window_high[low_place:high_place],
        )
        extra = 0.0
        turns = 0
        while True:
            turns += 1
            if turns > TURNS:
                impossible += 1
                break
            begin = start
            extra = max(0.0, second - start, fresh - line.transit[p] - start)
            if extra > slack + SAME_MOMENT_MIN:
                start += extra - slack
                continue
            start = _blocked(legs, lows, highs, 0, start, feed)
            if start > begin:
                continue
            extra = _blocked(legs, lows, highs, 1, start + extra, feed) - start
            if extra > slack + SAME_MOMENT_MIN:
                start += extra - slack
                continue
            if line.store[p] >= 0:
                delay = _store_delay(line, outside, runs, count, p, start, extra, feed, pace)
                if delay > 0:
                    start += delay
                    idle += delay
                    continue
            if line.crew_from[p + 1] > line.crew_from[p]:
                delay = _crew_delay(line, room, crews, p, start, extra, feed)
                if delay > 0:
                    start += delay
                    idle += delay
                    continue
            delay = _mix(line, room, p, doughs, start, runs.slot_unit, runs.slot_from[count])
            if delay <= 0:
                break
            start += delay
            idle += delay
        if items.pin[head] == items.pin[head]:
            off_pin += start - items.pin[head]
        for need_ in range(line.crew_from[p], line.crew_from[p + 1]):
            shift = start + (extra if line.crew_leg[need_] else 0.0)
            room.crew[crews] = line.crew[need_]
            room.crew_begin[crews] = shift + line.crew_begin[need_]
            room.crew_end[crews] = shift + line.crew_end[need_] + feed
            room.crew_people[crews] = line.crew_people[need_]
            crews += 1
        runs.product[count] = p
        runs.item[count] = head
        runs.first_place[count] = first_place
        runs.places[count] = place - first_place
        runs.start[count] = start
        runs.extra[count] = extra
        runs.feed[count] = feed
        runs.pace[count] = pace
        runs.packs[count] = made
        runs.wanted[count] = wanted
        runs.policy[count] = policy
        runs.idle[count] = max(0.0, idle)
        runs.slot_from[count + 1] = runs.slot_from[count] + doughs * (high - low)
        room.stock[p] = made - wanted
        out = start + extra + line.transit[p]
        room.stock_from[p] = out + feed - feed * (made - wanted) / max(made, 1)
        last_end = start + feed
        count += 1
    return count, off_pin, impossible


@compiled
def _made_by(minute: float, first: float, feed: float, packs: int, low: int, high: int) -> int:
    """Number of the last pack made by a minute, of those numbered low + 1 to high; `low` where none is."""
    made = int(np.floor((minute - first) * packs / feed)) if feed > 0 else (packs if minute >= first else 0)
    return min(max(made, low), high)


@compiled
def serve_lots(
    departs: Floats, wanted: Ints, fresh: Floats, first: Floats, feed: Floats, packs: Ints, outcome: Floats
) -> None:
    """What every lorry gets of one product, pack by pack from the oldest: into `outcome`, shape (lots, 4).

    Pack i of P leaves a run at first + feed i / P. A pack belongs to the first lorry whose demand it fills; one
    that is too old for a lorry is thrown away, for it is too old for all later ones as well.

    Parameters
    ----------
    departs, wanted, fresh : array, shape (lots,)
        By departure: when the lorry leaves, its packs, and from when they must be made, min.
    first, feed, packs : array, shape (runs,)
        By first pack.
    outcome : array, shape (lots, 4)
        Packs short, packs x minutes late, packs too old, and when the last pack is made, NaN where never.
    """
    given = 0
    for lot in range(len(departs)):
        old = 0
        if fresh[lot] > -np.inf:
            for run in range(len(first)):
                old += _made_by(fresh[lot] - ON_TIME_MIN, first[run], feed[run], packs[run], 0, packs[run])
        stale = max(0, old - given)
        low = given + stale
        before, reached, short, late_minutes, ready = 0, 0, 0, 0.0, np.nan
        for run in range(len(first)):
            begin = max(low - before, 0)
            end = min(low + wanted[lot] - before, packs[run])
            if begin < end:
                on_time = _made_by(departs[lot] + ON_TIME_MIN, first[run], feed[run], packs[run], begin, end)
                late = end - on_time
                short += late
                if late:
                    numbers = late * (on_time + 1 + end) / 2
                    late_minutes += late * (first[run] - departs[lot]) + feed[run] / packs[run] * numbers
                ready = first[run] + feed[run] * end / packs[run]
                reached += end - begin
            before += packs[run]
        outcome[lot, 0] = short + wanted[lot] - reached
        outcome[lot, 1] = late_minutes
        outcome[lot, 2] = stale
        outcome[lot, 3] = ready if reached == wanted[lot] else np.nan
        given = low + wanted[lot]


@compiled
def _served(line: LineData, runs: Runs, count: int) -> tuple[int, float, int, int]:
    """Packs short, packs x minutes late, packs too old of all lots, and packs mixed beyond the demand."""
    mixed = len(line.lead)
    short, late, stale, surplus = 0, 0.0, 0, 0
    first, feed, packs = np.empty(count + 1), np.empty(count + 1), np.empty(count + 1, np.int64)
    for delivered in range(len(line.in_stock)):
        giving = 0
        if line.in_stock[delivered]:
            first[0], feed[0], packs[0] = line.stock_made[delivered], 0.0, line.in_stock[delivered]
            giving = 1
        for run in range(count):
            p = runs.product[run]
            if p == delivered:
                begin, many = runs.start[run] + runs.extra[run] + line.transit[p], runs.packs[run]
            elif line.cut_of[p] == delivered:
                begin = runs.start[run] + (runs.extra[run] if line.cut_leg[p] else 0.0) + line.cut_transit[p]
                pieces = round(runs.pace[run] * runs.feed[run] / 60.0)
                many = int(np.floor(pieces / line.cut_ratio[p] + WHOLE))
            else:
                continue
            place = giving
            while place > 0 and first[place - 1] > begin:
                first[place], feed[place], packs[place] = first[place - 1], feed[place - 1], packs[place - 1]
                place -= 1
            first[place], feed[place], packs[place] = begin, runs.feed[run], many
            giving += 1
        lots = np.flatnonzero(line.lot_product == delivered)
        outcome = np.empty((len(lots), 4))
        serve_lots(
            line.lot_departs[lots],
            line.lot_packs[lots],
            line.lot_fresh[lots],
            first[:giving],
            feed[:giving],
            packs[:giving],
            outcome,
        )
        for lot in range(len(lots)):
            short += int(outcome[lot, 0])
            late += outcome[lot, 1]
            stale += int(outcome[lot, 2])
        if delivered < mixed:
            for run in range(giving):
                surplus += packs[run]
            for lot in range(len(lots)):
                surplus -= line.lot_packs[lots[lot]]
    return short, late, stale, surplus


@compiled
def _oven_empty(line: LineData, runs: Runs, count: int) -> float:
    """Minutes that hot ovens stand empty between runs."""
    empty = 0.0
    for oven in range(line.oven_leg.shape[1]):
        left = np.nan
        for run in range(count):
            p = runs.product[run]
            leg = line.oven_leg[p, oven]
            if leg < 0:
                continue
            enters = runs.start[run] + (runs.extra[run] if leg else 0.0) + line.oven_offset[p, oven]
            if left == left:
                empty += min(max(enters - left, 0.0), OVEN_OFF_AFTER_MIN)
            out = enters + runs.feed[run] + line.oven_dwell[p, oven]
            left = max(left, out) if left == left else out
    return empty


@compiled
def _crew_peak(room: Room, crews: int, kinds: int) -> float:
    """People at work at once at most, all crews together, each at its own peak."""
    arrive, leave = np.argsort(room.crew_begin[:crews]), np.argsort(room.crew_end[:crews])
    now, peak = np.zeros(kinds), np.zeros(kinds)
    left = 0
    for place in range(crews):
        come = arrive[place]
        while left < crews and room.crew_end[leave[left]] <= room.crew_begin[come]:
            now[room.crew[leave[left]]] -= room.crew_people[leave[left]]
            left += 1
        kind = room.crew[come]
        now[kind] += room.crew_people[come]
        peak[kind] = max(peak[kind], now[kind])
    return float(peak.sum())


@compiled
def appraise(line: LineData, outside: Outside, items: Items, order: Ints, alone: Ints, room: Room, runs: Runs) -> Parts:
    """Decode an order and say what it is worth."""
    count, off_pin, impossible = decode(line, outside, items, order, alone, room, runs)
    short, late, stale, surplus = _served(line, runs, count)
    idle, end, beyond, moved = 0.0, 0.0, impossible * 1e6, 0.0
    for run in range(count):
        idle += runs.idle[run]
        p = runs.product[run]
        out = runs.start[run] + runs.extra[run] + line.transit[p] + runs.feed[run]
        end = max(end, out)
        if line.cut_of[p] >= 0:
            end = max(end, runs.start[run] + runs.extra[run] + line.cut_transit[p] + runs.feed[run])
        was = items.was[runs.item[run]]
        if was == was:
            moved += abs(runs.start[run] - was)
    beyond += max(0.0, end - line.window)
    peak = 0.0
    if len(line.crew_size) and len(line.crew):
        crews = len(outside.crew)
        for run in range(count):
            crews += line.crew_from[runs.product[run] + 1] - line.crew_from[runs.product[run]]
        peak = _crew_peak(room, crews, len(line.crew_size))
    return Parts(
        count,
        short,
        late / 60.0,
        stale,
        idle,
        _oven_empty(line, runs, count),
        surplus,
        end,
        peak,
        moved,
        off_pin,
        beyond,
    )


@compiled
def priced(parts: Parts, weights: Floats) -> float:
    """The cost of a decoded order: each part at its price, in the order of `Parts` after the number of runs."""
    return float(
        weights[0] * parts.short
        + weights[1] * parts.late_hours
        + weights[2] * parts.stale
        + weights[3] * parts.idle
        + weights[4] * parts.oven_empty
        + weights[5] * parts.surplus
        + weights[6] * parts.end
        + weights[7] * parts.crew_peak
        + weights[8] * parts.moved
        + weights[9] * parts.off_pin
        + weights[10] * parts.beyond
    )


@compiled
def _changed(items: Items, here: Ints, alone: Ints, order: Ints, apart: Ints, frozen: int) -> None:
    """One small change behind the frozen places: swap, move, move a run, join an own one, or set a run apart."""
    count = len(here)
    order[:] = here
    apart[:] = alone
    free = count - frozen
    one = frozen + np.random.randint(0, free)
    kind = np.random.randint(0, 10)
    if kind == 9 or free == 1:
        apart[here[one]] = 1 - alone[here[one]]
        return
    reach = 4 if np.random.random() < 0.5 else free
    other = one
    while other == one:
        other = one + np.random.randint(-reach, reach + 1)
        other = min(max(other, frozen), count - 1)
    if kind <= 2:
        order[one], order[other] = here[other], here[one]
        return
    length = 1
    if kind >= 6:
        while one > frozen and items.product[here[one - 1]] == items.product[here[one]] and not alone[here[one]]:
            one -= 1
        while (
            one + length < count
            and items.product[here[one + length]] == items.product[here[one]]
            and not alone[here[one + length]]
        ):
            length += 1
    elif kind == 5:
        places = np.flatnonzero(items.product[here[frozen:]] == items.product[here[one]]) + frozen
        other = places[np.random.randint(0, len(places))]
        if np.random.random() < 0.5 and other > frozen:
            other -= 1
    if one <= other < one + length or length >= free:
        other = frozen if one > frozen else min(one + length, count - 1)
    other = min(other, count - length)
    moved = here[one : one + length].copy()
    if other > one:
        for step in range(one, other):
            order[step] = here[step + length]
    else:
        for step in range(one - 1, other - 1, -1):
            order[step + length] = here[step]
    order[other : other + length] = moved


@compiled
def anneal(
    line: LineData,
    outside: Outside,
    items: Items,
    order: Ints,
    alone: Ints,
    frozen: int,
    weights: Floats,
    seed: int,
    tries: int,
    warm: float,
    cold: float,
) -> tuple[Ints, Ints, float]:
    """Change an order again and again; keep what is no worse, and what is worse the less often the cooler it gets.

    Returns
    -------
    tuple
        The best order, its runs set apart, and its cost; those it began with if nothing is better.
    """
    np.random.seed(seed % 2_147_483_647)
    room, runs = make_room(line, outside, items), make_runs(line, items)
    here, apart = order.copy(), alone.copy()
    cost = priced(appraise(line, outside, items, here, apart, room, runs), weights)
    best, best_alone, least = here.copy(), apart.copy(), cost
    new, new_apart = here.copy(), apart.copy()
    cooling = (cold / warm) ** (1.0 / max(tries, 1))
    heat = warm
    for _ in range(tries):
        heat *= cooling
        _changed(items, here, apart, new, new_apart, frozen)
        found = priced(appraise(line, outside, items, new, new_apart, room, runs), weights)
        if found <= cost or np.random.random() < np.exp((cost - found) / heat):
            here[:], apart[:] = new, new_apart
            cost = found
            if cost < least - 1e-9:
                least = cost
                best[:], best_alone[:] = here, apart
    return best, best_alone, least


@compiled
def every_order(line: LineData, outside: Outside, items: Items, weights: Floats) -> tuple[Ints, Ints, float, int]:
    """The best of all orders of the items, with every choice of runs set apart, and how many were tried."""
    count = len(items.product)
    room, runs = make_room(line, outside, items), make_runs(line, items)
    order, alone = np.arange(count), np.zeros(count, np.int64)
    best, best_alone, least, tried = order.copy(), alone.copy(), np.inf, 0
    stack = np.zeros(count, np.int64)
    place, fresh = 0, True
    while place < count or fresh:
        if fresh:
            for choice in range(2**count):
                useful = True
                for item in range(count):
                    alone[item] = (choice >> item) & 1
                for step in range(count):
                    if alone[order[step]] and (
                        step == 0 or items.product[order[step]] != items.product[order[step - 1]]
                    ):
                        useful = False
                if useful:
                    tried += 1
                    cost = priced(appraise(line, outside, items, order, alone, room, runs), weights)
                    if cost < least - 1e-9:
                        least = cost
                        best[:], best_alone[:] = order, alone
            fresh = False
        if place < count and stack[place] < place:
            swap = 0 if place % 2 == 0 else stack[place]
            order[swap], order[place] = order[place], order[swap]
            stack[place] += 1
            place, fresh = 0, True
        elif place < count:
            stack[place] = 0
            place += 1
    return best, best_alone, least, tried
