"""What was made, on its pages: weighed up, traced from a bag to its flour, held, and loaded."""

import re
from collections.abc import Iterator
from datetime import UTC, datetime

import pytest
from fastapi import FastAPI
from playwright.sync_api import Page, expect
from sqlmodel import Session

from axe import violations_here
from rundgang.api.app import create_app
from rundgang.clock import Clock
from rundgang.jobs.keeping import keep
from rundgang.settings import Settings
from rundgang.store.cluster import Urls
from rundgang.store.database import connect
from rundgang.store.repository import Repository

pytestmark = pytest.mark.whole

NOW = datetime(2026, 3, 11, 3, tzinfo=UTC)
"""When the lines have made packs, and the hill towns' lorry is still here."""


@pytest.fixture
def app(urls: Urls) -> Iterator[FastAPI]:
    """The application at work, its record kept up to now."""
    made = create_app(urls.app, Settings(hosts=["testserver", "127.0.0.1"], clock_shows=NOW))
    engine = connect(urls.app)
    with Session(engine) as session:
        keep(Repository(session), Clock(NOW))
    engine.dispose()
    yield made
    made.state.engine.dispose()


def test_from_a_bags_code_to_its_flour_are_three_actions(page: Page) -> None:
    page.goto("/records?words=ring-line packs")
    line = page.get_by_role("link", name=re.compile("ring-line-R.*-packs$")).first
    expect(line).to_be_visible()
    code = line.inner_text()
    page.goto("/records")
    field = page.get_by_label(re.compile("^Scan a label"))
    field.fill(code)  # one: scanned, and
    field.press("Enter")  # two: opened, as a scanner does without a pause; its flour lots are on the page
    way = page.get_by_role("region", name="Its way")
    flour = way.get_by_role("link", name="Mill flour 700")
    expect(flour).to_be_visible()
    assert violations_here(page) == []
    flour.click()  # three: the flour's own page
    expect(page.get_by_role("heading", name="Mill flour 700")).to_be_visible()
    expect(page.get_by_role("region", name="Balance")).to_contain_text(
        re.compile(r"[\d,]+ packs made = [\d,]+ sent \+ [\d,]+ in stock \+ 0 held \+ 0 scrap")
    )


def test_a_lot_is_held_with_all_that_holds_it_and_released(page: Page) -> None:
    page.goto("/records?words=ring-line packs")
    page.get_by_role("link", name=re.compile("-packs$")).first.click()
    page.get_by_role("button", name="Hold").click()
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_role("button", name="Hold")).to_be_disabled()
    dialog.get_by_label("Why it is held").fill("seal leaks")
    dialog.get_by_role("button", name="Hold").click()
    expect(dialog).to_contain_text("Done.")
    dialog.get_by_role("button", name="Close").last.click()
    expect(page.get_by_role("alert")).to_contain_text("Held by planner: seal leaks")
    page.get_by_role("button", name="Release").click()
    page.get_by_role("dialog").get_by_label("Why it may go").fill("sealed again")
    page.get_by_role("dialog").get_by_role("button", name="Release").click()
    page.get_by_role("dialog").get_by_role("button", name="Close").last.click()
    expect(page.get_by_role("region", name="What became of it")).to_contain_text("released: sealed again")


def test_the_oldest_is_loaded_and_the_lorry_leaves_with_a_reason(page: Page) -> None:
    page.goto("/dispatch")
    product = page.get_by_role("region", name="Lantern Plain")
    product.get_by_role("button", name=re.compile("^Load the oldest")).click()
    expect(product).to_contain_text("on it")
    assert violations_here(page) == []
    leaves = page.get_by_role("region", name="It leaves")
    expect(leaves.get_by_role("button", name="It has left")).to_be_disabled()
    for field in leaves.get_by_role("textbox").all():
        field.fill("it could not wait")
    leaves.get_by_role("button", name="It has left").click()
    expect(page.get_by_text("It has left, says planner.")).to_be_visible()


def test_a_batch_is_weighed_up_on_a_tablet(page: Page) -> None:
    page.set_viewport_size({"width": 820, "height": 1180})
    page.goto("/dough?line=bread-line")
    page.get_by_role("link", name="Weigh it up").click()
    expect(page.get_by_role("navigation", name="Ingredients")).to_be_visible()
    listed = page.get_by_role("navigation", name="Ingredients").get_by_role("button")
    expect(listed.first).to_have_attribute("aria-current", "step")
    first = listed.first.inner_text().split("\n")[0]
    assert violations_here(page) == []
    boxes = [one.bounding_box() for one in page.get_by_role("main").get_by_role("button").all()]
    assert min(box["height"] for box in boxes if box) >= 48, "targets of at least 48 px"
    page.get_by_role("button", name="As asked").click()
    page.get_by_role("button", name="It is in").click()
    expect(listed.first).to_contain_text("in: ")
    expect(page.get_by_role("heading", level=2, name=first, exact=True)).to_have_count(0)
    page.get_by_role("button", name="Out of the bowl").click()
    expect(page.get_by_text("Out of the bowl, says planner.")).to_be_visible()
    page.get_by_role("link", name="Its lot").click()
    expect(page.get_by_role("region", name="What became of it")).to_contain_text("out of the bowl")


def test_a_lot_is_scanned_where_it_is_weighed_and_a_wrong_one_is_refused_in_words(page: Page) -> None:
    page.goto("/dough?line=bread-line")
    page.get_by_role("link", name="Weigh it up").click()
    field = page.get_by_label("Scan or type the code of a lot")
    expect(field).to_be_visible()
    lots = page.get_by_role("group", name=re.compile("^Out of lot")).get_by_role("button")
    code = lots.last.inner_text().split("\n")[0]
    field.fill("no such bag")
    field.press("Enter")
    expect(page.get_by_text(re.compile("no such bag is no lot of"))).to_be_visible()
    field.fill(code)
    field.press("Enter")
    expect(page.get_by_text(f"{code} is taken.")).to_be_visible()
    expect(lots.last).to_have_attribute("aria-pressed", "true")


def test_a_mock_recall_is_begun_and_answered(page: Page) -> None:
    page.goto("/records")
    page.get_by_role("link", name="Mock recall").click()
    page.get_by_role("button", name="Start the stop-watch").click()
    expect(page.get_by_text("A customer has sent back a bag of")).to_be_visible()
    assert violations_here(page) == []
    stop = page.get_by_role("button", name="Stop the stop-watch")
    expect(stop).to_be_disabled()
    page.get_by_label(re.compile("^The lot of")).fill("no idea")
    page.get_by_label("Packs that were loaded").fill("1")
    page.get_by_label("Lorries they were loaded on").fill("1")
    stop.click()
    expect(page.get_by_role("alert")).to_contain_text("3 answers of three not right")
    page.get_by_role("link", name="All mock recalls").click()
    expect(page.get_by_role("region", name="Practised")).to_contain_text("not all right")


def test_packs_are_scrapped_with_a_cause_and_a_label_is_printed(page: Page) -> None:
    page.goto("/records?words=ring-line packs")
    page.get_by_role("link", name=re.compile("-packs$")).first.click()
    page.get_by_role("button", name="Scrap", exact=True).click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label(re.compile("^Packs, of")).fill("3")
    expect(dialog.get_by_role("button", name="Scrap")).to_be_disabled()
    dialog.get_by_label("Why they are scrapped").select_option("seal or pack")
    dialog.get_by_role("button", name="Scrap").click()
    expect(dialog).to_contain_text("Done.")
    dialog.get_by_role("button", name="Close").last.click()
    expect(page.get_by_role("region", name="What became of it")).to_contain_text("scrapped, 3 packs: seal or pack")


def test_older_lots_are_shown_a_page_at_a_time_each_once(page: Page) -> None:
    page.goto("/records")
    rows = page.get_by_role("region", name="Lots").get_by_role("row")
    expect(rows).to_have_count(101)
    page.get_by_role("button", name="Show older ones").click()
    expect(rows).not_to_have_count(101)
    names = page.get_by_role("region", name="Lots").locator("td:first-child a").all_inner_texts()
    assert len(names) == len({*names}) > 100
