"""Pages follow the database: what is written is told, from one connection however many listen."""

import json
import time
from contextlib import ExitStack

import httpx2 as httpx
import psycopg
import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from conftest import served
from listening import PATIENCE_S, listening
from rundgang.api import events
from rundgang.store.cluster import Urls

CSV = {"Content-Type": "text/csv"}
GOOD = "order,dispatch,product,packs\nn%d,harbour,lantern-plain,500\n"


def listeners(urls: Urls) -> int:
    """How many connections of the database listen."""
    with psycopg.connect(urls.owner.replace("+psycopg", "")) as connection:
        row = connection.execute("SELECT count(*) FROM pg_stat_activity WHERE datname = current_database()").fetchone()
    assert row
    return int(row[0])


def imported(client: TestClient, number: int) -> None:
    assert client.post("/api/orders/import", content=GOOD % number, headers=CSV).status_code == 201


def test_a_change_is_told_to_all_from_one_connection(address: str, client: TestClient, urls: Urls) -> None:
    before = listeners(urls)
    with ExitStack() as stack:
        pages = [stack.enter_context(listening(address)) for _ in range(12)]
        assert listeners(urls) == before + 1
        imported(client, 1)
        for told in pages:
            assert told.get(timeout=PATIENCE_S) == ("changed", "orders")


@pytest.mark.parametrize(
    ("path", "body", "what"),
    [
        ("/api/versions/1/publish", {}, "published"),
        ("/api/versions/1/changes", {"change": {"kind": "fit", "line": "ring-line"}}, "plan"),
        ("/api/conditions", {"room": 26}, "conditions"),
        ("/api/opening", {"finished": [], "blocks": [], "seen": 1}, "opening"),
    ],
)
def test_each_kind_of_change_has_its_name(
    address: str, client: TestClient, path: str, body: dict[str, object], what: str
) -> None:
    if what == "opening":
        body = {**body, "seen": client.get("/api/opening").json()["number"]}
    if what == "conditions":
        body = {**client.get("/api/window").json()["conditions"], "room_c": 26}
    with listening(address) as told:
        answer = client.post(path, json=body)
        assert answer.status_code in {200, 201}, answer.text
        heard = {told.get(timeout=PATIENCE_S)}
        while ("changed", what) not in heard:
            heard.add(told.get(timeout=PATIENCE_S))


def test_a_search_is_told_from_when_it_waits(address: str, client: TestClient) -> None:
    with listening(address) as told:
        job = client.post("/api/searches", json={"seconds": 5}).json()["job"]
        kind, data = told.get(timeout=PATIENCE_S)
    assert kind == "search"
    assert (json.loads(data)["job"], json.loads(data)["state"]) == (job, "waiting")


def test_what_happened_while_the_connection_was_lost_is_not_missed(
    address: str, client: TestClient, urls: Urls
) -> None:
    with listening(address) as told:
        with psycopg.connect(urls.app.replace("+psycopg", ""), autocommit=True) as connection:
            connection.execute(
                "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database() "
                "AND query LIKE 'LISTEN%'"
            )
        imported(client, 1)
        assert told.get(timeout=PATIENCE_S) == ("changed", "all")
        imported(client, 2)
        assert told.get(timeout=PATIENCE_S) == ("changed", "orders")


def test_only_so_many_listen(address: str, app: FastAPI, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(events, "MOST_STREAMS", 2)
    with listening(address), listening(address):
        answer = httpx.get(f"{address}/api/events")
        assert answer.status_code == 503
        assert "Try again" in answer.json()["title"]
    end = time.monotonic() + PATIENCE_S
    while app.state.events._waiting and time.monotonic() < end:
        time.sleep(0.05)
    with listening(address):
        imported(TestClient(app), 1)


def test_streams_end_when_the_server_is_told_to_stop(app: FastAPI) -> None:
    with ExitStack() as stack:
        with served(app) as address:
            told = stack.enter_context(listening(address))
            begin = time.monotonic()
        assert time.monotonic() - begin < 3
        assert told.get(timeout=PATIENCE_S) == ("ended", "")


def test_a_page_that_takes_nothing_is_told_that_all_may_have_changed(monkeypatch: pytest.MonkeyPatch) -> None:
    import asyncio

    async def told() -> list[str | None]:
        own = events.Events("postgresql://nobody@127.0.0.1:1/none", None)  # type: ignore[arg-type]
        with own.heard() as queue:
            for number in range(events.MOST_WAITING + 1):
                own._tell(f"event {number}")
            return [queue.get_nowait() for _ in range(queue.qsize())]

    assert asyncio.run(told()) == ["event: changed\ndata: all\n\n", f"event {events.MOST_WAITING}"]
