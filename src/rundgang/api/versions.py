"""The routes of plan versions: what they are, what changes them, what differs, and which one the floor works by."""

from fastapi import APIRouter, Response

from rundgang.api.changing import Changed, Then, bring_opening_back, bring_orders_back, change_version, fit_newest
from rundgang.api.deps import (
    PAGE,
    Author,
    Before,
    LineQuery,
    Most,
    Now,
    Number,
    Planned,
    Replanned,
    Store,
    at_present,
    made_for,
)
from rundgang.api.plans import plan_views
from rundgang.api.views import PlanView
from rundgang.core.errors import UnknownItemError
from rundgang.core.figure import Figure
from rundgang.core.model import Model
from rundgang.core.money import PlanMoney, figures_of, plan_money
from rundgang.core.planning.check.plans import check, check_shared
from rundgang.core.planning.check.violation import Violation
from rundgang.core.planning.checked import refuse_to_publish
from rundgang.core.planning.model import LinePlan
from rundgang.core.planning.objective import Score, Weights
from rundgang.core.planning.reline import relined
from rundgang.core.planning.repair import Change, Moved, moves, repair
from rundgang.core.planning.timeline import Timeline, timeline
from rundgang.store.plans import Published, StoredVersion, VersionNote
from rundgang.store.repository import Repository

router = APIRouter(prefix="/api/versions")


class VersionView(Model):
    """A version of the plant's plan, with the plans of one line or of all.

    Attributes
    ----------
    packs_short : int
        In the plans shown, each pack once; the score counts them by their orders' priority.
    how_good : str
        How far the plan of the plant is from the best that is possible, in words.
    """

    note: VersionNote
    packs_short: int
    score: Score
    weights: Weights
    cost: float
    bound: float
    how_good: str
    plans: tuple[PlanView, ...]
    violations: tuple[Violation, ...]
    stale: bool
    published: Published | None
    newest: int


class ChangeRequest(Model):
    """A change to a version, and who wants it."""

    change: Change
    author: Author = "planner"


class Tried(Model):
    """What a change would do, before anything is stored: the line as it would run."""

    cost: float
    cost_before: float
    score: Score
    moved: tuple[Moved, ...]
    timeline: Timeline
    violations: tuple[Violation, ...]


class LineComparison(Model):
    """What differs between two versions of a line's plan."""

    line: str
    before: Score | None
    after: Score | None
    moved: tuple[Moved, ...]


class Comparison(Model):
    """What differs between two versions, line by line."""

    before: VersionNote
    after: VersionNote
    lines: tuple[LineComparison, ...]


class Signed(Model):
    """Who does it."""

    author: Author = "planner"


class RestoreRequest(Signed):
    """Which version an action made that is undone or redone by it: what that did to the orders goes with it."""

    action: Number | None = None


class Restored(Model):
    """The version that an earlier one has become, and what became of the orders, and of stock and downtime."""

    note: VersionNote
    orders: Then
    opening: Then


class LineRequest(Model):
    """On which line a run shall be made: as which product of it."""

    line: str
    run: str
    to: str
    author: Author = "planner"


@router.get("")
def versions(store: Store, before: Before = None, most: Most = PAGE) -> tuple[VersionNote, ...]:
    """The versions of the window's plan, newest first, so many at a time."""
    return store.plans.versions(before, most)


@router.get("/newest")
def newest_version(store: Store, line: LineQuery = None) -> VersionView:
    """The newest version, of one line or of all."""
    return _view(store, store.plans.version(), line)


@router.get("/{number}")
def one_version(store: Store, number: Number, line: LineQuery = None) -> VersionView:
    """A version by its number, of one line or of all."""
    return _view(store, store.plans.version(number), line)


class MoneyView(Model):
    """What a version comes to; nothing where the plant has no currency."""

    money: PlanMoney | None
    figures: tuple[Figure, ...]


@router.get("/{number}/money")
def money(store: Store, number: Number) -> MoneyView:
    """What the plans of a version come to in the plant's currency, line by line together."""
    version = store.plans.version(number)
    found = plan_money(made_for(store, version.note), (stored.plan for stored in version.plans))
    return MoneyView(money=found, figures=figures_of(found) if found else ())


def _view(store: Repository, version: StoredVersion, line: str | None) -> VersionView:
    shown = [stored for stored in version.plans if line in {None, stored.plan.line}]
    if line is not None and not shown:
        raise UnknownItemError("line in this version", line, tuple(stored.plan.line for stored in version.plans))
    return VersionView(
        note=version.note,
        packs_short=sum(wave.short for stored in shown for wave in stored.plan.waves),
        score=version.plan.score,
        weights=version.plan.weights,
        cost=version.plan.cost,
        bound=version.plan.bound,
        how_good=version.plan.how_good,
        plans=plan_views(store, shown),
        violations=version.violations,
        stale=store.basis().outdates(version.note),
        published=store.plans.published(),
        newest=store.plans.newest_number() or version.note.number,
    )


@router.post("/{number}/changes", status_code=201)
def change(store: Replanned, now: Now, number: Number, request: ChangeRequest) -> Changed:
    """Change a version by hand: a legal plan that changes least comes back as the next version."""
    return change_version(store, now, store.plans.version(number), request.change, request.author)


@router.post("/{number}/tries", response_model=Tried)
def try_change(store: Store, now: Now, number: Number, request: ChangeRequest) -> Response:
    """What a change would do; nothing is stored. Written straight to JSON: a hand is waiting."""
    before = store.plans.version(number)
    scenario = at_present(store, now, made_for(store, before.note))
    found = repair(scenario, before.plan, request.change)
    plan = found.plan.of(request.change.line)
    violations = check(scenario, plan)
    tried = Tried(
        cost=found.plan.cost,
        cost_before=before.plan.cost,
        score=found.plan.score,
        moved=found.moved,
        timeline=timeline(scenario, plan),
        violations=violations or check_shared(scenario, found.plan.plans),
    )
    return Response(tried.model_dump_json(), media_type="application/json")


@router.post("/{number}/restore", status_code=201)
def restore_version(store: Replanned, number: Number, request: RestoreRequest) -> Restored:
    """Bring an earlier version back, as the newest: undo and redo are both this."""
    orders: Then = "same"
    opening: Then = "same"
    if request.action is not None:
        action = store.plans.version(request.action).note
        orders = bring_orders_back(store, action, number)
        opening = bring_opening_back(store, action, number, request.author)
    return Restored(note=store.plans.restore(number, request.author).note, orders=orders, opening=opening)


@router.post("/{number}/publish", status_code=201)
def publish_version(store: Planned, number: Number, who: Signed) -> Published | None:
    """Make a version the one that the floor works by."""
    refuse_to_publish(number, store.plans.version(number).breaks_rules)
    store.plans.publish(number, who.author)
    return store.plans.published()


@router.post("/{number}/lines", status_code=201)
def change_line(store: Replanned, now: Now, number: Number, request: LineRequest) -> Changed:
    """Make a run on another line: its orders become that line's in the next book, and both lines are fitted."""
    before = store.plans.version(number)
    plan = line_in(before, request.line)
    run = next((run for run in plan.runs if run.id == request.run), None)
    if run is None:
        raise UnknownItemError("run", request.run, tuple(run.id for run in plan.runs))
    scenario = store.windows.scenario()
    there = scenario.line_of(scenario.product(request.to))
    orders = (*relined(scenario, run, request.to), *store.windows.beyond(scenario))
    store.books.replace(orders, f"{run.id} {run.product} given to the {there.name}")
    return fit_newest(store, now, before, (request.line,), request.author)


@router.get("/{number}/compare/{other}")
def compare(store: Store, number: Number, other: Number) -> Comparison:
    """What differs between two versions, from the first to the second."""
    before, after = store.plans.version(number), store.plans.version(other)
    old = {stored.plan.line: stored.plan for stored in before.plans}
    new = {stored.plan.line: stored.plan for stored in after.plans}
    lines = []
    for line in dict.fromkeys((*old, *new)):
        was, is_ = old.get(line), new.get(line)
        if was != is_:
            lines.append(
                LineComparison(
                    line=line,
                    before=was.score if was else None,
                    after=is_.score if is_ else None,
                    moved=moves(was, is_) if was and is_ else (),
                )
            )
    return Comparison(before=before.note, after=after.note, lines=tuple(lines))


def line_in(version: StoredVersion, line: str) -> LinePlan:
    """The plan of a line in a version, or UnknownItemError."""
    for stored in version.plans:
        if stored.plan.line == line:
            return stored.plan
    raise UnknownItemError("line in this version", line, tuple(stored.plan.line for stored in version.plans))
