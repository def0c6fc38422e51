"""Starting everything: the private PostgreSQL, its tables, the demo's data, and the web server."""

import errno
import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
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
from rundgang.demo.clock import demo_clock
from rundgang.jobs.founding import first_plan, found
from rundgang.settings import Settings
from rundgang.store.cluster import PrivateCluster, Urls, free_port
from rundgang.store.database import connect, migrate
from rundgang.store.repository import Repository

RESTART_S = 1.0
"""A child that has ended is started again after so long."""

STOP_S = 8.0
"""A child that is told to stop has so long."""

SETTLED_S = 2.0
"""What no page waits for begins so long after the start, s."""

ENDING_S = 3.0
"""What a server that was killed leaves behind has ended after so long."""

MOST_UNANSWERED = 2_048
"""So many connections wait to be taken."""

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
        _bind(bound, port)
    except OSError as error:
        bound.close()
        taken = error.errno == errno.EADDRINUSE
        raise PortTakenError(port, "another program listens there" if taken else str(error.strerror)) from None
    return bound


def _bind(bound: socket.socket, port: int) -> None:
    """Bind it, waiting a while for what a server that was killed has left, which is ending."""
    until = time.monotonic() + ENDING_S
    while True:
        try:
            bound.bind(("127.0.0.1", port))
            return
        except OSError as error:
            if error.errno != errno.EADDRINUSE or time.monotonic() > until:
                raise
        time.sleep(0.1)


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


class Child:
    """The program once more, as a process of its own, started again when it ends, until it is told to end.

    It ends with this process, however that ends: its input is a pipe that this one holds open.
    """

    def __init__(self, url: str, *command: str, listens: socket.socket | None = None, after_s: float = 0) -> None:
        self.url, self.command, self.after_s = url, command, after_s
        self._passed = (listens.fileno(),) if listens else ()
        self._ends = Event()
        self._process: subprocess.Popen[bytes] | None = None
        self._watch = Thread(target=self._keep, daemon=True)

    def start(self) -> None:
        """Start it, and watch it from now on."""
        self._watch.start()

    def end(self) -> None:
        """Tell it to end, without waiting for it."""
        self._ends.set()

    def join(self) -> None:
        """Wait until it has ended."""
        self._watch.join()

    def _keep(self) -> None:
        self._ends.wait(self.after_s)
        while not self._ends.is_set():
            self._process = subprocess.Popen(  # noqa: S603  (this program itself)
                [sys.executable, "-m", "rundgang.cli", *self.command, "--while-held"],
                env={**os.environ, "DATABASE_URL": self.url},
                stdin=subprocess.PIPE,
                start_new_session=True,
                pass_fds=self._passed,
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


@contextmanager
def running(*children: Child) -> Iterator[None]:
    """Children that run while the context is open; told to end all at once."""
    for child in children:
        child.start()
    try:
        yield
    finally:
        for child in children:
            child.end()
        for child in children:
            child.join()


class Server(uvicorn.Server):
    """Says where it listens once it does, if asked to, and lets its streams end when it is told to stop.

    It takes one connection at a time, so that those of its siblings on the same socket have their share.
    """

    def __init__(self, app: FastAPI, address: str | None = None) -> None:
        super().__init__(
            uvicorn.Config(
                app,
                http=PatientProtocol,
                log_config=None,
                access_log=False,
                server_header=False,
                backlog=1,
                timeout_graceful_shutdown=STREAMS_END_S,
            )
        )
        self.app, self.address = app, address

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:  # noqa: D102
        await super().startup(sockets)
        for bound in sockets or ():
            bound.listen(MOST_UNANSWERED)
        if self.address:
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
    bound, settings = listen(port), _with_port(settings)
    if reset:
        if settings.database_url:
            raise RundgangError("--reset deletes the private database only; DATABASE_URL names another one.")
        PrivateCluster(settings.home).remove()
    data = None if settings.database_url else PrivateCluster(settings.home).data
    with database(settings) as urls:
        migrate(urls.owner)
        if demo:
            seed(urls.app, demo)
            settings = _at_work(settings, urls.app, demo, reset)
        os.umask(0o077)
        address = f"http://127.0.0.1:{bound.getsockname()[1]}"
        beside = ("server", "--socket", str(bound.fileno()), *(("--data", str(data)) if data else ()))
        children = [Child(urls.app, *beside, listens=bound) for _ in range(settings.servers - 1)]
        floor = {"simulate": settings.simulated, "collect": settings.collects}
        children += [Child(urls.app, command, after_s=SETTLED_S) for command, runs in floor.items() if runs]
        with running(Child(urls.app, "worker"), *children):
            Server(create_app(urls.app, settings, data), address).run(sockets=[bound])


def _at_work(settings: Settings, url: str, demo: WholePlant, reset: bool) -> Settings:
    """The settings by the demo's clock, where it is the demo that is there and no other clock is set."""
    engine = connect(url)
    with Session(engine) as session:
        is_demo = Repository(session).plants.origin() == "demo"
    engine.dispose()
    if not is_demo or settings.clock_shows or settings.database_url:
        return settings
    clock = demo_clock(settings.home, demo.scenario.window.starts_at, reset)
    os.environ.update(clock.in_environment())
    return settings.model_copy(update={"clock_shows": clock.shows, "clock_at": clock.at})


def _with_port(settings: Settings) -> Settings:
    """The settings with a port for the simulated plant, where one is to run; all children are told it."""
    if not settings.simulated or settings.simulated_port:
        return settings
    port = free_port()
    os.environ["RUNDGANG_SIMULATED_PORT"] = str(port)
    return settings.model_copy(update={"simulated_port": port})


def serve_beside(settings: Settings, number: int, data: Path | None) -> None:
    """Serve from a socket that another server listens on already, and over its database, until told to stop.

    Parameters
    ----------
    number : int
        The socket's, among the files that this process was given.
    data : Path or None
        Where the database has its data, if that is here.
    """
    structlog.configure(logger_factory=structlog.PrintLoggerFactory(sys.stderr))
    os.umask(0o077)
    assert settings.database_url  # noqa: S101  (the command has made sure)
    Server(create_app(settings.database_url, settings, data)).run(sockets=[socket.socket(fileno=number)])
