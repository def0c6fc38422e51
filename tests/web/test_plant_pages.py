"""The plant, its stores and its lines in the browser."""

import json
import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect


def test_a_product_is_changed_and_its_plan_goes_out_of_date(page: Page) -> None:
    page.goto("/plant/products/lantern-plain")
    page.get_by_label("bake loss").fill("0,13")
    expect(page.get_by_text("Not saved yet.")).to_be_visible()
    page.get_by_role("button", name="Save the change").click()
    expect(page.get_by_text("version 2 of the library: products: lantern-plain changed")).to_be_visible()
    expect(page.get_by_label("The walk")).to_contain_text("1 plan out of date")
    page.get_by_role("button", name="Versions").click()
    page.get_by_role("button", name="Bring back").click()
    expect(page.get_by_text("version 3 of the library: version 1 brought back")).to_be_visible()
    expect(page.get_by_label("bake loss")).to_have_value("0.125")


@pytest.mark.refusals
def test_what_cannot_be_is_said_where_it_is_typed_and_nothing_is_lost(page: Page) -> None:
    page.goto("/plant/products/lantern-plain")
    page.get_by_label("bake loss").fill("1.4")
    page.get_by_role("button", name="Save the change").click()
    expect(page.get_by_role("alert")).to_contain_text("products.0 (lantern-plain).bake_loss")
    expect(page.get_by_label("bake loss")).to_have_value("1.4")
    page.get_by_label("bake loss").fill("0.12")
    page.get_by_role("button", name="Save the change").click()
    expect(page.get_by_text("version 2 of the library")).to_be_visible()


def test_a_route_is_opened_and_a_step_moved_away(page: Page) -> None:
    page.goto("/plant/products/lantern-plain")
    route = page.get_by_label("route", exact=True)
    route.get_by_text("slicer", exact=True).click()
    expect(route.locator("details[open]").get_by_label("strokes", exact=True)).to_be_visible()
    route.get_by_role("button", name="Take slicer away").click()
    page.get_by_role("button", name="Save the change").click()
    expect(page.get_by_text("version 2 of the library")).to_be_visible()
    expect(route.get_by_text("slicer", exact=True)).to_have_count(0)


def test_a_thing_is_added_as_a_copy_and_taken_away(page: Page) -> None:
    page.goto("/plant/ingredients")
    page.get_by_role("link", name="Add an ingredient").click()
    page.get_by_label("id", exact=True).fill("bran")
    page.get_by_label("name", exact=True).fill("Bran")
    page.get_by_role("button", name="Add it").click()
    expect(page).to_have_url(re.compile("/plant/ingredients/bran$"))
    expect(page.get_by_role("heading", name="Bran")).to_be_visible()
    page.get_by_role("button", name="Delete").click()
    expect(page.get_by_label("Things").get_by_text("Bran")).to_have_count(0)


def test_a_library_is_saved_changed_and_brought_in(page: Page, tmp_path: Path) -> None:
    page.goto("/plant")
    with page.expect_download() as download:
        page.get_by_role("link", name="Save as JSON").click()
    library = json.loads(Path(download.value.path()).read_text())
    library["plant"]["name"] = "Ostermere Rings and More"
    (tmp_path / "library.json").write_text(json.dumps(library))
    page.get_by_role("button", name="Bring a library in").click()
    page.get_by_label("Library file").set_input_files(tmp_path / "library.json")
    expect(page.get_by_text("1 change. Nothing has been taken yet.")).to_be_visible()
    expect(page.get_by_text("plant name: Ostermere Rings → Ostermere Rings and More")).to_be_visible()
    page.get_by_role("button", name="Take this library").click()
    expect(page.get_by_role("heading", name="Ostermere Rings and More")).to_be_visible()


@pytest.mark.refusals
def test_a_file_that_is_no_library_is_refused(page: Page, tmp_path: Path) -> None:
    page.goto("/plant")
    page.get_by_role("button", name="Bring a library in").click()
    (tmp_path / "library.xlsx").write_bytes(b"no workbook")
    page.get_by_label("Library file").set_input_files(tmp_path / "library.xlsx")
    expect(page.get_by_role("alert")).to_contain_text("cannot be opened as a workbook")


def test_the_stores_name_what_is_drawn(page: Page) -> None:
    page.goto("/materials")
    expect(page.get_by_role("heading", name="Materials", level=1)).to_be_visible()
    page.get_by_role("link", name="Mill flour 700").click()
    expect(page).to_have_url(re.compile("/materials/flour-mill$"))
    expect(page.get_by_role("heading", name="Mill flour 700")).to_be_visible()
    expect(page.get_by_text("No stock is known")).to_be_visible()
    page.keyboard.press("k")
    expect(page).to_have_url(re.compile("/materials/malt$"))


def test_a_setting_is_held_beside_another(page: Page) -> None:
    page.goto("/line/ring-line/lantern-plain")
    expect(page.get_by_label("Gates").locator("[data-station=proofer]")).to_be_visible()
    page.get_by_role("button", name="Hold this beside").click()
    page.goto(page.url + "&room=30")
    held = page.get_by_label("Held beside")
    row = held.get_by_role("row", name=re.compile("narrowest gate"))
    expect(row).to_contain_text("Cooling spiral")
    expect(row).to_contain_text("Proofer")
    page.reload()
    expect(row).to_contain_text("Cooling spiral")
    held.get_by_role("button", name="Let it go").click()
    expect(held).to_have_count(0)


def test_one_machine_more_answers_at_once(page: Page) -> None:
    page.goto("/line/ring-line/pear-cardamom?station=divider")
    panel = page.get_by_label("Divider", exact=True)
    expect(panel.get_by_text("60 × 1 × 5 lanes")).to_be_visible()
    panel.get_by_role("button", name="One of machines more").click()
    expect(panel.get_by_text("60 × 2 × 5 lanes")).to_be_visible()
    expect(page).to_have_url(re.compile("n.divider=2"))
    panel.get_by_role("button", name="As it is in the plant").click()
    expect(panel.get_by_text("60 × 1 × 5 lanes")).to_be_visible()


def test_the_bench_takes_a_products_figures(page: Page) -> None:
    page.goto("/calculators/oven")
    page.get_by_label("With the figures of").select_option("lantern-plain")
    expect(page).to_have_url(re.compile("product=lantern-plain"))
    page.goto("/calculators/cooling?product=lantern-plain")
    expect(page.get_by_label("time on the cooler")).to_have_value("44")
    expect(page.get_by_label("Answer")).to_contain_text("Cooling time")
    page.get_by_role("link", name="Lantern Plain on its line").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Ring line, Lantern Plain")
