"""Plans that are surer, by the API: asked for, found by a worker, chosen from and taken."""

from typing import Any

from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlmodel import Session

from rundgang.core.planning.check.plans import check_plant
from rundgang.core.simulation.worth import changes_for
from rundgang.jobs.requests import SearchRequest
from rundgang.jobs.search import run_search
from rundgang.store.repository import Repository

LINE = "ring-line"


def asked(client: TestClient, **more: object) -> Any:
    body = {"wish": {"line": LINE, "waves": [], "odds": 0.95, **more}, "seconds": 4}
    answer = client.post("/api/odds/surer", json=body)
    assert answer.status_code == 202, answer.text
    return answer.json()


def test_plans_are_found_one_after_the_other_and_one_is_taken(app: FastAPI, client: TestClient) -> None:
    plan = client.get(f"/api/plans/newest?line={LINE}").json()
    odds = client.get(f"/api/odds/{plan['number']}").json()
    lorry = odds["lorries"][-1]
    search = asked(client, waves=[lorry["wave"]], odds=min(0.95, lorry["odds"] + 0.4))
    assert client.get(f"/api/odds/surer?line={LINE}").json()["plans"] == []
    request = SearchRequest.model_validate(search["request"], strict=False)
    run_search(app.state.engine, search["job"], request, lambda: False, app.state.clock)
    found = client.get(f"/api/odds/surer?line={LINE}").json()
    assert found["search"]["state"] == "done", found
    assert f"{len(found['plans'])} plans" in found["search"]["text"]
    first, *others = found["plans"]
    assert first["odds"] == lorry["odds"]
    assert others
    best = max(found["plans"], key=lambda one: (one["odds"], -one["cost"]))
    assert best["odds"] > first["odds"]
    by_number = {one["number"]: one for one in found["plans"]}
    chosen = [by_number[number] for number in found["frontier"]]
    assert [one["cost"] for one in chosen] == sorted(one["cost"] for one in chosen)
    assert [one["odds"] for one in chosen] == sorted(one["odds"] for one in chosen)
    assert chosen[-1]["odds"] == best["odds"]
    taken = client.post(f"/api/odds/surer/{search['job']}/{best['number']}", json={"author": "Ida"})
    assert taken.status_code == 201, taken.text
    assert "surer" in taken.json()["note"]
    again = client.post(f"/api/odds/surer/{search['job']}/{best['number']}", json={"author": "Ida"})
    assert again.json() == taken.json(), "tapped twice it is one version"
    version = client.get(f"/api/versions/newest?line={LINE}").json()
    assert (version["note"]["number"], version["cost"]) == (taken.json()["version"], best["cost"])
    assert version["violations"] == []
    with Session(app.state.engine) as session:
        store = Repository(session)
        assert check_plant(store.windows.scenario(), store.plans.version().plan.plans) == ()
    after = client.get(f"/api/odds/{version['plans'][0]['number']}").json()
    now = next(one["odds"] for one in after["lorries"] if one["wave"] == lorry["wave"])
    assert now == best["odds"]


def test_changes_are_compared(app: FastAPI, client: TestClient) -> None:
    asked_for = client.post("/api/odds/worth", json={"line": LINE, "seconds": 2})
    assert asked_for.status_code == 202, asked_for.text
    search = asked_for.json()
    request = SearchRequest.model_validate(search["request"], strict=False)
    for _ in range(2):  # a worker that is lost is followed by another: nothing is there twice
        run_search(app.state.engine, search["job"], request, lambda: False, app.state.clock)
    compared = client.get(f"/api/odds/worth?line={LINE}").json()
    assert compared["search"]["state"] == "done"
    with Session(app.state.engine) as session:
        changes = changes_for(Repository(session).windows.scenario(), LINE)
    told = [(one["change"]["kind"], one["change"]["station"]) for one in compared["found"]]
    assert sorted(told, key=str) == sorted(((one.kind, one.station) for one in changes), key=str)
    missed = [one["missed"] for one in compared["found"]]
    assert missed == sorted(missed)
    assert client.get("/api/versions/newest").json()["note"]["number"] == 1, "it becomes no version"


def test_what_is_not_there_is_said(client: TestClient) -> None:
    for path, body in (
        ("/api/odds/surer", {"wish": {"line": "no-line"}}),
        ("/api/odds/surer", {"wish": {"line": LINE, "waves": ["no-lorry"]}}),
        ("/api/odds/surer/1/1", {}),
        ("/api/odds/worth", {"line": "no-line"}),
        ("/api/searches", {"compares": "no-line"}),
        ("/api/searches", {"wish": {"line": LINE, "waves": ["no-lorry"]}}),
    ):
        answer = client.post(path, json=body)
        assert answer.status_code == 404, path
        assert answer.json()["title"]
    assert client.get("/api/odds/surer?line=no-line").status_code == 404
    assert client.get("/api/odds/worth?line=no-line").status_code == 404
    assert client.post("/api/odds/surer", json={"wish": {"line": LINE, "odds": 1.2}}).status_code == 422
