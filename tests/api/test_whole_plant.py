"""The whole plant over the API: five lines, their plans and cards, and the stores they draw from."""

import io
from datetime import date
from typing import Any

import pytest
from fastapi.testclient import TestClient
from openpyxl import load_workbook

from rundgang.core.materials import supply
from rundgang.core.planning.model import LinePlan
from rundgang.demo.ostermere import ostermere

pytestmark = pytest.mark.whole
LINES = ["ring-line", "bread-line", "doughnut-line", "biscuit-line", "pastry-line"]


def test_every_line_has_its_plan_and_the_check_finds_nothing(client: TestClient) -> None:
    day = client.get("/api/window").json()
    assert [line["id"] for line in day["lines"]] == LINES
    assert [plan["line"] for plan in day["plans"]] == LINES
    for line in LINES:
        view = client.get(f"/api/plans/newest?line={line}").json()
        assert view["plan"]["line"] == line
        assert view["violations"] == []
        assert view["stale"] is False
        assert {row["kind"] for row in view["timeline"]["rows"]} >= {"batch", "rate"}


def test_planning_one_line_leaves_the_others(client: TestClient) -> None:
    change = {"kind": "pin", "line": "pastry-line", "run": "R1", "pinned": True}
    assert client.post("/api/versions/1/changes", json={"change": change}).status_code == 201
    assert [plan["number"] for plan in client.get("/api/window").json()["plans"]] == [1, 2, 3, 4, 6]
    assert client.get("/api/plans/newest?line=bread-line").json()["number"] == 2
    assert client.get("/api/plans/newest?line=moon").status_code == 404


def test_sponges_have_cards_of_their_own_and_no_probe(client: TestClient) -> None:
    cards = client.get("/api/plans/2/cards").json()["cards"]
    sponges = [card for card in cards if card["preparation"] == "night-sponge"]
    assert sponges
    for sponge in sponges:
        dough = next(c for c in cards if (c["run"], c["key"]) == (sponge["run"], str(sponge["number"])))
        assert sponge["divided_min"] == pytest.approx(dough["start_min"])
        line = next(line for line in dough["ingredients"] if line["ingredient"] == "night-sponge")
        assert sponge["dough_g"] == pytest.approx(line["grams"], abs=1), "to the gram, where a dough is divided too"
        assert "4 × 27.0" in dough["rule"]["equations"][0], "the sponge's is the fourth temperature"
    assert (
        client.post(f"/api/plans/2/cards/{sponges[0]['run']}/1-night-sponge/probe", json={"dough_c": 25}).status_code
        == 422
    )


def _divided(client: TestClient) -> tuple[dict[str, Any], dict[str, Any], dict[str, Any]]:
    """Of the bread line's plan a run that begins with another's dough, that other run, and the whole dough."""
    runs = client.get("/api/plans/2").json()["plan"]["runs"]
    run = next(run for run in runs if run["batches"][0]["shared"])
    rest = run["batches"][0]
    found = [
        (other, batch)
        for other in runs
        for batch in other["batches"]
        if not batch["shared"] and (batch["mixer"], batch["start_min"]) == (rest["mixer"], rest["start_min"])
    ]
    assert len(found) == 1, "a dough is mixed once"
    return run, *found[0]


def test_a_divided_dough_has_one_card(client: TestClient) -> None:
    """The demo's rolls are of one dough: its card is of all of it, and says what is for whom; the rest has none."""
    run, other, whole = _divided(client)
    rest = run["batches"][0]
    cards = client.get("/api/plans/2/cards").json()["cards"]
    named = {(card["run"], card["key"]): card for card in cards}
    assert (run["id"], "1") not in named
    card = named[other["id"], str(whole["number"])]
    assert card["dough_g"] == whole["dough_g"] + rest["dough_g"]
    assert sum(line["grams"] for line in card["ingredients"]) == card["dough_g"]
    assert (card["rest"]["run"], card["rest"]["grams"]) == (run["id"], rest["dough_g"])
    assert client.post(f"/api/plans/2/cards/{run['id']}/1/probe", json={"dough_c": 27}).status_code == 404
    path = f"/api/plans/2/cards/{other['id']}/{whole['number']}/probe"
    probed = client.post(path, json={"dough_c": 27}).json()
    assert probed["probe"]["good"]
    assert probed["rest"] == card["rest"]


def test_the_workbook_marks_the_rest_of_a_dough(client: TestClient) -> None:
    run, other, _ = _divided(client)
    book = load_workbook(io.BytesIO(client.get("/api/versions/1/plan.xlsx").content))
    columns, *rows = book["Batches"].iter_rows(values_only=True)
    listed = [dict(zip(columns, row, strict=True)) for row in rows if row[0] == "bread-line"]
    marked = {row["run"] for row in listed if row["rest_of_a_dough"] == "yes"}
    assert run["id"] in marked
    assert other["id"] not in {row["run"] for row in listed if row["batch"] == 2 and row["rest_of_a_dough"] == "yes"}
    columns, *rows = book["Runs"].iter_rows(values_only=True)
    mixed = next(dict(zip(columns, row, strict=True)) for row in rows if row[:2] == ("bread-line", run["id"]))
    assert mixed["batches"] == len(run["batches"]) - 1, "what another run mixes is none of its own"


def test_a_probe_of_a_sponge_dough_learns_from_four_temperatures(client: TestClient) -> None:
    """FF = 4 x 27.5 − 21 flour − the room of its hour − 27.5 sponge − the water's."""
    hours = client.get("/api/window").json()["conditions"]["by_hour"]
    cards = client.get("/api/plans/2/cards").json()["cards"]
    card = next(card for card in cards if card["product"] == "tarn-white" and card["preparation"] is None)
    path = f"/api/plans/2/cards/{card['run']}/{card['number']}/probe"
    assert client.post(path, json={"dough_c": 27.5}).status_code == 201
    found = client.get(f"/api/friction?product=tarn-white&mixer={card['mixer']}").json()
    water, room = card["water"]["wanted_c"], hours[int(card["start_min"] // 60)]["room_c"]
    assert found["learnt"]["factors"] == [pytest.approx(4 * 27.5 - 21 - room - 27.5 - water)]


def test_todays_humidity_and_moisture_reach_every_card(client: TestClient) -> None:
    wet = {"room_c": 23.5, "flour_c": 21, "tap_c": 14.5, "chilled_c": 4, "humidity_pct": 80}
    assert client.post("/api/conditions", json=wet).status_code == 201
    assert all("80 % humidity" in card["correction"] for card in client.get("/api/plans/1/cards").json()["cards"])
    assert client.post("/api/conditions", json=wet | {"flour_moisture_pct": 30}).status_code == 422
    client.post("/api/conditions", json=wet | {"flour_moisture_pct": 13})
    card = client.get("/api/plans/1/cards").json()["cards"][0]
    assert "13 % moisture" in card["correction"]


def test_the_stores_add_up_over_all_lines(client: TestClient) -> None:
    """The same sum from the plans themselves; film is short in the demo, and the batch is named."""
    plans = [LinePlan.model_validate(client.get(f"/api/plans/{number}").json()["plan"]) for number in range(1, 6)]
    wanted = {item.item: item for item in supply(ostermere(date(2026, 3, 11)), plans)}
    served = {item["item"]: item for item in client.get("/api/materials").json()}
    assert served.keys() == wanted.keys()
    for name, item in served.items():
        assert item["used"] == pytest.approx(wanted[name].used)
    out = served["film"]["runs_out"]
    assert out["line"] == "biscuit-line"
    assert served["chocolate"]["used"] > served["chocolate"]["on_hand"]
    yeast = served["yeast"]
    assert sum(yeast["by_hour"]) == pytest.approx(yeast["used"])


def test_centres_are_planned_beside_their_rings(client: TestClient) -> None:
    view = client.get("/api/plans/newest?line=doughnut-line").json()
    glazed = [run["id"] for run in view["plan"]["runs"] if run["product"] == "gull-glazed"]
    assert [cut["run"] for cut in view["plan"]["cut_runs"]] == glazed
    ribbons = {(ribbon["run"], ribbon["product"]) for ribbon in view["timeline"]["ribbons"]}
    assert {(run, "gull-bites") for run in glazed} <= ribbons
    choices = client.get(f"/api/plans/{view['number']}/runs/{glazed[0]}/batching").json()
    assert choices["product"] == "gull-glazed"


@pytest.mark.parametrize("line", LINES)
def test_every_product_is_balanced_and_ready_for_the_bench(client: TestClient, line: str) -> None:
    for product in client.get("/api/window").json()["products"]:
        if product["line"] != line:
            continue
        found = client.post(f"/api/lines/{line}/balance/{product['id']}", json={}).json()
        assert found["pace_per_h"] == product["target_per_hour"]
        assert found["least_per_h"] < found["most_per_h"]
        assert all(stage["utilisation"] <= 1 + 1e-9 for stage in found["stages"])
        figures = client.get(f"/api/products/{product['id']}/calculators").json()
        for entry, values in figures.items():
            asked = client.post(f"/api/calculators/{entry}", json=values)
            assert asked.status_code == 200, (product["id"], entry, asked.text)
