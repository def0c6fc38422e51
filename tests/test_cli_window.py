"""The command line from day to day, on files and on a running plant."""

import json
from pathlib import Path

import pytest
from typer.testing import CliRunner

from rundgang.cli import app
from rundgang.formats.documents import read_scenario
from rundgang.store.cluster import Urls

run = CliRunner()
TIMETABLE = {"lorries": [{"id": "depot", "name": "Depot south", "leaves": "12:00"}]}


@pytest.fixture
def running(urls: Urls, monkeypatch: pytest.MonkeyPatch) -> None:
    """The test's own database, as a deployment names it; its window opens at 20:00 on the 10th of March."""
    monkeypatch.setenv("DATABASE_URL", urls.app)
    monkeypatch.setenv("RUNDGANG_CLOCK_SHOWS", "2026-03-11T12:00:00Z")


def said(*command: str, code: int = 0) -> str:
    done = run.invoke(app, list(command))
    assert done.exit_code == code, done.output
    return done.output


def test_a_scenario_goes_on_in_files(tmp_path: Path) -> None:
    """From 14:00 on: the next day's lorries by a calendar, what has begun in it, and nothing of the day before."""
    day, plan, after = (str(tmp_path / name) for name in ("day.json", "plan.json", "after.json"))
    Path(day).write_text(run.invoke(app, ["example", "--day", "2026-03-11"]).stdout)
    said("plan", day, "--seconds", "0", "--out", plan)
    (tmp_path / "calendar.json").write_text(json.dumps(TIMETABLE))
    calendar = ["--calendar", str(tmp_path / "calendar.json")]
    told = said("roll", day, plan, "--at", "2026-03-11 14:00", *calendar, "--out", after)
    assert "runs over" in told
    found = read_scenario(Path(after).read_bytes())
    assert found.opening.begun
    assert {wave.id for wave in found.waves if wave.id.startswith("depot")} >= {"depot-260312", "depot-260314"}
    said("plan", after, "--seconds", "0", "--out", plan)
    assert said("check", after, plan) == "No violation found.\n"


def test_a_running_plant_goes_on_and_says_so(running: None) -> None:
    assert said("window", "list").startswith("window 1: Tue 10 Mar 20:00 to ")
    for _ in range(3):
        assert "by command line" in said("window", "next")
    assert len(said("window", "list").splitlines()) == 4
    assert "already" in said("window", "next", code=2)


def test_a_run_on_the_line_is_entered(running: None) -> None:
    """Behind the window's end nothing is; in the next one a dough stands in its trough, to be divided at 13:05."""
    refused = said("window", "running", "ring-line", "lantern-plain", "900", "2026-03-11 12:30", code=2)
    assert "cannot have been made then" in refused
    assert "no product of that line" in said(
        "window", "running", "ring-line", "lantern-mauve", "9", "2026-03-11 12:30", code=2
    )
    said("window", "next")
    one = "window", "running", "ring-line", "lantern-plain", "900", "2026-03-11 13:05", "--emptied", "2026-03-11 12:50"
    assert "Dough 2 had to be begun" in said(*one, code=2)
    done = said(*one, "--emptied", "2026-03-11 12:56")
    assert "version 2: Lantern Plain entered: 900 packs" in done


def test_the_calendar_goes_in_and_out(running: None, tmp_path: Path) -> None:
    (tmp_path / "in.json").write_text(json.dumps(TIMETABLE))
    assert "1 lorries in the timetable" in said("calendar", "set", str(tmp_path / "in.json"))
    assert json.loads(said("calendar", "show"))["lorries"][0]["name"] == "Depot south"
    (tmp_path / "in.json").write_text(json.dumps({"cancelled": [{"lorry": "depot", "on": "2026-03-12"}]}))
    assert "is no lorry of the timetable" in said("calendar", "set", str(tmp_path / "in.json"), code=2)


def test_standing_orders_of_the_command_line_count_at_once(running: None, tmp_path: Path) -> None:
    """As on the Calendar page: for the lorries of the window that have not left, not only from the next window on."""
    order = {"number": "SO-7", "lorry": "depot", "product": "lantern-plain", "packs": 120}
    lorry = TIMETABLE["lorries"][0] | {"leaves": "13:30"}
    (tmp_path / "in.json").write_text(json.dumps({"lorries": [lorry], "standing": [order]}))
    said("calendar", "set", str(tmp_path / "in.json"))
    said("plant", "out", "--out", str(tmp_path / "plant.json"))
    orders = json.loads((tmp_path / "plant.json").read_text())["scenario"]["orders"]
    assert {(one["id"], one["wave"]) for one in orders} >= {("SO-7-260311", "depot-260311")}


def test_the_whole_plant_goes_out_and_is_refused_where_one_is(running: None, tmp_path: Path) -> None:
    said("plant", "out", "--out", str(tmp_path / "plant.json"))
    assert json.loads((tmp_path / "plant.json").read_text())["scenario"]["plant"]["name"]
    assert "is there already" in said("plant", "in", str(tmp_path / "plant.json"), code=2)
    assert said("stock", "show") == "" or "there" in said("stock", "show")


def test_without_a_database_it_says_what_is_missing(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.delenv("DATABASE_URL", raising=False)
    assert "DATABASE_URL is not set" in said("window", "list", code=2)


def test_stock_and_orders_go_in_and_out(running: None, tmp_path: Path) -> None:
    (tmp_path / "in.csv").write_text("entry,name,amount\npacks,Lantern Plain,40\nmaterial,Mill flour 700,1200\n")
    assert "command line: 2 rows of in.csv" in said("stock", "in", str(tmp_path / "in.csv"))
    assert "1,200.0 there" in said("stock", "show")
    said("stock", "out", "--out", str(tmp_path / "stock.csv"))
    assert "material,Mill flour 700,1200,," in (tmp_path / "stock.csv").read_text()
    (tmp_path / "in.csv").write_text("entry,name,amount\npacks,Moon Loaf,40\n")
    assert "line 2, name: found “Moon Loaf”" in said("stock", "in", str(tmp_path / "in.csv"), code=2)
    rows = said("orders", "show").splitlines()
    head, first = rows[0], rows[1]
    (tmp_path / "orders.csv").write_text(f"{head}\n{first.replace(first.split(',')[0], '9001', 1)}\n")
    assert "order book 2: orders.csv, 1 added" in said("orders", "in", str(tmp_path / "orders.csv"))
    assert len(said("orders", "show").splitlines()) == len(rows) + 1
    assert "a line that is not in the day yet" in said("orders", "in", str(tmp_path / "orders.csv"), code=2)


@pytest.mark.parametrize("name", ["library.json", "library.xlsx"])
def test_the_library_goes_out_is_looked_at_and_goes_in(running: None, tmp_path: Path, name: str) -> None:
    file = str(tmp_path / name)
    said("library", "out", file)
    assert said("library", "in", file, "--look") == "nothing differs\n"
    known = tmp_path / "known.json"
    said("library", "out", str(known))
    data = json.loads(known.read_text())
    data["products"][0]["bake_loss"] = 0.13
    known.write_text(json.dumps(data))
    told = "Lantern Plain, Lost in baking: 12.5 % → 13 %\n"
    assert said("library", "in", str(known), "--look") == told
    assert said("library", "in", str(known)) == told + "version 2: file known.json\n"
    assert said("library", "in", file) == "Lantern Plain, Lost in baking: 13 % → 12.5 %\nversion 3: file " + name + "\n"
    data["products"][0]["bake_loss"] = 2
    known.write_text(json.dumps(data))
    assert "bake_loss" in said("library", "in", str(known), code=2)
