"""The next day, the lorries and the stores in the browser: rolled, moved, delivered, and the past read again."""

import re
from datetime import UTC, datetime, timedelta

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient
from playwright.sync_api import FilePayload, Page, expect

from axe import violations
from rundgang.clock import Clock

pytestmark = pytest.mark.whole


def at(app: FastAPI, client: TestClient, minute: float) -> None:
    """Let the plant's clock show so many minutes after the first window's start."""
    first = datetime.fromisoformat(client.get("/api/windows").json()[-1]["starts_at"])
    app.state.clock = Clock(shows=first + timedelta(minutes=minute), at=datetime.now(UTC))


def test_three_days_are_gone_on_from_the_page(app: FastAPI, client: TestClient, page: Page) -> None:
    """Each day: what is over is said, the window ends a day later, and the windows before are listed and readable."""
    for day in range(3):
        at(app, client, 1_440 * day + 1_110)
        page.goto("/plan")
        page.get_by_role("button", name="Ostermere Bakehouse").click()
        dialog = page.get_by_role("dialog", name="The window that is planned")
        dialog.get_by_role("button", name="Next day").click()
        expect(dialog.get_by_text(re.compile(r"Window \d+ is planned now"))).to_be_visible()
        expect(dialog.get_by_text(re.compile(r"packs of them gone"))).to_be_visible()
    ends = datetime.fromisoformat(client.get("/api/windows").json()[0]["ends_at"])
    first_end = datetime.fromisoformat(client.get("/api/windows").json()[-1]["ends_at"])
    assert ends - first_end == timedelta(days=3)
    assert client.get("/api/versions/newest").json()["published"]["version"] == 1
    dialog.get_by_role("link", name=re.compile("Window")).last.click()
    expect(page).to_have_url(re.compile(r"/windows/\d+/plan"))
    expect(page.get_by_text("It can be read, not changed.")).to_be_visible()
    expect(page.get_by_text("first plan", exact=False)).to_be_visible()
    page.get_by_role("link", name=re.compile("^Dough room")).click()
    expect(page).to_have_url(re.compile(r"/windows/\d+/dough"))
    page.get_by_role("link", name="Go to the window that is planned").click()
    expect(page).to_have_url(re.compile(r"^[^/]+//[^/]+/plan$"))


def test_a_lorry_is_moved_and_another_cancelled(app: FastAPI, client: TestClient, page: Page) -> None:
    at(app, client, 0)
    page.goto("/calendar")
    page.get_by_role("button", name="Move Depot south, Thu").first.click()
    page.get_by_label("leaves").and_(page.locator("input[type=datetime-local]")).first.fill("2026-03-12T10:30")
    page.get_by_role("button", name="Cancel Hill towns, Thu").first.click()
    expect(page.get_by_text("Changed, not saved yet")).to_be_visible()
    page.get_by_role("button", name="Save the calendar").click()
    expect(page.get_by_text("version 2")).to_be_visible()
    waves = {wave["id"]: wave["departs_min"] for wave in client.get("/api/window").json()["waves"]}
    assert waves["depot-260312"] == 1_440 + 14.5 * 60
    assert "hill-260312" not in waves
    page.goto("/orders")
    expect(page.get_by_text("orders without a lorry")).to_be_visible()
    assert violations(page, "/calendar") == []


def test_leaving_with_unsaved_changes_asks(app: FastAPI, client: TestClient, page: Page) -> None:
    at(app, client, 0)
    page.goto("/calendar")
    page.get_by_role("button", name="Cancel Harbour lorry, Thu").first.click()
    page.once("dialog", lambda dialog: dialog.dismiss())
    with page.expect_event("dialog") as asked:
        page.get_by_role("link", name=re.compile("^Orders")).click()
    assert asked.value.message == "Leave without saving your changes?"
    expect(page.get_by_role("heading", level=1)).to_have_text("Calendar")
    page.get_by_role("button", name="Undo my changes").click()
    page.get_by_role("link", name=re.compile("^Orders")).click()
    expect(page.get_by_role("heading", level=1)).to_have_text("Orders")


def test_flour_is_delivered_and_counted(app: FastAPI, client: TestClient, page: Page) -> None:
    at(app, client, 300)
    before = {stock["item"]: stock for stock in client.get("/api/opening").json()["stocks"]}
    supply = next(one for one in client.get("/api/materials").json() if one["item"] in before and one["unit"] == "kg")
    page.goto(f"/materials/{supply['item']}")
    page.get_by_label(f"{supply['name']} delivered").fill("1250")
    page.get_by_label("When it comes").fill("2026-03-11T06:00")
    page.get_by_label("Supplier's lot").fill("MF-88")
    page.get_by_role("button", name="Enter it").click()
    expect(page.get_by_text("lot MF-88")).to_be_visible()
    page.get_by_label(f"{supply['name']} counted").fill("4000")
    page.get_by_label("Why it is counted").fill("spilled")
    page.get_by_role("button", name="Keep the count").click()
    expect(page.get_by_text(re.compile("counted 4,000 kg of .*: spilled"))).to_be_visible()
    after = {stock["item"]: stock for stock in client.get("/api/opening").json()["stocks"]}
    come = [one for one in after[supply["item"]]["deliveries"] if one["lot"] == "MF-88"]
    assert [(one["at_min"], one["amount"]) for one in come] == [(600, 1_250)]
    assert after[supply["item"]]["on_hand"] != before[supply["item"]]["on_hand"]
    assert {item: stock for item, stock in after.items() if item != supply["item"]} == {
        item: stock for item, stock in before.items() if item != supply["item"]
    }


def test_a_file_with_a_customers_own_headings_is_mapped_once(app: FastAPI, client: TestClient, page: Page) -> None:
    """German headings, said once which is which; the next file of that name is read at once, and what differs shown."""
    at(app, client, 0)
    lorry = client.get("/api/window").json()["waves"][5]["id"]
    rows = f"Auftrag;Artikel;Menge;Abfahrt\n77;Lantern Plain;310;{lorry}\n77;Harvest Sesame;120;{lorry}\n"
    file = FilePayload(name="inn.csv", mimeType="text/csv", buffer=rows.encode())
    page.goto("/orders")
    page.get_by_role("button", name="Import orders").click()
    expect(page.get_by_label("headings")).to_be_visible()  # before any are kept: what comes below does not move
    page.get_by_label(re.compile("Choose a CSV file")).set_input_files(file)
    expect(page.get_by_text("Say once which is which")).to_be_visible()
    for ours, theirs in (("order number", "Auftrag"), ("product", "Artikel"), ("packs", "Menge")):
        page.get_by_label(re.compile(f"^{ours}")).select_option(theirs)
    page.get_by_label(re.compile("^lorry, or when")).select_option("Abfahrt")
    page.get_by_label("keep as").fill("Harbour Inn")
    page.get_by_role("button", name="Keep, and read again").click()
    page.get_by_role("button", name="Import the 2 good rows").click()
    expect(page.get_by_text("Book 2: inn.csv, 2 added")).to_be_visible()
    expect(page.get_by_role("region", name="Import orders")).to_have_count(0)
    orders = [one for one in client.get("/api/orders").json()["orders"] if one["id"] == "77"]
    assert [(one["product"], one["packs"]) for one in orders] == [("lantern-plain", 310), ("harvest-sesame", 120)]
    page.get_by_role("button", name="Import orders").click()
    page.get_by_label("headings").select_option("Harbour Inn")
    page.get_by_text("Replace all orders").click()
    changed = FilePayload(name="inn.csv", mimeType="text/csv", buffer=rows.replace("310", "300").encode())
    page.get_by_label(re.compile("Choose a CSV file")).set_input_files(changed)
    differs = page.get_by_role("region", name="Changes")
    expect(differs).to_contain_text("1 line changed")
    expect(differs).to_contain_text("310 → 300")


def test_the_room_by_the_weather_and_the_wet_hours_it_brings(app: FastAPI, client: TestClient, page: Page) -> None:
    at(app, client, 0)
    page.goto("/dough")
    page.get_by_role("button", name="Change conditions").click()
    dialog = page.get_by_role("dialog", name="Conditions")
    dialog.get_by_role("radio", name="By the weather").click()
    expect(dialog.get_by_text("is simulated: it is made up")).to_be_visible()
    expect(dialog.get_by_text("To fit this to your room, enter the conditions now and then")).to_be_visible()
    dialog.get_by_role("button", name="Close").click()
    page.get_by_role("button", name="Change conditions").click()
    dialog.get_by_role("radio", name="Hour by hour").click()
    cells = dialog.get_by_label(re.compile("^Humidity, "))
    last = cells.count() - 1
    cells.nth(last).fill("75")
    dialog.get_by_role("button", name="Use these").click()
    expect(page.get_by_text("Wet hours ahead")).to_be_visible()
    expect(page.get_by_text("up to 75.0 % humidity")).to_be_visible()
    page.get_by_role("button", name="Change conditions").click()
    dialog.get_by_role("radio", name="Low and high").click()
    dialog.get_by_label("Room, lowest").fill("19")
    expect(dialog.get_by_text("the room needs both temperatures")).to_be_visible()
    dialog.get_by_label("Room, highest").fill("25")
    dialog.get_by_label("Humidity, lowest").fill("50")
    dialog.get_by_label("Humidity, highest").fill("60")
    dialog.get_by_label("Warmest at").fill("15:00")
    dialog.get_by_role("button", name="Use these").click()
    expect(page.get_by_text("Wet hours ahead")).to_have_count(0)


def test_a_shift_of_the_packers_is_what_the_next_plan_keeps(app: FastAPI, client: TestClient, page: Page) -> None:
    """Packers from noon to ten at night only: nothing is packed in the morning."""
    at(app, client, -60)
    page.goto("/calendar")
    shifts = page.get_by_label("Shifts of crews")
    shifts.get_by_role("button", name="Add a shift").click()
    shifts.get_by_label("Packers, shift 1 begins").fill("12:00")
    shifts.get_by_label("Packers, hours of shift 1").fill("10")
    page.get_by_role("button", name="Save the calendar").click()
    expect(page.get_by_text("Changed, not saved yet")).to_have_count(0)
    newest = client.get("/api/versions/newest").json()["note"]["number"]
    fit = client.post(f"/api/versions/{newest}/changes", json={"change": {"kind": "fit", "line": "ring-line"}})
    assert fit.status_code == 201, fit.text
    version = client.get("/api/versions/newest?line=ring-line").json()
    starts_at = datetime.fromisoformat(client.get("/api/window").json()["window"]["starts_at"])
    runs = version["plans"][0]["plan"]["runs"]
    assert runs
    for run in runs:
        for minute in (run["first_pack_min"], run["last_pack_min"] - 0.1):
            hour = (starts_at + timedelta(minutes=minute)).hour
            assert 12 <= hour < 22, (run["id"], minute)
    waits = next(run["id"] for run in runs if run["binding"]["kind"] == "shift")
    page.goto(f"/plan?line=ring-line&run={waits}")
    expect(page.get_by_text("More of Packers come then: a shift begins, or a break is over")).to_be_visible()


def test_orders_of_a_cancelled_lorry_are_given_to_another_on_the_page(
    app: FastAPI, client: TestClient, page: Page
) -> None:
    at(app, client, 0)
    calendar = client.get("/api/calendar").json()
    planned = [one["departure"] for one in calendar["departures"] if one["is_planned"]]
    departure = next(one for one in reversed(planned) if one["lorry"] == "depot")
    cancelled = [{"lorry": "depot", "on": departure["on"]}]
    body = {"calendar": calendar["calendar"] | {"cancelled": cancelled}, "seen": calendar["number"], "author": "Ida"}
    assert client.post("/api/calendar", json=body).status_code == 201
    page.goto("/orders")
    expect(page.get_by_text(re.compile("orders? without a lorry"))).to_be_visible()
    page.get_by_label("Another lorry").select_option(index=2)
    page.get_by_role("button", name=re.compile(r"^Give \d+ orders? to it")).click()
    expect(page.get_by_text(re.compile("orders? without a lorry"))).to_have_count(0)
    expect(page.get_by_text(re.compile(r"^Book 2: planner gave \d+ order lines? to"))).to_be_visible()


@pytest.mark.refusals
def test_a_file_of_stock_is_taken_on_the_page_or_its_fault_named(app: FastAPI, client: TestClient, page: Page) -> None:
    at(app, client, 0)
    page.goto("/materials")
    rows = "entry,name,amount,at,lot,best_before\nmaterial,Mill flour 700,7000,,,\n"
    wrong = FilePayload(name="stock.csv", mimeType="text/csv", buffer=rows.replace("7000", "x").encode())
    with page.expect_response("**/api/stock/file*") as refused:
        page.get_by_label("File of stock").set_input_files(wrong)
    assert refused.value.status == 422
    expect(page.get_by_role("alert").first).to_contain_text("line 2, amount: found “x”; allowed: a number")
    good = FilePayload(name="stock.csv", mimeType="text/csv", buffer=rows.encode())
    page.get_by_label("File of stock").set_input_files(good)
    expect(page.get_by_text("Taken. planner: 1 rows of stock.csv")).to_be_visible()
