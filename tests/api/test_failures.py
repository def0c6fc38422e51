"""What is nobody's mistake is said in words: a database that is gone, busy or full."""

import shutil
from pathlib import Path
from typing import Any, NamedTuple

import psycopg
import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy import create_engine, event

from rundgang.store.cluster import Urls

CSV = {"Content-Type": "text/csv"}
GOOD = "order,dispatch,product,packs\nn1,harbour,lantern-plain,500\n"


class Usage(NamedTuple):
    total: int
    used: int
    free: int


def refused(client: TestClient, path: str, status: int) -> str:
    answer = client.post(path, content=GOOD, headers=CSV) if "import" in path else client.get(path)
    assert answer.status_code == status, answer.text
    assert answer.headers["content-type"] == "application/problem+json"
    assert answer.headers["x-content-type-options"] == "nosniff"
    assert ("retry-after" in answer.headers) == (status == 503)
    return str(answer.json()["title"])


def test_who_finds_no_connection_free_is_told_to_come_again(app: FastAPI, client: TestClient, urls: Urls) -> None:
    app.state.engine.dispose()
    app.state.engine = create_engine(urls.app, pool_size=1, max_overflow=0, pool_timeout=0.1)
    with app.state.engine.connect():
        assert "Too many ask at once" in refused(client, "/api/window", 503)
    assert client.get("/api/window").status_code == 200


def test_who_waits_too_long_for_anothers_lock_is_told_to_come_again(
    app: FastAPI, client: TestClient, urls: Urls
) -> None:
    app.state.engine.dispose()
    app.state.engine = create_engine(urls.app, connect_args={"options": "-c statement_timeout=200ms"})
    with psycopg.connect(urls.owner.replace("+psycopg", "")) as other:
        other.execute("LOCK TABLE order_book")
        assert "has not answered within" in refused(client, "/api/orders/import", 503)
    assert client.post("/api/orders/import", content=GOOD, headers=CSV).status_code == 201


def test_requests_have_a_statement_timeout(app: FastAPI) -> None:
    with app.state.engine.connect() as connection:
        assert connection.exec_driver_sql("SHOW statement_timeout").scalar() == "20s"


def test_a_full_disk_is_said_and_nothing_is_half_done(app: FastAPI, client: TestClient) -> None:
    def full(cursor: Any, statement: str, *_: Any) -> None:
        if statement.startswith("INSERT INTO order_book"):
            raise psycopg.errors.DiskFull("could not extend file: No space left on device")

    books = len(client.get("/api/orders/books").json())
    for how in ("do_execute", "do_executemany"):
        event.listen(app.state.engine, how, full)
    assert "disk of the database is full" in refused(client, "/api/orders/import", 507)
    for how in ("do_execute", "do_executemany"):
        event.remove(app.state.engine, how, full)
    assert len(client.get("/api/orders/books").json()) == books


def test_a_queue_that_is_gone_is_no_bare_failure(app: FastAPI, client: TestClient) -> None:
    app.state.database_url = "postgresql+psycopg://nobody@127.0.0.1:1/none"
    answer = client.post("/api/searches", json={"seconds": 1})
    assert answer.status_code == 503
    assert "database does not answer" in answer.json()["title"]


def test_health_says_when_the_disk_is_nearly_full(
    app: FastAPI, client: TestClient, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    app.state.data = tmp_path
    assert client.get("/api/health").json() == {"status": "ok"}
    monkeypatch.setattr(shutil, "disk_usage", lambda _: Usage(100, 90, 12 * 1024 * 1024))
    assert "12 MB are free on the disk of the database; allowed: at least 64 MB" in refused(client, "/api/health", 507)


@pytest.mark.parametrize("packs", ["12", True, "twelve", 12.5, None])
def test_a_number_is_a_number(client: TestClient, packs: object) -> None:
    """JSON has numbers of its own (RFC 8259, section 6): neither true nor figures in quotes are any."""
    order = {"id": "n1", "product": "lantern-plain", "wave": "harbour", "packs": packs}
    answer = client.post("/api/orders/urgent", json={"order": order})
    assert answer.status_code == 422
    assert [fault.split(":")[0] for fault in answer.json()["faults"]] == ["order.packs"]
    answer = client.post("/api/searches", json={"seconds": packs if packs != 12.5 else "12.5"})
    assert answer.status_code == 422


def test_every_route_says_that_it_answers_problems(client: TestClient) -> None:
    """RFC 9457: what is wrong is `application/problem+json`; the document knows no other error."""
    document = client.get("/api/openapi.json").json()
    operations = [one for path in document["paths"].values() for one in path.values()]
    assert len(operations) > 80
    for operation in operations:
        wrong = {code: answer for code, answer in operation["responses"].items() if code[0] in "45d"}
        assert set(wrong) == {"4XX", "5XX"}
        for answer in wrong.values():
            assert answer["content"] == {
                "application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}
            }
    found = client.get("/api/versions/999").json()
    assert set(found) == set(document["components"]["schemas"]["Problem"]["properties"])
