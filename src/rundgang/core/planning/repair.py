"""Repair: what the planner or the day changes in a plan, and the legal plan that changes least around it.

What has been mixed stays. Every other run keeps its place in the order and, if that costs no more, its time;
what must move is listed with the reason. Only the lines that the change touches are laid out anew, around
what the others have taken.
"""

from collections.abc import Iterable, Sequence
from typing import Annotated, Literal, NamedTuple, assert_never

from pydantic import Field

from rundgang.core.batching import packs_from_pieces
from rundgang.core.errors import OutOfRangeError, RundgangError, UnknownItemError
from rundgang.core.model import Id, Model
from rundgang.core.planning.lines_in_place import LineInPlace
from rundgang.core.planning.lorries import OrderItem, items_of, order_items
from rundgang.core.planning.model import Binding, LeftOut, LinePlan, PlantPlan, Run
from rundgang.core.planning.names import common_packs, named_as
from rundgang.core.planning.objective import Weights
from rundgang.core.planning.score import plant_score
from rundgang.core.products import OddBatch
from rundgang.core.scenario import Scenario

SAME_TIME_MIN = 0.01
"""A run that starts this little earlier or later has not moved, min."""


class RefusedChangeError(RundgangError):
    """A change that cannot be made; the message says why and what is allowed."""


class _OfRun(Model):
    line: Id
    run: str = Field(min_length=1, max_length=12, description="as the plan numbers it, for instance R3")


class Move(_OfRun):
    """Start a run near a time: in the order where that falls, and pinned there if it can start there."""

    kind: Literal["move"] = "move"
    start_min: float = Field(ge=0, le=10_080)


class Place(_OfRun):
    """Put a run before another, or last; nothing is pinned."""

    kind: Literal["place"] = "place"
    before: str | None = Field(default=None, max_length=12)


class Pin(_OfRun):
    """Hold a run where it is, or let it go."""

    kind: Literal["pin"] = "pin"
    pinned: bool = True


class Split(_OfRun):
    """Cut a run in two, the first with so many of its packs wanted."""

    kind: Literal["split"] = "split"
    packs: int = Field(ge=1, le=1_000_000)


class Merge(_OfRun):
    """Join a run with the next one of its product, at its own place."""

    kind: Literal["merge"] = "merge"


class Pace(_OfRun):
    """Run slower than the line could: so large a share of its pace."""

    kind: Literal["pace"] = "pace"
    share: float = Field(ge=0.1, le=1)


class Odd(_OfRun):
    """Another choice for a run's odd last dough."""

    kind: Literal["odd"] = "odd"
    odd_batch: OddBatch


class Fit(Model):
    """Make a line fit its scenario again: after a new order, a new block, or a change of stock."""

    kind: Literal["fit"] = "fit"
    line: Id


Change = Annotated[Move | Place | Pin | Split | Merge | Pace | Odd | Fit, Field(discriminator="kind")]


class Moved(Model):
    """A run that does not start where it did.

    Attributes
    ----------
    run, was_run : str or None
        Its number in the new plan, and in the one before; None where it is gone, or new.
    was_min, start_min : float or None
        Start before and now, min; None where it is new, or gone.
    binding : Binding or None
        What keeps it from starting earlier now.
    """

    line: Id
    run: str | None
    was_run: str | None
    product: Id
    packs: int
    was_min: float | None
    start_min: float | None
    binding: Binding | None = None


class Repaired(Model):
    """The plan after a change, and what moved."""

    plan: PlantPlan
    moved: tuple[Moved, ...]


class _Lined(NamedTuple):
    """Items of one run, and where it started; None where it is new."""

    items: tuple[OrderItem, ...]
    was_min: float | None

    def wanting(self, **wishes: object) -> "_Lined":
        """The same with all its items as the planner wants them."""
        return self._replace(items=tuple(item.model_copy(update=wishes) for item in self.items))

    def pinned(self, start_min: float | None) -> "_Lined":
        """The run pinned at a time, or let go; a pin belongs to its first item."""
        first = self.items[0].model_copy(update={"pinned_min": start_min})
        return self._replace(items=(first, *self.items[1:]))


def repair(scenario: Scenario, plan: PlantPlan, change: Change) -> Repaired:
    """Change a plan and lay out anew what that touches. What has begun by the scenario's *now* stays where it is.

    Parameters
    ----------
    scenario : Scenario
        As it is now, with new orders and closings.
    plan : PlantPlan
        As it was.
    change : Move, Place, Pin, Split, Merge, Pace, Odd or Fit

    Raises
    ------
    UnknownItemError
        No such line or run.
    RefusedChangeError
        The run has been begun, or cannot be changed so.
    """
    line = LineInPlace(scenario, plan, change.line)
    before = line.before
    lined = [_lined(run) for run in line.free]
    if not isinstance(change, Fit):
        lined += [_again(left) for left in before.left_out]
    candidates = list(_changed(line, lined, change))
    rule = f"{before.rule.split('; changed by hand')[0]}; changed by hand"
    made = named_as(line.laid_out(_best(line, candidates, plan.weights), rule), before, line.begun)
    plans = tuple(made if found.line == change.line else found for found in plan.plans)
    return Repaired(plan=revalued(scenario, plan, plans), moved=moves(before, made))


def relaid(scenario: Scenario, plan: PlantPlan, line_id: str) -> LinePlan:
    """A line's plan in the order it has, with what the scenario says now of plant and products."""
    line = LineInPlace(scenario, plan, line_id)
    kept = [_lined(run) for run in line.free]
    return named_as(line.laid_out(_best(line, [kept], plan.weights), line.before.rule), line.before, line.begun)


def revalued(scenario: Scenario, plan: PlantPlan, plans: tuple[LinePlan, ...]) -> PlantPlan:
    """The plant's plan with other plans of its lines."""
    score = plant_score(scenario, plans)
    cost = score.cost(plan.weights)
    worth = {"plans": plans, "score": score, "cost": cost, "bound": min(plan.bound, cost), "proved": False}
    return plan.model_copy(update=worth)


def _lined(run: Run) -> _Lined:
    first, *rest = items_of((run,))
    first = first.model_copy(update={"alone": True})
    return _Lined(tuple(item.model_copy(update={"was_min": run.start_min}) for item in (first, *rest)), run.start_min)


def _again(left: LeftOut) -> _Lined:
    """What was left out, tried again behind all others."""
    return _Lined((OrderItem(product=left.product, wave=left.wave, packs=left.packs, alone=True),), None)


def _changed(line: LineInPlace, lined: list[_Lined], change: Change) -> Iterable[list[_Lined]]:
    """The orders of runs that the change may mean; of several, the cheapest is taken."""
    if isinstance(change, Fit):
        yield from _fitted(line, lined)
        return
    place = _place_of(line, change.run)
    run, own = line.free[place], lined[place]
    rest = [*lined[:place], *lined[place + 1 :]]
    match change:
        case Pin():
            yield [*lined[:place], own.pinned(run.start_min if change.pinned else None), *lined[place + 1 :]]
        case Pace():
            yield [*lined[:place], own.wanting(pace_share=change.share), *lined[place + 1 :]]
        case Odd():
            yield [*lined[:place], own.wanting(odd_batch=change.odd_batch), *lined[place + 1 :]]
        case Split():
            yield [*lined[:place], *_split(line, run, own, change.packs), *lined[place + 1 :]]
        case Merge():
            yield _merged(line, lined, place)
        case Place():
            into = len(rest) if change.before is None else _place_of(line, change.before)
            into -= change.before is not None and into > place
            yield _into(rest, own.pinned(None), into)
        case Move():
            earlier = sum(1 for other in rest if other.was_min is not None and other.was_min < change.start_min)
            for into in {earlier, max(earlier - 1, 0)} if change.start_min < run.start_min else {earlier}:
                yield _into(rest, own.pinned(change.start_min), into)
        case _:
            assert_never(change)


def _place_of(line: LineInPlace, run_id: str) -> int:
    for place, run in enumerate(line.free):
        if run.id == run_id:
            return place
    for run in line.begun:
        if run.id == run_id:
            raise RefusedChangeError(
                f"{run.id} has been mixed since minute {run.first_mixed_min:.0f}, and it is minute "
                f"{line.scenario.opening.now_min:.0f} now; allowed: runs of which nothing has been mixed."
            )
    raise UnknownItemError("run", run_id, tuple(run.id for run in line.before.runs))


def _into(rest: list[_Lined], own: _Lined, into: int) -> list[_Lined]:
    """The others with the run at a place."""
    return [*rest[:into], own, *rest[into:]]


def _split(line: LineInPlace, run: Run, own: _Lined, packs: int) -> tuple[_Lined, _Lined]:
    total = sum(item.packs for item in own.items)
    limits, product = line.shop.limits_of(run), line.scenario.product(run.product)
    least = max(1, packs_from_pieces(product, limits.least_pieces) // 2)
    if not 1 <= packs < total:
        raise OutOfRangeError(
            f"{run.id}: the packs of the first part", packs, f"1 to {total - 1}, {least} or more make a dough"
        )
    first, second, left = list[OrderItem](), list[OrderItem](), packs
    for item in own.items:
        taken = min(left, item.packs)
        left -= taken
        if taken:
            first.append(item.model_copy(update={"packs": taken}))
        if item.packs > taken:
            second.append(item.model_copy(update={"packs": item.packs - taken}))
    second[0] = second[0].model_copy(update={"alone": True, "pinned_min": None})
    return own._replace(items=tuple(first)), _Lined(tuple(second), None)


def _merged(line: LineInPlace, lined: list[_Lined], place: int) -> list[_Lined]:
    run = line.free[place]
    after = next((n for n in range(place + 1, len(line.free)) if line.free[n].product == run.product), None)
    if after is None:
        raise RefusedChangeError(f"{run.id} has no run of its product after it; allowed: runs that have one.")
    head = lined[place].items[0]
    wishes = {"pace_share": head.pace_share, "odd_batch": head.odd_batch, "alone": False, "pinned_min": None}
    both = lined[place]._replace(items=(*lined[place].items, *lined[after].wanting(**wishes).items))
    return [*lined[:place], both, *lined[place + 1 : after], *lined[after + 1 :]]


def _fitted(line: LineInPlace, lined: list[_Lined]) -> Iterable[list[_Lined]]:
    """The runs less what nobody wants any more; and what is newly wanted at every place, joined or by itself."""
    wanted: dict[tuple[str, str], OrderItem] = {}
    for item in order_items(line.scenario, line.line_id, line.begun, line.shop.most_packs):
        packs = item.packs + (wanted[item.due].packs if item.due in wanted else 0)
        wanted[item.due] = item.model_copy(update={"packs": packs})
    left = {due: item.packs for due, item in wanted.items()}
    kept = []
    for own in lined:
        items = []
        for item in own.items:
            packs = min(item.packs, max(0, left.get(item.due, 0)))
            left[item.due] = left.get(item.due, 0) - packs
            if packs:
                items.append(item.model_copy(update={"packs": packs}))
        if items:
            items[0] = items[0].model_copy(update={"alone": True, "pinned_min": own.items[0].pinned_min})
            kept.append(own._replace(items=tuple(items)))
    departs = {wave.id: wave.departs_min for wave in line.scenario.waves}
    new = [wanted[due].model_copy(update={"packs": packs, "alone": True}) for due, packs in left.items() if packs > 0]
    orders: list[list[_Lined]] = [kept]
    for item in sorted(new, key=lambda item: departs[item.wave]):
        orders = [order for known in orders[:1] for order in _inserted(line, known, item)]
        orders.sort(key=lambda order: _slot_distance(order, item, departs[item.wave]))
    yield from orders


def _inserted(line: LineInPlace, known: list[_Lined], item: OrderItem) -> Iterable[list[_Lined]]:
    """An order of runs with one more item: at every place by itself, and joined to every run of its product."""
    most, own = line.shop.most_packs[item.product], _Lined((item,), None)
    for into in range(len(known) + 1):
        yield [*known[:into], own, *known[into:]]
    for place, found in enumerate(known):
        if found.items[0].product == item.product and sum(i.packs for i in found.items) + item.packs <= most:
            more = item.model_copy(update={"alone": False, "was_min": found.was_min})
            yield [*known[:place], found._replace(items=(*found.items, more)), *known[place + 1 :]]


def _slot_distance(order: list[_Lined], item: OrderItem, departs_min: float) -> float:
    """How far from its lorry an item stands in an order, by the starts of its neighbours, min."""
    for own in order:
        if item.due in {other.due for other in own.items}:
            return abs((own.was_min or 0.0) - departs_min)
    return 0.0


def _best(line: LineInPlace, candidates: Sequence[list[_Lined]], weights: Weights) -> tuple[OrderItem, ...]:
    """Of the orders, each with its runs held at their times or closed up, the cheapest."""
    found = []
    for number, candidate in enumerate(candidates):
        for held in (True, False):
            items = tuple(item for own in candidate for item in _timed(own, held))
            found.append((line.costs(items, weights), number, not held, items))
    return min(found, key=lambda one: one[:3])[3]


def _timed(own: _Lined, held: bool) -> tuple[OrderItem, ...]:
    """A run's items, not before it started where it is held."""
    if not held or own.was_min is None or own.items[0].pinned_min is not None:
        return own.items
    return (own.items[0].model_copy(update={"not_before_min": own.was_min}), *own.items[1:])


def moves(before: LinePlan, after: LinePlan) -> tuple[Moved, ...]:
    """The runs that start elsewhere, are new or are gone: paired by the lorries that both are for."""
    found, left = list[Moved](), list(before.runs)
    for now in after.runs:
        paired = (run for run in left if common_packs(run, now))
        was = max(paired, key=lambda run: (common_packs(run, now), run.id == now.id), default=None)
        if was:
            left.remove(was)
        if was is None or abs(was.start_min - now.start_min) > SAME_TIME_MIN or was.packs != now.packs:
            found.append(_moved(was, now))
    return (*found, *(_moved(gone, None) for gone in left))


def _moved(was: Run | None, now: Run | None) -> Moved:
    shown = now or was
    assert shown is not None  # noqa: S101  (one of the two is there)
    return Moved(
        line=shown.line,
        run=now.id if now else None,
        was_run=was.id if was else None,
        product=shown.product,
        packs=shown.packs,
        was_min=was.start_min if was else None,
        start_min=now.start_min if now else None,
        binding=now.binding if now else None,
    )
