"""What the record teaches and who cleaned what, on their pages: chosen and taken, left, told, and released."""

import re
from collections import Counter
from datetime import UTC, datetime, timedelta

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from playwright.sync_api import Page, expect

from axe import violations_here
from rundgang.clock import Clock

WARMER_K = (1.0, 1.2, 0.9, 1.1, 1.0, 0.8)


@pytest.fixture
def mixer(client: TestClient) -> str:
    """The mixer in which doughs of a product were found about 1 K too warm."""
    cards = client.get("/api/plans/1/cards").json()["cards"]
    (product, mixer), _ = Counter((card["product"], card["mixer"]) for card in cards).most_common(1)[0]
    library = client.get("/api/library").json()["library"]
    wanted = next(one["dough_temperature_c"] for one in library["products"] if one["id"] == product)
    own = [card for card in cards if (card["product"], card["mixer"]) == (product, mixer)]
    for card, off in zip(own, WARMER_K, strict=False):
        path = f"/api/plans/1/cards/{card['run']}/{card['number']}/probe"
        assert client.post(path, json={"dough_c": wanted + off, "confirmed": True}).status_code == 201
    return str(mixer)


def test_a_lesson_is_chosen_tried_and_taken(client: TestClient, page: Page, mixer: str) -> None:
    page.goto("/learning")
    page.get_by_role("checkbox", name=re.compile(mixer)).check()
    effect = page.get_by_role("region", name="What taking them does")
    expect(effect.get_by_role("heading", name="1 figure chosen")).to_be_visible()
    expect(effect.get_by_text(re.compile("friction", re.I)).first).to_be_visible()
    assert violations_here(page) == []
    before = client.get("/api/library").json()["note"]["number"]
    effect.get_by_role("button", name="Take into the library").click()
    expect(effect.get_by_role("heading", name="Nothing is taken by itself")).to_be_visible()
    expect(page.get_by_role("checkbox", name=re.compile(mixer))).to_have_count(0)
    note = client.get("/api/library").json()["note"]
    assert note["number"] == before + 1
    assert "learnt from the record" in note["origin"]


def test_a_lesson_is_left_with_a_reason(page: Page, mixer: str) -> None:
    page.goto("/learning")
    page.get_by_role("checkbox", name=re.compile(mixer)).check()
    effect = page.get_by_role("region", name="What taking them does")
    expect(effect.get_by_role("button", name="Leave")).to_be_disabled()
    effect.get_by_label("or leave, because").fill("a new flour comes on Monday")
    effect.get_by_role("button", name="Leave").click()
    expect(page.get_by_text("a new flour comes on Monday")).to_be_visible()


@pytest.mark.whole
def test_a_cleaning_is_told_and_released_by_somebody_else(app: FastAPI, client: TestClient, page: Page) -> None:
    first = datetime.fromisoformat(client.get("/api/windows").json()[-1]["starts_at"])
    app.state.clock = Clock(shows=first + timedelta(minutes=600), at=datetime.now(UTC))
    page.goto("/upkeep?line=bread-line")
    expect(page.get_by_role("region", name="Tools that wear")).to_contain_text("Slicer blades")
    page.get_by_role("button", name="Done").first.click()
    page.get_by_role("dialog").get_by_role("button", name="Enter it").click()
    diary = page.get_by_role("region", name="Diary")
    told = diary.get_by_role("listitem").first
    expect(told).to_contain_text("clean away")
    assert violations_here(page) == []
    told.get_by_label("Looked at and released by").fill("Somebody Else")
    told.get_by_role("button", name="Release").click()
    expect(told).to_contain_text("released by Somebody Else")


@pytest.mark.refusals
def test_the_account_is_read_by_shift_and_handed_over(page: Page, app: FastAPI) -> None:
    """Nothing has been counted here: that is said, and the same hours can be asked for another way."""
    app.state.clock = Clock(datetime(2026, 3, 11, 3, tzinfo=UTC))
    page.goto("/account?line=ring-line")
    expect(page.get_by_role("alert")).to_contain_text("Nothing has counted the packs")
    page.get_by_role("radio", name="by shift").click()
    expect(page).to_have_url(re.compile("by=shift"))
    page.get_by_label("Which hours").select_option("yesterday")
    expect(page).to_have_url(re.compile("since=2026-03-10T00%3A00&until=2026-03-11T00%3A00"))
    assert violations_here(page) == []
