"""Headway: the least start-to-start time between two runs on a line, and the station that causes it.

Station k stands at offset o_k behind the start of its leg, the sum of the dwells and transfers before it. A leg
of run r that starts at S_r and is fed for u_r has its last piece at station k's entry at S_r + u_r + o_k(r); a leg
of run s brings its first at S_s + o_k(s). With the gap g_k that the station needs between the two,

    S_s >= S_r + u_r + max over shared stations k of  o_k(r) + g_k(r, s) - o_k(s).

u_r stands outside the maximum, so the rest depends on the two products alone and is worked out once a
pair, for each leg of the one against each leg of the other. It holds between every ordered pair of runs on a
line, not only neighbours: a run that skips a station leaves its neighbours on both sides facing each other there.
"""

from typing import Any

from rundgang.core.capacity import leg_paces
from rundgang.core.kinds.operation import Operation, Reason
from rundgang.core.kinds.parts import Changeover
from rundgang.core.model import Model
from rundgang.core.planning.legs import Stop, passages
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario


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
    """The gap two products need at a station they share, with what it is made of; worked out once.

    Parameters
    ----------
    then_at : str, optional
        What the station is called on the line of the second product, where that is another line.
    """
    key = "gap", station_id, first.id, then.id, then_at
    if key not in scenario.known:
        scenario.known[key] = _gap(scenario, station_id, first, then, then_at)
    found: Gap = scenario.known[key]
    return found


def _gap(scenario: Scenario, station_id: str, first: Product, then: Product, then_at: str | None) -> Gap:
    before, _, flow_before = _at(scenario, first, station_id)
    after, splits, flow_after = _at(scenario, then, then_at or station_id)
    station, separation = before.station, before.station.changeover.separation_min
    reasons = (*before.refit(after), *cleaning(scenario, station.changeover, first, then))
    if reasons:
        work = sum(reason.minutes for reason in reasons)
        if separation > work:
            reasons = (*reasons, Reason(what="separation", minutes=separation - work))
        stay = before.stay_min(flow_before)
        empties = Reason(what=f"{station.name} runs empty", minutes=stay)
        return Gap(minutes=stay + max(work, separation), reasons=(empties, *reasons), empties=True)
    filling = 0.0 if splits else before.filling_gap_min(after, flow_after)
    if filling <= separation:
        return Gap(minutes=separation, reasons=(Reason(what="separation", minutes=separation),))
    return Gap(minutes=filling, reasons=(Reason(what=f"{station.name} must not overfill", minutes=filling),))


Done = tuple[Operation[Any, Any], bool, float]
"""What is done at a station; whether the leg ends there; and pieces/h that enter at the leg's pace."""


def _at(scenario: Scenario, product: Product, station_id: str) -> Done:
    """What a product is done at a station; worked out once."""
    key = "at", product.id, station_id
    if key not in scenario.known:
        scenario.known[key] = _done_at(scenario, product, station_id)
    found: Done = scenario.known[key]
    return found


def _done_at(scenario: Scenario, product: Product, station_id: str) -> Done:
    whole = scenario.whole(product)
    place = [step.station for step in whole.piece_steps].index(station_id)
    line, needs = scenario.line_of(product), whole.taken_per_finished
    leg = sum(line.operation(step).splits for step in whole.piece_steps[:place])
    done = line.operation(whole.piece_steps[place])
    return done, done.splits, leg_paces(scenario, product)[leg] * float(needs[place] / needs[0])


LegHeadways = dict[tuple[int, int], PairHeadway]
"""The headways of two products by the leg of the first that sets it and the leg of the next that keeps it."""


def leg_headways(scenario: Scenario, first: Product, then: Product) -> LegHeadways:
    """The headways of two products beyond the first one's feeding, of each leg against each; worked out once."""
    key = "headways", first.id, then.id
    if key not in scenario.known:
        scenario.known[key] = _leg_headways(scenario, first, then)
    found: LegHeadways = scenario.known[key]
    return found


def _leg_headways(scenario: Scenario, first: Product, then: Product) -> LegHeadways:
    ahead = {passage.stop.station: passage for passage in passages(scenario, first)}
    worst: LegHeadways = {}
    for stop, owner in passages(scenario, then):
        if stop.station not in ahead:
            continue
        before = ahead[stop.station]
        needed = gap(scenario, stop.station, before.product, owner)
        leaves, free_min = leaving(scenario, before.stop, before.product, needed)
        legs, beyond = (leaves, stop.leg), free_min - stop.offset_min
        if legs not in worst or beyond > worst[legs].beyond_feed_min:
            worst[legs] = PairHeadway(beyond_feed_min=beyond, station=stop.station, gap=needed)
    return worst


def leaving(scenario: Scenario, stop: Stop, product: Product, needed: Gap) -> tuple[int, float]:
    """The leg after whose feeding a station is free for the next run, and how long after, min.

    A station that ends a leg and must be empty is so when the next leg has left it.
    """
    if not (needed.empties and stop.splits):
        return stop.leg, stop.offset_min + needed.minutes
    carried = scenario.line_of(product).station(stop.station).transfer_min
    return stop.leg + 1, needed.minutes - stop.dwell_min - carried


def set_free(scenario: Scenario, then: Product) -> dict[tuple[int, str], float]:
    """By leg and station, the earliest start of the leg by what was made there before the window, min.

    A station that must be emptied, set or cleaned for it is so that long after the last piece has left the line.
    """
    found: dict[tuple[int, str], float] = {}
    for stop, owner in passages(scenario, then):
        for last in scenario.opening.last_on(then.line):
            before = {passage.stop.station: passage for passage in passages(scenario, scenario.product(last.product))}
            if stop.station in before:
                ahead = before[stop.station]
                needed = gap(scenario, stop.station, ahead.product, owner)
                if needed.empties:
                    work = needed.minutes - ahead.stop.dwell_min
                    found[stop.leg, stop.station] = last.left_min + work - stop.offset_min
                break
    return found
