"""The application: routes, guards, errors as clear answers, and the built web client."""

import secrets
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import structlog
from fastapi import FastAPI, Request, Response
from fastapi.exceptions import RequestValidationError
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.responses import FileResponse, HTMLResponse
from starlette.staticfiles import StaticFiles

from rundgang.api import (
    account,
    balances,
    building,
    calculators,
    calendar,
    codes,
    conditions,
    dispatch,
    dough,
    events,
    explanations,
    happened,
    inspections,
    instruments,
    learning,
    library,
    lots,
    materials,
    mock_recalls,
    now,
    odds,
    openings,
    orders,
    plan_files,
    plans,
    plant,
    quality,
    readings,
    rounds,
    searches,
    stock,
    stops,
    trouble,
    upkeep,
    versions,
    walk,
    weighing,
    window,
    windows,
)
from rundgang.api.ahead import asked_first, links
from rundgang.api.deps import ChangedSinceError, NotCsvError, PlanChangedError
from rundgang.api.failures import answer_failures
from rundgang.api.guard import PROBLEM, BodyLimit, Problem, SameOrigin, StrictHeaders, dress, problem
from rundgang.api.library import NotALibraryFileError
from rundgang.api.remembered import Remembered
from rundgang.core.errors import RundgangError, UnknownItemError
from rundgang.core.plausible import DoubtfulError
from rundgang.core.rolling.ahead import FarEnoughError
from rundgang.formats.fault_words import in_words
from rundgang.formats.orders_csv import TooLargeError
from rundgang.jobs.founding import NotEmptyError
from rundgang.jobs.libraries import ChangedMeanwhileError
from rundgang.settings import Settings
from rundgang.store.database import connect_for_requests
from rundgang.store.plants import NotTheDemoError
from rundgang.store.rows import NoWindowError, WindowOverError

RESOURCES = (
    window, orders, openings, plans, plan_files, versions, explanations, materials, dough, balances, library,
    mock_recalls, building, calculators, calendar, codes,
    conditions, dispatch, events, happened, inspections, instruments, lots, now, plant, quality, readings, rounds,
    searches, stock, stops, trouble, walk, weighing, windows, account, learning,
    upkeep, odds,
)  # fmt: skip

STATUS: Mapping[type[RundgangError], int] = {
    UnknownItemError: 404,
    NoWindowError: 404,
    TooLargeError: 413,
    NotCsvError: 415,
    NotALibraryFileError: 415,
    ChangedMeanwhileError: 409,
    ChangedSinceError: 409,
    PlanChangedError: 409,
    WindowOverError: 409,
    FarEnoughError: 409,
    NotEmptyError: 409,
    NotTheDemoError: 409,
    window.NoRoomError: 507,
}
OWN_FILES = {
    "favicon.svg": "image/svg+xml",
    "sw.js": "text/javascript",
    "manifest.webmanifest": "application/manifest+json",
}
"""What the client has beside its page and assets, by name."""

REFUSED: dict[str, Any] = {"model": Problem, "description": "Refused, with what is allowed; nothing was changed."}
FAILED: dict[str, Any] = {"model": Problem, "description": "Failed for now; nothing was changed."}
log = structlog.get_logger()


class Application(FastAPI):
    """The application, whose document says that what is wrong is answered as a problem."""

    def openapi(self) -> dict[str, Any]:  # noqa: D102
        document = super().openapi()
        for operation in (one for path in document["paths"].values() for one in path.values()):
            for answer in (operation["responses"][of] for of in ("4XX", "5XX") if of in operation["responses"]):
                answer["content"] = {PROBLEM: next(iter(answer["content"].values()))}
        return document


def create_app(database_url: str, settings: Settings, data: Path | None = None) -> FastAPI:
    """The application over a database whose tables are up to date, and which has its data in a folder here, if any."""
    app = Application(title="Rundgang", version="0.1.0", docs_url=None, redoc_url=None, openapi_url="/api/openapi.json")
    app.state.engine = connect_for_requests(database_url)
    app.state.database_url = database_url
    app.state.events = events.Events(database_url, app.state.engine)
    app.state.clock = settings.clock()
    app.state.inbox = settings.inbox
    app.state.settings = settings
    app.state.data = data
    for resource in RESOURCES:
        app.include_router(resource.router, responses={"4XX": REFUSED, "5XX": FAILED})
    app.add_middleware(SameOrigin)
    app.add_middleware(BodyLimit)
    app.add_middleware(GZipMiddleware, minimum_size=1_000)
    app.add_middleware(Remembered)
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=settings.hosts)
    app.add_middleware(StrictHeaders)
    _answer_errors(app)
    answer_failures(app)
    _serve_client(app, settings.web)
    return app


def _answer_errors(app: FastAPI) -> None:
    @app.exception_handler(RundgangError)
    def refused(request: Request, error: RundgangError) -> Response:
        status = next((code for kind, code in STATUS.items() if isinstance(error, kind)), 422)
        faults = list(getattr(error, "faults", ()))
        return problem(status, str(error).split(":\n")[0], faults, asks=isinstance(error, DoubtfulError))

    @app.exception_handler(RequestValidationError)
    def malformed(request: Request, error: RequestValidationError) -> Response:
        return problem(422, "The request cannot be read.", [in_words(fault) for fault in error.errors()])

    @app.exception_handler(HTTPException)
    def http_error(request: Request, error: HTTPException) -> Response:
        return problem(error.status_code, str(error.detail))

    @app.exception_handler(Exception)
    def failed(request: Request, error: Exception) -> Response:
        """Whatever nobody thought of; it is answered outside of all that dresses the others."""
        log.error("failed", path=request.url.path, method=request.method, error=repr(error))
        answer = problem(500, "Something failed inside Rundgang that should not. It is in the log; try again.")
        dress(answer.headers, secrets.token_urlsafe(16))
        return answer


def _serve_client(app: FastAPI, web: Path) -> None:
    """The built client: hashed assets for ever, its one page for every other path."""
    if (web / "assets").is_dir():
        app.mount("/assets", _Immutable(directory=web / "assets"), name="assets")

    @app.get("/api/{path:path}", include_in_schema=False)
    def no_such_route(path: str) -> Response:
        return problem(404, f"There is no /api/{path}.")

    @app.get("/{name}", include_in_schema=False)
    def file(request: Request, name: str) -> Response:
        if name not in OWN_FILES:
            return page(request, name)
        if not (web / name).is_file():
            return Response(status_code=404)
        return FileResponse(web / name, media_type=OWN_FILES[name], headers={"Cache-Control": "no-cache"})

    @app.get("/{path:path}", include_in_schema=False)
    def page(request: Request, path: str) -> Response:
        index = web / "index.html"
        if not index.is_file():
            return problem(503, "The web client is not built. Run script/setup, or script/demo, which does it.")
        ahead = links(asked_first(app.state.engine, path, request.query_params.get("line")))
        html = index.read_text().replace("__NONCE__", request.state.nonce).replace("</title>", f"</title>{ahead}")
        return HTMLResponse(html, headers={"Cache-Control": "no-cache"})


class _Immutable(StaticFiles):
    """Files whose names change with their contents."""

    def file_response(self, *args: object, **kwargs: object) -> Response:
        response = super().file_response(*args, **kwargs)  # type: ignore[arg-type]
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response
