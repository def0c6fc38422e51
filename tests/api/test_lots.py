"""What was made, over the API: weighed by the guide, traced both ways, held, thrown away, loaded, and gone."""

import json
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from itertools import pairwise
from typing import Any
from uuid import uuid4

import psycopg
import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlmodel import Session

from conftest import DAY
from rundgang.api.app import create_app
from rundgang.clock import Clock
from rundgang.core.floor.instruments import Reading, Signal, state_of_mixer
from rundgang.core.planning.past import opened
from rundgang.demo.ostermere import ostermere
from rundgang.instruments.simulated.chance import Chance
from rundgang.instruments.simulated.server import Follower
from rundgang.jobs.keeping import keep
from rundgang.jobs.stocktaking import levels
from rundgang.settings import Settings
from rundgang.store.cluster import Urls
from rundgang.store.database import connect
from rundgang.store.repository import Repository

pytestmark = pytest.mark.whole

NOW = datetime(2026, 3, 11, 3, tzinfo=UTC)
"""When the lines have made packs, and no lorry has left."""


@pytest.fixture
def app(urls: Urls) -> Iterator[FastAPI]:
    """The application at work, its record kept up to now."""
    made = create_app(urls.app, Settings(hosts=["testserver", "127.0.0.1"], clock_shows=NOW))
    kept(urls, NOW)
    yield made
    made.state.engine.dispose()


def kept(urls: Urls, at: datetime) -> None:
    engine = connect(urls.app)
    with Session(engine) as session:
        keep(Repository(session), Clock(at, at, 0))
    engine.dispose()


def got(client: TestClient, path: str) -> Any:
    answer = client.get(path)
    assert answer.status_code == 200, answer.text
    return answer.json()


def done(client: TestClient, path: str, **body: object) -> Any:
    answer = client.post(path, json={"uuid": str(uuid4()), "author": "Ida", **body})
    assert answer.status_code == 201, answer.text
    return answer.json()


def refusal(client: TestClient, path: str, **body: object) -> str:
    answer = client.post(path, json={"uuid": str(uuid4()), "author": "Ida", **body})
    assert 400 <= answer.status_code < 500, answer.text
    return str(answer.json()["title"])


def next_batch(client: TestClient) -> dict[str, str]:
    """The next dough that nobody has mixed yet, as the routes of weighing name it."""
    day = got(client, "/api/window")
    plan = got(client, "/api/plans/newest?line=ring-line")
    cards = got(client, f"/api/plans/{plan['number']}/cards")["cards"]
    card = next(card for card in cards if card["start_min"] > day["now_min"])
    return {"line": "ring-line", "run": card["run"], "key": card["key"]}


def guide_of(client: TestClient, ref: dict[str, str]) -> Any:
    return got(client, f"/api/weighing?line={ref['line']}&run={ref['run']}&key={ref['key']}")


def packs_of(client: TestClient, product: str) -> list[dict[str, Any]]:
    found = got(client, f"/api/lots?words={product}&most=500")
    return [line for line in found if line["lot"]["kind"] == "packs"]


def loadable(client: TestClient) -> tuple[dict[str, Any], dict[str, Any], dict[str, Any]]:
    """A lorry that is here, a product of the ring line that it is due, and a lot of it that may be loaded."""
    return next(
        (lorry, product, lot)
        for lorry in got(client, "/api/dispatch")
        if lorry["left_at"] is None
        for product in lorry["products"]
        for lot in product["there"]
        if lot["refused"] is None and lot["packs"] >= 20 and "ring-line" in lot["code"]
    )


def weigh_all(client: TestClient, ref: dict[str, str], factor: float = 1.0) -> dict[str, int]:
    """Weigh everything up out of the first lot that is offered; what was put in, g, by ingredient."""
    weighed: dict[str, int] = {}
    for step in guide_of(client, ref)["steps"]:
        lots = [lot for lot in step["lots"] if lot["refused"] is None]
        weighed[step["ingredient"]] = max(1, round(step["grams"] * factor))
        done(
            client,
            "/api/weighing/weighed",
            **ref,
            ingredient=step["ingredient"],
            lot=lots[0]["lot"] if lots else None,
            grams=weighed[step["ingredient"]],
            at=NOW.isoformat(),
        )
    return weighed


def test_what_was_weighed_is_the_batch_and_what_the_materials_fall_by(client: TestClient, urls: Urls) -> None:
    ref = next_batch(client)
    steps = {step["ingredient"]: step for step in guide_of(client, ref)["steps"]}
    flour = steps["flour-mill"]
    before = flour["lots"][0]["left_kg"]
    weighed = weigh_all(client, ref, 1.004)
    guide = guide_of(client, ref)
    assert [step["ingredient"] for step in guide["steps"] if not step["done"]] == []
    assert guide["lot"]["code"] == f"260311-ring-line-{ref['run']}-{ref['key']}"
    closed = done(client, "/api/weighing/taps", **ref, tap="discharged", at=NOW.isoformat())
    assert [event["kind"] for event in closed["told"]] == ["discharged"]
    lot = got(client, f"/api/lots/{guide['lot']['number']}")
    used = {use["lot"]: use["amount"] for use in lot["trace"]["uses"] if use["into"] == guide["lot"]["number"]}
    assert used[flour["lots"][0]["lot"]] == pytest.approx(weighed["flour-mill"] / 1000)
    assert weighed["flour-mill"] != flour["grams"]
    after = got(client, f"/api/lots/{flour['lots'][0]['lot']}")["line"]["left"]
    assert before - after == pytest.approx(weighed["flour-mill"] / 1000, abs=0.001)
    kept(urls, NOW + timedelta(hours=3))
    again = got(client, f"/api/lots/{guide['lot']['number']}")["trace"]["uses"]
    own = [use for use in again if use["into"] == guide["lot"]["number"] and use["kind"] != "rework"]
    assert sum(use["amount"] for use in own) <= sum(weighed.values()) / 1000 + 1e-6, "nothing is drawn twice"


def test_a_weight_sent_twice_is_there_once(client: TestClient) -> None:
    ref = next_batch(client)
    step = next(step for step in guide_of(client, ref)["steps"] if step["ingredient"] == "salt")
    entry = {
        **ref, "uuid": str(uuid4()), "ingredient": "salt", "lot": step["lots"][0]["lot"], "grams": step["grams"],
        "at": NOW.isoformat(), "author": "Ida",
    }  # fmt: skip
    for _ in range(3):
        assert client.post("/api/weighing/weighed", json=entry).status_code == 201
    (then,) = (step for step in guide_of(client, ref)["steps"] if step["ingredient"] == "salt")
    assert then["weighed_g"] == step["grams"]


def test_a_wrong_lot_or_weight_or_time_is_refused_in_words(client: TestClient) -> None:
    ref = next_batch(client)
    steps = {step["ingredient"]: step for step in guide_of(client, ref)["steps"]}
    salt, flour = steps["salt"], steps["flour-mill"]
    good = {**ref, "ingredient": "salt", "lot": salt["lots"][0]["lot"], "grams": salt["grams"], "at": NOW.isoformat()}
    path = "/api/weighing/weighed"
    assert "of something else" in refusal(client, path, **(good | {"lot": flour["lots"][0]["lot"]}))
    assert "with a reason" in refusal(client, path, **(good | {"grams": salt["high_g"] + 500}))
    assert "which is to come" in refusal(client, path, **(good | {"at": (NOW + timedelta(hours=1)).isoformat()}))
    assert "no batch" in refusal(client, path, **(good | {"key": "99"}))
    assert "no ingredient" in refusal(client, path, **(good | {"ingredient": "moon"}))
    done(client, f"/api/lots/{good['lot']}/hold", reason="wet bags", onward=False)
    assert "held: wet bags" in refusal(client, path, **good)
    done(client, "/api/weighing/taps", **ref, tap="discharged", at=NOW.isoformat())
    assert "out of its bowl" in refusal(client, path, **(good | {"lot": salt["lots"][0]["lot"]}))


def test_a_bag_is_traced_to_its_flour_and_the_flour_to_every_bag(client: TestClient) -> None:
    packs = packs_of(client, "ring-line")
    bag = got(client, f"/api/lots/{packs[0]['lot']['number']}")
    flours = [one["lot"] for one in bag["trace"]["made_of"] if one["lot"]["item"] == "flour-mill"]
    assert flours
    flour = got(client, f"/api/lots/{flours[0]['number']}")
    onward = {one["lot"]["number"] for one in flour["trace"]["went_into"]}
    assert onward >= {line["lot"]["number"] for line in packs}
    balance = flour["balance"]
    made = [one["lot"] for one in flour["trace"]["went_into"] if one["lot"]["kind"] == "packs"]
    assert balance["made"] == sum(lot["amount"] for lot in made)
    assert balance["made"] == balance["sent"] + balance["held"] + balance["scrap"] + balance["in_stock"]
    mass = flour["mass"]
    assert mass["dough"] + mass["put_on"] == pytest.approx(mass["packs"] + mass["bake_loss"] + mass["other_loss"])
    product, own = ostermere(DAY).product(bag["line"]["lot"]["item"]), bag["mass"]
    needed = bag["line"]["lot"]["amount"] * float(product.scaled_per_pack) * product.scaling_g / 1000
    assert own["dough"] == pytest.approx(needed, rel=0.01), "what the route says that so many good packs take"


def test_what_is_held_is_not_loaded_and_the_plan_counts_it_as_absent(client: TestClient) -> None:
    lorry, _, lot = loadable(client)
    held = done(client, f"/api/lots/{lot['lot']}/hold", reason="seal leaks", onward=True)
    assert held["lots"] == [lot["lot"]]
    said = refusal(client, "/api/dispatch/loads", lorry=lorry["lorry"], lot=lot["lot"], packs=1)
    assert "held: seal leaks" in said
    assert got(client, f"/api/lots/{lot['lot']}")["balance"]["held"] == lot["packs"]
    assert "held already" in refusal(client, f"/api/lots/{lot['lot']}/hold", reason="again", onward=True)
    newest = got(client, "/api/versions/newest")["note"]["number"]
    fit = client.post(f"/api/versions/{newest}/changes", json={"change": {"kind": "fit", "line": "ring-line"}})
    assert fit.status_code == 201, fit.text
    after = got(client, "/api/plans/newest?line=ring-line")
    assert after["violations"] == []
    name = got(client, f"/api/lots/{lot['lot']}")["line"]["lot"]["run"]
    run = next(run for run in after["plan"]["runs"] if run["id"] == name)
    assert run["packs"] == pytest.approx(run["split"]["packs"] - lot["packs"], abs=1)
    released = done(client, f"/api/lots/{lot['lot']}/release", reason="sealed again, looked at", onward=True)
    assert released["lots"] == [lot["lot"]]
    done(client, "/api/dispatch/loads", lorry=lorry["lorry"], lot=lot["lot"], packs=1)


def test_packs_thrown_away_are_gone_once(client: TestClient) -> None:
    line = next(line for line in packs_of(client, "ring-line") if line["left"] >= 10)
    number, packs = line["lot"]["number"], int(line["left"])
    body = {"uuid": str(uuid4()), "author": "Ida", "packs": 7, "cause": "damaged", "reason": "torn"}
    for _ in range(2):
        assert client.post(f"/api/lots/{number}/scrap", json=body).status_code == 201
    assert got(client, f"/api/lots/{number}")["line"]["left"] == packs - 7
    assert "which are there" in refusal(client, f"/api/lots/{number}/scrap", packs=packs, cause="damaged")


def test_a_lorry_leaves_with_what_is_on_it_and_the_roll_takes_it_from_there(
    app: FastAPI, client: TestClient, urls: Urls
) -> None:
    lorry, product, lot = loadable(client)
    path = "/api/dispatch/loads"
    done(client, path, lorry=lorry["lorry"], lot=lot["lot"], packs=20)
    done(client, path, lorry=lorry["lorry"], lot=lot["lot"], packs=-5)
    assert "up to 15" in refusal(client, path, lorry=lorry["lorry"], lot=lot["lot"], packs=-16)
    assert "1 to" in refusal(client, path, lorry=lorry["lorry"], lot=lot["lot"], packs=50_000)
    said = refusal(client, "/api/dispatch/left", lorry=lorry["lorry"])
    assert "a reason for each" in said
    assert product["name"] in said
    reasons = {one["product"]: "the lorry could not wait" for one in lorry["products"]}
    left = done(client, "/api/dispatch/left", lorry=lorry["lorry"], reasons=reasons)
    assert left["left_at"] is not None
    assert "has left" in refusal(client, path, lorry=lorry["lorry"], lot=lot["lot"], packs=1)
    note = client.get(f"/api/dispatch/{lorry['lorry']}/note.pdf")
    assert (note.status_code, note.content[:5]) == (200, b"%PDF-")
    opening = got(client, "/api/opening")
    told = {(one["wave"], one["product"]): one["packs"] for one in opening["loaded"]}
    assert told[lorry["lorry"], product["product"]] == 15
    later = NOW + timedelta(hours=8)
    kept(urls, later)
    assert sum(one["packs"] for one in got(client, f"/api/lots/{lot['lot']}")["loads"]) >= 15
    (view,) = (one for one in got(client, "/api/dispatch") if one["lorry"] == lorry["lorry"])
    assert sum(one["packs"] for made in view["products"] for one in made["loaded"]) == 15, "what was told stays"
    ordered = {one["product"]: one["ordered"] for one in lorry["products"]}
    app.state.clock = Clock(later, datetime.now(UTC), 0.0)
    went = client.post("/api/windows/next", json={"author": "Ida"})
    assert went.status_code == 201, went.text
    settled = got(client, "/api/windows/settled")["served"]
    own = {one["product"]: one for one in settled if one["wave"] == lorry["lorry"]}
    assert own[product["product"]]["sent"] == 15
    assert own[product["product"]]["short"] == ordered[product["product"]] - 15
    assert all(one["sent"] == 0 for name, one in own.items() if name != product["product"])


def test_a_recall_is_one_page_and_one_document(client: TestClient) -> None:
    """GS1 EPCIS 2.0, sections 7.4.6 and 7.4.2: transformations with inputs and outputs, shipping as observed."""
    lorry, _, there = loadable(client)
    done(client, "/api/dispatch/loads", lorry=lorry["lorry"], lot=there["lot"], packs=12)
    bag = got(client, f"/api/lots/{there['lot']}")
    flour = next(one["lot"] for one in bag["trace"]["made_of"] if one["lot"]["item"] == "flour-mill")
    paper = client.get(f"/api/lots/{flour['number']}/recall.pdf")
    assert (paper.status_code, paper.content[:5]) == (200, b"%PDF-")
    answer = client.get(f"/api/lots/{flour['number']}/recall.json")
    assert answer.headers["content-type"].startswith("application/ld+json")
    document = json.loads(answer.content)
    assert (document["type"], document["schemaVersion"]) == ("EPCISDocument", "2.0")
    events = document["epcisBody"]["eventList"]
    made = [event for event in events if event["type"] == "TransformationEvent"]
    name = f"urn:rundgang:lot:{flour['code']}"
    assert any(name in {one["epcClass"] for one in event["inputQuantityList"]} for event in made)
    assert all(event["outputQuantityList"] and event["eventTimeZoneOffset"] == "+01:00" for event in made)
    own = [{"epcClass": f"urn:rundgang:lot:{there['code']}", "quantity": 12, "uom": "H87"}]
    (sent,) = (event for event in events if event["type"] == "ObjectEvent" and event["quantityList"] == own)
    assert (sent["bizStep"], sent["action"]) == ("shipping", "OBSERVE")
    assert [event["eventTime"] for event in events] == sorted(event["eventTime"] for event in events)
    assert client.get(f"/api/lots/{flour['number']}/label.pdf").content[:5] == b"%PDF-"


def test_a_failed_seal_holds_what_has_passed(client: TestClient, urls: Urls) -> None:
    """What passed since the last good one of a check that holds is held by itself (common practice)."""
    usual = got(client, "/api/inspections")
    client.post("/api/inspections", json={"inspections": {"all": usual["usual"]}, "seen": usual["number"]})
    round_ = got(client, "/api/rounds?line=ring-line")
    stop = next(one for one in round_["round"]["stops"] if one["station"] == "bagger")
    seal = next(one for one in stop["checks"] if one["inspection"]["name"] == "Seal")
    due = [one for one in seal["due"] if one["due_min"] <= round_["now_min"]][-1]
    entry = {
        "uuid": str(uuid4()), "window": round_["number"], "version": round_["inspections"], "occasion": due["key"],
        "inspection": seal["inspection"]["id"], "run": due["run"], "product": due["product"], "batch": due["batch"],
        "at": (NOW - timedelta(minutes=1)).isoformat(), "author": "Jonte", "word": "leaks",
    }  # fmt: skip
    assert client.post("/api/rounds/entries", json={"entries": [entry]}).json()["taken"]
    kept(urls, NOW)
    held = [line for line in packs_of(client, "ring-line") if line["held"]]
    assert held
    assert held[0]["held"] == "Seal: leaks"
    gives = got(client, "/api/opening")["gives"]
    assert gives, "the plan counts them as absent"
    kept(urls, NOW)
    assert all(len(got(client, f"/api/lots/{line['lot']['number']}")["held"]) == 1 for line in held)
    assert got(client, "/api/opening")["gives"] == gives, "once"
    number, run = held[0]["lot"]["number"], held[0]["lot"]["run"]
    counted = {one["run"]: one["packs"] for one in gives}
    done(client, f"/api/lots/{number}/release", reason="sealed again", onward=False)
    after = {one["run"]: one["packs"] for one in got(client, "/api/opening")["gives"]}
    assert after[run] - counted[run] == held[0]["left"], "as many as were held, and no more"


def heard(urls: Urls, signal: Signal, *told: tuple[float, float]) -> None:
    """Readings of an instrument: so many minutes from now, and what it read."""
    engine = connect(urls.app)
    with Session(engine) as session:
        readings = [Reading(signal, NOW + timedelta(minutes=at), value) for at, value in told]
        Repository(session).readings.append(readings)
    engine.dispose()


def test_a_mixer_that_is_heard_tells_when_all_was_in_and_when_it_was_out(client: TestClient, urls: Urls) -> None:
    """The dough before it, which the mixer is at when weighing begins, is not taken for it."""
    ref = next_batch(client)
    guide = guide_of(client, ref)
    weigh_all(client, ref)
    (station,) = (one for one in ostermere(DAY).line("ring-line").batch_stations if one.id == guide["station"])
    signal = state_of_mixer("ring-line", station, guide["card"]["mixer"])
    start = guide["card"]["start_min"] - got(client, "/api/window")["now_min"]
    heard(urls, signal, (-5, 1), (1, 0), (start + 1, 1))
    kept(urls, NOW + timedelta(minutes=start + 5))
    told = {event["kind"]: event for event in guide_of(client, ref)["told"]}
    assert set(told) == {"charged"}
    assert told["charged"]["author"] == "the mixer's signal"
    heard(urls, signal, (start + 14, 0))
    kept(urls, NOW + timedelta(minutes=start + 15))
    told = {event["kind"]: event for event in guide_of(client, ref)["told"]}
    assert datetime.fromisoformat(told["charged"]["at"]) == NOW + timedelta(minutes=start + 1)
    assert datetime.fromisoformat(told["discharged"]["at"]) == NOW + timedelta(minutes=start + 14)
    assert told["discharged"]["author"] == "the mixer's signal"
    kept(urls, NOW + timedelta(hours=3))
    assert len(guide_of(client, ref)["told"]) == 2


def level_of(urls: Urls, item: str, at: datetime) -> float:
    """What should be there of a material at a moment, kg."""
    engine = connect(urls.app)
    with Session(engine) as session:
        there = levels(Repository(session), Clock(at, at, 0))
    engine.dispose()
    return next(stock.on_hand for stock in there.stocks if stock.item == item)


def stock_of(client: TestClient, item: str) -> float:
    return float(next(one["on_hand"] for one in got(client, "/api/materials") if one["item"] == item))


def test_what_was_weighed_otherwise_is_in_the_plans_stock_and_goes_into_the_next_window(
    app: FastAPI, client: TestClient, urls: Urls
) -> None:
    ref, before = next_batch(client), stock_of(client, "flour-mill")
    steps = {step["ingredient"]: step for step in guide_of(client, ref)["steps"]}
    flour, lot = steps["flour-mill"], steps["flour-mill"]["lots"][0]["lot"]
    told = {"ingredient": "flour-mill", "lot": lot, "at": NOW.isoformat(), "reason": "too dry"}
    done(client, "/api/weighing/weighed", **ref, **told, grams=flour["grams"])
    done(client, "/api/weighing/weighed", **ref, **told, grams=3_000)
    assert stock_of(client, "flour-mill") == before, "the batch goes on"
    done(client, "/api/weighing/taps", **ref, tap="discharged", at=NOW.isoformat())
    app.state.clock = Clock(NOW + timedelta(minutes=1), NOW, 0)
    assert stock_of(client, "flour-mill") == pytest.approx(before - 3)
    counted = {"item": "flour-mill", "amount": 5_000.0, "reason": "counted", "author": "Ida"}
    assert client.post("/api/stock/materials", json=counted).status_code == 201
    later = NOW + timedelta(minutes=1)
    assert level_of(urls, "flour-mill", later) == pytest.approx(5_000)
    told |= {"at": later.isoformat()}
    ref = next_batch(client)
    if guide_of(client, ref)["lot"] is None:
        asked = next(step for step in guide_of(client, ref)["steps"] if step["ingredient"] == "flour-mill")
        done(client, "/api/weighing/weighed", **ref, **told, grams=asked["grams"] + 7_000)
        done(client, "/api/weighing/taps", **ref, tap="discharged", at=later.isoformat())
    before = level_of(urls, "flour-mill", later)
    went = client.post("/api/windows/next", json={"author": "Ida"})
    assert went.status_code == 201, went.text
    assert level_of(urls, "flour-mill", later) == pytest.approx(before), "and it is counted once"


def test_the_hand_of_the_simulated_plant_puts_on_the_scale_what_the_guide_asks_for(
    client: TestClient, urls: Urls
) -> None:
    ref = next_batch(client)
    guide = guide_of(client, ref)
    engine = connect(urls.app)
    follower = Follower(engine, Clock(NOW, NOW, 0), Chance(3))
    follower.follow()
    assert follower.plant
    here = ("ring-line", guide["station"])
    steps = guide["steps"]
    for step, then in pairwise(steps[:3]):
        assert follower.plant.on_scales[here] == pytest.approx(step["grams"], rel=0.004, abs=1)
        lots = [lot["lot"] for lot in step["lots"] if lot["refused"] is None]
        body = {"ingredient": step["ingredient"], "lot": lots[0] if lots else None, "grams": step["grams"]}
        done(client, "/api/weighing/weighed", **ref, **body, at=NOW.isoformat())
        follower.follow()
        assert follower.plant.on_scales[here] == pytest.approx(then["grams"], rel=0.004, abs=1)
    minute = follower.plant.minute(NOW)
    read = {(s.station, s.quantity): value for s, value in follower.plant.readings(minute) if s.line == "ring-line"}
    assert read[guide["station"], "weight"] == follower.plant.on_scales[here]
    wanted = {product.dough_temperature_c for product in ostermere(DAY).made_on("ring-line")}
    assert min(abs(read[guide["station"], "temperature"] - one) for one in wanted) < 3
    engine.dispose()


def test_what_nobody_ordered_and_goes_along_is_not_there_any_more(client: TestClient, urls: Urls) -> None:
    """Of the plan's own stock, and of a begun run, as many as went."""
    lorry = next(one for one in got(client, "/api/dispatch") if one["left_at"] is None)
    due = {one["product"] for one in lorry["products"]}
    there = [
        (line["lot"]["item"], line["lot"]["number"])
        for line in got(client, "/api/lots?most=500")
        if line["lot"]["kind"] == "packs" and line["left"] >= 6 and line["held"] is None
    ]
    product, lot = next(one for one in there if one[0] not in due)

    def counted() -> int:
        engine = connect(urls.app)
        with Session(engine) as session:
            store = Repository(session)
            scenario = store.windows.scenario()
            now_min = (NOW - scenario.window.starts_at).total_seconds() / 60
            scenario = opened(scenario, store.plans.floor_plans(), now_min)
        engine.dispose()
        begun = sum(run.packs for run in scenario.opening.begun if run.product == product)
        return begun + sum(one.packs for one in scenario.finished if one.product == product)

    done(client, "/api/dispatch/loads", lorry=lorry["lorry"], lot=lot, packs=6, reason="asked for by telephone")
    reasons = dict.fromkeys((*due, product), "as it was")
    done(client, "/api/lots/clear", lots=[lot])
    done(client, f"/api/lots/{lot}/hold", reason="looked at", onward=False)
    done(client, f"/api/lots/{lot}/release", reason="good", onward=False)
    before = counted()
    done(client, "/api/dispatch/left", lorry=lorry["lorry"], reasons=reasons)
    assert counted() == before - 6


def test_what_is_packed_before_its_go_ahead_is_held(app: FastAPI, client: TestClient, urls: Urls) -> None:
    """Quality control's go-ahead, run by run: packed before it is held; of a run that has it, nothing is."""
    known = got(client, "/api/inspections")
    own = {
        "id": "go", "line": "ring-line", "station": "bagger", "name": "First packs", "when": {"kind": "start"},
        "asks": {"kind": "chosen", "good": "go", "bad": ["wait"]}, "action": "Wait.", "clears": True,
    }  # fmt: skip
    wrong = own | {"when": {"kind": "daily"}}
    url, seen = "/api/inspections", {"seen": known["number"]}
    refused = client.post(url, json={"inspections": {"all": [wrong]}, **seen})
    assert (refused.status_code, "run's start" in refused.text) == (422, True)
    assert client.post(url, json={"inspections": {"all": [own]}, **seen}).status_code == 201
    version = got(client, url)["number"]
    later = NOW + timedelta(hours=3)
    runs = {line["lot"]["run"] for line in packs_of(client, "ring-line") if line["lot"]["line"] == "ring-line"}
    app.state.clock = Clock(later, later, 0)
    round_ = got(client, "/api/rounds?line=ring-line")
    due = [
        one
        for stop in round_["round"]["stops"]
        for check in stop["checks"]
        if check["inspection"]["id"] == "go"
        for one in check["due"]
        if one["run"] not in runs
    ]
    first = min(due, key=lambda one: one["due_min"])
    entry = {
        "uuid": str(uuid4()), "window": round_["number"], "version": version, "occasion": first["key"],
        "inspection": "go", "run": first["run"], "product": first["product"], "author": "Ida", "word": "go",
        "at": (datetime.fromisoformat(round_["window"]["starts_at"]) + timedelta(minutes=first["due_min"])).isoformat(),
    }  # fmt: skip
    taken = client.post("/api/rounds/entries", json={"entries": [entry]}).json()
    assert taken["taken"] == [entry["uuid"]], taken
    with psycopg.connect(urls.owner.replace("+psycopg", "")) as database:
        database.execute("UPDATE inspections_version SET created_at = now() - interval '3 hours'")
    engine = connect(urls.app)
    with Session(engine) as session:
        keep(Repository(session), Clock(later, datetime.now(UTC), 1.0))
    engine.dispose()
    held = {
        line["lot"]["run"]: line["held"]
        for line in packs_of(client, "ring-line")
        if line["lot"]["line"] == "ring-line" and line["lot"]["run"] and line["lot"]["run"] not in runs
    }
    assert first["run"] in held
    assert held[first["run"]] is None
    without = {held[run] for run in held if run != first["run"]}
    assert without == {"First packs: packed before it was good"}


def test_a_mock_recall_is_judged_by_the_record_and_timed(client: TestClient, urls: Urls) -> None:
    kept(urls, NOW + timedelta(hours=8))
    begun = done(client, "/api/mock-recalls")
    number, task = begun["recall"]["number"], begun["recall"]["task"]
    bag = got(client, f"/api/lots/{task['bag']}")
    assert bag["line"]["lot"]["code"] == begun["code"]
    assert bag["loads"], "it went out"
    sources = [one["lot"] for one in bag["trace"]["made_of"] if one["lot"]["item"] == task["item"]]
    source = got(client, f"/api/lots/{sources[0]['number']}")
    lorries = {load["lorry"] for load in source["loads"]}
    packs = sum(load["packs"] for load in source["loads"])
    assert packs == source["balance"]["sent"] > 0
    url = f"/api/mock-recalls/{number}/answer"
    body = {"source": sources[0]["code"], "packs": packs, "lorries": len(lorries) + 1}
    judged = client.post(url, json=body).json()["recall"]["answered"]
    assert (judged["judgement"]["source"], judged["judgement"]["packs"], judged["judgement"]["lorries"]) == (
        True, True, False,
    )  # fmt: skip
    assert judged["judgement"]["right_lorries"] == len(lorries)
    assert 0 <= judged["seconds"] < 600
    again = client.post(url, json=body | {"lorries": len(lorries)}).json()["recall"]["answered"]
    assert again == judged, "the first answer counts"
    other = done(client, "/api/mock-recalls")["recall"]["number"]
    wrong = client.post(f"/api/mock-recalls/{other}/answer", json=body | {"source": "no such lot"}).json()
    assert wrong["recall"]["answered"]["judgement"]["right_packs"] is None
    assert [one["recall"]["number"] for one in got(client, "/api/mock-recalls")] == [other, number]
    assert client.get("/api/mock-recalls/999").status_code == 404


def test_a_scale_that_is_heard_shows_what_it_read_last(client: TestClient, urls: Urls) -> None:
    """It tells what changes: what lies on it does not, however long. One that is not heard shows what is fresh only."""
    ref = next_batch(client)
    station = guide_of(client, ref)["station"]
    path = f"/api/weighing/instrument?line=ring-line&station={station}&quantity=weight"
    assert got(client, path) == {"path": f"ring-line/{station}/weight", "value": None, "simulated": True}
    scale = Signal(line="ring-line", station=station, quantity="weight")
    heard(urls, scale, (-40, 24_980.0))
    assert got(client, path)["value"] is None, "nobody listens, and it was long ago"
    engine = connect(urls.app)
    with Session(engine) as session:
        store = Repository(session)
        (source,) = store.instruments.newest().instruments.sources
        store.instruments.beat(source.name, "", [])
        session.commit()
    engine.dispose()
    assert got(client, path)["value"] == 24_980
    heard(urls, scale, (-0.5, 0.0))
    assert got(client, path)["value"] == 0
    run = ref["run"]
    plan = got(client, "/api/plans/newest?line=ring-line")["number"]
    assert got(client, f"/api/weighing/probe?plan={plan}&run={run}")["path"] == f"ring-line/{station}/temperature"
    assert client.get(f"/api/weighing/probe?plan={plan}&run=R999").status_code == 404


def test_a_batch_weighed_ahead_is_not_the_one_that_the_mixer_begins_first(client: TestClient, urls: Urls) -> None:
    """Doughs are weighed up before the one ahead of them is mixed (common practice, no published source)."""
    day = got(client, "/api/window")
    plan = got(client, "/api/plans/newest?line=ring-line")
    cards = [
        card
        for card in got(client, f"/api/plans/{plan['number']}/cards")["cards"]
        if card["start_min"] > day["now_min"] and card["preparation"] is None
    ]
    mixer = cards[0]["mixer"]
    ahead, second = [card for card in cards if card["mixer"] == mixer][:2]
    ref = {"line": "ring-line", "run": second["run"], "key": second["key"]}
    weigh_all(client, ref)
    (station,) = (one for one in ostermere(DAY).line("ring-line").batch_stations if mixer in one.mixers)
    signal = state_of_mixer("ring-line", station, mixer)
    first, then = (card["start_min"] - day["now_min"] for card in (ahead, second))
    done_at = second["discharged_min"] - day["now_min"]
    heard(urls, signal, (-1, 0), (first, 1), (first + 5, 0))
    kept(urls, NOW + timedelta(minutes=first + 6))
    assert guide_of(client, ref)["told"] == []
    heard(urls, signal, (then + 1, 1), (done_at + 1, 0))
    kept(urls, NOW + timedelta(minutes=done_at + 2))
    told = {event["kind"]: event["at"] for event in guide_of(client, ref)["told"]}
    assert datetime.fromisoformat(told["charged"]) == NOW + timedelta(minutes=then + 1)
    assert datetime.fromisoformat(told["discharged"]) == NOW + timedelta(minutes=done_at + 1)
