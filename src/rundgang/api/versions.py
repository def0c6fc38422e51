"""The routes of the plant's plan: its versions, what changes them, why they are as they are, and what is published."""

from collections.abc import Callable
from datetime import UTC, datetime
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Response
from pydantic import Field, ValidationError

from rundgang.api.library import XLSX
from rundgang.api.routes import Number, Store, plan_views
from rundgang.api.views import PlanView
from rundgang.core.errors import MalformedError, RundgangError, UnknownItemError
from rundgang.core.model import Model, Text
from rundgang.core.orders import Block, FinishedStock, Order
from rundgang.core.planning.arrays import LineShop
from rundgang.core.planning.board import Lane
from rundgang.core.planning.check import Violation, check, check_shared
from rundgang.core.planning.demand import Demand, demand
from rundgang.core.planning.explain import ChangeCost, Lateness, Link, chain, change_costs, lateness
from rundgang.core.planning.model import Plan, PlantPlan, Score, Weights
from rundgang.core.planning.reline import relined
from rundgang.core.planning.repair import Change, Fit, Moved, lanes_of, moves, repair
from rundgang.core.planning.timeline import Timeline, timeline
from rundgang.core.scenario import Scenario
from rundgang.formats.documents import faults_of, write
from rundgang.formats.plan_files import plan_calendar, plan_csv, plan_workbook
from rundgang.store.repository import Made, Published, Repository, Settled, StoredVersion, VersionNote

router = APIRouter(prefix="/api")

Author = Annotated[Text, Field(min_length=1, max_length=60)]


class VersionView(Model):
    """A version of the plant's plan, with the plans of one line or of all."""

    note: VersionNote
    score: Score
    weights: Weights
    cost: float
    bound: float
    proved: bool
    plans: tuple[PlanView, ...]
    violations: tuple[Violation, ...]
    stale: bool
    published: Published | None
    newest: int


class ChangeRequest(Model):
    """A change to a version, and who wants it."""

    change: Change
    author: Author = "planner"
    keep_begun: bool = False


class Changed(Model):
    """The version that a change has made, and what moved."""

    version: int
    cost: float
    cost_before: float
    moved: tuple[Moved, ...]


class Tried(Model):
    """What a change would do, before anything is stored: the line as it would run."""

    cost: float
    cost_before: float
    score: Score
    moved: tuple[Moved, ...]
    timeline: Timeline
    violations: tuple[Violation, ...]


class Why(Model):
    """Why a run starts when it does: the chain of runs that bind each other down to it."""

    run: str
    chain: tuple[Link, ...]


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


class ChangedSinceError(RundgangError):
    """Someone else has changed the settings meanwhile."""

    def __init__(self, seen: int, current: int) -> None:
        super().__init__(
            f"These are a change of settings {seen}, but the newest are {current}. Nothing was changed; load them anew."
        )


class Signed(Model):
    """Who does it."""

    author: Author = "planner"


class SettingsRequest(Model):
    """Stock and blocks to keep for the day."""

    finished: tuple[FinishedStock, ...] = Field(max_length=5_000)
    blocks: tuple[Block, ...] = Field(max_length=2_000)
    seen: int = Field(ge=0, description="number of the settings this is a change of")
    author: Author = "planner"


class LineRequest(Model):
    """On which line a run shall be made: as which product of it."""

    line: str
    run: str
    to: str
    author: Author = "planner"
    keep_begun: bool = False


class UrgentOrder(Model):
    """An order that comes in when the plan is made: taken into the book and into the plan."""

    order: Order
    author: Author = "planner"
    keep_begun: bool = False


@router.get("/versions")
def versions(store: Store) -> tuple[VersionNote, ...]:
    """All versions of the day's plan, newest first."""
    return store.versions()


@router.get("/versions/newest")
def newest_version(store: Store, line: Annotated[str | None, Query(max_length=40)] = None) -> VersionView:
    """The newest version, of one line or of all."""
    return _view(store, store.version(), line)


@router.get("/versions/{number}")
def one_version(store: Store, number: Number, line: Annotated[str | None, Query(max_length=40)] = None) -> VersionView:
    """A version by its number, of one line or of all."""
    return _view(store, store.version(number), line)


def _view(store: Repository, version: StoredVersion, line: str | None) -> VersionView:
    shown = [stored for stored in version.plans if line is None or stored.plan.line == line]
    if line is not None and not shown:
        raise UnknownItemError("line in this version", line, tuple(stored.plan.line for stored in version.plans))
    return VersionView(
        note=version.note,
        score=version.plan.score,
        weights=version.plan.weights,
        cost=version.plan.cost,
        bound=version.plan.bound,
        proved=version.plan.proved,
        plans=plan_views(store, shown),
        violations=version.violations,
        stale=store.basis().outdates(version.note),
        published=store.published(),
        newest=store.version().note.number,
    )


@router.post("/versions/{number}/changes", status_code=201)
def change_version(store: Store, number: Number, request: ChangeRequest) -> Changed:
    """Change a version by hand: a legal plan that changes least comes back as the next version."""
    return _change(store, number, request)


@router.post("/versions/{number}/tries", response_model=Tried)
def try_change(store: Store, number: Number, request: ChangeRequest) -> Response:
    """What a change would do; nothing is stored. Written straight to JSON: a hand is waiting."""
    before = store.version(number)
    scenario = _scenario_of(store, before.note)
    found = repair(
        scenario,
        before.plan,
        request.change,
        now_min=_now(scenario) if request.keep_begun else None,
        shops=_shops(store, scenario, before.note),
        lanes=_lanes(store, scenario, before),
    )
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


def _change(store: Repository, number: int, request: ChangeRequest) -> Changed:
    """A change of the kind "fit" is for the newest orders, stock and blocks; any other for those of the version."""
    before = store.version(number)
    fit = isinstance(request.change, Fit)
    scenario = store.scenario() if fit else _scenario_of(store, before.note)
    found = repair(
        scenario,
        before.plan,
        request.change,
        now_min=_now(scenario) if request.keep_begun else None,
        shops=None if fit else _shops(store, scenario, before.note),
        lanes=None if fit else _lanes(store, scenario, before),
    )
    moved = found.moved
    plan = found.plan
    if fit:
        plan, moved = _fit_all(scenario, found.plan, found.moved, request)
    made = Made(
        book=store.book().number if fit else before.note.book,
        library=store.newest_library() if fit else before.note.library,
        settings=store.settings().number if fit else before.note.settings,
        author=request.author,
        note=_noted(scenario, before.plan, request),
        parent=number,
    )
    version = store.add_version(scenario, plan, made)
    return Changed(version=version.note.number, cost=plan.cost, cost_before=before.plan.cost, moved=moved)


def _fit_all(
    scenario: Scenario, plan: PlantPlan, moved: tuple[Moved, ...], request: ChangeRequest
) -> tuple[PlantPlan, tuple[Moved, ...]]:
    """The other lines, too, as far as the newest orders and blocks touch them."""
    for other in plan.plans:
        if other.line != request.change.line and (check(scenario, other) or check_shared(scenario, plan.plans)):
            now = _now(scenario) if request.keep_begun else None
            found = repair(scenario, plan, Fit(line=other.line), now_min=now)
            plan, moved = found.plan, (*moved, *found.moved)
    return plan, moved


def _noted(scenario: Scenario, plan: PlantPlan, request: ChangeRequest) -> str:
    """What a change is, in the words of the list of versions."""
    change = request.change
    if isinstance(change, Fit):
        return f"{scenario.line(change.line).name} fitted to the newest orders and blocks"
    words = {
        "move": "moved",
        "place": "put elsewhere in the order",
        "pin": "pinned",
        "split": "split",
        "merge": "joined with the next",
        "pace": "set to another pace",
        "odd": "given another last dough",
    }
    product = next(run.product for run in plan.of(change.line).runs if run.id == change.run)
    let_go = change.kind == "pin" and not getattr(change, "pinned", True)
    return f"{change.run} {scenario.product(product).name} {'let go' if let_go else words[change.kind]}"


def _now(scenario: Scenario) -> float:
    return (datetime.now(UTC) - scenario.window.starts_at).total_seconds() / 60


def _scenario_of(store: Repository, note: VersionNote) -> Scenario:
    return store.scenario(note.book, note.library, note.settings)


def _shops(store: Repository, scenario: Scenario, note: VersionNote) -> dict[str, LineShop]:
    """The lines of a version's scenario, worked out once."""
    key = ("shops", scenario.window.starts_at, note.book, note.library, note.settings)
    return store.memory.recall(key, lambda: {line.id: LineShop(scenario, line.id) for line in scenario.plant.lines})


def _lanes(store: Repository, scenario: Scenario, version: StoredVersion) -> dict[str, Lane]:
    """The lines of a version laid out, once."""
    shops = _shops(store, scenario, version.note)
    return store.memory.recall(
        ("lanes", version.note.number, version.note.created_at), lambda: lanes_of(scenario, version.plan, shops)
    )


@router.post("/versions/{number}/restore", status_code=201)
def restore_version(store: Store, number: Number, who: Signed) -> VersionNote:
    """Bring an earlier version back, as the newest: undo and redo are both this."""
    return store.restore_version(number, who.author).note


@router.post("/versions/{number}/publish", status_code=201)
def publish_version(store: Store, number: Number, who: Signed) -> Published | None:
    """Make a version the one that the floor works by."""
    store.publish(number, who.author)
    return store.published()


@router.post("/versions/{number}/lines", status_code=201)
def change_line(store: Store, number: Number, request: LineRequest) -> Changed:
    """Make a run on another line: its orders become that line's in the next book, and both lines are fitted."""
    plan = _line_plan(store, number, request.line)
    run = next((run for run in plan.runs if run.id == request.run), None)
    if run is None:
        raise UnknownItemError("run", request.run, tuple(run.id for run in plan.runs))
    scenario = store.scenario()
    there = scenario.line_of(scenario.product(request.to)).name
    store.replace_orders(relined(scenario, run, request.to), f"{run.id} {run.product} given to the {there}")
    fit = ChangeRequest(change=Fit(line=request.line), author=request.author, keep_begun=request.keep_begun)
    return _change(store, number, fit)


@router.get("/versions/{number}/compare/{other}")
def compare(store: Store, number: Number, other: Number) -> Comparison:
    """What differs between two versions, from the first to the second."""
    before, after = store.version(number), store.version(other)
    old = {stored.plan.line: stored.plan for stored in before.plans}
    new = {stored.plan.line: stored.plan for stored in after.plans}
    lines = []
    for line in dict.fromkeys((*old, *new)):
        was, now = old.get(line), new.get(line)
        if was != now:
            lines.append(
                LineComparison(
                    line=line,
                    before=was.score if was else None,
                    after=now.score if now else None,
                    moved=moves(was, now) if was and now else (),
                )
            )
    return Comparison(before=before.note, after=after.note, lines=tuple(lines))


@router.get("/versions/{number}/lines/{line}/runs/{run}/why")
def why(store: Store, number: Number, line: str, run: str) -> Why:
    """Why a run starts when it does."""
    return Why(run=run, chain=chain(_line_plan(store, number, line), run))


@router.get("/versions/{number}/lines/{line}/changes")
def changes(store: Store, number: Number, line: str) -> tuple[ChangeCost, ...]:
    """What the changes between the runs of a line cost."""
    version = store.version(number)
    return change_costs(_scenario_of(store, version.note), _line_plan(store, number, line), version.plan.weights)


@router.get("/versions/{number}/lines/{line}/late/{wave}/{product}")
def late(store: Store, number: Number, line: str, wave: str, product: str) -> Lateness:
    """Why a lorry misses packs of a product, and the cheapest single change that would cure it."""
    version = store.version(number)
    _line_plan(store, number, line)
    scenario = _scenario_of(store, version.note)
    return lateness(scenario, version.plan, line, wave, product, _shops(store, scenario, version.note))


def _line_plan(store: Repository, number: int, line: str) -> Plan:
    version = store.version(number)
    for stored in version.plans:
        if stored.plan.line == line:
            return stored.plan
    raise UnknownItemError("line in this version", line, tuple(stored.plan.line for stored in version.plans))


@router.get("/versions/{number}/plan.{form}", response_class=Response)
def plan_file(
    store: Store,
    number: Number,
    form: Literal["csv", "xlsx", "json", "ics"],
    line: Annotated[str | None, Query(max_length=40)] = None,
) -> Response:
    """A version as a file: all lines, or one."""
    version = store.version(number)
    scenario = _scenario_of(store, version.note)
    plans = [stored.plan for stored in version.plans] if line is None else [_line_plan(store, number, line)]
    made: dict[str, Callable[[], tuple[str | bytes, str]]] = {
        "csv": lambda: (plan_csv(scenario, plans), "text/csv; charset=utf-8"),
        "xlsx": lambda: (plan_workbook(scenario, plans), XLSX),
        "json": lambda: (write(version.plan.model_copy(update={"plans": tuple(plans)})), "application/json"),
        "ics": lambda: (
            plan_calendar(scenario, plans, number, version.note.created_at),
            "text/calendar; charset=utf-8",
        ),
    }
    body, media = made[form]()
    name = f"plan-{number}{f'-{line}' if line else ''}.{form}"
    return Response(body, media_type=media, headers={"Content-Disposition": f'attachment; filename="{name}"'})


@router.get("/demand")
def demand_view(store: Store) -> tuple[Demand, ...]:
    """What is ordered, in stock and left to make of every product, and the newest version's runs for it."""
    return demand(store.scenario(), (stored.plan for stored in store.newest_plans()))


@router.get("/settings")
def settings(store: Store) -> Settled:
    """The day's packs in stock, and when its stations are blocked."""
    return store.settings()


@router.post("/settings", status_code=201)
def set_settings(store: Store, request: SettingsRequest) -> Settled:
    """Store other stock and blocks for the day; they count from now on."""
    current = store.settings().number
    if request.seen != current:
        raise ChangedSinceError(request.seen, current)
    try:
        return store.add_settings(request.finished, request.blocks, request.author)
    except ValidationError as error:
        raise MalformedError("The stock or the blocks", tuple(faults_of(error))) from None


@router.post("/orders/urgent", status_code=201)
def urgent(store: Store, request: UrgentOrder) -> Changed:
    """Take one order into the book and into the newest version, which changes as little as possible."""
    scenario = store.scenario()
    product = scenario.product(request.order.product)
    waves = tuple(wave.id for wave in scenario.waves)
    if request.order.wave not in waves:
        raise UnknownItemError("lorry", request.order.wave, waves)
    number = store.version().note.number
    store.add_orders((request.order,), f"urgent: {request.order.packs} packs of {product.id}")
    change = ChangeRequest(change=Fit(line=product.line), author=request.author, keep_begun=request.keep_begun)
    return _change(store, number, change)
