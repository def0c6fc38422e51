"""Probes: asked about where they are absurd, found again by the next plan, withdrawn where they were wrong."""

from datetime import UTC, datetime
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlmodel import Session

from rundgang.store.repository import Repository


def cards(client: TestClient, plan: int) -> list[Any]:
    found: list[Any] = client.get(f"/api/plans/{plan}/cards").json()["cards"]
    return found


def card(client: TestClient, plan: int, run: str, batch: int) -> Any:
    return next(one for one in cards(client, plan) if (one["run"], one["number"]) == (run, batch))


def probe(client: TestClient, dough_c: float, plan: int = 1, run: str = "R1", batch: int = 1, **more: object) -> Any:
    return client.post(f"/api/plans/{plan}/cards/{run}/{batch}/probe", json={"dough_c": dough_c, **more})


def water(client: TestClient, plan: int = 1) -> list[float]:
    return [one["water"]["wanted_c"] for one in cards(client, plan) if one["water"]]


def test_an_absurd_probe_moves_no_water(client: TestClient) -> None:
    before = water(client)
    refused = probe(client, -5)
    assert (refused.status_code, refused.json()["asks"]) == (422, False)
    assert "The dough reads -5 °C; allowed: -2 °C to 55 °C" in refused.json()["title"]
    asked = probe(client, 46)
    assert (asked.status_code, asked.json()["asks"]) == (422, True)
    assert water(client) == before
    assert probe(client, 46, confirmed=True).status_code == 201
    assert card(client, 1, "R1", 1)["probe"]["dough_c"] == 46


def test_fahrenheit_typed_as_celsius_is_thought_of_in_words(client: TestClient) -> None:
    refused = probe(client, 77)
    assert refused.json()["title"].endswith("77 °F would be usual.")
    assert refused.json()["faults"] == []


@pytest.mark.parametrize(("name", "value"), [("flour_c", 210), ("tap_c", 77), ("room_c", -40), ("humidity_pct", 0)])
def test_absurd_conditions_are_refused_in_words(client: TestClient, name: str, value: float) -> None:
    now = client.get("/api/window").json()["conditions"]
    answer = client.post("/api/conditions", json={**now, name: value, "confirmed": True})
    assert answer.status_code == 422
    assert "reads" in answer.json()["title"]
    assert client.get("/api/window").json()["conditions"] == now


def test_doubtful_conditions_are_taken_once_they_are_confirmed(client: TestClient) -> None:
    now = client.get("/api/window").json()["conditions"]
    asked = client.post("/api/conditions", json={**now, "flour_c": 44})
    assert (asked.status_code, asked.json()["asks"]) == (422, True)
    assert client.post("/api/conditions", json={**now, "flour_c": 44, "confirmed": True}).status_code == 201


@pytest.mark.parametrize(
    "more",
    [
        {"by_hour": [{"flour_c": 21}, {"flour_c": 210}]},
        {"room": {"low_c": 18, "high_c": 26, "warmest_at": "15:00", "flour_c": {"low": 20, "high": 99}}},
        {"room": {"low_c": -35, "high_c": 26, "warmest_at": "15:00"}},
    ],
)
def test_absurd_hours_and_courses_are_refused_too(client: TestClient, more: dict[str, object]) -> None:
    now = client.get("/api/window").json()["conditions"]
    answer = client.post("/api/conditions", json={**now, **more, "confirmed": True})
    assert answer.status_code == 422
    assert "reads" in answer.json()["title"]
    assert client.get("/api/window").json()["conditions"] == now


def test_a_probe_is_still_there_in_the_next_plan(client: TestClient) -> None:
    """It is dragged, and published again: the batch that was mixed is the same batch."""
    probe(client, 27)
    plan = client.get("/api/versions/1").json()["plans"][0]
    last = plan["plan"]["runs"][-1]
    change = {"kind": "place", "line": "ring-line", "run": last["id"], "before": "R1"}
    made = client.post("/api/versions/1/changes", json={"change": change}).json()
    assert client.post(f"/api/versions/{made['version']}/publish", json={}).status_code == 201
    newest = client.get("/api/versions/newest").json()["plans"][0]
    assert newest["number"] != plan["number"]
    assert newest["plan"]["runs"][0]["id"] == last["id"], "it is first now, and called as before"
    same = card(client, newest["number"], "R1", 1)
    assert same["probe"]["dough_c"] == 27
    assert same["product"] == card(client, plan["number"], "R1", 1)["product"]


def test_a_batch_that_is_probed_by_two_plans_teaches_once_and_is_withdrawn_whole(client: TestClient) -> None:
    before = water(client)
    probe(client, 30)
    client.post("/api/versions/1/changes", json={"change": {"kind": "pin", "line": "ring-line", "run": "R3"}})
    newest = client.get("/api/versions/newest").json()["plans"][0]["number"]
    mixer = card(client, newest, "R1", 1)["mixer"]
    probe(client, 26, plan=newest)
    taught = client.get(f"/api/friction?product={card(client, newest, 'R1', 1)['product']}&mixer={mixer}").json()
    assert [one["reading"]["dough_c"] for one in taught["probes"]] == [26], "the later one of the same batch"
    path = f"/api/plans/{newest}/cards/R1/1/probe/withdraw"
    assert client.post(path, json={"reason": "the wrong bowl"}).status_code == 201
    assert card(client, newest, "R1", 1)["probe"] is None, "nor is what it corrected there again"
    assert water(client) == before


def test_a_probe_that_is_withdrawn_teaches_nothing(client: TestClient) -> None:
    before = water(client)
    probe(client, 30)
    taught = water(client)
    assert taught != before
    path = "/api/plans/1/cards/R1/1/probe/withdraw"
    assert client.post(path, json={"reason": ""}).status_code == 422
    assert client.post(path, json={"reason": "thermometer in the bowl"}).status_code == 201
    assert water(client) == before
    assert card(client, 1, "R1", 1)["probe"] is None
    assert client.post(path, json={"reason": "again"}).status_code == 404
    probe(client, 26)
    assert card(client, 1, "R1", 1)["probe"]["dough_c"] == 26


def test_a_reading_of_the_room_is_withdrawn_with_a_reason_and_teaches_nothing(app: FastAPI, client: TestClient) -> None:
    """The reading before it counts again; it stays in the list, and cannot be withdrawn twice."""
    right = {"room_c": 23, "flour_c": 21, "tap_c": 14}
    assert client.post("/api/conditions", json=right).status_code == 201
    before = client.get("/api/plans/1/cards").json()["cards"][0]["water"]
    assert client.post("/api/conditions", json=right | {"room_c": 33, "flour_c": 31}).status_code == 201
    assert client.get("/api/plans/1/cards").json()["cards"][0]["water"] != before
    wrong, known = client.get("/api/conditions").json()
    assert (wrong["conditions"]["room_c"], known["withdrawn"]) == (33, None)
    said = {"reason": "the probe lay in the sun", "author": "Ida"}
    gone, kept = client.post(f"/api/conditions/{wrong['number']}/withdraw", json=said).json()
    assert (gone["withdrawn"], kept["withdrawn"]) == ("the probe lay in the sun, Ida", None)
    assert client.get("/api/window").json()["conditions"]["room_c"] == 23
    assert client.get("/api/plans/1/cards").json()["cards"][0]["water"] == before
    with Session(app.state.engine) as session:
        taught = Repository(session).windows.room_readings(datetime(2000, 1, 1, tzinfo=UTC))
    assert [room_c for _, room_c in taught] == [23]
    assert client.post(f"/api/conditions/{wrong['number']}/withdraw", json=said).status_code == 422
    assert client.post("/api/conditions/999/withdraw", json=said).status_code == 404
    assert client.post(f"/api/conditions/{known['number']}/withdraw", json={"reason": ""}).status_code == 422
