"""A real server and a real browser: Chromium from Debian's packages, driven through Playwright."""

import os
import threading
from collections.abc import Iterator

import pytest
import uvicorn
from fastapi import FastAPI
from playwright.sync_api import Browser, Page, expect, sync_playwright

from rundgang.serve import listen

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
def address(app: FastAPI) -> Iterator[str]:
    """The application over the test's own database, on a loopback port."""
    bound = listen(0)
    server = uvicorn.Server(uvicorn.Config(app, log_config=None, timeout_graceful_shutdown=1))
    thread = threading.Thread(target=server.run, kwargs={"sockets": [bound]})
    thread.start()
    yield f"http://127.0.0.1:{bound.getsockname()[1]}"
    server.should_exit = True
    thread.join()


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
    expect.set_options(timeout=10_000)
    yield opened
    opened.close()
    if request.node.get_closest_marker("refusals"):
        problems = [text for text in problems if "Failed to load resource" not in text]
    assert problems == []
