"""Units: mixers, troughs, kettles and tanks, taken by one batch at a time and cleaned between two."""

from typing import Any

import numpy as np

from rundgang.core.compiled import Ints, Records, compiled, inner
from rundgang.core.planning.decode.arrays import (
    CRUMB_KG,
    FOR_A_TIME,
    FOR_THE_RUN,
    SAME_MOMENT_MIN,
    UNTIL_USED,
    Fixed,
    Rooms,
    Runs,
    ShopArrays,
    State,
    Units,
)

NONE: Any = np.int64(-1)
"""No pool: of a type that Numba takes for any whole number."""


@inner
def begin_units(fixed: Fixed, units: Units) -> None:
    """Empty the units but for what is fixed."""
    units.filled[:] = 0
    units.last[:] = 0
    for place in range(len(fixed.taken)):
        taken = fixed.taken[place]
        use = units.uses[taken.unit, units.filled[taken.unit]]
        use.begin, use.end, use.class_ = taken.begin, taken.end, taken.class_
        units.filled[taken.unit] += 1


@inner
def _free(rooms: Rooms, units: Units, pool: int, unit: int, begin: float, length: float, class_: int) -> float:
    """From when a unit of a pool is free for so long, cleaned before and after, not before `begin`.

    Closed needs no cleaning itself, but that between the batches before and after it goes on.
    """
    uses, leaves, filled = units.uses, rooms.leaves, units.filled[unit]
    if filled == 0:
        return begin
    other = uses[unit, filled - 1].class_
    if (
        other >= 0
        and uses[unit, filled - 1].end + rooms.cleaning[pool, leaves[other, class_]] <= begin + SAME_MOMENT_MIN
    ):
        return begin
    low, high = 0, filled
    while low < high:
        middle = (low + high) // 2
        if uses[unit, middle].begin < begin:
            low = middle + 1
        else:
            high = middle
    first = max(0, low - 1)
    while first > 0 and uses[unit, first].class_ < 0:
        first -= 1
    at = begin
    for place in range(first, filled):
        other = uses[unit, place].class_
        before = rooms.cleaning[pool, leaves[class_, other]] if other >= 0 else 0.0
        if at + length + before <= uses[unit, place].begin + SAME_MOMENT_MIN:
            if other >= 0:
                return at
            continue
        free = uses[unit, place].end + (rooms.cleaning[pool, leaves[other, class_]] if other >= 0 else 0.0)
        if free > at + SAME_MOMENT_MIN:
            at = free
    return at


@inner
def _copy(uses: Records, unit: int, place: int, to: int) -> None:
    """Write one stretch of a unit over another."""
    there, here = uses[unit, to], uses[unit, place]
    there.begin, there.end, there.class_ = here.begin, here.end, here.class_


@inner
def _take(units: Units, unit: int, begin: float, end: float, class_: int) -> None:
    uses, place = units.uses, units.filled[unit]
    while place > 0 and uses[unit, place - 1].begin > begin:
        _copy(uses, unit, place - 1, place)
        place -= 1
    use = uses[unit, place]
    use.begin, use.end, use.class_ = begin, end, class_
    units.filled[unit] += 1


@inner
def _give_back(units: Units, unit: int, begin: float, end: float) -> None:
    last = units.filled[unit] - 1
    place = last
    while units.uses[unit, place].begin != begin or units.uses[unit, place].end != end:
        place -= 1
    for after in range(place, last):
        _copy(units.uses, unit, after + 1, after)
    units.filled[unit] -= 1


@inner
def stretch(need: Records, used: float, empty: float, end: float, room_min: float) -> tuple[float, float]:
    """From when to when a need takes its unit, min.

    Parameters
    ----------
    used, empty : float
        When the batch is begun to be used, and used up.
    end : float
        When the last batch of the stream is used up.
    room_min : float
        So long before it is used the tank has room for a batch: until then it keeps its kettle; inf without a tank.
    """
    begin = used - need.before
    until = begin + need.length
    if need.how == FOR_A_TIME:
        until = max(until, used - room_min)
    elif need.how == UNTIL_USED:
        until = max(until, empty)
    elif need.how == FOR_THE_RUN:
        until = end + need.length
    return begin, until


@inner
def take_units(
    shop: ShopArrays,
    state: State,
    stream: int,
    batches: int,
    tank: int,
    start: float,
    room_min: float,
    runs: Runs,
    slot: int,
) -> tuple[float, int]:
    """Take a unit for every need of every batch of a stream, what serves the whole run first.

    Parameters
    ----------
    tank : int
        The one that holds what is left of the filling, and that the run goes on with; -1 where it takes another.
    start : float
        When its first batch is begun to be used, min; `state.used` says the others', behind it.
    room_min : float
        As `stretch` takes it.
    slot : int
        Where in `runs.slot_unit` the units are written: what serves the whole run, then batch by batch.

    Returns
    -------
    tuple
        By how much the start is too early, min, having taken nothing, and the pool that is not free; or 0 and -1.
    """
    low, high = shop.streams[stream].first_need, shop.streams[stream].end_need
    end, taken, short, pool = start + state.used[batches], slot, 0.0, NONE
    for need in range(low, high):
        if shop.rooms.needs[need].how == FOR_THE_RUN and short == 0:
            begin, until = stretch(shop.rooms.needs[need], start + state.used[0], end, end, room_min)
            runs.slot_unit[taken] = tank
            if tank < 0:
                short = _take_one(shop.rooms, state.units, need, begin, until, runs.slot_unit, taken)
                pool = shop.rooms.needs[need].pool
            taken += 1
    for batch in range(batches):
        used, empty = start + state.used[batch], start + state.used[batch + 1]
        for need in range(low, high):
            if shop.rooms.needs[need].how != FOR_THE_RUN and short == 0:
                begin, until = stretch(shop.rooms.needs[need], used, empty, end, room_min)
                short, pool = (
                    _take_one(shop.rooms, state.units, need, begin, until, runs.slot_unit, taken),
                    shop.rooms.needs[need].pool,
                )
                taken += 1
    if short > 0:
        give_back_units(shop, state, stream, batches, tank, start, room_min, runs, slot, taken - 1)
        return float(short), int(pool)
    return 0.0, -1


@inner
def _take_one(
    rooms: Rooms, units: Units, need: int, begin: float, until: float, slot_unit: Ints, slot: int
) -> float:  # fmt: skip
    """Take a unit for a need; or, taking none, by how much it is asked for too early, min."""
    pool, class_ = rooms.needs[need].pool, rooms.needs[need].class_
    first, many = rooms.pools[pool].first, rooms.pools[pool].end - rooms.pools[pool].first
    best, chosen = np.inf, -1
    for other in range(many):
        unit = first + (units.last[pool] + other) % many
        free = _free(rooms, units, pool, unit, begin, until - begin, class_)
        if free < best:
            best, chosen = free, unit
        if free <= begin + SAME_MOMENT_MIN:
            break
    if best > begin + SAME_MOMENT_MIN:
        return float(best - begin)
    _take(units, chosen, begin, until, class_)
    slot_unit[slot] = chosen
    units.last[pool] = chosen - first
    return 0.0


@inner
def give_back_units(
    shop: ShopArrays,
    state: State,
    stream: int,
    batches: int,
    tank: int,
    start: float,
    room_min: float,
    runs: Runs,
    slot: int,
    until: int,
) -> None:
    """Give back what a stream has taken, from `slot` up to `until`."""
    low, high = shop.streams[stream].first_need, shop.streams[stream].end_need
    end, taken = start + state.used[batches], slot
    for need in range(low, high):
        if shop.rooms.needs[need].how == FOR_THE_RUN and taken < until:
            if tank < 0:
                begin, to = stretch(shop.rooms.needs[need], start + state.used[0], end, end, room_min)
                _give_one(shop.rooms, state.units, need, begin, to, runs.slot_unit[taken])
            taken += 1
    for batch in range(batches):
        used, empty = start + state.used[batch], start + state.used[batch + 1]
        for need in range(low, high):
            if shop.rooms.needs[need].how != FOR_THE_RUN and taken < until:
                begin, to = stretch(shop.rooms.needs[need], used, empty, end, room_min)
                _give_one(shop.rooms, state.units, need, begin, to, runs.slot_unit[taken])
                taken += 1


@inner
def _give_one(rooms: Rooms, units: Units, need: int, begin: float, to: float, unit: int) -> None:
    _give_back(units, unit, begin, to)
    units.last[rooms.needs[need].pool] = unit - rooms.pools[rooms.needs[need].pool].first


@inner
def stretch_at(units: Units, unit: int, begin: float) -> int:
    """Where among the stretches of a unit the one stands that begins at a moment."""
    place = units.filled[unit] - 1
    while place > 0 and units.uses[unit, place].begin != begin:
        place -= 1
    return int(place)


@inner
def can_keep(rooms: Rooms, units: Units, pool: int, unit: int, begin: float, until: float) -> bool:
    """Whether what is in a unit since a moment can stay there so long: nothing comes into it, or cleans it, before."""
    place = stretch_at(units, unit, begin)
    if place + 1 == units.filled[unit]:
        return True
    own, then = units.uses[unit, place].class_, units.uses[unit, place + 1]
    clean = rooms.cleaning[pool, rooms.leaves[own, then.class_]] if then.class_ >= 0 else 0.0
    return bool(until + clean <= then.begin + SAME_MOMENT_MIN)


@compiled
def slots_of(shop: ShopArrays, stream: int, batches: int) -> int:
    """How many units a stream of so many batches takes."""
    slots = 0
    for need in range(shop.streams[stream].first_need, shop.streams[stream].end_need):
        slots += 1 if shop.rooms.needs[need].how == FOR_THE_RUN else batches
    return slots


@compiled
def dough_pace(shop: ShopArrays, p: int, pace: float, sizes: Ints) -> float:
    """Pace at which doughs of these sizes can be fed, pieces/h; 0 where they cannot without a break.

    With m units of a station, dough b + m takes the unit of dough b, so the m doughs between must feed the
    line for at least the time that the unit is taken. A trough by the divider is taken at least until its dough
    is divided, which leaves the m - 1 doughs after it to feed the line while the next one ferments.
    """
    stream = shop.streams[shop.products[p].first_stream]
    for place in range(stream.first_need, stream.end_need):
        need = shop.rooms.needs[place]
        many = shop.rooms.pools[need.pool].end - shop.rooms.pools[need.pool].first
        for first in range(len(sizes) - many):
            others = 0
            for dough in range(first + 1, first + many):
                others += sizes[dough]
            if need.length > 0:
                pace = min(pace, 60.0 * (others + sizes[first]) / need.length)
            if need.how == UNTIL_USED and need.before > 0:
                pace = min(pace, 60.0 * others / need.before)
    return pace


MOST_FITS = 12
"""So often a run is slowed at most to let its kettles follow."""


@compiled
def filling_batches(total: float, least: float, most: float, age_span: float, kg_per_min: float) -> tuple[int, float]:
    """How many batches of a filling a run takes, and the size of each, kg; 0 where none is young enough when used.

    Equal batches, as few as kettle, tank and age allow: what is used last of a batch is used before its most age.
    """
    largest = min(most, age_span * kg_per_min)
    if min(least, total) > largest * (1 + 1e-9) or largest <= 0:
        return 0, 0.0
    count = max(1, int(np.ceil(total / largest - 1e-9)))
    size = max(total / count, least)
    return max(1, int(np.ceil(total / size - 1e-9))), size


@compiled
def own_batches(shop: ShopArrays, runs: Runs, run: int, stream: int) -> tuple[int, float]:
    """How many batches of a filling are made for a run beside what it finds left, and the size of each, kg."""
    of = shop.streams[stream]
    total = runs.of[run].pieces * of.ratio
    rest = total - runs.kept[run, stream - shop.products[runs.of[run].product].first_stream]
    if rest <= CRUMB_KG:
        return 0, 0.0
    return filling_batches(rest, of.least, of.most, of.age_span, total / runs.times[run, of.leg].feed)


@inner
def filling_pace(shop: ShopArrays, stream: int, pieces: int, pace: float) -> float:
    """Pace that the kettles of a filling can follow, pieces/h; 0 where none is slow enough.

    With m kettles batch b + m takes the kettle of batch b: m batches must last for as long as one keeps its kettle.
    """
    total = pieces * shop.streams[stream].ratio
    for _ in range(MOST_FITS):
        kg_per_min = shop.streams[stream].ratio * pace / 60.0
        count, size = filling_batches(
            total, shop.streams[stream].least, shop.streams[stream].most, shop.streams[stream].age_span, kg_per_min
        )
        if count == 0:
            return 0.0
        slower = kg_per_min
        for need in range(shop.streams[stream].first_need, shop.streams[stream].end_need):
            pool = shop.rooms.needs[need].pool
            many = shop.rooms.pools[pool].end - shop.rooms.pools[pool].first
            if shop.rooms.needs[need].how == FOR_THE_RUN or count <= many:
                continue
            room_min = (shop.streams[stream].keeps - size) / kg_per_min
            taken = max(shop.rooms.needs[need].length, shop.rooms.needs[need].before - room_min)
            if many * size < taken * kg_per_min * (1 - 1e-9):
                slower = min(slower, many * size / taken)
        if slower >= kg_per_min:
            return pace
        if slower <= 0:
            return 0.0
        pace = slower * 60.0 / shop.streams[stream].ratio
    return 0.0
