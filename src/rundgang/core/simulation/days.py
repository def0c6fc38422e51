"""Days of a line under chance: each parcel through each station, held up by what stands before it, day by day.

A station that stands holds all that is on it. What it does not take waits on the station before, which then stands
too, belt by belt back to the divider; what is behind it goes on. A parcel stays in a station for its time, counted
while that runs; one that stays longer than its pieces bear is lost. A run begins when its plan says, a little late as
people are, or as soon as the divider is free and set; its later legs when their plan says and their pieces are there.
"""

from typing import NamedTuple

import numpy as np

from rundgang.core.compiled import Bools, Floats, Ints, compiled, inner
from rundgang.core.simulation.model import LineModel

FAR_MIN = 2_880.0
"""Stops are drawn so far behind the plan's end, min."""

LEAST_BETWEEN_MIN = 1.0
"""Behind a stop a station runs at least so long, min."""

LITTLE_MIN = 1e-6
"""Nothing is lost, or waits, for so little, min."""


class LineDays(NamedTuple):
    """Days of a line.

    Attributes
    ----------
    from_min, until_min : float array (days, parcels)
        When the first and the last of a parcel's packs are made.
    good : bool array (days, parcels)
        Whether it gives any.
    first : int array (legs + 1,)
        The first parcel of each leg that gives packs, in their order.
    """

    from_min: Floats
    until_min: Floats
    good: Bools
    first: Ints


def days_of(model: LineModel, seed: int, first_day: int, days: int) -> LineDays:
    """So many days from one on; a day is the same whoever asks for it, and with whichever others."""
    parcels = [int(model.legs[leg, 6]) for leg, _, __ in model.gives]
    first = np.cumsum([0, *parcels])
    gives = np.full(len(model.legs), -1)
    for place, (leg, _, __) in enumerate(model.gives):
        gives[leg] = first[place]
    begins, fed = model.leg_times[:, 0], model.leg_times[:, 1]
    until = float((begins + fed).max(initial=0.0)) + FAR_MIN
    from_min, until_min = np.zeros((days, first[-1])), np.zeros((days, first[-1]))
    good = np.zeros((days, first[-1]), dtype=np.bool_)
    _days(
        model.legs, model.leg_times, model.passes, model.pass_times, model.chances, model.spreads, gives, until, seed,
        first_day, from_min, until_min, good,
    )  # fmt: skip
    return LineDays(from_min, until_min, good, first)


@compiled
def _days(
    legs: Ints, leg_times: Floats, passes: Ints, pass_times: Floats, chances: Floats, spreads: Floats, gives: Ints,
    until: float, seed: int, first_day: int, from_min: Floats, until_min: Floats, good: Bools,
) -> None:  # fmt: skip
    # A station stands at most as often as it can stop, and once for each parcel that the one behind it does not take.
    stations, most, stands = len(chances), 1, int(until / LEAST_BETWEEN_MIN) + 1
    for leg in range(len(legs)):
        most = max(most, legs[leg, 6])
        stands += legs[leg, 5] * legs[leg, 6]
    begins, ends = np.empty((stations, stands)), np.empty((stations, stands))
    known, seen = np.empty(stations, dtype=np.int64), np.empty(stations, dtype=np.int64)
    last_in, last_out = np.empty(len(passes)), np.empty(len(passes))
    places = np.int64(0)
    for leg in range(len(legs)):
        places = max(places, legs[leg, 5])
    ready, lost = np.empty((len(legs), places, most)), np.empty((len(legs), places, most), dtype=np.bool_)
    paces, entered = np.empty(len(legs)), np.empty(places)
    for day in range(len(from_min)):
        for station in range(stations):
            np.random.seed(_dice(seed, first_day + day, station))
            known[station] = _stops(chances[station], until, begins[station], ends[station])
            seen[station] = 0
        for leg in range(len(legs)):
            np.random.seed(_dice(seed, first_day + day, stations + leg))
            _leg(
                leg, legs, leg_times, passes, pass_times, spreads, gives[leg], begins, ends, known, seen,
                last_in, last_out, entered, ready, lost, paces, from_min[day], until_min[day], good[day],
            )  # fmt: skip


@inner
def _dice(seed: int, day: int, thing: int) -> int:
    """The seed of a station's stops, or of a leg, on a day: each has dice of its own, whatever else there is."""
    mixed = (seed * 1_000_003 + day) * 8_191 + thing
    mixed = (mixed ^ (mixed >> 15)) * 2_246_822_519 % 4_294_967_296
    return (mixed ^ (mixed >> 13)) % 4_294_967_296


@inner
def _stops(chances: Floats, until: float, begins: Floats, ends: Floats) -> int:
    """Draw a station's stops up to a moment; how many there are."""
    count, at = 0, 0.0
    while chances[0] < np.inf:
        at += LEAST_BETWEEN_MIN + np.random.exponential(chances[0])
        lasts = chances[1] * np.exp(chances[2] * np.random.normal(0.0, 1.0))
        if at > until:
            break
        begins[count], ends[count] = at, at + lasts
        at += lasts
        count += 1
    return count


@inner
def _runs_from(begins: Floats, ends: Floats, known: int, seen: int, minute: float) -> tuple[float, int]:
    """When a station runs at or after a moment; and which of the times that it stood is the first not over by then."""
    while seen < known and ends[seen] <= minute:
        seen += 1
    if seen < known and begins[seen] <= minute:
        return ends[seen], seen
    return minute, seen


@inner
def _after(begins: Floats, ends: Floats, known: int, seen: int, minute: float, stays: float) -> float:
    """When a station has run for so long since a moment."""
    at, place = minute, seen
    while place < known:
        if ends[place] > at:
            if begins[place] >= at + stays:
                break
            if begins[place] > at:
                stays -= begins[place] - at
            at = ends[place]
        place += 1
    return at + stays


@inner
def _hold(begins: Floats, ends: Floats, known: int, from_min: float, until: float) -> int:
    """Let a station stand from a moment until another too; how often it stands then."""
    place = known
    while place > 0 and ends[place - 1] >= from_min:
        place -= 1
    behind = place
    while behind < known and begins[behind] <= until:
        from_min, until = min(from_min, begins[behind]), max(until, ends[behind])
        behind += 1
    if behind == place:
        for move in range(known, place, -1):
            begins[move], ends[move] = begins[move - 1], ends[move - 1]
    elif behind > place + 1:
        for move in range(behind, known):
            begins[move - behind + place + 1], ends[move - behind + place + 1] = begins[move], ends[move]
    begins[place], ends[place] = from_min, until
    return known + 1 - (behind - place)


@inner
def _free(empties: bool, last_in: float, last_out: float, white: float, spread: float) -> float:
    """When a station is free for the next run: behind the last piece in, or out and what is set or cleaned then."""
    return last_out + white * spread if empties else last_in + white


@inner
def _leg(
    leg: int, legs: Ints, leg_times: Floats, passes: Ints, pass_times: Floats, spreads: Floats, gives: int,
    begins: Floats, ends: Floats, known: Ints, seen: Ints, last_in: Floats, last_out: Floats,
    entered: Floats, ready: Floats, lost: Bools, paces: Floats,
    from_min: Floats, until_min: Floats, good: Bools,
) -> None:  # fmt: skip
    """Send a leg's parcels down the line."""
    brought, behind, waits, first, count, parcels = legs[leg, 1:7]
    planned, share = leg_times[leg, 0], leg_times[leg, 1] / parcels
    if brought < 0:
        paces[leg] = np.exp(spreads[2] * np.random.normal(0.0, 1.0))
        at = planned + spreads[0] * np.exp(spreads[1] * np.random.normal(0.0, 1.0))
        if passes[first, 1] >= 0:
            at = max(at, last_in[passes[first, 1]] + leg_times[leg, 2])
    else:
        paces[leg] = paces[brought]
        at = -np.inf
    lasts = share / paces[leg]
    for parcel in range(parcels):
        head, is_lost = at, brought >= 0 and lost[brought, behind, parcel]
        if brought >= 0:
            after = planned + parcel * share if waits else ready[brought, behind, parcel] + leg_times[leg, 2]
            head = max(head, ready[brought, behind, parcel], after)
        comes, left, held = head, head, -1
        for place in range(count):
            one = first + place
            station, before = passes[one, 0], passes[one, 1]
            wanted = comes
            if parcel > 0:
                tail = _after(begins[station], ends[station], known[station], seen[station], entered[place], lasts)
                wanted = tail if tail > comes + LITTLE_MIN else comes
            elif before >= 0:
                spread = np.exp(spreads[3] * np.random.normal(0.0, 1.0))
                wanted = max(
                    wanted, _free(passes[one, 2] == 1, last_in[before], last_out[before], pass_times[one, 2], spread)
                )
            into, seen[station] = _runs_from(begins[station], ends[station], known[station], seen[station], wanted)
            entered[place] = into
            if into > comes and held >= 0:
                known[held] = _hold(begins[held], ends[held], known[held], left, left + into - comes)
            if place == 0:
                at = _after(begins[station], ends[station], known[station], seen[station], into, lasts)
            stays = pass_times[one, 0]
            left = _after(begins[station], ends[station], known[station], seen[station], into, stays)
            is_lost = is_lost or left - into > stays + pass_times[one, 3] + LITTLE_MIN
            if parcel == parcels - 1:
                last_in[one] = _after(begins[station], ends[station], known[station], seen[station], into, lasts)
                last_out[one] = _after(begins[station], ends[station], known[station], seen[station], left, lasts)
            comes, held = left + pass_times[one, 1], station
            ready[leg, place, parcel], lost[leg, place, parcel] = comes, is_lost
            if gives >= 0 and place == count - 1:
                from_min[gives + parcel], good[gives + parcel] = left, not is_lost
                until_min[gives + parcel] = _after(
                    begins[station], ends[station], known[station], seen[station], left, lasts
                )
