"""The routes of searches: asked for, looked at, stopped and kept."""

from fastapi import APIRouter, Request

from rundgang.api.deps import Number, Planned, Store
from rundgang.core.simulation.surer import refuse_unknown
from rundgang.jobs.queue import defer_search
from rundgang.jobs.requests import SearchRequest, SearchState, ask_to_stop, running_searches, state_of
from rundgang.store.repository import Repository

router = APIRouter(prefix="/api/searches")


@router.post("", status_code=202)
def ask(http: Request, store: Planned, request: SearchRequest) -> SearchState:
    """Ask for a search; a worker takes it up, and its end becomes a version, or is to be chosen from."""
    return asked_for(http, store, request)


def asked_for(http: Request, store: Repository, request: SearchRequest) -> SearchState:
    """A search that is put into the queue for the newest window; UnknownItemError where there is not what it is for."""
    scenario = store.windows.scenario()
    for line in (*request.lines, *((request.compares,) if request.compares else ())):
        scenario.line(line)
    if request.wish:
        refuse_unknown(scenario, request.wish)
    if request.start is not None:
        store.plans.version(request.start)
    job = defer_search(
        http.app.state.database_url,
        http.app.state.engine,
        request.model_copy(update={"window": store.windows.number()}),
    )
    return state_of(store.session, job)


@router.get("")
def running(store: Store) -> tuple[SearchState, ...]:
    """The searches that wait or run."""
    return running_searches(store.session)


@router.get("/{job}")
def state(store: Store, job: Number) -> SearchState:
    """How far a search has come."""
    return state_of(store.session, job)


@router.post("/{job}/stop", status_code=202)
def stop(store: Store, job: Number) -> SearchState:
    """Ask a search to stop and keep the best it has."""
    ask_to_stop(store.session, job)
    return state_of(store.session, job)
