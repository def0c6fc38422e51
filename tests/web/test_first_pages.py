"""From an empty Rundgang to a printed plan, with a plant built on the page; and the demo deleted from it."""

import re
from collections.abc import Iterator

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from playwright.sync_api import Browser, Locator, Page, expect

from axe import violations
from conftest import served

MOST_ENTRIES = 60
"""A line with two products is built with so many entries and choices at most."""


@pytest.fixture
def empty_page(empty: FastAPI, browser: Browser) -> Iterator[Page]:
    """A page of an application without a plant; the test fails where a script does."""
    with served(empty) as address:
        opened = browser.new_page(
            base_url=address, viewport={"width": 1280, "height": 800}, reduced_motion="reduce", locale="en-GB"
        )
        problems: list[str] = []
        opened.on("pageerror", lambda error: problems.append(str(error)))
        opened.on("console", lambda said: problems.append(said.text) if said.type == "error" else None)
        expect.set_options(timeout=15_000)
        yield opened
        opened.close()
        assert problems == []


class Typist:
    """Fills in fields and chooses, and counts how often."""

    def __init__(self) -> None:
        self.entries = 0

    def fill(self, field: Locator, text: str) -> None:
        field.fill(text)
        self.entries += 1

    def choose(self, field: Locator, option: str) -> None:
        field.select_option(label=option)
        self.entries += 1

    def click(self, button: Locator) -> None:
        button.click()
        self.entries += 1


def test_a_plant_is_built_and_its_plan_printed(empty: FastAPI, empty_page: Page) -> None:
    """Two kinds of roll on one line: stations and stays as they are there, lorries, orders, a plan, paper."""
    page, typist = empty_page, Typist()
    page.goto("/")
    expect(page.get_by_text("There is no plant yet")).to_be_visible()
    assert violations(page, "/") == []
    typist.click(page.get_by_role("button", name="Build a plant"))
    typist.fill(page.get_by_label("Name of the plant"), "Seeblick Bakery")
    typist.fill(page.get_by_role("textbox", name="Town"), "Seeblick")
    typist.choose(page.get_by_label(re.compile("^Time zone")), "Europe/Vienna")
    typist.fill(page.get_by_label("Name of its first line"), "Roll line")
    typist.choose(page.get_by_label(re.compile("^What it makes")), "long soft rolls")
    typist.fill(page.get_by_label("Name of product 1"), "Sea Roll")
    for station, figures in {
        "Dough mixers": {"mixers": "3", "largest dough": "200"},
        "Proofer": {"places on it": "9000", "stays": "50", "at": "37"},
        "Tunnel oven": {"places on it": "3000", "stays": "11", "at": "228"},
        "Baggers": {"machines": "2", "strokes a minute": "40"},
    }.items():
        card = page.get_by_role("region", name=station)
        for name, figure in figures.items():
            typist.fill(card.get_by_label(re.compile(f"^{name}")), figure)
    typist.fill(page.get_by_label(re.compile("^pace that is wanted")).first, "6000")
    typist.click(page.get_by_role("button", name="Add a product"))
    typist.fill(page.get_by_label("Name of product 2"), "Dune Roll")
    typist.fill(page.get_by_role("region", name="Product 2").get_by_label(re.compile("^a piece weighs")), "66")
    expect(page.get_by_text("is the bottleneck")).to_be_visible()
    expect(page.get_by_role("heading", name="The walk, for Dune Roll")).to_be_visible()
    assert page.locator("text=bottleneck >> nth=1").is_visible()
    typist.click(page.get_by_role("button", name="Build this plant"))
    assert typist.entries <= MOST_ENTRIES
    expect(page.get_by_role("heading", level=1)).to_have_text("Calendar")
    page.get_by_label("Name of a new lorry").fill("Harbour van")
    page.get_by_role("button", name="Add", exact=True).nth(1).click()
    page.get_by_role("button", name="Save the calendar").click()
    expect(page.get_by_text("version 2")).to_be_visible()
    client = TestClient(empty, headers={"Origin": "http://testserver"})
    window = client.get("/api/window").json()
    assert [product["name"] for product in window["products"]] == ["Sea Roll", "Dune Roll"]
    lorry = window["waves"][-1]["id"]
    rows = f"order,dispatch,product,packs\n1,{lorry},Sea Roll,900\n2,{lorry},Dune Roll,600\n"
    page.goto("/orders")
    page.get_by_role("button", name="Import orders").click()
    page.get_by_label(re.compile("file", re.IGNORECASE)).first.set_input_files(
        {"name": "orders.csv", "mimeType": "text/csv", "buffer": rows.encode()}
    )
    page.get_by_role("button", name=re.compile("^Import the")).first.click()
    expect(page.get_by_text("2 order lines")).to_be_visible()
    newest = client.get("/api/versions/newest").json()["note"]["number"]
    fit = client.post(f"/api/versions/{newest}/changes", json={"change": {"kind": "fit", "line": "roll-line"}})
    assert fit.status_code == 201, fit.text
    page.goto("/print")
    expect(page.get_by_text("Sea Roll").first).to_be_visible()
    expect(page.get_by_text("Dune Roll").first).to_be_visible()
    assert client.get("/api/versions/newest").json()["plans"][0]["violations"] == []


@pytest.mark.refusals  # what is shown may be asked for once more while the plant is being deleted
def test_the_demo_is_thrown_away_from_the_page(client: TestClient, page: Page) -> None:
    name = client.get("/api/plant").json()["contents"]["name"]
    page.goto("/plant")
    page.get_by_role("button", name="Files and versions").click()
    page.get_by_role("button", name="Whole plant").click()
    dialog = page.get_by_role("dialog", name="The whole plant")
    expect(dialog.get_by_role("button", name="Delete the demo")).to_be_disabled()
    dialog.get_by_label(re.compile("Type")).fill(name)
    dialog.get_by_role("button", name="Delete the demo").click()
    expect(page.get_by_text("There is no plant yet")).to_be_visible()
