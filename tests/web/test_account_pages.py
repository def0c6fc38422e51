"""The account on its page, after a night that the counters saw: hours, records beneath, shifts, and the handover."""

import re
from collections.abc import Iterator

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from playwright.sync_api import Page, expect

from axe import violations_here
from nights import after_a_night
from rundgang.store.cluster import Urls


@pytest.fixture
def app(urls: Urls) -> Iterator[FastAPI]:
    """The application, after such a night."""
    with after_a_night(urls, every_min=2) as made:
        yield made


def test_every_figure_leads_to_the_records_beneath_it(client: TestClient, page: Page) -> None:
    account = client.get("/api/account?line=ring-line").json()
    page.goto("/account?line=ring-line")
    hours = page.get_by_role("region", name="By the hour").get_by_role("row")
    expect(hours).to_have_count(len(account["account"]["hours"]) + 1)
    well = page.get_by_role("region", name="How well")
    expect(well).to_contain_text(f"{100 * account['tally']['adherence']:.1f} %")
    for figure, part in (
        ("Availability", "What stood"),
        ("Adherence", "Runs, and the lots they gave"),
        ("Pulled pieces", "Scrap and pulled pieces"),
        ("Giveaway", "Giveaway"),
        ("Oven idle", "Oven idle"),
    ):
        well.get_by_role("link", name=figure, exact=True).click()
        expect(page.get_by_role("region", name=part, exact=True)).to_be_in_viewport()
    runs = page.get_by_role("region", name="Runs, and the lots they gave")
    for run in account["runs"]:
        expect(runs).to_contain_text(f"{run['made']:,} of {run['planned']:,} packs")
    assert violations_here(page) == []


def test_accounts_stand_beside_each_other_and_each_opens_its_own(page: Page) -> None:
    page.goto("/account?line=ring-line&since=2026-03-10T20:00&until=2026-03-11T07:00")
    page.get_by_role("radio", name="by shift").click()
    table = page.get_by_role("region", name="By shift")
    expect(table).to_contain_text("The calendar says no shifts: these are thirds of the day")
    expect(table.get_by_role("row")).to_have_count(5)
    assert violations_here(page) == []
    table.get_by_role("link", name=re.compile("22:00–06:00")).click()
    expect(page.get_by_label("from")).to_have_value("2026-03-10T22:00")
    expect(page.get_by_label("to", exact=True)).to_have_value("2026-03-11T06:00")
    expect(page.get_by_role("region", name="By the hour").get_by_role("row")).to_have_count(9)
    with page.expect_download() as got:
        page.get_by_role("link", name="Workbook").click()
    assert got.value.suggested_filename == "account-ring-line.xlsx"


def test_what_is_handed_over_is_read_on_now_and_on_the_walk(page: Page) -> None:
    page.goto("/account?line=ring-line")
    field = page.get_by_label("What whoever comes must know")
    hand = page.get_by_role("button", name="Hand over")
    expect(hand).to_be_disabled()
    field.fill("Belt two runs hot.\nWatch it.")
    hand.click()
    expect(page.get_by_role("region", name="For the next shift")).to_contain_text("Belt two runs hot.")
    expect(field).to_have_value("")
    page.goto("/now?line=ring-line")
    expect(page.get_by_role("region", name="Handed over")).to_contain_text("handed over by planner")
    page.goto("/walk/ring-line")
    expect(page.get_by_role("region", name="Handed over")).to_contain_text("Watch it.")
    assert violations_here(page) == []
