"""Order lines changed one by one, and books that say what differs."""

from datetime import UTC, datetime, timedelta
from typing import Any

import psycopg
import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from rundgang.clock import Clock
from rundgang.store.books import DEEPEST
from rundgang.store.cluster import Urls

CSV = {"Content-Type": "text/csv"}


def orders(client: TestClient) -> dict[tuple[str, str, str], int]:
    return {
        (one["id"], one["product"], one["wave"]): one["packs"] for one in client.get("/api/orders").json()["orders"]
    }


def change(client: TestClient, line: tuple[str, str, str], packs: int | None) -> Any:
    order = dict(zip(("number", "product", "wave"), line, strict=True))
    return client.post("/api/orders/change", json={"order": order, "packs": packs, "author": "Ida"})


def bytes_of(urls: Urls) -> int:
    """What the order books take in the database, with their indexes."""
    with psycopg.connect(urls.owner.replace("+psycopg", ""), autocommit=True) as connection:
        row = connection.execute(
            "SELECT pg_total_relation_size('order_line') + pg_total_relation_size('order_book')"
        ).fetchone()
    assert row
    return int(row[0])


def test_a_line_has_other_packs_and_the_plan_is_out_of_date(client: TestClient) -> None:
    before = orders(client)
    line = next(iter(before))
    answer = change(client, line, before[line] + 120)
    assert answer.status_code == 201
    assert answer.json()["origin"] == f"Ida: order {line[0]} changed to {before[line] + 120:,} packs"
    assert orders(client) == {**before, line: before[line] + 120}
    assert client.get("/api/versions/newest").json()["stale"] is True


def test_a_line_is_cancelled_and_restored(client: TestClient) -> None:
    before = orders(client)
    line = next(iter(before))
    assert change(client, line, None).status_code == 201
    assert line not in orders(client)
    assert len(orders(client)) == len(before) - 1
    assert change(client, line, 5).status_code == 404
    assert client.post("/api/orders/books/1/restore").status_code == 201
    assert orders(client) == before


@pytest.mark.parametrize("packs", [0, -1, 12.5, "9", 100_001])
def test_packs_that_cannot_be_are_refused(client: TestClient, packs: object) -> None:
    line = next(iter(orders(client)))
    assert change(client, line, packs).status_code == 422  # type: ignore[arg-type]


def test_many_changes_one_on_another_are_the_same_orders(client: TestClient) -> None:
    """More than stand on each other by what differs; after any of them an earlier book is what it was."""
    known, lines = [orders(client)], list(orders(client))
    for number in range(DEEPEST + 5):
        line = lines[number % len(lines)]
        assert change(client, line, 100 + number).status_code == 201
        known.append({**known[-1], line: 100 + number})
        assert orders(client) == known[-1]
    for book in (1, 7, DEEPEST, DEEPEST + 3):
        assert client.post(f"/api/orders/books/{book}/restore").status_code == 201
        assert orders(client) == known[book - 1]


def test_an_urgent_order_adds_little_to_many(client: TestClient, urls: Urls) -> None:
    """272 KB before books said what differs; with 2,000 lines the next book took as many rows again."""
    rows = "".join(f"L{row},harbour,lantern-plain,1\n" for row in range(2_000))
    text = f"order,dispatch,product,packs\n{rows}"
    assert client.post("/api/orders/import?mode=replace", content=text, headers=CSV).status_code == 201
    before = bytes_of(urls)
    for number in range(4):
        order = {"id": f"U{number}", "product": "lantern-plain", "wave": "harbour", "packs": 3}
        assert client.post("/api/orders/urgent", json={"order": order}).status_code == 201
    assert (bytes_of(urls) - before) / 4 <= 10_240
    assert len(orders(client)) == 2_004


def test_an_urgent_order_for_a_lorry_that_is_loaded_is_refused(app: FastAPI, client: TestClient) -> None:
    window = client.get("/api/window").json()
    first, last = window["waves"][0], window["waves"][-1]
    leaves = datetime.fromisoformat(window["window"]["starts_at"]) + timedelta(minutes=first["departs_min"])
    app.state.clock = Clock(shows=leaves + timedelta(minutes=1), at=datetime.now(UTC))
    order = {"id": "U1", "product": "lantern-plain", "wave": first["id"], "packs": 3}
    refused = client.post("/api/orders/urgent", json={"order": order})
    assert refused.status_code == 404
    assert "no lorry that is still to be loaded" in refused.json()["title"]
    assert last["id"] in refused.json()["title"]
    assert ("U1", "lantern-plain", first["id"]) not in orders(client)
