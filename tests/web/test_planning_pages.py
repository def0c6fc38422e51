"""The plan under the planner's hand: dragged, pinned, split, undone, compared, published, searched for, saved."""

import json
import re
from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient
from playwright.sync_api import Locator, Page, expect

from axe import violations
from rundgang.serve import Child, running
from rundgang.store.cluster import Urls

SLOW_MS = 30_000
"""What tries several plans takes seconds, and longer where the machine is busy."""


def drag(page: Page, run: str, by: float, drop: bool = True) -> None:
    """Take a run at its first corner and pull it along the clock, in pixels."""
    shape = page.locator(f"[data-run={run}] > path[stroke-linejoin]")
    box = shape.bounding_box()
    assert box is not None
    x, y = box["x"] + 8, box["y"] + 20
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + by / 2, y, steps=5)
    page.mouse.move(x + by, y, steps=5)
    if drop:
        expect(page.get_by_text("Dropped here:")).to_be_visible()
        page.mouse.up()


def shows(page: Page, version: int, timeout: float = 10_000) -> None:
    """Wait until a version has come, in the address and on the screen."""
    expect(page).to_have_url(re.compile(f"/plan/{version}"), timeout=timeout)
    expect(page.get_by_role("button", name=re.compile(f"^Version {version}"))).to_be_visible(timeout=timeout)


def test_a_run_is_dragged_and_stays_where_it_was_dropped(page: Page) -> None:
    page.goto("/plan/1")
    last = page.locator("[data-run]").last.get_attribute("data-run") or ""
    drag(page, last, 80)
    shows(page, 2)
    expect(page.get_by_label(f"Run {last}")).to_contain_text("Pinned here by hand")
    expect(page.get_by_role("button", name="Unpin")).to_be_visible()


def test_what_a_drag_would_do_is_said_before_it_is_done(page: Page) -> None:
    page.goto("/plan/1")
    drag(page, "R2", 60, drop=False)
    expect(page.get_by_text("Dropped here:")).to_be_visible()
    expect(page.get_by_text(re.compile("points (more|less)"))).to_be_visible()
    page.keyboard.press("Escape")
    page.mouse.up()
    expect(page.get_by_text("Dropped here:")).to_have_count(0)
    shows(page, 1)
    assert len(page.request.get("/api/versions").json()) == 1, "nothing was stored"


def test_the_plan_is_changed_by_keys_and_undone_and_redone(page: Page) -> None:
    page.goto("/plan/1?run=R2")
    expect(page.get_by_label("Run R2")).to_be_visible()
    page.keyboard.press("p")
    shows(page, 2)
    expect(page.get_by_role("button", name="Unpin")).to_be_visible()
    page.keyboard.press("s")
    shows(page, 3)
    page.keyboard.press("u")
    shows(page, 4)
    expect(page.get_by_text("version 2 restored")).to_be_visible()
    page.keyboard.press("r")
    shows(page, 5)
    expect(page.get_by_text("version 3 restored")).to_be_visible()
    page.keyboard.press("Control+z")
    shows(page, 6)


def test_a_run_is_split_and_joined_again_in_its_panel(page: Page) -> None:
    page.goto("/plan/1?run=R1")
    panel = page.get_by_label("Run R1", exact=True)
    panel.get_by_role("button", name="Split", exact=True).click()
    shows(page, 2)
    page.goto("/plan/2?run=R1")
    panel.get_by_role("button", name="Join the next").click()
    shows(page, 3)
    panel = page.get_by_label(re.compile("^Run R"))
    panel.get_by_label("Pace").select_option("0.9")
    shows(page, 4)


def test_versions_are_compared_and_one_is_published(page: Page) -> None:
    page.goto("/plan/1?run=R1")
    page.get_by_role("button", name="Later").click()
    shows(page, 2)
    page.keyboard.press("Escape")
    page.keyboard.press("v")
    page.get_by_role("button", name="Compare").click()
    differs = page.get_by_label("Comparison")
    expect(differs).to_contain_text("From 1 to 2")
    expect(differs).to_contain_text(re.compile("(earlier|later)"))
    expect(page.get_by_text("version 1 is live on the floor")).to_be_visible()
    page.get_by_role("button", name="Publish").click()
    expect(page.get_by_text("live on the floor")).to_be_visible()
    assert violations(page, "/plan/2?line=ring-line") == []


@pytest.mark.parametrize(("words", "ending"), [("Runs as CSV", "csv"), ("Workbook", "xlsx"), ("Calendar", "ics")])
def test_the_plan_is_saved_as_a_file(page: Page, words: str, ending: str) -> None:
    page.goto("/plan/1")
    page.get_by_role("button", name="Save as").click()
    with page.expect_download() as download:
        page.get_by_role("menuitem", name=re.compile(words)).click()
    assert download.value.suggested_filename == f"plan-1-ring-line.{ending}"


def test_a_late_lorry_says_why_and_what_would_cure_it(page: Page) -> None:
    page.goto("/plan/1")
    late = page.get_by_label("Lorries that miss packs")
    late.get_by_text("Why, and how to fix it").first.click()
    expect(late).to_contain_text(re.compile("Cheapest fix|No single change of the plan fixes it"))
    expect(late).to_contain_text("The window opens")
    expect(late).to_contain_text("What would fit it in", timeout=SLOW_MS)


def test_a_station_is_closed_and_the_plan_goes_round_it(page: Page) -> None:
    page.goto("/plan/1")
    page.get_by_role("button", name="Downtime").click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("No downtime")
    dialog.get_by_label("Station").select_option("divider")
    dialog.get_by_label("in words").fill("knives sharpened")
    dialog.get_by_label("for, min").fill("50")
    dialog.get_by_role("button", name="Add", exact=True).click()
    expect(dialog).to_contain_text("knives sharpened")
    dialog.get_by_role("button", name="Close", exact=True).click()
    page.get_by_role("button", name="Fit this plan").click()
    shows(page, 2)
    expect(page.get_by_text("have changed since this plan was made")).to_have_count(0)
    chart = page.get_by_label("Ribbon chart: time across, stations down")
    expect(chart.locator("title", has_text="knives sharpened")).to_have_count(1)


def test_a_downtime_is_changed_after_it_was_entered(page: Page, client: TestClient) -> None:
    closing = {"line": "ring-line", "station": "divider", "kind": "repair", "reason": "knives"}
    when = {"begins": "2026-03-10T23:00", "minutes": 30}
    assert client.post("/api/opening/closings", json=closing | when).status_code == 201
    page.goto("/plan/1")
    page.get_by_role("button", name="Downtime").click()
    page.get_by_role("button", name="Change downtime of Divider").click()
    changed = page.get_by_role("form", name="Change the downtime of Divider")
    changed.get_by_label("From").fill("2026-03-10T23:30")
    changed.get_by_label("for, min").fill("75")
    changed.get_by_label("in words").fill("knives and belt")
    changed.get_by_role("button", name="Save").click()
    expect(page.get_by_role("dialog")).to_contain_text("knives and belt")
    (block,) = client.get("/api/opening").json()["blocks"]
    assert (block["from_min"], block["to_min"], block["reason"]) == (210, 285, "knives and belt")


def test_a_station_that_breaks_says_what_stands_and_what_can_be_done(page: Page) -> None:
    page.goto("/plan/1")
    page.get_by_role("button", name="Downtime").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Why").select_option("repair")
    dialog.get_by_label("Station").select_option("oven")
    dialog.get_by_label("From").fill("2026-03-10T23:30")
    dialog.get_by_role("button", name="What it does").click()
    answer = dialog.get_by_label("What the stop does")
    expect(answer).to_contain_text("Where it stands", timeout=SLOW_MS)
    expect(answer).to_contain_text("Hold, then run on, 45 min")
    answer.get_by_role("button", name="Do this").nth(1).click()
    shows(page, 2)
    expect(page.get_by_text("live on the floor")).to_be_visible()


def test_the_window_begins_from_what_is_entered(page: Page) -> None:
    page.goto("/plan/1")
    page.get_by_role("button", name="Downtime").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("radio", name="How the window begins").click()
    oven = dialog.get_by_label(re.compile("^Steam oven is at"))
    oven.fill("hot")
    expect(dialog.get_by_role("alert")).to_contain_text("a temperature is a number")
    oven.fill("")
    dialog.get_by_label("Made last").select_option(label="Harvest Sesame")
    dialog.get_by_label(re.compile("^left the line")).fill("15")
    dialog.get_by_role("button", name="Save the beginning").click()
    expect(dialog.get_by_role("status")).to_contain_text("Saved")
    opening = page.request.get("/api/opening").json()
    assert opening["heated"] == []
    assert opening["last"] == [{"line": "ring-line", "product": "harvest-sesame", "left_min": -15.0}]
    dialog.get_by_role("button", name="Close", exact=True).click()
    expect(page.get_by_text("have changed since this plan was made")).to_be_visible()


@pytest.mark.refusals
def test_what_another_planner_has_changed_is_said_before_ones_own_is_taken(page: Page) -> None:
    """Two pages on one version: the second change is refused with what came, and taken once that is known."""
    page.goto("/plan/1?run=R3")
    expect(page.get_by_role("button", name="Pin", exact=True)).to_be_visible()
    other = page.request.post(
        "/api/versions/1/changes",
        data={"change": {"kind": "pin", "line": "ring-line", "run": "R2"}, "author": "Ida"},
    )
    assert other.status == 201
    page.get_by_role("button", name="Pin", exact=True).click()
    expect(page.get_by_text(re.compile("Version 2 has come since: R2 .* by Ida. Nothing was changed"))).to_be_visible()
    assert len(page.request.get("/api/versions").json()) == 2
    page.get_by_role("button", name="Pin", exact=True).click()
    shows(page, 3)


@pytest.mark.refusals
def test_what_is_on_the_line_is_entered_and_the_plan_is_fitted_around_it(page: Page) -> None:
    """A run of ten minutes before the window, of which a dough cannot be right; then so, and once more, where it is."""

    def on_the_line() -> Locator:
        page.get_by_role("button", name="Downtime").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_role("radio", name="On the line").click()
        dialog.get_by_label("Packs of the whole run").fill("2000")
        dialog.get_by_label("First piece divided").fill("2026-03-10T19:50")
        return dialog

    page.goto("/plan/1")
    dialog = on_the_line()
    dialog.get_by_role("button", name="A mixed dough").click()
    dialog.get_by_label("Dough 1 left the bowl").fill("2026-03-10T19:49")
    dialog.get_by_role("button", name="It is on the line").click()
    expect(dialog.get_by_text("too late to have rested")).to_be_visible()
    dialog.get_by_role("button", name="Delete dough 1").click()
    dialog.get_by_role("button", name="It is on the line").click()
    expect(page.get_by_text("Lantern Plain entered: 2,000 packs that are on the line")).to_be_visible(timeout=SLOW_MS)
    expect(page.get_by_text("live on the floor")).to_be_visible()
    assert [one["number"] for one in page.request.get("/api/windows").json()] == [2, 1]
    dialog = on_the_line()
    dialog.get_by_role("button", name="It is on the line").click()
    expect(dialog.get_by_text("Lantern Plain cannot have begun then")).to_be_visible()


def test_stock_is_typed_and_less_is_left_to_make(page: Page) -> None:
    page.goto("/orders")
    row = page.get_by_role("table", name="Stock and what is left to make").get_by_role(
        "row", name=re.compile("^Lantern Plain")
    )
    before = int(row.get_by_role("cell").nth(2).inner_text().replace(",", ""))
    row.get_by_label("Lantern Plain in stock").fill("500")
    page.get_by_role("button", name="Keep this stock").click()
    expect(row.get_by_role("cell").nth(2)).to_have_text(f"{before - 500:,}")
    expect(page.get_by_label("The walk")).to_contain_text("1 out of date")


def test_an_urgent_order_goes_into_the_book_and_the_plan(page: Page) -> None:
    page.goto("/orders")
    page.get_by_role("button", name="Urgent order").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Lorry").select_option("depot")
    dialog.get_by_label("Packs").fill("240")
    dialog.get_by_label("At most so many hours old").fill("6")
    dialog.get_by_label("Order number").fill("urgent-1")
    dialog.get_by_role("button", name="Add", exact=True).click()
    shows(page, 2)
    expect(page.get_by_text("Lantern Plain, at most 6 h old")).to_be_visible()
    expect(page.get_by_label("The walk")).to_contain_text("15 orders")


@pytest.fixture
def worker(urls: Urls) -> Iterator[None]:
    """A worker over the test's database."""
    with running(Child(urls.app, "worker")):
        yield


@pytest.mark.usefixtures("worker")
def test_a_search_is_watched_stopped_and_kept(page: Page) -> None:
    page.goto("/plan/1")
    page.get_by_role("button", name="Search", exact=True).click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("radio", name="5 min").click()
    dialog.get_by_role("radio", name="From scratch").click()
    dialog.get_by_label("a minute the divider waits at a change").fill("3")
    dialog.get_by_role("button", name="Start the search").click()
    strip = page.get_by_label("Search", exact=True)
    expect(strip).to_contain_text(re.compile("orders tried"))
    expect(strip).to_contain_text(re.compile("best so far"), timeout=30_000)
    page.reload()
    expect(strip).to_contain_text(re.compile("best so far"), timeout=30_000)
    page.get_by_role("link", name=re.compile("^Orders")).click()
    expect(strip).to_contain_text(re.compile("best so far"), timeout=30_000)
    strip.get_by_role("button", name="Stop and keep the best").click()
    expect(strip).to_contain_text("The search has ended: version 2", timeout=30_000)
    expect(page).to_have_url(re.compile("/orders$"))
    strip.get_by_role("link", name="Show it").click()
    shows(page, 2)
    expect(strip).to_be_empty()
    version = page.request.get("/api/versions/2").json()
    assert version["weights"]["changeover_min"] == 3
    assert json.loads(page.request.get("/api/searches").text()) == []


@pytest.mark.usefixtures("worker")
def test_a_search_that_goes_on_and_finds_nothing_better_says_so(page: Page) -> None:
    page.goto("/plan/1")
    page.get_by_role("button", name="Search", exact=True).click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("a minute an order item moves against the published plan").fill("1000")
    dialog.get_by_role("button", name="Start the search").click()
    expect(page.get_by_text("Nothing better than version 1 was found")).to_be_visible(timeout=40_000)
    assert len(page.request.get("/api/versions").json()) == 1
    page.get_by_role("button", name="Close", exact=True).click()
    expect(page.get_by_text("Nothing better than version 1 was found")).to_have_count(0)


def test_the_wheel_draws_closer_around_the_pointer_and_moving_keeps_the_shapes(page: Page) -> None:
    """What lies under the pointer stays there; a shape that is only moved is the same drawing."""
    page.goto("/plan/1")
    shape = page.locator("[data-run=R2] > path[stroke-linejoin]")
    clock = page.get_by_label("Ribbon chart: time across, stations down").locator("g[transform]").first
    box, wide = shape.bounding_box(), shape.get_attribute("d") or ""
    assert box
    middle = box["x"] + box["width"] / 2
    page.mouse.move(middle, box["y"] + box["height"] / 2)
    page.keyboard.down("Control")
    page.mouse.wheel(0, -120)
    page.keyboard.up("Control")
    expect(shape).not_to_have_attribute("d", wide)
    closer = shape.bounding_box()
    assert closer
    assert closer["x"] + closer["width"] / 2 == pytest.approx(middle, abs=3)
    assert closer["width"] > box["width"] * 1.3
    drawn, at = shape.get_attribute("d"), clock.get_attribute("transform") or ""
    page.keyboard.press("ArrowRight")
    expect(clock).not_to_have_attribute("transform", at)
    moved = shape.bounding_box()
    assert moved
    assert moved["x"] < closer["x"] - 20
    assert shape.get_attribute("d") == drawn
