"""The odds on their page: lorries with what they are owed, and the stations that the risk comes from."""

from fastapi import FastAPI
from fastapi.testclient import TestClient
from playwright.sync_api import Page, expect

from axe import violations_here
from rundgang.jobs.requests import SearchRequest
from rundgang.jobs.search import run_search


def test_each_lorry_has_its_odds_and_each_station_what_it_costs(client: TestClient, page: Page) -> None:
    plan = client.get("/api/plans/newest").json()
    odds = client.get(f"/api/odds/{plan['number']}").json()
    page.goto("/plan")
    page.get_by_role("link", name="Odds").click()
    lorries = page.get_by_role("region", name="Lorries").get_by_role("row")
    expect(lorries).to_have_count(sum(len(lorry["products"]) for lorry in odds["lorries"]) + 1)
    first = odds["lorries"][0]["products"][0]
    expect(lorries.nth(1)).to_contain_text(f"{first['packs']:,}")
    expect(lorries.nth(1)).to_contain_text(f"{round(100 * first['odds'])} %")
    expect(lorries.nth(1)).to_contain_text(f"{round(100 * odds['lorries'][0]['odds'])} %")
    stations = page.get_by_role("region", name="Where the risk comes from").get_by_role("row")
    expect(stations).to_have_count(len(odds["stations"]) + 1)
    expect(stations.nth(1)).to_contain_text(odds["stations"][0]["name"])
    runs = page.get_by_role("region", name="Runs that carry the risk").get_by_role("row")
    expect(runs.nth(1)).to_contain_text(odds["runs"][0]["run"])
    expect(page.get_by_role("img", name="Packs made on a thousand days against packs owed")).to_be_visible()
    assert violations_here(page) == []


def test_plans_that_are_surer_are_looked_for_and_one_is_saved(app: FastAPI, client: TestClient, page: Page) -> None:
    page.goto("/odds?line=ring-line")
    panel = page.get_by_role("region", name="What sureness costs")
    lorries = panel.get_by_label("lorry").locator("option")
    expect(lorries.last).to_contain_text(":")
    panel.get_by_label("lorry").select_option(index=lorries.count() - 1)
    panel.get_by_label("complete on").fill("60")
    panel.get_by_role("button", name="Plan for 60 %").click()
    expect(panel.get_by_text("waiting for a worker")).to_be_visible()
    search = client.get("/api/odds/surer?line=ring-line").json()["search"]
    request = SearchRequest.model_validate(search["request"], strict=False).model_copy(update={"seconds": 4})
    run_search(app.state.engine, search["job"], request, lambda: False, app.state.clock)
    found = client.get("/api/odds/surer?line=ring-line").json()
    expect(panel.get_by_role("row")).to_have_count(len(found["frontier"]) + 1)
    expect(panel.get_by_role("img", name="What sureness costs")).to_be_visible()
    assert violations_here(page) == []
    assert len(found["frontier"]) > 1
    panel.get_by_role("button", name="Save as version").last.click()
    expect(panel.get_by_text("Saved as version 2")).to_be_visible()
    assert client.get("/api/versions/newest").json()["note"]["number"] == 2


def test_changes_are_compared_beside_today(app: FastAPI, client: TestClient, page: Page) -> None:
    page.goto("/odds?line=ring-line")
    panel = page.get_by_role("region", name="What would a change be worth")
    panel.get_by_role("button", name="Compare changes").click()
    expect(panel.get_by_text("waiting for a worker")).to_be_visible()
    search = client.get("/api/odds/worth?line=ring-line").json()["search"]
    request = SearchRequest.model_validate(search["request"], strict=False).model_copy(update={"seconds": 2})
    run_search(app.state.engine, search["job"], request, lambda: False, app.state.clock)
    found = client.get("/api/odds/worth?line=ring-line").json()["found"]
    rows = panel.get_by_role("row")
    expect(rows).to_have_count(len(found) + 1)
    expect(panel.get_by_role("row", name="As it is today")).to_be_visible()
    expect(panel.get_by_role("row", name="Lorries half an hour later")).to_be_visible()
    expect(panel.get_by_role("button", name="Compare changes")).to_be_enabled()
    assert violations_here(page) == []
