"""The account and quality over the API: by the simulated plant's counters, as a page, on paper and in a workbook."""

import io
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import uuid4

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from openpyxl import load_workbook
from sqlmodel import Session

from nights import NOW, after_a_night
from rundgang.clock import Clock
from rundgang.store.cluster import Urls
from rundgang.store.database import connect
from rundgang.store.repository import Repository


@pytest.fixture
def app(urls: Urls) -> Iterator[FastAPI]:
    """The application, after such a night."""
    with after_a_night(urls, every_min=1) as made:
        yield made


def got(client: TestClient, path: str) -> Any:
    answer = client.get(path)
    assert answer.status_code == 200, answer.text
    return answer.json()


def test_every_missing_pack_of_a_night_has_one_cause(client: TestClient) -> None:
    found = got(client, "/api/account?line=ring-line")
    account = found["account"]
    assert len(account["hours"]) == 8
    assert found["until"] == "2026-03-11T06:00:00Z"
    for hour in account["hours"]:
        assert sum(loss["packs"] for loss in hour["losses"]) == hour["planned"] - hour["made"]
    assert sum(loss["packs"] for loss in account["pareto"]) == account["planned"] - account["made"]
    assert account["made"] > 0
    figures = account["figures"]
    assert figures["oee"] == pytest.approx(figures["good"] / figures["planned"])


def test_hours_that_are_asked_for_are_told_and_others_refused_in_words(client: TestClient) -> None:
    found = got(client, "/api/account?line=ring-line&since=2026-03-11T03:20&until=2026-03-11T05:59")
    assert (found["since"], found["until"]) == ("2026-03-11T02:00:00Z", "2026-03-11T04:00:00Z")
    for query, words in (
        ("since=2026-03-11T05:00&until=2026-03-11T05:30", "1 to 336"),
        ("since=2026-03-12T05:00&until=2026-03-12T09:00", "1 to 336"),
    ):
        answer = client.get(f"/api/account?line=ring-line&{query}")
        assert (answer.status_code, words in answer.json()["title"]) == (422, True), answer.text
    assert client.get("/api/account?line=moon").status_code == 404


def test_the_account_is_a_sheet_and_a_workbook_too(client: TestClient) -> None:
    paper = client.get("/api/account/account.pdf?line=ring-line")
    assert (paper.status_code, paper.content[:5]) == (200, b"%PDF-")
    account = got(client, "/api/account?line=ring-line")["account"]
    book = load_workbook(io.BytesIO(client.get("/api/account/account.xlsx?line=ring-line").content))
    rows = list(book["Hours"].iter_rows(min_row=2, values_only=True))
    assert sum(int(str(row[4])) for row in rows) == account["planned"] - account["made"]
    assert rows[0][0] == datetime(2026, 3, 10, 23)
    assert len(list(book["Causes"].iter_rows(min_row=2))) == len(account["pareto"])


def test_scrapped_packs_lower_the_quality(app: FastAPI, client: TestClient, urls: Urls) -> None:
    before = got(client, "/api/account?line=ring-line")["account"]["figures"]
    lot = next(
        line["lot"]
        for line in _lots(client, urls)
        if line["lot"]["kind"] == "packs" and line["lot"]["run"] and line["left"] >= 10
    )
    app.state.clock = Clock(NOW - timedelta(hours=1), datetime.now(UTC), 0.0)
    body = {"uuid": str(uuid4()), "author": "Ida", "packs": 10, "cause": "damaged", "reason": "torn"}
    assert client.post(f"/api/lots/{lot['number']}/scrap", json=body).status_code == 201
    app.state.clock = Clock(NOW, datetime.now(UTC), 0.0)
    after = got(client, "/api/account?line=ring-line")["account"]["figures"]
    assert (after["produced"], after["good"]) == (before["produced"], before["good"] - 10)
    assert after["quality"] == pytest.approx(1 - 10 / after["produced"])
    assert after["oee"] < before["oee"]


def _lots(client: TestClient, urls: Urls) -> list[dict[str, Any]]:
    from rundgang.jobs.keeping import keep

    engine = connect(urls.app)
    with Session(engine) as session:
        keep(Repository(session), Clock(NOW))
    engine.dispose()
    return list(got(client, "/api/lots?most=500"))


def test_the_scale_behind_the_divider_is_drawn(client: TestClient) -> None:
    found = got(client, "/api/quality?line=ring-line")
    divider = next(station for station in found["stations"] if station["name"] == "Divider")
    charts = [chart for chart in divider["charts"] if chart["name"] == "Scale behind the divider"]
    assert {chart["product"] for chart in charts} >= {"lantern-plain"}
    drawn = next(chart for chart in charts if chart["chart"])
    assert drawn["chart"]["size"] == 5
    assert abs(drawn["chart"]["centre"] - drawn["target"]) < 0.05 * drawn["target"]
    assert drawn["giveaway"]["grams"] == pytest.approx(drawn["chart"]["centre"] - drawn["target"], abs=0.5)
    assert drawn["advice"]["samples"] >= 1


def test_the_records_beneath_say_what_the_figures_say(app: FastAPI, client: TestClient, urls: Urls) -> None:
    _lots(client, urls)
    found = got(client, "/api/account?line=ring-line")
    tally, account = found["tally"], found["account"]
    assert sum(run["made"] for run in found["runs"]) == account["made"] == tally["figures"]["produced"]
    assert sum(run["planned"] for run in found["runs"]) == pytest.approx(account["planned"], abs=len(found["runs"]))
    products = {run["product"] for run in found["runs"]}
    kept = sum(
        min(sum(run[name] for run in found["runs"] if run["product"] == product) for name in ("planned", "made"))
        for product in products
    )
    assert tally["adherence"] == pytest.approx(kept / sum(run["planned"] for run in found["runs"]))
    down = account["figures"]["busy_min"] - account["figures"]["production_min"]
    assert down <= sum(one["felt_min"] for one in found["stood"]) + 1e-6
    assert tally["oven_empty_min"] == pytest.approx(sum(one["until_min"] - one["from_min"] for one in found["ovens"]))
    assert tally["given_kg"] == pytest.approx(sum(one["kg"] for one in found["given"]))
    lots = [got(client, f"/api/lots/{one['lot']}")["line"]["lot"] for one in found["lots"]]
    assert lots
    assert all(lot["kind"] == "packs" and lot["line"] == "ring-line" for lot in lots)


def test_accounts_beside_each_other_add_up(client: TestClient) -> None:
    whole = got(client, "/api/account/table?by=line&since=2026-03-10T20:00&until=2026-03-11T06:00")
    assert [row["line"] for row in whole["rows"]] == ["ring-line"]
    for by in ("shift", "day", "week", "line", "product"):
        found = got(client, f"/api/account/table?by={by}&since=2026-03-10T20:00&until=2026-03-11T06:00")
        assert found["total"] == whole["total"]
        for name in ("planned", "produced", "good"):
            rows = sum(row["tally"]["figures"][name] for row in found["rows"])
            slack = len(found["rows"]) * 4 if by == "product" and name == "planned" else 0
            assert rows == pytest.approx(whole["total"]["figures"][name], abs=slack), (by, name)
    days = got(client, "/api/account/table?by=day&line=ring-line&since=2026-03-10T20:00&until=2026-03-11T06:00")
    assert [row["name"][-10:] for row in days["rows"]] == ["2026-03-10", "2026-03-11"]
    one = got(client, "/api/account?line=ring-line&since=2026-03-10T20:00&until=2026-03-11T06:00")
    assert days["total"] == one["tally"]
    query = "by=line&since=2026-03-10T20:00&until=2026-03-11T06:00"
    book = load_workbook(io.BytesIO(client.get(f"/api/account/table.xlsx?{query}").content))
    rows = list(book["By line"].iter_rows(min_row=2, values_only=True))
    assert rows[-1][4] == whole["total"]["figures"]["produced"]


def test_pulled_pieces_are_taken_once_and_counted_by_cause(app: FastAPI, client: TestClient) -> None:
    window, runs = got(client, "/api/window"), got(client, "/api/account?line=ring-line")["runs"]
    packs = next(run for run in runs if run["made"] > 100)
    middle = (packs["first_pack_min"] + packs["last_pack_min"]) / 2
    at = datetime.fromisoformat(window["window"]["starts_at"]) + timedelta(minutes=middle)
    entry = {
        "uuid": str(uuid4()), "window": window["number"], "line": "ring-line", "station": "bagger", "pieces": 40,
        "cause": "shape", "at": at.isoformat(), "author": "Ida",
    }  # fmt: skip
    wrong = entry | {"uuid": str(uuid4()), "station": "moon"}
    old = entry | {"uuid": str(uuid4()), "at": "2026-01-11T04:30:00Z"}
    for _ in range(2):
        taken = client.post("/api/rounds/pulled", json={"entries": [entry, wrong, old]}).json()
        assert taken["taken"] == [entry["uuid"]]
        assert [one["uuid"] for one in taken["refused"]] == [wrong["uuid"], old["uuid"]]
        assert "bagger" in taken["refused"][0]["why"]
    found = got(client, "/api/account?line=ring-line")
    (pulled,) = found["pulled"]
    assert (pulled["pieces"], pulled["cause"], found["tally"]["pulled"]) == (40, "shape", 40)
    assert (pulled["run"], pulled["product"]) == (packs["run"], packs["product"])
    assert [one["uuid"] for one in got(client, "/api/rounds?line=ring-line")["pulled"]] == [entry["uuid"]]
    assert got(client, "/api/account?line=ring-line&since=2026-03-10T21:00&until=2026-03-10T22:00")["pulled"] == []
    bad = client.post("/api/rounds/pulled", json={"entries": [entry | {"cause": "moonlight"}]})
    assert (bad.status_code, "'shape'" in bad.text) == (422, True)


def test_a_shift_is_handed_over_once_and_read_by_whoever_comes(app: FastAPI, client: TestClient) -> None:
    assert got(client, "/api/account/notes/newest?line=ring-line") is None
    note = {"uuid": str(uuid4()), "line": "ring-line", "says": "Belt two runs hot <watch it>", "author": "Ida"}
    for _ in range(2):
        assert client.post("/api/account/notes", json=note).status_code == 201
    assert client.post("/api/account/notes", json=note | {"uuid": str(uuid4()), "line": "moon"}).status_code == 404
    assert got(client, "/api/account/notes/newest?line=ring-line")["says"] == note["says"]
    assert got(client, "/api/rounds?line=ring-line")["handover"]["author"] == "Ida"
    assert [one["says"] for one in got(client, "/api/account?line=ring-line")["notes"]] == [note["says"]]
    app.state.clock = Clock(NOW + timedelta(days=2), datetime.now(UTC), 0.0)
    assert got(client, "/api/account/notes/newest?line=ring-line") is None
