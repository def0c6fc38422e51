"""Answers that are kept: the same as one that is built anew, and named so that nobody takes them twice (RFC 9110)."""

from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime

import psycopg
import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from httpx2 import Response

from rundgang.api import remembered
from rundgang.api.app import create_app
from rundgang.settings import Settings
from rundgang.store.cluster import Urls

CSV = {"Content-Type": "text/csv"}
GOOD = "order,dispatch,product,packs\nn%d,harbour,lantern-plain,500\n"
SHOWS = datetime(2026, 3, 11, 2, 0, tzinfo=UTC)
READ = (
    "/api/window",
    "/api/orders", "/api/orders/books", "/api/orders.csv", "/api/demand", "/api/versions", "/api/versions/newest",
    "/api/versions/1", "/api/versions/newest?line=ring-line", "/api/plans/1/cards", "/api/materials", "/api/library",
    "/api/opening", "/api/stock/entries", "/api/conditions", "/api/calendar", "/api/plant",
)  # fmt: skip


def imported(client: TestClient, number: int) -> None:
    assert client.post("/api/orders/import", content=GOOD % number, headers=CSV).status_code == 201


def test_what_has_not_changed_is_said_in_a_few_bytes(client: TestClient) -> None:
    first = client.get("/api/versions/newest")
    assert first.headers["cache-control"] == "private, no-cache"
    again = client.get("/api/versions/newest", headers={"If-None-Match": first.headers["etag"]})
    assert (again.status_code, again.content) == (304, b"")
    assert again.headers["etag"] == first.headers["etag"]
    imported(client, 1)
    now = client.get("/api/versions/newest", headers={"If-None-Match": first.headers["etag"]})
    assert now.status_code == 200
    assert now.headers["etag"] != first.headers["etag"]
    assert (first.json()["stale"], now.json()["stale"]) == (False, True)


def test_what_time_it_is_is_said_beside_what_is_kept(urls: Urls) -> None:
    """A clock sixty times as fast as ours: the window is kept for a second of ours, the moment for none."""
    running = Settings(hosts=["testserver"], clock_shows=SHOWS, clock_at=datetime.now(UTC), clock_speed=60)
    app = create_app(urls.app, running)
    client = TestClient(app)
    moments = []
    for _ in range(3):
        answer = client.get("/api/window")
        moments.append(datetime.fromisoformat(answer.headers["rundgang-now"]))
        minute = (moments[-1] - datetime.fromisoformat(answer.json()["window"]["starts_at"])).total_seconds() / 60
        assert 0 <= minute - answer.json()["now_min"] < 1.5
    assert moments == sorted(set(moments))
    app.state.engine.dispose()


def told(answer: Response) -> tuple[int, str, bytes]:
    return answer.status_code, answer.headers.get("content-type", ""), answer.content


def test_what_is_kept_is_what_would_be_built(client: TestClient, urls: Urls) -> None:
    """After every kind of change each page gets from here what a process that has kept nothing tells it."""
    seen = client.get("/api/opening").json()["number"]
    conditions = client.get("/api/window").json()["conditions"]
    changes: tuple[tuple[str, dict[str, object]], ...] = (
        ("/api/conditions", {**conditions, "room_c": 27}),
        ("/api/versions/1/changes", {"change": {"kind": "fit", "line": "ring-line"}}),
        ("/api/versions/2/publish", {}),
        ("/api/plans/1/cards/R1/1/probe", {"dough_c": 26}),
        ("/api/opening", {"finished": [], "blocks": [], "seen": seen}),
        (
            "/api/orders/columns",
            {"name": "Quay", "headings": {"order": "No", "dispatch": "Goes", "product": "What", "packs": "Many"}},
        ),
    )
    for path, body in (("", {}), *changes):
        if path:
            answer = client.post(path, json=body)
            assert answer.status_code < 300, answer.text
        fresh = create_app(urls.app, Settings(hosts=["testserver"]))
        other = TestClient(fresh)
        for read in READ:
            built = told(other.get(read))
            assert told(client.get(read)) == told(client.get(read)) == built, (path, read)
        fresh.state.engine.dispose()


def test_an_answer_is_kept_for_those_who_take_it_as_it_is(client: TestClient) -> None:
    plain = client.get("/api/versions/1", headers={"Accept-Encoding": "identity"})
    zipped = client.get("/api/versions/1", headers={"Accept-Encoding": "gzip"})
    assert "content-encoding" not in plain.headers
    assert zipped.headers["content-encoding"] == "gzip"
    assert zipped.json() == plain.json()
    assert zipped.headers["etag"] != plain.headers["etag"]
    assert client.get("/api/versions/1", headers={"Rundgang-Window": "7"}).status_code == 404


@pytest.mark.parametrize("path", ["/api/health", "/api/searches", "/api/versions/99"])
def test_what_stands_so_at_this_moment_or_is_wrong_is_not_kept(client: TestClient, path: str) -> None:
    answer = client.get(path)
    assert "etag" not in answer.headers
    assert answer.headers["cache-control"] == "no-store"


def test_many_who_ask_at_once_have_it_built_once(app: FastAPI, client: TestClient) -> None:
    built = []

    @app.get("/api/slow")
    def slow() -> str:
        built.append(1)
        return "loaf"

    app.router.routes.insert(0, app.router.routes.pop())
    with client, ThreadPoolExecutor(12) as asking:
        answers = list(asking.map(lambda _: client.get("/api/slow").text, range(24)))
    assert answers == ['"loaf"'] * 24
    assert len(built) == 1


def test_no_more_is_kept_than_there_is_room_for(client: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(remembered, "LARGEST", 2_000)
    large = client.get("/api/versions/1", headers={"Accept-Encoding": "identity"})
    assert large.status_code == 200
    assert len(large.json()["plans"]) == 1
    assert "etag" not in large.headers
    monkeypatch.setattr(remembered, "MOST_BYTES", 0)
    assert client.get("/api/opening").json() == client.get("/api/opening").json()


def test_a_row_is_there_for_all_before_the_next_of_its_table(urls: Urls) -> None:
    """Else the newest row would say nothing of one with a lower number that is committed later."""
    url, entry = urls.app.replace("+psycopg", ""), "INSERT INTO order_mapping (name, document) VALUES (%s, '{}')"
    with psycopg.connect(url) as one, psycopg.connect(url, options="-c statement_timeout=200") as other:
        one.execute(entry, ["Quay"])
        with pytest.raises(psycopg.errors.QueryCanceled):
            other.execute(entry, ["Dock"])
        other.rollback()
        one.commit()
        other.execute(entry, ["Dock"])
