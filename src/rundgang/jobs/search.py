"""One search, from the request to a stored version: takes up where a killed worker left it, and stores its end once."""

import time
from collections.abc import Callable, Mapping
from typing import Any

from sqlalchemy import Engine
from sqlmodel import Session

from rundgang.clock import Clock
from rundgang.core.errors import RundgangError
from rundgang.core.planning.checked import checked
from rundgang.core.planning.lorries import OrderItem
from rundgang.core.planning.model import PlantPlan
from rundgang.core.planning.past import opened
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import Arrangement, Progress, proving_time
from rundgang.jobs.requests import SearchRequest, add_step, is_asked_to_stop, last_arrangement, last_step
from rundgang.store.plans import Made, StoredVersion
from rundgang.store.repository import Repository
from rundgang.store.tables import SearchStep

STEP_SECONDS = 0.5
"""Progress is stored so often."""

KEEP_SECONDS = 2.0
"""The order of the lots is stored so often, where it has become better."""


def run_search(
    engine: Engine, job: int, request: SearchRequest, aborted: Callable[[], bool], clock: Clock | None = None
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

    Raises
    ------
    AbortedError
        The worker is to stop: the search is not at its end.
    """
    with Session(engine) as session:
        step = last_step(session, job)
        if step is not None and step.state in {"done", "failed"}:
            return
        watcher = _Watcher(session, job, request, step.elapsed_s if step else 0.0, aborted)
        add_step(session, watcher.step("running"))
        try:
            found = _searched(session, job, request, watcher, clock or Clock())
        except AbortedError:
            raise
        except RundgangError as error:
            add_step(session, watcher.step("failed", text=str(error)))
        except Exception:
            session.rollback()
            add_step(session, watcher.step("failed", text=BROKE_OFF))
            raise
        else:
            version = found.note.number if found else None
            add_step(session, watcher.step("done", "" if found else watcher.nothing_better, version))


class AbortedError(Exception):
    """The worker is shutting down; the job goes back to the queue."""


BROKE_OFF = "The search broke off by an error of its own; nothing was stored. What went wrong is in the worker's log."


class _Watcher:
    """Stores steps while a search runs, and stops it when its time is up or someone asks."""

    def __init__(
        self, session: Session, job: int, request: SearchRequest, before_s: float, aborted: Callable[[], bool]
    ) -> None:
        self.session, self.job, self.request, self.aborted = session, job, request, aborted
        self.begin = time.monotonic() - before_s
        self.stepped = self.kept = 0.0
        self.kept_cost = float("inf")
        self.progress: Progress | None = None
        self.asked = False

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
            arrangement=_stored(arrangement) if arrangement else None,
        )

    @property
    def nothing_better(self) -> str:
        """What is said of a search that has not become a version."""
        tried = self.progress.evaluated if self.progress else 0
        return f"Nothing better than version {self.request.start} was found; orders tried: {tried:,}."

    def watch(self, progress: Progress, arrangement: Callable[[], Arrangement]) -> None:
        """Store the progress every so often, with the order of lots where it has become better."""
        self.progress = progress
        if self.aborted():
            raise AbortedError
        now = time.monotonic()
        if now - self.stepped < STEP_SECONDS:
            return
        self.stepped = now
        keep = now - self.kept >= KEEP_SECONDS and progress.cost < self.kept_cost
        if keep:
            self.kept, self.kept_cost = now, progress.cost
        add_step(self.session, self.step("running", arrangement=arrangement() if keep else None))
        self.asked = is_asked_to_stop(self.session, self.job)

    def stop(self, _: Progress) -> bool:
        """Whether the search's time is up, or someone has asked."""
        return self.asked or self.elapsed >= self.request.seconds


def _same_runs(plan: PlantPlan, other: PlantPlan) -> bool:
    return {line.line: line.runs for line in plan.plans} == {line.line: line.runs for line in other.plans}


def _stored(arrangement: Arrangement) -> dict[str, Any]:
    return {group: [item.model_dump(mode="json") for item in items] for group, items in arrangement.items()}


def _read(stored: Mapping[str, Any]) -> dict[str, tuple[OrderItem, ...]]:
    return {group: tuple(OrderItem.model_validate(item) for item in items) for group, items in stored.items()}


def _searched(
    session: Session, job: int, request: SearchRequest, watcher: _Watcher, clock: Clock
) -> StoredVersion | None:
    """The version that a search has become; None where it found nothing better than the one that it began from."""
    store = Repository(session)
    known = store.plans.of_job(job)
    if known:
        return known
    book, library, opening = store.books.newest().number, store.libraries.number(), store.openings.newest().number
    scenario = store.windows.scenario(book, library, opening)
    begin = request.start or (store.plans.newest_number() if request.lines else None)
    start = store.plans.version(begin) if begin else None
    floor, found = store.plans.floor_plans(), last_arrangement(session, job)
    minute = clock.minute_of(scenario.window.starts_at)
    scenario = opened(scenario, floor, minute) if minute > 0 else scenario
    plan = plan_plant(
        scenario,
        lines=request.lines or None,
        kept=start.plan.plans if start else (),
        published=floor,
        start=_read(found) if found else None,
        begin_from=start.plan.plans if start and request.start else (),
        weights=request.weights,
        seed=request.seed,
        stop=watcher.stop,
        effort=proving_time(request.seconds - watcher.elapsed),
        watch=watcher.watch,
    )
    if start and request.start and _same_runs(plan, start.plan):
        return None
    made = Made(
        book=book,
        library=library,
        opening=opening,
        author=request.author,
        note=f"searched for {watcher.elapsed:.0f} s",
        parent=begin,
        job=job,
    )
    return store.plans.add(plan, made, *checked(scenario, plan))
