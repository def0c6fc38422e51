"""From an instrument to the screen: ten browsers look at lines of the demo, and every station reads something new.

Each second all instruments of the demo's stations change over OPC UA; of one on each line, every value is another than
all before it. Each browser notes when it first shows such a value. Everything shares this machine.
"""

import argparse
import asyncio
import shutil
import time

from playwright.async_api import Browser, Page, async_playwright
from readings import WITHOUT_PLANT, instruments, served, tell

from rundgang.core.floor.instruments import Signal
from rundgang.store.cluster import Urls

BROWSERS = 10
FLAGS = (
    "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync",
)  # fmt: skip

NOTES = r"""
window.shownAt = {};
new MutationObserver((changes) => {
  for (const { target } of changes) {
    const shown = (target.closest ? target : target.parentElement)?.closest("dd")?.textContent ?? "";
    for (const [, figure] of shown.matchAll(/(\d+\.\d) °C/g)) window.shownAt[figure] ??= Date.now();
  }
}).observe(document, { subtree: true, childList: true, characterData: true });
"""


async def looked(browser: Browser, port: int, line: str) -> Page:
    """A browser of its own that shows a line now, and notes when it shows what."""
    page = await (await browser.new_context(locale="en-GB")).new_page()
    await page.add_init_script(NOTES)
    await page.goto(f"http://127.0.0.1:{port}/now?line={line}")
    await page.get_by_role("heading", name="Instruments").wait_for(timeout=60_000)
    return page


async def delays(urls: Urls, port: int, seconds: int) -> tuple[list[float], int, int]:
    """How long values took to the screen, s, sorted; how many never came; how many instruments changed."""
    took, lost = list[float](), 0
    async with instruments(urls) as (server, nodes), async_playwright() as playwright:
        watched = one_by_line(list(nodes))
        browser = await playwright.chromium.launch(executable_path=shutil.which("chromium"), args=list(FLAGS))
        lines = [list(watched)[number % len(watched)] for number in range(BROWSERS)]
        pages = [(line, await looked(browser, port, line)) for line in lines]
        await asyncio.sleep(5)
        told = dict[str, float]()
        for second in range(seconds):
            begin, value = time.perf_counter(), f"{100 + second / 10:.1f}"
            for signal, node in nodes.items():
                if watched.get(signal.line) != signal:
                    await tell(server, node, float(second))
            told[value] = time.time()
            for signal in watched.values():
                await tell(server, nodes[signal], float(value))
            await asyncio.sleep(max(0.0, 1 - (time.perf_counter() - begin)))
        await asyncio.sleep(5)
        for _, page in pages:
            shown = await page.evaluate("window.shownAt")
            took.extend(shown[value] / 1000 - at for value, at in told.items() if value in shown)
            lost += sum(value not in shown for value in told)
        await browser.close()
    return sorted(took), lost, len(nodes)


def one_by_line(signals: list[Signal]) -> dict[str, Signal]:
    """A temperature of each line."""
    return {signal.line: signal for signal in signals if signal.quantity == "temperature" and not signal.zone}


def main() -> None:
    """Print the figures."""
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--seconds", type=int, default=60)
    seconds = options.parse_args().seconds
    with served(WITHOUT_PLANT) as (urls, port, _):
        took, lost, changed = asyncio.run(delays(urls, port, seconds))
    median, near = took[len(took) // 2], took[int(0.95 * (len(took) - 1))]
    print(f"{changed} instruments change each second, {BROWSERS} browsers look: {len(took)} values seen, {lost} not")
    print(
        f"to the screen: {median * 1000:.0f} ms in the median, {near * 1000:.0f} at 95 %, {took[-1] * 1000:.0f} at most"
    )


if __name__ == "__main__":
    main()
