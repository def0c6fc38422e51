"""Several lines in the browser: choosing one, its sponges and centres, days beside times."""

import re

import pytest
from fastapi.testclient import TestClient
from playwright.sync_api import Page, expect

from axe import violations

pytestmark = pytest.mark.whole


def test_a_line_is_chosen_and_remembered_along_the_walk(page: Page) -> None:
    page.goto("/plan")
    expect(page.get_by_role("heading", level=1)).to_have_text("Ring line")
    page.get_by_label("Line", exact=True).select_option("bread-line")
    expect(page).to_have_url(re.compile(r"/plan\?line=bread-line$"))
    expect(page.get_by_role("heading", level=1)).to_have_text("Bread line")
    page.get_by_role("link", name=re.compile("^Dough room")).click()
    expect(page.get_by_text(re.compile("Version 1, .* batches"))).to_be_visible()
    page.get_by_role("link", name=re.compile("^Capacity")).click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Bread line, Tarn White")
    page.get_by_label("Product", exact=True).select_option("swift-white")
    expect(page.get_by_role("heading", level=1)).to_have_text("Bread line, Swift White")


def test_the_doughs_of_all_lines_stand_in_one_queue_by_the_clock(page: Page, client: TestClient) -> None:
    page.goto("/dough")
    page.get_by_label("Line", exact=True).select_option("All lines")
    queue = page.get_by_role("navigation", name="Batches in the order of the clock").get_by_role("link")
    plans = [plan["number"] for plan in client.get("/api/window").json()["plans"]]
    cards = [card for plan in plans for card in client.get(f"/api/plans/{plan}/cards").json()["cards"]]
    expect(queue).to_have_count(len(cards))
    cards.sort(key=lambda card: card["start_min"])
    shown = [re.search(r"(R\d+) ", text)[1] for text in queue.all_text_contents()]  # type: ignore[index]
    starts = [card["start_min"] for card in cards]
    once = [place for place, start in enumerate(starts) if starts.count(start) == 1]
    assert [shown[place] for place in once] == [cards[place]["run"] for place in once]
    queue.nth(3).click()
    expect(page).to_have_url(re.compile(r"/dough/\d+/R\d+/[^?]+\?line=all$"))
    page.get_by_role("link", name="Print cards").click()
    expect(page.get_by_role("heading", name="Biscuit line", exact=True)).to_be_visible()
    expect(page.get_by_text(f"On paper, {len(cards)} batch cards follow")).to_be_visible()


def test_sponges_and_troughs_stand_above_the_ribbons(page: Page) -> None:
    page.goto("/plan/1?line=bread-line")
    chart = page.get_by_label("Ribbon chart: time across, stations down")
    for row in ("Sponge Oak", "Sponge troughs", "Dough troughs", "Fast Ash", "Cooling tower"):
        expect(chart).to_contain_text(row)
    expect(chart).to_contain_text("Thu 12 Mar")


def test_a_dough_for_two_products_says_so(page: Page, client: TestClient) -> None:
    """On the run that begins with another's dough, on that other run, and on the dough's card."""
    runs = client.get("/api/plans/2").json()["plan"]["runs"]
    run = next(run for run in runs if run["batches"][0]["shared"])
    rest = run["batches"][0]
    page.goto(f"/plan?line=bread-line&run={run['id']}")
    shares = page.get_by_text("are divided from the last dough of")
    expect(shares).to_contain_text(f"its first {rest['pieces']:,} pieces")
    other = re.search(r"last dough of (R\d+)", shares.inner_text())
    assert other is not None
    page.goto(f"/plan?line=bread-line&run={other[1]}")
    expect(page.get_by_text(re.compile(f"its last dough also gives the first .* of {run['id']} "))).to_be_visible()
    number = next(found for found in runs if found["id"] == other[1])["batches"][-1]["number"]
    page.goto(f"/dough/2/{other[1]}/{number}")
    card = page.get_by_role("article", name=f"{other[1]} batch {number}")
    expect(card).to_contain_text(f"is for {rest['pieces']:,} pieces of")
    expect(card).to_contain_text(f"({run['id']})")
    assert violations(page, f"/dough/2/{other[1]}/{number}") == []


def test_a_sponge_has_a_card_with_its_trough(page: Page) -> None:
    page.goto("/dough/2/R3/1-night-sponge")
    card = page.get_by_role("article", name="R3 batch 1-night-sponge")
    expect(card).to_contain_text("Night sponge for")
    expect(card).to_contain_text("trough")
    expect(page.get_by_label("Probe in the dough after mixing")).to_have_count(0)
    page.keyboard.press("j")
    expect(page).not_to_have_url(re.compile("night-sponge$"))


def test_centres_hang_below_their_rings(page: Page) -> None:
    page.goto("/plan/1?line=doughnut-line")
    chart = page.get_by_label("Ribbon chart: time across, stations down")
    expect(chart).to_contain_text("Bite fryer")
    expect(page.get_by_label("Lorries", exact=True)).to_contain_text("Gull Bites")
    expect(page.get_by_role("button", name=re.compile("Gull Bites, .*first pack")).first).to_be_attached()


def test_what_runs_out_leads_to_its_batch(page: Page) -> None:
    page.goto("/materials/film")
    expect(page.get_by_role("alert")).to_contain_text("Runs out on")
    page.get_by_role("alert").get_by_role("link").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Biscuit line")
    expect(page.get_by_text("Why it starts when it does")).to_be_visible()


def test_dry_ice_shows_its_room(page: Page) -> None:
    page.goto("/dough?line=biscuit-line")
    page.get_by_role("link", name=re.compile("Signal Cocoa 1 of")).first.click()
    panel = page.get_by_label("Water for this batch")
    expect(panel).to_contain_text("CO2 in the room")
    expect(panel).to_contain_text("Within both limits")


def test_the_plan_is_not_left_behind_when_one_moves_in_it(page: Page) -> None:
    """Closer and as early as it goes: the first dough is still to be seen."""
    page.goto("/plan/1?line=bread-line")
    chart = page.get_by_label("Ribbon chart: time across, stations down")
    expect(chart).to_contain_text("Sponge Oak")
    for _ in range(4):
        page.keyboard.press("+")
    for _ in range(30):
        page.keyboard.press("ArrowLeft")
    expect(chart).to_contain_text("20:00")


def test_orders_stand_by_product_and_lorry(page: Page) -> None:
    page.goto("/orders")
    table = page.get_by_role("table", name="Packs by product and lorry")
    row = table.get_by_role("row", name=re.compile("Lantern Plain"))
    expect(row).to_contain_text("3,700")
    expect(table.get_by_role("row", name=re.compile("All products"))).to_contain_text("289,390")


def test_the_pages_of_the_whole_plant_are_accessible(page: Page) -> None:
    for path in (
        *("/plan/1?line=doughnut-line&run=R2", "/plan/1?line=all", "/materials/label"),
        *("/dough/2/R3/1-night-sponge", "/line/pastry-line/kestrel-plain", "/orders"),
    ):
        assert violations(page, path) == [], path


def test_lines_are_drawn_as_they_come_into_sight_and_all_of_them_on_paper(page: Page) -> None:
    page.set_viewport_size({"width": 1280, "height": 300})
    page.goto("/plan/1?line=all")
    charts = page.get_by_label("Ribbon chart: time across, stations down")
    expect(page.get_by_role("button", name=re.compile("^Pastry line"))).to_have_count(1)
    expect(charts.first).to_be_visible()
    expect(charts).not_to_have_count(5)
    page.get_by_role("button", name=re.compile("^Pastry line")).scroll_into_view_if_needed()
    expect(charts.last.locator("[data-run]").first).to_be_visible()
    expect(charts).not_to_have_count(5)
    page.evaluate("window.dispatchEvent(new Event('beforeprint'))")
    expect(charts).to_have_count(5)
    page.evaluate("window.dispatchEvent(new Event('afterprint'))")
    expect(charts).not_to_have_count(5)


def test_all_lines_are_drawn_closer_together_and_moved_together(page: Page) -> None:
    page.goto("/plan/1?line=all")
    charts = page.get_by_label("Ribbon chart: time across, stations down")
    first, second = (charts.nth(place).locator("[data-run=R2]") for place in (0, 1))
    before = [shape.bounding_box() for shape in (first, second)]
    page.get_by_role("button", name="Closer").click()
    page.keyboard.press("ArrowLeft")
    page.keyboard.press("ArrowLeft")
    after = [shape.bounding_box() for shape in (first, second)]
    for was, now in zip(before, after, strict=True):
        assert was
        assert now
        assert now["width"] == pytest.approx(was["width"] / 0.7, rel=0.05)
    page.get_by_role("button", name="All of it").click()
    again = first.bounding_box()
    assert before[0]
    assert again
    assert (again["x"], again["width"]) == (before[0]["x"], before[0]["width"])


def test_what_binds_is_said_and_never_runs_out(page: Page) -> None:
    page.goto("/materials/chocolate")
    expect(page.get_by_text("Plans draw only what is there")).to_be_visible()
    expect(page.get_by_role("alert")).to_have_count(0)


def test_a_tool_is_renewed_before_the_run_that_would_wear_it_out(page: Page) -> None:
    plan = page.request.get("/api/versions/newest?line=pastry-line").json()["plans"][0]["plan"]
    renewal = plan["renewals"][0]
    page.goto(f"/plan/1?line=pastry-line&run={renewal['before']}")
    expect(page.get_by_text("Cutting knives renewed", exact=True)).to_be_visible()
    expect(page.get_by_text("of 9,000 strokes")).to_be_visible()
    expect(page.get_by_role("heading", name="Look at before it starts")).to_be_visible()
    chart = page.get_by_label("Ribbon chart: time across, stations down")
    expect(chart.locator("title", has_text="Cutting knives renewed after")).not_to_have_count(0)


def test_a_version_says_what_it_comes_to_in_money(page: Page) -> None:
    page.goto("/plan/1?line=pastry-line")
    page.get_by_role("button", name="Version 1").click()
    money = page.get_by_label("Money")
    expect(money).to_contain_text("Packs that miss their lorry")
    expect(money).to_contain_text("EUR")
    expect(money).to_contain_text("without a price")


def test_a_folded_sheet_shows_its_layers_pass_by_pass(page: Page) -> None:
    page.goto("/line/pastry-line/kestrel-plain")
    page.get_by_role("button", name=re.compile("^Folding table")).click()
    panel = page.get_by_label("Folding table", exact=True)
    expect(panel).to_contain_text("Layers of fat")
    expect(panel).to_contain_text("27")
    expect(panel).to_contain_text("Butter sheet, out of the chill")


def test_the_dough_room_says_what_dry_ice_alone_would_do(page: Page) -> None:
    cards = page.request.get("/api/plans/4/cards").json()["cards"]
    card = next(card for card in cards if card["dry_ice_g"] > 0 and card["heat"])
    page.goto(f"/dough/4/{card['run']}/{card['key']}")
    expect(page.get_by_label("Water for this batch")).to_contain_text("of dry ice in all")
