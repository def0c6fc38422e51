"""One search, from the request to a stored version: takes up where a killed worker left it, and stores its end once."""

import time
from collections.abc import Callable
from typing import Any, NamedTuple

from sqlalchemy import Engine
from sqlmodel import Session

from rundgang.clock import Clock
from rundgang.core.errors import RundgangError
from rundgang.core.planning.checked import checked
from rundgang.core.planning.model import LinePlan, PlantPlan
from rundgang.core.planning.past import opened
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import Arrangement, Progress, proving_time
from rundgang.core.scenario import Scenario
from rundgang.core.simulation.surer import STEPS, Search, Wish, surer
from rundgang.core.simulation.worth import changes_for, worth_of
from rundgang.jobs.islands import ISLAND_SEED, Exchange, read, stored
from rundgang.jobs.requests import SearchRequest, add_step, is_asked_to_stop, last_arrangement, last_step, state_of
from rundgang.settings import Settings
from rundgang.store.plans import Made, StoredVersion
from rundgang.store.repository import Repository
from rundgang.store.tables import SearchStep

STEP_SECONDS = 0.5
"""Progress is stored so often."""

CALL_SECONDS = 2.0
"""Workers that have come are asked to search for the same so often."""

KEEP_SECONDS = 2.0
"""The order of the lots is stored so often, where it has become better."""


def run_search(
    engine: Engine,
    job: int,
    request: SearchRequest,
    aborted: Callable[[], bool],
    clock: Clock | None = None,
    call_islands: Callable[[], bool] | None = None,
) -> None:
    """Search for a plan and store it as a version; a job run twice stores it once.

    Parameters
    ----------
    engine : Engine
    job : int
        Number of the job in the queue.
    request : SearchRequest
    aborted : callable
        Whether the worker is to stop at once, leaving the job to another.
    clock : Clock, optional
        The deployment's; the real time by default.
    call_islands : callable, optional
        Called every so often, to ask workers that have come to search for the same; whether any has been asked.

    Raises
    ------
    AbortedError
        The worker is to stop: the search is not at its end.
    """
    with Session(engine) as session:
        step = last_step(session, job)
        if step is not None and step.state in {"done", "failed"}:
            return
        watcher = _Watcher(session, job, request, step.elapsed_s if step else 0.0, aborted, call_islands)
        add_step(session, watcher.step("running"))
        try:
            version, said = _end(session, job, request, watcher, clock or Clock())
        except AbortedError:
            raise
        except RundgangError as error:
            add_step(session, watcher.step("failed", text=str(error)))
        except Exception:
            session.rollback()
            add_step(session, watcher.step("failed", text=BROKE_OFF))
            raise
        else:
            add_step(session, watcher.step("done", said, version))


class AbortedError(Exception):
    """The worker is shutting down; the job goes back to the queue."""


BROKE_OFF = "The search broke off by an error of its own; nothing was stored. What went wrong is in the worker's log."


class _Watcher:
    """Stores steps while a search runs, and stops it when its time is up or someone asks."""

    def __init__(
        self,
        session: Session,
        job: int,
        request: SearchRequest,
        before_s: float,
        aborted: Callable[[], bool],
        call_islands: Callable[[], bool] | None,
    ) -> None:
        self.session, self.job, self.request, self.aborted = session, job, request, aborted
        self.call_islands, self.called = call_islands, -CALL_SECONDS
        self.begin = time.monotonic() - before_s
        self.stepped = self.kept = 0.0
        self.kept_cost = float("inf")
        self.progress: Progress | None = None
        self.asked = self.has_islands = False
        self.exchange = Exchange(session, job, 0)

    @property
    def elapsed(self) -> float:
        """Seconds, those of workers before this one included."""
        return time.monotonic() - self.begin

    def step(
        self, state: str, text: str = "", version: int | None = None, arrangement: Arrangement | None = None
    ) -> SearchStep:
        """A step as it stands now."""
        found = self.progress
        return SearchStep(
            job_id=self.job,
            state=state,
            text=text,
            elapsed_s=self.elapsed,
            evaluated=found.evaluated if found else 0,
            cost=found.cost if found else None,
            bound=found.bound if found else None,
            version=version,
            arrangement=stored(arrangement) if arrangement else None,
        )

    @property
    def nothing_better(self) -> str:
        """What is said of a search that has not become a version."""
        tried = self.progress.evaluated if self.progress else 0
        return f"Nothing better than version {self.request.start} was found; orders tried: {tried:,}."

    def is_time(self) -> bool:
        """Whether it is time to store how far the search has come; AbortedError where the worker is to stop."""
        if self.aborted():
            raise AbortedError
        now = time.monotonic()
        if now - self.stepped < STEP_SECONDS:
            return False
        self.stepped = now
        return True

    def watch(self, progress: Progress, arrangement: Callable[[], Arrangement]) -> Arrangement | None:
        """Store the progress every so often, with the order where it has become better; a better one of an island."""
        self.progress = progress
        if not self.is_time():
            return None
        now = time.monotonic()
        keep = now - self.kept >= KEEP_SECONDS and progress.cost < self.kept_cost
        if keep:
            self.kept, self.kept_cost = now, progress.cost
        add_step(self.session, self.step("running", arrangement=arrangement() if keep else None))
        self.asked = is_asked_to_stop(self.session, self.job)
        if self.call_islands and now - self.called >= CALL_SECONDS:
            self.called, self.has_islands = now, self.call_islands()
        return self.exchange.tell(progress, arrangement) if self.has_islands else None

    def stop(self, _: Progress) -> bool:
        """Whether the search's time is up, or someone has asked."""
        return self.asked or self.elapsed >= self.request.seconds


def _same_runs(plan: PlantPlan, other: PlantPlan) -> bool:
    return {line.line: line.runs for line in plan.plans} == {line.line: line.runs for line in other.plans}


class _Asked(NamedTuple):
    """What a search is asked for, as it stands in the database: the day, the floor's plans, and where to begin."""

    scenario: Scenario
    basis: dict[str, int]
    floor: tuple[LinePlan, ...]
    begin: int | None
    start: StoredVersion | None

    def planned(self, request: SearchRequest, seed: int, **more: Any) -> PlantPlan:
        """The plan that the search finds."""
        start = self.start.plan.plans if self.start else ()
        return plan_plant(
            self.scenario,
            lines=request.lines or None,
            kept=start,
            published=self.floor,
            begin_from=start if request.start else (),
            weights=request.weights,
            seed=seed,
            threads=Settings().search_threads,
            **more,
        )


def _asked(store: Repository, request: SearchRequest, clock: Clock) -> _Asked:
    basis = {
        "book": store.books.newest().number,
        "library": store.libraries.number(),
        "opening": store.openings.newest().number,
    }
    scenario = store.windows.scenario(basis["book"], basis["library"], basis["opening"])
    begin = request.start or (store.plans.newest_number() if request.lines else None)
    floor = store.plans.floor_plans()
    minute = clock.minute_of(scenario.window.starts_at)
    scenario = opened(scenario, floor, minute) if minute > 0 else scenario
    return _Asked(scenario, basis, floor, begin, store.plans.version(begin) if begin else None)


def _end(session: Session, job: int, request: SearchRequest, watcher: _Watcher, clock: Clock) -> tuple[int | None, str]:
    """The version that a search has become, if any; and what is said of it otherwise."""
    if request.wish:
        return None, _surer(session, job, request, request.wish, watcher, clock)
    if request.compares:
        return None, _compared(session, job, request, request.compares, watcher, clock)
    found = _searched(session, job, request, watcher, clock)
    return (found.note.number, "") if found else (None, watcher.nothing_better)


def _surer(
    session: Session, job: int, request: SearchRequest, wish: Wish, watcher: _Watcher, clock: Clock
) -> str:  # fmt: skip
    """Store plans that are surer, as they are found; in words how many. The time is for all of them together."""
    store = Repository(session, request.window)
    store.windows.refuse_over()
    asked, begin = _asked(store, request, clock), store.plans.version(request.start)
    search = _searching(session, asked, request, watcher, wish.line, request.seconds / STEPS)
    name, count = asked.scenario.line(wish.line).name, 0
    lorries = ", ".join(wave.name for wave in asked.scenario.waves if wave.id in wish.waves) or "all lorries"
    for found in surer(asked.scenario, begin.plan, asked.floor, wish, search):
        note = f"{name} surer: {100 * found.odds:.0f} % for {lorries}"
        made = Made(**asked.basis, author=request.author, note=note, parent=begin.note.number)
        store.sure_plans.add(job, found, made)
        count += 1
        if watcher.asked:
            break
    return f"{name}: {count} plans to choose from, on the page Odds."


def _compared(
    session: Session, job: int, request: SearchRequest, line: str, watcher: _Watcher, clock: Clock
) -> str:  # fmt: skip
    """Store what changes would be worth, as they are found; in words how many. The time is for all of them together."""
    store = Repository(session, request.window)
    store.windows.refuse_over()
    asked, begin = _asked(store, request, clock), store.plans.version(request.start)
    changes = changes_for(asked.scenario, line)
    search = _searching(session, asked, request, watcher, line, request.seconds / len(changes))
    count = 0
    for change in changes:
        found = None if watcher.asked else worth_of(asked.scenario, begin.plan, line, change, search)
        if found:
            store.sure_plans.add_worth(job, found)
            count += 1
    return f"{asked.scenario.line(line).name}: {count} changes compared, on the page Odds."


def _searching(
    session: Session, asked: _Asked, request: SearchRequest, watcher: _Watcher, line: str, seconds: float
) -> Search:  # fmt: skip
    """A search for a line's plan that takes so many seconds each time, stores that it runs, and ends when asked to."""

    def search(scenario: Scenario, plan: PlantPlan) -> PlantPlan:
        since = watcher.elapsed

        def watch(_: Progress, __: Callable[[], Arrangement]) -> None:
            if watcher.is_time():
                add_step(session, watcher.step("running"))
                watcher.asked = is_asked_to_stop(session, watcher.job)

        return plan_plant(
            scenario,
            lines=(line,),
            kept=plan.plans,
            published=asked.floor,
            begin_from=plan.plans,
            weights=plan.weights,
            seed=request.seed,
            threads=Settings().search_threads,
            watch=watch,
            stop=lambda _: watcher.asked or watcher.elapsed - since >= seconds,
        )

    return search


def _searched(
    session: Session, job: int, request: SearchRequest, watcher: _Watcher, clock: Clock
) -> StoredVersion | None:
    """The version that a search has become; None where it found nothing better than the one that it began from."""
    store = Repository(session, request.window)
    known = store.plans.of_job(job)
    if known:
        return known
    store.windows.refuse_over()
    asked, found = _asked(store, request, clock), last_arrangement(session, job)
    plan = asked.planned(
        request,
        request.seed,
        start=read(found) if found else None,
        stop=watcher.stop,
        effort=proving_time(request.seconds - watcher.elapsed),
        watch=watcher.watch,
    )
    if asked.start and request.start and _same_runs(plan, asked.start.plan):
        return None
    made = Made(
        **asked.basis,
        author=request.author,
        note=f"searched for {watcher.elapsed:.0f} s",
        parent=asked.begin,
        job=job,
    )
    return store.plans.add(plan, made, *checked(asked.scenario, plan))


def run_island(
    engine: Engine, job: int, island: int, request: SearchRequest, aborted: Callable[[], bool], clock: Clock
) -> None:
    """Search for the same as a job does, with other random moves, and tell each other, as long as that job runs.

    Raises
    ------
    AbortedError
        The worker is to stop.
    """
    begin = looked = time.monotonic()
    with Session(engine) as session:
        exchange, runs = Exchange(session, job, island), state_of(session, job).state == "running"

        def watch(progress: Progress, arrangement: Callable[[], Arrangement]) -> Arrangement | None:
            if aborted():
                raise AbortedError
            return exchange.tell(progress, arrangement)

        def stop(_: Progress) -> bool:
            nonlocal looked, runs
            now = time.monotonic()
            if now - looked >= STEP_SECONDS:
                looked, runs = now, state_of(session, job).state == "running"
            return not runs or now - begin >= request.seconds

        if runs:
            asked = _asked(Repository(session, request.window), request, clock)
            asked.planned(request, request.seed + island * ISLAND_SEED, stop=stop, watch=watch)
