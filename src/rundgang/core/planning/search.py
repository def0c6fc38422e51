"""The search for a plan: a rule's order of the lots, then orders annealed line by line around what lines share.

The rule puts the earliest lorry first and, within it, the product already on the line, then the one that
can follow soonest. Lines that share nothing are searched side by side; lines that share mixers, troughs,
machines or people take turns, each around what the others have taken. Few enough lots of a line by itself are
tried in every order, which proves the best.
"""

from collections.abc import Callable, Iterable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from copy import copy
from math import factorial
from typing import NamedTuple

import numpy as np

from rundgang.core.compiled import Ints
from rundgang.core.planning.arrays import LineShop, Part, parts_of
from rundgang.core.planning.board import Board, Lane, fixed_parts, parts_of_runs, prices
from rundgang.core.planning.bound import idle_between, line_bound
from rundgang.core.planning.kernel import Parts, anneal, appraise, every_order, make_room, make_runs, priced
from rundgang.core.planning.model import Plan, PlantPlan, Run, Weights
from rundgang.core.products import OddBatch
from rundgang.core.scenario import Scenario


class Progress(NamedTuple):
    """How far a search has come.

    Attributes
    ----------
    evaluated, since_better : int
        Orders tried, and how many of them since the last better one.
    cost, bound : float
        Of the best so far, and what every plan costs at least, points.
    """

    evaluated: int
    since_better: int
    cost: float
    bound: float


StopCriterion = Callable[[Progress], bool]
Arrangement = Mapping[str, tuple[Part, ...]]
"""The parts of each line, in order."""

Watcher = Callable[[Progress, Callable[[], Arrangement]], None]
"""Told the progress after every round, and how to get the best order so far."""

EVERY_ORDER_UP_TO = 5
"""As many lots of a line as are tried in every order, with every choice of runs set apart."""

THREADS = 2

FIRST_ROUND, LONGEST_ROUND = 20, 2_000
"""Orders tried a line and round: few at first, so that better plans come soon; then half as many again each time."""

WARM = (0.02, 0.004, 0.0008)
"""How much worse an order may be kept at a round's beginning, as a share of the line's cost; round by round."""

COOLED = 1e-2
"""A round ends at this share of the warmth it began with."""

LEAST_WARM = 2.0
"""Points."""

TWIN_SEED = 104_729
"""What sets the random moves of twins apart."""

EPOCH = 6
"""Rounds after which lines that share something are laid out anew."""

LONGEST_IN_TURN = 300
"""Orders tried a line and round at most where lines share something: they must look at each other often."""

LAID_OUT_WITH = 60
"""Orders tried at least for each line that is laid out anew."""

IN_TIME_WITH, IN_TIME_ROUND = 1_000, 50
"""Orders tried of a line that ends after the window before the search proper, in all and at a time."""

FROM_DEMAND = 3
"""What the demand says of a part stands first: product, lorry and packs."""

RULE = "earliest lorry first; for the same lorry the product on the line, then the one that can follow soonest"


def after_evaluations(most: int, idle: int) -> StopCriterion:
    """Stop after so many orders in all, or so many in a row without a better one."""
    return lambda progress: progress.evaluated >= most or progress.since_better >= idle


def thorough_enough(lines: int) -> StopCriterion:
    """The stop criterion when none is given: the same seed gives the same plan on every machine."""
    return after_evaluations(most=15_000 * lines, idle=6_000 * lines)


class _Searched:
    """A line during the search: its parts as arrays, and the best order so far."""

    def __init__(self, board: Board, line_id: str, parts: Sequence[Part], frozen: int, weights: Weights) -> None:
        self.line_id, self.parts, self.frozen = line_id, tuple(parts), frozen
        self.shop = board.shops[line_id]
        self.items = self.shop.items(parts)
        self.order = np.arange(len(parts), dtype=np.int64)
        self.alone = np.array([int(part.alone) for part in parts], dtype=np.int64)
        self.weights = prices(weights)
        self.bound = line_bound(self.shop, weights)
        self.proved = len(parts) - frozen < 1
        self.alone_on_plant = not board.coupled.get(line_id)
        self.cost = self.appraised(board)

    def appraised(self, board: Board) -> float:
        """What the line costs as it stands, around what the others have taken, points."""
        return float(priced(self._appraisal(board), self.weights))

    def overruns(self, board: Board) -> bool:
        """Whether the line as it stands ends after the window."""
        return bool(self._appraisal(board).beyond > 0)

    def _appraisal(self, board: Board) -> Parts:
        outside = board.outside(self.line_id)
        room, runs = make_room(self.shop.data, outside, self.items), make_runs(self.shop.data, self.items)
        return appraise(self.shop.data, outside, self.items, self.order, self.alone, room, runs)

    @property
    def ordered(self) -> tuple[Part, ...]:
        """The parts in the best order so far."""
        return self.ordered_as(self.order, self.alone)

    def ordered_as(self, order: Ints, alone: Ints) -> tuple[Part, ...]:
        """The parts in an order."""
        return tuple(self.parts[place]._replace(alone=bool(alone[place])) for place in order)

    @property
    def done(self) -> bool:
        """Whether nothing better can be found."""
        return self.proved or self.cost <= self.bound + 1e-6

    def search(self, board: Board, seed: int, tries: int, warm: float) -> int:
        """One round; how many orders were tried."""
        if self.done:
            return 0
        outside = board.outside(self.line_id)
        count = len(self.parts) - self.frozen
        if self.alone_on_plant and not self.frozen and factorial(count) <= factorial(EVERY_ORDER_UP_TO):
            self.order, self.alone, self.cost, tries = every_order(self.shop.data, outside, self.items, self.weights)
            self.proved = True
        else:
            heat = max(self.cost * warm, LEAST_WARM)
            before = self.appraised(board) if not self.alone_on_plant else self.cost
            order, alone, cost = anneal(
                self.shop.data,
                outside,
                self.items,
                self.order,
                self.alone,
                self.frozen,
                self.weights,
                seed,
                tries,
                heat,
                heat * COOLED,
            )
            self.cost = before
            if cost < before - 1e-9:
                self.order, self.alone, self.cost = order, alone, cost
        if not self.alone_on_plant:
            board.put(self.line_id, self.ordered)
        return int(tries)


def first_order(shop: LineShop, parts: Sequence[Part]) -> tuple[Part, ...]:
    """The rule's order of the parts."""
    left, order = list(parts), list[Part]()
    idle = idle_between(shop)
    while left:
        lorry = min(part.departs_min for part in left)
        before = order[-1].product if order else None
        chosen = min(
            (part for part in left if part.departs_min == lorry),
            key=lambda part: (
                part.product != before,
                float(idle[shop.index[before], shop.index[part.product]]) if before else 0.0,
            ),
        )
        left.remove(chosen)
        order.append(chosen)
    return tuple(order)


def plan_plant(
    scenario: Scenario,
    *,
    lines: Iterable[str] | None = None,
    kept: Sequence[Plan] = (),
    published: Sequence[Plan] = (),
    now_min: float | None = None,
    weights: Weights | None = None,
    seed: int = 0,
    stop: StopCriterion | None = None,
    odd_batch: Mapping[str, OddBatch] | None = None,
    watch: Watcher | None = None,
    start: Arrangement | None = None,
    begin_from: Sequence[Plan] = (),
) -> PlantPlan:
    """Plan the window of a plant's lines together.

    Parameters
    ----------
    scenario : Scenario
        What is to be made, and where.
    lines : iterable of str, optional
        The lines to plan; by default all.
    kept : sequence of Plan
        Plans of other lines, which stay as they are; what they share is taken.
    published : sequence of Plan
        What the floor works by. A change against it costs; with `now_min`, what has been mixed of it stays.
    now_min : float, optional
        Nothing is mixed before that has not been mixed already.
    weights : Weights, optional
        Prices of the score's parts.
    seed : int
        Of the search's random moves.
    stop : callable, optional
        Told the progress after every round; True ends the search.
    odd_batch : mapping of str to OddBatch, optional
        Choices for the odd last batch, by product, that differ from the products' own.
    watch : callable, optional
        Told the progress after every round, and how to get the best order so far.
    start : mapping of str to tuple of Part, optional
        An order to go on from, as `watch` was given it in a search for the same.
    begin_from : sequence of Plan
        Plans to go on from, as far as they are for the same demand.

    Raises
    ------
    UnknownItemError
        No such line.
    InfeasibleError
        A product's dough cannot be divided in time, or no order tried ends within the window.
    """
    prices_, wanted = weights or Weights(), [line.id for line in scenario.plant.lines] if lines is None else list(lines)
    board = Board(scenario, [*wanted, *(plan.line for plan in kept if plan.line not in wanted)], odd_batch)
    for plan in kept:
        if plan.line not in wanted:
            board.put(plan.line, fixed_parts(scenario, plan))
    searched = []
    for line_id in wanted:
        before = next((plan for plan in published if plan.line == line_id), None)
        parts, frozen = _starting(board.shops[line_id], before, now_min)
        earlier = start.get(line_id) if start else None
        earlier = earlier or next((parts_of_runs(scenario, p.runs) for p in begin_from if p.line == line_id), None)
        parts = _as_earlier(parts, frozen, earlier or ())
        board.put(line_id, parts)
        searched.append(_Searched(board, line_id, parts, frozen, prices_))
    evaluated = _rounds(board, searched, seed, stop or thorough_enough(len(wanted)), watch)
    return _result(board, searched, kept, evaluated, prices_)


def _starting(shop: LineShop, published: Plan | None, now_min: float | None) -> tuple[tuple[Part, ...], int]:
    """A line's parts in the rule's order, behind those whose mixing has begun; and how many these are."""
    begun = _begun(published, now_min)
    frozen = tuple(part._replace(not_before_min=0.0) for part in parts_of_runs(shop.scenario, begun))
    left = {(part.product, part.wave): 0 for part in frozen}
    for part in frozen:
        left[part.product, part.wave] += part.packs
    was = _published_starts(published)
    parts = []
    for part in parts_of(shop, shop.lots):
        key = part.product, part.wave
        given = min(left.get(key, 0), part.packs)
        left[key] = left.get(key, 0) - given
        if part.packs > given:
            parts.append(part._replace(packs=part.packs - given, not_before_min=now_min or 0.0, was_min=was.get(key)))
    ordered = first_order(shop, parts)
    if ordered and frozen:
        ordered = (ordered[0]._replace(alone=True), *ordered[1:])
    return (*frozen, *ordered), len(frozen)


def _as_earlier(parts: tuple[Part, ...], frozen: int, earlier: Sequence[Part]) -> tuple[Part, ...]:
    """The parts in the order of earlier ones, where these are for the same demand; else as they are."""
    known: dict[tuple[str, str], list[Part]] = {}
    for part in parts[frozen:]:
        known.setdefault((part.product, part.wave), []).append(part)
    wanted: dict[tuple[str, str], int] = {}
    for part in parts:
        wanted[part.product, part.wave] = wanted.get((part.product, part.wave), 0) + part.packs
    for part in earlier:
        wanted[part.product, part.wave] = wanted.get((part.product, part.wave), 0) - part.packs
    if not earlier or any(wanted.values()):
        return parts
    begun = [part[:FROM_DEMAND] for part in parts[:frozen]]
    if [part[:FROM_DEMAND] for part in earlier[:frozen]] != begun:
        return parts
    same = {key: found[0] for key, found in known.items()}
    return (
        *parts[:frozen],
        *(
            same[part.product, part.wave]._replace(
                packs=part.packs, alone=part.alone, pinned_min=part.pinned_min, pace_share=part.pace_share
            )
            for part in earlier[frozen:]
        ),
    )


def _begun(published: Plan | None, now_min: float | None) -> tuple[Run, ...]:
    """The runs of a published plan of which something has been mixed, pinned where they are."""
    if published is None or now_min is None:
        return ()
    return tuple(
        run.model_copy(update={"pinned_min": run.start_min, "alone": True})
        for run in published.runs
        if first_mixed_min(run) < now_min
    )


def first_mixed_min(run: Run) -> float:
    """When the first dough of a run, or what is prepared for it, is begun, min."""
    return min(slot.start_min for batch in run.batches for slot in batch.slots)


def _published_starts(published: Plan | None) -> dict[tuple[str, str], float]:
    if published is None:
        return {}
    return {(run.product, lot.wave): run.start_min for run in reversed(published.runs) for lot in run.items}


class _Group:
    """Lines that share something, searched in turn; or one line that shares nothing.

    Whoever comes first takes what is shared where it likes, and the others go round it. So every other `EPOCH`
    rounds the lines are laid out anew from the best orders known: first the one that is dearest when it has the
    plant to itself, then in any turn; in between the best is refined. The best of all epochs is kept. Lines that
    share something cannot be searched side by side, so twins of the group are, each on a board of its own; they go
    on from the better one.
    """

    def __init__(self, board: Board, lines: list[_Searched]) -> None:
        self.board, self.lines = board, lines
        self.cost = sum(one.cost for one in lines)
        self.best = self._snapshot()

    def twins(self) -> "tuple[_Group, ...]":
        """Groups to search side by side: this one, and twins of it where its lines share something."""
        if len(self.lines) == 1:
            return (self,)
        return (self, *(self._twin() for _ in range(THREADS - 1)))

    def _twin(self) -> "_Group":
        board = Board(self.board.scenario, self.board.shops, shops=self.board.shops)
        board.lanes = dict(self.board.lanes)
        return _Group(board, [copy(one) for one in self.lines])

    def learn(self, other: "_Group") -> None:
        """Take over the best of a twin."""
        self.cost, self.best = other.cost, list(other.best)

    def _snapshot(self) -> list[tuple[Ints, Ints, float, Lane]]:
        return [(one.order, one.alone, one.cost, self.board.lanes[one.line_id]) for one in self.lines]

    def restore_best(self) -> None:
        """Put the best known orders back on the board."""
        for one, (order, alone, cost, lane) in zip(self.lines, self.best, strict=True):
            one.order, one.alone, one.cost = order, alone, cost
            self.board.lanes[one.line_id] = lane

    def settle(self) -> None:
        """Close up on the board what others have left free since a line was laid out."""
        self.restore_best()
        for one in self.lines if len(self.lines) > 1 else ():
            before, cost = self.board.lanes[one.line_id], one.appraised(self.board)
            self.board.put(one.line_id, one.ordered)
            if one.appraised(self.board) > cost + 1e-6:
                self.board.lanes[one.line_id] = before

    def round(self, seed: int, number: int, tries: int) -> int:
        """One round of every line; how many orders were tried."""
        warm, tried = WARM[number % len(WARM)], 0
        tries = min(tries, LONGEST_IN_TURN) if len(self.lines) > 1 else tries
        if len(self.lines) > 1 and number % EPOCH == 0:
            if number % (2 * EPOCH) == 0:
                tried = self._lay_out_anew(seed, number, max(tries, LAID_OUT_WITH))
            else:
                self.restore_best()
        tried += sum(one.search(self.board, _seed(seed, number, one.line_id), tries, warm) for one in self.lines)
        found = sum(one.appraised(self.board) if len(self.lines) > 1 else one.cost for one in self.lines)
        if found < self.cost - 1e-6:
            self.cost = found
            self.best = self._snapshot()
        return tried

    def _lay_out_anew(self, seed: int, number: int, tries: int) -> int:
        """Take all lines off the board and put them back one by one, each searched around those before it."""
        self.restore_best()
        random = np.random.default_rng(_seed(seed, number, "turn"))
        for one in self.lines:
            self.board.clear(one.line_id)
        turn, tried = list(self.lines), 0
        if number == 0:
            for one in self.lines:
                tried += one.search(self.board, _seed(seed, number, one.line_id), tries, WARM[0])
                self.board.clear(one.line_id)
            turn.sort(key=lambda one: -one.cost)
        else:
            dear = [one.cost for one in self.lines]
            weights = np.array(dear) / sum(dear) if sum(dear) > 0 else None
            turn = [self.lines[place] for place in random.choice(len(dear), len(dear), replace=False, p=weights)]
        for one in turn:
            self.board.put(one.line_id, one.ordered)
            one.cost = one.appraised(self.board)
            tried += one.search(self.board, _seed(seed, number + 1, one.line_id), tries, WARM[1])
        return tried


def _rounds(
    board: Board,
    searched: Sequence[_Searched],
    seed: int,
    stop: StopCriterion,
    watch: Watcher | None,
) -> int:
    """Search round by round until told to stop; how many orders were tried."""
    evaluated = len(searched) + _bring_into_window(board, searched, seed)
    coupled: dict[frozenset[str], list[_Searched]] = {}
    for one in searched:
        coupled.setdefault(frozenset((one.line_id, *board.coupled.get(one.line_id, ()))), []).append(one)
    groups = [_Group(board, lines).twins() for lines in coupled.values()]
    since_better, number, tries = 0, 0, FIRST_ROUND
    bound = sum(one.bound for one in searched)
    cost = sum(twins[0].cost for twins in groups)
    with ThreadPoolExecutor(THREADS) as threads:
        while True:
            progress = Progress(evaluated, since_better, cost, min(bound, cost))
            if watch:
                watch(progress, lambda: _arrangement(twins[0] for twins in groups))
            if all(one.done for one in searched) or stop(progress):
                for twins in groups:
                    twins[0].settle()
                return evaluated
            work = [
                threads.submit(group.round, seed + place * TWIN_SEED, number, tries)
                for twins in groups
                for place, group in enumerate(twins)
            ]
            tried = sum(one.result() for one in work)
            number += 1
            for twins in groups:
                better = min(twins, key=lambda group: group.cost)
                for group in twins if number % EPOCH == 0 or better is not twins[0] else ():
                    if group.cost > better.cost:
                        group.learn(better)
            evaluated, since_better = evaluated + tried, since_better + tried
            found = sum(twins[0].cost for twins in groups)
            if found < cost - 1e-6:
                since_better = 0
            cost = found
            tries = min(tries * 3 // 2, LONGEST_ROUND)


def _bring_into_window(board: Board, searched: Sequence[_Searched], seed: int) -> int:
    """Search lines that end after the window, whatever the stop criterion says: the first plan is to be a legal one.

    Returns how many orders were tried. A better order never ends later than the window again: nothing is dearer.
    """
    tried = 0
    for number in range(IN_TIME_WITH // IN_TIME_ROUND):
        late = [one for one in searched if one.overruns(board)]
        if not late:
            break
        for one in late:
            tried += one.search(board, _seed(seed, number, one.line_id), IN_TIME_ROUND, WARM[-1])
    return tried


def _arrangement(groups: Iterable[_Group]) -> Arrangement:
    """The best order of every line so far."""
    return {
        one.line_id: one.ordered_as(order, alone)
        for group in groups
        for one, (order, alone, _, _) in zip(group.lines, group.best, strict=True)
    }


def _seed(seed: int, number: int, line_id: str) -> int:
    return (seed * 1_000_003 + number * 7_919 + sum(map(ord, line_id))) % 2_147_483_647


def _result(
    board: Board, searched: Sequence[_Searched], kept: Sequence[Plan], evaluated: int, weights: Weights
) -> PlantPlan:
    made = []
    for one in searched:
        if one.alone_on_plant:
            board.put(one.line_id, one.ordered)
    for one in searched:
        rule = f"{RULE}; then {evaluated:,} orders tried, the best kept"
        if one.proved and len(one.parts) > 0:
            rule = f"every order of the {len(one.parts)} lots tried: proved best"
        made.append(board.plan(one.line_id, rule, evaluated))
        board.refuse_beyond_window(made[-1])
    plans = (*made, *(plan for plan in kept if plan.line not in {one.line_id for one in searched}))
    score = board.score_of(plans)
    cost = score.cost(weights)
    bound = min(cost, sum(one.cost if one.proved else one.bound for one in searched))
    return PlantPlan(
        plans=plans,
        score=score,
        weights=weights,
        cost=cost,
        bound=bound,
        proved=all(one.done for one in searched) and not kept,
        evaluated=evaluated,
    )
