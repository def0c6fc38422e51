"""The walk over the API: checks are defined, what was found comes once each with its own time, and what that does."""

from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import uuid4

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


def walked(client: TestClient) -> dict[str, Any]:
    answer = client.get("/api/rounds?line=ring-line")
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def check_of(round_: dict[str, Any], station: str, name: str) -> dict[str, Any]:
    stop = next(one for one in round_["round"]["stops"] if one["station"] == station)
    return dict(next(one for one in stop["checks"] if one["inspection"]["name"] == name))


def asked(round_: dict[str, Any], station: str, name: str, place: int = 0) -> dict[str, Any]:
    """What a tablet sends of a check's occasion but for what was found."""
    check = check_of(round_, station, name)
    occasions = [due for due in check["due"] if due["due_min"] <= round_["now_min"]]
    due = occasions[-1 - place]
    return {
        "uuid": str(uuid4()),
        "window": round_["number"],
        "version": round_["inspections"],
        "occasion": due["key"],
        "inspection": check["inspection"]["id"],
        **{name: due[name] for name in ("run", "product", "batch")},
        "at": (NOW - timedelta(minutes=2 + place)).isoformat(),
        "author": "Jonte",
    }


def enter(client: TestClient, *entries: dict[str, Any]) -> dict[str, Any]:
    answer = client.post("/api/rounds/entries", json={"entries": entries})
    assert answer.status_code == 201, answer.text
    return dict(answer.json())


def stored(client: TestClient) -> list[dict[str, Any]]:
    return list(client.get("/api/rounds/entries?line=ring-line").json())


def test_a_round_has_all_that_its_page_shows(client: TestClient) -> None:
    found = walked(client)
    assert [stop["name"] for stop in found["round"]["stops"]][:3] == ["Mixers", "Divider", "Ring former"]
    assert found["products"]["lantern-plain"] == "Lantern Plain"
    oven = check_of(found, "oven", "Oven temperature")
    assert (oven["unit"], oven["quantity"]) == ("°C", "temperature")
    waits = [due for due in oven["due"] if due["due_min"] <= found["now_min"] < due["until_min"]]
    assert all(due["high"] - due["low"] == 12 for due in oven["due"])
    (standing,) = client.get("/api/rounds/standing").json()
    assert standing["due"] + standing["late"] >= len(waits)


def test_what_was_found_is_there_once_with_its_own_time(client: TestClient) -> None:
    found = walked(client)
    heat = asked(found, "oven", "Oven temperature") | {"measured": [236.4]}
    colour = asked(found, "oven", "Colour against the card") | {"word": "darker", "note": "left edge"}
    first = enter(client, heat, colour)
    assert (first["taken"], first["refused"]) == ([heat["uuid"], colour["uuid"]], [])
    again = enter(client, colour, heat)
    assert sorted(again["taken"]) == sorted(first["taken"])
    entries = stored(client)
    assert [(one["says"], one["good"], one["author"]) for one in entries] == [
        ("236.4 °C", True, "Jonte"),
        ("darker", False, "Jonte"),
    ]
    assert {datetime.fromisoformat(one["at"]) for one in entries} == {NOW - timedelta(minutes=2)}
    answered = check_of(walked(client), "oven", "Oven temperature")
    assert next(due for due in answered["due"] if due["key"] == heat["occasion"])["find"]["says"] == "236.4 °C"
    assert answered["last"][-1]["measured"] == [236.4]


def test_what_is_wrong_is_refused_by_itself_and_in_words(client: TestClient) -> None:
    found = walked(client)
    good = asked(found, "oven", "Height, shape and shine") | {"word": "good"}
    wrong: list[tuple[dict[str, Any], str]] = [
        (asked(found, "oven", "Oven temperature") | {"measured": [900.0]}, "900 °C cannot be; allowed: 0 to 450 °C"),
        (asked(found, "oven", "Colour against the card") | {"word": "green"}, "allowed: as the card, paler, darker"),
        (asked(found, "oven", "Baked weight") | {"measured": [84.0]}, "1 figures are given; allowed: 5"),
        (good | {"uuid": str(uuid4()), "at": (NOW + timedelta(hours=2)).isoformat()}, "up to now"),
        (good | {"uuid": str(uuid4()), "inspection": "moon"}, "moon"),
        (good | {"uuid": str(uuid4()), "version": 99}, "99"),
    ]
    said = enter(client, *(one for one, _ in wrong), good)
    assert said["taken"] == [good["uuid"]]
    for (entry, words), refused in zip(wrong, said["refused"], strict=True):
        assert refused["uuid"] == entry["uuid"]
        assert words in refused["why"], refused["why"]
    assert [one["says"] for one in stored(client)] == ["good"]


def test_what_cannot_be_taken_is_said_and_holds_nothing(client: TestClient) -> None:
    seal = asked(walked(client), "bagger", "Seal") | {"cannot": True, "note": "no packs"}
    enter(client, seal)
    assert [(one["good"], one["says"]) for one in stored(client)] == [(None, "could not be taken")]
    found = walked(client)
    assert found["round"]["held"] == []
    assert check_of(found, "bagger", "Seal")["last"] == []


def test_a_failed_seal_holds_what_passed(client: TestClient) -> None:
    found = walked(client)
    enter(client, asked(found, "bagger", "Seal") | {"word": "leaks"})
    (held,) = walked(client)["round"]["held"]
    assert (held["name"], held["says"]) == ("Seal", "leaks")
    assert held["until_min"] == pytest.approx(found["now_min"])
    assert sum(stretch["packs"] for stretch in held["stretches"]) > 0
    (standing,) = client.get("/api/rounds/standing").json()
    assert standing["line"] == "ring-line"


def test_a_doughs_temperature_on_the_walk_is_a_probe_too(client: TestClient) -> None:
    """The next dough's water learns from it; and one that was taken in the dough room is not asked for again."""
    found = walked(client)
    dough = asked(found, "mixers", "Dough temperature")
    enter(client, dough | {"measured": [26.4]})
    enter(client, dough | {"measured": [26.4]})
    plan = client.get("/api/versions/newest").json()["plans"][0]["number"]
    cards = client.get(f"/api/plans/{plan}/cards").json()["cards"]
    card = next(one for one in cards if (one["run"], one["number"]) == (dough["run"], dough["batch"]))
    assert card["probe"]["dough_c"] == 26.4
    other = next(
        due
        for due in check_of(found, "mixers", "Dough temperature")["due"]
        if due["key"] != dough["occasion"] and due["due_min"] <= found["now_min"]
    )
    probe = client.post(
        f"/api/plans/{plan}/cards/{other['run']}/{other['batch']}/probe", json={"dough_c": 25.1}
    )  # fmt: skip
    assert probe.status_code == 201, probe.text
    after = check_of(walked(client), "mixers", "Dough temperature")
    shown = next(due for due in after["due"] if due["key"] == other["key"])
    assert (shown["find"]["says"], shown["find"]["author"]) == ("25.1 °C", "dough room")


def test_checks_are_changed_by_one_hand_at_a_time_and_fit_the_plant(client: TestClient) -> None:
    view = client.get("/api/inspections").json()
    every = view["inspections"]["all"]
    fewer = [one for one in every if one["name"] != "Proof"]
    request = {"inspections": {"all": fewer}, "seen": view["number"], "author": "Ida"}
    changed = client.post("/api/inspections", json=request)
    assert changed.status_code == 201, changed.text
    assert changed.json()["usual"] == every, "what was removed can be had again"
    assert client.post("/api/inspections", json=request).status_code == 409
    wrong = request | {"seen": changed.json()["number"], "inspections": {"all": [every[0] | {"station": "moon"}]}}
    refused = client.post("/api/inspections", json=wrong)
    assert refused.status_code == 422
    assert "allowed: one that the page lists" in refused.text


def test_what_was_found_is_judged_by_the_checks_of_then(client: TestClient) -> None:
    """A tablet that was away sends what it was asked, though the check is another now."""
    found = walked(client)
    heat = asked(found, "oven", "Oven temperature") | {"measured": [236.4]}
    view = client.get("/api/inspections").json()
    without = [one for one in view["inspections"]["all"] if one["name"] != "Oven temperature"]
    client.post("/api/inspections", json={"inspections": {"all": without}, "seen": view["number"]})
    assert enter(client, heat)["taken"] == [heat["uuid"]]
    assert stored(client)[0]["says"] == "236.4 °C"
