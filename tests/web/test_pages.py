"""The pages as a planner uses them, on the demo day."""

import json
import re
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from playwright.sync_api import Page, expect
from typer.testing import CliRunner

from axe import violations
from rundgang.cli import app as cli

VIEWS = [
    *("/orders", "/plan/1", "/plan/1?run=R2", "/materials", "/dough/1/R2/1", "/line/ring-line/pear-cardamom"),
    *(
        "/plant/products/lantern-plain",
        "/plant/lines/ring-line",
        "/calculators/weights",
        "/calculators/oven?product=lantern-plain",
    ),
]
WALK = (
    *(("2", "Ring line"), ("3", "Materials"), ("4", "Dough room"), ("5", "Ring line, now")),
    *(("6", "Ring line, Lantern Plain"), ("7", "Ostermere Rings"), ("8", "Calculators"), ("1", "Orders")),
)
FILE = """order;dispatch;product;packs
m1;11.03.2026 12:00;Pear & Cardamom;600
m2;11.03.2026 12:30;Pear & Cardamom;100
m3;11.03.2026 08:15;Lantern Plain;1.100
"""


def test_import_a_file_with_a_wrong_row_and_see_the_plan_change(page: Page, tmp_path: Path) -> None:
    page.goto("/plan")
    ribbons = page.locator("[data-run]")
    expect(ribbons.first).to_be_visible()
    before = [ribbon.get_attribute("aria-label") for ribbon in ribbons.all()]

    page.get_by_role("link", name="Orders").click()
    page.get_by_role("button", name="Import orders").click()
    (tmp_path / "tuesday.csv").write_text(FILE)
    page.locator("input[type=file]").set_input_files(tmp_path / "tuesday.csv")
    expect(page.get_by_text("tuesday.csv: 2 good rows with 1,700 packs, 1 wrong row")).to_be_visible()
    wrong = page.get_by_role("table", name="Wrong rows").get_by_role("row").nth(1)
    expect(wrong).to_contain_text("3dispatch11.03.2026 12:30a time a lorry leaves")
    expect(page.get_by_label("The walk")).to_contain_text("14 orders")

    page.get_by_role("button", name="Import the 2 good rows").click()
    expect(page.get_by_label("The walk")).to_contain_text("16 orders")
    expect(page.get_by_label("The walk")).to_contain_text("1 out of date")

    page.get_by_role("link", name="Go to the plan").click()
    page.get_by_role("button", name="Fit this plan").click()
    expect(page.get_by_role("button", name="Version 2")).to_be_visible()
    expect(page.get_by_text("have changed since this plan was made")).to_have_count(0)
    after = [ribbon.get_attribute("aria-label") for ribbon in ribbons.all()]
    assert after != before

    page.get_by_role("link", name="Orders").click()
    page.get_by_role("button", name="Restore").last.click()
    expect(page.get_by_label("The walk")).to_contain_text("14 orders")


def test_taking_none_changes_nothing(page: Page) -> None:
    page.goto("/orders")
    page.get_by_role("button", name="Import orders").click()
    page.get_by_label("Rows pasted from a sheet").fill(FILE)
    page.get_by_role("button", name="Read the pasted rows").click()
    page.get_by_role("button", name="Cancel").click()
    expect(page.get_by_text("Nothing has been imported yet")).to_have_count(0)
    expect(page.get_by_label("The walk")).to_contain_text("14 orders")


@pytest.mark.refusals
def test_a_file_too_large_is_said(page: Page, tmp_path: Path) -> None:
    page.goto("/orders")
    page.get_by_role("button", name="Import orders").click()
    (tmp_path / "huge.csv").write_bytes(b"x" * 50 * 1_048_576)
    page.locator("input[type=file]").set_input_files(tmp_path / "huge.csv")
    expect(page.get_by_role("alert")).to_contain_text("50.0 MB; allowed: at most 2 MB")


def test_the_card_says_the_water_that_the_command_line_prints(page: Page, tmp_path: Path) -> None:
    run = CliRunner()
    scenario, plan = tmp_path / "s.json", tmp_path / "p.json"
    demo = json.loads(run.invoke(cli, ["example", "--day", "2026-03-11"]).stdout)
    demo["conditions"] = page.request.get("/api/window").json()["conditions"]
    scenario.write_text(json.dumps(demo))
    run.invoke(cli, ["plan", str(scenario), "--line", "ring-line", "--out", str(plan)])
    cards = json.loads(run.invoke(cli, ["cards", str(scenario), str(plan), "--json"]).stdout)
    printed = next(card for card in cards if (card["run"], card["number"]) == ("R3", 1))

    page.goto("/plan/1")
    page.locator("[data-run=R3]").click()
    page.get_by_role("link", name="Batch cards of R3").click()

    expect(page.get_by_role("article", name="R3 batch 1")).to_contain_text(printed["product_name"])
    shown = page.locator("[data-figure=water-temperature]")
    expect(shown).to_have_text(f"{printed['water']['wanted_c']:.1f} °C")


def test_a_probe_colours_the_next_cards(page: Page) -> None:
    page.goto("/dough/1/R1/1")
    page.get_by_label("Probe in the dough after mixing").fill("26,0")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_text("1.0 K above the target.")).to_be_visible()
    expect(page.get_by_text("friction factor +3.0 K off")).to_be_visible()
    page.goto("/dough/1/R1/3")
    expect(page.locator("[data-figure=water-temperature]")).to_have_text("8.1 °C")
    expect(page.get_by_label("Water for this batch")).to_contain_text("learnt on Mixer Alder, 1 probe22.4")


def test_conditions_are_entered_once_and_in_the_users_units(page: Page) -> None:
    page.goto("/dough/1/R1/1")
    expect(page.locator("[data-figure=water-temperature]")).to_have_text("9.0 °C")
    page.get_by_role("button", name="°C kg").click()
    expect(page.locator("[data-figure=water-temperature]")).to_have_text("48.2 °F")
    page.get_by_role("button", name="Change conditions").click()
    page.get_by_role("textbox", name=re.compile("^Flour")).fill("75.2")
    page.get_by_role("button", name="Use these").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(page.locator("[data-figure=water-temperature]")).to_have_text("42.8 °F")
    page.get_by_role("button", name="°F lb").click()
    expect(page.locator("[data-figure=water-temperature]")).to_have_text("6.0 °C")


def test_the_bench_answers_as_one_types_and_keeps_its_link(page: Page) -> None:
    """96 to 37 °C in 50 min at 20 °C takes 61.8 min at 26 °C (common practice, no published source)."""
    page.goto("/calculators/cooling")
    figures = {"Known run: core out of the oven": "96", "core at the end": "37", "air that day": "20"}
    figures |= {"time on the cooler": "50", "Today: core out of the oven": "96", "bag at a core of": "37"}
    for label, text in (figures | {"air today": "26"}).items():
        page.get_by_label(label).fill(text)
    expect(page.get_by_label("Answer")).to_contain_text("Cooling time61.8 min")
    page.reload()
    expect(page.get_by_label("Answer")).to_contain_text("Cooling time61.8 min")
    page.get_by_role("button", name="°C kg").click()
    expect(page.get_by_label("air today")).to_have_value("78.8")


@pytest.mark.refusals
def test_the_bench_refuses_in_words(page: Page) -> None:
    page.goto("/calculators/sweat")
    page.get_by_label("its relative humidity").fill("130")
    expect(page.get_by_role("alert")).to_contain_text("humidity_pct: is 130; allowed: at most 100")


def test_a_run_explains_its_start_and_keeps_its_link(page: Page) -> None:
    page.goto("/plan/1")
    page.locator("[data-run=R2]").press("Enter")
    expect(page).to_have_url(re.compile(r"\?run=R2$"))
    panel = page.get_by_label("Run R2")
    expect(panel).to_contain_text("Why it starts when it does")
    expect(panel).to_contain_text("Steam oven runs empty 14.0 min")
    page.reload()
    expect(panel).to_contain_text("Why it starts when it does")
    page.keyboard.press("j")
    expect(page).to_have_url(re.compile(r"\?run=R3$"))
    page.keyboard.press("Escape")
    expect(page.get_by_text("What each lorry gets")).to_be_visible()


def test_the_odd_last_batch_can_be_chosen(page: Page) -> None:
    page.goto("/plan/1?run=R1")
    page.get_by_role("radio", name=re.compile("All full")).click()
    expect(page.get_by_role("button", name="Version 2")).to_be_visible()
    expect(page.get_by_role("radio", name=re.compile("All full"))).to_be_checked()


def test_zoom_from_the_day_to_minutes(page: Page) -> None:
    page.goto("/plan/1")
    expect(page.locator("[data-run=R1]")).to_be_visible()
    chart = page.get_by_label("Ribbon chart: time across, stations down")
    expect(chart).to_contain_text("22:00")
    for _ in range(14):
        page.keyboard.press("+")
    expect(chart).not_to_contain_text("22:00")
    page.keyboard.press("0")
    expect(chart).to_contain_text("22:00")


def test_the_gap_between_runs_explains_itself(page: Page) -> None:
    page.goto("/plan/1")
    page.get_by_role("img", name=re.compile("Proofer: .* between R2 and R3")).hover()
    words = page.get_by_text(re.compile("R2 to R3: Proofer runs empty 62.0 min"))
    expect(words).to_be_visible()
    page.mouse.move(0, 0)
    expect(words).to_have_count(0)
    page.locator("[data-run=R3]").press("Space")
    expect(words).to_be_visible()


def test_pace_answers_and_the_gate_moves(page: Page) -> None:
    page.goto("/line/ring-line/lantern-plain")
    expect(page.locator("[data-station=proofer]")).to_have_attribute("aria-label", re.compile("the bottleneck"))
    thumb = page.get_by_role("slider", name="Pace wanted")
    thumb.focus()
    for _ in range(8):
        thumb.press("ArrowRight")
    expect(page.get_by_text("Too fast for")).to_contain_text("Proofer")
    expect(page).to_have_url(re.compile("pace=9800"))
    page.locator("[data-station=oven]").click()
    expect(page.get_by_role("heading", name="Steam oven")).to_be_visible()
    expect(page.get_by_text("60 × 2,480 places ÷ 14 min")).to_be_visible()


def test_go_anywhere_by_typing(page: Page) -> None:
    page.goto("/plan/1")
    expect(page.locator("[data-run=R1]")).to_be_visible()
    page.keyboard.press("/")
    page.get_by_placeholder("A run, a product, a screen").fill("cards r2")
    expect(page.get_by_role("option", selected=True)).to_have_text("Batch cards of R2 Harvest Sesame")
    page.keyboard.press("Enter")
    expect(page.get_by_role("article", name="R2 batch 1")).to_be_visible()
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keys")).to_be_visible()


def test_what_is_not_there_is_said(page: Page) -> None:
    page.goto("/nowhere")
    expect(page.get_by_text("There is nothing at this address")).to_be_visible()
    page.goto("/line/ring-line/anvil")
    expect(page.get_by_text("No such line or product")).to_be_visible()
    page.goto("/dough/1/R9/9")
    expect(page.get_by_text("No such batch")).to_be_visible()


def test_the_day_prints_with_a_card_for_every_batch(page: Page, client: TestClient) -> None:
    page.goto("/print/1")
    expect(page.get_by_role("article").first).to_be_visible()
    cards = page.locator("[data-sheet]").count()
    assert cards == len(client.get("/api/plans/1/cards").json()["cards"])
    page.emulate_media(media="print")
    expect(page.get_by_label("The walk")).to_be_hidden()
    assert pages_of(page) == cards + 1, "the plan on one sheet, then one a batch"


def test_what_is_far_below_is_laid_out_once_it_comes_near_and_whole_on_paper(page: Page) -> None:
    page.goto("/print/1")
    last = page.locator("[data-sheet]").last
    expect(last).to_be_attached()
    assert last.text_content()
    assert last.inner_text() == "", "while it is far below it is not laid out"
    page.emulate_media(media="print")
    assert "batch" in last.inner_text()
    page.emulate_media(media="screen")
    last.scroll_into_view_if_needed()
    expect(last.get_by_role("article")).to_be_in_viewport()


def test_the_letters_come_with_the_page(page: Page, client: TestClient) -> None:
    """Asked for by the page itself, before its styles are read, so that nothing moves when they come."""
    page.goto("/orders")
    address = page.locator("link[rel=preload][as=font]").get_attribute("href")
    assert address
    assert client.get(address).headers["content-type"] == "font/woff2"
    styles = client.get(page.locator("link[rel=stylesheet]").first.get_attribute("href") or "").text
    assert address in styles, "it is the one that the styles name"


def pages_of(page: Page) -> int:
    """How many sheets a page is on paper."""
    page.evaluate("window.dispatchEvent(new Event('beforeprint'))")
    page.emulate_media(media="print")
    return len(re.findall(rb"/Type\s*/Page\b", page.pdf(format="A4")))


def test_one_run_is_printed_or_what_is_mixed_in_a_stretch_of_time(page: Page, client: TestClient) -> None:
    cards = client.get("/api/plans/1/cards").json()["cards"]
    page.goto("/print/1")
    page.get_by_label("Run", exact=True).select_option("R2")
    expect(page.locator("[data-sheet]")).to_have_count(sum(card["run"] == "R2" for card in cards))
    expect(page.get_by_role("row", name=re.compile(r"^R\d"))).to_have_count(1)
    assert pages_of(page) == 1 + sum(card["run"] == "R2" for card in cards)
    page.emulate_media(media="screen")
    page.goto("/print/1")
    page.get_by_label("from", exact=True).fill("2026-03-10T22:00")
    page.get_by_label("until", exact=True).fill("2026-03-11T00:00")
    within = [card for card in cards if 120 <= card["start_min"] < 240]
    assert 0 < len(within) < len(cards)
    expect(page.locator("[data-sheet]")).to_have_count(len(within))
    expect(page.get_by_text("from Tue 10 Mar 22:00 until Wed 11 Mar 00:00")).to_be_visible()


def test_every_card_on_paper_has_a_code_that_opens_it(page: Page) -> None:
    page.goto("/print/1?run=R1")
    expect(page.get_by_role("article").first).to_be_visible()
    page.emulate_media(media="print")
    code = page.get_by_alt_text("Code that opens /dough/1/R1/1", exact=True)
    expect(code).to_be_visible()
    assert code.evaluate("image => image.decode().then(() => image.naturalWidth)") > 0


@pytest.mark.parametrize("by", ["button", "Control+p"])
def test_the_codes_of_cards_out_of_sight_have_come_before_it_is_printed(page: Page, by: str) -> None:
    page.goto("/print/1")
    expect(page.locator("[data-sheet]").last).to_be_attached()
    page.evaluate("void (window.print = () => { window.printed = [...document.images].map(one => one.naturalWidth); })")
    if by == "button":
        page.get_by_role("button", name="Print", exact=True).click()
    else:
        page.keyboard.press(by)
    while (widths := page.evaluate("window.printed")) is None:
        page.wait_for_timeout(100)
    assert len(widths) == 1 + page.locator("[data-sheet]").count()
    assert 0 not in widths


@pytest.mark.parametrize("theme", ["light", "dark"])
@pytest.mark.parametrize("path", VIEWS)
def test_axe_finds_nothing(page: Page, path: str, theme: str) -> None:
    page.emulate_media(color_scheme="dark" if theme == "dark" else "light")
    assert violations(page, path) == []


def test_the_walk_by_keys_alone(page: Page) -> None:
    page.goto("/orders")
    expect(page.get_by_role("heading", name="Orders", exact=True)).to_be_visible()
    for key, heading in WALK:
        page.keyboard.press(key)
        expect(page.get_by_role("heading", level=1)).to_have_text(heading)


def test_the_queue_of_batches_by_keys(page: Page) -> None:
    page.goto("/dough/1/R1/1")
    expect(page.get_by_role("article", name="R1 batch 1", exact=True)).to_be_visible()
    page.keyboard.press("j")
    page.keyboard.press("j")
    expect(page.get_by_role("article", name="R1 batch 3", exact=True)).to_be_visible()
    page.keyboard.press("k")
    expect(page).to_have_url(re.compile("/dough/1/R1/2$"))


def test_typing_a_number_is_not_a_command(page: Page) -> None:
    page.goto("/dough/1/R1/1")
    page.get_by_label("Probe in the dough after mixing").press_sequentially("2")
    expect(page).to_have_url(re.compile("/dough/1/R1/1$"))


def test_dark_is_remembered(page: Page) -> None:
    page.goto("/plan/1")
    page.get_by_role("button", name="Light / dark").click()
    page.reload()
    expect(page.locator("html")).to_have_attribute("data-theme", "dark")


def test_orders_and_template_can_be_saved(page: Page) -> None:
    page.goto("/orders")
    for name, first in (("Save as CSV", "4101,2026-03-11 03:30,lantern-plain,2280"), ("Template", "example-1,")):
        with page.expect_download() as download:
            page.get_by_role("link", name=name).click()
        text = Path(download.value.path()).read_text()
        assert text.startswith("order,dispatch,product,packs")
        assert first in text


def test_every_lorry_and_its_shortage_is_named(page: Page) -> None:
    page.goto("/plan/1")
    waves = page.get_by_label("Lorries", exact=True)
    for lorry in ("Harbour lorry", "Hill towns", "Market hall", "Depot south"):
        expect(waves).to_contain_text(lorry)
    short = [outcome["short"] for outcome in page.request.get("/api/plans/1").json()["plan"]["waves"]]
    assert max(short) > 0, "the demo day is too full for one lorry"
    expect(waves).to_contain_text(f"{max(short)} short")
    expect(page.get_by_label("Packs made against packs due")).to_contain_text(f"{max(short)} short")


def test_a_run_that_is_not_sliced_passes_the_slicer_by(page: Page) -> None:
    page.goto("/plan/1")
    expect(page.locator("[data-run=R3] title")).to_have_text("R3 passes by: Slicer")
    expect(page.locator("[data-run=R1] title")).to_have_count(0)


@pytest.mark.refusals
def test_a_file_without_a_header_is_told_once_what_its_columns_are(page: Page, client: TestClient) -> None:
    page.goto("/orders")
    page.get_by_role("button", name="Import orders").click()
    page.get_by_label("Rows pasted from a sheet").fill("3/11/2026 12:00 PM\tLantern Plain\t7001\t40\n")
    page.get_by_role("button", name="Read the pasted rows").click()
    expect(page.get_by_role("radio", name="The first row is an order already")).to_be_checked()
    for label, column in (("order number", "3"), ("lorry, or when it leaves", "1"), ("product", "2"), ("packs", "4")):
        page.get_by_label(re.compile(f"^{label}")).select_option(column)
    page.get_by_label("keep as").fill("Harbour Inn")
    page.get_by_role("button", name="Keep, and read again").click()
    page.get_by_role("button", name="Import the 1 good row").click()
    expect(page.get_by_role("cell", name="7001", exact=True)).to_be_visible()
    assert client.get("/api/orders/columns").json()[0]["has_header"] is False


def test_when_packs_in_stock_were_made_is_said(page: Page, client: TestClient) -> None:
    page.goto("/orders")
    page.get_by_label("Lantern Plain in stock").fill("400")
    page.get_by_label("When the other Lantern Plain were made").fill("2026-03-10T14:00")
    page.get_by_role("button", name="Keep this stock").click()
    expect(page.get_by_text("oldest 6 h")).to_be_visible()
    assert [lot["made_min"] for lot in client.get("/api/opening").json()["finished"]] == [-360]


@pytest.mark.refusals
def test_more_than_can_be_made_is_planned_and_the_rest_named(page: Page) -> None:
    page.goto("/orders")
    page.get_by_role("button", name="Import orders").click()
    rows = "order,dispatch,product,packs\nq1,Depot south,Lantern Plain,30000\n"
    page.get_by_label("Rows pasted from a sheet").fill(rows)
    page.get_by_role("button", name="Read the pasted rows").click()
    page.get_by_role("button", name="Import the 1 good row").click()
    page.get_by_role("link", name="Go to the plan").click()
    page.get_by_role("button", name="Fit this plan").click()
    expect(page.get_by_role("button", name="Version 2")).to_be_visible()
    late = page.get_by_label("Lorries that miss packs")
    expect(late.get_by_text("left out: no run in this window makes them")).to_be_visible()
