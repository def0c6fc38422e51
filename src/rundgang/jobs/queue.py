"""The queue: the tasks it knows, how a job is put into it, and the worker that takes jobs out of it.

Any number of workers may run, on any machine that reaches the database; each job is done by one of them. A
job whose worker has not been heard of for a while is taken up by another.
"""

import asyncio
import contextlib
import os
import socket
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from pathlib import Path

import structlog
from procrastinate import App, JobContext, PsycopgConnector, RetryStrategy, exceptions
from psycopg_pool import NullConnectionPool
from sqlalchemy import Engine
from sqlmodel import Session

from rundgang.clock import Clock
from rundgang.jobs.inbox import take_all
from rundgang.jobs.islands import free_islands
from rundgang.jobs.keeping import keep
from rundgang.jobs.requests import LOST_AFTER_S, SearchRequest
from rundgang.jobs.rolling import go_on_if_due
from rundgang.jobs.search import AbortedError, run_island, run_search
from rundgang.settings import Settings
from rundgang.store.database import CONNECT_SECONDS, connect
from rundgang.store.repository import Repository

HEARTBEAT_S = 1.0
"""A worker says so often that it lives."""

HAND_BACK = RetryStrategy(retry_exceptions={exceptions.JobAborted})
"""A job that is broken off because its worker stops goes back into the queue; one that fails stays as it is."""

AFTER_SEARCHES = -1
"""The priority of islands: a search that waits comes first."""

STOPS_WITHIN_S = 0.5
"""So long a worker that is told to stop waits for its job to end by itself."""

LOOKS_EVERY_S = 10.0
"""So often a worker looks whether the window goes on by itself, into the inbox, and what has been made."""

log = structlog.get_logger()


def _plain(url: str) -> str:
    """The URL without the name of a driver."""
    return url.replace("+psycopg", "").replace("postgres://", "postgresql://", 1)


def make_queue(url: str, engine: Engine | None = None) -> App:
    """The queue in a database, with its tasks; open it before use."""
    queue = App(connector=PsycopgConnector(conninfo=_plain(url), min_size=1, max_size=4))
    work_on = engine or connect(url)

    @queue.task(name="search", queue="searches", pass_context=True, retry=HAND_BACK)
    def search(context: JobContext, request: dict[str, object]) -> None:
        job = context.job.id
        assert job is not None  # noqa: S101  (a job that runs has been stored)
        try:
            asked = SearchRequest.model_validate(request)
            call = partial(_call_islands, url, work_on, job, asked)
            run_search(work_on, job, asked, context.should_abort, Settings().clock(), call)
        except AbortedError:
            raise exceptions.JobAborted from None

    @queue.task(name="island", queue="searches", pass_context=True)
    def island(context: JobContext, search: int, number: int, request: dict[str, object]) -> None:
        asked = SearchRequest.model_validate(request)
        try:
            run_island(work_on, search, number, asked, context.should_abort, Settings().clock())
        except AbortedError:
            raise exceptions.JobAborted from None

    return queue


@contextmanager
def _open_queue(url: str, engine: Engine) -> Iterator[App]:
    """The queue, to put jobs into it: a connection for as long as that takes."""
    with NullConnectionPool(_plain(url), timeout=CONNECT_SECONDS, open=True) as pool:
        yield make_queue(url, engine).open(pool)


def _call_islands(url: str, engine: Engine, job: int, request: SearchRequest) -> bool:
    """Ask all workers there are to search for the same, busy ones when they are free; whether any has been asked."""
    with Session(engine) as session:
        numbers = free_islands(session, job)
    if not numbers:
        return numbers.start > 1
    with _open_queue(url, engine) as queue:
        task = queue.configure_task("island", queue="searches", priority=AFTER_SEARCHES)
        for number in numbers:
            task.defer(search=job, number=number, request=request.model_dump(mode="json"))
    return True


def defer_search(url: str, engine: Engine, request: SearchRequest) -> int:
    """Put a search into the queue of a database; its number."""
    with _open_queue(url, engine) as queue:
        return queue.configure_task("search", queue="searches").defer(request=request.model_dump(mode="json"))


def work(url: str, lost_after_s: float = LOST_AFTER_S) -> None:
    """Take jobs out of the queue, one after the other, until interrupted.

    Parameters
    ----------
    lost_after_s : float
        The jobs of workers not heard of for so long are put back.
    """
    asyncio.run(_work(url, lost_after_s))


async def _work(url: str, lost_after_s: float) -> None:
    queue = make_queue(url)
    async with queue.open_async():
        beside = [asyncio.create_task(_rescue(queue, lost_after_s)), asyncio.create_task(_go_on(connect(url)))]
        try:
            await queue.run_worker_async(
                name=f"{socket.gethostname()}-{os.getpid()}",
                concurrency=1,
                fetch_job_polling_interval=1.0,
                update_heartbeat_interval=min(HEARTBEAT_S, lost_after_s / 4),
                stalled_worker_timeout=lost_after_s,
                shutdown_graceful_timeout=STOPS_WITHIN_S,
            )
        finally:
            for task in beside:
                task.cancel()
                with contextlib.suppress(asyncio.CancelledError):
                    await task


async def _go_on(engine: Engine) -> None:
    """Go on to the next window when the calendar says so, take what lies in the inbox, keep the record; ever again."""
    settings = Settings()
    while True:
        try:
            await asyncio.to_thread(_go_on_once, engine, settings.clock())
            await asyncio.to_thread(_take_once, engine, settings.inbox, settings.clock())
            await asyncio.to_thread(_keep_once, engine, settings.clock())
        except Exception as error:
            # Whatever fails once is tried again: nobody would hear of a loop that has ended.
            log.error("what goes on by itself has failed", error=str(error) or type(error).__name__)
        await asyncio.sleep(LOOKS_EVERY_S)


def _take_once(engine: Engine, inbox: Path | None, now: Clock) -> None:
    if inbox is None:
        return
    with Session(engine) as session:
        for done in take_all(Repository(session), inbox, now):
            log.info("file of the inbox", file=done)


def _keep_once(engine: Engine, clock: Clock) -> None:
    with Session(engine) as session:
        keep(Repository(session), clock)


def _go_on_once(engine: Engine, clock: Clock) -> None:
    with Session(engine) as session:
        made = go_on_if_due(Repository(session), clock)
    if made:
        log.info("gone on to the next window", window=made.number)


async def _rescue(queue: App, lost_after_s: float) -> None:
    """Put the jobs of lost workers back, again and again."""
    while True:
        for job in await queue.job_manager.get_stalled_jobs(seconds_since_heartbeat=lost_after_s):
            with contextlib.suppress(exceptions.ConnectorException):
                await queue.job_manager.retry_job(job)
                log.info("job of a lost worker put back", job=job.id)
        await asyncio.sleep(min(HEARTBEAT_S, lost_after_s / 4))
