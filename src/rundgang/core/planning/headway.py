"""Headway: the least start-to-start time between two runs on a line, and the station that causes it.

On a continuous line a run moves rigidly, a ribbon. Station k stands at offset o_k behind the divider,
the sum of the dwells and transfers before it. Run r, feeding for u_r, has its last piece at station k's
entry at S_r + o_k(r) + u_r; run s brings its first at S_s + o_k(s). With the gap g_k that the station
needs between the two,

    h(r, s) = u_r + max over shared stations k of  o_k(r) + g_k(r, s) - o_k(s).

u_r stands outside the maximum, so the rest depends on the two products alone and is worked out once a
pair. It holds between every ordered pair of runs on a line, not only neighbours: a run that skips a
station leaves its neighbours on both sides facing each other there.

A store splits a route into two legs, each rigid by itself: what is held longer than it must be comes later
to all that follows. So the headway is kept for each leg of the one run against each leg of the other.
"""

from typing import NamedTuple

from rundgang.core.capacity import scaled_pace
from rundgang.core.kinds.every import PieceStep
from rundgang.core.kinds.operation import Reason
from rundgang.core.kinds.parts import Changeover
from rundgang.core.model import Model
from rundgang.core.plant import Line
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario


class Stop(NamedTuple):
    """A product's passage of one station: offset behind the divider and dwell, min; and the leg that enters it."""

    station: str
    offset_min: float
    dwell_min: float
    leg: int = 0


class Passage(NamedTuple):
    """A stop, and the product that makes it: the run's own, or the one cut out of it."""

    stop: Stop
    product: Product


class Gap(Model):
    """White time that a station needs at its entry between the last piece of one run and the first of the next.

    Attributes
    ----------
    empties : bool
        Whether the station must be empty in between.
    """

    minutes: float
    reasons: tuple[Reason, ...]
    empties: bool = False


class PairHeadway(Model):
    """Headway of two products beyond the feeding time of the first, with the station that sets it."""

    beyond_feed_min: float
    station: str
    gap: Gap


def stops(line: Line, product: Product, extra_hold_min: float = 0) -> tuple[Stop, ...]:
    """Where a product is when: its passage of every station after the mixers.

    Parameters
    ----------
    extra_hold_min : float
        How much longer than it must its store holds it, min.
    """
    passed, offset, leg = [], 0.0, 0
    for place, step in enumerate(product.piece_steps):
        done = line.operation(step)
        split = place == product.store_place
        dwell = done.dwell_min + (extra_hold_min if split else 0)
        passed.append(Stop(step.station, offset, dwell, leg))
        leg += split
        offset += dwell + done.station.transfer_min
    return tuple(passed)


def passages(scenario: Scenario, product: Product, extra_hold_min: float = 0) -> tuple[Passage, ...]:
    """Every stop of a run: its own, and behind the cutter those of what is cut out of it."""
    own = tuple(Passage(stop, product) for stop in stops(scenario.line_of(product), product, extra_hold_min))
    cut = scenario.cut_from(product)
    return (*own, *(Passage(stop, cut) for stop in cut_stops(scenario, product, cut, extra_hold_min))) if cut else own


def cut_stops(scenario: Scenario, product: Product, cut: Product, extra_hold_min: float = 0) -> tuple[Stop, ...]:
    """The stops of what is cut out; they wait for a store only where it stands before the cutter."""
    held = cut_is_held(product)
    found = stops(scenario.line_of(product), scenario.whole(cut), extra_hold_min if held else 0)
    return tuple(stop if held else stop._replace(leg=0) for stop in found[-len(cut.piece_steps) :])


def cut_is_held(product: Product) -> bool:
    """Whether a product's store stands before its cutter."""
    return product.store_place is not None and product.cut_out is not None and product.store_place < product.cut_out[0]


def cleaning(scenario: Scenario, changeover: Changeover, first: Product, then: Product) -> tuple[Reason, ...]:
    """Cleaning between two products at a station, by what the first leaves that the second must not carry."""
    allergens = scenario.allergens(first) - scenario.allergens(then)
    if allergens and changeover.allergen_clean_min:
        left = ", ".join(sorted(allergens))
        return (Reason(what=f"clean away {left} (allergen)", minutes=changeover.allergen_clean_min),)
    traits = first.traits - then.traits
    if traits and changeover.trait_clean_min:
        left = ", ".join(sorted(traits))
        return (Reason(what=f"clean away {left}", minutes=changeover.trait_clean_min),)
    return ()


def gap(scenario: Scenario, station_id: str, first: Product, then: Product, then_at: str | None = None) -> Gap:
    """The gap two products need at a station they share, with what it is made of.

    Parameters
    ----------
    then_at : str, optional
        What the station is called on the line of the second product, where that is another line.
    """
    before = scenario.line_of(first).operation(_step(first, station_id))
    after = scenario.line_of(then).operation(_step(then, then_at or station_id))
    station, separation = before.station, before.station.changeover.separation_min
    reasons = (*before.refit(after), *cleaning(scenario, station.changeover, first, then))
    if reasons:
        work = sum(reason.minutes for reason in reasons)
        if separation > work:
            reasons = (*reasons, Reason(what="separation", minutes=separation - work))
        stay = before.stay_min(_flow_at(scenario, station_id, first))
        empties = Reason(what=f"{station.name} runs empty", minutes=stay)
        return Gap(minutes=stay + max(work, separation), reasons=(empties, *reasons), empties=True)
    filling = before.filling_gap_min(after, _flow_at(scenario, then_at or station_id, then))
    if filling <= separation or (splits_at(first, station_id) and splits_at(then, then_at or station_id)):
        return Gap(minutes=separation, reasons=(Reason(what="separation", minutes=separation),))
    return Gap(minutes=filling, reasons=(Reason(what=f"{station.name} must not overfill", minutes=filling),))


def _step(product: Product, station_id: str) -> PieceStep:
    return next(step for step in product.piece_steps if step.station == station_id)


def splits_at(product: Product, station_id: str) -> bool:
    """Whether a station is the store that splits a product's route."""
    return product.store_place is not None and product.piece_steps[product.store_place].station == station_id


def _flow_at(scenario: Scenario, station_id: str, product: Product) -> float:
    """Pieces/h of a product into a station at its pace; of what is cut out, at its parent's."""
    whole = scenario.whole(product)
    needs = whole.taken_per_finished
    place = [step.station for step in whole.piece_steps].index(station_id)
    return scaled_pace(scenario, whole) * float(needs[place] / needs[0])


LegHeadways = dict[tuple[int, int], PairHeadway]
"""The headways of two products by the leg of the first that sets it and the leg of the next that keeps it."""


def leg_headways(scenario: Scenario, first: Product, then: Product) -> LegHeadways:
    """The headways of two products beyond the first one's feeding, of each leg against each."""
    ahead = {passage.stop.station: passage for passage in passages(scenario, first)}
    worst: LegHeadways = {}
    for stop, owner in passages(scenario, then):
        if stop.station not in ahead:
            continue
        before = ahead[stop.station]
        needed = gap(scenario, stop.station, before.product, owner)
        beyond = before.stop.offset_min + needed.minutes - stop.offset_min
        leaves = before.stop.leg + (needed.empties and splits_at(before.product, stop.station))
        legs = (leaves, stop.leg)
        if legs not in worst or beyond > worst[legs].beyond_feed_min:
            worst[legs] = PairHeadway(beyond_feed_min=beyond, station=stop.station, gap=needed)
    return worst
