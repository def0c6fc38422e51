"""The routes of searches: asked for, watched as they run, stopped and kept."""

import asyncio
from collections.abc import AsyncIterator

import psycopg
from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import StreamingResponse
from sqlmodel import Session

from rundgang.api.deps import Number, Planned, Store
from rundgang.jobs.queue import defer_search
from rundgang.jobs.requests import CHANNEL, SearchRequest, SearchState, ask_to_stop, running_searches, state_of

router = APIRouter(prefix="/api/searches")

MOST_STREAMS = 24
"""Each stream holds a connection of the database; so many are served at once."""

BEAT_SECONDS = 10.0
"""A stream in which nothing happens says so often that it lives."""


@router.post("", status_code=202)
def ask(http: Request, store: Planned, request: SearchRequest) -> SearchState:
    """Ask for a search; a worker takes it up, and its end becomes a version."""
    scenario = store.windows.scenario()
    for line in request.lines:
        scenario.line(line)
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


@router.get("/{job}/events", response_class=StreamingResponse)
async def events(request: Request, job: Number) -> StreamingResponse:
    """A stream of states, one whenever the search has come further, until it ends."""
    await asyncio.to_thread(_state, request, job)
    if request.app.state.streams >= MOST_STREAMS:
        raise HTTPException(503, f"{MOST_STREAMS} searches are watched already. Try again in a moment.")
    return StreamingResponse(_events(request, job), media_type="text/event-stream")


def _state(request: Request, job: int) -> SearchState:
    with Session(request.app.state.engine) as session:
        return state_of(session, job)


async def _events(request: Request, job: int) -> AsyncIterator[str]:
    url = request.app.state.database_url.replace("+psycopg", "")
    request.app.state.streams += 1
    try:
        async with await psycopg.AsyncConnection.connect(url, autocommit=True) as connection:
            await connection.execute(f"LISTEN {CHANNEL}")
            while True:
                found = await asyncio.to_thread(_state, request, job)
                yield f"data: {found.model_dump_json()}\n\n"
                if found.state in {"done", "failed"} or await request.is_disconnected():
                    return
                told = False
                async for note in connection.notifies(timeout=BEAT_SECONDS, stop_after=1):
                    told = told or note.payload == str(job)
                if not told:
                    yield ": still there\n\n"
    finally:
        request.app.state.streams -= 1
