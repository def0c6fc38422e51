"""The board: every line with its lots in order, each decoded around what the others have taken, and the plan of it.

Search and repair both work on it: they change a line's order and put it back.
"""

from collections.abc import Iterable, Mapping, Sequence
from typing import NamedTuple

import numpy as np

from rundgang.core.compiled import Floats
from rundgang.core.errors import InfeasibleError
from rundgang.core.planning.arrays import AtWork, LineShop, Part, Taken
from rundgang.core.planning.binding import bindings
from rundgang.core.planning.headway import passages
from rundgang.core.planning.kernel import Outside
from rundgang.core.planning.lorries import fresh_from
from rundgang.core.planning.model import Binding, CutRun, Plan, PlantPlan, Run, Score, Weights
from rundgang.core.planning.runs import Placed, as_batches, as_cut_runs, as_items, place, takes
from rundgang.core.planning.score import outcomes, oven_empty_min
from rundgang.core.products import OddBatch
from rundgang.core.scenario import Scenario

PIN_MIN = 1e6
"""What a minute off a pin costs in a search, points: more than any plan is worth."""

BEYOND_MIN = 1e7
"""What a minute beyond the window costs in a search, points."""


class Lane(NamedTuple):
    """A line's parts in order, the runs they give, and what these take of what lines share."""

    parts: tuple[Part, ...] = ()
    runs: tuple[Placed, ...] = ()
    taken: Taken = Taken()
    off_pin_min: float = 0.0


class Board:
    """The lines of a plant, each with its lane.

    Parameters
    ----------
    scenario : Scenario
    lines : iterable of str, optional
        Which lines; all of them by default.
    odd_batch : mapping of str to OddBatch, optional
        Choices for the odd last batch, by product, that differ from the products' own.
    shops : mapping of str to LineShop, optional
        Lines of this very scenario already worked out.
    """

    def __init__(
        self,
        scenario: Scenario,
        lines: Iterable[str] | None = None,
        odd_batch: Mapping[str, OddBatch] | None = None,
        shops: Mapping[str, LineShop] | None = None,
    ) -> None:
        self.scenario = scenario
        chosen = [line.id for line in scenario.plant.lines] if lines is None else list(lines)
        ready, choices = shops or {}, dict(odd_batch or {})
        self.shops = {line: ready.get(line) or LineShop(scenario, line, choices) for line in chosen}
        self.lanes = dict.fromkeys(chosen, Lane())
        self.coupled = _coupled(scenario)

    def others(self, line_id: str) -> Taken:
        """What the other lines have taken of what they share with a line."""
        lanes = [self.lanes[other].taken for other in self.coupled.get(line_id, ()) if other in self.lanes]
        return Taken(
            tuple(busy for taken in lanes for busy in taken.units),
            tuple(work for taken in lanes for work in taken.crews),
            tuple(passed for taken in lanes for passed in taken.stations),
            tuple(stored for taken in lanes for stored in taken.stores),
        )

    def outside(self, line_id: str) -> Outside:
        """What a line finds taken, as arrays."""
        return self.shops[line_id].outside(self.others(line_id))

    def put(self, line_id: str, parts: Sequence[Part]) -> None:
        """Decode parts in their order and keep them as the line's lane."""
        shop = self.shops[line_id]
        found = place(shop, parts, self.outside(line_id))
        self.lanes[line_id] = Lane(tuple(parts), found.runs, takes(shop, found.runs), found.off_pin_min)

    def clear(self, line_id: str) -> None:
        """Take a line off the board."""
        self.lanes[line_id] = Lane()

    def refuse_beyond_window(self, plan: Plan) -> None:
        """Raise InfeasibleError where a line's last pack comes after the window ends."""
        beyond = plan.score.last_pack_min - self.scenario.window.minutes
        if beyond > 0:
            worst = max(plan.runs, key=lambda run: run.last_pack_min)
            name = self.scenario.product(worst.product).name
            line = self.scenario.line(plan.line).name
            raise InfeasibleError(
                f"{line}: the last pack, of {name} in {worst.id}, would come {beyond:.0f} min after the window ends, "
                "in the best order found. Allowed: fewer packs, a longer window, fewer blocks, or a faster line."
            )

    def runs(self, line_id: str, bound: bool = False) -> tuple[Run, ...]:
        """The plan's runs of a line, numbered in order; with what binds each start where asked."""
        shop, lane = self.shops[line_id], self.lanes[line_id]
        taken = self.others(line_id)
        found = (
            bindings(shop, lane.runs, shop.outside(taken), taken)
            if bound
            else (Binding(kind="order"),) * len(lane.runs)
        )
        return tuple(
            _as_run(shop, number, run, binding)
            for number, (run, binding) in enumerate(zip(lane.runs, found, strict=True), start=1)
        )

    def plan(self, line_id: str, rule: str, evaluated: int) -> Plan:
        """The plan of a line as it is on the board."""
        shop, lane = self.shops[line_id], self.lanes[line_id]
        runs = self.runs(line_id, bound=True)
        cuts = as_cut_runs(shop, runs)
        waves = outcomes(self.scenario, shop.lots, (*runs, *cuts))
        mixed = set(shop.index)
        stock = sum(entry.packs for entry in self.scenario.finished if entry.product in mixed)
        ordered = sum(wave.packs for wave in waves if wave.product in mixed)
        score = Score(
            packs_short=sum(wave.short for wave in waves),
            late_pack_hours=sum(wave.late_pack_hours for wave in waves),
            packs_stale=sum(wave.stale for wave in waves),
            changeover_min=sum(run.changeover_min for run in lane.runs),
            oven_empty_min=oven_empty_min(self.scenario, runs),
            surplus_packs=sum(run.packs for run in runs) + stock - ordered,
            crew_peak=crew_peak([lane.taken]),
            moved_min=sum(abs(run.start_min - run.head.was_min) for run in lane.runs if run.head.was_min is not None),
            last_pack_min=_last_pack((*runs, *cuts)),
        )
        return Plan(line=line_id, rule=rule, evaluated=evaluated, runs=runs, cut_runs=cuts, waves=waves, score=score)

    def score_of(self, plans: Iterable[Plan]) -> Score:
        """The parts of several lines' plans together; people are counted over all of them."""
        found = tuple(plans)
        on_board = [lane.taken for lane in self.lanes.values()]
        elsewhere = [works_of(self.scenario, plan) for plan in found if plan.line not in self.lanes]
        return together((plan.score for plan in found), crew_peak([*on_board, *elsewhere]))


def _last_pack(giving: Iterable[Run | CutRun]) -> float:
    return max((run.last_pack_min for run in giving), default=0.0)


def works_of(scenario: Scenario, plan: Plan) -> Taken:
    """The people at work in a plan."""
    line = scenario.line(plan.line)
    return Taken(
        crews=tuple(
            AtWork(use.crew, first, first + stop.dwell_min + run.feed_min, use.people)
            for run in plan.runs
            for stop, _ in passages(scenario, scenario.product(run.product), run.extra_hold_min)
            for use in (line.station(stop.station).staffed,)
            if use
            for first in (run.start_min + stop.offset_min,)
        )
    )


def together(scores: Iterable[Score], peak: float) -> Score:
    """The scores of several lines as one."""
    found = tuple(scores)
    summed = {
        name: sum(getattr(score, name) for score in found) for name in Score.model_fields if name != "last_pack_min"
    }
    last = max((score.last_pack_min for score in found), default=0.0)
    return Score(**summed | {"last_pack_min": last, "crew_peak": peak})


def prices(weights: Weights) -> Floats:
    """The weights as the kernel takes them."""
    return np.array(
        [
            weights.packs_short,
            weights.late_pack_hours,
            weights.packs_stale,
            weights.changeover_min,
            weights.oven_empty_min,
            weights.surplus_packs,
            weights.last_pack_min,
            weights.crew_peak,
            weights.moved_min,
            PIN_MIN,
            BEYOND_MIN,
        ]
    )


def crew_peak(taken: Iterable[Taken]) -> float:
    """People at work at once at most, each crew at its own peak, all crews together."""
    changes: dict[str, list[tuple[float, int]]] = {}
    for lane in taken:
        for work in lane.crews:
            changes.setdefault(work.crew, []).extend(((work.begin, work.people), (work.end, -work.people)))
    total = 0
    for found in changes.values():
        now = peak = 0
        for _, people in sorted(found):
            now += people
            peak = max(peak, now)
        total += peak
    return float(total)


def parts_of_runs(scenario: Scenario, runs: Iterable[Run]) -> tuple[Part, ...]:
    """The parts that give these runs again, in their order."""
    departs = {wave.id: wave.departs_min for wave in scenario.waves}
    return tuple(
        Part(
            product=run.product,
            wave=lot.wave,
            packs=lot.packs,
            departs_min=departs[lot.wave],
            fresh_from_min=fresh_from(scenario.product(run.product), departs[lot.wave]),
            pinned_min=run.pinned_min if number == 0 else None,
            pace_share=run.pace_share,
            odd_batch=run.odd_batch,
            alone=number == 0 and run.alone,
        )
        for run in runs
        for number, lot in enumerate(run.items)
    )


def fixed_parts(scenario: Scenario, plan: Plan) -> tuple[Part, ...]:
    """A line's parts, each run pinned where it is."""
    pinned = [run.model_copy(update={"pinned_min": run.start_min, "alone": True}) for run in plan.runs]
    return parts_of_runs(scenario, pinned)


def board_around(
    scenario: Scenario,
    plan: PlantPlan,
    line_id: str,
    shops: Mapping[str, LineShop] | None = None,
    lanes: Mapping[str, Lane] | None = None,
) -> Board:
    """A board with a line, still empty, and those it shares something with, these as they are planned.

    Parameters
    ----------
    shops, lanes : mapping
        Lines of this scenario, and lanes of this plan, already worked out.
    """
    board = Board(scenario, (line_id,), shops=shops)
    others = [other for other in plan.plans if other.line in board.coupled.get(line_id, ())]
    board = Board(scenario, (line_id, *(other.line for other in others)), shops={**(shops or {}), **board.shops})
    for other in others:
        if lanes and other.line in lanes:
            board.lanes[other.line] = lanes[other.line]
        else:
            board.put(other.line, fixed_parts(scenario, other))
    return board


def _as_run(shop: LineShop, number: int, run: Placed, binding: Binding) -> Run:
    first = run.start_min + float(shop.data.transit[shop.index[run.product.id]]) + run.extra_hold_min
    return Run(
        id=f"R{number}",
        product=run.product.id,
        line=shop.line.id,
        start_min=run.start_min,
        feed_min=run.feed_min,
        scaled_per_h=run.scaled_per_h,
        pieces=sum(run.split.pieces),
        packs=run.split.packs,
        packs_wanted=run.wanted,
        first_pack_min=first,
        last_pack_min=first + run.feed_min,
        batches=as_batches(shop, run),
        split=run.split,
        binding=binding,
        items=as_items(run.parts),
        extra_hold_min=run.extra_hold_min,
        pinned_min=run.head.pinned_min,
        pace_share=run.head.pace_share,
        odd_batch=run.head.odd_batch,
        alone=run.head.alone,
    )


def _coupled(scenario: Scenario) -> dict[str, tuple[str, ...]]:
    """By line, the other lines with which it shares a station or a crew, those linked through others included."""
    groups = [{line.id} for line in scenario.plant.lines]
    links = [{ref.line for ref in shared.stations} for shared in scenario.plant.shared]
    links += [
        {
            line.id
            for line in scenario.plant.lines
            if any(station.staffed and station.staffed.crew == crew.id for station in line.stations)
        }
        for crew in scenario.plant.crews
    ]
    for link in links:
        touched = [group for group in groups if group & link]
        groups = [group for group in groups if not group & link] + ([set().union(*touched)] if touched else [])
    order = [line.id for line in scenario.plant.lines]
    return {line: tuple(o for o in order if o in group and o != line) for group in groups for line in group}
