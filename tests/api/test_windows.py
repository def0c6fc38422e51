"""Going on to the next window, and the calendar, over the API: nothing lost, one at a time, the past still readable."""

import os
import subprocess
import sys
from collections import Counter
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import uuid4

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlmodel import Session

from conftest import fitted
from rundgang.clock import Clock
from rundgang.core.errors import RundgangError
from rundgang.core.rolling.ahead import gone_on
from rundgang.core.rolling.roll import Rolled
from rundgang.core.whole_plant import WholePlant
from rundgang.jobs import rolling
from rundgang.store.repository import Repository

pytestmark = pytest.mark.whole

CSV = {"content-type": "text/csv"}


def at(app: FastAPI, minute: float) -> datetime:
    """Let the plant's clock show so many minutes after the first window's start."""
    with Session(app.state.engine) as session:
        first = Repository(session).windows.all()[-1]
    moment = first.starts_at + timedelta(minutes=minute)
    app.state.clock = Clock(shows=moment, at=datetime.now(UTC))
    return moment


def go_on(client: TestClient) -> dict[str, Any]:
    seen = str(client.get("/api/window").json()["number"])
    answer = client.post("/api/windows/next", json={"author": "Ida"}, headers={"Rundgang-Window": seen})
    assert answer.status_code == 201, answer.text
    return dict(answer.json())


def test_a_run_from_before_the_window_is_entered_by_hand(app: FastAPI, client: TestClient) -> None:
    """Before anything is begun: what is on the line for 20 min makes the window begin earlier, and all else stays.

    Entered once more it is refused, for the line is not free; and who has not seen the new window is told.
    """
    at(app, -5)
    was, before = client.get("/api/window").json(), client.get("/api/versions/newest").json()
    starts = datetime.fromisoformat(was["window"]["starts_at"])
    began = (starts - timedelta(minutes=20)).replace(tzinfo=None)
    running = {"line": "ring-line", "product": "lantern-plain", "packs": 2_000, "first_piece": began.isoformat()}
    seen = {"Rundgang-Window": str(was["number"])}
    made = client.post("/api/versions/1/on-line", json={"run": running, "author": "Ida"}, headers=seen)
    assert made.status_code == 201, made.text
    now, after = client.get("/api/window").json(), client.get("/api/versions/newest").json()
    assert now["number"] == was["number"] + 1
    earlier = starts - datetime.fromisoformat(now["window"]["starts_at"])
    assert earlier in {timedelta(hours=1), timedelta(hours=2)}
    assert now["window"]["minutes"] == was["window"]["minutes"] + earlier / timedelta(minutes=1)
    assert after["published"]["version"] == after["note"]["number"] == made.json()["version"] == 1
    assert after["note"]["note"] == "Lantern Plain entered: 2,000 packs that are on the line"
    assert not any(plan["violations"] for plan in after["plans"])
    runs = after["plans"][0]["plan"]["runs"]
    assert runs[0]["product"] == "lantern-plain"
    assert runs[0]["start_min"] == pytest.approx(earlier / timedelta(minutes=1) - 20, abs=1)
    assert sum(wave["packs"] for wave in after["plans"][0]["plan"]["waves"]) == sum(
        wave["packs"] for wave in before["plans"][0]["plan"]["waves"]
    )
    stale = client.post("/api/versions/1/on-line", json={"run": running, "author": "Ida"}, headers=seen)
    assert stale.status_code == 409, stale.text
    for year in ("0001", "2020", "9999"):
        far = {"run": running | {"first_piece": f"{year}-03-10T20:00"}}
        away = client.post("/api/versions/1/on-line", json=far)
        assert (away.status_code, "its moment is" in away.text) == (422, True), away.text
    again = client.post(
        "/api/versions/1/on-line", json={"run": running}, headers={"Rundgang-Window": str(now["number"])}
    )
    assert again.status_code == 422
    assert "Lantern Plain cannot have begun then" in again.text


def test_what_nobody_orders_any_more_stops_no_other_line(client: TestClient) -> None:
    """Every line's plan is for orders that are gone: one is fitted, then the others, for what they tell is not so."""
    rows = b"order,dispatch,product,packs\n1,2026-03-12 03:30,Lantern Plain,500\n"
    assert client.post("/api/orders/import?mode=replace", content=rows, headers=CSV).status_code == 201
    fit = {"change": {"kind": "fit", "line": "ring-line"}, "author": "Ida"}
    made = client.post("/api/versions/1/changes", json=fit)
    assert made.status_code == 201, made.text
    plans = client.get("/api/versions/newest").json()["plans"]
    assert not any(plan["violations"] for plan in plans)
    assert {run["product"] for plan in plans for run in plan["plan"]["runs"]} == {"lantern-plain"}


def test_an_urgent_order_is_in_book_and_plan_or_in_neither(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:  # fmt: skip
    """What goes wrong while the plan is fitted leaves the book as it was."""
    before = client.get("/api/orders").json()["book"]
    order = {"id": "u1", "product": "lantern-plain", "wave": "depot-260312", "packs": 100}
    with monkeypatch.context() as broken:
        broken.setattr("rundgang.api.changing.checked", lambda *_: (_ for _ in ()).throw(RundgangError("No.")))
        assert client.post("/api/orders/urgent", json={"order": order}).status_code == 422
    assert client.get("/api/orders").json()["book"] == before
    assert client.post("/api/orders/urgent", json={"order": order}).status_code == 201
    formula = order | {"id": "=1+2|'x'!A1"}
    refused = client.post("/api/orders/urgent", json={"order": formula})
    assert refused.status_code == 422
    assert "what a spreadsheet does not take for a formula" in refused.text


def test_a_run_given_to_another_line_leaves_later_orders_where_they_are(client: TestClient) -> None:
    """The whole book comes along, not only the window's part of it."""
    later = client.get("/api/orders").json()["beyond"]
    assert later
    plans = {plan["plan"]["line"]: plan["plan"] for plan in client.get("/api/versions/newest").json()["plans"]}
    run = next(run for run in plans["bread-line"]["runs"] if run["product"] == "long-milk")
    given = {"line": "bread-line", "run": run["id"], "to": "long-milk-pastry"}
    assert client.post("/api/versions/1/lines", json=given).status_code == 201
    assert client.get("/api/orders").json()["beyond"] == later


def departing(client: TestClient, lorry: str, place: int = 0) -> dict[str, Any]:
    """The lorry's next departures that are planned, one of them."""
    found = [
        one["departure"]
        for one in client.get("/api/calendar").json()["departures"]
        if one["departure"]["lorry"] == lorry and one["is_planned"]
    ]
    return dict(found[place])


def test_the_next_window_goes_on_from_now(app: FastAPI, client: TestClient) -> None:
    """Sixteen hours in: a day more, the same runs on the line at the same moments, the floor's plan still published."""
    moment = at(app, 960)
    before = client.get("/api/versions/newest").json()
    was = client.get("/api/window").json()
    book = client.get("/api/orders").json()
    made = go_on(client)
    now = client.get("/api/window").json()
    assert made["number"] == now["number"] == was["number"] + 1
    assert datetime.fromisoformat(made["goes_on_at"]) == pytest.approx(moment, abs=timedelta(minutes=1))
    ends = datetime.fromisoformat(was["window"]["starts_at"]) + timedelta(minutes=was["window"]["minutes"])
    assert datetime.fromisoformat(made["ends_at"]) - ends == timedelta(days=1)
    after = client.get("/api/versions/newest").json()
    assert after["published"]["version"] == after["note"]["number"] == 1
    assert not any(plan["violations"] for plan in after["plans"])
    assert doughs(was, before) & doughs(now, after), "what is on the line is where it was"
    kept = client.get("/api/orders").json()
    left = sum(order["packs"] for order in kept["orders"]) + sum(one["order"]["packs"] for one in kept["beyond"])
    ordered = sum(order["packs"] for order in book["orders"]) + sum(one["order"]["packs"] for one in book["beyond"])
    assert left + made["sent"] + made["short"] == ordered
    assert made["sent"] > 0


def doughs(window: dict[str, Any], version: dict[str, Any]) -> set[tuple[str, str, datetime]]:
    """Every dough of a version: line, mixer and when it is begun, to the second."""
    starts = datetime.fromisoformat(window["window"]["starts_at"])
    return {
        (plan["plan"]["line"], batch["mixer"], starts + timedelta(seconds=round(60 * batch["start_min"])))
        for plan in version["plans"]
        for run in plan["plan"]["runs"]
        for batch in run["batches"]
    }


def test_what_is_stored_is_what_was_rolled(app: FastAPI, client: TestClient) -> None:
    """The scenario read back from the tables has the stock, lorries, closings and begun runs that the roll made."""
    at(app, 1_500)
    rolls: list[Rolled] = []

    def told(*parts: Any) -> Rolled:
        rolls.append(gone_on(*parts))
        return rolls[-1]

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(rolling, "gone_on", told)
        go_on(client)
    (rolled,) = (roll.scenario for roll in rolls)
    assert rolled.opening.begun
    assert rolled.finished
    with Session(app.state.engine) as session:
        found = Repository(session).windows.scenario()
    for part in ("window", "waves", "finished", "stocks", "blocks", "opening", "products", "plant"):
        assert getattr(found, part) == getattr(rolled, part), part
    assert Counter(found.orders) == Counter(rolled.orders)


def test_the_window_before_stays_readable_and_cannot_be_changed(app: FastAPI, client: TestClient) -> None:
    at(app, 600)
    first = client.get("/api/window").json()["number"]
    before = client.get("/api/versions/newest").json()
    go_on(client)
    assert client.get(f"/api/versions/1?window={first}").json()["plans"] == before["plans"]
    assert client.get(f"/api/window?window={first}").json()["newest"] == first + 1
    change = {"change": {"kind": "pin", "line": "ring-line", "run": "R1"}, "author": "Ida"}
    refused = client.post(f"/api/versions/1/changes?window={first}", json=change)
    assert refused.status_code == 409
    assert "gone on" in refused.json()["title"]
    assert client.get("/api/window?window=99").status_code == 404


def test_a_batch_that_was_probed_is_the_same_batch_in_the_next_window(app: FastAPI, client: TestClient) -> None:
    """Its run is on the line when the window goes on: called as before, its card says what the probe read."""
    at(app, 600)
    plan = next(
        plan for plan in client.get("/api/versions/newest").json()["plans"] if plan["plan"]["line"] == "ring-line"
    )
    run = next(run for run in plan["plan"]["runs"] if run["start_min"] < 600 < run["last_pack_min"])
    batch = next(one["number"] for one in run["batches"] if not one["shared"])
    probed = client.post(f"/api/plans/{plan['number']}/cards/{run['id']}/{batch}/probe", json={"dough_c": 26.4})
    assert probed.status_code == 201, probed.text
    go_on(client)
    number = next(one["number"] for one in client.get("/api/window").json()["plans"] if one["line"] == "ring-line")
    cards = {(card["run"], card["number"]): card for card in client.get(f"/api/plans/{number}/cards").json()["cards"]}
    card = cards[run["id"], batch]
    assert (card["product"], card["probe"]["dough_c"]) == (run["product"], 26.4)
    assert [one["probe"] for of, one in cards.items() if of != (run["id"], batch)] == [None] * (len(cards) - 1)


def test_what_was_found_goes_along_to_the_next_window_but_not_to_another_plants(
    app: FastAPI, client: TestClient
) -> None:
    """Runs keep their names through a roll, so a check that was made is made; a plant begun anew counts from R1 too."""
    at(app, 600)
    assert client.post("/api/versions/1/publish", json={}).status_code in {200, 201}
    seen = client.get("/api/inspections").json()
    request = {"inspections": {"all": seen["usual"]}, "seen": seen["number"]}
    assert client.post("/api/inspections", json=request).status_code == 201
    round_ = client.get("/api/rounds?line=ring-line").json()
    oven = next(stop for stop in round_["round"]["stops"] if stop["station"] == "oven")
    check = next(one for one in oven["checks"] if one["inspection"]["name"] == "Colour against the card")
    due = next(one for one in reversed(check["due"]) if one["due_min"] <= 600)
    entry = {
        "uuid": str(uuid4()), "window": round_["number"], "version": round_["inspections"], "occasion": due["key"],
        "inspection": check["inspection"]["id"], "at": at(app, 600).isoformat(), "word": "as the card", "author": "Ida",
    }  # fmt: skip
    assert client.post("/api/rounds/entries", json={"entries": [entry]}).json()["refused"] == []

    def found() -> list[str]:
        stops = client.get("/api/rounds?line=ring-line").json()["round"]["stops"]
        dues = [one for stop in stops for check in stop["checks"] for one in check["due"]]
        return [one["key"] for one in dues if one["find"]]

    assert found() == [due["key"]]
    go_on(client)
    assert found() == [due["key"]], "asked once, not again because the window went on"
    with Session(app.state.engine) as session:
        store = Repository(session)
        assert store.windows.rolled_from() == {1, 2}
        whole = WholePlant(scenario=store.windows.scenario())
        store.windows.add(whole, "another plant")
        assert Repository(session).windows.rolled_from() == {3}
    assert Repository(Session(app.state.engine), 1).windows.rolled_from() == {1}


def test_a_roll_that_breaks_off_has_not_happened(
    app: FastAPI, client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:  # fmt: skip
    at(app, 600)
    before = client.get("/api/windows").json()

    def broken(*_: object, **__: object) -> None:
        raise RundgangError("the plan broke off")

    monkeypatch.setattr(rolling, "plan_plant", broken)
    assert client.post("/api/windows/next", json={}).status_code == 422
    assert client.get("/api/windows").json() == before
    assert client.get("/api/versions/newest").json()["note"]["number"] == 1


def test_two_planners_at_once_go_on_once(app: FastAPI, client: TestClient) -> None:
    """The second saw the first window: it is told, and nothing of what the first did is lost."""
    at(app, 600)
    seen = client.get("/api/window").json()["number"]
    go_on(client)
    second = client.post("/api/windows/next", json={"author": "Jo"}, headers={"Rundgang-Window": str(seen)})
    assert second.status_code == 409
    assert len(client.get("/api/windows").json()) == 2


def test_a_window_reaches_no_further_than_the_calendar_says(app: FastAPI, client: TestClient) -> None:
    at(app, 0)
    go_on(client)
    refused = client.post("/api/windows/next", json={})
    assert refused.status_code == 409
    assert "Allowed: 3 days ahead" in refused.json()["title"]


def test_a_lorry_is_moved_and_the_plan_is_out_of_date(app: FastAPI, client: TestClient) -> None:
    at(app, 0)
    view, lorry = client.get("/api/calendar").json(), departing(client, "depot")
    leaves = (datetime.fromisoformat(lorry["leaves"]) - timedelta(hours=2)).replace(tzinfo=None)
    view["calendar"]["moved"] = [{"lorry": "depot", "on": lorry["on"], "leaves": leaves.isoformat()}]
    was = {wave["id"]: wave["departs_min"] for wave in client.get("/api/window").json()["waves"]}
    answer = client.post("/api/calendar", json={"calendar": view["calendar"], "seen": view["number"]})
    assert answer.status_code == 201, answer.text
    now = {wave["id"]: wave["departs_min"] for wave in client.get("/api/window").json()["waves"]}
    assert now[lorry["id"]] == was[lorry["id"]] - 120
    assert {id_: at for id_, at in now.items() if id_ != lorry["id"]} == {
        id_: at for id_, at in was.items() if id_ != lorry["id"]
    }
    assert client.get("/api/versions/newest").json()["stale"]
    again = client.post("/api/calendar", json={"calendar": view["calendar"], "seen": view["number"]})
    assert again.status_code == 409


def test_orders_of_a_lorry_that_does_not_leave_are_listed(app: FastAPI, client: TestClient) -> None:
    at(app, 0)
    view, lorry = client.get("/api/calendar").json(), departing(client, "market", 1)
    packs = Counter[str]()
    for order in client.get("/api/orders").json()["orders"]:
        packs[order["wave"]] += order["packs"]
    view["calendar"]["cancelled"] = [{"lorry": "market", "on": lorry["on"]}]
    assert client.post("/api/calendar", json={"calendar": view["calendar"], "seen": view["number"]}).status_code == 201
    without = [one for one in client.get("/api/orders").json()["beyond"] if one["lorry"] is None]
    assert sum(one["order"]["packs"] for one in without) == packs[lorry["id"]] > 0


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"cancelled": [{"lorry": "river", "on": "2026-03-12"}]}, "river on 2026-03-12 is no lorry of the timetable"),
        ({"moved": [{"lorry": "depot", "on": "2026-03-12", "leaves": "2026-03-24T10:00:00"}]}, "by a week at most"),
        ({"closings": [{"id": "wash", "line": "ring-line", "station": "moat", "kind": "cleaning", "weekdays": [0],
                        "begins": "15:00", "minutes": 30, "reason": "washed"}]}, "allowed: a station of a line"),
        ({"days": 9}, "is 9; allowed: at most 7"),
    ],
)  # fmt: skip
def test_a_calendar_that_does_not_fit_is_refused(
    app: FastAPI, client: TestClient, change: dict[str, Any], said: str
) -> None:
    at(app, 0)
    view = client.get("/api/calendar").json()
    answer = client.post("/api/calendar", json={"calendar": view["calendar"] | change, "seen": view["number"]})
    assert answer.status_code == 422
    assert said in answer.text
    assert client.get("/api/calendar").json() == view


def test_orders_for_a_later_lorry_come_in_by_file(app: FastAPI, client: TestClient) -> None:
    """A lorry behind the window: the order is kept, listed with its lorry, and planned once the window reaches it."""
    at(app, 600)
    later = next(
        one["departure"]
        for one in client.get("/api/calendar").json()["departures"]
        if one["departure"]["lorry"] == "hill" and not one["is_planned"]
    )
    leaves = datetime.fromisoformat(later["leaves"]).strftime("%Y-%m-%d %H:%M")
    rows = f"order,dispatch,product,packs\nfar-1,{leaves},lantern-plain,77\n"
    headers = {"Content-Type": "text/csv"}
    assert client.post("/api/orders/import?mode=add", content=rows, headers=headers).status_code == 201
    beyond = {one["order"]["id"]: one for one in client.get("/api/orders").json()["beyond"]}
    assert beyond["far-1"]["lorry"]["leaves"] == later["leaves"]
    go_on(client)
    assert "far-1" in {order["id"] for order in client.get("/api/orders").json()["orders"]}


def test_materials_are_counted_and_delivered(app: FastAPI, client: TestClient) -> None:
    """A count and a delivery are kept with who entered them, and the plan that drew on less is out of date."""
    at(app, 0)
    opening = client.get("/api/opening").json()
    stocks = [stock | {"on_hand": stock["on_hand"] + 50} for stock in opening["stocks"]]
    stocks[0]["deliveries"] = [
        *stocks[0]["deliveries"],
        {"at_min": 300, "amount": 25, "lot": "L-7", "best_before": None, "allergens": []},
    ]
    request = {
        "finished": opening["finished"],
        "blocks": opening["blocks"],
        "stocks": stocks,
        "seen": opening["number"],
    }
    assert client.post("/api/opening", json=request).status_code == 201
    assert client.get("/api/opening").json()["stocks"] == stocks
    assert client.get("/api/versions/newest").json()["stale"]


def test_a_window_goes_on_by_itself_at_its_hour_and_once(app: FastAPI, client: TestClient) -> None:
    """The calendar says 14:00: at 13:50 nothing happens, at 14:10 it goes on, at 14:20 it has."""
    at(app, 0)
    view = client.get("/api/calendar").json()
    view["calendar"]["rolls_at"] = "14:00"
    assert client.post("/api/calendar", json={"calendar": view["calendar"], "seen": view["number"]}).status_code == 201
    before_two = 18 * 60 - 10
    for minute, windows in ((before_two, 1), (before_two + 20, 2), (before_two + 30, 2)):
        at(app, minute)
        with Session(app.state.engine) as session:
            rolling.go_on_if_due(Repository(session), app.state.clock)
        assert len(client.get("/api/windows").json()) == windows
    assert client.get("/api/windows").json()[0]["author"] == "Rundgang"


def test_standing_orders_come_by_themselves(app: FastAPI, client: TestClient) -> None:
    """Tuesdays and Thursdays: in the window at once, with the next day again, and no line twice."""
    at(app, 0)
    view = client.get("/api/calendar").json()
    order = {"number": "SO-1", "lorry": "market", "product": "lantern-plain", "packs": 120, "weekdays": [1, 3, 5]}
    view["calendar"]["standing"] = [order]
    assert client.post("/api/calendar", json={"calendar": view["calendar"], "seen": view["number"]}).status_code == 201

    def lines() -> list[tuple[str, str, int]]:
        book = client.get("/api/orders").json()["orders"]
        return [(one["id"], one["wave"], one["packs"]) for one in book if one["id"].startswith("SO-1")]

    assert lines() == [("SO-1-260312", "market-260312", 120)], "Thursday; the window ends on Friday"
    go_on(client)
    assert lines() == [("SO-1-260312", "market-260312", 120), ("SO-1-260314", "market-260314", 120)]
    view = client.get("/api/calendar").json()
    view["calendar"]["standing"][0]["product"] = "stone"
    refused = client.post("/api/calendar", json={"calendar": view["calendar"], "seen": view["number"]})
    assert refused.status_code == 422
    assert "standing order SO-1 is for stone" in refused.text


def test_a_room_that_follows_the_weather_does_so_in_the_next_window_too(app: FastAPI, client: TestClient) -> None:
    at(app, 960)
    entered = {"room_c": 23.5, "flour_c": 21, "tap_c": 14.5, "humidity_pct": 50, "by_weather": True}
    stored = client.post("/api/conditions", json=entered)
    assert stored.status_code == 201, stored.text
    was = client.get("/api/window").json()
    assert len(was["conditions"]["by_hour"]) == -(-was["window"]["minutes"] // 60)
    assert was["conditions_now"]["room_c"] == pytest.approx(23.5), "it begins from what was read"
    go_on(client)
    now = client.get("/api/window").json()
    assert now["conditions"]["by_weather"]
    assert len(now["conditions"]["by_hour"]) == -(-now["window"]["minutes"] // 60)
    weather = client.get("/api/weather").json()
    assert weather["simulated"] is True
    rooms = [hour["room"]["room_c"] for hour in weather["hours"]]
    assert [hour["room_c"] for hour in now["conditions"]["by_hour"]] == rooms
    assert len({*rooms}) > 10


def test_readings_fit_the_room_once_there_are_enough(app: FastAPI, client: TestClient) -> None:
    found = client.get("/api/weather").json()
    assert found["fitted"] is None
    assert "at least 4" in found["too_little"]
    for hour in range(0, 20, 4):
        at(app, 60 * hour)
        entered = {"room_c": 20 + hour / 10, "flour_c": 21, "tap_c": 14.5}
        assert client.post("/api/conditions", json=entered).status_code == 201
    fitted = client.get("/api/weather").json()["fitted"]
    assert fitted["readings"] == 5
    assert 5 < fitted["offset_k"] < 30


def test_the_hours_as_they_are_typed_decide_about_water(app: FastAPI, client: TestClient) -> None:
    """A card mixed in the hour of 75 % has 20 points of the plant's rule less water than one at 55 %."""
    at(app, 0)
    hours = [{"humidity_pct": 55}] * 5 + [{"humidity_pct": 75}] * 5
    entered = {"room_c": 22, "flour_c": 21, "tap_c": 14.5, "humidity_pct": 55, "by_hour": hours}
    assert client.post("/api/conditions", json=entered).status_code == 201
    number = client.get("/api/plans/newest?line=ring-line").json()["number"]
    cards = client.get(f"/api/plans/{number}/cards").json()["cards"]
    dry = next(card for card in cards if card["start_min"] < 300)
    wet = next(card for card in cards if card["start_min"] >= 300 and card["product"] == dry["product"])
    assert dry["correction"] == ""
    assert "Room at 75 % humidity" in wet["correction"]
    spell = client.get("/api/window").json()["wet"][0]
    assert (spell["from_min"], spell["humidity_pct"]) == (300, 75)


def test_a_plant_that_does_not_say_how_its_room_follows_is_told_where_to(client: TestClient) -> None:
    edits = [{"kind": "plant", "id": "plant", "data": {"room": None}}]
    number = client.get("/api/window").json()["library"]
    assert client.post("/api/library/change", json={"based_on": number, "edits": edits}).status_code == 201
    answer = client.post("/api/conditions", json={"room_c": 22, "flour_c": 21, "tap_c": 14, "by_weather": True})
    assert answer.status_code == 422
    assert "Plant page" in answer.json()["title"]
    assert client.get("/api/weather").json()["hours"][0]["room"] is None


def test_stranded_orders_are_given_to_another_lorry(app: FastAPI, client: TestClient) -> None:
    at(app, 0)
    lorry = departing(client, "depot", -1)
    calendar = client.get("/api/calendar").json()
    cancelled = [*calendar["calendar"]["cancelled"], {"lorry": "depot", "on": lorry["on"]}]
    body = {"calendar": calendar["calendar"] | {"cancelled": cancelled}, "seen": calendar["number"], "author": "Ida"}
    assert client.post("/api/calendar", json=body).status_code == 201
    view = client.get("/api/orders").json()
    stranded = [one["order"] for one in view["beyond"] if one["lorry"] is None]
    assert {order["wave"] for order in stranded} == {lorry["id"]}
    to = next(one["id"] for one in view["ahead"] if one["name"].startswith("Harbour"))
    moves = [{"number": order["id"], "product": order["product"], "wave": order["wave"]} for order in stranded]
    moved = client.post("/api/orders/moves", json={"orders": moves, "to": to, "author": "Ida"})
    assert moved.status_code == 201, moved.text
    assert moved.json()["origin"].startswith(f"Ida gave {len(stranded)} order lines to Harbour lorry")
    after = client.get("/api/orders").json()
    assert [one for one in after["beyond"] if one["lorry"] is None] == []
    packs = Counter(order["product"] for order in after["orders"] for _ in range(order["packs"]))
    before = Counter(order["product"] for order in (*view["orders"], *stranded) for _ in range(order["packs"]))
    assert packs == before
    assert client.post("/api/orders/moves", json={"orders": moves, "to": to}).status_code == 404, (
        "they are there no more"
    )
    nowhere = {"orders": moves, "to": "moon"}
    assert client.post("/api/orders/moves", json=nowhere).status_code == 404


def test_a_process_killed_in_the_midst_of_going_on_has_done_nothing(app: FastAPI, client: TestClient) -> None:
    """It is killed with everything written and nothing committed: SIGKILL, no handler, no rollback of its own."""
    moment = at(app, 960)
    before = client.get("/api/windows").json(), client.get("/api/versions").json(), client.get("/api/orders").json()
    script = (
        "import os, sys, time\n"
        "from datetime import UTC, datetime\n"
        "from sqlmodel import Session, create_engine\n"
        "from rundgang.clock import Clock\n"
        "from rundgang.jobs.rolling import go_on\n"
        "from rundgang.store.database import connect\n"
        "from rundgang.store.repository import Repository\n"
        "with Session(connect(os.environ['DATABASE_URL'])) as session:\n"
        "    def stay() -> None:\n"
        "        session.flush()\n"
        "        print('about to commit', flush=True)\n"
        "        time.sleep(600)\n"
        "    session.commit = stay\n"
        "    shows = datetime.fromisoformat(sys.argv[1])\n"
        "    go_on(Repository(session), Clock(shows=shows, at=datetime.now(UTC)), 'Ida')\n"
    )
    environment = {**os.environ, "DATABASE_URL": app.state.database_url}
    with subprocess.Popen(
        [sys.executable, "-c", script, moment.isoformat()], env=environment, stdout=subprocess.PIPE, text=True
    ) as process:
        assert process.stdout is not None
        assert process.stdout.readline() == "about to commit\n"
        process.kill()
    after = client.get("/api/windows").json(), client.get("/api/versions").json(), client.get("/api/orders").json()
    assert after == before
    assert go_on(client)["number"] > before[0][0]["number"], "and it can be gone on to"


def test_a_room_that_was_not_read_is_no_reading(app: FastAPI, client: TestClient) -> None:
    """The weather's own room, saved again with another tap, teaches nothing; the last reading counts on."""
    at(app, 0)
    read = {"room_c": 23.5, "flour_c": 21, "tap_c": 14.5, "by_weather": True}
    assert client.post("/api/conditions", json=read).status_code == 201
    at(app, 600)
    now = client.get("/api/window").json()["conditions_now"]
    assert now["room_c"] != 23.5, "the room has followed the weather"
    tap = {"room_c": now["room_c"], "flour_c": 21, "tap_c": 13, "by_weather": True, "room_read": False}
    kept = client.post("/api/conditions", json=tap).json()
    assert (kept["room_c"], kept["read_min"], kept["tap_c"]) == (23.5, pytest.approx(0, abs=5), 13)
    assert kept["by_hour"][0]["room_c"] == 23.5
    with Session(app.state.engine) as session:
        store = Repository(session)
        assert [room for _, room in store.windows.room_readings(EVER)] == [23.5]
    steady = client.post("/api/conditions", json=tap | {"by_weather": False, "room_c": 22}).json()
    assert (steady["room_c"], steady["read_min"]) == (22, None)


EVER = datetime(2000, 1, 1, tzinfo=UTC)


def test_what_was_worked_out_for_a_library_is_forgotten_before_it_fills_the_memory(
    app: FastAPI, client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Scenarios of one library share what they worked out; when it has grown long, the next begins with nothing."""
    at(app, 0)

    def worked_out() -> int:
        entered = {"room_c": 22 + next(numbers) / 10, "flour_c": 21, "tap_c": 14.5}
        assert client.post("/api/conditions", json=entered).status_code == 201
        with Session(app.state.engine) as session:
            scenario = Repository(session).windows.scenario()
            before = len(scenario.known)
            fitted(client, "ring-line")
            return before

    numbers = iter(range(9))
    first, second = worked_out(), worked_out()
    assert second >= first
    assert second > 0, "it is shared from one scenario to the next"
    monkeypatch.setattr("rundgang.store.windows.MOST_WORKED_OUT", 0)
    assert worked_out() == 0
