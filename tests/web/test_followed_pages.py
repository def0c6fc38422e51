"""Open pages follow what others do: it is said, and nothing that one looks at is swapped."""

import re

import pytest
from fastapi.testclient import TestClient
from playwright.sync_api import Browser, Page, expect

CSV = {"Content-Type": "text/csv"}
GOOD = "order,dispatch,product,packs\nn1,harbour,lantern-plain,500\n"


LISTENS_MS = 2_500
"""A page listens once it has shown what it is for."""


def fitted(client: TestClient, version: int) -> None:
    """Somebody else makes the next version."""
    change = {"change": {"kind": "fit", "line": "ring-line"}, "author": "Ida"}
    assert client.post(f"/api/versions/{version}/changes", json=change).status_code == 201


def test_a_plan_of_another_is_said_and_not_shown_unasked(page: Page, client: TestClient) -> None:
    page.goto("/plan")
    expect(page.get_by_role("button", name="Version 1", exact=True)).to_be_visible()
    fitted(client, 1)
    expect(page.get_by_text("Version 2 has come since you opened version 1.")).to_be_visible()
    expect(page.get_by_role("button", name="Version 1 of 2")).to_be_visible()
    expect(page.get_by_text("There is a newer version of the plan.")).to_have_count(0)
    page.get_by_role("link", name="Show version 2").click()
    expect(page.get_by_role("button", name="Version 2", exact=True)).to_be_visible()


def test_orders_of_another_are_said_on_every_page(page: Page, client: TestClient) -> None:
    page.goto("/materials")
    expect(page.get_by_role("link", name=re.compile("^Orders 14 orders"))).to_be_visible()
    page.wait_for_timeout(LISTENS_MS)
    assert client.post("/api/orders/import", content=GOOD, headers=CSV).status_code == 201
    expect(page.get_by_role("link", name=re.compile("^Orders 15 orders"))).to_be_visible()
    said = page.get_by_text("The orders have changed.")
    expect(said).to_be_visible()
    page.get_by_role("button", name="Close").click()
    expect(said).to_have_count(0)


def test_one_page_of_a_browser_listens_for_all(browser: Browser, address: str, client: TestClient) -> None:
    context = browser.new_context(base_url=address, viewport={"width": 1280, "height": 800}, locale="en-GB")
    first, second = context.new_page(), context.new_page()
    asked = list[str]()
    for page in (first, second):
        page.on("request", lambda request: asked.append(request.url) if "/api/events" in request.url else None)
        page.goto("/materials")
        expect(page.get_by_role("link", name=re.compile("^Orders 14 orders"))).to_be_visible()
        page.wait_for_timeout(LISTENS_MS)
    assert client.post("/api/orders/import", content=GOOD, headers=CSV).status_code == 201
    for page in (first, second):
        expect(page.get_by_text("The orders have changed.")).to_be_visible()
    assert len(asked) == 1
    first.close()
    assert client.post("/api/orders/import", content=GOOD.replace("n1", "n2"), headers=CSV).status_code == 201
    expect(second.get_by_role("link", name=re.compile("^Orders 16 orders"))).to_be_visible()
    assert len(asked) == 2, "when it is closed another listens, and misses nothing between"
    fitted(client, 1)
    expect(second.get_by_text("There is a newer version of the plan.")).to_be_visible()
    context.close()


def test_the_dough_room_says_that_another_plan_is_live(page: Page, client: TestClient) -> None:
    assert client.post("/api/versions/1/publish", json={}).status_code == 201
    page.goto("/dough")
    expect(page.get_by_text("Version 1, 52 batches")).to_be_visible()
    fitted(client, 1)
    assert client.post("/api/versions/2/publish", json={}).status_code == 201
    said = page.get_by_text("These are the cards of version 1; another version is live on the floor.")
    expect(said).to_be_visible()
    expect(page.get_by_text("Version 1, 52 batches")).to_be_visible()
    page.get_by_role("link", name="Show the live cards").click()
    expect(page.get_by_text(re.compile("Version 2, .* batches"))).to_be_visible()
    expect(said).to_have_count(0)


def test_water_that_changes_under_the_reader_is_said_until_it_is_seen(page: Page, client: TestClient) -> None:
    page.goto("/dough/1/R1/1")
    water = page.locator("[data-figure=water-temperature]")
    before = water.inner_text()
    read = client.get("/api/window").json()["conditions"]
    entered = {name: read[name] for name in ("room_c", "flour_c", "tap_c")} | {"flour_c": read["flour_c"] - 1}
    assert client.post("/api/conditions", json=entered).status_code == 201
    said = page.get_by_text("The water of this batch has changed since you opened its card.")
    expect(said).to_be_visible()
    expect(page.get_by_text(re.compile(f"It was .* at {re.escape(before)}; it is .* at {water.inner_text()} now")))
    assert water.inner_text() != before
    page.get_by_role("button", name="Seen").click()
    expect(said).to_have_count(0)


@pytest.mark.refusals
def test_an_absurd_probe_is_asked_about_and_a_wrong_one_withdrawn(page: Page) -> None:
    page.goto("/dough/1/R1/1")
    probe = page.get_by_label("Probe in the dough after mixing")
    probe.fill("46")
    page.get_by_role("button", name="Save", exact=True).click()
    asked = page.get_by_role("alert").filter(has_text="The dough reads 46 °C; usual: 8 °C to 40 °C. Is it so?")
    expect(asked).to_be_visible()
    asked.get_by_role("button", name="Yes, save it so").click()
    expect(page.get_by_text("above the target.")).to_be_visible()
    page.get_by_role("button", name="Withdraw the reading").click()
    page.get_by_label("Why it does not count").fill("read in the bowl")
    page.get_by_role("button", name="Withdraw", exact=True).click()
    expect(page.get_by_role("button", name="Save", exact=True)).to_be_visible()
    expect(page.get_by_text("above the target.")).to_have_count(0)


def test_publishing_what_is_short_is_asked_about_first(page: Page, client: TestClient) -> None:
    fitted(client, 1)
    page.goto("/plan/2")
    expect(page.get_by_text("packs short", exact=True)).to_be_visible()
    page.get_by_role("button", name="Publish", exact=True).click()
    question = page.get_by_role("dialog", name="Publish version 2 all the same?")
    expect(question).to_contain_text("miss their lorry")
    question.get_by_role("button", name="Cancel").click()
    expect(page.get_by_text("version 1 is live on the floor")).to_be_visible()
    page.get_by_role("button", name="Publish", exact=True).click()
    question.get_by_role("button", name="Publish").click()
    expect(page.get_by_text("live on the floor", exact=True)).to_be_visible()


@pytest.mark.refusals
def test_an_edit_that_came_second_is_applied_to_the_newest_with_one_click(page: Page, client: TestClient) -> None:
    """Ida drags while the page's own word of it has not come: refused with what changed, and offered again."""
    page.goto("/plan/1?run=R3")
    expect(page.get_by_role("region", name="Run R3")).to_be_visible()
    page.route("**/api/events", lambda route: route.abort())
    page.reload()
    expect(page.get_by_role("region", name="Run R3")).to_be_visible()
    fitted(client, 1)
    page.get_by_role("button", name="Pin", exact=True).click()
    expect(page.get_by_text("Version 2 has come since:")).to_be_visible()
    page.get_by_role("button", name="Apply it to version 2").click()
    expect(page).to_have_url(re.compile(r"/plan/3\?line=ring-line&run=R3$"))
    expect(page.get_by_role("button", name="Unpin")).to_be_visible()
    assert client.get("/api/versions/3").json()["note"]["parent"] == 2


def test_keys_of_one_letter_can_be_switched_off(page: Page) -> None:
    """WCAG 2.2, success criterion 2.1.4."""
    page.goto("/plan/1")
    expect(page.get_by_role("button", name="Version 1", exact=True)).to_be_visible()
    page.keyboard.press("?")
    page.get_by_label("Keys without Ctrl act").uncheck()
    page.keyboard.press("Escape")
    page.keyboard.press("j")
    page.keyboard.press("3")
    expect(page.get_by_role("region", name="Lorries", exact=True)).to_be_visible()
    page.reload()
    page.keyboard.press("3")
    expect(page).to_have_url(re.compile("/plan/1$"))
    page.get_by_role("button", name="Keys").click()
    page.get_by_label("Keys without Ctrl act").check()
    page.keyboard.press("Escape")
    page.keyboard.press("3")
    expect(page).to_have_url(re.compile("/materials$"))


def test_an_order_line_is_changed_and_cancelled(page: Page) -> None:
    page.goto("/orders")
    lines = page.get_by_role("region", name="Order lines")
    lines.get_by_role("button", name=re.compile("^Change order")).first.click()
    page.get_by_role("dialog").get_by_label("Packs").fill("77")
    page.get_by_role("dialog").get_by_role("button", name="Save").click()
    expect(lines.get_by_role("cell", name="77", exact=True)).to_be_visible()
    expect(page.get_by_text("14 order lines")).to_be_visible()
    lines.get_by_role("button", name=re.compile("^Change order")).first.click()
    page.get_by_role("dialog").get_by_role("button", name="Cancel the order line").click()
    expect(page.get_by_text("13 order lines")).to_be_visible()
