"""A line's plan as the simulation takes it: legs of parcels, what each passes, and what is random there.

A parcel is what is fed in a few minutes. It passes the stations of its leg one behind the other. Behind a store or a
load, and behind the cutter of what is cut out and sold, a leg of its own begins.
"""

from collections.abc import Iterator, Mapping, Sequence
from math import ceil, inf
from typing import NamedTuple

import numpy as np

from rundgang.core.compiled import Floats, Ints
from rundgang.core.floor.effect import operation_at
from rundgang.core.planning.headway import gap
from rundgang.core.planning.legs import Passing, passages, passings, way_of
from rundgang.core.planning.model import LinePlan, Run
from rundgang.core.scenario import Scenario

PARCEL_MIN = 2.0
"""A parcel is what is fed in so long at most, min."""

NONE = -1
"""No leg, or no pass."""


class Chances(NamedTuple):
    """What is random on a line; nothing of it by itself.

    Attributes
    ----------
    stops_every_min : mapping of str to float
        By station, how long it runs in the mean until it stops, min, exponential; what is not there never does.
    stands_min : mapping of str to (float, float)
        By station, the median of how long it stands, min, and the standard deviation of the logarithm.
    late_min : (float, float)
        How late people begin a run: the median, min, and the standard deviation of the logarithm.
    pace_spread, change_spread : float
        How far a run's pace, and the setting of a station, are from what the plan says: the standard deviation of the
        logarithm.
    """

    stops_every_min: Mapping[str, float] = {}
    stands_min: Mapping[str, tuple[float, float]] = {}
    late_min: tuple[float, float] = (0.0, 0.0)
    pace_spread: float = 0.0
    change_spread: float = 0.0


class LineModel(NamedTuple):
    """A line's plan in arrays; times from the window's start, min.

    Attributes
    ----------
    legs : int array (legs, 7)
        Of each leg, in the order in which they begin: its run; the leg that brings its parcels, or -1 at the divider,
        and the place of the pass behind which that does; whether they wait for their planned time; its first pass, and
        how many; its parcels.
    leg_times : float array (legs, 3)
        When it begins and how long it is fed, planned; and white time at the divider before it, or how long its
        parcels are carried to it.
    passes : int array (passes, 3)
        The station; the pass of the run before there, or -1; whether the station must be empty in between.
    pass_times : float array (passes, 4)
        How long a piece stays, and is carried on; white time behind the pass before; and how much longer than it stays
        a piece bears.
    gives : tuple of (int, str, int)
        What gives packs: the leg, the product, and how many packs.
    chances : float array (stations, 3)
        Minutes between stops, infinite where there are none; median and spread of how long it stands.
    spreads : float array (4,)
        How late runs begin, median and spread; spreads of paces and of settings.
    """

    line: str
    stations: tuple[str, ...]
    runs: tuple[str, ...]
    legs: Ints
    leg_times: Floats
    passes: Ints
    pass_times: Floats
    gives: tuple[tuple[int, str, int], ...]
    chances: Floats
    spreads: Floats


class _Pass(NamedTuple):
    """A pass of a station: as planned, how long a piece stays at least, is carried on, and bears to stand, min."""

    passing: Passing
    stay_min: float
    carry_min: float
    bears_min: float


class _Leg(NamedTuple):
    """A leg: its run; the leg that brings its parcels, and behind which place; and whether it waits for its time."""

    run: int
    number: int
    brought: tuple[int, int] | None
    waits: bool
    start_min: float
    feed_min: float
    before_min: float
    passes: tuple[_Pass, ...]
    gives: tuple[str, int] | None


def model_of(scenario: Scenario, plan: LinePlan, chances: Chances) -> LineModel:
    """A line's plan as the simulation takes it."""
    stations = tuple(station.id for station in scenario.line(plan.line).piece_stations)
    runs = sorted(plan.runs, key=lambda run: run.start_min)
    cut = {run.run: run.packs for run in plan.cut_runs}
    legs = [leg for place, run in enumerate(runs) for leg in _legs(scenario, place, run)]
    legs += [leg for place, run in enumerate(runs) for leg in _asides(scenario, place, run, cut.get(run.id, 0))]
    legs.sort(key=lambda leg: (leg.start_min, leg.run, leg.number))
    place_of = {(leg.run, leg.number): place for place, leg in enumerate(legs)}
    firsts = np.cumsum([0, *(len(leg.passes) for leg in legs)])
    before = _before(legs)
    passes, times = list[tuple[int, int, int]](), list[tuple[float, float, float, float]]()
    for leg in legs:
        for one in leg.passes:
            ahead = before.get(len(passes))
            white, empties = _white(scenario, ahead[1], one) if ahead else (0.0, False)
            passes.append((stations.index(one.passing.station), ahead[0] if ahead else NONE, int(empties)))
            times.append((one.stay_min, one.carry_min, white, one.bears_min))
    parcels = [max(1, ceil(run.feed_min / PARCEL_MIN)) for run in runs]
    return LineModel(
        line=plan.line,
        stations=stations,
        runs=tuple(run.id for run in runs),
        legs=np.array(
            [
                (
                    leg.run,
                    place_of[leg.run, leg.brought[0]] if leg.brought else NONE,
                    leg.brought[1] if leg.brought else NONE,
                    int(leg.waits),
                    firsts[place],
                    len(leg.passes),
                    parcels[leg.run],
                )
                for place, leg in enumerate(legs)
            ],
            dtype=np.int64,
        ).reshape(-1, 7),
        leg_times=np.array([(leg.start_min, leg.feed_min, leg.before_min) for leg in legs]).reshape(-1, 3),
        passes=np.array(passes, dtype=np.int64).reshape(-1, 3),
        pass_times=np.array(times).reshape(-1, 4),
        gives=tuple((place, *leg.gives) for place, leg in enumerate(legs) if leg.gives),
        chances=np.array(
            [
                (chances.stops_every_min.get(station, inf), *chances.stands_min.get(station, (0.0, 0.0)))
                for station in stations
            ]
        ).reshape(-1, 3),
        spreads=np.array([*chances.late_min, chances.pace_spread, chances.change_spread]),
    )


def _legs(scenario: Scenario, place: int, run: Run) -> Iterator[_Leg]:
    """A run's legs."""
    product = scenario.dwelling(run.product, run.dwell_min)
    way = way_of(scenario, product)
    own = list(zip(passages(scenario, product), passings(scenario, run), strict=True))[: len(way.stops)]
    brought: tuple[int, int] | None = None
    for number, leg in enumerate(run.legs):
        there = [(passage.stop, passing) for passage, passing in own if passage.stop.leg == number]
        passes = list[_Pass]()
        for (stop, passing), then in zip(there, [*there[1:], None], strict=True):
            bears = operation_at(scenario, run, passing).stands_min
            stay, carry = passing.first_out - passing.first_in, 0.0
            if then:
                carry = then[1].first_in - passing.first_out
            elif stop.splits:
                boundary = way.boundaries[number]
                stay, carry = stop.dwell_min, boundary.span_min - boundary.entry_min - stop.dwell_min
                waits = [passing.first_out - passing.first_in - stay, passing.last_out - passing.last_in - stay]
                bears = max(boundary.slack_min, *waits) if boundary.is_store else max(0.0, *waits) + bears
            passes.append(_Pass(passing, stay, carry, bears))
        last = number == len(run.legs) - 1
        yield _Leg(
            run=place,
            number=number,
            brought=brought,
            waits=brought is not None,
            start_min=leg.start_min,
            feed_min=leg.feed_min,
            before_min=0.0 if brought else run.changeover_min,
            passes=tuple(passes),
            gives=(product.listed_id, run.packs) if last else None,
        )
        brought = number, len(passes) - 1


def _asides(scenario: Scenario, place: int, run: Run, cut_packs: int) -> Iterator[_Leg]:
    """The leg of what is cut out of a run and sold, from its cutter on."""
    product = scenario.dwelling(run.product, run.dwell_min)
    cut, stops = scenario.cut_from(product), way_of(scenario, product).stops
    if not (cut and product.cut_out):
        return
    passed, cutter = passings(scenario, run), product.cut_out[0]
    out, stop = passed[len(stops) :], stops[cutter]
    passes = [
        _Pass(
            passing,
            stay_min=passing.first_out - passing.first_in,
            carry_min=then.first_in - passing.first_out if then else 0.0,
            bears_min=operation_at(scenario, run, passing).stands_min,
        )
        for passing, then in zip(out, [*out[1:], None], strict=True)
    ]
    carried = stops[cutter + 1].offset_min - stop.offset_min - stop.dwell_min
    yield _Leg(
        run=place,
        number=len(run.legs),
        brought=(stop.leg, sum(before.leg == stop.leg for before in stops[:cutter])),
        waits=False,
        start_min=out[0].first_in,
        feed_min=run.legs[stop.leg].feed_min,
        before_min=out[0].first_in - passed[cutter].first_out - carried,
        passes=tuple(passes),
        gives=(cut.listed_id, cut_packs),
    )


def _before(legs: Sequence[_Leg]) -> dict[int, tuple[int, Passing]]:
    """Of each pass before which another run was there: the number of that pass, and the pass; by number."""
    numbered = [(leg, one.passing) for leg in legs for one in leg.passes]
    by_station = dict[str, list[int]]()
    for number, (_, passing) in sorted(enumerate(numbered), key=lambda one: one[1][1].first_in):
        by_station.setdefault(passing.station, []).append(number)
    found = dict[int, tuple[int, Passing]]()
    for there in by_station.values():
        for place, number in enumerate(there):
            others = (other for other in reversed(there[:place]) if numbered[other][0].run != numbered[number][0].run)
            ahead = next(others, None)
            if ahead is not None:
                found[number] = ahead, numbered[ahead][1]
    return found


def _white(scenario: Scenario, ahead: Passing, then: _Pass) -> tuple[float, bool]:
    """White time that a station needs behind a pass, min; and whether it counts from when that is out."""
    needed = gap(scenario, ahead.station, ahead.product, then.passing.product)
    if not needed.empties:
        return needed.minutes, False
    return max(0.0, sum(reason.minutes for reason in needed.reasons[1:])), True
