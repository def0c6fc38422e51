"""Versions of the plan over the API: changed, tried, explained, compared, published, saved; stock, blocks, demand."""

import csv
import io
import json
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from icalendar import Calendar
from openpyxl import load_workbook
from sqlmodel import Session

from rundgang.core.planning.checked import checked
from rundgang.core.planning.model import PlantPlan
from rundgang.formats.plan_files import RUN_COLUMNS
from rundgang.store.plans import Made
from rundgang.store.repository import Repository

BLOCK = {
    "id": "knives",
    "line": "ring-line",
    "station": "divider",
    "kind": "blades",
    "from_min": 240,
    "to_min": 300,
    "reason": "knives sharpened",
}


def change(client: TestClient, version: int, **request: object) -> dict[str, Any]:
    answer = client.post(f"/api/versions/{version}/changes", json={"change": request, "author": "Ida"})
    assert answer.status_code == 201, answer.text
    return dict(answer.json())


def settle(client: TestClient, **settings: object) -> int:
    """Store stock or blocks; the number of the settings."""
    now = client.get("/api/opening").json()
    request = {"finished": now["finished"], "blocks": now["blocks"], "seen": now["number"]} | settings
    answer = client.post("/api/opening", json=request)
    assert answer.status_code == 201, answer.text
    return int(answer.json()["number"])


def test_the_first_version_is_published(client: TestClient) -> None:
    view = client.get("/api/versions/newest").json()
    assert view["note"]["number"] == 1
    assert view["published"]["version"] == 1
    assert not view["stale"]
    assert view["bound"] <= view["cost"]
    assert [plan["plan"]["line"] for plan in view["plans"]] == ["ring-line"]


def test_a_change_makes_a_version_and_says_what_moved(client: TestClient) -> None:
    made = change(client, 1, kind="place", line="ring-line", run="R1", before=None)
    assert made["version"] == 2
    assert made["moved"]
    notes = client.get("/api/versions").json()
    assert [note["number"] for note in notes] == [2, 1]
    assert (notes[0]["author"], notes[0]["parent"]) == ("Ida", 1)
    assert "R1" in notes[0]["note"]
    assert client.get("/api/versions/2").json()["violations"] == []
    assert client.get("/api/window").json()["plans"][0]["packs_short"] == notes[0]["score"]["packs_short"]


def test_a_try_stores_nothing(client: TestClient) -> None:
    runs = client.get("/api/versions/1").json()["plans"][0]["plan"]["runs"]
    request = {"change": {"kind": "move", "line": "ring-line", "run": "R2", "start_min": runs[1]["start_min"] + 30}}
    tried = client.post("/api/versions/1/tries", json=request).json()
    assert tried["violations"] == []
    assert any(one["was_run"] == "R2" for one in tried["moved"])
    assert tried["timeline"]["ribbons"]
    assert len(client.get("/api/versions").json()) == 1


@pytest.mark.parametrize(
    ("wanted", "status", "said"),
    [
        ({"kind": "pin", "line": "ring-line", "run": "R99"}, 404, "no run “R99”"),
        ({"kind": "pin", "line": "moon", "run": "R1"}, 404, "no planned line “moon”"),
        ({"kind": "split", "line": "ring-line", "run": "R1", "packs": 999_999}, 422, "the packs of the first part"),
        ({"kind": "pace", "line": "ring-line", "run": "R1", "share": 3}, 422, "cannot be read"),
        ({"kind": "fly", "line": "ring-line", "run": "R1"}, 422, "cannot be read"),
    ],
)
def test_a_wrong_change_is_refused_in_words(client: TestClient, wanted: dict[str, Any], status: int, said: str) -> None:
    answer = client.post("/api/versions/1/changes", json={"change": wanted})
    assert answer.status_code == status
    assert said in answer.json()["title"]
    assert len(client.get("/api/versions").json()) == 1


def test_undo_is_an_earlier_version_brought_back(client: TestClient) -> None:
    change(client, 1, kind="pin", line="ring-line", run="R1")
    back = client.post("/api/versions/1/restore", json={"author": "Ida"}).json()
    assert (back["note"]["number"], back["note"]["restores"], back["orders"]) == (3, 1, "same")
    first, third = (client.get(f"/api/versions/{number}").json() for number in (1, 3))
    assert first["plans"][0]["number"] == third["plans"][0]["number"], "the line's plan itself is shared"
    assert client.post("/api/versions/9/restore", json={}).status_code == 404


def urgent(client: TestClient, number: str) -> int:
    """An urgent order is taken; the version that it makes."""
    order = {
        "id": number,
        "product": "lantern-plain",
        "wave": client.get("/api/window").json()["waves"][-1]["id"],
        "packs": 40,
    }
    made = client.post("/api/orders/urgent", json={"order": order})
    assert made.status_code == 201, made.text
    return int(made.json()["version"])


def imported(client: TestClient, number: str) -> None:
    rows = f"order,dispatch,product,packs\n{number},harbour,lantern-plain,50\n"
    assert client.post("/api/orders/import", content=rows, headers={"Content-Type": "text/csv"}).status_code == 201


def ordered(client: TestClient) -> set[str]:
    return {order["id"] for order in client.get("/api/orders").json()["orders"]}


def restored(client: TestClient, number: int, action: int) -> str:
    """What became of the orders when a version was brought back, because an action was undone or redone."""
    made = client.post(f"/api/versions/{number}/restore", json={"action": action})
    assert made.status_code == 201, made.text
    return str(made.json()["orders"])


def test_undo_takes_an_urgent_order_out_again_and_redo_brings_it_back(client: TestClient) -> None:
    before = ordered(client)
    made = urgent(client, "U1")
    for _ in range(2):
        assert restored(client, 1, made) == "put back"
        assert ordered(client) == before
        assert not client.get("/api/versions/newest").json()["stale"]
        assert restored(client, made, made) == "put back"
        assert ordered(client) == before | {"U1"}
        assert not client.get("/api/versions/newest").json()["stale"]


def test_undo_leaves_orders_that_have_changed_since_and_says_so(client: TestClient) -> None:
    made = urgent(client, "U1")
    imported(client, "n1")
    assert restored(client, 1, made) == "changed since"
    assert {"U1", "n1"} <= ordered(client)
    assert client.get("/api/versions/newest").json()["stale"]
    assert client.post("/api/versions/1/restore", json={"action": 99}).status_code == 404


def test_undo_of_a_fit_leaves_the_import_that_it_was_fitted_to(client: TestClient) -> None:
    """The import was an action of its own; and what an urgent order behind it adds is all that its undo takes."""
    imported(client, "n1")
    change(client, 1, kind="fit", line="ring-line")
    assert restored(client, 1, 2) == "same"
    assert "n1" in ordered(client)
    made = urgent(client, "U1")
    assert restored(client, 3, made) == "put back"
    assert "n1" in ordered(client)
    assert "U1" not in ordered(client)


def test_versions_are_compared_line_by_line(client: TestClient) -> None:
    change(client, 1, kind="place", line="ring-line", run="R1", before=None)
    found = client.get("/api/versions/1/compare/2").json()
    assert [line["line"] for line in found["lines"]] == ["ring-line"]
    assert found["lines"][0]["moved"]
    assert client.get("/api/versions/1/compare/1").json()["lines"] == []


def test_what_is_published_is_what_the_floor_works_by(client: TestClient) -> None:
    change(client, 1, kind="pin", line="ring-line", run="R1")
    published = client.post("/api/versions/2/publish", json={"author": "Ida"}).json()
    assert (published["version"], published["author"]) == (2, "Ida")
    assert client.get("/api/versions/1").json()["published"]["version"] == 2


def test_a_version_that_breaks_rules_is_not_published(client: TestClient, app: FastAPI) -> None:
    """A plan made before a station was closed, stored as it was: the check says so, and it stays where it is."""
    with Session(app.state.engine) as session:
        store = Repository(session)
        plan = store.plans.version(1).plan
        number = settle(client, blocks=[BLOCK])
        made = Made(book=1, library=1, opening=number, note="as it was", parent=1)
        version = store.plans.add(plan, made, *checked(store.windows.scenario(), plan))
    assert any("closed" in fault.text for stored in version.plans for fault in stored.violations)
    answer = client.post(f"/api/versions/{version.note.number}/publish", json={})
    assert answer.status_code == 422
    assert "breaks rules" in answer.json()["title"]
    assert client.get("/api/versions/1").json()["published"]["version"] == 1
    assert client.post("/api/versions/99/publish", json={}).status_code == 404


def test_a_run_and_a_late_lorry_are_explained(client: TestClient) -> None:
    view = client.get("/api/versions/1").json()["plans"][0]["plan"]
    last = view["runs"][-1]["id"]
    links = client.get(f"/api/versions/1/lines/ring-line/runs/{last}/why").json()["chain"]
    assert links[-1]["run"] == last
    assert links[0]["binding"]["after"] is None
    costs = client.get("/api/versions/1/lines/ring-line/changes").json()
    assert len(costs) == len(view["runs"]) - 1
    short = next(outcome for outcome in view["waves"] if outcome["short"])
    why = client.get(f"/api/versions/1/lines/ring-line/late/{short['wave']}/{short['product']}").json()
    assert why["short"] == short["short"]
    assert why["chain"]
    assert client.get("/api/versions/1/lines/ring-line/late/moon/bread").status_code == 404
    assert client.get("/api/versions/1/lines/moon/runs/R1/why").status_code == 404


def test_blocks_make_a_plan_stale_until_it_is_fitted(client: TestClient) -> None:
    settle(client, blocks=[BLOCK])
    assert client.get("/api/versions/1").json()["stale"]
    change(client, 1, kind="fit", line="ring-line")
    view = client.get("/api/versions/2").json()
    assert not view["stale"]
    assert view["plans"][0]["violations"] == []
    assert [shut["reason"] for shut in view["plans"][0]["timeline"]["shut"]] == ["knives sharpened"]
    inside = [
        run
        for run in view["plans"][0]["plan"]["runs"]
        if run["start_min"] < 300 and run["start_min"] + run["feed_min"] > 240
    ]
    assert inside == [], "nothing enters the divider while it is closed"


def test_settings_are_changed_on_what_was_seen_only(client: TestClient) -> None:
    settle(client, blocks=[BLOCK])
    request = {"finished": [], "blocks": [], "seen": 0}
    answer = client.post("/api/opening", json=request)
    assert answer.status_code == 409
    wrong = client.post(
        "/api/opening",
        json={
            "finished": [],
            "blocks": [{**BLOCK, "station": "moon"}],
            "seen": client.get("/api/opening").json()["number"],
        },
    )
    assert wrong.status_code == 422
    assert client.get("/api/opening").json()["blocks"][0]["id"] == "knives"


def test_stock_lessens_what_is_left_to_make(client: TestClient) -> None:
    before = {line["product"]: line for line in client.get("/api/demand").json()}
    settle(client, finished=[{"product": "lantern-plain", "packs": 400, "made_min": -60}])
    after = {line["product"]: line for line in client.get("/api/demand").json()}
    assert after["lantern-plain"]["net"] == before["lantern-plain"]["net"] - 400
    change(client, 1, kind="fit", line="ring-line")
    plan = client.get("/api/versions/2").json()["plans"][0]
    assert plan["violations"] == []
    wanted = sum(run["packs_wanted"] for run in plan["plan"]["runs"] if run["product"] == "lantern-plain")
    assert wanted <= before["lantern-plain"]["net"] - 400 + 1


def test_an_urgent_order_is_in_the_book_and_in_the_plan(client: TestClient) -> None:
    order = {"id": "u1", "product": "lantern-plain", "wave": "depot", "packs": 250}
    made = client.post("/api/orders/urgent", json={"order": order}).json()
    assert made["version"] == 2
    view = client.get("/api/versions/2").json()
    assert not view["stale"]
    lots = [
        lot for run in view["plans"][0]["plan"]["runs"] for lot in run["items"] if run["product"] == "lantern-plain"
    ]
    assert sum(lot["packs"] for lot in lots if lot["wave"] == "depot") >= 250
    fresh = client.post("/api/orders/urgent", json={"order": {**order, "id": "u0", "fresh_for_h": 6}})
    assert fresh.status_code == 201
    waves = client.get("/api/versions/3").json()["plans"][0]["plan"]["waves"]
    assert [one["fresh_for_h"] for one in waves if (one["product"], one["wave"]) == ("lantern-plain", "depot")] == [6]
    assert [one["fresh_for_h"] for one in client.get("/api/orders").json()["orders"] if one["id"] == "u0"] == [6]
    elsewhere = {**order, "id": "u2", "wave": "moon"}
    assert client.post("/api/orders/urgent", json={"order": elsewhere}).status_code == 404
    assert client.post("/api/orders/urgent", json={"order": order}).status_code == 422, "the number is taken"


def test_of_two_who_change_the_plan_at_once_the_second_is_told(client: TestClient) -> None:
    """Both have seen version 1: one makes the next, the other is told of it, and does it once more when it is known."""
    body = {"change": {"kind": "place", "line": "ring-line", "run": "R1", "before": None}, "author": "Ida"}
    seen = {"Rundgang-Version": "1"}
    with ThreadPoolExecutor(2) as both:
        answers = list(both.map(lambda _: client.post("/api/versions/1/changes", json=body, headers=seen), range(2)))
    refused, stored = sorted(answers, key=lambda answer: -answer.status_code)
    assert (stored.status_code, refused.status_code) == (201, 409)
    assert "Version 2 has come since: R1" in refused.json()["title"]
    assert ", by Ida. Nothing was changed." in refused.json()["title"]
    assert client.post("/api/versions/1/restore", json={}, headers=seen).status_code == 409
    assert len(client.get("/api/versions").json()) == 2
    assert [note["number"] for note in client.get("/api/versions?most=1&before=2").json()] == [1]
    known = client.post("/api/versions/1/changes", json=body, headers={"Rundgang-Version": "2"})
    assert known.status_code == 201


def test_the_plan_as_files(client: TestClient) -> None:
    view = client.get("/api/versions/1").json()
    runs = view["plans"][0]["plan"]["runs"]
    rows = list(csv.DictReader(io.StringIO(client.get("/api/versions/1/plan.csv").text)))
    assert [row["run"] for row in rows] == [run["id"] for run in runs]
    assert [int(row["packs"]) for row in rows] == [run["packs"] for run in runs]
    assert rows[0]["start"].endswith("+01:00")
    book = load_workbook(io.BytesIO(client.get("/api/versions/1/plan.xlsx").content))
    assert book.sheetnames == ["Runs", "Batches", "Lorries"]
    assert book["Batches"].max_row == 1 + sum(len(run["batches"]) for run in runs)
    starts = datetime.fromisoformat(client.get("/api/window").json()["window"]["starts_at"])
    for row, run in zip(book["Runs"].iter_rows(min_row=2, values_only=True), runs, strict=True):
        begins = row[RUN_COLUMNS.index("start")]
        assert isinstance(begins, datetime), "a spreadsheet can count with it"
        then = starts.replace(tzinfo=None) + timedelta(minutes=run["start_min"])
        assert abs((begins - then).total_seconds()) <= 1, "no change of the clock in this night"
        assert "Harbour lorry" in str([found[RUN_COLUMNS.index("lorries")] for found in book["Runs"].values])
    plan = PlantPlan.model_validate(json.loads(client.get("/api/versions/1/plan.json").text))
    assert plan.cost == pytest.approx(view["cost"])
    assert client.get("/api/versions/1/plan.pdf").status_code == 422
    assert client.get("/api/versions/1/plan.csv?line=moon").status_code == 404


def test_the_calendar_reads_back_with_the_runs_times(client: TestClient) -> None:
    """RFC 5545, read by the library's own parser: one event a run, at the plant's hours."""
    runs = client.get("/api/versions/1").json()["plans"][0]["plan"]["runs"]
    starts = datetime.fromisoformat(client.get("/api/window").json()["window"]["starts_at"]).astimezone(UTC)
    calendar = Calendar.from_ical(client.get("/api/versions/1/plan.ics").content)
    events: list[Any] = list(calendar.walk("VEVENT"))
    assert len(events) == len(runs)
    for event, run in zip(events, runs, strict=True):
        first = min(slot["start_min"] for batch in run["batches"] for slot in (batch, *batch["preparations"]))
        begins, ends = (datetime.fromisoformat(str(event[name].dt)) for name in ("DTSTART", "DTEND"))
        assert (begins - starts).total_seconds() / 60 == pytest.approx(first, abs=0.02)
        assert (ends - starts).total_seconds() / 60 == pytest.approx(run["last_pack_min"], abs=0.02)
        assert run["id"] in str(event["SUMMARY"])


def events_of(client: TestClient, version: int) -> dict[str, Any]:
    calendar = Calendar.from_ical(client.get(f"/api/versions/{version}/plan.ics").content)
    return {str(event["UID"]): event for event in calendar.walk("VEVENT")}


def test_a_later_version_of_the_calendar_replaces_an_earlier_one(client: TestClient) -> None:
    """RFC 5545, sections 3.8.4.7 and 3.8.7.4: the same event has the same UID, a revision a higher SEQUENCE."""
    runs = client.get("/api/versions/1").json()["plans"][0]["plan"]["runs"]
    change(client, 1, kind="place", line="ring-line", run=runs[-1]["id"], before=runs[0]["id"])
    before, after = events_of(client, 1), events_of(client, 2)
    assert set(before) == set(after)
    assert all(int(after[uid]["SEQUENCE"]) > int(before[uid]["SEQUENCE"]) for uid in before)
    products = {uid: str(event["SUMMARY"]).rpartition(",")[0] for uid, event in before.items()}
    assert products == {uid: str(event["SUMMARY"]).rpartition(",")[0] for uid, event in after.items()}


@pytest.mark.whole
def test_what_is_cut_out_is_in_every_file(client: TestClient) -> None:
    """Centres that are cut out of rings and sold: read back by csv, openpyxl and icalendar."""
    plans = client.get("/api/versions/1").json()["plans"]
    cuts = [cut for view in plans for cut in view["plan"]["cut_runs"]]
    packs = sum(cut["packs"] for cut in cuts)
    assert packs > 1_000
    rows = list(csv.DictReader(io.StringIO(client.get("/api/versions/1/plan.csv").text)))
    assert sum(int(row["packs"]) for row in rows if row["cut_out_of"]) == packs
    sheet = load_workbook(io.BytesIO(client.get("/api/versions/1/plan.xlsx").content))["Runs"]
    columns, *found = sheet.iter_rows(values_only=True)
    listed = [dict(zip(columns, row, strict=True)) for row in found]
    assert sum(row["packs"] for row in listed if row["cut_out_of"]) == packs
    assert {row["product"] for row in listed if row["cut_out_of"]} == {cut["product"] for cut in cuts}
    told = " ".join(str(event["DESCRIPTION"]) for event in events_of(client, 1).values())
    assert all(f"beside it {cut['packs']} packs of" in told for cut in cuts)


@pytest.mark.whole
def test_one_line_is_changed_and_the_others_are_shared(client: TestClient) -> None:
    before = {plan["plan"]["line"]: plan["number"] for plan in client.get("/api/versions/1").json()["plans"]}
    change(client, 1, kind="pin", line="bread-line", run="R2")
    after = {plan["plan"]["line"]: plan["number"] for plan in client.get("/api/versions/2").json()["plans"]}
    assert {line for line in before if before[line] != after[line]} == {"bread-line"}
    assert len(client.get("/api/versions/2?line=bread-line").json()["plans"]) == 1
    assert client.get("/api/versions/2?line=moon").status_code == 404


def test_the_floor_keeps_to_the_published_version(client: TestClient) -> None:
    change(client, 1, kind="place", line="ring-line", run="R1", before=None)
    newest = client.get("/api/plans/newest", params={"line": "ring-line"}).json()["number"]
    floor = client.get("/api/plans/newest", params={"line": "ring-line", "floor": True}).json()["number"]
    assert newest != floor
    client.post("/api/versions/2/publish", json={})
    assert client.get("/api/plans/newest", params={"line": "ring-line", "floor": True}).json()["number"] == newest


@pytest.mark.whole
def test_a_run_is_made_on_another_line(client: TestClient) -> None:
    plans = client.get("/api/versions/1?line=bread-line").json()["plans"]
    run = next(run for run in plans[0]["plan"]["runs"] if run["product"] == "long-milk")
    request = {"line": "bread-line", "run": run["id"], "to": "long-milk-pastry"}
    answer = client.post("/api/versions/1/lines", json=request)
    assert answer.status_code == 201, answer.text
    version = client.get(f"/api/versions/{answer.json()['version']}").json()
    assert not version["stale"]
    assert [plan["violations"] for plan in version["plans"]] == [[]] * 5
    pastry = next(plan["plan"] for plan in version["plans"] if plan["plan"]["line"] == "pastry-line")
    made = [lot for run in pastry["runs"] if run["product"] == "long-milk-pastry" for lot in run["items"]]
    assert sum(lot["packs"] for lot in made) == sum(lot["packs"] for lot in run["items"])
    refused = client.post("/api/versions/1/lines", json={**request, "to": "kestrel-plain"})
    assert refused.status_code == 422
    assert "allowed: long-milk-pastry" in refused.json()["title"]
