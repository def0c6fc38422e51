"""Upkeep through the API: told once, a tool new from then on, released by somebody else, refused in words."""

from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import uuid4

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from rundgang.clock import Clock

pytestmark = pytest.mark.whole

LINE = "bread-line"
LATER_MIN = 900


@pytest.fixture
def kept(app: FastAPI, client: TestClient) -> Any:
    """The upkeep of the bread line, fifteen hours into its published plan."""
    version = client.get("/api/versions/newest").json()["note"]["number"]
    client.post(f"/api/versions/{version}/publish", json={"author": "planner"})
    first = datetime.fromisoformat(client.get("/api/windows").json()[-1]["starts_at"])
    app.state.clock = Clock(shows=first + timedelta(minutes=LATER_MIN), at=datetime.now(UTC))
    answer = client.get(f"/api/upkeep/{LINE}")
    assert answer.status_code == 200, answer.text
    return answer.json()


def entry(client: TestClient, **more: object) -> dict[str, Any]:
    now = datetime.fromisoformat(client.get("/api/window", headers={}).headers["rundgang-now"])
    told = {"began_at": (now - timedelta(minutes=20)).isoformat(), "ended_at": now.isoformat(), "author": "Ida"}
    return {"uuid": str(uuid4()), "kind": "cleaned", "what": "crumbs", "station": "oven", **told, **more}


def test_what_is_told_is_there_once_and_released_by_somebody_else(client: TestClient, kept: Any) -> None:
    assert kept["diary"] == []
    body = entry(client)
    for _ in range(2):
        answer = client.post(f"/api/upkeep/{LINE}/entries", json=body)
        assert answer.status_code == 201, answer.text
    (told,) = answer.json()["diary"]
    assert (told["what"], told["author"], told["released"]) == ("crumbs", "Ida", None)
    path = f"/api/upkeep/{LINE}/entries/{told['number']}/release"
    own = client.post(path, json={"author": " ida "})
    assert own.status_code == 422
    assert "somebody else" in own.text
    first = client.post(path, json={"author": "Jon"}).json()["diary"][0]["released"]
    again = client.post(path, json={"author": "Kim"}).json()["diary"][0]["released"]
    assert first["author"] == "Jon"
    assert again == first, "once released it stays so"


def test_a_renewed_tool_is_new_and_its_wear_begins_anew(client: TestClient, kept: Any) -> None:
    worn = next(tool for tool in kept["tools"] if tool["used"] > 0 and tool["counted"] != "days")
    body = entry(client, kind="renewed", tool=worn["tool"], station=worn["station"], what="new one")
    after = client.post(f"/api/upkeep/{LINE}/entries", json=body).json()
    (tool,) = [one for one in after["tools"] if (one["station"], one["tool"]) == (worn["station"], worn["tool"])]
    assert tool["used"] == pytest.approx(0, abs=worn["life"] * 0.01)
    assert worn["used"] > worn["life"] * 0.01
    worn_by_opening = client.get("/api/opening").json()["worn"]
    assert sum(one["tool"] == worn["tool"] for one in worn_by_opening) == 1, "once, however often it is renewed"


@pytest.mark.parametrize(
    ("more", "status", "says"),
    [
        ({"station": "nowhere"}, 404, "station"),
        ({"kind": "renewed", "tool": "nothing"}, 404, "tool"),
        ({"kind": "renewed"}, 422, "a tool"),
        ({"tool": "blades"}, 422, "a tool"),
        ({"ended_at": "2031-01-01T00:00:00Z"}, 422, "Allowed"),
        ({"what": "  "}, 422, "what"),
    ],
)
def test_what_cannot_be_is_refused_in_words(
    client: TestClient, kept: Any, more: dict[str, Any], status: int, says: str
) -> None:  # fmt: skip
    answer = client.post(f"/api/upkeep/{LINE}/entries", json=entry(client, **more))
    assert answer.status_code == status, answer.text
    assert says in answer.text
    assert client.get(f"/api/upkeep/{LINE}").json()["diary"] == kept["diary"]


def test_what_is_not_there_is_not_released(client: TestClient, kept: Any) -> None:
    assert client.post(f"/api/upkeep/{kept['line']}/entries/9999/release", json={"author": "Jon"}).status_code == 404
    number = client.post(f"/api/upkeep/{LINE}/entries", json=entry(client)).json()["diary"][0]["number"]
    elsewhere = client.post(f"/api/upkeep/ring-line/entries/{number}/release", json={"author": "Jon"})
    assert elsewhere.status_code == 404, "it is another line's"
