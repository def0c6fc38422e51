"""A plan anew, by what the counters of a line say: offered where it pays more than it disturbs, and taken."""

from collections.abc import Iterator
from datetime import UTC, datetime, timedelta

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from rundgang.api.app import create_app
from rundgang.settings import Settings
from rundgang.store.cluster import Urls

NOW = datetime(2026, 3, 11, 1, tzinfo=UTC)
"""When the ring line is at work."""


@pytest.fixture
def app(urls: Urls) -> Iterator[FastAPI]:
    """The application, by whose clock the line is at work."""
    made = create_app(urls.app, Settings(hosts=["testserver", "127.0.0.1"], clock_shows=NOW))
    yield made
    made.state.engine.dispose()


def fed(client: TestClient, pieces_of: list[tuple[float, float]]) -> None:
    """What the divider has counted, at so many minutes before now."""
    readings = [
        {
            "line": "ring-line",
            "station": "divider",
            "quantity": "count",
            "at": (NOW - timedelta(minutes=ago)).isoformat(),
            "value": count,
        }
        for ago, count in pieces_of
    ]
    assert client.post("/api/readings", json={"readings": readings}).status_code == 201


def late(client: TestClient) -> None:
    """A divider that has gone at a quarter of its pace all night."""
    fed(client, [(200.0 - minute, 8_000.0 + 20 * minute) for minute in range(0, 200, 2)])


def test_a_plan_anew_is_offered_where_it_pays_and_is_what_the_floor_works_by(client: TestClient) -> None:
    late(client)
    offer = client.get("/api/now/offer?line=ring-line").json()
    assert offer["gain"] > 0
    assert offer["short"] <= offer["short_before"]
    assert offer["moved"]
    went = client.get("/api/now?line=ring-line").json()
    begun = {run["id"]: run["last_pack_min"] for run in went["plan"]["runs"] if run["start_min"] < went["now_min"]}
    made = client.post("/api/now/offer", json={"line": "ring-line", "author": "Ida"})
    assert made.status_code == 201, made.text
    assert made.json()["cost_before"] - made.json()["cost"] == pytest.approx(offer["gain"])
    newest = client.get("/api/versions/newest").json()
    assert newest["published"]["version"] == newest["note"]["number"] == made.json()["version"]
    assert newest["note"]["note"] == "planned anew by what the Ring line did"
    assert not newest["violations"]
    assert not any(plan["violations"] for plan in newest["plans"])
    runs = {run["id"]: run["last_pack_min"] for run in newest["plans"][0]["plan"]["runs"]}
    first = min(begun, key=lambda run: begun[run])
    assert runs[first] == pytest.approx(begun[first], abs=2), "what has begun goes on as it went"


def test_where_nothing_pays_nothing_is_offered_nor_changed(client: TestClient) -> None:
    assert client.get("/api/now/offer?line=ring-line").json() is None
    refused = client.post("/api/now/offer", json={"line": "ring-line"})
    assert refused.status_code == 422
    assert "Nothing was changed" in refused.text
    assert client.get("/api/versions/newest").json()["note"]["number"] == 1
    assert client.get("/api/now/offer?line=moon").status_code == 404
