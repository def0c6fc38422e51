"""Why a plan is as it is: what binds a run, why a lorry is missed and what would cure it, what changes cost."""

from collections.abc import Iterable
from itertools import pairwise

from rundgang.core.errors import UnknownItemError
from rundgang.core.kinds.operation import Reason
from rundgang.core.model import Id, Model
from rundgang.core.planning.lines_in_place import LineInPlace, planned_line
from rundgang.core.planning.lorries import OrderItem, items_of
from rundgang.core.planning.model import Binding, LinePlan, PlantPlan, Run, WaveOutcome
from rundgang.core.planning.objective import Weights
from rundgang.core.planning.timeline import meeting
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR


class Link(Model):
    """A run in a chain, when it starts and feeds, and what keeps it from starting earlier."""

    run: str
    product: Id
    start_min: float
    feed_min: float
    binding: Binding


class Cure(Model):
    """One change that would bring a lorry its packs in time.

    Attributes
    ----------
    what : str
        In words.
    points : float
        By how much the plan's cost rises with it; less than nothing where it gets better.
    short_elsewhere : int
        Packs that miss other lorries because of it.
    """

    what: str
    points: float
    short_elsewhere: int


class Lateness(Model):
    """Why a lorry misses packs: the run that brings its last, the chain before it, and the cheapest cure.

    Attributes
    ----------
    late_min : float
        So long after the lorry leaves its last pack is made.
    cure : Cure or None
        The cheapest single change that cures it; None where only an earlier opening, or a slower demand, would.
    """

    wave: Id
    product: Id
    short: int
    late_min: float
    chain: tuple[Link, ...]
    cure: Cure | None


class ChangeCost(Model):
    """What the change between two neighbouring runs costs.

    Attributes
    ----------
    idle_min : float
        White time at the divider.
    packs : float
        What the line would have made meanwhile of the second product.
    """

    first: str
    then: str
    station: str
    where: str
    idle_min: float
    packs: float
    points: float
    reasons: tuple[Reason, ...]


def chain(plan: LinePlan, run_id: str) -> tuple[Link, ...]:
    """The runs that bind each other down to a run, the first one first."""
    runs = {run.id: run for run in plan.runs}
    if run_id not in runs:
        raise UnknownItemError("run", run_id, tuple(runs))
    links: list[Link] = []
    at: str | None = run_id
    while at is not None and at not in {link.run for link in links}:
        run = runs[at]
        links.append(
            Link(run=run.id, product=run.product, start_min=run.start_min, feed_min=run.feed_min, binding=run.binding)
        )
        at = run.binding.after
    return tuple(reversed(links))


def lateness(scenario: Scenario, plan: PlantPlan, line_id: str, wave: str, product: str) -> Lateness:
    """Why a lorry misses packs of a product, and the cheapest single change that would cure it.

    Raises
    ------
    UnknownItemError
        The line's plan has no such lorry and product.
    """
    line = planned_line(plan, line_id)
    outcome = _outcome(line.waves, wave, product)
    loaded_by = next(entry.loaded_by_min for entry in scenario.waves if entry.id == wave)
    giving = [run for run in line.runs if product in {run.product, _cut(scenario, run)}]
    bringing = [run for run in giving if any(item.wave == wave for item in run.items)] or giving
    last = max(bringing, key=lambda run: run.last_pack_min, default=None)
    if last is None:
        return Lateness(wave=wave, product=product, short=outcome.short, late_min=0, chain=(), cure=None)
    late_min = max(0.0, (outcome.ready_min or last.last_pack_min) - loaded_by)
    found: tuple[Cure, ...] = ()
    if outcome.short:
        found = _cures(LineInPlace(scenario, plan, line_id), plan.weights, last, (wave, product))
    return Lateness(
        wave=wave,
        product=product,
        short=outcome.short,
        late_min=late_min,
        chain=chain(line, last.id),
        cure=min(found, key=lambda cure: cure.points, default=None),
    )


def _outcome(waves: Iterable[WaveOutcome], wave: str, product: str) -> WaveOutcome:
    for outcome in waves:
        if (outcome.wave, outcome.product) == (wave, product):
            return outcome
    raise UnknownItemError("lorry with that product", f"{wave}, {product}")


def _cut(scenario: Scenario, run: Run) -> str | None:
    cut = scenario.cut_from(scenario.product(run.product))
    return cut.id if cut else None


def _cures(line: LineInPlace, weights: Weights, last: Run, wanted: tuple[str, str]) -> tuple[Cure, ...]:
    """Every single move that gives the lorry all its packs, with what it costs."""
    before = line.before
    elsewhere = sum(wave.short for wave in before.waves) - _outcome(before.waves, *wanted).short
    found = []
    for what, items in _single_moves(line, last, wanted[0]):
        made = line.laid_out(items, before.rule)
        if _outcome(made.waves, *wanted).short:
            continue
        points = made.score.cost(weights) - before.score.cost(weights)
        short = sum(wave.short for wave in made.waves) - elsewhere
        found.append(Cure(what=what, points=points, short_elsewhere=short))
    return tuple(found)


def _single_moves(line: LineInPlace, last: Run, wave: str) -> Iterable[tuple[str, tuple[OrderItem, ...]]]:
    """The run, or only the lorry's part of it, before each run that starts earlier; or one of these behind it."""
    scenario, runs = line.scenario, [run.model_copy(update={"alone": True}) for run in line.free]
    own = next((place for place, run in enumerate(runs) if run.id == last.id), None)
    if own is None:
        return
    items = [items_of((run,)) for run in runs]
    rest = [*items[:own], *items[own + 1 :]]
    names = {run.id: f"{run.id} {scenario.product(run.product).name}" for run in runs}
    for into in range(own):
        yield f"{names[last.id]} before {names[runs[into].id]}", _joined([*rest[:into], items[own], *rest[into:]])
    needed = tuple(item for item in items[own] if item.wave == wave)
    others = tuple(item for item in items[own] if item.wave != wave)
    if needed and others:
        apart = needed[0].model_copy(update={"alone": True})
        others = (others[0].model_copy(update={"alone": True}), *others[1:])
        lorry = next(entry.name for entry in scenario.waves if entry.id == wave)
        for into in range(own + 1):
            order = [*rest[:into], (apart, *needed[1:]), *rest[into:own], others, *rest[own:]]
            where = f"before {names[runs[into].id]}" if into < own else "first"
            yield f"the packs of {names[last.id]} for {lorry} as a run of their own, {where}", _joined(order)
    for place in range(own):
        order = [*items[:place], *items[place + 1 : own + 1], items[place], *items[own + 1 :]]
        yield f"{names[runs[place].id]} behind {names[last.id]}", _joined(order)


def _joined(order: Iterable[tuple[OrderItem, ...]]) -> tuple[OrderItem, ...]:
    return tuple(item for items in order for item in items)


def change_costs(scenario: Scenario, plan: LinePlan, weights: Weights) -> tuple[ChangeCost, ...]:
    """What the change between every two neighbouring runs costs; none where they share no station."""
    found = []
    for first, then in pairwise(plan.runs):
        met = meeting(scenario, first, then)
        if met is None:
            continue
        idle = max(0.0, then.start_min - first.start_min - first.feed_min)
        waits = then.binding.kind in {"freshness", "closing", "shift", "pin", "materials"}
        needed = min(idle, max(0.0, idle - met.spare_min)) if waits else idle
        found.append(
            ChangeCost(
                first=first.id,
                then=then.id,
                station=met.station,
                where=scenario.line(plan.line).station(met.station).name,
                idle_min=needed,
                packs=needed / MINUTES_PER_HOUR * then.scaled_per_h * then.packs / then.pieces,
                points=needed * weights.changeover_min,
                reasons=met.reasons,
            )
        )
    return tuple(found)
