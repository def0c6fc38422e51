"""Speed as it is felt: a cold browser opens pages of the demo, this machine alone, the programs' own start over.

Prints, over several cold starts, the median and the worst of: milliseconds until a page shows what it is for; the
longest task that kept it from answering (Long Tasks API); and how much of it jumped (Layout Instability API, as
cumulative layout shift). The browser has a new profile each time, server and browser share this machine.
"""

import argparse
from collections.abc import Sequence
from statistics import median
from time import sleep
from typing import NamedTuple

from load import served
from playwright.sync_api import Browser, sync_playwright

CHROMIUM = "/usr/bin/chromium"
FLAGS = [
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
    "--disable-background-networking", "--disable-component-update", "--disable-sync",
]  # fmt: skip
WATCH = """
window.felt = {shown: null, longest: 0, shift: 0};
new PerformanceObserver(list => {
  for (const task of list.getEntries()) felt.longest = Math.max(felt.longest, task.duration);
}).observe({type: 'longtask', buffered: true});
new PerformanceObserver(list => {
  for (const one of list.getEntries()) if (!one.hadRecentInput) felt.shift += one.value;
}).observe({type: 'layout-shift', buffered: true});
const look = () => {
  if (felt.shown === null && document.querySelector('%s')) felt.shown = performance.now();
  if (felt.shown === null) requestAnimationFrame(look);
};
requestAnimationFrame(look);
"""
SERVED_S = 20
"""So long the application has for itself: its worker, its collector and the simulated plant start behind it."""

STARTED_MS = 3_000
"""So long a browser has for itself: it loads pages of its own when it starts."""

SETTLED_MS = 1_500
"""So long a page is watched after it shows what it is for."""


class Page(NamedTuple):
    """A page, what it shows, and what it is for, as a selector."""

    name: str
    path: str
    shows: str


class Felt(NamedTuple):
    """Milliseconds until it shows, the longest task, ms, and the layout shift."""

    shown: float
    longest: float
    shift: float


PAGES = (
    Page("first ribbon", "/plan?line=ring-line", "[data-run]"),
    Page("ribbons of all lines", "/plan?line=all", "[data-run]"),
    Page("batch card", "/dough?line=bread-line", "article"),
    Page("orders", "/orders", "table"),
    Page("materials", "/materials", "table"),
    Page("print of the largest line", "/print?line=bread-line", "[data-sheet]"),
)


def felt(browser: Browser, address: str, page: Page) -> Felt:
    """One cold visit."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, locale="en-GB")
    tab = context.new_page()
    tab.wait_for_timeout(STARTED_MS)
    tab.add_init_script(WATCH % page.shows.replace("'", "\\'"))
    tab.goto(f"{address}{page.path}")
    while tab.evaluate("felt.shown") is None:
        tab.wait_for_timeout(50)
    tab.wait_for_timeout(SETTLED_MS)
    found = tab.evaluate("[felt.shown, felt.longest, felt.shift]")
    context.close()
    return Felt(*map(float, found))


def said(figures: Sequence[float], form: str) -> str:
    """The median and the worst."""
    return f"{median(figures):{form}} / {max(figures):{form}}"


def main() -> None:
    """Print the table."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--starts", type=int, default=5, help="cold starts of each page")
    starts = asked.parse_args().starts
    with served() as port, sync_playwright() as playwright:
        sleep(SERVED_S)
        print(f"{'median / worst':<28}{'shown, ms':>18}{'longest task, ms':>20}{'layout shift':>18}")
        for page in PAGES:
            found = list[Felt]()
            for _ in range(starts):
                browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
                found.append(felt(browser, f"http://127.0.0.1:{port}", page))
                browser.close()
            shown, longest, shift = zip(*found, strict=True)
            print(
                f"{page.name:<28}{said(shown, '.0f'):>18}{said(longest, '.0f'):>20}{said(shift, '.3f'):>18}",
                flush=True,
            )


if __name__ == "__main__":
    main()
