"""Counts and deliveries over the API, and a plant built: what is kept, who said so, and what is refused."""

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from rundgang.clock import Clock


def entries(client: TestClient) -> list[str]:
    return [one["origin"] for one in client.get("/api/stock/entries").json()]


def flour(client: TestClient) -> dict[str, Any]:
    """What the ring line's plan draws most of, as its stock stands."""
    client.post("/api/stock/deliveries", json={"item": "flour-mill", "amount": 1, "at": "2026-03-10T21:00"})
    stocks = client.get("/api/opening").json()["stocks"]
    return dict(next(stock for stock in stocks if stock["item"] == "flour-mill"))


def test_packs_are_counted_with_a_reason(client: TestClient) -> None:
    request = {
        "counted": [{"product": "lantern-plain", "packs": 400}],
        "reason": "after the stocktake",
        "author": "Ida",
    }
    made = client.post("/api/stock/packs", json=request)
    assert made.status_code == 201, made.text
    assert made.json()["origin"] == "Ida counted 400 Lantern Plain: after the stocktake"
    lots = client.get("/api/opening").json()["finished"]
    assert [(lot["product"], lot["packs"]) for lot in lots] == [("lantern-plain", 400)]
    assert client.get("/api/versions/newest").json()["stale"]
    request["counted"] = [{"product": "lantern-plain", "packs": 150}]
    assert client.post("/api/stock/packs", json=request).status_code == 201
    demand = {one["product"]: one for one in client.get("/api/demand").json()}
    assert (demand["lantern-plain"]["in_stock"], demand["lantern-plain"]["lying"]) == (150, 150)
    assert len(entries(client)) == 2


def test_packs_are_counted_with_when_they_were_made(client: TestClient) -> None:
    counted = {"product": "lantern-plain", "packs": 400, "made": "2026-03-10T14:00"}
    made = client.post("/api/stock/packs", json={"counted": [counted], "reason": "found in the cold store"})
    assert made.status_code == 201, made.text
    (lot,) = client.get("/api/opening").json()["finished"]
    assert (lot["packs"], lot["made_min"]) == (400, -360), "the window begins at 20:00"
    late = counted | {"packs": 500, "made": "2026-03-10T21:00"}
    refused = client.post("/api/stock/packs", json={"counted": [late], "reason": "found"})
    assert (refused.status_code, "before that" in refused.text) == (422, True)


def test_a_material_is_delivered_and_counted(client: TestClient) -> None:
    before = flour(client)
    request = {
        "item": "flour-mill", "amount": 900, "at": "2026-03-10T23:30", "lot": "MF-7", "best_before": "2026-12-01",
    }  # fmt: skip
    assert client.post("/api/stock/deliveries", json=request).status_code == 201
    found = flour(client)
    came = next(one for one in found["deliveries"] if one["lot"] == "MF-7")
    assert (came["at_min"], came["amount"], came["best_before"]) == (210, 900, "2026-12-01")
    counted = client.post("/api/stock/materials", json={"item": "flour-mill", "amount": 5_000, "reason": "weighed"})
    assert counted.status_code == 201
    assert flour(client)["on_hand"] == pytest.approx(5_000 - sum(
        one["amount"] for one in found["deliveries"] if one["at_min"] <= 0
    ))  # fmt: skip
    assert before["on_hand"] == 0, "nobody had said what there was"
    assert any(said.startswith("planner counted 5,000 kg of") for said in entries(client))


@pytest.mark.parametrize(
    ("path", "request_", "status", "said"),
    [
        ("materials", {"item": "gold", "amount": 1, "reason": "found"}, 404, "gold"),
        ("materials", {"item": "salt", "amount": -1, "reason": "lost"}, 422, "amount: is -1; allowed: at least 0"),
        ("materials", {"item": "salt", "amount": 1, "reason": " "}, 422, "at least 1 character"),
        ("deliveries", {"item": "salt", "amount": 5, "at": "2026-03-19T10:00"}, 422, "allowed: 20:00 to"),
        (
            "deliveries",
            {"item": "salt", "amount": 0, "at": "2026-03-10T21:00"},
            422,
            "amount: is 0; allowed: more than 0",
        ),
        ("packs", {"counted": [], "reason": "none"}, 422, "at least 1"),
        ("packs", {"counted": [{"product": "stone", "packs": 1}], "reason": "odd"}, 404, "stone"),
    ],
)
def test_what_cannot_be_is_refused_and_nothing_is_kept(
    client: TestClient, path: str, request_: dict[str, Any], status: int, said: str
) -> None:
    answer = client.post(f"/api/stock/{path}", json=request_)
    assert answer.status_code == status, answer.text
    assert said in answer.text
    assert entries(client) == []


def test_a_draft_says_what_it_carries_and_becomes_a_plant(empty: FastAPI) -> None:
    client = TestClient(empty, raise_server_exceptions=False)
    pattern = next(one for one in client.get("/api/build/patterns").json() if one["family"] == "ring rolls")
    product = {key: pattern[key] for key in ("pieces_per_pack", "baked_g", "target_per_hour", "fresh_for_h")}
    draft: dict[str, Any] = {
        "plant": "Quay Bakery", "town": "Quay", "time_zone": "Europe/Vienna", "line": "Rings", "pattern": pattern["id"],
        "figures": {"proofer": {"places": 4_000}}, "products": [{**product, "name": "Quay Ring"}],
    }  # fmt: skip
    tried = client.post("/api/build/try", json=draft).json()["balances"][0]
    assert tried["bottleneck"] == "proofer"
    assert client.get("/api/plant").json()["origin"] is None, "trying stores nothing"
    wrong = draft | {"time_zone": "Mars/Base"}
    assert "allowed: an IANA name" in client.post("/api/build/try", json=wrong).text
    wrong = draft | {"figures": {"proofer": {"places": -4}}}
    refused = client.post("/api/build/try", json=wrong)
    assert refused.status_code == 422
    assert "is -4; allowed: at least 1" in refused.text
    assert client.post("/api/build/try", json=draft | {"pattern": "stone"}).status_code == 404
    made = client.post("/api/build", json=draft)
    assert made.status_code == 201, made.text
    assert made.json()["contents"]["name"] == "Quay Bakery"
    assert client.get("/api/window").json()["lines"] == [{"id": "rings", "name": "Rings"}]
    assert client.post("/api/build", json=draft).status_code == 409


def test_stock_goes_out_and_in_as_a_file(client: TestClient) -> None:
    """A first day's stock by file: packs by when they were made, materials, what comes; all of it or nothing."""
    rows = (
        "entry,name,amount,at,lot,best_before\n"
        "packs,Lantern Plain,120,2026-03-10 12:00,,\n"
        "packs,Lantern Plain,80,2026-03-10 16:00,,\n"
        "material,Mill flour 700,9000,,,\n"
        "delivery,Mill flour 700,2500,2026-03-11 02:00,M-77,2026-06-30\n"
    )
    csv = {"content-type": "text/csv"}
    wrong = client.post("/api/stock/file", content=rows.replace("9000", "much"), headers=csv)
    assert wrong.status_code == 422
    assert wrong.json()["faults"] == ["line 4, amount: found “much”; allowed: a number"]
    assert entries(client) == []
    taken = client.post("/api/stock/file?name=monday.csv&author=Ida", content=rows, headers=csv)
    assert taken.status_code == 201, taken.text
    assert taken.json()["origin"] == "Ida: 4 rows of monday.csv"
    opening = client.get("/api/opening").json()
    starts = datetime.fromisoformat(client.get("/api/window").json()["window"]["starts_at"])
    hours = [(starts - datetime(2026, 3, 10, at - 1, tzinfo=UTC)).total_seconds() / 60 for at in (12, 16)]
    assert [(lot["packs"], -lot["made_min"]) for lot in opening["finished"]] == [(120, hours[0]), (80, hours[1])]
    (mill,) = (stock for stock in opening["stocks"] if stock["item"] == "flour-mill")
    assert (mill["deliveries"][0]["lot"], mill["deliveries"][0]["best_before"]) == ("M-77", "2026-06-30")
    out = client.get("/api/stock/file.csv")
    assert "packs,Lantern Plain,120,2026-03-10 12:00" in out.text
    assert "delivery,Mill flour 700,2500,2026-03-11 02:00,M-77,2026-06-30" in out.text
    assert client.post("/api/stock/file", content=out.content, headers=csv).status_code == 201
    assert client.get("/api/stock/file.csv").text == out.text, "a file that says what is known changes nothing"


def test_packs_that_nobody_knew_of_are_counted_in_the_midst_of_a_window(app: FastAPI, client: TestClient) -> None:
    """They are taken for as old as the window; and every page answers after it."""
    starts = datetime.fromisoformat(client.get("/api/window").json()["window"]["starts_at"])
    app.state.clock = Clock(shows=starts + timedelta(minutes=1_020), at=datetime.now(UTC))
    lying = {one["product"]: one["lying"] for one in client.get("/api/demand").json()}
    request = {"counted": [{"product": "lantern-plain", "packs": lying["lantern-plain"] + 70}], "reason": "found"}
    assert client.post("/api/stock/packs", json=request).status_code == 201
    for path in ("/api/window", "/api/orders", "/api/versions/newest", "/api/demand", "/api/opening"):
        assert client.get(path).status_code == 200, path
    (lot,) = client.get("/api/opening").json()["finished"]
    assert (lot["packs"], lot["made_min"]) == (70, 0)
