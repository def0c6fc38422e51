"""Legs: the way of a product past its stations, cut where pieces wait, and a run's passage of every station.

On a continuous line a run moves rigidly: what enters the first station of a leg at t enters its station k at
t + o_k. A store cuts the route: behind it pieces come when they are taken out, at a pace of their own. So does
a load station, where every piece waits for others, the longer the slower the run. Each leg has its start and
its feeding time.
"""

from collections.abc import Container
from typing import NamedTuple

from rundgang.core.capacity import cut_leg, leg_paces
from rundgang.core.planning.model import Run
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR


class Stop(NamedTuple):
    """A product's passage of one station.

    Attributes
    ----------
    leg : int
        That enters it.
    offset_min : float
        Its entry behind the start of that leg, min.
    dwell_min : float
        How long a piece is inside, at the least hold and the leg's full pace, min.
    splits : bool
        Whether it ends the leg: pieces leave it with the next one.
    """

    station: str
    leg: int
    offset_min: float
    dwell_min: float
    splits: bool = False


class Boundary(NamedTuple):
    """What lies between two legs.

    Attributes
    ----------
    place : int
        Of the step, among the piece steps.
    entry_min, span_min : float
        From the start of the leg before to entering it, and to the start of the next leg at the least hold, min.
    slack_min : float
        Most beyond the least hold, min.
    hold_min : float
        Least hold and turn-round, min.
    waits_for : float
        Pieces scaled that each piece waits for.
    places : float
        Pieces scaled that it holds; infinite where it is no store.
    """

    place: int
    entry_min: float
    span_min: float
    slack_min: float
    hold_min: float
    waits_for: float
    places: float

    @property
    def is_store(self) -> bool:
        """Whether pieces may be held, rather than only wait for others."""
        return self.waits_for == 0


class Way(NamedTuple):
    """A product's stops and the boundaries between its legs; `tail_min` from the last leg's start to the first pack."""

    stops: tuple[Stop, ...]
    boundaries: tuple[Boundary, ...]
    tail_min: float

    @property
    def legs(self) -> int:
        """How many legs it has."""
        return len(self.boundaries) + 1


class Passage(NamedTuple):
    """A stop, and the product that makes it: the run's own, or the one cut out of it."""

    stop: Stop
    product: Product


def way_of(scenario: Scenario, product: Product) -> Way:
    """The way of a product from the divider to the pack, worked out once; of a cut-out, behind its parent's divider."""
    key = "way", product.id
    if key not in scenario.known:
        scenario.known[key] = _way_of(scenario, scenario.whole(product))
    found: Way = scenario.known[key]
    return found


def _way_of(scenario: Scenario, product: Product) -> Way:
    line, paces = scenario.line_of(product), leg_paces(scenario, product)
    stops, boundaries = list[Stop](), list[Boundary]()
    needs = product.taken_per_finished
    offset, leg = 0.0, 0
    for place, step in enumerate(product.piece_steps):
        done = line.operation(step)
        per_scaled = float(needs[place] / needs[0])
        stay = done.stay_min(paces[leg] * per_scaled)
        stops.append(Stop(step.station, leg, offset, stay, done.splits))
        out = offset + stay + (done.station.transfer_min if place < len(product.piece_steps) - 1 else 0.0)
        if done.splits:
            boundaries.append(
                Boundary(
                    place=place,
                    entry_min=offset,
                    span_min=out,
                    slack_min=done.slack_min,
                    hold_min=stay + done.turn_round_min,
                    waits_for=done.waits_for / per_scaled,
                    places=done.places / per_scaled,
                )
            )
            out, leg = 0.0, leg + 1
        offset = out
    return Way(tuple(stops), tuple(boundaries), offset)


def passages(scenario: Scenario, product: Product) -> tuple[Passage, ...]:
    """Every stop of a product: its own, and behind the cutter those of what is cut out of it, in the cutter's leg."""
    own = way_of(scenario, product)
    cut = scenario.cut_from(product)
    if cut is None:
        return tuple(Passage(stop, product) for stop in own.stops)
    return (*(Passage(s, product) for s in own.stops), *(Passage(s, cut) for s in cut_stops(scenario, product, cut)))


def cut_stops(scenario: Scenario, product: Product, cut: Product) -> tuple[Stop, ...]:
    """The stops of what is cut out: rigidly behind the cutter, each as short as it may be."""
    whole, leg = way_of(scenario, cut), cut_leg(scenario, product)
    own, behind = whole.stops[-len(cut.piece_steps) :], 0.0
    found, at = list[Stop](), own[0].leg
    for stop in own:
        if stop.leg != at:
            behind += whole.boundaries[at].span_min
            at = stop.leg
        found.append(stop._replace(leg=leg, offset_min=behind + stop.offset_min, splits=False))
    return tuple(found)


def cut_tail_min(scenario: Scenario, product: Product, cut: Product) -> float:
    """From the start of the cutter's leg to the first pack of what is cut out, min."""
    last = cut_stops(scenario, product, cut)[-1]
    return last.offset_min + last.dwell_min


class Passing(NamedTuple):
    """When a run passes a station, min: its first piece in and out, its last piece in and out.

    Attributes
    ----------
    product : Product
        The run's own, or the one cut out of it, dwelling as the run does.
    flow_per_h : float
        Pieces an hour that enter.
    """

    station: str
    product: Product
    first_in: float
    last_in: float
    first_out: float
    last_out: float
    flow_per_h: float

    @property
    def inside(self) -> float:
        """Pieces inside at most: flow x the shorter of dwell and feeding."""
        stay = min(self.first_out - self.first_in, self.last_in - self.first_in)
        return self.flow_per_h * stay / MINUTES_PER_HOUR


def passings(scenario: Scenario, run: Run) -> tuple[Passing, ...]:
    """When a run passes every station, its own and those of what is cut out of it."""
    product = scenario.dwelling(run.product, run.dwell_min)
    return tuple(_passing(scenario, run, passage) for passage in passages(scenario, product))


def passings_at(scenario: Scenario, run: Run, stations: Container[str]) -> tuple[Passing, ...]:
    """When a run passes some stations, its own and those of what is cut out of it."""
    product = scenario.dwelling(run.product, run.dwell_min)
    found = (passage for passage in passages(scenario, product) if passage.stop.station in stations)
    return tuple(_passing(scenario, run, passage) for passage in found)


def _passing(scenario: Scenario, run: Run, passage: Passage) -> Passing:
    (station, leg, offset, dwell, splits), owner = passage
    here = run.legs[leg]
    begin = here.start_min + offset
    first_out, last_out = begin + dwell, begin + here.feed_min + dwell
    if splits:
        carried = scenario.line_of(owner).station(station).transfer_min
        after = run.legs[leg + 1]
        first_out, last_out = after.start_min - carried, after.start_min + after.feed_min - carried
    flow = MINUTES_PER_HOUR * run.pieces / here.feed_min * scenario.whole(owner).per_scaled[station]
    return Passing(station, owner, begin, begin + here.feed_min, first_out, last_out, flow)
