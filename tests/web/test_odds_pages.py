"""The odds on their page: lorries with what they are owed, and the stations that the risk comes from."""

from fastapi.testclient import TestClient
from playwright.sync_api import Page, expect

from axe import violations_here


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
    expect(page.get_by_role("img", name="Packs made on a thousand days against packs owed")).to_be_visible()
    assert violations_here(page) == []
