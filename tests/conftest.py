"""What tests share: a private PostgreSQL, and a fresh migrated database for every test that asks."""

import json
import os
import tempfile
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import date
from itertools import count
from pathlib import Path
from typing import Any

import hypothesis
import psycopg
import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from rundgang.api.app import create_app
from rundgang.core.scenario import Scenario
from rundgang.core.whole_plant import WholePlant
from rundgang.demo.ostermere import demo_plant
from rundgang.demo.ring_line import ring_line
from rundgang.serve import Server, listen, seed
from rundgang.settings import Settings
from rundgang.store.cluster import DATABASE, OWNER, SERVER, PrivateCluster, Urls
from rundgang.store.database import migrate

DAY = date(2026, 3, 11)
os.environ.setdefault("RUNDGANG_CLOCK_SHOWS", "2026-03-10T12:00:00Z")
"""All processes of the tests look at a clock that stands still, before the window opens."""

hypothesis.settings.register_profile("no clock", deadline=None)
hypothesis.settings.load_profile("no clock")
"""How long an example takes says more of the machine than of the code."""

_numbers = count(1)


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """What needs the whole plant is run by two processes at the most: the others need not make its first plan too."""
    for item in items:
        if item.get_closest_marker("whole"):
            pages = "web" in item.path.parts
            item.add_marker(pytest.mark.xdist_group("pages of the whole plant" if pages else "whole plant"))


@pytest.fixture(scope="session")
def home() -> Iterator[Path]:
    """A folder the database server's account can reach."""
    with tempfile.TemporaryDirectory() as folder:
        Path(folder).chmod(0o755)
        yield Path(folder)


@pytest.fixture(scope="session")
def cluster(home: Path) -> Iterator[Urls]:
    """A migrated and seeded database, the pattern for every test's own."""
    os.environ.pop("DATABASE_URL", None)
    os.environ[HOME] = str(home)
    with PrivateCluster(home, durable=False) as urls:
        migrate(urls.owner)
        seed(urls.app, WholePlant(scenario=ring_line(DAY)))
        yield urls


HOME = "RUNDGANG_TESTS_HOME"
"""In the environment: where the tests' server has its passwords, for whoever imports this file."""


def server_url(cluster: Urls) -> str:
    """Where the tests' server lets its owner in."""
    password = json.loads((Path(os.environ[HOME]) / "credentials.json").read_text())[SERVER]
    return f"postgresql://{SERVER}:{password}@{cluster.app.split('@')[1].removesuffix(DATABASE)}postgres"


def new_database(cluster: Urls, name: str, template: str) -> Urls:
    """A database made after another, by whoever owns the server."""
    with psycopg.connect(server_url(cluster), autocommit=True) as connection:
        connection.execute(f"CREATE DATABASE {name} OWNER {OWNER} TEMPLATE {template}")
    return Urls(*(url.removesuffix(DATABASE) + name for url in cluster))


@pytest.fixture(scope="session")
def whole_plant(cluster: Urls) -> str:
    """Name of a database with the whole demo plant and a plan of each line, the pattern for tests marked `whole`."""
    name = "whole_plant"
    made = new_database(cluster, name, "template0")
    migrate(made.owner)
    seed(made.app, demo_plant(DAY))
    return name


@pytest.fixture
def urls(request: pytest.FixtureRequest, cluster: Urls) -> Urls:
    """A database of the test's own: the ring line's day with its first plan, or the whole plant."""
    whole = request.node.get_closest_marker("whole") is not None
    template = request.getfixturevalue("whole_plant") if whole else DATABASE
    return new_database(cluster, f"test_{next(_numbers)}", template)


@pytest.fixture
def empty(cluster: Urls) -> Iterator[FastAPI]:
    """The application over a database without a plant."""
    own = new_database(cluster, f"empty_{next(_numbers)}", "template0")
    migrate(own.owner)
    made = create_app(own.app, Settings(hosts=["testserver", "127.0.0.1"]))
    yield made
    made.state.engine.dispose()


@pytest.fixture
def app(urls: Urls) -> Iterator[FastAPI]:
    """The application over the test's database."""
    made = create_app(urls.app, Settings(hosts=["testserver", "127.0.0.1"]))
    yield made
    made.state.engine.dispose()


@contextmanager
def served(app: FastAPI, port: int = 0) -> Iterator[str]:
    """The address of the application on a loopback port, a free one if none is said, as `rundgang serve` serves it."""
    bound = listen(port)
    address = f"http://127.0.0.1:{bound.getsockname()[1]}"
    server = Server(app, address)
    thread = threading.Thread(target=server.run, kwargs={"sockets": [bound]})
    thread.start()
    try:
        yield address
    finally:
        server.should_exit = True
        thread.join()


@pytest.fixture
def address(app: FastAPI) -> Iterator[str]:
    """The application over the test's own database, on a loopback port."""
    with served(app) as at:
        yield at


@pytest.fixture
def client(app: FastAPI) -> TestClient:
    """A client that gets what a browser would get; errors are answers, not exceptions."""
    return TestClient(app, raise_server_exceptions=False)


@pytest.fixture(scope="session")
def demo() -> Scenario:
    """The demo day as a scenario."""
    return ring_line(DAY)


def fitted(client: TestClient, line: str) -> Any:
    """The view of a line's plan after it has been fitted to the newest orders, library and stock."""
    newest = client.get("/api/versions/newest").json()["note"]["number"]
    answer = client.post(f"/api/versions/{newest}/changes", json={"change": {"kind": "fit", "line": line}})
    assert answer.status_code == 201, answer.text
    return client.get(f"/api/plans/newest?line={line}").json()
