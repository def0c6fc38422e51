"""Planning a plant: its lines in groups that share something, searched side by side, and the plan of them all."""

from collections.abc import Iterable, Mapping, Sequence

from rundgang.core.planning.bound import packs_lost
from rundgang.core.planning.decode.pools import coupled
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.line_plans import line_plan
from rundgang.core.planning.lorries import OrderItem, items_of, order_items
from rundgang.core.planning.model import LinePlan, PlantPlan, Run
from rundgang.core.planning.names import all_named_as
from rundgang.core.planning.objective import Weights
from rundgang.core.planning.score import plant_score
from rundgang.core.planning.search.annealing import BETTER
from rundgang.core.planning.search.course import Course, run
from rundgang.core.planning.search.groups import Group, first_order
from rundgang.core.planning.search.stopping import Arrangement, StopCriterion, Watcher, thorough_enough
from rundgang.core.planning.standing import standing, starts_in
from rundgang.core.products import OddBatch
from rundgang.core.scenario import Scenario

THREADS = 2
"""So many orders are tried at once, where nobody says otherwise."""

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
    threads: int = THREADS,
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
        Told the progress after every round, and how to get the best order so far; may answer with a better one.
    start : mapping of str to tuple of OrderItem, optional
        An order to go on from, as `watch` was given it in a search for the same.
    begin_from : sequence of LinePlan
        Plans to go on from, as far as they are for what is still to be made. Where they hold as they are, the plan
        is no worse: it is they, where nothing better was found.
    effort : float
        To be spent on the bound, s, of all lines together; 0 for the one that takes none.
    threads : int
        So many orders are tried at once.

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
    islands = max(1, threads // max(1, sum(bool(own) for own in chosen)))
    groups = []
    for group, own in zip(coupled(scenario), chosen, strict=True):
        if not own:
            continue
        fixed = [run for line in group if line in others for run in others[line].runs]
        fixed += [run for line in own for run in scenario.opening.begun_on(line)]
        shop = _shop(scenario, group, own, fixed, odd_batch)
        listed = _listed(shop, own, published, begin_from, (start or {}).get(group[0]))
        groups.append(Group(own, shop, fixed, listed, counted, islands))
    evaluated = run(Course(groups, stop or thorough_enough(len(wanted)), watch, threads), seed, effort)
    found = _result(scenario, groups, tuple(others.values()), evaluated, counted)
    known = (plan for plan in (*published, *begin_from) if plan.line in wanted)
    found = all_named_as(found, known, scenario.opening)
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
    plans, most = [by_line[plan.line] for plan in found.plans], found.cost + BETTER
    before = standing(scenario, plans, published, found.weights, most)
    if before is None:
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


def _result(
    scenario: Scenario, groups: Sequence[Group], kept: tuple[LinePlan, ...], evaluated: int, weights: Weights
) -> PlantPlan:
    made = []
    for group in groups:
        tried = "1 order" if evaluated == 1 else f"{evaluated:,} orders"
        rule = f"{RULE}; then {tried} tried, the best kept"
        if group.proved and group.listed:
            rule = f"every order of the {len(group.listed)} order items tried or ruled out: proved best"
        decoded = group.decoded()
        made += [line_plan(decoded, line, group.fixed, rule, evaluated) for line in group.lines]
    order = {line.id: place for place, line in enumerate(scenario.plant.lines)}
    plans = tuple(sorted((*made, *kept), key=lambda plan: order[plan.line]))
    score = plant_score(scenario, plans)
    cost = score.cost(weights)
    bound = min(cost, sum(group.bound for group in groups))
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
