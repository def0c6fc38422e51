"""The routes of a line plan's odds, and of plans that are surer."""

from typing import Annotated

from fastapi import APIRouter, Query, Request
from pydantic import Field

from rundgang.api.changing import store_version
from rundgang.api.deps import Author, Now, Number, Planned, Replanned, Store, at_present, made_for
from rundgang.api.searches import asked_for
from rundgang.core.model import Id, Model
from rundgang.core.planning.checked import checked, refuse_unsound
from rundgang.core.simulation.line_odds import LineOdds, odds_of
from rundgang.core.simulation.surer import Wish, frontier
from rundgang.core.simulation.worth import Worth
from rundgang.jobs.requests import SearchRequest, SearchState, newest_comparison, newest_wish
from rundgang.store.sure_plans import SureNote

router = APIRouter(prefix="/api/odds")

SECONDS = 30.0


class WishRequest(Model):
    """Which lorries are to be surer, in how many seconds plans are found, and who asks."""

    wish: Wish
    seconds: float = Field(default=SECONDS, ge=0.5, le=600)
    author: Author = "planner"


class SurerPlans(Model):
    """Plans to choose from.

    Attributes
    ----------
    search : SearchState or None
        The newest search for them; None where there was none in this window.
    plans : tuple of SureNote
        In the order in which they were found; the first is the one that was begun from.
    frontier : tuple of int
        The numbers of those than which none is as cheap and surer, the cheapest first.
    """

    search: SearchState | None
    plans: tuple[SureNote, ...]
    frontier: tuple[int, ...]


@router.get("/surer")
def surer_plans(store: Store, line: Annotated[str, Query(max_length=40)]) -> SurerPlans:
    """Plans to choose from, by which a line is surer, and what they cost."""
    store.windows.scenario().line(line)
    search = newest_wish(store.session, store.windows.number(), line)
    plans = store.sure_plans.of(search.job) if search else ()
    places = frontier((one.cost, one.odds) for one in plans)
    return SurerPlans(search=search, plans=plans, frontier=tuple(plans[place].number for place in places))


@router.post("/surer", status_code=202)
def ask(http: Request, store: Planned, request: WishRequest) -> SearchState:
    """Ask for plans that are surer than the newest version; a worker finds them, one after the other."""
    newest = store.plans.version().note.number
    asked = SearchRequest(seconds=request.seconds, start=newest, author=request.author, wish=request.wish)
    return asked_for(http, store, asked)


class CompareRequest(Model):
    """Of which line changes are compared, in how many seconds, and who asks."""

    line: Id
    seconds: float = Field(default=SECONDS, ge=0.5, le=600)
    author: Author = "planner"


class Compared(Model):
    """What changes would be worth, what misses least first; and the newest search that compares them, if any."""

    search: SearchState | None
    found: tuple[Worth, ...]


@router.get("/worth")
def worth(store: Store, line: Annotated[str, Query(max_length=40)]) -> Compared:
    """What changes to a line would be worth."""
    store.windows.scenario().line(line)
    search = newest_comparison(store.session, store.windows.number(), line)
    found = store.sure_plans.worth_of(search.job) if search else ()
    return Compared(search=search, found=tuple(sorted(found, key=lambda one: one.missed)))


@router.post("/worth", status_code=202)
def compare(http: Request, store: Planned, request: CompareRequest) -> SearchState:
    """Ask what changes to a line would be worth; a worker plans each, one after the other."""
    newest = store.plans.version().note.number
    asked = SearchRequest(seconds=request.seconds, start=newest, author=request.author, compares=request.line)
    return asked_for(http, store, asked)


class TakenPlan(Model):
    """The version that a plan has become."""

    version: int
    note: str


class TakeRequest(Model):
    """Who takes a plan."""

    author: Author = "planner"


@router.post("/surer/{job}/{number}", status_code=201)
def take(store: Replanned, now: Now, job: Number, number: Number, request: TakeRequest) -> TakenPlan:
    """Take a plan that was found as the next version, once; refused where it does not hold any more."""
    plan, made = store.sure_plans.one(job, number)
    scenario = at_present(store, now, store.windows.scenario(made.book, made.library, made.opening))
    refuse_unsound(checked(scenario, plan))
    newest = store.plans.version()
    if newest.plan.plans == plan.plans:
        return TakenPlan(version=newest.note.number, note=newest.note.note)
    note = store_version(store, scenario, plan, made.model_copy(update={"author": request.author})).note
    return TakenPlan(version=note.number, note=note.note)


@router.get("/{number}")
def odds(store: Store, number: Number) -> LineOdds:
    """How sure a line's plan is, by its number: a thousand days of it, run through once, for a plan never changes."""
    stored = store.plans.line(number)
    return store.memory.recall(
        ("odds", store.plans.key_of(number)), lambda: odds_of(made_for(store, stored), stored.plan)
    )
