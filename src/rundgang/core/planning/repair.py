"""Repair: what the planner or the day changes in a plan, and the legal plan that changes least around it.

What has been mixed stays. Every other run keeps its place in the order and, if that costs no more, its time;
what must move is listed with the reason. Only the lines that the change touches are laid out anew, around
what the others have taken.
"""

from collections.abc import Iterable, Mapping, Sequence
from typing import Annotated, Literal, NamedTuple

import numpy as np
from pydantic import Field

from rundgang.core.batching import packs_from_pieces
from rundgang.core.errors import OutOfRangeError, RundgangError, UnknownItemError
from rundgang.core.model import Id, Model
from rundgang.core.planning.arrays import LineShop, Part, parts_of
from rundgang.core.planning.board import Board, Lane, board_around, fixed_parts, parts_of_runs, prices
from rundgang.core.planning.kernel import appraise, make_room, make_runs, priced
from rundgang.core.planning.model import Binding, Plan, PlantPlan, Run, Weights
from rundgang.core.planning.search import first_mixed_min
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
    """Parts of one run, and where it started."""

    parts: tuple[Part, ...]
    was_min: float | None
    frozen: bool


def repair(
    scenario: Scenario,
    plan: PlantPlan,
    change: Move | Place | Pin | Split | Merge | Pace | Odd | Fit,
    *,
    now_min: float | None = None,
    shops: Mapping[str, LineShop] | None = None,
    lanes: Mapping[str, Lane] | None = None,
) -> Repaired:
    """Change a plan and lay out anew what that touches.

    Parameters
    ----------
    scenario : Scenario
        As it is now, with new orders and blocks.
    plan : PlantPlan
        As it was.
    change : Move, Place, Pin, Split, Merge, Pace, Odd or Fit
    now_min : float, optional
        What was begun before stays where it is.
    shops : mapping of str to LineShop, optional
        Lines of this very scenario already worked out.
    lanes : mapping of str to Lane, optional
        The plan's lines already laid out, as `lanes_of` does it.

    Raises
    ------
    UnknownItemError
        No such line or run.
    RefusedChangeError
        The run has been begun, or cannot be changed so.
    InfeasibleError
        No legal plan comes of it; the message names the run and the constraint.
    """
    before = _of_line(plan, change.line)
    board = board_around(scenario, plan, change.line, shops, lanes)
    shop = board.shops[change.line]
    lined = [_lined(scenario, run, now_min) for run in before.runs]
    candidates = list(_changed(shop, before, lined, change, now_min))
    board.put(change.line, _best(board, shop, candidates, plan.weights, now_min))
    made = board.plan(change.line, f"{before.rule.split('; changed by hand')[0]}; changed by hand", before.evaluated)
    board.refuse_beyond_window(made)
    plans = tuple(made if line.line == change.line else line for line in plan.plans)
    score = board.score_of(plans)
    cost = score.cost(plan.weights)
    whole = plan.model_copy(
        update={"plans": plans, "score": score, "cost": cost, "bound": min(plan.bound, cost), "proved": False}
    )
    return Repaired(plan=whole, moved=moves(before, made))


def _of_line(plan: PlantPlan, line_id: str) -> Plan:
    for found in plan.plans:
        if found.line == line_id:
            return found
    raise UnknownItemError("planned line", line_id, tuple(found.line for found in plan.plans))


def lanes_of(scenario: Scenario, plan: PlantPlan, shops: Mapping[str, LineShop]) -> dict[str, Lane]:
    """Every line of a plan laid out as it is."""
    board = Board(scenario, (line.line for line in plan.plans), shops=shops)
    for line in plan.plans:
        board.put(line.line, fixed_parts(scenario, line))
    return dict(board.lanes)


def _lined(scenario: Scenario, run: Run, now_min: float | None) -> _Lined:
    begun = now_min is not None and first_mixed_min(run) < now_min
    fixed = run.model_copy(update={"alone": True, "pinned_min": run.start_min if begun else run.pinned_min})
    parts = tuple(part._replace(was_min=run.start_min) for part in parts_of_runs(scenario, (fixed,)))
    return _Lined(parts, run.start_min, begun)


def _changed(
    shop: LineShop,
    before: Plan,
    lined: list[_Lined],
    change: Move | Place | Pin | Split | Merge | Pace | Odd | Fit,
    now_min: float | None,
) -> Iterable[list[_Lined]]:
    """The orders of runs that the change may mean; of several, the cheapest is taken."""
    if isinstance(change, Fit):
        yield from _fitted(shop, lined)
        return
    place = _place_of(before, change.run)
    run, own = before.runs[place], lined[place]
    if own.frozen:
        raise RefusedChangeError(
            f"{run.id} has been mixed since minute {first_mixed_min(run):.0f}, and it is minute {now_min:.0f} now; "
            "allowed: runs of which nothing has been mixed."
        )
    rest = [*lined[:place], *lined[place + 1 :]]
    if isinstance(change, Pin):
        yield [*lined[:place], _pinned(own, run.start_min if change.pinned else None), *lined[place + 1 :]]
    elif isinstance(change, Pace):
        slower = own._replace(parts=tuple(part._replace(pace_share=change.share) for part in own.parts))
        yield [*lined[:place], slower, *lined[place + 1 :]]
    elif isinstance(change, Odd):
        chosen = own._replace(parts=tuple(part._replace(odd_batch=change.odd_batch) for part in own.parts))
        yield [*lined[:place], chosen, *lined[place + 1 :]]
    elif isinstance(change, Split):
        yield [*lined[:place], *_split(shop, run, own, change.packs), *lined[place + 1 :]]
    elif isinstance(change, Merge):
        yield _merged(before, lined, place)
    elif isinstance(change, Place):
        into = len(rest) if change.before is None else _place_of(before, change.before)
        into -= change.before is not None and into > place
        yield _into(rest, _pinned(own, None), into)
    else:
        earlier = sum(1 for other in rest if other.was_min is not None and other.was_min < change.start_min)
        for into in {earlier, max(earlier - 1, 0)} if change.start_min < run.start_min else {earlier}:
            yield _into(rest, _pinned(own, change.start_min), into)


def _place_of(before: Plan, run_id: str) -> int:
    for place, run in enumerate(before.runs):
        if run.id == run_id:
            return place
    raise UnknownItemError("run", run_id, tuple(run.id for run in before.runs))


def _pinned(own: _Lined, start_min: float | None) -> _Lined:
    """The run pinned at a time, or let go; a pin belongs to its first part."""
    return own._replace(parts=(own.parts[0]._replace(pinned_min=start_min), *own.parts[1:]))


def _into(rest: list[_Lined], own: _Lined, into: int) -> list[_Lined]:
    """The others with the run at a place, but never among what has been begun."""
    begun = sum(other.frozen for other in rest)
    into = max(into, begun)
    return [*rest[:into], own, *rest[into:]]


def _split(shop: LineShop, run: Run, own: _Lined, packs: int) -> tuple[_Lined, _Lined]:
    total = sum(part.packs for part in own.parts)
    limits = shop.limits[run.product]
    product = shop.scenario.product(run.product)
    least = max(1, packs_from_pieces(product, limits.least_pieces) // 2)
    if not 1 <= packs < total:
        raise OutOfRangeError(
            f"{run.id}: the packs of the first part", packs, f"1 to {total - 1}, {least} or more make a dough"
        )
    first, second, left = list[Part](), list[Part](), packs
    for part in own.parts:
        taken = min(left, part.packs)
        left -= taken
        if taken:
            first.append(part._replace(packs=taken))
        if part.packs > taken:
            second.append(part._replace(packs=part.packs - taken))
    second[0] = second[0]._replace(alone=True, pinned_min=None)
    return own._replace(parts=tuple(first)), _Lined(tuple(second), None, frozen=False)


def _merged(before: Plan, lined: list[_Lined], place: int) -> list[_Lined]:
    run = before.runs[place]
    after = next((n for n in range(place + 1, len(lined)) if before.runs[n].product == run.product), None)
    if after is None:
        raise RefusedChangeError(f"{run.id} has no run of its product after it; allowed: runs that have one.")
    if lined[after].frozen:
        raise RefusedChangeError(f"{before.runs[after].id} has been begun; allowed: runs of which nothing is mixed.")
    joined = tuple(part._replace(alone=False, pinned_min=None) for part in lined[after].parts)
    head = lined[place].parts[0]
    joined = tuple(part._replace(pace_share=head.pace_share, odd_batch=head.odd_batch) for part in joined)
    both = lined[place]._replace(parts=(*lined[place].parts, *joined))
    return [*lined[:place], both, *lined[place + 1 : after], *lined[after + 1 :]]


def _fitted(shop: LineShop, lined: list[_Lined]) -> Iterable[list[_Lined]]:
    """The runs less what nobody wants any more; and what is newly wanted at every place, joined or by itself."""
    wanted: dict[tuple[str, str], Part] = {}
    for part in parts_of(shop, shop.lots):
        key = part.product, part.wave
        packs = part.packs + (wanted[key].packs if key in wanted else 0)
        wanted[key] = part._replace(packs=packs)
    left = {key: part.packs for key, part in wanted.items()}
    kept = []
    for own in lined:
        parts = []
        for part in own.parts:
            key = part.product, part.wave
            packs = part.packs if own.frozen else min(part.packs, max(0, left.get(key, 0)))
            left[key] = left.get(key, 0) - packs
            if packs:
                parts.append(part._replace(packs=packs))
        if parts:
            parts[0] = parts[0]._replace(alone=True, pinned_min=own.parts[0].pinned_min)
            kept.append(own._replace(parts=tuple(parts)))
    new = [wanted[key]._replace(packs=packs, alone=True) for key, packs in left.items() if packs > 0]
    orders: list[list[_Lined]] = [kept]
    for part in sorted(new, key=lambda part: part.departs_min):
        orders = [order for known in orders[:1] for order in _inserted(shop, known, part)]
        orders.sort(key=lambda order: _slot_distance(order, part))
        if part is not new[-1]:
            orders = orders[:1]
    yield from orders


def _inserted(shop: LineShop, known: list[_Lined], part: Part) -> Iterable[list[_Lined]]:
    """An order of runs with one more part: at every place by itself, and joined to every run of its product."""
    begun = sum(own.frozen for own in known)
    most = int(shop.data.cap[shop.index[part.product]])
    own = _Lined((part,), None, frozen=False)
    for into in range(begun, len(known) + 1):
        yield [*known[:into], own, *known[into:]]
    for place in range(begun, len(known)):
        parts = known[place].parts
        if parts[0].product == part.product and sum(p.packs for p in parts) + part.packs <= most:
            joined = known[place]._replace(parts=(*parts, part._replace(alone=False, was_min=known[place].was_min)))
            yield [*known[:place], joined, *known[place + 1 :]]


def _slot_distance(order: list[_Lined], part: Part) -> float:
    """How far from its lorry a part stands in an order, by the starts of its neighbours, min."""
    for own in order:
        if part.wave in {p.wave for p in own.parts} and part.product == own.parts[0].product:
            return abs((own.was_min or 0.0) - part.departs_min)
    return 0.0


def _best(
    board: Board, shop: LineShop, candidates: Sequence[list[_Lined]], weights: Weights, now_min: float | None
) -> tuple[Part, ...]:
    """Of the orders, each with its runs held at their times or closed up, the cheapest."""
    outside, tariff = board.outside(shop.line.id), prices(weights)
    found = []
    for number, candidate in enumerate(candidates):
        for held in (True, False):
            parts = [part for own in candidate for part in _timed(shop, own, held, now_min)]
            items = shop.items(parts)
            room, runs = make_room(shop.data, outside, items), make_runs(shop.data, items)
            order = np.arange(len(parts), dtype=np.int64)
            alone = np.array([int(part.alone) for part in parts], dtype=np.int64)
            value = appraise(shop.data, outside, items, order, alone, room, runs)
            pinned = priced(value._replace(off_pin=min(value.off_pin, 0.0)), tariff) + value.off_pin
            found.append((float(pinned), number, not held, parts))
    return tuple(min(found, key=lambda one: one[:3])[3])


def _timed(shop: LineShop, own: _Lined, held: bool, now_min: float | None) -> tuple[Part, ...]:
    """A run's parts, not before it started where it is held, nor before now where it has not begun."""
    earliest = 0.0 if own.frozen or now_min is None else now_min
    if held and own.was_min is not None and own.parts[0].pinned_min is None:
        earliest = max(earliest, own.was_min - float(shop.data.lead[shop.index[own.parts[0].product]]))
    first = own.parts[0]._replace(not_before_min=earliest)
    return (first, *own.parts[1:])


def moves(before: Plan, after: Plan) -> tuple[Moved, ...]:
    """The runs that start elsewhere, are new or are gone: paired by the lorries that both are for."""
    found, left = list[Moved](), list(before.runs)
    for now in after.runs:
        was = max(
            (run for run in left if _common_packs(run, now)), key=lambda run: _common_packs(run, now), default=None
        )
        if was:
            left.remove(was)
        if was is None or abs(was.start_min - now.start_min) > SAME_TIME_MIN or was.packs != now.packs:
            found.append(_moved(was, now))
    return (*found, *(_moved(gone, None) for gone in left))


def _common_packs(one: Run, other: Run) -> int:
    """Packs for the same lorries of the same product in both runs."""
    if one.product != other.product:
        return 0
    packs = {lot.wave: lot.packs for lot in one.items}
    return sum(min(lot.packs, packs.get(lot.wave, 0)) for lot in other.items)


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
