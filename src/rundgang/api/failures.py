"""What has failed that is nobody's mistake, in words: a database that is gone, full or busy."""

import psycopg
import structlog
from fastapi import FastAPI, Request, Response
from procrastinate.exceptions import ConnectorException
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeoutError

from rundgang.api.guard import problem
from rundgang.store.database import POOL_WAIT_S, STATEMENT_S

AGAIN_S = "2"
"""Whoever is told that it is busy may ask again after so long."""

log = structlog.get_logger()


def answer_failures(app: FastAPI) -> None:
    """Let the application answer them."""

    @app.exception_handler(DBAPIError)
    def refused(request: Request, error: DBAPIError) -> Response:
        return _answer(request, error.orig, gone=error.connection_invalidated)

    @app.exception_handler(ConnectorException)
    def queue_failed(request: Request, error: ConnectorException) -> Response:
        return _answer(request, error.__cause__, gone=not isinstance(error.__cause__, psycopg.Error))

    @app.exception_handler(psycopg.OperationalError)
    def gone(request: Request, error: psycopg.OperationalError) -> Response:
        return _answer(request, error, gone=True)

    @app.exception_handler(PoolTimeoutError)
    def busy(request: Request, error: PoolTimeoutError) -> Response:
        log.error("no connection to the database is free", path=request.url.path)
        return _later(f"Too many ask at once: none of them was answered within {POOL_WAIT_S} s. Try again in a moment.")


def _answer(request: Request, error: BaseException | None, *, gone: bool) -> Response:
    log.error("database error", path=request.url.path, error=str(error))
    if isinstance(error, psycopg.errors.DiskFull):
        return problem(507, "The disk of the database is full. Nothing was changed; make room on it, and try again.")
    if isinstance(error, psycopg.errors.QueryCanceled):
        return _later(f"The database has not answered within {STATEMENT_S} s. Nothing was changed; try again.")
    if gone or isinstance(error, psycopg.OperationalError):
        return _later("The database does not answer. Nothing was changed; try again in a moment.")
    return problem(422, "The database refused these data. Nothing was changed.")


def _later(title: str) -> Response:
    answer = problem(503, title)
    answer.headers["Retry-After"] = AGAIN_S
    return answer
