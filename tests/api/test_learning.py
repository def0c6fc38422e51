"""Learning through the API: what probes taught, tried on the plan, taken into the library once, or left."""

from collections import Counter
from typing import Any

import pytest
from fastapi.testclient import TestClient

LINE = "ring-line"
OFF_K = (1.0, 1.2, 0.9, 1.1, 1.0, 0.8)


def lessons(client: TestClient) -> dict[str, Any]:
    answer = client.get(f"/api/learning/{LINE}")
    assert answer.status_code == 200, answer.text
    return {lesson["key"]: lesson for lesson in answer.json()["lessons"]}


@pytest.fixture
def taught(client: TestClient) -> dict[str, Any]:
    """The lesson of a product and mixer of which doughs were probed about 1 K warmer than they should be."""
    cards = client.get("/api/plans/1/cards").json()["cards"]
    (product, mixer), _ = Counter((card["product"], card["mixer"]) for card in cards).most_common(1)[0]
    library = client.get("/api/library").json()["library"]
    wanted = {one["id"]: one["dough_temperature_c"] for one in library["products"]}
    own = [card for card in cards if (card["product"], card["mixer"]) == (product, mixer)]
    for card, off in zip(own, OFF_K, strict=False):
        path = f"/api/plans/1/cards/{card['run']}/{card['number']}/probe"
        body = {"dough_c": wanted[product] + off, "confirmed": True}
        assert client.post(path, json=body).status_code == 201
    found: dict[str, Any] = lessons(client)[f"friction/{product}/{mixer}"]
    return found


def taking(lesson: dict[str, Any]) -> dict[str, Any]:
    named = {name: lesson[name] for name in ("kind", "product", "station", "mixer")}
    return {**named, "value": lesson["estimate"]["value"]}


def test_a_warmer_dough_teaches_a_higher_friction_factor(client: TestClient, taught: dict[str, Any]) -> None:
    """A dough 1 K above what is wanted says 3 or 4 K more friction: FF = n Td - (the others + Tw)."""
    assert taught["tells"]
    assert taught["estimate"]["observed"] == len(OFF_K)
    assert taught["estimate"]["value"] > taught["said"] + 1
    assert taught["estimate"]["low"] < taught["estimate"]["value"] < taught["estimate"]["high"]
    assert len(taught["shown"]) == len(OFF_K)


def test_what_is_taken_is_in_the_next_library_and_only_once(client: TestClient, taught: dict[str, Any]) -> None:
    before = client.get("/api/library").json()
    tried = client.post(f"/api/learning/{LINE}/try", json={"taken": [taking(taught)]}).json()
    assert tried["faults"] == []
    assert tried["changes"]
    assert client.get("/api/library").json() == before, "nothing is saved by trying"
    body = {"taken": [taking(taught)], "based_on": before["note"]["number"], "author": "Ida"}
    taken = client.post(f"/api/learning/{LINE}/take", json=body)
    assert taken.status_code == 201
    after = client.get("/api/library").json()
    assert after["note"]["origin"] == "1 figure learnt from the record (friction), by Ida"
    product = next(one for one in after["library"]["products"] if one["id"] == taught["product"])
    assert product["route"][0]["frictions"] == [
        {"mixer": taught["mixer"], "friction_c": round(taught["estimate"]["value"], 1)}
    ]
    again = client.post(f"/api/learning/{LINE}/take", json=body)
    assert again.status_code == 409
    assert client.get("/api/library").json() == after
    learnt = lessons(client)[taught["key"]]
    assert not learnt["tells"], "the library says it now"
    friction = client.get("/api/friction", params={"product": taught["product"], "mixer": taught["mixer"]}).json()
    assert friction["own_c"] == round(taught["estimate"]["value"], 1), "and the dough room begins from it"


def test_what_is_left_is_not_offered_until_the_record_says_otherwise(
    client: TestClient, taught: dict[str, Any]
) -> None:  # fmt: skip
    estimate = taught["estimate"]
    body = {"lesson": taught["key"], "low": estimate["low"], "high": estimate["high"], "author": "Ida"}
    assert client.post(f"/api/learning/{LINE}/leave", json={**body, "reason": " "}).status_code == 422
    assert client.post(f"/api/learning/{LINE}/leave", json={**body, "reason": "new flour"}).status_code == 201
    assert lessons(client)[taught["key"]]["left"]["reason"] == "new flour"
    moved = {**body, "low": estimate["high"] + 1, "high": estimate["high"] + 2, "reason": "as it was once"}
    assert client.post(f"/api/learning/{LINE}/leave", json=moved).status_code == 201
    assert lessons(client)[taught["key"]]["left"] is None, "the figure lies elsewhere than when it was left"


@pytest.mark.parametrize(
    ("lesson", "status", "says"),
    [
        ({"kind": "friction", "product": "nothing", "mixer": "A", "value": 20}, 404, "product"),
        ({"kind": "stops", "station": "nowhere", "value": 20}, 404, "station"),
        ({"kind": "stops", "product": "lantern-plain", "value": 20}, 422, "stops is of a station"),
        ({"kind": "stands", "station": "oven", "value": 0}, 422, "above 0"),
        ({"kind": "yield", "product": "lantern-plain", "station": "mixers", "value": 0.9}, 404, "yield of"),
        ({"kind": "belt set", "station": "divider", "value": 9}, 404, "belt set of"),
        ({"kind": "weather", "station": "oven", "value": 1}, 422, "kind"),
    ],
)
def test_what_cannot_be_taken_is_refused_in_words(
    client: TestClient, lesson: dict[str, Any], status: int, says: str
) -> None:  # fmt: skip
    number = client.get("/api/library").json()["note"]["number"]
    for path, body in (
        ("try", {"taken": [lesson]}),
        ("take", {"taken": [lesson], "based_on": number, "author": "Ida"}),
    ):
        answer = client.post(f"/api/learning/{LINE}/{path}", json=body)
        assert answer.status_code == status
        assert says in answer.text
    assert client.get("/api/library").json()["note"]["number"] == number
    assert client.get("/api/learning/no-line").status_code == 404


def test_a_mixer_the_plant_has_not_is_refused(client: TestClient, taught: dict[str, Any]) -> None:
    strange = {**taking(taught), "mixer": "Mixer Nowhere"}
    tried = client.post(f"/api/learning/{LINE}/try", json={"taken": [strange]}).json()
    assert "allowed" in tried["faults"][0]["says"]
