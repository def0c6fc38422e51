"""The inbox: clean files are taken, files with faults are held for the planner, none is taken twice."""

import os
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlmodel import Session

from rundgang.formats.order_columns import OrderColumns
from rundgang.formats.orders_csv import MAX_BYTES
from rundgang.jobs.inbox import held_files, take_all
from rundgang.settings import Settings
from rundgang.store.repository import Repository

CLOCK = Settings().clock()
GOOD = "order,dispatch,product,packs\nin-1,harbour,lantern-plain,77\n"
OWN = "Auftrag;Abfahrt;Artikel;Menge\nin-2;harbour;lantern-plain;1.200\n"
HEADINGS = {"order": "Auftrag", "dispatch": "Abfahrt", "product": "Artikel", "packs": "Menge"}


@pytest.fixture
def store(app: FastAPI) -> Iterator[Repository]:
    with Session(app.state.engine) as session:
        yield Repository(session)


def drop(folder: Path, name: str, text: str, age_s: float = 60) -> Path:
    """A file that was written so long ago."""
    path = folder / name
    path.parent.mkdir(exist_ok=True)
    path.write_text(text)
    os.utime(path, (time.time() - age_s,) * 2)
    return path


def test_clean_files_are_taken_and_others_held_with_their_faults(
    app: FastAPI, client: TestClient, store: Repository, tmp_path: Path
) -> None:
    drop(tmp_path, "good.csv", GOOD)
    drop(tmp_path, "bad.csv", GOOD.replace("lantern-plain", "stone"))
    drop(tmp_path, "still-written.csv", GOOD, age_s=0)
    drop(tmp_path, "notes.txt", "nothing for us")
    assert take_all(store, tmp_path, CLOCK) == ["bad.csv held", "good.csv taken"]
    assert "in-1" in {order["id"] for order in client.get("/api/orders").json()["orders"]}
    assert client.get("/api/orders").json()["book"]["origin"] == "inbox: good.csv, 1 added"
    assert {path.name for path in tmp_path.iterdir()} == {"taken", "held", "still-written.csv", "notes.txt"}
    app.state.inbox = tmp_path
    waits = client.get("/api/orders/held").json()
    assert [one["name"] for one in waits] == ["bad.csv"]
    assert "found “stone”" in waits[0]["faults"][0]


def test_a_file_that_comes_twice_is_held(store: Repository, tmp_path: Path) -> None:
    """As after a worker that was killed between taking it and putting it away: nothing is doubled."""
    for _ in range(2):
        drop(tmp_path, "good.csv", GOOD)
        done = take_all(store, tmp_path, CLOCK)
    assert done == ["good.csv held"]
    assert store.books.newest().number == 2


def test_a_folder_named_as_a_mapping_is_read_by_it(store: Repository, tmp_path: Path) -> None:
    store.mappings.write(OrderColumns.model_validate({"name": "Inn", "headings": HEADINGS}))
    (tmp_path / "Inn").mkdir()
    (tmp_path / "Nobody").mkdir()
    drop(tmp_path, "Inn/monday.csv", OWN)
    drop(tmp_path, "Nobody/monday.csv", OWN)
    assert take_all(store, tmp_path, CLOCK) == ["monday.csv taken", "monday.csv held"]
    assert ("in-2", 1_200) in {(order.id, order.packs) for order in store.windows.scenario().orders}


def test_without_a_folder_nothing_is_watched(client: TestClient, store: Repository, tmp_path: Path) -> None:
    assert take_all(store, tmp_path / "none", CLOCK) == []
    assert client.get("/api/orders/held").json() == []


def test_a_file_that_is_too_large_is_held_unread(store: Repository, tmp_path: Path) -> None:
    drop(tmp_path, "large.csv", GOOD + " " * MAX_BYTES)
    assert take_all(store, tmp_path, CLOCK) == ["large.csv held"]
    (held,) = held_files(tmp_path)
    assert "allowed: at most 2 MB" in held.faults[0]


def test_what_was_put_away_before_stays_there(store: Repository, tmp_path: Path) -> None:
    """A customer's system that calls every file the same: both are kept, and both held ones with their faults."""
    for number in (1, 2):
        drop(tmp_path, "orders.csv", GOOD.replace("in-1", f"in-{number}"))
        drop(tmp_path, "bad.csv", GOOD.replace("lantern-plain", f"stone-{number}"))
        take_all(store, tmp_path, CLOCK)
    texts = [(tmp_path / "taken" / name).read_text() for name in ("orders.csv", "orders-2.csv")]
    assert ["in-1" in texts[0], "in-2" in texts[1]] == [True, True]
    assert {one.name: one.faults[0].split("“")[1][:7] for one in held_files(tmp_path)} == {
        "bad.csv": "stone-1",
        "bad-2.csv": "stone-2",
    }


def test_a_file_of_readings_is_taken_as_such_and_a_wrong_one_held(store: Repository, tmp_path: Path) -> None:
    head = "at,line,station,quantity,zone,value\n"
    drop(tmp_path, "oven.csv", head + "2026-03-10T10:00:00Z,ring-line,oven,temperature,,231.5\n")
    drop(tmp_path, "wrong.csv", head + "2026-03-10T10:00:00Z,ring-line,oven,temperature,,2315\n")
    assert take_all(store, tmp_path, CLOCK) == ["oven.csv taken", "wrong.csv held"]
    assert [reading.value for reading in store.readings.newest(CLOCK.now()).values()] == [231.5]
    assert "found “2315”; allowed: -60 to 600 °C" in held_files(tmp_path)[0].faults[1]
