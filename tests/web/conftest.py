"""A real server and a real browser: Chromium from Debian's packages, driven through Playwright."""

import os
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

CHROMIUM = os.environ.get("CHROMIUM", "/usr/bin/chromium")
FLAGS = [
    *("--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run"),
    *("--disable-background-networking", "--disable-component-update", "--disable-sync"),
]
NOW = "2026-03-11T02:05:00+01:00"


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        opened = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        yield opened
        opened.close()


@pytest.fixture
def page(request: pytest.FixtureRequest, browser: Browser, address: str) -> Iterator[Page]:
    """A page that fails the test when a script does, or when a request would leave the machine."""
    opened = browser.new_page(
        base_url=address, viewport={"width": 1280, "height": 800}, reduced_motion="reduce", locale="en-GB"
    )
    opened.clock.set_fixed_time(NOW)
    problems: list[str] = []
    opened.on("pageerror", lambda error: problems.append(str(error)))
    opened.on("console", lambda said: problems.append(said.text) if said.type == "error" else None)
    opened.on(
        "request",
        lambda request: problems.append(request.url) if not request.url.startswith((address, "data:")) else None,
    )
    expect.set_options(timeout=30_000)
    yield opened
    opened.close()
    if request.node.get_closest_marker("refusals"):
        problems = [text for text in problems if "Failed to load resource" not in text]
    assert problems == []
