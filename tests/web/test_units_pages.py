"""US customary units, twelve-hour clocks, month-first dates: every page is walked, and nothing metric is left."""

import re
from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient
from playwright.sync_api import Browser, Page, expect

UNITS = r"kg|g|mm|cm|m|m²|m³|l|t|µm|°C|K|kJ|kW|kWh|Wh/kg|kg/h|g/kg|m/min|°C/min|kg/m²|kJ/kg|kJ/kgK|m³/kg|hPa"
METRIC = re.compile(rf"[^\n]{{0,50}}(?:\d\s?(?:{UNITS})(?![\w/²³°])|°C|\bkg\b|Wh/kg|m/min|m³)[^\n]{{0,30}}")
CLOCK = re.compile(r"(?<![\d:.,])(?:[01]\d|2[0-3]):[0-5]\d(?!\s?[AP]M)(?![\d:])")
EVERYTHING = """() => {
  document.querySelectorAll("details").forEach((part) => { part.open = true; });
  const labels = [...document.querySelectorAll("[aria-label], [title], svg text")];
  const named = (part) => [part.getAttribute("aria-label"), part.getAttribute("title"), part.textContent];
  const said = labels.flatMap(named);
  return [document.body.innerText, ...said].filter(Boolean).join("\\n");
}"""


@pytest.fixture
def american(browser: Browser, address: str) -> Iterator[Page]:
    """A page of somebody who reads in US customary units, with a twelve-hour clock."""
    opened = browser.new_page(base_url=address, viewport={"width": 1280, "height": 800}, locale="en-US")
    opened.add_init_script("localStorage.setItem('rundgang.units', 'us')")
    yield opened
    opened.close()


def _paths(client: TestClient) -> Iterator[str]:
    library = client.get("/api/library").json()["library"]
    yield from (
        "/orders",
        "/plan",
        "/plan?run=R2",
        "/dough/1/R1/1",
        "/dough/1/R2/1",
        "/calendar",
        "/print",
        "/materials",
    )
    yield from ("/materials/flour-mill", "/plant/plant", "/plant/ingredients", "/plant/products/lantern-plain")
    for station in library["plant"]["lines"][0]["stations"]:
        yield f"/line/ring-line/lantern-plain?station={station['id']}"
        yield f"/plant/lines/ring-line?as=harvest-sesame&station={station['id']}"
    for entry in client.get("/api/calculators").json():
        if entry["id"] != "units":
            yield f"/calculators/{entry['id']}"


def test_nothing_metric_is_left_on_any_page(client: TestClient, american: Page) -> None:
    """All but the calculator of units, which shows a figure in both systems."""
    left = []
    for path in _paths(client):
        american.goto(path)
        expect(american.get_by_role("heading", level=1)).to_be_visible()
        expect(american.get_by_text(re.compile(r"Fetching|Calculating …"))).to_have_count(0)
        american.wait_for_timeout(150)
        text = american.evaluate(EVERYTHING)
        assert len(text) > 200, path
        left += [(path, found.strip()) for found in METRIC.findall(text)]
        left += [(path, found) for found in CLOCK.findall(text)]
    assert left == []


def test_dialogs_are_read_and_typed_in_them_too(american: Page) -> None:
    american.goto("/dough/1/R1/1")
    american.get_by_role("button", name="Change conditions").click()
    dialog = american.get_by_role("dialog", name="Conditions")
    for way in ("Low and high", "Hour by hour", "By the weather"):
        dialog.get_by_role("radio", name=way).click()
        expect(dialog.get_by_text("Fetching")).to_have_count(0)
        assert METRIC.findall(dialog.inner_text()) == [], way


def test_equations_hold_in_the_units_they_are_read_in(american: Page) -> None:
    """The factor rule with all temperatures in °F and the friction as a difference: 3 Td - (Tf + Tr) - FF = Tw."""
    american.goto("/dough/1/R1/1")
    rule = american.get_by_text(re.compile(r"^3 × .* friction = ")).inner_text()
    wanted, flour, room, friction, water = (float(found) for found in re.findall(r"(-?[\d.]+) °F", rule))
    assert 3 * wanted - flour - room - friction == pytest.approx(water, abs=0.25), rule
    icing = american.get_by_text(re.compile(r"^[\d.]+ lb × .* ice$")).inner_text()
    mass, tap, cold, again, ice = (float(found) for found in re.findall(r"(-?[\d.]+) (?:lb|°F)", icing))
    assert "+ 112" in icing, "the rule in °F has 112 where it has 80 in °C (common practice, no published source)"
    assert mass * (tap - cold) / (again + 112) == pytest.approx(ice, rel=0.02)


def test_moments_are_written_as_the_reader_writes_them(american: Page, page: Page) -> None:
    american.goto("/plan")
    expect(american.get_by_role("button", name=re.compile(r"Tue, Mar 10"))).to_be_visible()
    expect(american.get_by_text(re.compile(r"\d:\d\d AM")).first).to_be_visible()
    page.goto("/plan")
    expect(page.get_by_role("button", name=re.compile(r"Tue 10 Mar|Tue, 10 Mar"))).to_be_visible()


def test_files_are_in_the_units_of_the_page(client: TestClient) -> None:
    metric = client.get("/api/versions/1/plan.csv").text.splitlines()
    us = client.get("/api/versions/1/plan.csv?units=us").text.splitlines()
    place = metric[0].split(",").index("dough_kg")
    assert us[0].split(",")[place] == "dough_lb"
    kg, pounds = float(metric[1].split(",")[place]), float(us[1].split(",")[place])
    assert pounds == pytest.approx(kg / 0.45359237, abs=1e-4), "the pound of 1959"
