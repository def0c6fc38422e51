"""The plant, its stores and its lines in the browser."""

import json
import re
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from playwright.sync_api import Page, expect


def test_a_product_is_changed_tried_and_used(page: Page) -> None:
    page.goto("/plant/products/lantern-plain")
    page.get_by_label("Lost in baking").fill("13")
    effect = page.get_by_label("What the change does", exact=True)
    expect(effect.get_by_text("In plan 1, in its order")).to_be_visible()
    effect.get_by_text("All that is changed").click()
    expect(effect.get_by_text("Lantern Plain, Lost in baking: 12.5 % → 13 %")).to_be_visible()
    page.get_by_role("button", name="Use this version").click()
    expect(page.get_by_text("version 2: Lantern Plain changed")).to_be_visible()
    expect(page.get_by_label("The walk")).to_contain_text("1 out of date")
    page.get_by_role("button", name="Files and versions").click()
    page.get_by_role("button", name="Versions", exact=True).click()
    page.get_by_role("button", name="Restore").click()
    expect(page.get_by_text("version 3: version 1 restored")).to_be_visible()
    expect(page.get_by_label("Lost in baking")).to_have_value("12.5")


@pytest.mark.refusals
def test_what_cannot_be_is_said_where_it_is_and_nothing_is_lost_by_a_reload(page: Page) -> None:
    page.goto("/plant/products/lantern-plain")
    page.get_by_label("Lost in baking").fill("140")
    expect(page.get_by_role("alert")).to_contain_text("Lantern Plain, Lost in baking: is 1.4; allowed: less than 0.6")
    expect(page.get_by_role("button", name="Use this version")).to_be_disabled()
    page.reload()
    expect(page.get_by_label("Lost in baking")).to_have_value("140")
    page.get_by_label("Lost in baking").fill("12")
    page.get_by_role("button", name="Use this version").click()
    expect(page.get_by_text("version 2: Lantern Plain changed")).to_be_visible()


def test_an_edit_of_the_line_shows_its_pace_and_is_undone(page: Page) -> None:
    """The proofer's places are what a belt carries: 60 C / d (Little 1961)."""
    page.goto("/plant/lines/ring-line?as=harvest-sesame&station=proofer")
    proofer = page.get_by_label("The line", exact=True).get_by_role("button", name=re.compile("^Proofer"))
    expect(proofer).to_contain_text("of 9,495")
    page.get_by_label("Places on the belt").fill("4950")
    expect(proofer).to_contain_text("of 4,747")
    effect = page.get_by_label("What the change does", exact=True)
    expect(effect.get_by_text("most of Harvest Sesame, was 9,495")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(proofer).to_contain_text("of 9,495")
    expect(page.get_by_label("Places on the belt")).to_have_value("9900")


def test_a_station_is_put_in_passed_and_taken_out_again(page: Page) -> None:
    page.goto("/plant/lines/ring-line?as=lantern-plain")
    page.get_by_role("button", name="Put a station in after Steam oven").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_role("radio", name=re.compile("^Table")).click()
    dialog.get_by_label("Name").fill("Sorting table")
    dialog.get_by_role("button", name="Put it in").click()
    walk = page.get_by_label("The line", exact=True)
    expect(walk.get_by_role("button", name=re.compile("^Sorting table"))).to_contain_text("not on its way")
    page.get_by_role("button", name="Send it through here").click()
    expect(walk.get_by_role("button", name=re.compile("^Sorting table"))).to_contain_text("people")
    page.get_by_role("button", name="Use this version").click()
    expect(page.get_by_text("version 2: Ring line changed, Lantern Plain changed")).to_be_visible()
    page.get_by_role("button", name="Delete", exact=True).click()
    expect(walk.get_by_role("button", name=re.compile("^Sorting table"))).to_have_count(0)
    page.get_by_role("button", name="Use this version").click()
    expect(page.get_by_text("version 3: Ring line changed, Lantern Plain changed")).to_be_visible()


def test_a_station_is_dragged_to_another_place(page: Page) -> None:
    """The last station goes in front of the one before it, and back by Undo."""
    page.goto("/plant/lines/ring-line?as=lantern-plain")
    walk = page.get_by_label("The line", exact=True).get_by_role("listitem")
    expect(walk.first).to_be_visible()
    names = [walk.nth(place).inner_text().split("\n")[0] for place in range(walk.count())]
    first, then = names[-2:]
    expect(walk.last).to_contain_text(then)
    walk.last.drag_to(walk.nth(len(names) - 2))
    expect(walk.last).to_contain_text(first)
    expect(walk.nth(len(names) - 2)).to_contain_text(then)
    page.get_by_role("button", name="Undo").click()
    expect(walk.last).to_contain_text(then)


def test_a_formula_is_weighed_as_it_is_typed_and_allergens_follow(page: Page) -> None:
    page.goto("/plant/products/lantern-plain")
    formula = page.get_by_label("Formula", exact=True)
    expect(formula.get_by_text("gluten, from what is in it")).to_be_visible()
    formula.get_by_role("button", name="Add an ingredient").click()
    formula.get_by_role("combobox").last.select_option("Toasted sesame")
    expect(formula.get_by_text("gluten, sesame, from what is in it")).to_be_visible()


def test_a_thing_is_copied_under_a_name_and_deleted(page: Page) -> None:
    page.goto("/plant/ingredients")
    page.get_by_role("button", name="Copy this ingredient").click()
    page.get_by_role("dialog").get_by_label("Name").fill("Bran")
    page.get_by_role("button", name="Copy the ingredient").click()
    expect(page).to_have_url(re.compile("/plant/ingredients/bran$"))
    expect(page.get_by_role("heading", name="Bran")).to_be_visible()
    page.get_by_role("button", name="Delete").click()
    expect(page.get_by_label("Things").get_by_text("Bran")).to_have_count(0)


@pytest.mark.refusals
def test_two_planners_and_nothing_of_either_is_lost(client: TestClient, page: Page) -> None:
    page.goto("/plant/products/lantern-plain")
    page.get_by_label("Lost in baking").fill("12")
    library = client.get("/api/library").json()["library"]
    other = next(made for made in library["products"] if made["id"] == "harvest-sesame") | {"fresh_for_h": 30}
    edits = [{"kind": "products", "id": other["id"], "data": other}]
    assert client.post("/api/library/change", json={"based_on": 1, "edits": edits}).status_code == 201
    page.get_by_role("button", name="Use this version").click()
    expect(page.get_by_role("alert")).to_contain_text("Harvest Sesame, Oldest at the lorry: 18 h → 30 h")
    page.reload()
    page.get_by_role("button", name="Use this version").click()
    page.get_by_role("button", name="Put my changes on version 2").click()
    page.get_by_role("button", name="Use this version").click()
    expect(page.get_by_text("version 3: Lantern Plain changed")).to_be_visible()
    products = {made["id"]: made for made in client.get("/api/library").json()["library"]["products"]}
    assert (products["harvest-sesame"]["fresh_for_h"], products["lantern-plain"]["bake_loss"]) == (30, 0.12)


def test_a_library_is_saved_changed_and_brought_in(page: Page, tmp_path: Path) -> None:
    page.goto("/plant")
    page.get_by_role("button", name="Files and versions").click()
    with page.expect_download() as download:
        page.get_by_role("link", name="Save as JSON").click()
    library = json.loads(Path(download.value.path()).read_text())
    library["plant"]["name"] = "Ostermere Rings and More"
    (tmp_path / "library.json").write_text(json.dumps(library))
    page.get_by_role("button", name="Import a library").click()
    page.get_by_label("Library file").set_input_files(tmp_path / "library.json")
    expect(page.get_by_text("1 change. Nothing has been imported yet.")).to_be_visible()
    expect(page.get_by_text("Name: Ostermere Rings → Ostermere Rings and More")).to_be_visible()
    page.get_by_role("button", name="Import this library").click()
    expect(page.get_by_role("heading", name="Ostermere Rings and More")).to_be_visible()


@pytest.mark.refusals
def test_a_file_that_is_no_library_is_refused(page: Page, tmp_path: Path) -> None:
    page.goto("/plant")
    page.get_by_role("button", name="Files and versions").click()
    page.get_by_role("button", name="Import a library").click()
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
    expect(page.get_by_label("Stations", exact=True).locator("[data-station=proofer]")).to_be_visible()
    page.get_by_role("button", name="Compare").click()
    page.goto(page.url + "&room=30")
    held = page.get_by_label("Held beside")
    row = held.get_by_role("row", name=re.compile("bottleneck"))
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


def test_a_draft_belongs_to_its_plant(client: TestClient, page: Page) -> None:
    """What was left undone of another plant is not put on this one."""
    edit = {"kind": "ingredients", "id": "moon", "data": {"id": "moon", "name": "Moon dust"}}
    kept = {"plant": "Another, Elsewhere", "basedOn": 1, "steps": [[edit]]}
    page.goto("/plant/ingredients")
    page.evaluate("kept => localStorage.setItem('rundgang.plant-draft', kept)", json.dumps(kept))
    page.goto("/plant/ingredients")
    expect(page.get_by_label("Things").get_by_text("Water")).to_be_visible()
    expect(page.get_by_text("Moon dust")).to_have_count(0)
    here = client.get("/api/library").json()["library"]["plant"]
    kept["plant"] = f"{here['name']}, {here['town']}"
    page.evaluate("kept => localStorage.setItem('rundgang.plant-draft', kept)", json.dumps(kept))
    page.goto("/plant/ingredients")
    expect(page.get_by_label("Things").get_by_text("Moon dust")).to_be_visible()
