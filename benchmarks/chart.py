"""The ribbon chart in a browser: how long a frame takes while it is drawn closer and moved, the demo against ten of it.

Prints, in one run, milliseconds from opening a link to the first ribbon, and from a turn of the wheel to the picture
painted (median, and what one in ten exceeds), for one line and for all lines, of the demo plant and of ten of it. A
browser without anything to draw takes one frame, 16.7 ms.
"""

import os
import tempfile
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import date
from pathlib import Path
from time import perf_counter

import uvicorn
from plan_plant import tenfold
from playwright.sync_api import Browser, sync_playwright

from rundgang.api.app import create_app
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario
from rundgang.core.whole_plant import WholePlant
from rundgang.demo.ostermere import ostermere
from rundgang.serve import listen, seed
from rundgang.settings import Settings
from rundgang.store.cluster import PrivateCluster
from rundgang.store.database import migrate

CHROMIUM = os.environ.get("CHROMIUM", "/usr/bin/chromium")
FLAGS = [
    *("--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run"),
    *("--disable-background-networking", "--disable-component-update", "--disable-sync"),
]
WHEEL = """async (keys) => {
  const times = [];
  for (let turn = 0; turn < 40; turn++) {
    const begin = performance.now();
    const chart = document.querySelector('svg[aria-label^="Ribbon chart"]');
    const box = chart.getBoundingClientRect();
    chart.dispatchEvent(new WheelEvent("wheel", {
      ...keys, deltaY: turn % 20 < 10 ? -40 : 40, clientX: box.left + box.width / 2, bubbles: true, cancelable: true,
    }));
    await new Promise((done) => requestAnimationFrame(() => setTimeout(done)));
    times.push(performance.now() - begin);
  }
  return times.sort((one, other) => one - other);
}"""


@contextmanager
def served(scenario: Scenario) -> Iterator[str]:
    """The address of an application with the scenario's first plan, over a database of its own."""
    with tempfile.TemporaryDirectory() as folder:
        Path(folder).chmod(0o755)
        with PrivateCluster(Path(folder), durable=False) as urls:
            migrate(urls.owner)
            seed(urls.app, WholePlant(scenario=scenario), stop=after_evaluations(5_000, 5_000))
            app = create_app(urls.app, Settings(hosts=["127.0.0.1"]))
            bound = listen(0)
            server = uvicorn.Server(uvicorn.Config(app, log_config=None, timeout_graceful_shutdown=1))
            thread = threading.Thread(target=server.run, kwargs={"sockets": [bound]})
            thread.start()
            yield f"http://127.0.0.1:{bound.getsockname()[1]}"
            server.should_exit = True
            thread.join()
            app.state.engine.dispose()


def measured(name: str, browser: Browser, address: str) -> None:
    """Open a chart, turn the wheel over it, and print what it took."""
    page = browser.new_page(viewport={"width": 1280, "height": 800})
    begin = perf_counter()
    page.goto(address)
    page.locator("[data-run]").first.wait_for(timeout=60_000)
    opened = perf_counter() - begin
    page.wait_for_timeout(1000)
    print(f"{name}: {page.locator('svg *').count():,} shapes, first ribbon after {opened:.2f} s")
    for what, keys in (("drawn closer and wider", {"ctrlKey": True}), ("moved", {"shiftKey": True})):
        page.get_by_role("button", name="Closer").click()
        times = page.evaluate(WHEEL, keys)
        print(f"  {what}: {times[len(times) // 2]:.0f} ms a frame, one in ten {times[-4]:.0f} ms or more")
    page.close()


def main() -> None:
    """Print the table."""
    demo = ostermere(date(2026, 3, 11))
    plan_plant(demo, stop=after_evaluations(1, 1))
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        with served(demo) as address:
            measured("one line of the demo", browser, f"{address}/plan?line=ring-line")
            measured("all lines of the demo", browser, f"{address}/plan?line=all")
        with served(tenfold(demo)) as address:
            measured("one line of ten of it", browser, f"{address}/plan?line=ring-line-0")
            measured("all lines of ten of it", browser, f"{address}/plan?line=all")
        browser.close()


if __name__ == "__main__":
    main()
