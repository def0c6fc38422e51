"""What stands before every route: size of bodies, origin of changes, and strict response headers."""

import secrets

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from rundgang.core.model import Model
from rundgang.formats.orders_csv import MAX_BYTES

MAX_BODY = MAX_BYTES + 1024
DRAINED = 256 * 1024 * 1024
"""So many bytes of an oversized body are still read and dropped, so that the client sees the answer."""

SAFE_METHODS = {"GET", "HEAD", "OPTIONS"}
HEADERS = {
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Permissions-Policy": "camera=(), geolocation=(), microphone=(), payment=(), usb=()",
}


class Problem(Model):
    """An error as every route answers it, `application/problem+json` (RFC 9457).

    Attributes
    ----------
    title : str
        What is wrong and what is allowed, for people.
    faults : tuple of str
        Each fault by itself, where there are several.
    asks : bool
        Whether it is a question: the same is taken once it is confirmed.
    """

    status: int
    title: str
    faults: tuple[str, ...] = ()
    asks: bool = False


PROBLEM = "application/problem+json"


def problem(status: int, title: str, faults: list[str] | None = None, *, asks: bool = False) -> JSONResponse:
    """An error as every route answers it."""
    body = Problem(status=status, title=title, faults=tuple(faults or ()), asks=asks)
    return JSONResponse(body.model_dump(mode="json"), status, media_type=PROBLEM)


class BodyLimit:
    """Refuses a body over `MAX_BODY` with 413, whatever its headers claim."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:  # noqa: D102
        if scope["type"] != "http" or scope["method"] in SAFE_METHODS:
            await self.app(scope, receive, send)
            return
        parts: list[bytes] = []
        size, more = 0, True
        while more and size <= DRAINED:
            message = await receive()
            if message["type"] == "http.disconnect":
                return
            size += len(message.get("body", b""))
            if size <= MAX_BODY:
                parts.append(message.get("body", b""))
            more = message.get("more_body", False)
        if size > MAX_BODY:
            found = f"{size / 1048576:.1f} MB" if not more else f"over {DRAINED // 1048576} MB"
            text = f"The upload has {found}; allowed: at most {MAX_BYTES // 1048576} MB. Nothing was changed."
            await problem(413, text)(scope, receive, send)
            return
        whole = b"".join(parts)
        sent = False

        async def replay() -> Message:
            nonlocal sent
            if sent:
                return await receive()
            sent = True
            return {"type": "http.request", "body": whole, "more_body": False}

        await self.app(scope, replay, send)


class SameOrigin:
    """Refuses with 403 changes that another site's page asks for."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:  # noqa: D102
        if scope["type"] == "http" and scope["method"] not in SAFE_METHODS and _foreign(Headers(scope=scope)):
            await problem(403, "Changes are taken from Rundgang's own pages only.")(scope, receive, send)
            return
        await self.app(scope, receive, send)


class StrictHeaders:
    """Dresses every answer in strict headers; a page's own style is told by a nonce, in the request's state."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:  # noqa: D102
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        nonce = scope.setdefault("state", {})["nonce"] = secrets.token_urlsafe(16)

        async def dressed(message: Message) -> None:
            if message["type"] == "http.response.start":
                dress(MutableHeaders(scope=message), nonce)
            await send(message)

        await self.app(scope, receive, dressed)


def dress(headers: MutableHeaders, nonce: str) -> None:
    """Add the strict headers."""
    for name, value in HEADERS.items():
        headers[name] = value
    headers["Content-Security-Policy"] = (
        "default-src 'none'; script-src 'self'; connect-src 'self'; font-src 'self'; img-src 'self' data:; "
        f"style-src 'self' 'nonce-{nonce}'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
    )
    headers.setdefault("Cache-Control", "no-store")


def _foreign(headers: Headers) -> bool:
    origin = headers.get("origin")
    other_site = headers.get("sec-fetch-site", "none") not in {"same-origin", "none"}
    return other_site or (origin is not None and origin.split("://")[-1] != headers.get("host"))
