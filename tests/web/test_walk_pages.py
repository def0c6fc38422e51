"""The walk on its page: one tap, one figure, with a network and without; the checks it comes from; and on paper."""

import os
import re
import signal
import time
from collections.abc import Iterator
from contextlib import suppress
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import pytest
from fastapi import FastAPI
from playwright.sync_api import Browser, BrowserContext, Error, Locator, Page, expect

from axe import violations_here
from conftest import served
from rundgang.api.app import create_app
from rundgang.clock import Clock
from rundgang.settings import Settings
from rundgang.store.cluster import Urls
from web.conftest import CHROMIUM, FLAGS

SHOWS = datetime(2026, 3, 11, 1, tzinfo=UTC)
"""When the ring line is at work."""

ENTRIES = int(os.environ.get("SOAK_ENTRIES", "24"))
"""So many are made without a network."""

TABLET = {"width": 820, "height": 1180}


def walk_app(urls: Urls) -> FastAPI:
    return create_app(urls.app, Settings(hosts=["testserver", "127.0.0.1"], clock_shows=SHOWS))


@pytest.fixture
def app(urls: Urls) -> Iterator[FastAPI]:
    """The application, by whose clock the line is at work."""
    made = walk_app(urls)
    yield made
    made.state.engine.dispose()


def begin(page: Page, path: str, name: str = "Jonte") -> None:
    page.set_viewport_size({"width": 820, "height": 1180})
    page.goto(path)
    page.get_by_label("Who walks?").fill(name)
    page.get_by_role("button", name="Begin the walk").click()


def check(page: Page, name: str) -> Locator:
    """A check at the stop on the page; one that comes next is opened."""
    card = page.get_by_role("article", name=name, exact=True)
    expect(card).to_be_attached()
    if not card.is_visible():
        page.locator("summary").click()
    return card


def figure_of(card: Locator, figures: str) -> None:
    if card.get_by_role("textbox").count() == 0:
        card.get_by_role("button", name="Enter a figure").click()
    press(card, figures)


def lasting(page: Page, address: str) -> tuple[str, str, list[str]]:
    """A check by one tap that stays what it is for some minutes: its station, its name, its words."""
    found = page.request.get(f"{address}/api/rounds?line=ring-line").json()
    now = found["now_min"]
    return next(
        (stop["station"], one["inspection"]["name"], [asks["good"], *asks["bad"]])
        for stop in found["round"]["stops"]
        for one in stop["checks"]
        if (asks := one["inspection"]["asks"])["kind"] == "chosen"
        for due in one["due"]
        if due["due_min"] <= now and due["until_min"] >= now + 12 and one["due"][-1] != due
    )


def press(card: Locator, figures: str, last: str = "Enter") -> None:
    for figure in figures:
        card.get_by_role("button", name=figure, exact=True).click()
    card.get_by_role("button", name=last, exact=True).click()


def entries(page: Page, count: int) -> list[dict[str, Any]]:
    """What is stored, once it is so much."""
    for _ in range(50):
        found: list[dict[str, Any]] = page.request.get("/api/rounds/entries?line=ring-line").json()
        if len(found) >= count:
            break
        page.wait_for_timeout(100)
    return found


def test_a_stop_takes_one_tap_or_one_figure(page: Page) -> None:
    begin(page, "/walk/ring-line/oven")
    expect(page.get_by_role("heading", name="Steam oven")).to_be_visible()
    rail = page.get_by_role("navigation", name="Stops of the walk")
    expect(rail.get_by_role("button")).to_have_count(8)
    colour = check(page, "Colour against the card")
    colour.get_by_role("button", name="as the card").click()
    expect(colour).to_contain_text(re.compile(r"as the card ✓.*stored"))
    heat = check(page, "Oven temperature")
    figure_of(heat, "236.4")
    expect(heat).to_contain_text(re.compile(r"236\.4 °C ✓.*stored"))
    expect(page.get_by_role("status")).to_contain_text("all entries are stored")
    assert [(one["says"], one["good"], one["author"]) for one in entries(page, 2)] == [
        ("as the card", True, "Jonte"),
        ("236.4 °C", True, "Jonte"),
    ]
    assert violations_here(page) == []
    sizes = page.get_by_role("button").evaluate_all("all => all.map(one => one.getBoundingClientRect().height)")
    assert min(sizes) >= 47, "at least 48 px, but for rounding"


def test_what_is_out_says_what_to_do_and_what_is_held(page: Page) -> None:
    begin(page, "/walk/ring-line/bagger")
    seal = check(page, "Seal")
    seal.get_by_role("button", name="leaks").click()
    expect(seal.get_by_role("alert")).to_contain_text("Stop the packer, hold what has passed")
    expect(seal.get_by_role("alert")).to_contain_text("held until it is released")
    held = page.get_by_role("heading", name=re.compile("Held: Seal, leaks"))
    expect(held).to_be_visible(timeout=15_000)
    expect(page.get_by_text("Foreign bodies")).to_be_visible()
    seal.get_by_role("button", name="enter again").click()
    seal.get_by_role("button", name="tight").click()
    expect(seal).to_contain_text("tight ✓")
    assert [one["says"] for one in entries(page, 2)] == ["leaks", "tight"], "nothing that was entered is lost"


def test_an_odd_figure_is_asked_once_and_an_impossible_one_refused(page: Page) -> None:
    begin(page, "/walk/ring-line/oven")
    core = check(page, "Core as it leaves the oven")
    figure_of(core, "250")
    expect(core.get_by_role("alert")).to_contain_text("250.0 °C cannot be. Allowed: -25.0 °C to 112.0 °C.")
    for _ in range(3):
        core.get_by_role("button", name="delete the last figure").click()
    press(core, "45")
    expect(core.get_by_role("alert")).to_contain_text(re.compile(r"45\.0 °C is far from usual.*Is it so\?"))
    core.get_by_role("button", name="No, again").click()
    press(core, "45")
    core.get_by_role("button", name="Yes, it is so").click()
    expect(core.get_by_role("alert")).to_contain_text("bake longer")
    assert [(one["says"], one["good"]) for one in entries(page, 1)] == [("45 °C", False)]


def test_what_cannot_be_taken_is_said_with_why(page: Page) -> None:
    begin(page, "/walk/ring-line/oven")
    shape = check(page, "Height, shape and shine")
    shape.get_by_role("button", name="cannot take it").click()
    shape.get_by_label("Why it cannot be taken").fill("window steamed up")
    shape.get_by_role("button", name="Enter that").click()
    expect(shape).to_contain_text("could not be taken")
    expect(page.get_by_role("status")).to_contain_text("all entries are stored")
    assert [(one["good"], one["note"]) for one in entries(page, 1)] == [(None, "window steamed up")]


@pytest.fixture
def tablet(browser: Browser, tmp_path: Path) -> Iterator["Tablet"]:
    found = Tablet(browser, tmp_path / "profile")
    yield found
    found.context.close()


class Tablet:
    """A browser with a profile of its own, that can be killed and started again."""

    def __init__(self, browser: Browser, profile: Path) -> None:
        self._kind, self.profile = browser.browser_type, profile
        self.context: BrowserContext
        self.start()

    def start(self) -> None:
        self.context = self._kind.launch_persistent_context(
            str(self.profile),
            executable_path=CHROMIUM,
            args=FLAGS,
            viewport={"width": 820, "height": 1180},
            locale="en-GB",
        )

    def kill(self) -> None:
        """As a battery that is pulled out: every process of the browser ends at once."""
        for folder in Path("/proc").glob("[0-9]*"):
            try:
                said = (folder / "cmdline").read_bytes().decode(errors="replace")
            except OSError:
                continue
            if f"--user-data-dir={self.profile}" in said and "--type=" not in said:
                end_group(int(folder.name))
        with suppress(Error):  # it may have been noticed already that the browser is gone
            self.context.close()


def end_group(leader: int) -> None:
    """Kill a browser with its renderers, and wait until none of them holds its profile any more."""
    os.killpg(leader, signal.SIGKILL)
    until = time.monotonic() + 30
    while any(group_of(folder) == leader for folder in Path("/proc").glob("[0-9]*")):
        assert time.monotonic() < until, "the killed browser is still there"
        time.sleep(0.05)


def group_of(folder: Path) -> int | None:
    """The group of a process that is not yet gone."""
    try:
        state, _, group = (folder / "stat").read_text().rpartition(")")[2].split()[:3]
    except OSError:
        return None
    return None if state == "Z" else int(group)


def test_without_a_network_nothing_is_lost_though_the_browser_is_killed(urls: Urls, tablet: "Tablet") -> None:
    """Entries of an hour, the browser killed half-way: all arrive, once, in order, each with its own time."""
    first = walk_app(urls)
    with served(first) as address:
        page = tablet.context.new_page()
        station, name, words = lasting(page, address)
        begin(page, f"{address}/walk/ring-line/{station}")
        expect(check(page, name)).to_be_visible()
        page.wait_for_function("navigator.serviceWorker.ready.then(() => true)")
        page.wait_for_timeout(500)
    first.state.engine.dispose()
    made = list[str]()
    for part in range(2):
        card = check(page, name)
        for number in range(ENTRIES // 2):
            if made:
                card.get_by_role("button", name="enter again").click()
            word = words[number % len(words)]
            card.get_by_role("button", name=word, exact=True).click()
            made.append(word)
            expect(page.get_by_role("status")).to_contain_text(
                re.compile(rf"{len(made)} entr(y waits|ies wait) for the network")
            )
            page.wait_for_timeout(20)
        if part == 0:
            tablet.kill()
            tablet.start()
            page = tablet.context.new_page()
            page.goto(f"{address}/walk/ring-line/{station}")
            expect(page.get_by_role("status")).to_contain_text("No network")
    again = walk_app(urls)
    again.state.clock = Clock(SHOWS + timedelta(hours=1))
    with served(again, urlsplit(address).port or 0):
        expect(page.get_by_role("status")).to_contain_text("all entries are stored", timeout=30_000)
        found = page.request.get(f"{address}/api/rounds/entries?line=ring-line").json()
    again.state.engine.dispose()
    assert [one["word"] for one in found] == made
    moments = [datetime.fromisoformat(one["at"]) for one in found]
    assert moments == sorted(moments)
    assert len({*moments}) == len(made), "each has a time of its own"
    assert SHOWS <= moments[0] <= moments[-1] <= SHOWS + timedelta(minutes=20)


def test_a_sheet_is_printed_and_typed_in(page: Page) -> None:
    page.goto("/sheet?line=ring-line")
    expect(page.get_by_role("heading", name="Round sheet, Ring line")).to_be_visible()
    assert violations_here(page) == []
    rows = page.get_by_role("row")
    expect(rows.nth(5)).to_be_visible()
    page.get_by_label("Walked by").fill("Ida")
    page.get_by_label(re.compile("^Steam oven, Colour against the card")).first.select_option("darker")
    page.get_by_label(re.compile("^Steam oven, Oven temperature")).first.fill("900")
    page.get_by_role("button", name="Enter what is typed").click()
    expect(page.get_by_role("alert")).to_contain_text("“900” cannot be; allowed: 0.0 to 450.0 °C.")
    page.get_by_label(re.compile("^Steam oven, Oven temperature")).first.fill("235,5")
    page.get_by_role("button", name="Enter what is typed").click()
    expect(page.get_by_text("1 taken.")).to_be_visible()
    assert [(one["says"], one["author"], one["note"]) for one in entries(page, 2)] == [
        ("darker", "Ida", "from a sheet"),
        ("235.5 °C", "Ida", "from a sheet"),
    ]
    core = page.get_by_label(re.compile("^Steam oven, Core")).first
    core.fill("55")
    page.get_by_role("button", name="Enter what is typed").click()
    expect(page.get_by_role("alert")).to_contain_text("55 is far from usual. If it is so, enter it once more.")
    page.get_by_label(re.compile("^Time of Steam oven, Core")).first.fill("02:45")
    page.get_by_role("button", name="Enter what is typed").click()
    expect(page.get_by_role("alert")).to_contain_text("02:45 is still to come; allowed: a time up to now.")
    page.get_by_label(re.compile("^Time of Steam oven, Core")).first.fill("01:20")
    page.get_by_role("button", name="Enter what is typed").click()
    expect(page.get_by_text("1 taken.")).to_be_visible()
    assert entries(page, 3)[0]["says"] == "55 °C"
    page.emulate_media(media="print")
    expect(page.get_by_role("button", name="Enter what is typed")).to_be_hidden()
    expect(page.get_by_text("Walked by")).to_be_visible()


def test_checks_are_defined_by_the_plant(page: Page) -> None:
    page.goto("/checks?line=ring-line")
    oven = page.get_by_role("region", name="Steam oven")
    expect(oven).to_contain_text("oven temperature, -6.0 to 6.0 K from the product's own")
    oven.get_by_role("button", name="Remove Height, shape and shine").click()
    expect(oven.get_by_role("button", name="+ Height, shape and shine")).to_be_visible()
    oven.get_by_role("button", name="New check").click()
    dialog = page.get_by_role("dialog", name="Check at Steam oven")
    dialog.get_by_label("Name").fill("Steam at the door")
    dialog.get_by_label("Every so many minutes").fill("45")
    dialog.get_by_label("The good word").fill("none")
    dialog.get_by_label(re.compile("What may be wrong")).fill("some, much")
    dialog.get_by_label("What to do when it is out").fill("Call the fitter.")
    assert violations_here(page) == []
    dialog.get_by_role("button", name="Done").click()
    expect(oven).to_contain_text("every 45 min")
    expect(oven).to_contain_text("none; or some, much")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_role("button", name="Save")).to_be_disabled()
    assert violations_here(page) == []
    begin(page, "/walk/ring-line/oven")
    expect(page.get_by_role("heading", name="Steam at the door")).to_be_attached()
    expect(page.get_by_role("heading", name="Height, shape and shine")).to_have_count(0)


def test_the_walk_bar_says_what_is_late(page: Page) -> None:
    page.goto("/now?line=ring-line")
    walk = page.get_by_role("link", name=re.compile("^Walk"))
    expect(walk).to_contain_text(re.compile(r"\d+ late"))
    walk.click()
    expect(page.get_by_label("Who walks?")).to_be_visible()


def test_pieces_are_pulled_with_a_number_and_one_tap_without_a_network_too(browser: Browser, address: str) -> None:
    page = browser.new_context(base_url=address, viewport={"width": 820, "height": 1180}).new_page()
    begin(page, "/walk/ring-line/divider")
    page.get_by_text("Pull pieces off here").click()
    pull = page.locator("details", has_text="Pull pieces off here")
    page.context.set_offline(True)
    for figure in "12":
        pull.get_by_role("button", name=figure, exact=True).click()
    pull.get_by_role("button", name="Next: why").click()
    boxes = [one.bounding_box() for one in pull.get_by_role("button").all()]
    assert min(box["height"] for box in boxes if box) >= 48, "targets of at least 48 px"
    pull.get_by_role("button", name="shape", exact=True).click()
    expect(pull).to_contain_text("12 pieces, shape, Jonte")
    assert page.request.get(f"{address}/api/rounds?line=ring-line").json()["pulled"] == []
    page.context.set_offline(False)
    expect(page.get_by_text("all entries are stored")).to_be_visible(timeout=30_000)
    (pulled,) = page.request.get(f"{address}/api/rounds?line=ring-line").json()["pulled"]
    assert (pulled["pieces"], pulled["cause"], pulled["author"]) == (12, "shape", "Jonte")
    assert violations_here(page) == []
    page.context.close()
