"""Answers of reads, kept as bytes for as long as nothing has been written: built once for all who ask.

What an answer depends on is told by the newest row of every table and, as plans go on with the clock, by the minute.
So an answer is kept with both, carries a name for them (`ETag`, RFC 9110, section 8.8.3), and a browser that has it
already is told so in a few bytes. What time it is stands in a header beside it, `Rundgang-Now`.
"""

import asyncio
from collections import OrderedDict
from datetime import datetime
from hashlib import blake2b
from typing import NamedTuple

from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError
from starlette.datastructures import Headers
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from rundgang.store.rows import newest_rows

MOST_BYTES = 64 * 1024 * 1024
"""So much is kept; what was not asked for longest goes first."""

LARGEST = 8 * 1024 * 1024
"""A larger answer is not kept, bytes."""

OF_THE_MOMENT = (
    "/api/code.svg",
    "/api/health",
    "/api/events",
    "/api/searches",
    "/api/odds/surer",
    "/api/odds/worth",
    "/api/orders/held",
    "/api/instruments",
    "/api/readings",
    "/api/now",
    "/api/rounds",
    "/api/lots",
    "/api/mock-recalls",
    "/api/quality",
    "/api/account",
    "/api/learning",
    "/api/upkeep",
    "/api/weighing",
    "/api/dispatch",
    "/api/trouble",
    "/api/openapi.json",
)
"""Paths, and all below them, whose answers say how things stand at this very moment, or under which name one came."""


class Kept(NamedTuple):
    """An answer; `state` is what it depends on."""

    state: str
    tag: bytes
    start: Message
    body: bytes


class Remembered:
    """Answers reads from what is kept, where it still holds."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app
        self._kept: OrderedDict[tuple[str, ...], Kept] = OrderedDict()
        self._bytes = 0
        self._building: dict[tuple[object, ...], asyncio.Lock] = {}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:  # noqa: D102
        path = scope.get("path", "")
        if scope["type"] != "http" or scope["method"] != "GET" or not _is_kept(path):
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        zipped = "gzip" if "gzip" in headers.get("accept-encoding", "") else ""
        state_of_app = scope["app"].state
        asked = (path, scope["query_string"].decode("latin-1"), headers.get("rundgang-window", ""), zipped)
        try:
            state = await asyncio.to_thread(_state, state_of_app.engine, state_of_app.clock.now())
        except SQLAlchemyError:
            await self.app(scope, receive, send)
            return
        kept = await self._answer(asked, state, scope, receive, send)
        if kept and kept.tag.decode() in headers.get("if-none-match", ""):
            await send(
                {
                    "type": "http.response.start",
                    "status": 304,
                    "headers": [*_named(kept.tag), _said(state_of_app.clock.now())],
                }
            )
            await send({"type": "http.response.body", "body": b""})
        elif kept:
            await send({**kept.start, "headers": [*kept.start["headers"], _said(state_of_app.clock.now())]})
            await send({"type": "http.response.body", "body": kept.body})

    async def _answer(
        self, asked: tuple[str, ...], state: str, scope: Scope, receive: Receive, send: Send
    ) -> Kept | None:
        """What is kept, or is built now and kept; None where it was answered, for it cannot be kept."""
        found = self._known(asked, state)
        if found:
            return found
        # A lock is its loop's: where an application is served by several, each builds an answer by itself.
        building = asyncio.get_running_loop(), *asked
        try:
            async with self._building.setdefault(building, asyncio.Lock()):
                found = self._known(asked, state)
                if found is None:
                    answer = _Answer(send)
                    await self.app(scope, receive, answer.take)
                    found = answer.kept(state, asked)
                    if found:
                        self._keep(asked, found)
        finally:
            self._building.pop(building, None)
        return found

    def _known(self, asked: tuple[str, ...], state: str) -> Kept | None:
        found = self._kept.get(asked)
        if found is None or found.state != state:
            return None
        self._kept.move_to_end(asked)
        return found

    def _keep(self, asked: tuple[str, ...], found: Kept) -> None:
        before = self._kept.pop(asked, None)
        self._bytes += len(found.body) - (len(before.body) if before else 0)
        self._kept[asked] = found
        while self._bytes > MOST_BYTES:
            _, gone = self._kept.popitem(last=False)
            self._bytes -= len(gone.body)


class _Answer:
    """An answer as it is built: held back while it can be kept, handed on where it cannot."""

    def __init__(self, send: Send) -> None:
        self._send, self._parts, self._whole, self._handed_on = send, list[bytes](), False, False
        self._start: Message | None = None

    async def take(self, message: Message) -> None:
        """A part of it."""
        if self._handed_on:
            await self._send(message)
        elif message["type"] == "http.response.start" and message["status"] == 200:
            self._start = message
        elif self._start is None:
            self._handed_on = True
            await self._send(message)
        else:
            self._parts.append(message.get("body", b""))
            self._whole = not message.get("more_body", False)
            if sum(map(len, self._parts)) > LARGEST:
                self._handed_on = True
                await self._send(self._start)
                await self._send({**message, "body": b"".join(self._parts)})

    def kept(self, state: str, asked: tuple[str, ...]) -> Kept | None:
        """The answer, whole; None where it was handed on."""
        if self._start is None or self._handed_on or not self._whole:
            return None
        tag = b'"' + blake2b("|".join((state, *asked)).encode(), digest_size=12).hexdigest().encode() + b'"'
        start = {**self._start, "headers": [*self._start["headers"], *_named(tag)]}
        return Kept(state, tag, start, b"".join(self._parts))


def _state(engine: Engine, now: datetime) -> str:
    """What every answer depends on: the newest row of each table, and the minute."""
    with engine.connect() as connection:
        newest = newest_rows(connection)
    return f"{'.'.join(map(str, newest))}-{now:%Y%m%d%H%M}"


def _said(now: datetime) -> tuple[bytes, bytes]:
    return b"rundgang-now", now.isoformat().encode()


def _named(tag: bytes) -> list[tuple[bytes, bytes]]:
    """The headers by which a browser keeps an answer and asks whether it still holds."""
    return [(b"etag", tag), (b"cache-control", b"private, no-cache"), (b"vary", b"Accept-Encoding, Rundgang-Window")]


def _is_kept(path: str) -> bool:
    return path.startswith("/api/") and not any(path == of or path.startswith(f"{of}/") for of in OF_THE_MOMENT)
