"""HTTP as the server speaks it, with an end to its patience.

Whoever has not sent a whole request, or does not take an answer, within a while is cut off; so is one whose headers
grow without end. What is no HTTP is refused as any other mistake is.
"""

import asyncio
from asyncio import TimerHandle

from starlette.datastructures import MutableHeaders
from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

from rundgang.api.guard import dress, problem

REQUEST_S = 30.0
"""A request has so long to come in, headers and body."""

ANSWER_S = 30.0
"""So long nothing of an answer may be taken."""

MOST_HEADER_BYTES = 64 * 1024


class PatientProtocol(HttpToolsProtocol):
    """A connection."""

    _coming: TimerHandle | None = None
    _going: TimerHandle | None = None
    _header_bytes = 0

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]  # noqa: D102
        super().connection_made(transport)
        self._coming = self.loop.call_later(REQUEST_S, transport.abort)

    def connection_lost(self, exc: Exception | None) -> None:  # noqa: D102
        self._stop(self._coming)
        self._stop(self._going)
        super().connection_lost(exc)

    def on_message_begin(self) -> None:  # noqa: D102
        super().on_message_begin()
        self._stop(self._coming)
        self._coming = self.loop.call_later(REQUEST_S, self.transport.abort)
        self._header_bytes = 0

    def on_url(self, url: bytes) -> None:  # noqa: D102
        super().on_url(url)
        self._count(len(url))

    def on_header(self, name: bytes, value: bytes) -> None:  # noqa: D102
        super().on_header(name, value)
        self._count(len(name) + len(value))

    def on_message_complete(self) -> None:  # noqa: D102
        self._stop(self._coming)
        super().on_message_complete()

    def pause_writing(self) -> None:  # noqa: D102
        super().pause_writing()
        self._going = self.loop.call_later(ANSWER_S, self.transport.abort)

    def resume_writing(self) -> None:  # noqa: D102
        self._stop(self._going)
        super().resume_writing()

    def send_400_response(self, msg: str) -> None:
        """Refuse what is no HTTP, and close the connection."""
        answer = problem(400, f"{msg} Allowed: HTTP/1.1 with at most {MOST_HEADER_BYTES // 1024} KB of headers.")
        dress(MutableHeaders(raw=answer.raw_headers), "none")
        lines = [b"HTTP/1.1 400 Bad Request", *(name + b": " + value for name, value in answer.raw_headers)]
        self.transport.write(b"\r\n".join([*lines, b"connection: close", b"", bytes(answer.body)]))
        self.transport.close()

    def _count(self, more: int) -> None:
        self._header_bytes += more
        if self._header_bytes > MOST_HEADER_BYTES:
            self.transport.abort()

    @staticmethod
    def _stop(timer: TimerHandle | None) -> None:
        if timer:
            timer.cancel()
