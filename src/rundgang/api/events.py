"""What happens, told to every page that listens: from one connection of the database for the whole process."""

import asyncio
from collections.abc import AsyncIterator, Iterator
from contextlib import contextmanager, suppress

import psycopg
import structlog
from fastapi import APIRouter, HTTPException, Request
from fastapi.responses import StreamingResponse
from sqlalchemy import Engine
from sqlmodel import Session

from rundgang.core.errors import UnknownItemError
from rundgang.jobs.requests import CHANNEL, state_of
from rundgang.store.database import CONNECT_SECONDS
from rundgang.store.readings import CHANNEL as READINGS

router = APIRouter(prefix="/api/events")

CHANGED = "rundgang_changed"
"""Notified by the database with what has changed."""

ALL = "all"
"""What may have changed while nobody listened."""

MOST_STREAMS = 500

MOST_WAITING = 100
"""A page that has not taken so many is told that all may have changed, instead of each."""

BEAT_SECONDS = 10.0
"""A stream in which nothing happens says so often that it lives."""

AGAIN_S = 1.0
"""A connection that is lost is sought again after so long."""

log = structlog.get_logger()


class TooManyStreamsError(HTTPException):
    """More listen than can be told."""

    def __init__(self) -> None:
        super().__init__(503, f"{MOST_STREAMS} browsers listen already. Try again in a moment.")


class Events:
    """Listens to the database for as long as anybody listens here."""

    def __init__(self, url: str, engine: Engine) -> None:
        self._url, self._engine = url.replace("+psycopg", ""), engine
        self._waiting = set[asyncio.Queue[str | None]]()
        self._follows: asyncio.Task[None] | None = None

    def refuse_too_many(self) -> None:
        """TooManyStreamsError where as many listen as can be told."""
        if len(self._waiting) >= MOST_STREAMS:
            raise TooManyStreamsError

    @contextmanager
    def heard(self) -> Iterator[asyncio.Queue[str | None]]:
        """The events from now on, as a page is told them; None where there are no more."""
        own = asyncio.Queue[str | None](MOST_WAITING)
        self._waiting.add(own)
        if self._follows is None or self._follows.done():
            self._follows = asyncio.create_task(self._follow())
        else:
            own.put_nowait(_event("listening", ""))
        try:
            yield own
        finally:
            self._waiting.discard(own)
            if not self._waiting and self._follows:
                self._follows.cancel()

    def end(self) -> None:
        """Tell nothing more, and let all streams end."""
        self._tell(None)

    async def _follow(self) -> None:
        """Tell all what the database tells, over a connection that is sought again where it is lost."""
        lost = False
        while True:
            with suppress(psycopg.Error, OSError):
                async with await psycopg.AsyncConnection.connect(
                    self._url, autocommit=True, connect_timeout=CONNECT_SECONDS
                ) as connection:
                    for channel in (CHANGED, CHANNEL, READINGS):
                        await connection.execute(f"LISTEN {channel}")
                    self._tell(_event("changed", ALL) if lost else _event("listening", ""))
                    async for note in connection.notifies():
                        await self._take(note)
            lost = True
            log.error("the database tells nothing; sought again")
            await asyncio.sleep(AGAIN_S)

    async def _take(self, note: psycopg.Notify) -> None:
        if note.channel == CHANGED:
            self._tell(_event("changed", note.payload))
            return
        if note.channel == READINGS:
            self._tell(_event("readings", note.payload))
            return
        with suppress(UnknownItemError):
            self._tell(_event("search", await asyncio.to_thread(self._state, int(note.payload))))

    def _state(self, job: int) -> str:
        with Session(self._engine) as session:
            return state_of(session, job).model_dump_json()

    def _tell(self, event: str | None) -> None:
        for queue in self._waiting:
            if queue.full():
                while not queue.empty():
                    queue.get_nowait()
                queue.put_nowait(_event("changed", ALL))
            queue.put_nowait(event)


def _event(kind: str, data: str) -> str:
    """As an event stream writes it (WHATWG HTML, section 9.2)."""
    lines = "".join(f"data: {line}\n" for line in data.rstrip("\n").split("\n"))
    return f"event: {kind}\n{lines}\n"


@router.get("", response_class=StreamingResponse)
async def events(request: Request) -> StreamingResponse:
    """A stream of what has changed, `changed`, and of how far searches have come, `search`; one does for a browser."""
    told: Events = request.app.state.events
    told.refuse_too_many()
    return StreamingResponse(_stream(told), media_type="text/event-stream")


async def _stream(told: Events) -> AsyncIterator[str]:
    with told.heard() as queue:
        event: str | None = ""
        while event is not None:
            yield event
            try:
                event = await asyncio.wait_for(queue.get(), BEAT_SECONDS)
            except TimeoutError:
                event = ": still there\n\n"
