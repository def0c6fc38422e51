"""A stop over the API: what it does, one option taken and published, and what is refused; the room by the hour."""

from datetime import datetime
from typing import Any

from fastapi.testclient import TestClient

STOP = {
    "line": "ring-line",
    "station": "oven",
    "begins": "2026-03-10T23:30",
    "low_min": 5,
    "likely_min": 20,
    "high_min": 60,
}


def advised(client: TestClient, **changes: object) -> dict[str, Any]:
    answer = client.post("/api/versions/1/stops", json=STOP | changes)
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def test_a_stop_is_answered_and_nothing_is_stored(client: TestClient) -> None:
    found = advised(client)
    assert found["effect"]["stretches"]
    assert [loss["minutes"] for loss in found["effect"]["losses"]] == [5, 20, 60]
    assert [option["minutes"] for option in found["options"] if option["kind"] == "wait"] == [5, 20, 60]
    assert found["options"][found["cheapest"]]["minutes"] == 20
    assert client.get("/api/versions/newest").json()["note"]["number"] == 1
    assert client.get("/api/opening").json()["blocks"] == []


def test_an_option_taken_closes_the_station_and_is_what_the_floor_works_by(client: TestClient) -> None:
    option = next(one for one in advised(client)["options"] if one["minutes"] == 20)
    request = {"stop": STOP, "kind": "wait", "minutes": 20, "author": "Ida"}
    made = client.post("/api/versions/1/stops/taken", json=request)
    assert made.status_code == 201, made.text
    assert made.json()["cost"] == option["cost"]
    newest = client.get("/api/versions/newest").json()
    assert newest["published"]["version"] == newest["note"]["number"] == made.json()["version"]
    assert newest["note"]["note"] == "Steam oven stands for 20 min: waited for"
    assert not newest["violations"]
    blocks = client.get("/api/opening").json()["blocks"]
    assert [(block["station"], block["to_min"] - block["from_min"]) for block in blocks] == [("oven", 20)]


def test_undo_of_a_stop_takes_its_downtime_back_and_redo_writes_it_again(client: TestClient) -> None:
    advised(client)
    request = {"stop": STOP, "kind": "wait", "minutes": 20, "author": "Ida"}
    made = client.post("/api/versions/1/stops/taken", json=request).json()["version"]
    for _ in range(2):
        undone = client.post("/api/versions/1/restore", json={"action": made})
        assert (undone.status_code, undone.json()["opening"]) == (201, "put back"), undone.text
        assert client.get("/api/opening").json()["blocks"] == []
        assert not client.get("/api/versions/newest").json()["stale"]
        redone = client.post(f"/api/versions/{made}/restore", json={"action": made})
        assert redone.json()["opening"] == "put back"
        assert [block["station"] for block in client.get("/api/opening").json()["blocks"]] == ["oven"]
        assert not client.get("/api/versions/newest").json()["stale"]


def test_undo_of_a_stop_leaves_downtime_that_has_changed_since(client: TestClient) -> None:
    request = {"stop": STOP, "kind": "wait", "minutes": 20, "author": "Ida"}
    made = client.post("/api/versions/1/stops/taken", json=request).json()["version"]
    closing = {"line": "ring-line", "station": "oven", "kind": "repair", "begins": "2026-03-11T06:00", "minutes": 10}
    closed = client.post("/api/opening/closings", json=closing | {"reason": "belt"})
    assert closed.status_code == 201, closed.text
    undone = client.post("/api/versions/1/restore", json={"action": made}).json()
    assert undone["opening"] == "changed since"
    assert len(client.get("/api/opening").json()["blocks"]) == 2


def test_bad_stops_say_what_is_allowed(client: TestClient) -> None:
    for changes, status, said in (
        ({"likely_min": 100}, 422, "each at least the one before"),
        ({"begins": "2026-03-09T12:00"}, 422, "in the window"),
        ({"begins": "2026-03-29T02:30"}, 422, "a time that exists"),
        ({"station": "nowhere"}, 404, "station of the line"),
        ({"line": "nowhere"}, 404, "line"),
        ({"station": "mixers"}, 422, "one that pieces pass"),
    ):
        answer = client.post("/api/versions/1/stops", json=STOP | changes)
        assert (answer.status_code, said in answer.text) == (status, True), answer.text
    unknown = {"stop": STOP, "kind": "wait", "minutes": 21}
    assert client.post("/api/versions/1/stops/taken", json=unknown).status_code == 404
    assert client.get("/api/versions/newest").json()["note"]["number"] == 1


def test_the_room_by_the_hour_from_two_figures(client: TestClient) -> None:
    """Warmest at 04:00 on the plant's clock; the figures come back as typed; without them the room stays as it is."""
    today = {"room_c": 22, "flour_c": 21, "tap_c": 14}
    course = {"low_c": 18, "high_c": 26, "warmest_at": "04:00"}
    assert client.post("/api/conditions", json=today | {"room": course}).status_code == 201
    window = client.get("/api/window").json()
    hours = [hour["room_c"] for hour in window["conditions"]["by_hour"]]
    assert len(hours) == -(-window["window"]["minutes"] // 60)
    at_four = (4 - datetime.fromisoformat(window["window"]["starts_at"]).hour) % 24
    assert hours[at_four - 1] == hours[at_four] == max(hours) == 26.0
    kept = window["conditions"]["room_course"]
    assert (kept["low_c"], kept["high_c"], window["warmest_at"]) == (18, 26, "04:00:00"), "as they were typed"
    wrong = client.post("/api/conditions", json=today | {"room": course | {"low_c": 30}})
    assert wrong.status_code == 422
    assert "at most high_c" in wrong.text
    assert client.post("/api/conditions", json=today).status_code == 201
    assert client.get("/api/window").json()["warmest_at"] is None


def test_packs_short_are_packs_whatever_their_priority(client: TestClient) -> None:
    """An order that counts double is short by its packs, not by twice as many; its score counts them double."""
    rows = "order,dispatch,product,packs,priority\n9,2026-03-11 03:30,Lantern Plain,60000,2\n"
    brought = client.post("/api/orders/import?mode=replace", content=rows, headers={"content-type": "text/csv"})
    assert brought.status_code == 201, brought.text
    made = client.post("/api/versions/1/changes", json={"change": {"kind": "fit", "line": "ring-line"}})
    assert made.status_code == 201, made.text
    view = client.get(f"/api/versions/{made.json()['version']}").json()
    assert view["packs_short"] > 0
    assert view["score"]["packs_short"] == 2 * view["packs_short"]


def test_what_happened_to_a_run_is_what_the_floor_works_by(client: TestClient) -> None:
    run = client.get("/api/versions/newest?line=ring-line").json()["plans"][0]["plan"]["runs"][0]
    slowed = {"kind": "slowed", "line": "ring-line", "run": run["id"], "share": 0.5}
    early = client.post("/api/versions/1/happened", json={"happened": slowed, "since": "2026-03-10T20:01"})
    assert (early.status_code, "not on the line" in early.text) == (422, True), early.text
    entered = client.post("/api/versions/1/happened", json={"happened": slowed, "since": "2026-03-10T23:30"})
    assert entered.status_code == 201, entered.text
    newest = client.get("/api/versions/newest?line=ring-line").json()
    assert newest["published"]["version"] == newest["note"]["number"] == entered.json()["version"]
    assert newest["note"]["note"] == f"{run['id']} went on at 50 % of its pace"
    assert newest["plans"][0]["plan"]["runs"][0]["feed_min"] > run["feed_min"]
    assert newest["violations"] == newest["plans"][0]["violations"] == []
    ended = {"kind": "ended", "line": "ring-line", "run": run["id"], "packs": 10_000_000}
    assert client.post("/api/versions/1/happened", json={"happened": ended}).status_code == 422
