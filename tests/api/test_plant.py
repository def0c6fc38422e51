"""The plant as a whole, over the API: the demo, one's own brought in and taken out, the demo thrown away."""

import json
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy.exc import DBAPIError
from sqlmodel import Session, text

from rundgang.clock import Clock
from rundgang.core.library import library_of
from rundgang.core.scenario import Scenario
from rundgang.formats.library_files import write_workbook

JSON = {"Content-Type": "application/json"}
XLSX = {"Content-Type": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"}


def bring(client: TestClient, data: object, take: bool = True) -> dict[str, Any]:
    answer = client.post(f"/api/plant/file?take={str(take).lower()}", content=json.dumps(data), headers=JSON)
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


@pytest.fixture
def bare(empty: FastAPI) -> TestClient:
    return TestClient(empty, raise_server_exceptions=False)


def test_an_empty_rundgang_says_so_everywhere(bare: TestClient) -> None:
    assert bare.get("/api/plant").json() == {"origin": None, "contents": None}
    for path in ("/api/window", "/api/orders", "/api/versions/newest", "/api/calendar", "/api/plant/file.json"):
        answer = bare.get(path)
        assert answer.status_code == 404, path
        assert "no plant yet" in answer.json()["title"]


def test_the_demo_comes_in_once(bare: TestClient) -> None:
    """Its first lorries leave tomorrow, by the plant's clock: here the 11th of March."""
    made = bare.post("/api/plant/demo").json()
    assert made["origin"] == "demo"
    assert made["contents"] | {"name": "", "orders": 0} == {
        "name": "", "lines": 5, "products": 32, "orders": 0, "lorries": 4, "plans": 1,
    }  # fmt: skip
    assert datetime.fromisoformat(bare.get("/api/window").json()["window"]["starts_at"]).day == 10
    again = bare.post("/api/plant/demo")
    assert again.status_code == 409
    assert "Ostermere Bakehouse is there already" in again.json()["title"]


def test_a_plant_is_taken_out_and_comes_in_elsewhere_the_same(client: TestClient, bare: TestClient) -> None:
    taken = client.get("/api/plant/file.json").json()
    read = bring(bare, taken, take=False)
    assert read["origin"] is None
    assert read["contents"]["products"] == len(taken["scenario"]["products"])
    assert bare.get("/api/plant").json()["origin"] is None, "it was only read"
    assert bring(bare, taken)["origin"] == "own"
    assert bare.get("/api/plant/file.json").json() == taken
    assert bare.get("/api/versions/newest").json()["published"]["version"] == 1


@pytest.mark.whole
def test_a_plant_in_the_midst_of_its_day_goes_on_elsewhere(
    app: FastAPI, client: TestClient, empty: FastAPI, bare: TestClient
) -> None:
    """Rolled ten hours in, with runs on the lines, stock of several ages and a calendar: nothing is lost on the way."""
    starts = datetime.fromisoformat(client.get("/api/window").json()["window"]["starts_at"])
    for made in (app, empty):
        made.state.clock = Clock(shows=starts + timedelta(minutes=960), at=datetime.now(UTC))
    assert client.post("/api/windows/next", json={}).status_code == 201
    taken = client.get("/api/plant/file.json").json()
    assert taken["scenario"]["opening"]["begun"]
    assert taken["calendar"]["lorries"]
    assert taken["later"]
    bring(bare, taken)
    assert bare.get("/api/plant/file.json").json() == taken
    newest = bare.get("/api/versions/newest").json()
    assert not any(plan["violations"] for plan in newest["plans"])


def test_a_library_alone_is_enough_to_begin(bare: TestClient, demo: Scenario) -> None:
    """From a workbook: no orders and no lorries yet; both are entered, and then there is something to plan."""
    book = write_workbook(library_of(demo))
    answer = bare.post("/api/plant/file?take=true", content=book, headers=XLSX)
    assert answer.status_code == 200, answer.text
    assert answer.json()["contents"]["orders"] == 0
    window = bare.get("/api/window").json()
    assert window["waves"] == []
    starts = datetime.fromisoformat(window["window"]["starts_at"])
    leaves = (starts + timedelta(hours=30)).replace(minute=0)
    calendar = {"lorries": [{"id": "van", "name": "Van", "leaves": leaves.strftime("%H:%M")}]}
    assert bare.post("/api/calendar", json={"calendar": calendar, "seen": 1}).status_code == 201
    lorries = bare.get("/api/window").json()["waves"]
    assert len(lorries) == 3
    rows = f"order,dispatch,product,packs\n1,{lorries[-1]['id']},{demo.products[0].id},500\n"
    taken = bare.post("/api/orders/import?mode=add", content=rows, headers={"Content-Type": "text/csv"})
    assert taken.status_code == 201, taken.text
    newest = bare.get("/api/versions/newest").json()["note"]["number"]
    fit = {"change": {"kind": "fit", "line": demo.products[0].line}}
    assert bare.post(f"/api/versions/{newest}/changes", json=fit).status_code == 201
    made = bare.get("/api/versions/newest").json()["plans"][0]["plan"]
    assert [run["packs_wanted"] for run in made["runs"]] == [500]
    assert made["score"]["packs_short"] == 0


def test_who_is_away_goes_out_and_in_as_the_shifts_that_say_so(client: TestClient, bare: TestClient) -> None:
    """A file has the shifts, not the stretches that follow from them: those would be lost at the next window."""
    view = client.get("/api/calendar").json()
    crew = client.get("/api/library").json()["library"]["plant"]["crews"][0]
    shift = {"id": "day", "crew": crew["id"], "begins": "06:00", "minutes": 840, "people": crew["people"]}
    body = {"calendar": view["calendar"] | {"shifts": [shift]}, "seen": view["number"]}
    assert client.post("/api/calendar", json=body).status_code == 201
    taken = client.get("/api/plant/file.json").json()
    assert taken["scenario"]["absences"] == []
    assert [one["id"] for one in taken["calendar"]["shifts"]] == ["day"]
    bring(bare, taken)
    assert bare.get("/api/plant/file.json").json() == taken
    taken["scenario"]["absences"] = [{"crew": crew["id"], "from_min": 0, "to_min": 60, "people": 1}]
    answer = bare.post("/api/plant/file", content=json.dumps(taken), headers=JSON)
    assert answer.status_code == 422
    assert "follows from the calendar's shifts" in answer.text


def test_every_fault_of_a_file_is_named_and_nothing_comes_in(client: TestClient, bare: TestClient) -> None:
    taken = client.get("/api/plant/file.json").json()
    taken["scenario"]["orders"][0]["product"] = "stone"
    taken["scenario"]["plant"]["crews"] = []
    answer = bare.post("/api/plant/file?take=true", content=json.dumps(taken), headers=JSON)
    assert answer.status_code == 422
    assert any("stone" in fault for fault in answer.json()["faults"]) or "crew" in str(answer.json()["faults"])
    assert bare.post("/api/plant/file", content="{", headers=JSON).status_code == 422
    assert bare.post("/api/plant/file", content="x", headers={"Content-Type": "text/html"}).status_code == 415
    assert bare.get("/api/plant").json()["origin"] is None


def test_the_demo_is_thrown_away_by_its_name_and_an_own_plant_never(
    app: FastAPI, client: TestClient, bare: TestClient
) -> None:
    """Only the function of the tables' owner deletes, and only a demo: the application's role cannot."""
    name = client.get("/api/plant").json()["contents"]["name"]
    taken = client.get("/api/plant/file.json").json()
    assert client.post("/api/plant/discard", json={"name": "something"}).status_code == 422
    assert client.get("/api/plant").json()["origin"] == "demo"
    gone = client.post("/api/plant/discard", json={"name": name})
    assert gone.json() == {"origin": None, "contents": None}
    assert client.get("/api/window").status_code == 404
    assert bring(client, taken)["origin"] == "own"
    kept = client.post("/api/plant/discard", json={"name": name})
    assert kept.status_code == 409
    assert client.get("/api/plant/file.json").json() == taken
    for command in ("DELETE FROM order_line", "TRUNCATE planning_window", "SELECT rundgang_discard_demo()"):
        with Session(app.state.engine) as session, pytest.raises(DBAPIError):
            session.execute(text(command))
    assert bare.get("/api/plant").json()["origin"] is None


@pytest.mark.whole
def test_a_plant_comes_in_as_a_workbook_with_its_calendar(client: TestClient, bare: TestClient) -> None:
    """Library and calendar as they were; orders and stock are not in a workbook."""
    data = client.get("/api/plant/file.xlsx").content
    answer = bare.post("/api/plant/file?take=true", content=data, headers=XLSX)
    assert answer.status_code == 200, answer.text
    assert answer.json()["contents"]["lorries"] == len(client.get("/api/calendar").json()["calendar"]["lorries"]) == 4
    assert bare.get("/api/library").json()["library"] == client.get("/api/library").json()["library"]
    assert bare.get("/api/calendar").json()["calendar"] == client.get("/api/calendar").json()["calendar"]
    assert bare.get("/api/orders").json()["orders"] == []
