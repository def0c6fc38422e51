"""The API over a real PostgreSQL: reading, importing, planning, and every refusal."""

import re
from collections.abc import Iterator
from typing import Any

import psycopg
import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from conftest import fitted
from rundgang.core.dough.card import batch_cards
from rundgang.core.planning.check.plans import check
from rundgang.core.planning.model import LinePlan
from rundgang.core.scenario import Scenario
from rundgang.formats.orders_csv import read_orders
from rundgang.settings import Settings
from rundgang.store.cluster import Urls

CSV = {"Content-Type": "text/csv"}
GOOD = "order,dispatch,product,packs\nn1,harbour,lantern-plain,500\nn2,depot,Pear & Cardamom,300\n"
HALF = GOOD + "n3,harbour,anvil,500\nn4,harbour,lantern-plain,-1\n"


def rows(urls: Urls) -> dict[str, int]:
    """How many rows each table has."""
    with psycopg.connect(urls.owner.replace("+psycopg", "")) as connection:
        tables = ("library_version", "planning_window", "order_book", "order_line", "line_plan", "probe_entry")
        counts = {}
        for table in tables:
            row = connection.execute(f"SELECT count(*) FROM {table}").fetchone()
            assert row
            counts[table] = row[0]
        return counts


def test_the_day_is_there(client: TestClient) -> None:
    day = client.get("/api/window").json()
    assert (day["plant"], day["orders"], day["plans"][0]["number"]) == ("Ostermere Rings", 14, 1)
    assert day["plans"][0]["stale"] is False
    assert client.get("/api/health").json() == {"status": "ok"}


def test_orders_come_out_as_they_went_in(client: TestClient, demo: Scenario) -> None:
    exported = client.get("/api/orders.csv")
    assert exported.headers["content-disposition"] == 'attachment; filename="orders.csv"'
    assert read_orders(exported.content, demo).orders == demo.orders
    assert read_orders(client.get("/api/orders-template.csv").content, demo).faults == ()


def test_reading_takes_nothing(client: TestClient, urls: Urls) -> None:
    before = rows(urls)
    read = client.post("/api/orders/read", content=HALF, headers=CSV).json()
    assert [(fault["line"], fault["column"]) for fault in read["file"]["faults"]] == [(4, "product"), (5, "packs")]
    assert len(read["file"]["orders"]) == 2
    assert read["packs"] == 800
    assert rows(urls) == before


def test_all_rows_or_none(client: TestClient, urls: Urls) -> None:
    before = rows(urls)
    refused = client.post("/api/orders/import", content=HALF, headers=CSV)
    assert refused.status_code == 422
    assert any("line 4, product" in fault for fault in refused.json()["faults"])
    assert rows(urls) == before


def test_good_rows_when_asked_and_the_plan_is_stale(client: TestClient) -> None:
    taken = client.post("/api/orders/import?take=good&name=monday.csv", content=HALF, headers=CSV)
    assert taken.status_code == 201
    assert taken.json()["origin"] == "monday.csv, 2 added"
    orders = client.get("/api/orders").json()["orders"]
    assert [order["id"] for order in orders][-2:] == ["n1", "n2"]
    assert len(orders) == 16
    assert client.get("/api/plans/newest").json()["stale"] is True
    made = fitted(client, "ring-line")
    assert (made["number"], made["book"], made["stale"], made["violations"]) == (2, 2, False, [])
    assert client.get("/api/plans/1").json()["book"] == 1, "the first plan is kept as it was"


def test_the_same_number_twice_is_refused(client: TestClient) -> None:
    client.post("/api/orders/import", content=GOOD, headers=CSV)
    again = client.post("/api/orders/import", content=GOOD, headers=CSV)
    assert again.status_code == 422
    assert "not in the day yet" in again.json()["faults"][0]
    replaced = client.post("/api/orders/import?mode=replace", content=GOOD, headers=CSV)
    assert replaced.status_code == 201
    assert len(client.get("/api/orders").json()["orders"]) == 2


def test_an_earlier_book_comes_back(client: TestClient) -> None:
    before = client.get("/api/orders").json()["orders"]
    client.post("/api/orders/import?mode=replace", content=GOOD, headers=CSV)
    restored = client.post("/api/orders/books/1/restore")
    assert restored.json()["restores"] == 1
    assert client.get("/api/orders").json()["orders"] == before
    assert client.get("/api/plans/newest").json()["stale"] is False, "the same orders, the same plan"
    assert [book["number"] for book in client.get("/api/orders/books").json()] == [3, 2, 1]
    assert [book["number"] for book in client.get("/api/orders/books?most=2").json()] == [3, 2]
    assert [book["number"] for book in client.get("/api/orders/books?most=2&before=2").json()] == [1]
    assert client.get("/api/orders/books?most=501").status_code == 422


def test_stored_plans_pass_the_check_after_the_round_trip(client: TestClient, demo: Scenario) -> None:
    stored = LinePlan.model_validate(client.get("/api/plans/newest").json()["plan"])
    assert check(demo, stored) == ()
    served = client.get("/api/plans/1/cards").json()["cards"]
    assert [card["water"]["wanted_c"] for card in served] == [
        card.water.wanted_c for card in batch_cards(demo, stored) if card.water
    ]


def test_choices_for_the_odd_batch_change_the_plan(client: TestClient) -> None:
    choices = client.get("/api/plans/1/runs/R1/batching").json()
    assert [choice["policy"] for choice in choices["options"]] == ["equal", "short-last", "round-up"]
    change = {"kind": "odd", "line": "ring-line", "run": "R1", "odd_batch": "round-up"}
    client.post("/api/versions/1/changes", json={"change": change})
    made = client.get("/api/plans/newest").json()
    run = next(run for run in made["plan"]["runs"] if run["product"] == choices["product"])
    assert len({batch["pieces"] for batch in run["batches"]}) == 1
    assert run["split"]["policy"] == "round-up"


def test_balance_at_a_pace(client: TestClient) -> None:
    found = client.post("/api/lines/ring-line/balance/lantern-plain", json={"pace": 12000}).json()
    assert found["pace_per_h"] == 12_000
    proofer = next(stage for stage in found["stages"] if stage["station"] == "proofer")
    assert proofer["machines_needed"] == 2


@pytest.mark.parametrize(
    ("place", "wanted", "status", "words"),
    [
        ("bread/balance/lantern-plain", {}, 404, "no line “bread”"),
        ("ring-line/balance/anvil", {}, 404, "no product “anvil”"),
        ("ring-line/balance/lantern-plain", {"pace": -1}, 422, "pace: is -1; allowed: more than 0"),
        ("ring-line/balance/lantern-plain", {"setting": {"count": {"slicer": 0}}}, 422, "allowed: 1 to"),
        ("ring-line/balance/lantern-plain", {"setting": {"count": {"anvil": 2}}}, 404, "no station or carrier “anvil”"),
        ("ring-line/balance/lantern-plain", {"setting": {"count": {"oven": 2}}}, 422, "one belt or one room"),
        ("ring-line/balance/lantern-plain", {"setting": {"dwell_min": {"slicer": 5}}}, 404, "belt, room or store"),
        ("ring-line/balance/lantern-plain", {"setting": {"room_c": 40}}, 422, "never reached"),
    ],
)
def test_a_line_set_impossibly_is_refused(
    client: TestClient, place: str, wanted: dict[str, object], status: int, words: str
) -> None:
    answer = client.post(f"/api/lines/{place}", json=wanted)
    assert answer.status_code == status
    assert words in answer.text


def test_a_warm_room_makes_the_cooler_the_narrowest_gate(client: TestClient) -> None:
    """The cooling curve at work: the same product in a room of 21 and of 29 °C."""
    path = "/api/lines/ring-line/balance/lantern-plain"
    cool, warm = (client.post(path, json={"setting": {"room_c": room}}).json() for room in (21, 29))
    assert cool["bottleneck"] == "proofer"
    assert warm["bottleneck"] == "cooler"
    assert warm["most_per_h"] < cool["most_per_h"]


@pytest.mark.parametrize(
    ("method", "path", "status", "words"),
    [
        ("GET", "/api/plans/99", 404, "no plan “99”"),
        ("GET", "/api/plans/abc", 422, "number: is "),
        ("GET", "/api/plans/99999999999999999999", 422, "number: is "),
        ("GET", "/api/plans/1/runs/R77/batching", 404, "no run “R77”"),
        ("GET", "/api/nothing", 404, "no /api/nothing"),
        ("POST", "/api/orders/books/55/restore", 404, "no order book “55”"),
        ("DELETE", "/api/orders", 405, "Method Not Allowed"),
    ],
)
def test_what_is_not_there_is_named(client: TestClient, method: str, path: str, status: int, words: str) -> None:
    answer = client.request(method, path)
    assert answer.status_code == status
    assert words in answer.text


@pytest.mark.parametrize(
    "body",
    [
        {},
        {"change": {"kind": "fit", "line": "bread"}},
        {"change": {"kind": "odd", "line": "ring-line", "run": "R1", "odd_batch": "half"}},
        {"change": {"kind": "pace", "line": "ring-line", "run": "R1", "share": 0}},
        {"change": {"kind": "move", "line": "ring-line", "run": "R1", "start_min": -1}},
    ],
)
def test_impossible_changes_are_refused(client: TestClient, urls: Urls, body: dict[str, object]) -> None:
    before = rows(urls)
    assert client.post("/api/versions/1/changes", json=body).status_code in {404, 422}
    assert rows(urls) == before


def test_more_orders_than_the_window_holds_are_planned_as_far_as_they_go(client: TestClient) -> None:
    huge = "order,dispatch,product,packs\nh1,depot,lantern-plain,99000\n"
    client.post("/api/orders/import", content=huge, headers=CSV)
    made = fitted(client, "ring-line")
    assert made["violations"] == []
    assert [left["product"] for left in made["plan"]["left_out"]] == ["lantern-plain"]
    assert sum(wave["never"] for wave in made["plan"]["waves"]) > 0


def test_fifty_megabytes_are_refused(client: TestClient, urls: Urls) -> None:
    before = rows(urls)

    def parts() -> Iterator[bytes]:
        for _ in range(50):
            yield b"x" * 1_048_576

    for path in ("/api/orders/import", "/api/orders/read"):
        answer = client.post(path, content=parts(), headers=CSV)
        assert answer.status_code == 413
        assert "50.0 MB; allowed: at most 2 MB" in answer.json()["title"]
    assert rows(urls) == before


def test_only_csv_is_read(client: TestClient) -> None:
    answer = client.post("/api/orders/read", content=GOOD, headers={"Content-Type": "text/plain"})
    assert (answer.status_code, "allowed: text/csv" in answer.text) == (415, True)


@pytest.mark.parametrize(
    "headers",
    [{"Origin": "http://elsewhere.example"}, {"Sec-Fetch-Site": "cross-site"}, {"Origin": "null"}],
)
def test_other_sites_cannot_change_anything(client: TestClient, urls: Urls, headers: dict[str, str]) -> None:
    before = rows(urls)
    answer = client.post("/api/orders/books/1/restore", headers=headers)
    assert answer.status_code == 403
    assert rows(urls) == before


def test_other_host_names_are_not_answered(client: TestClient) -> None:
    assert client.get("/api/window", headers={"Host": "rundgang.elsewhere.example"}).status_code == 400


@pytest.mark.parametrize(
    ("status", "method", "path", "given"),
    [
        (200, "GET", "/api/window", {}),
        (400, "GET", "/api/window", {"Host": "rundgang.elsewhere.example"}),
        (403, "POST", "/api/windows/next", {"Origin": "http://elsewhere.example"}),
        (404, "GET", "/api/nothing", {}),
        (405, "DELETE", "/api/window", {}),
        (422, "POST", "/api/windows/next", {}),
        (500, "GET", "/api/library", {}),
    ],
)
def test_strict_headers(
    client: TestClient, monkeypatch: pytest.MonkeyPatch, status: int, method: str, path: str, given: dict[str, str]
) -> None:
    """On every answer, of whatever went wrong: refused at the door, unknown, malformed, or nobody thought of it."""
    if status == 500:
        monkeypatch.setattr("rundgang.store.libraries.Libraries.notes", lambda *_: 1 / 0)
    answer = client.request(method, path, headers=given, json=[] if method == "POST" else None)
    assert answer.status_code == status, answer.text
    if status > 403:
        assert answer.headers["content-type"] == "application/problem+json"
        assert answer.json()["status"] == status
    headers = answer.headers
    assert headers["x-content-type-options"] == "nosniff"
    assert headers["x-frame-options"] == "DENY"
    policy = headers["content-security-policy"]
    assert "default-src 'none'" in policy
    assert "script-src 'self'" in policy
    assert "unsafe" not in policy
    assert re.search(r"style-src 'self' 'nonce-[\w-]{20,}'", policy)


def test_the_application_may_only_read_and_add(urls: Urls) -> None:
    with psycopg.connect(urls.app.replace("+psycopg", ""), autocommit=True) as connection:
        for statement in (
            "UPDATE order_line SET packs = 1",
            "DELETE FROM plan_version",
            "DROP TABLE order_book",
            "CREATE TABLE mine (x int)",
            "TRUNCATE order_line",
        ):
            with pytest.raises(psycopg.errors.InsufficientPrivilege):
                connection.execute(statement)


def test_no_database_is_a_clear_answer() -> None:
    from rundgang.api.app import create_app

    app = create_app("postgresql://nobody@127.0.0.1:1/none", Settings(hosts=["testserver"]))
    answer = TestClient(app, raise_server_exceptions=False).get("/api/window")
    assert answer.status_code == 503
    assert "database does not answer" in answer.json()["title"]


def test_two_imports_at_once_both_count(app: FastAPI) -> None:
    """Numbering is serial: each import sees the other's orders or waits for them."""
    from concurrent.futures import ThreadPoolExecutor

    def bring(number: int) -> int:
        text = f"order,dispatch,product,packs\nx{number},depot,lantern-plain,10\n"
        return TestClient(app).post("/api/orders/import", content=text, headers=CSV).status_code

    with ThreadPoolExecutor(4) as pool:
        assert list(pool.map(bring, range(8))) == [201] * 8
    assert len(TestClient(app).get("/api/orders").json()["orders"]) == 22


anything = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=20),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=10), inner, max_size=3),
    max_leaves=8,
)


@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(body=anything, path=st.text(max_size=20), data=st.binary(max_size=200), name=st.text(max_size=20))
def test_nothing_random_is_a_500(client: TestClient, body: object, path: str, data: bytes, name: str) -> None:
    from urllib.parse import quote

    request = {"line": "ring-line", "run": "R1", "start_min": body}
    answers = [
        client.post("/api/versions/1/changes", json=_finite(body)),
        client.post("/api/versions/1/tries", json=_finite({"change": {"kind": "move", **request}})),
        client.post("/api/orders/import", content=data, headers=CSV, params={"name": name, "take": "good"}),
        client.get(f"/api/plans/{quote(path, safe='', errors='replace')}"),
        client.post(f"/api/lines/ring-line/balance/{quote(path, safe='', errors='replace')}", json={}),
        client.post("/api/lines/ring-line/balance/lantern-plain", json=_finite(body)),
        client.post("/api/lines/ring-line/balance/lantern-plain", json={"setting": _finite(body)}),
    ]
    assert all(answer.status_code < 500 for answer in answers)


def _finite(value: object) -> object:
    """The same with what JSON cannot carry as text."""
    if isinstance(value, float) and not abs(value) < 1e300:
        return str(value)
    if isinstance(value, dict):
        return {key: _finite(inner) for key, inner in value.items()}
    return [_finite(inner) for inner in value] if isinstance(value, list) else value


def test_the_bench_answers_and_refuses(client: TestClient) -> None:
    listed = client.get("/api/calculators").json()
    assert len(listed) == 13
    for found in listed:
        first = {field["name"]: field["first"] for field in found["fields"]}
        assert client.post(f"/api/calculators/{found['id']}", json=first).status_code == 200
    refused = client.post("/api/calculators/sweat", json={"humidity_pct": 130})
    assert refused.status_code == 422
    assert refused.json()["faults"] == ["humidity_pct: is 130; allowed: at most 100"]
    assert client.post("/api/calculators/taste", json={}).status_code == 404
    assert (
        client.post("/api/calculators/cooling", json={"air_c": 40}).json()["title"].startswith("36 °C is never reached")
    )


def test_the_table_of_units_is_served(client: TestClient) -> None:
    table = {unit["quantity"]: unit for unit in client.get("/api/units").json()}
    assert (table["temperature"]["us"], table["temperature"]["offset"]) == ("°F", 32)


def card_of(client: TestClient, run: str, number: int) -> dict[str, Any]:
    cards = client.get("/api/plans/1/cards").json()["cards"]
    return next(card for card in cards if (card["run"], card["number"]) == (run, number))


def test_warmer_flour_makes_every_card_colder(client: TestClient) -> None:
    before = card_of(client, "R1", 1)["water"]["wanted_c"]
    entered = client.post("/api/conditions", json={"room_c": 23.5, "flour_c": 24, "tap_c": 14.5})
    assert entered.status_code == 201
    assert card_of(client, "R1", 1)["water"]["wanted_c"] == pytest.approx(before - 3)
    assert client.get("/api/window").json()["conditions"]["flour_c"] == 24
    for wrong in (
        {"room_c": 23},
        {"room_c": 900, "flour_c": 20, "tap_c": 10},
        {"room_c": 20, "flour_c": 20, "tap_c": -3},
    ):
        assert client.post("/api/conditions", json=wrong).status_code == 422
    assert client.get("/api/window").json()["conditions"]["flour_c"] == 24


def test_a_probe_changes_the_next_batches_of_its_mixer_and_says_why(client: TestClient) -> None:
    """Probe 1 K above: factor 3 K above its own, smoothed by 0.3; the next dough's water 0.9 K colder."""
    first, other_mixer, next_ = (card_of(client, "R1", number) for number in (1, 2, 3))
    assert first["mixer"] == next_["mixer"] != other_mixer["mixer"]
    probed = client.post("/api/plans/1/cards/R1/1/probe", json={"dough_c": first["dough_temperature_c"] + 1})
    assert probed.status_code == 201
    assert probed.json()["probe"]["above_c"] == pytest.approx(1)
    assert probed.json()["water"]["wanted_c"] == first["water"]["wanted_c"], "what is mixed stays as it was"
    after = card_of(client, "R1", 3)
    assert after["water"]["wanted_c"] == pytest.approx(next_["water"]["wanted_c"] - 0.9)
    assert (after["friction"]["readings"], after["friction"]["friction_c"]) == (1, pytest.approx(21.5 + 0.9))
    assert card_of(client, "R1", 2)["water"] == other_mixer["water"]
    history = client.get("/api/friction", params={"product": first["product"], "mixer": first["mixer"]}).json()
    assert [entry["batch"] for entry in history["probes"]] == [1]
    assert history["learnt"]["factors"] == [pytest.approx(21.5 + 3)]


def test_a_probe_entered_again_replaces_the_slip(client: TestClient) -> None:
    """254 typed for 25.4 is refused; 35.4 is taken, and corrected by entering the batch again."""
    assert client.post("/api/plans/1/cards/R1/1/probe", json={"dough_c": 254}).status_code == 422
    for read in (35.4, 25.0):
        client.post("/api/plans/1/cards/R1/1/probe", json={"dough_c": read})
    history = client.get("/api/friction?product=lantern-plain&mixer=Mixer Alder").json()
    assert len(history["probes"]) == 1
    assert history["learnt"]["friction_c"] == pytest.approx(21.5)


def test_probes_of_nothing_are_refused(client: TestClient, urls: Urls) -> None:
    for path in ("/api/plans/9/cards/R1/1/probe", "/api/plans/1/cards/R9/1/probe", "/api/plans/1/cards/R1/99/probe"):
        assert client.post(path, json={"dough_c": 25}).status_code == 404
    assert rows(urls)["probe_entry"] == 0
    assert client.get("/api/friction?product=anvil&mixer=Mixer Alder").status_code == 404


def test_orders_go_out_as_a_workbook_and_in_again(client: TestClient) -> None:
    data = client.get("/api/orders.xlsx")
    assert "orders.xlsx" in data.headers["content-disposition"]
    before = client.get("/api/orders").json()["orders"]
    kind = {"content-type": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"}
    read = client.post("/api/orders/read?mode=replace", content=data.content, headers=kind).json()
    assert read["file"]["faults"] == []
    assert read["changes"] == []
    assert len(read["file"]["orders"]) == len(before)
