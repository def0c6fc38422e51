"""Planning a plant: its lines in groups that share something, searched side by side, and the plan of them all."""

from collections.abc import Iterable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from itertools import groupby, takewhile
from math import inf
from time import monotonic

from rundgang.core.planning.bound import is_timed, packs_lost
from rundgang.core.planning.decode.pools import coupled
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.line_plans import line_plan
from rundgang.core.planning.lorries import OrderItem, items_of, order_items
from rundgang.core.planning.model import LinePlan, PlantPlan, Run
from rundgang.core.planning.objective import Weights
from rundgang.core.planning.score import plant_score
from rundgang.core.planning.search.annealing import BETTER
from rundgang.core.planning.search.apart import laid_together, lines_apart
from rundgang.core.planning.search.around import laid_back, line_around
from rundgang.core.planning.search.cooling import APART_EPOCHS, AROUND_EPOCHS, FIRST_AROUND, HOT_EPOCHS, Round, rounds
from rundgang.core.planning.search.groups import Group, first_order
from rundgang.core.planning.search.stopping import Arrangement, Progress, StopCriterion, Watcher, thorough_enough
from rundgang.core.planning.standing import standing, starts_in
from rundgang.core.products import OddBatch
from rundgang.core.scenario import Scenario

THREADS = 2

ISLAND_SEED, EPOCH_SEED = 104_729, 15_485_863
"""What sets the random moves of islands apart, and those of lines around the others from epoch to epoch."""

BEGINNINGS_A_SECOND, BEGINNINGS_AT_ONCE = 15_000, 5_000
"""Of each line's orders, that are branched over for a second to be spent on the bound, on every machine; in pieces."""

RULE = "earliest lorry first; for the same lorry the product on the line, then the one that can follow soonest"


def plan_plant(
    scenario: Scenario,
    *,
    lines: Iterable[str] | None = None,
    kept: Sequence[LinePlan] = (),
    published: Sequence[LinePlan] = (),
    weights: Weights | None = None,
    seed: int = 0,
    stop: StopCriterion | None = None,
    odd_batch: Mapping[str, OddBatch] | None = None,
    watch: Watcher | None = None,
    start: Arrangement | None = None,
    begin_from: Sequence[LinePlan] = (),
    effort: float = 0,
) -> PlantPlan:
    """Plan the window of a plant's lines together. What the scenario says has begun goes on as it does.

    Parameters
    ----------
    scenario : Scenario
        What is to be made, and where.
    lines : iterable of str, optional
        The lines to plan; by default all.
    kept : sequence of LinePlan
        Plans of other lines, which stay as they are; what they share is taken.
    published : sequence of LinePlan
        What the floor works by. A change against it costs.
    weights : Weights, optional
        What each part of the score costs.
    seed : int
        Of the search's random moves.
    stop : callable, optional
        Told the progress after every round; True ends the search.
    odd_batch : mapping of str to OddBatch, optional
        Choices for the odd last batch, by product, that differ from the products' own.
    watch : callable, optional
        Told the progress after every round, and how to get the best order so far.
    start : mapping of str to tuple of OrderItem, optional
        An order to go on from, as `watch` was given it in a search for the same.
    begin_from : sequence of LinePlan
        Plans to go on from, as far as they are for what is still to be made. Where they hold as they are, the plan
        is no worse: it is they, where nothing better was found.
    effort : float
        To be spent on the bound, s, of all lines together; 0 for the one that takes none.

    Raises
    ------
    UnknownItemError
        No such line.
    InfeasibleError
        A product's dough cannot be divided in time, whatever the order.
    """
    counted = weights or Weights()
    wanted = [line.id for line in scenario.plant.lines] if lines is None else [scenario.line(line).id for line in lines]
    others = {plan.line: plan for plan in kept if plan.line not in wanted}
    chosen = [[line for line in group if line in wanted] for group in coupled(scenario)]
    islands = max(1, THREADS // max(1, sum(bool(own) for own in chosen)))
    groups = []
    for group, own in zip(coupled(scenario), chosen, strict=True):
        if not own:
            continue
        fixed = [run for line in group if line in others for run in others[line].runs]
        fixed += [run for line in own for run in scenario.opening.begun_on(line)]
        shop = _shop(scenario, group, own, fixed, odd_batch)
        listed = _listed(shop, own, published, begin_from, (start or {}).get(group[0]))
        groups.append(Group(own, shop, fixed, listed, counted, islands))
    evaluated = _rounds(groups, seed, stop or thorough_enough(len(wanted)), watch, effort)
    found = _result(scenario, groups, tuple(others.values()), evaluated, counted)
    return _no_worse(
        scenario, found, (*(plan for plan in begin_from if plan.line in wanted), *others.values()), published
    )


def _no_worse(
    scenario: Scenario, found: PlantPlan, begun_from: Sequence[LinePlan], published: Sequence[LinePlan]
) -> PlantPlan:
    """A plan that was found; or what the search began from, where that still holds and nothing better was found."""
    by_line = {plan.line: plan for plan in begun_from}
    if set(by_line) != {plan.line for plan in found.plans}:
        return found
    before = standing(scenario, [by_line[plan.line] for plan in found.plans], published, found.weights)
    if before is None or found.cost < before.cost - BETTER:
        return found
    known = {"bound": min(found.bound, before.cost), "evaluated": found.evaluated, "lost": found.lost}
    return before.model_copy(update=known)


def _shop(
    scenario: Scenario,
    group: Sequence[str],
    own: Sequence[str],
    fixed: Sequence[Run],
    odd_batch: Mapping[str, OddBatch] | None,
) -> Shop:
    """The lines of a group that are planned or have runs that stay."""
    there = {*own, *(run.line for run in fixed)}
    return Shop(scenario, [line for line in group if line in there], fixed, odd_batch)


def _listed(
    shop: Shop,
    own: Sequence[str],
    published: Sequence[LinePlan],
    begin_from: Sequence[LinePlan],
    earlier: Sequence[OrderItem] | None,
) -> tuple[OrderItem, ...]:
    """What is to be put in order: as an earlier search or plan had it for the same demand, or by the rule."""
    scenario, most = shop.scenario, shop.most_packs
    begun = scenario.opening.begun
    was = starts_in(published)
    items = [
        item.model_copy(update={"was_min": was.get(item.due)})
        for line in own
        for item in order_items(scenario, line, [run for run in begun if run.line == line], most)
    ]
    if not earlier:
        gone = {(run.line, run.id) for run in begun}
        plans = [plan for plan in begin_from if plan.line in own]
        runs = [run for plan in plans for run in plan.runs if (run.line, run.id) not in gone]
        earlier = items_of(sorted(runs, key=lambda run: run.start_min))
    known = [item.model_copy(update={"was_min": was.get(item.due)}) for item in earlier]
    kept, missing = _still_wanted(known, items), _still_wanted(items, known, beyond=True)
    return _inserted(shop, kept, missing) if kept else first_order(shop, items)


def _still_wanted(
    items: Sequence[OrderItem], others: Sequence[OrderItem], *, beyond: bool = False
) -> list[OrderItem]:  # fmt: skip
    """Items as far as others are for the same packs; or, `beyond`, what of them the others are not for."""
    left: dict[tuple[str, str], int] = {}
    for item in others:
        left[item.due] = left.get(item.due, 0) + item.packs
    found = []
    for item in items:
        shared = min(item.packs, left.get(item.due, 0))
        left[item.due] = left.get(item.due, 0) - shared
        packs = item.packs - shared if beyond else shared
        if packs:
            found.append(item.model_copy(update={"packs": packs}))
    return found


def _inserted(shop: Shop, order: list[OrderItem], more: Iterable[OrderItem]) -> tuple[OrderItem, ...]:
    """An order with more items, each before the first of its line that is for a later lorry."""
    departs = {wave.id: wave.departs_min for wave in shop.scenario.waves}

    def line(item: OrderItem) -> str:
        return shop.products[shop.index[item.product]].line

    for item in more:
        later = (
            place
            for place, other in enumerate(order)
            if line(other) == line(item) and departs[other.wave] > departs[item.wave]
        )
        order.insert(next(later, len(order)), item)
    return tuple(order)


class _Course:
    """How far the search of some groups has come, and who is told."""

    def __init__(self, groups: Sequence[Group], stop: StopCriterion, watch: Watcher | None) -> None:
        self.groups, self.stop, self.watch = groups, stop, watch
        self.evaluated, self.since_better = len(groups), 0
        self.cost = self._cost()

    def _cost(self) -> float:
        return sum(group.cost for group in self.groups)

    def tried(self, orders: int) -> None:
        """Count orders tried."""
        self.evaluated, self.since_better = self.evaluated + orders, self.since_better + orders
        cost = self._cost()
        if cost < self.cost - BETTER:
            self.since_better = 0
        self.cost = cost

    def ends(self) -> bool:
        """Tell how far it is; whether that is enough."""
        bound = sum(group.bound for group in self.groups)
        progress = Progress(self.evaluated, self.since_better, self.cost, min(bound, self.cost))
        if self.watch:
            self.watch(progress, lambda: {group.shop.lines[0].id: group.ordered for group in self.groups})
        return all(group.done for group in self.groups) or self.stop(progress)


def _rounds(
    groups: Sequence[Group], seed: int, stop: StopCriterion, watch: Watcher | None, effort: float
) -> int:  # fmt: skip
    """Search until told to stop, each line apart at first, then those together that share something; orders tried."""
    course = _Course(groups, stop, watch)
    apart = [lines_apart(group) or (group,) for group in groups]
    lone = [own for lines in apart for own in lines]
    with ThreadPoolExecutor(THREADS) as threads:
        first = takewhile(lambda now: now.epoch < APART_EPOCHS, rounds(HOT_EPOCHS))
        if course.ends():
            return course.evaluated
        ended = _proved([own for own in lone if not is_timed(own.shop)], effort, course)
        ended = ended or _search(threads, lone, seed, first, course)
        ended = ended or _branched(threads, lone, effort, course)
        ended = ended or _proved([own for own in lone if is_timed(own.shop)], effort, course)
        several = [(group, lines) for group, lines in zip(groups, apart, strict=True) if len(lines) > 1]
        for group, lines in several:
            group.try_from(*laid_together(group, lines))
            group.bound = min(group.cost, max(group.bound, sum(own.bound for own in lines)))
        course.tried(len(several))
        if not (ended or course.ends()):
            _together(threads, dict(zip(groups, apart, strict=True)), seed, course)
    return course.evaluated


def _together(threads: ThreadPoolExecutor, apart: Mapping[Group, Sequence[Group]], seed: int, course: _Course) -> None:
    """Each group as one list, an epoch at a time; after an epoch that found something, each line around the others."""
    settled: dict[Group, float] = {}
    for epoch, its_rounds in groupby(rounds(0), key=lambda now: now.epoch):
        if _search(threads, tuple(apart), seed, its_rounds, course):
            return
        for group, lines in apart.items():
            if epoch < FIRST_AROUND or group.done or group.cost > settled.get(group, inf) - BETTER:
                continue
            if _line_by_line(threads, group, lines, seed + epoch * EPOCH_SEED, course):
                return
            settled[group] = group.cost


def _line_by_line(
    threads: ThreadPoolExecutor, group: Group, lines: Sequence[Group], seed: int, course: _Course
) -> bool:  # fmt: skip
    """Each line of a group around the others, one after another; whether the course ended before that."""
    for line in lines if len(lines) > 1 else ():
        own, mine = line_around(group, line, THREADS)
        ahead = takewhile(lambda now: now.epoch < AROUND_EPOCHS, rounds(0))
        ended = _search(threads, [own], seed, ahead, course)
        for order, alone in laid_back(group, own, mine):
            group.try_from(order, alone)
            course.tried(1)
        if ended or course.ends():
            return True
    return False


def _branched(threads: ThreadPoolExecutor, lone: Sequence[Group], effort: float, course: _Course) -> bool:
    """Go on through all orders of each line that has few enough; whether the course ended before that."""
    for _ in range(round(effort * BEGINNINGS_A_SECOND / BEGINNINGS_AT_ONCE)):
        open_ones = [own for own in lone if own.branching and not own.done]
        work = [threads.submit(own.branch, BEGINNINGS_AT_ONCE) for own in open_ones]
        course.tried(sum(one.result() for one in work))
        if course.ends():
            return True
    for own in lone:
        own.exchange()
    return False


def _proved(lone: Sequence[Group], effort: float, course: _Course) -> bool:
    """Prove what each line costs at least, in so many seconds for all; whether the course ended before that.

    Lines of few items first: what of their share they leave is for the others. Where nothing can be late the solver
    needs no good order to begin with, and often ends the search.
    """
    left = sorted((own for own in lone if not own.done), key=lambda own: len(own.listed)) if effort else []
    until = monotonic() + effort
    for place, own in enumerate(left):
        own.prove(max(0.0, until - monotonic()) / (len(left) - place))
        course.tried(0)
        if course.ends():
            return True
    return False


def _search(
    threads: ThreadPoolExecutor, groups: Sequence[Group], seed: int, ahead: Iterable[Round], course: _Course
) -> bool:
    """Round by round, all islands of all groups side by side; whether the course ended before the rounds."""
    for now in ahead:
        work = [
            threads.submit(group.round, island, seed + island * ISLAND_SEED, now)
            for group in groups
            if not group.done
            for island in range(len(group.islands))
        ]
        orders = sum(one.result() for one in work)
        for group in groups if now.ends else ():
            group.exchange()
        course.tried(orders)
        if course.ends():
            return True
    return False


def _result(
    scenario: Scenario, groups: Sequence[Group], kept: tuple[LinePlan, ...], evaluated: int, weights: Weights
) -> PlantPlan:
    made = []
    for group in groups:
        rule = f"{RULE}; then {evaluated:,} orders tried, the best kept"
        if group.proved and group.listed:
            rule = f"every order of the {len(group.listed)} order items tried or ruled out: proved best"
        decoded = group.decoded()
        made += [line_plan(decoded, line, group.fixed, rule, evaluated) for line in group.lines]
    order = {line.id: place for place, line in enumerate(scenario.plant.lines)}
    plans = tuple(sorted((*made, *kept), key=lambda plan: order[plan.line]))
    score = plant_score(scenario, plans)
    cost = score.cost(weights)
    bound = min(cost, sum(group.cost if group.proved else group.bound for group in groups))
    return PlantPlan(
        plans=plans,
        score=score,
        weights=weights,
        cost=cost,
        bound=bound,
        lost=sum(packs_lost(group.shop, group.lines, group.fixed) for group in groups),
        proved=all(group.done for group in groups) and not kept,
        evaluated=evaluated,
    )
