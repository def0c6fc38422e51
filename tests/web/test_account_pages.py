"""The account on its page, after a night that the counters saw: hours, records beneath, shifts, and the handover."""

import re
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from playwright.sync_api import Page, expect
from sqlmodel import Session

from axe import violations_here
from rundgang.api.app import create_app
from rundgang.clock import Clock
from rundgang.core.floor.instruments import Reading
from rundgang.instruments.simulated.chance import Chance
from rundgang.instruments.simulated.server import Follower
from rundgang.settings import Settings
from rundgang.store.cluster import Urls
from rundgang.store.database import connect
from rundgang.store.repository import Repository

BEGAN, NOW = datetime(2026, 3, 10, 20, tzinfo=UTC), datetime(2026, 3, 11, 6, 20, tzinfo=UTC)


@pytest.fixture
def app(urls: Urls) -> Iterator[FastAPI]:
    """The application, after a night in which the simulated plant was heard every two minutes."""
    made = create_app(urls.app, Settings(hosts=["testserver", "127.0.0.1"], clock_shows=NOW))
    engine = connect(urls.app)
    follower = Follower(engine, Clock(BEGAN, datetime.now(UTC), 0.0), Chance(3))
    follower.follow()
    assert follower.plant
    with Session(engine) as session:
        at, readings = BEGAN, list[Reading]()
        while at <= NOW:
            read = follower.plant.readings(follower.plant.minute(at))
            readings += [
                Reading(signal, at, value) for signal, value in read if signal.quantity in {"count", "state", "weight"}
            ]
            at += timedelta(minutes=2)
        Repository(session).readings.append(readings)
    engine.dispose()
    yield made
    made.state.engine.dispose()


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
