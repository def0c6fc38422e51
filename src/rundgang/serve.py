"""Starting everything: the private PostgreSQL, its tables, the demo's data, and the web server."""

import errno
import os
import signal
import socket
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Event, Thread

import structlog
import uvicorn
from fastapi import FastAPI
from sqlmodel import Session

from rundgang.api.app import create_app
from rundgang.api.patient import PatientProtocol
from rundgang.core.errors import RundgangError
from rundgang.core.planning.search.stopping import StopCriterion
from rundgang.core.whole_plant import WholePlant
from rundgang.jobs.founding import first_plan, found
from rundgang.settings import Settings
from rundgang.store.cluster import PrivateCluster, Urls
from rundgang.store.database import connect, migrate
from rundgang.store.repository import Repository

RESTART_S = 1.0
"""A worker that has ended is started again after so long."""

STOP_S = 8.0
"""A worker that is told to stop has so long."""

STREAMS_END_S = 1
"""Streams that are open when the server is told to stop are cut after so long."""


class PortTakenError(RundgangError):
    """Something else listens on the port."""

    def __init__(self, port: int, why: str) -> None:
        super().__init__(f"Port {port} cannot be used: {why}. Allowed: a free one, for instance --port {port + 1}.")


def listen(port: int) -> socket.socket:
    """A socket on the loopback port, or PortTakenError.

    Its protocol is named, or asyncio would let small answers wait to be sent together (TCP_NODELAY).
    """
    bound = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    bound.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        bound.bind(("127.0.0.1", port))
    except OSError as error:
        bound.close()
        taken = error.errno == errno.EADDRINUSE
        raise PortTakenError(port, "another program listens there" if taken else str(error.strerror)) from None
    return bound


@contextmanager
def database(settings: Settings) -> Iterator[Urls]:
    """The database of the settings, or a private one while the context is open."""
    if settings.database_url:
        yield Urls(owner=settings.migration_database_url or settings.database_url, app=settings.database_url)
        return
    with PrivateCluster(settings.home) as urls:
        yield urls


def seed(url: str, whole: WholePlant, stop: StopCriterion | None = None) -> bool:
    """Store the demo if the database is empty, and a first plan where there is none; whether it was.

    Parameters
    ----------
    stop : callable, optional
        When the search for the plan ends, as `plan_plant` takes it.
    """
    engine = connect(url)
    with Session(engine) as session:
        store = Repository(session)
        empty = store.windows.is_empty()
        if empty or store.plans.newest_number() is None:
            print("Looking for a first plan …", file=sys.stderr, flush=True)
        if empty:
            found(store, whole, "demo", stop)
        elif store.plans.newest_number() is None:
            first_plan(store, stop)
    engine.dispose()
    return empty


def _stop(number: int, _: object) -> None:
    """End as Ctrl-C does: whatever was started is told to stop, and waited for."""
    raise SystemExit(128 + number)


class Worker:
    """A worker for searches as a process of its own, started again when it ends, while the context is open.

    It ends with this process, however that ends: its input is a pipe that this one holds open.
    """

    def __init__(self, url: str) -> None:
        self.url = url
        self._ends = Event()
        self._process: subprocess.Popen[bytes] | None = None
        self._watch = Thread(target=self._keep, daemon=True)

    def __enter__(self) -> "Worker":
        self._watch.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._ends.set()
        self._watch.join()

    def _keep(self) -> None:
        while not self._ends.is_set():
            command = [sys.executable, "-m", "rundgang.cli", "worker", "--while-held"]
            self._process = subprocess.Popen(  # noqa: S603  (this program itself)
                command, env={**os.environ, "DATABASE_URL": self.url}, stdin=subprocess.PIPE, start_new_session=True
            )
            while self._process.poll() is None and not self._ends.wait(0.2):
                pass
            self._ends.wait(RESTART_S)
        if self._process and self._process.poll() is None:
            self._process.terminate()
            try:
                self._process.wait(timeout=STOP_S)
            except subprocess.TimeoutExpired:
                self._process.kill()
                self._process.wait()


class Server(uvicorn.Server):
    """Says where it listens once it does, and lets its streams end when it is told to stop."""

    def __init__(self, app: FastAPI, address: str) -> None:
        super().__init__(
            uvicorn.Config(
                app,
                http=PatientProtocol,
                log_config=None,
                access_log=False,
                server_header=False,
                timeout_graceful_shutdown=STREAMS_END_S,
            )
        )
        self.app, self.address = app, address

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:  # noqa: D102
        await super().startup(sockets)
        print(f"Rundgang is ready: {self.address}  (Ctrl-C stops it)", flush=True)

    async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:  # noqa: D102
        self.app.state.events.end()
        await super().shutdown(sockets)


def serve(settings: Settings, demo: WholePlant | None, port: int, reset: bool = False) -> None:
    """Serve until interrupted; everything that was started is stopped again.

    Parameters
    ----------
    demo : WholePlant or None
        Stored when the database is empty; None leaves it so.
    reset : bool
        Delete the private database first.

    Raises
    ------
    PortTakenError, ClusterError
    """
    structlog.configure(logger_factory=structlog.PrintLoggerFactory(sys.stderr))
    for number in (signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, _stop)
    bound = listen(port)
    if reset:
        if settings.database_url:
            raise RundgangError("--reset deletes the private database only; DATABASE_URL names another one.")
        PrivateCluster(settings.home).remove()
    data = None if settings.database_url else PrivateCluster(settings.home).data
    with database(settings) as urls:
        migrate(urls.owner)
        if demo:
            seed(urls.app, demo)
        os.umask(0o077)
        address = f"http://127.0.0.1:{bound.getsockname()[1]}"
        with Worker(urls.app):
            Server(create_app(urls.app, settings, data), address).run(sockets=[bound])
