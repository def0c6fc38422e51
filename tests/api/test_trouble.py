"""Trouble over the API: a stop is told, what to do is answered, options come one by one, and all of it is kept."""

import json
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from typing import Any

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


def begun(client: TestClient, station: str = "proofer", ago: float = 0) -> dict[str, Any]:
    request = {"line": "ring-line", "station": station, "author": "Jonte"}
    if ago:
        request["began_at"] = (NOW - timedelta(minutes=ago)).isoformat()
    answer = client.post("/api/trouble", json=request)
    assert answer.status_code == 201, answer.text
    return dict(answer.json())


def asked(stop: dict[str, Any], **changes: object) -> dict[str, object]:
    known = {name: stop[name] for name in ("number", "line", "station", "begins")}
    return known | {"low_min": 20, "likely_min": 30, "high_min": 60} | changes


def noted(client: TestClient, stop: dict[str, Any], **event: object) -> dict[str, Any]:
    answer = client.post(f"/api/trouble/{stop['number']}/events", json=event)
    assert answer.status_code == 201, answer.text
    return dict(answer.json())


def test_a_stop_is_told_once_and_what_to_do_is_answered(client: TestClient) -> None:
    stop = begun(client, ago=10)
    assert (stop["name"], stop["lasted_min"], stop["cause"]) == ("Proofer", None, None)
    assert begun(client)["number"] == stop["number"], "whoever tells it again means the same"
    assert [event["kind"] for event in stop["stop"]["events"]] == ["advised"]
    answer = client.post("/api/trouble/effect", json=asked(stop))
    assert answer.status_code == 200, answer.text
    found = answer.json()
    assert found["effect"]["stop"]["told_min"] - found["effect"]["stop"]["from_min"] == pytest.approx(10, abs=0.1)
    assert found["todo"][0]["what"] == ("feed nothing" if found["effect"]["hold_from_min"] is None else "hold")
    assert {one["what"] for one in found["todo"]} & {"watch", "use", "pull"}
    assert {one["station"]: one["name"] for one in found["stations"]}["proofer"] == "Proofer"
    oven = client.post("/api/trouble/effect", json=asked(begun(client, "oven")))
    assert "Hot oven, tins and steam" in oven.text


def test_options_come_one_by_one_and_one_is_taken(client: TestClient) -> None:
    stop = begun(client, ago=5)
    lines = client.post("/api/trouble/options", json=asked(stop)).text.splitlines()
    *options, last = [json.loads(line) for line in lines]
    assert [option["kind"] for option in options[:3]] == ["wait"] * 3
    likely = [option for option in options if option["minutes"] == options[1]["minutes"]]
    assert options[last["cheapest"]]["cost"] == min(option["cost"] for option in likely)
    chosen = options[last["cheapest"]]
    request = {"stop": asked(stop), "kind": chosen["kind"], "minutes": chosen["minutes"], "author": "Ida"}
    made = client.post(f"/api/versions/{last['version']}/stops/taken", json=request)
    assert made.status_code == 201, made.text
    newest = client.get("/api/versions/newest").json()
    assert newest["published"]["version"] == made.json()["version"]
    assert not newest["violations"]
    event = client.get(f"/api/trouble/{stop['number']}").json()["stop"]["events"][-1]
    assert (event["kind"], event["said"]["version"], event["author"]) == ("taken", made.json()["version"], "Ida")
    assert event["said"]["cost"] == made.json()["cost"]


def test_it_runs_again_and_its_downtime_ends_with_it(client: TestClient, app: FastAPI) -> None:
    stop = begun(client, ago=5)
    request = {"stop": asked(stop), "kind": "wait", "minutes": 30}
    assert client.post("/api/versions/1/stops/taken", json=request).status_code == 201
    app.state.clock = app.state.clock._replace(shows=NOW + timedelta(minutes=4))
    noted(client, stop, kind="cause", cause="drive", exactly="motor")
    noted(client, stop, kind="done", done="hold Mixer Alder")
    ended = noted(client, stop, kind="runs")
    assert ended["lasted_min"] == pytest.approx(9, abs=0.1)
    assert (ended["cause"], ended["exactly"]) == ("drive", "motor")
    (block,) = client.get("/api/opening").json()["blocks"]
    assert block["to_min"] - block["from_min"] == pytest.approx(9, abs=0.1)
    assert [event["kind"] for event in ended["stop"]["events"]] == ["advised", "taken", "cause", "done", "runs"]
    again = client.post(f"/api/trouble/{stop['number']}/events", json={"kind": "runs"})
    assert again.status_code == 422
    assert begun(client)["number"] != stop["number"], "the next time it stands is another stop"
    assert [one["number"] for one in client.get("/api/trouble").json()] == [stop["number"] + 1, stop["number"]]


@pytest.mark.parametrize(
    ("path", "body", "status", "said"),
    [
        ("", {"line": "ring-line", "station": "moon"}, 404, "station of the line"),
        ("", {"line": "moon", "station": "oven"}, 404, "station of the line"),
        ("", {"line": "ring-line", "station": "oven", "began_at": "2026-03-09T01:00:00Z"}, 422, "the last 12 h"),
        ("/1/events", {"kind": "cause", "cause": "drive", "exactly": "burner"}, 404, "cause"),
        ("/1/events", {"kind": "done"}, 422, "what of the list"),
        ("/1/events", {"kind": "taken"}, 422, "allowed: cause, done, runs"),
        ("/9/events", {"kind": "runs"}, 404, "stop"),
    ],
)
def test_what_is_wrong_is_said(client: TestClient, path: str, body: dict[str, Any], status: int, said: str) -> None:
    begun(client)
    answer = client.post(f"/api/trouble{path}", json=body)
    assert (answer.status_code, said in answer.text) == (status, True), answer.text


def test_without_a_live_plan_there_is_nothing_to_advise(empty: FastAPI) -> None:
    client = TestClient(empty, raise_server_exceptions=False)
    request = {"line": "a", "station": "b", "low_min": 1, "likely_min": 2, "high_min": 3}
    assert client.post("/api/trouble/effect", json=request).status_code in {404, 422}
