"""The floor on its pages: a line as it is, the board, and the instruments; readings come while one looks."""

import re
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from fastapi import FastAPI
from playwright.sync_api import Page, expect

from axe import violations, violations_here
from rundgang.api.app import create_app
from rundgang.settings import Settings
from rundgang.store.cluster import Urls

NOW = datetime(2026, 3, 11, 1, tzinfo=UTC)
"""When the ring line is at work."""


@pytest.fixture
def app(urls: Urls) -> Iterator[FastAPI]:
    """The application, by whose clock the line is at work."""
    made = create_app(urls.app, Settings(hosts=["testserver", "127.0.0.1"], clock_shows=NOW))
    yield made
    made.state.engine.dispose()


def send(page: Page, *readings: tuple[str, str, float, float]) -> None:
    """Readings of stations, of so many minutes ago."""
    sent = [
        {
            "line": "ring-line",
            "station": station,
            "quantity": quantity,
            "value": value,
            "at": (NOW - timedelta(minutes=ago)).isoformat(),
        }
        for station, quantity, ago, value in readings
    ]
    assert page.request.post("/api/readings", data={"readings": sent}).status == 201


def packs(*each: int) -> list[tuple[str, str, float, float]]:
    """The bagger's count, minute by minute until now."""
    return [("bagger", "count", len(each) - 1 - place, float(count)) for place, count in enumerate(each)]


def made_by(plan: dict[str, Any], minute: float) -> float:
    """Packs that a plan has made by a moment, run by run."""
    made: float = sum(
        run["packs"] * min(1, max(0, (minute - run["first_pack_min"]) / (run["last_pack_min"] - run["first_pack_min"])))
        for run in plan["runs"]
    )
    return made


def test_a_line_says_whether_it_is_on_pace_and_follows_its_counts(page: Page) -> None:
    plan = page.request.get("/api/versions/newest?line=ring-line").json()["plans"][0]["plan"]
    window = page.request.get("/api/window").json()["window"]
    now_min = (NOW - datetime.fromisoformat(window["starts_at"])).total_seconds() / 60
    made = [round(1_000 + made_by(plan, now_min - 40 + minute)) for minute in range(41)]
    send(page, *packs(*made))
    with page.expect_response(re.compile("/api/events")):
        page.goto("/now?line=ring-line")
    expect(page.get_by_role("heading", name="Ring line, now")).to_be_visible()
    expect(page.get_by_text("on pace")).to_be_visible()
    expect(page.get_by_text("since 01:20", exact=True)).to_be_visible()
    expect(page.get_by_text(re.compile("Since 01:20 as the counters have it"))).to_be_visible()
    instruments = page.get_by_role("region", name="Instruments")
    expect(instruments).to_contain_text(f"{made[-1]:,} out")
    send(page, ("bagger", "count", 0.01, 9_999.0))
    expect(instruments).to_contain_text("9,999 out", timeout=2_000)
    assert violations_here(page) == []
    instruments.get_by_role("button", name="9,999 out").click()
    history = page.get_by_role("dialog", name="Bagger, count")
    expect(history.get_by_role("img", name=re.compile(f"from {made[0]:,} to 9,999 out, last 9,999"))).to_be_visible()
    history.get_by_role("radio", name="1 day").click()
    expect(history.get_by_role("link", name="CSV")).to_have_attribute("href", re.compile("hours=24"))
    assert violations_here(page) == []


def test_a_line_that_stands_is_said_with_what_to_do(page: Page) -> None:
    send(page, *packs(*range(1_000, 1_040, 1), *[1_039] * 6), ("oven", "state", 30, 1.0), ("oven", "state", 6, 0.0))
    page.goto("/now?line=ring-line")
    told = page.get_by_role("region", name="Steam oven")
    expect(told.get_by_role("alert")).to_have_text("Steam oven stopped at 01:54")
    expect(told).to_contain_text("6 min ago")
    told.get_by_role("button", name="What to do").click()
    expect(page.get_by_role("heading", name="Steam oven stands since 01:54")).to_be_visible()
    expect(
        page.get_by_text(re.compile(r"Some of it is lost since|Running again by|Nothing that has begun"))
    ).to_be_visible()
    page.goto("/now?line=ring-line")
    send(page, ("oven", "state", 0.01, 1.0))
    expect(told).to_be_hidden(timeout=15_000)


def test_a_plan_anew_is_offered_where_it_pays(page: Page) -> None:
    """A divider that has gone at a quarter of its pace all night."""
    send(page, *(("divider", "count", 200.0 - minute, 8_000.0 + 20 * minute) for minute in range(0, 200, 2)))
    page.goto("/now?line=ring-line")
    offer = page.get_by_role("region", name="A better plan")
    expect(offer).to_contain_text(re.compile(r"points less, \d+ runs? moved"), timeout=20_000)
    assert violations_here(page) == []
    offer.get_by_role("button", name="Plan anew").click()
    expect(page.get_by_text(re.compile("^version 2 ·"))).to_be_visible(timeout=20_000)


def test_what_an_hour_lacks_has_its_cause(page: Page) -> None:
    send(page, *packs(*[1_000] * 31), ("bagger", "state", 30, 0.0))
    page.goto("/now?line=ring-line")
    hours = page.get_by_role("region", name="Made and planned by the hour, packs")
    expect(hours.get_by_role("listitem").first).to_contain_text(re.compile(r"missing, Bagger stood \d+ min −\d+"))


@pytest.mark.whole
def test_the_board_has_one_line_alone_for_its_own_wall(page: Page) -> None:
    """Larger than beside others, and after a reload too: a screen on a wall is switched on and left."""
    page.goto("/board")
    lines = page.get_by_role("heading", level=2)
    expect(lines).to_have_count(5)
    beside = lines.first.bounding_box()
    page.get_by_label("Lines on the board").select_option("Ring line")
    expect(lines).to_have_text(["Ring line"])
    page.reload()
    expect(lines).to_have_text(["Ring line"])
    alone = lines.first.bounding_box()
    assert beside
    assert alone
    assert alone["height"] > 1.5 * beside["height"]
    assert violations_here(page) == []
    page.get_by_label("Lines on the board").select_option("All lines")
    expect(lines).to_have_count(5)


@pytest.mark.whole
def test_the_board_has_every_line_at_a_glance(page: Page) -> None:
    send(page, *packs(*[1_000] * 31))
    page.goto("/board")
    ring = page.get_by_role("link", name=re.compile("Ring line"))
    expect(ring).to_contain_text(re.compile(r"packs behind"))
    expect(page.get_by_role("link", name=re.compile("Bread line"))).to_contain_text("nothing has been counted yet")
    assert violations_here(page) == []
    ring.click()
    expect(page).to_have_url(re.compile(r"/now\?line=ring-line"))


@pytest.mark.refusals
def test_instruments_are_mapped_and_what_does_not_answer_is_said(page: Page) -> None:
    page.goto("/instruments")
    expect(page.get_by_role("region", name="Sources")).to_contain_text("nobody listens to it")
    page.get_by_label("Node of Divider, count").fill("")
    page.get_by_role("button", name="Add a source").click()
    source = page.get_by_role("region", name="New source")
    source.get_by_role("button", name="Find its nodes").click()
    expect(source.get_by_role("alert")).to_contain_text("does not answer as an OPC UA server")
    expect(source.get_by_text("told by Simulated plant").first).to_be_visible()
    source.get_by_label("Node of Divider, count").fill("ns=4;s=Divider.Total")
    source.get_by_label("Factor of Divider, count").fill("12")
    page.get_by_role("button", name="Save", exact=True).click()
    expect(page.get_by_role("region", name="Sources").get_by_text("not saved yet")).to_be_hidden()
    page.reload()
    page.get_by_role("button", name=re.compile("New source")).click()
    expect(page.get_by_label("Node of Divider, count")).to_have_value("ns=4;s=Divider.Total")
    expect(page.get_by_label("Factor of Divider, count")).to_have_value("12")
    assert violations_here(page) == []


@pytest.mark.parametrize(
    "path", ["/now?line=ring-line", "/board", "/instruments", "/checks", "/sheet", "/stops", "/walk"]
)
def test_the_floors_pages_are_accessible_also_where_nothing_is_known(page: Page, path: str) -> None:
    assert violations(page, path) == []
