"""The check of the line: the first and the last piece of every run, followed station by station."""

from collections.abc import Iterator
from itertools import combinations, pairwise
from typing import NamedTuple

import numpy as np

from rundgang.core.kinds.batch import BatchStation
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep
from rundgang.core.kinds.every import AnyStation, PieceStep
from rundgang.core.kinds.held import HeldStation
from rundgang.core.planning.check.dirt import Dirt
from rundgang.core.planning.check.kinds import (
    Stay,
    ends_leg,
    made_of_one,
    most_per_h,
    room_of,
    set_anew_min,
    slowest_ramp_min,
    stay_of,
    zones_of,
)
from rundgang.core.planning.check.once import once
from rundgang.core.planning.check.violation import SLACK_MIN, SLACK_SHARE, Violation, fault
from rundgang.core.planning.model import LinePlan, Run
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario

COLD_C = 20.0
"""An oven that was off begins at the room's temperature, °C (common practice, no published source)."""


class Passage(NamedTuple):
    """When a run's first and last piece enter and leave a station, and how many pieces enter, pieces/h.

    Attributes
    ----------
    product : str
        The run's own, or behind the cutter the one cut out of it.
    stay : Stay
        How long a piece may be inside.
    step : PieceStep
        What is done there, for as long as the run says.
    """

    product: str
    first_in: float
    last_in: float
    first_out: float
    last_out: float
    flow_per_h: float
    stay: Stay
    step: PieceStep


Walks = dict[str, dict[str, Passage]]
"""By run, its passage of every station."""


def line_faults(scenario: Scenario, plan: LinePlan, walks: Walks, dirt: Dirt) -> Iterator[Violation]:
    """Everything that is wrong between the divider and the last pack, from one run to another and in the calendar."""
    yield from _station_faults(plan, walks, dirt)
    yield from _before_faults(plan, walks, dirt)
    yield from _filling_faults(scenario, plan, walks)
    yield from _closed_faults(scenario, plan, walks)
    yield from _cold_oven_faults(scenario, plan, walks)


def own_line_faults(scenario: Scenario, run: Run, passed: dict[str, Passage]) -> Iterator[Violation]:
    """What is wrong there with a run by itself."""
    yield from _pace_faults(scenario, run, passed)
    yield from _stay_faults(scenario, run, passed)
    yield from _carrying_faults(scenario, run, passed)


def legs_needed(product: Product) -> int:
    """How many legs a run of a product has."""
    return 1 + sum(ends_leg(step) for step in product.piece_steps)


def walk(scenario: Scenario, run: Run) -> dict[str, Passage]:
    """The first and the last piece of a run, followed down the line by its legs, and those cut out of them."""
    return once(scenario, "walk", run, lambda: _walked(scenario, run))


def _walked(scenario: Scenario, run: Run) -> dict[str, Passage]:
    product, line = scenario.product(run.product), scenario.line(run.line)
    legs = [(leg.start_min, leg.start_min + leg.feed_min) for leg in run.legs]
    per_scaled, leg = 1.0, 0
    (first, last), passed = legs[0], dict[str, Passage]()
    for step in _as_run(product, run):
        station = line.piece_station(step.station)
        flow = 60 * run.pieces * per_scaled / (last - first)
        stay = stay_of(step, station, flow)
        out = (first + stay.least, last + stay.least)
        if ends_leg(step):
            leg += 1
            out = (legs[leg][0] - station.transfer_min, legs[leg][1] - station.transfer_min)
        passed[step.station] = Passage(product.id, first, last, *out, flow, stay, step)
        per_scaled *= made_of_one(step)
        sold = getattr(step, "cut_out", None)
        if sold and sold.product:
            cut = scenario.product(sold.product)
            pieces = run.pieces * per_scaled
            passed |= _follow(
                scenario, run, cut, (out[0] + station.transfer_min, out[1] + station.transfer_min), pieces
            )
        first, last = out[0] + station.transfer_min, out[1] + station.transfer_min
    return passed


def _as_run(product: Product, run: Run) -> Iterator[PieceStep]:
    """The steps of a product with the times on belts that a run says for itself."""
    for step in product.piece_steps:
        own = run.dwell_min.get(step.station)
        yield step if own is None else step.model_copy(update={"dwell_min": own})


def _follow(
    scenario: Scenario, run: Run, cut: Product, enters: tuple[float, float], pieces: float
) -> dict[str, Passage]:
    """What is cut out, behind the cutter: each stay as short as it may be."""
    line, passed = scenario.line(cut.line), dict[str, Passage]()
    first, last = enters
    for step in _as_run(cut, run):
        station = line.piece_station(step.station)
        flow = 60 * pieces / (last - first)
        stay = stay_of(step, station, flow)
        passed[step.station] = Passage(
            cut.id, first, last, first + stay.least, last + stay.least, flow, stay, step
        )  # fmt: skip
        first, last = first + stay.least + station.transfer_min, last + stay.least + station.transfer_min
        pieces *= made_of_one(step)
    return passed


def good_packs(product: Product, scaled: float) -> float:
    """Packs that so many scaled pieces give, yields and conversions one by one."""
    good = scaled
    for step in product.piece_steps:
        good *= made_of_one(step)
    return good


def _stay_faults(scenario: Scenario, run: Run, passed: dict[str, Passage]) -> Iterator[Violation]:
    """No piece leaves a store or a load too soon or too late: neither the first nor the last, so none between."""
    for station_id, at in passed.items():
        name = scenario.line(run.line).station(station_id).name
        for which, stayed in (("first", at.first_out - at.first_in), ("last", at.last_out - at.last_in)):
            if at.stay.least - stayed > SLACK_MIN:
                text = f"lets its {which} piece out after {stayed:.0f} min, needed {at.stay.least:g}"
                yield fault(run.id, name, text, at.stay.least - stayed)
            elif stayed - at.stay.most > SLACK_MIN:
                text = f"holds its {which} piece {stayed:.0f} min, allowed {at.stay.most:g}"
                yield fault(run.id, name, text, stayed - at.stay.most)


def _carrying_faults(scenario: Scenario, run: Run, passed: dict[str, Passage]) -> Iterator[Violation]:
    """A piece is in the next station as soon as its step asks."""
    for (station_id, at), (_, then) in pairwise(passed.items()):
        within = at.step.next_within_s
        if within is None or at.product != then.product:
            continue
        waits = then.first_in - at.first_out
        if waits - within / 60 > SLACK_MIN:
            name = scenario.line(run.line).station(station_id).name
            yield fault(run.id, name, f"takes {waits * 60:.0f} s to the next station, allowed {within:g}", waits)


def _closed_faults(scenario: Scenario, plan: LinePlan, walks: Walks) -> Iterator[Violation]:
    """Nothing is inside a closed station; a store that is closed takes in and gives out nothing."""
    begun = {run.id for run in scenario.opening.begun_on(plan.line)}
    for block in scenario.blocks:
        called = scenario.plant.called_on(plan.line, block.at)
        if called is None:
            continue
        station = scenario.line(plan.line).station(called)
        for run_id, at in ((run_id, passed[called]) for run_id, passed in walks.items() if called in passed):
            stretches = [(at.first_in, at.last_out)]
            if isinstance(station, HeldStation):
                stretches = [(at.first_in, at.last_in), (at.first_out, at.last_out)]
            for begin, end in stretches:
                inside = min(end, block.to_min) - max(begin, block.from_min)
                if inside > SLACK_MIN and run_id not in begun:
                    yield fault(run_id, station.name, f"is inside while it is closed: {block.reason}", inside)


def _pace_faults(scenario: Scenario, run: Run, passed: dict[str, Passage]) -> Iterator[Violation]:
    """The flow into each machine, bench and chamber, and onto the carriers, against what they can take."""
    for station_id, passage in passed.items():
        station = scenario.line(run.line).piece_station(station_id)
        most = most_per_h(passage.step, station)
        if most is not None and passage.flow_per_h > most * (1 + SLACK_SHARE):
            yield fault(run.id, station.name, f"gets {passage.flow_per_h:.0f} pieces/h, can take {most:.0f}")
    for product in {passage.product: scenario.product(passage.product) for passage in passed.values()}.values():
        line = scenario.line(product.line)
        for use in product.carriers:
            carrier = next(carrier for carrier in line.carriers if carrier.id == use.carrier)
            if use.first in passed and use.last in passed:
                away_min = passed[use.last].first_out - passed[use.first].first_in + carrier.return_min
                needed = passed[use.first].flow_per_h / 60 * away_min / use.pieces
                if needed > carrier.count * (1 + SLACK_SHARE):
                    yield fault(run.id, carrier.name, f"needs {needed:.0f} of them, there are {carrier.count}")


def _station_faults(plan: LinePlan, walks: Walks, dirt: Dirt) -> Iterator[Violation]:
    """Every two runs at every station they share; between two that have begun nothing can be changed."""
    scenario = dirt.scenario
    begun = {run.id for run in scenario.opening.begun_on(plan.line)}
    known: dict[tuple[str, str, int, str, int], float | None] = {}
    for station in scenario.line(plan.line).stations:
        passing = [(run.id, walks[run.id][station.id]) for run in plan.runs if station.id in walks[run.id]]
        passing.sort(key=lambda entry: entry[1].first_in)
        for (r, ahead), (s, behind) in combinations(passing, 2):
            if {r, s} <= begun:
                continue
            # By identity: the walks hold every step while this lasts, and a step is costly to hash.
            key = station.id, ahead.product, id(ahead.step), behind.product, id(behind.step)
            if key not in known:
                known[key] = empty_for(dirt, station, ahead, behind)
            yield from meeting_faults(station, known[key], (r, ahead), (s, behind))


def _before_faults(plan: LinePlan, walks: Walks, dirt: Dirt) -> Iterator[Violation]:
    """The first run at each station against what was made there before the window, which left the line when it says."""
    scenario = dirt.scenario
    begun = {run.id for run in scenario.opening.begun_on(plan.line)}
    steps: dict[str, tuple[float, PieceStep, Product]] = {}
    for last in scenario.opening.last:
        made = scenario.product(last.product)
        sold = next((s.cut_out.product for s in made.piece_steps if getattr(s, "cut_out", None)), None)  # type: ignore[union-attr]
        for owner in (made, *((scenario.product(sold),) if sold else ())):
            for step in owner.piece_steps if last.line == plan.line else ():
                if step.station not in steps or steps[step.station][0] < last.left_min:
                    steps[step.station] = last.left_min, step, owner
    for station_id, (left, step, before) in steps.items():
        passing = [(walks[run.id][station_id], run.id) for run in plan.runs if station_id in walks[run.id]]
        if not passing:
            continue
        at, run_id = min(passing, key=lambda entry: entry[0].first_in)
        station = scenario.line(plan.line).piece_station(station_id)
        soil = dirt.cleaning_min(station, before, scenario.product(at.product))
        anew = set_anew_min(step, at.step, station)
        if (anew is not None or soil) and run_id not in begun:
            needed = max((anew or 0.0) + soil, station.changeover.separation_min)
            missing = left + needed - at.first_in
            if missing > SLACK_MIN:
                text = f"enters before it is empty and ready after {before.name} of before the window"
                yield fault(run_id, station.name, text, missing)


def meeting_faults(
    station: AnyStation, empty_min: float | None, first: tuple[str, Passage], then: tuple[str, Passage]
) -> Iterator[Violation]:
    """Two runs at a station, the first to enter it first: separated, or the station empty for so long."""
    (r, ahead), (s, behind) = first, then
    free_at = ahead.last_in + station.changeover.separation_min
    if empty_min is not None:
        free_at = ahead.last_out + max(empty_min, station.changeover.separation_min)
    missing = free_at - behind.first_in
    if missing > SLACK_MIN:
        why = "before it is empty and ready" if empty_min is not None else "while it still takes pieces"
        yield fault(s, station.name, f"enters {why} after {r}", missing)


def empty_for(dirt: Dirt, station: AnyStation, first: Passage, then: Passage) -> float | None:
    """How long a station must stand empty between two products, min; None where it need not."""
    r, s = dirt.scenario.product(first.product), dirt.scenario.product(then.product)
    soil = dirt.cleaning_min(station, r, s)
    anew = set_anew_min(first.step, then.step, dirt.scenario.line(s.line).piece_station(station.id))
    return soil or None if anew is None else anew + soil


def _filling_faults(scenario: Scenario, plan: LinePlan, walks: Walks) -> Iterator[Violation]:
    """How full every belt, room and store gets with all runs together, at each moment when something changes."""
    begun = {run.id for run in scenario.opening.begun_on(plan.line)}
    for station in scenario.line(plan.line).stations:
        passing = [(run_id, passed[station.id]) for run_id, passed in walks.items() if station.id in passed]
        filling = [(run_id, at, share_of(station, at)) for run_id, at in passing]
        turn = station.turn_round_min if isinstance(station, HeldStation) else 0.0
        yield from overfull(station.name, [found for found in filling if found[2] > 0], begun, turn)


def overfull(
    name: str, filling: list[tuple[str, Passage, float]], begun: set[str], turn_min: float = 0
) -> Iterator[Violation]:
    """The first moment at which a place holds more than it can: runs, passages, and the share of it each would fill.

    Parameters
    ----------
    begun : set of str
        Runs that have begun: what is in it of them alone is no fault of the plan.
    turn_min : float
        A place is free again so long after it has been emptied, min.
    """
    if not filling:
        return
    first_in, last_in, first_out, last_out, flow = np.array(
        [(at.first_in, at.last_in, at.first_out + turn_min, at.last_out + turn_min, at.flow_per_h)
         for _, at, _ in filling]
    ).T  # fmt: skip
    share = np.array([share for _, _, share in filling])
    moments = np.unique(np.concatenate([first_in, last_in, first_out, last_out]))[:, None]
    came = np.clip((moments - first_in) / (last_in - first_in), 0, 1)
    gone = np.clip((moments - first_out) / (last_out - first_out), 0, 1)
    taken = (came - gone) @ share
    of_plan = (came - gone) @ np.array([share * (run_id not in begun) for run_id, _, share in filling])
    one_piece = float((share * 60 / flow / (last_in - first_in)).max())
    over = np.flatnonzero((taken > 1 + SLACK_SHARE + one_piece) & (of_plan > SLACK_SHARE))
    if len(over):
        runs = ", ".join(run_id for run_id, _, _ in filling)
        yield fault(runs, name, f"is {taken[over[0]]:.1%} full at minute {moments[over[0], 0]:.0f}")


def share_of(station: AnyStation, passage: Passage) -> float:
    """What share of a belt, room or store all pieces of a run would fill; 0 where that does not limit it."""
    assert not isinstance(station, BatchStation)  # noqa: S101  (pieces pass it)
    room = room_of(passage.step, station)
    return passage.flow_per_h * (passage.last_in - passage.first_in) / 60 / room if room else 0.0


def _cold_oven_faults(scenario: Scenario, plan: LinePlan, walks: Walks) -> Iterator[Violation]:
    """An oven that was off is heated up before its first run, from the plan's *now* at the earliest."""
    for station in scenario.line(plan.line).stations:
        if not isinstance(station, ConveyorStation) or not station.heating_c_per_min:
            continue
        passing = [(run, walks[run.id][station.id]) for run in plan.runs if station.id in walks[run.id]]
        begun = {run.id for run in scenario.opening.begun_on(plan.line)}
        if not passing or any(run.id in begun for run, _ in passing):
            continue
        run, first = min(passing, key=lambda entry: entry[1].first_in)
        assert isinstance(first.step, ConveyorStep)  # noqa: S101  (it passes an oven)
        wanted = zones_of(first.step, station)
        on = {(oven.line, oven.station): oven for oven in scenario.opening.heated}
        oven = on.get((plan.line, station.id))
        is_at: list[float | None] = [COLD_C if zone is None else min(COLD_C, zone) for zone in wanted]
        if oven:
            is_at = [*oven.zone_c] if len(oven.zone_c) == len(wanted) else [oven.temperature_c] * len(wanted)
        hot_at = scenario.opening.now_min + slowest_ramp_min(station, is_at, wanted)
        if hot_at - first.first_in > SLACK_MIN:
            yield fault(run.id, station.name, "enters before it is heated up", hot_at - first.first_in)
