"""What a search is asked for, and how far it has come: the core of the jobs, without a queue."""

from datetime import datetime
from typing import Any, Literal, NamedTuple

from pydantic import Field
from sqlmodel import Session, col, func, select, text

from rundgang.core.errors import UnknownItemError
from rundgang.core.model import Id, Model, Text
from rundgang.core.planning.objective import Weights, how_near
from rundgang.core.simulation.surer import Wish
from rundgang.store.tables import SearchFind, SearchStep, SearchStop

CHANNEL = "rundgang_search"
"""Notified with a job's number whenever one of its steps is stored."""

LOST_AFTER_S = 5.0
"""A worker not heard of for so long is taken for dead, and its job is put back."""

State = Literal["waiting", "running", "done", "failed"]


class SearchRequest(Model):
    """What a search is for.

    Attributes
    ----------
    seconds : float
        How long it may take, all workers that take it up counted.
    lines : tuple of str
        The lines to plan; none means all. The others stay as in `start`, or as in the newest version.
    start : int or None
        A version to begin from; None begins from the rule.
    window : int or None
        The window that it is for; None means the newest.
    wish : Wish or None
        Lorries that are to be surer, where it is for that: it becomes no version, but plans to choose from.
    compares : str or None
        The line of which changes are compared, where it is for that: it becomes no version either.
    """

    seconds: float = Field(default=20, ge=0, le=3_600)
    seed: int = Field(default=0, ge=0, le=2_000_000_000)
    lines: tuple[Id, ...] = Field(default=(), max_length=50)
    start: int | None = Field(default=None, ge=1, le=2_000_000_000)
    window: int | None = Field(default=None, ge=1, le=2_000_000_000)
    weights: Weights = Weights()
    author: Text = Field(default="planner", min_length=1, max_length=60)
    wish: Wish | None = None
    compares: Id | None = None


class SearchState(Model):
    """How far a search has come.

    Attributes
    ----------
    workers : int
        That search for it at this moment.
    cost, bound : float or None
        Of the best plan so far, and what every plan costs at least, points.
    version : int or None
        The version that it has become.
    how_near : str
        How near that is to the best possible, in words.
    text : str
        Why it failed; or, where it has become no version, why not.
    """

    job: int
    state: State
    elapsed_s: float = 0
    evaluated: int = 0
    workers: int = 0
    cost: float | None = None
    bound: float | None = None
    how_near: str = ""
    version: int | None = None
    text: str = ""
    request: SearchRequest
    asked_at: datetime | None = None


def add_step(session: Session, step: SearchStep) -> None:
    """Store a step and tell whoever listens."""
    session.add(step)
    session.flush()
    session.execute(text("SELECT pg_notify(:channel, :job)"), {"channel": CHANNEL, "job": str(step.job_id)})
    session.commit()


def last_step(session: Session, job: int) -> SearchStep | None:
    """The newest step of a search."""
    query = select(SearchStep).where(SearchStep.job_id == job)
    return session.exec(query.order_by(col(SearchStep.id).desc()).limit(1)).first()


def last_arrangement(session: Session, job: int) -> dict[str, Any] | None:
    """The order of lots that a search had stored last, by line."""
    query = select(SearchStep).where(SearchStep.job_id == job, col(SearchStep.arrangement).is_not(None))
    found = session.exec(query.order_by(col(SearchStep.id).desc()).limit(1)).first()
    return found.arrangement if found else None


def ask_to_stop(session: Session, job: int) -> None:
    """Ask a search to stop and keep what it has."""
    state_of(session, job)
    session.add(SearchStop(job_id=job))
    session.commit()


def is_asked_to_stop(session: Session, job: int) -> bool:
    """Whether someone has asked a search to stop."""
    return session.exec(select(SearchStop.id).where(SearchStop.job_id == job).limit(1)).first() is not None


class Others(NamedTuple):
    """The islands beside a search's own job: how many work now, and how many orders all have tried."""

    working: int
    evaluated: int


def others_of(session: Session, job: int) -> Others:
    """The islands beside a search's own job."""
    query = (
        select(func.max(SearchFind.evaluated), func.max(SearchFind.created_at) > _just_now())
        .where(SearchFind.job_id == job, SearchFind.island != 0)
        .group_by(col(SearchFind.island))
    )
    rows = session.exec(query).all()
    return Others(working=sum(bool(now) for _, now in rows), evaluated=sum(tried for tried, _ in rows))


def _just_now() -> Any:
    return func.now() - func.make_interval(0, 0, 0, 0, 0, 0, LOST_AFTER_S)


def state_of(session: Session, job: int) -> SearchState:
    """How far a search has come, or UnknownItemError."""
    query = text(
        "SELECT args, status::text, last_heartbeat > now() - make_interval(secs => :lost) AS heard_of "
        "FROM procrastinate_jobs LEFT JOIN procrastinate_workers ON procrastinate_workers.id = worker_id "
        "WHERE procrastinate_jobs.id = :job AND task_name = 'search'"
    )
    row = session.execute(query, {"job": job, "lost": LOST_AFTER_S}).first()
    if row is None:
        raise UnknownItemError("search", str(job))
    step = last_step(session, job)
    request = SearchRequest.model_validate(row.args["request"])
    state = _state(step.state if step else "", row.status, bool(row.heard_of))
    if step is None:
        return SearchState(job=job, state=state, request=request)
    others = others_of(session, job)
    return SearchState(
        job=job,
        state=state,
        elapsed_s=step.elapsed_s,
        evaluated=step.evaluated + others.evaluated,
        workers=others.working + int(state == "running"),
        cost=step.cost,
        bound=step.bound,
        how_near=how_near(step.cost, step.bound) if step.cost is not None and step.bound is not None else "",
        version=step.version,
        text=step.text,
        request=request,
        asked_at=step.created_at,
    )


def _state(step: str, status: str, heard_of: bool) -> State:
    """How a search stands by its last step, by the queue, and by whether its worker lives."""
    if step in {"done", "failed"}:
        return "done" if step == "done" else "failed"
    if status == "todo" or (status == "doing" and not heard_of):
        return "waiting"
    return "running" if status == "doing" else "failed"


def newest_wish(session: Session, window: int, line: str) -> SearchState | None:
    """The newest search for a line's odds in a window; None where there was none."""
    return _newest_with(session, "args->'request'->'wish'->>'line'", window, line)


def newest_comparison(session: Session, window: int, line: str) -> SearchState | None:
    """The newest search that compares changes of a line in a window; None where there was none."""
    return _newest_with(session, "args->'request'->>'compares'", window, line)


def _newest_with(session: Session, what: str, window: int, line: str) -> SearchState | None:
    query = text(
        f"SELECT id FROM procrastinate_jobs WHERE task_name = 'search' AND {what} = :line "  # noqa: S608  (a constant)
        "AND (args->'request'->>'window')::int = :window ORDER BY id DESC LIMIT 1"
    )
    row = session.execute(query, {"line": line, "window": window}).first()
    return state_of(session, row.id) if row else None


def running_searches(session: Session) -> tuple[SearchState, ...]:
    """The searches that wait or run, oldest first."""
    query = text(
        "SELECT id FROM procrastinate_jobs WHERE task_name = 'search' AND status::text IN ('todo', 'doing') ORDER BY id"
    )
    return tuple(state_of(session, row.id) for row in session.execute(query).all())
