"""The check of the line: the first and the last piece of every run, followed station by station."""

from collections.abc import Iterator
from itertools import combinations
from typing import NamedTuple

import numpy as np

from rundgang.core.kinds.bench import BenchStation, BenchStep
from rundgang.core.kinds.chamber import ChamberStation, ChamberStep
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep
from rundgang.core.kinds.every import AnyStation, PieceStep
from rundgang.core.kinds.held import HeldStation, HeldStep
from rundgang.core.kinds.rate import RateStation, RateStep
from rundgang.core.planning.check_dough import Dirt
from rundgang.core.planning.model import Plan, Run
from rundgang.core.planning.violation import SLACK_MIN, SLACK_SHARE, Violation, fault
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario


class Passage(NamedTuple):
    """When a run's first and last piece enter and leave a station, and how many pieces enter, pieces/h.

    Attributes
    ----------
    product : str
        The run's own, or behind the cutter the one cut out of it.
    """

    product: str
    first_in: float
    last_in: float
    first_out: float
    last_out: float
    flow_per_h: float


Walks = dict[str, dict[str, Passage]]
"""By run, its passage of every station."""


def line_faults(scenario: Scenario, plan: Plan, walks: Walks, dirt: Dirt) -> Iterator[Violation]:
    """Everything that is wrong between the divider and the last pack."""
    for run in plan.runs:
        yield from _pace_faults(scenario, run, walks[run.id])
        yield from _hold_faults(scenario, run)
    yield from _station_faults(plan, walks, dirt)
    yield from _filling_faults(scenario, plan, walks)
    yield from _block_faults(scenario, plan, walks)


def walk(scenario: Scenario, run: Run) -> dict[str, Passage]:
    """The first and the last piece of a run, followed down the line, and those cut out of them."""
    product = scenario.product(run.product)
    route = list(product.piece_steps)
    begin = (run.start_min, run.start_min + run.feed_min)
    passed, flow = _follow(scenario, product, route, begin, run.scaled_per_h, run.extra_hold_min)
    for place, step in enumerate(route):
        if isinstance(step, RateStep) and step.cut_out and step.cut_out.product:
            cut = scenario.product(step.cut_out.product)
            cutter = passed[step.station]
            carried = scenario.line(product.line).station(step.station).transfer_min
            begin = (cutter.first_out + carried, cutter.last_out + carried)
            after = passed[route[place + 1].station].flow_per_h if place + 1 < len(route) else flow
            passed |= _follow(scenario, cut, list(cut.piece_steps), begin, after)[0]
    return passed


def _follow(
    scenario: Scenario,
    product: Product,
    steps: list[PieceStep],
    begin: tuple[float, float],
    flow: float,
    extra_min: float = 0,
) -> tuple[dict[str, Passage], float]:
    """Along the steps; the first store on the way holds so much longer than it must."""
    line = scenario.line(product.line)
    first, last = begin
    passages = {}
    for step in steps:
        station = line.station(step.station)
        inside = getattr(station, "pass_min", 0.0)
        if isinstance(step, (ConveyorStep, ChamberStep)):
            inside = step.dwell_min
        elif isinstance(step, HeldStep):
            inside = step.least_min + extra_min
            extra_min = 0
        passages[step.station] = Passage(product.id, first, last, first + inside, last + inside, flow)
        first, last = first + inside + station.transfer_min, last + inside + station.transfer_min
        flow *= step.yield_ * (step.makes / step.takes if isinstance(step, (RateStep, BenchStep)) else 1.0)
    return passages, flow


def good_packs(product: Product, scaled: float) -> float:
    """Packs that so many scaled pieces give, yields and conversions one by one."""
    good = scaled
    for step in product.piece_steps:
        good *= step.yield_
        if isinstance(step, (RateStep, BenchStep)):
            good *= step.makes / step.takes
    return good


def _hold_faults(scenario: Scenario, run: Run) -> Iterator[Violation]:
    """What a store holds longer than it must: no longer than it may, and only where there is a store."""
    if run.extra_hold_min <= SLACK_MIN:
        return
    stores = [step for step in scenario.product(run.product).piece_steps if isinstance(step, HeldStep)]
    if not stores:
        yield fault(run.id, "", "is held in a store that its route does not have", run.extra_hold_min)
        return
    held = stores[0].least_min + run.extra_hold_min
    if held > stores[0].most_min + SLACK_MIN:
        name = scenario.line(run.line).station(stores[0].station).name
        yield fault(run.id, name, f"is held {held:.0f} min, allowed {stores[0].most_min:g}", held - stores[0].most_min)


def _block_faults(scenario: Scenario, plan: Plan, walks: Walks) -> Iterator[Violation]:
    """Nothing is inside a closed station; a store that is closed takes in and gives out nothing."""
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
                if inside > SLACK_MIN:
                    yield fault(run_id, station.name, f"is inside while it is closed: {block.reason}", inside)


def _pace_faults(scenario: Scenario, run: Run, passed: dict[str, Passage]) -> Iterator[Violation]:
    """The flow into each machine, bench and store, and onto the carriers, against what they can take."""
    for station_id, passage in passed.items():
        product = scenario.product(passage.product)
        step = next(step for step in product.piece_steps if step.station == station_id)
        station = scenario.line(product.line).station(station_id)
        most = _most_per_h(step, station)
        if most is not None and passage.flow_per_h > most * (1 + SLACK_SHARE):
            yield fault(run.id, station.name, f"gets {passage.flow_per_h:.0f} pieces/h, can take {most:.0f}")
    product = scenario.product(run.product)
    line = scenario.line(product.line)
    for use in product.carriers:
        carrier = next(carrier for carrier in line.carriers if carrier.id == use.carrier)
        if use.first in passed and use.last in passed:
            away_min = passed[use.last].first_out - passed[use.first].first_in + carrier.return_min
            needed = passed[use.first].flow_per_h / 60 * away_min / use.pieces
            if needed > carrier.count * (1 + SLACK_SHARE):
                yield fault(run.id, carrier.name, f"needs {needed:.0f} of them, there are {carrier.count}")


def _most_per_h(step: PieceStep, station: AnyStation) -> float | None:
    if isinstance(step, RateStep) and isinstance(station, RateStation):
        strokes = 60 * step.strokes_per_min * station.lanes * station.machines * station.efficiency
        return strokes * step.takes
    if isinstance(step, BenchStep) and isinstance(station, BenchStation):
        return 60 * station.people * step.pieces_per_person_min
    return None


def _station_faults(plan: Plan, walks: Walks, dirt: Dirt) -> Iterator[Violation]:
    """Every two runs at every station they share."""
    scenario = dirt.scenario
    known: dict[tuple[str, str, str], float | None] = {}
    for station in scenario.line(plan.line).stations:
        passing = [(run.id, walks[run.id][station.id]) for run in plan.runs if station.id in walks[run.id]]
        passing.sort(key=lambda entry: entry[1].first_in)
        for (r, ahead), (s, behind) in combinations(passing, 2):
            key = station.id, ahead.product, behind.product
            if key not in known:
                products = scenario.product(ahead.product), scenario.product(behind.product)
                known[key] = empty_for(dirt, station, *products)
            yield from meeting_faults(station, known[key], (r, ahead), (s, behind))


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


def empty_for(dirt: Dirt, station: AnyStation, r: Product, s: Product, called: str | None = None) -> float | None:
    """How long a station must stand empty between two products, min; None where it need not.

    Parameters
    ----------
    called : str, optional
        What the station is called on the first product's line, where that is another line.
    """

    def at_station(product: Product, name: str) -> PieceStep:
        return next(step for step in product.piece_steps if step.station == name)

    before, after = at_station(r, called or station.id), at_station(s, station.id)
    soil = dirt.cleaning_min(station, r, s)
    if isinstance(before, RateStep) and isinstance(after, RateStep):
        mount = station.changeover.tool_change_min if after.tool and after.tool != before.tool else 0.0
        return mount + soil if mount + soil else None
    if isinstance(before, (BenchStep, HeldStep)):
        return soil or None
    if isinstance(station, ChamberStation):
        assert isinstance(before, ChamberStep) and isinstance(after, ChamberStep)  # noqa: S101, PT018
        other_air = (before.temperature_c, before.humidity_pct) != (after.temperature_c, after.humidity_pct)
        return station.setup_min + soil if other_air else soil or None
    assert isinstance(before, ConveyorStep) and isinstance(after, ConveyorStep)  # noqa: S101, PT018
    assert isinstance(station, ConveyorStation)  # noqa: S101
    same_belt = before.dwell_min == after.dwell_min
    same_air = (before.temperature_c, before.humidity_pct) == (after.temperature_c, after.humidity_pct)
    if same_belt and same_air:
        return soil or None
    ramp = 0.0
    if before.temperature_c is not None and after.temperature_c is not None:
        rise = after.temperature_c - before.temperature_c
        up, down = station.heating_c_per_min, station.cooling_c_per_min
        ramp = rise / up if rise > 0 and up else -rise / down if rise < 0 and down else 0.0
    return max(ramp, station.setup_min) + soil


def _filling_faults(scenario: Scenario, plan: Plan, walks: Walks) -> Iterator[Violation]:
    """How full every belt, room and store gets with all runs together, at each moment when something changes."""
    for station in scenario.line(plan.line).stations:
        if isinstance(station, (ConveyorStation, ChamberStation, HeldStation)):
            passing = [(run_id, passed[station.id]) for run_id, passed in walks.items() if station.id in passed]
            filling = [(run_id, at, share_per_min(scenario, station, at)) for run_id, at in passing]
            yield from overfull(station.name, filling)


def overfull(name: str, filling: list[tuple[str, Passage, float]]) -> Iterator[Violation]:
    """The first moment at which a place holds more than it can: runs, their passages, and the share of it a minute."""
    if not filling:
        return
    first_in, last_in, first_out, last_out, flow = np.array(
        [(at.first_in, at.last_in, at.first_out, at.last_out, at.flow_per_h) for _, at, _ in filling]
    ).T
    share = np.array([share for _, _, share in filling])
    moments = np.unique(np.concatenate([first_in, last_in, first_out, last_out]))[:, None]
    inside = np.clip(moments - first_in, 0, last_in - first_in) - np.clip(moments - first_out, 0, last_out - first_out)
    taken = inside @ share
    one_piece = float((share * 60 / flow).max())
    over = np.flatnonzero(taken > 1 + SLACK_SHARE + one_piece)
    if len(over):
        runs = ", ".join(run_id for run_id, _, _ in filling)
        yield fault(runs, name, f"is {taken[over[0]]:.1%} full at minute {moments[over[0], 0]:.0f}")


def share_per_min(
    scenario: Scenario, station: ConveyorStation | ChamberStation | HeldStation, passage: Passage
) -> float:
    """What share of a belt, room or store a run fills in a minute."""
    product = scenario.product(passage.product)
    step = next(step for step in product.piece_steps if step.station == station.id)
    per_min = passage.flow_per_h / 60
    if isinstance(step, ChamberStep) and isinstance(station, ChamberStation):
        return per_min / step.pieces_per_tray / (station.racks * station.trays_per_rack)
    if isinstance(step, HeldStep) and isinstance(station, HeldStation):
        return per_min / (step.pieces_per_position or 1) / station.positions
    assert isinstance(step, ConveyorStep) and isinstance(station, ConveyorStation)  # noqa: S101, PT018
    if step.geometry and station.width_m:
        lie = step.geometry
        across = int((station.width_m * 1000 + lie.gap_mm) / (lie.across_mm + lie.gap_mm) + 1e-9)
        return per_min / (across * int(station.length_m * 1000 / lie.pitch_mm))
    return per_min / step.pieces_per_place / (station.places or 1)
