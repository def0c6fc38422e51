"""A stop on its page: told with one tap, its cause in two, what to do, options as they come, and that it runs again."""

import re
from collections.abc import Iterator
from datetime import UTC, datetime

import pytest
from fastapi import FastAPI
from playwright.sync_api import Page, expect

from axe import violations_here
from rundgang.api.app import create_app
from rundgang.settings import Settings
from rundgang.store.cluster import Urls

NOW = datetime(2026, 3, 11, 1, tzinfo=UTC)


@pytest.fixture
def app(urls: Urls) -> Iterator[FastAPI]:
    """The application, by whose clock the line is at work."""
    made = create_app(urls.app, Settings(hosts=["testserver", "127.0.0.1"], clock_shows=NOW))
    yield made
    made.state.engine.dispose()


def test_a_stop_from_its_first_tap_to_its_last(page: Page) -> None:
    page.goto("/now?line=ring-line")
    page.get_by_role("button", name="Something stopped").click()
    page.get_by_role("dialog", name="What stopped?").get_by_role("button", name="Proofer").click()
    expect(page.get_by_role("heading", name="Proofer stands since 02:00")).to_be_visible()
    page.get_by_role("button", name="Say the cause").click()
    page.get_by_role("button", name="drive", exact=True).click()
    page.get_by_role("button", name="chain or belt").click()
    expect(page.get_by_text("drive: chain or belt")).to_be_visible()
    now = page.get_by_role("region", name="Do now")
    expect(now.get_by_role("listitem").first).to_contain_text(
        re.compile(r"Hold Mixer \w+|Feed nothing into the Divider")
    )
    now.get_by_role("button", name=re.compile("^Done: ")).first.click()
    expect(now.get_by_role("listitem").first).to_contain_text("done ✓")
    expect(page.get_by_role("img", name="What is where, and until when it is good")).to_be_visible()
    plan = page.get_by_role("region", name="What to do with the plan")
    expect(plan.get_by_text("cheapest for the likely time")).to_be_visible(timeout=30_000)
    assert violations_here(page) == []
    plan.get_by_role("button", name="Do this").nth(1).click()
    expect(page).to_have_url(re.compile(r"/plan/2\?line=ring-line"), timeout=30_000)
    page.goto("/stops")
    page.get_by_role("link", name=re.compile("Proofer, Ring line")).click()
    page.get_by_role("button", name="It runs again").click()
    expect(page.get_by_role("heading", name=re.compile("Proofer stood"))).to_be_visible()
    expect(page.get_by_text(re.compile("plan version 2: counted on 20 min"))).to_be_visible()
    expect(page.get_by_text("runs again, by planner")).to_be_visible()
    page.goto("/stops")
    expect(page.get_by_role("region", name="Stop 1")).to_contain_text("drive: chain or belt, by planner")
    assert violations_here(page) == []


def test_the_walk_tells_a_stop_with_one_tap(page: Page) -> None:
    page.goto("/walk/ring-line/oven")
    page.get_by_label("Who walks?").fill("Jonte")
    page.get_by_role("button", name="Begin the walk").click()
    page.get_by_role("button", name="It stopped").click()
    expect(page.get_by_role("heading", name="Steam oven stands since 02:00")).to_be_visible()
    expect(page.get_by_text("Hot oven, tins and steam")).to_be_visible()
