"""Takes a picture of each main view on the demo day: `script/shots [--out FOLDER] [NAME …]`."""

import argparse
import os
import re
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from pathlib import Path
from uuid import uuid4

from playwright.sync_api import Page, sync_playwright

from rundgang.store.cluster import free_port

ROOT = Path(__file__).resolve().parents[1]
DAY = "2026-03-11"
NOW = "2026-03-10T19:30:00+01:00"
NIGHT = "2026-03-11T00:40:00+01:00"
"""When the clock of the plant at work begins."""

CHROMIUM = os.environ.get("CHROMIUM", "/usr/bin/chromium")
FLAGS = [
    *("--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking"),
    *("--disable-component-update", "--disable-sync"),
]
FAULTY = """order,dispatch,product,packs
4201,2026-03-11 05:45,Lantern Plain,300
4202,2026-03-11 05:50,Harvest Sesame,120
4203,2026-03-11 12:00,Plum ring,80
4204,2026-03-11 12:00,Pear & Cardamom,-40
4205,2026-03-11 12:00,Pear & Cardamom,160
"""


def orders(page: Page) -> None:
    """The orders with a file read and its wrong rows named."""
    page.goto("/orders")
    page.get_by_role("button", name="Import orders").click()
    page.get_by_label("Rows pasted from a sheet").fill(FAULTY)
    page.get_by_role("button", name="Read the pasted rows").click()
    page.get_by_text("Nothing has been imported yet").wait_for()


def closer(page: Page, times: int) -> None:
    """Zoom the plan towards its beginning."""
    for _ in range(times):
        page.keyboard.press("+")
    for _ in range(14):
        page.keyboard.press("ArrowLeft")


def plan(page: Page) -> None:
    """The ring line's first day with a run chosen."""
    page.goto("/plan/1?line=ring-line&run=R3")
    page.get_by_text("The window opens").wait_for()
    closer(page, 3)


def materials(page: Page) -> None:
    """An item that runs out."""
    page.goto("/materials")
    page.get_by_text("Runs out on").wait_for()


def line(page: Page) -> None:
    """The line at a product's target."""
    page.goto("/line/doughnut-line/buoy-vanilla")
    page.get_by_text("One change").wait_for()


def odds(page: Page) -> None:
    """How sure the ring line's plan is, and what it costs that its last lorry is surer."""
    page.goto("/odds?line=ring-line")
    panel = page.get_by_role("region", name="What sureness costs")
    panel.wait_for()
    lorries = panel.get_by_label("lorry").locator("option")
    panel.get_by_label("lorry").select_option(index=lorries.count() - 1)
    panel.get_by_label("complete on").fill("50")
    panel.get_by_role("button", name="Plan for 50 %").click()
    panel.get_by_role("button", name="Stop").wait_for()
    panel.get_by_role("button", name="Stop").wait_for(state="detached", timeout=90_000)
    page.get_by_role("button", name="Close").click()
    page.evaluate("window.scrollTo(0, 0)")


def plant(page: Page) -> None:
    """The ring line as the walk, a colder core asked of the cooling spiral, and what that does to the plan."""
    page.goto("/plant/lines/ring-line?as=harvest-sesame&station=cooler")
    page.get_by_text("A cooling that was measured").click()
    page.get_by_label("To", exact=True).fill("33")
    page.get_by_text("in its order").wait_for()
    page.evaluate("window.scrollTo(0, 0)")


def dough(page: Page) -> None:
    """A batch card with a late addition."""
    for batch, reading in (("1", "26.2"), ("2", "25.9"), ("3", "25.3")):
        page.goto(f"/dough/1/R2/{batch}")
        page.get_by_label("Probe in the dough after mixing").fill(reading)
        page.get_by_role("button", name="Save").click()
        page.get_by_text("the target.").wait_for()
    page.goto("/dough/1/R2/4")
    page.get_by_role("heading", name="Water for this batch").wait_for()


def calculators(page: Page) -> None:
    """A calculator with the weights of a sample."""
    page.goto("/calculators/weights")
    page.get_by_text("rules are kept").wait_for()


def calendar(page: Page) -> None:
    """The lorries of the coming weeks and the timetable; one is about to be moved."""
    page.goto("/calendar")
    page.get_by_role("button", name="Move Depot south, Thu").first.click()
    page.get_by_label("leaves").and_(page.locator("input[type=datetime-local]")).first.fill("2026-03-12T10:30")
    page.get_by_text("Changed, not saved yet").wait_for()


VIEWS = {view.__name__: view for view in (orders, plan, materials, line, odds, dough, plant, calculators, calendar)}


def now(page: Page) -> None:
    """The ring line at work, after an hour and a half of the simulated plant."""
    page.goto("/now?line=ring-line")
    page.get_by_role("heading", name="Made and planned by the hour, packs").wait_for()


def instruments(page: Page) -> None:
    """The simulated plant's instruments, one of them asked."""
    page.goto("/instruments")
    page.get_by_role("button", name="Ask Divider, weight").click()
    page.get_by_role("status").get_by_text(" g").wait_for()


HOURS_MS = 180_000
"""So long a plant at work is left alone before its hours are told: three of them."""


def account(page: Page) -> None:
    """The doughnut line's last hours, with a cause for each missing pack."""
    page.wait_for_timeout(HOURS_MS)
    page.goto("/account?line=doughnut-line")
    page.get_by_role("heading", name="By cause").wait_for()


WARMER_K = (1.0, 1.4, 0.9, 1.2, 1.1, 0.8, 1.3, 1.0)
"""So much warmer than wanted doughs were found, K."""


def learning(page: Page) -> None:
    """What doughs and counters have taught about the ring line, two figures chosen."""
    newest = page.request.get("/api/plans/newest?line=ring-line&floor=true").json()
    number, runs = newest["number"], newest["plan"]["runs"]
    library = page.request.get("/api/library").json()["library"]
    wanted = {product["id"]: product["dough_temperature_c"] for product in library["products"]}
    for run in runs[:6]:
        for batch, off in zip(run["batches"], WARMER_K, strict=False):
            path = f"/api/plans/{number}/cards/{run['id']}/{batch['number']}/probe"
            page.request.post(path, data={"dough_c": wanted[run["product"]] + off, "confirmed": True})
    page.goto("/learning?line=ring-line")
    page.get_by_role("checkbox").nth(0).check()
    page.get_by_role("checkbox").nth(1).check()
    page.get_by_role("heading", name="2 figures chosen").wait_for()
    page.get_by_role("button", name="Take into the library").wait_for()
    page.wait_for_timeout(8_000)


MEASURED = (235.1, 234.6, 236.2, 235.8, 237.0, 236.4, 237.6, 238.2)
"""What somebody has measured on the rounds before, °C."""


def walk(page: Page) -> None:
    """A stop of the walk on a tablet: what is due, what was last, one hand."""
    found = page.request.get("/api/rounds?line=ring-line").json()
    oven = next(stop for stop in found["round"]["stops"] if stop["station"] == "oven")
    heat = next(check for check in oven["checks"] if check["inspection"]["name"] == "Oven temperature")
    past = [due for due in heat["due"] if due["until_min"] <= found["now_min"]]
    begins = datetime.fromisoformat(found["window"]["starts_at"])
    entries = [
        {
            "uuid": str(uuid4()),
            "window": found["number"],
            "version": found["inspections"],
            "inspection": heat["inspection"]["id"],
            "occasion": f"{due['key']}",
            **{name: due[name] for name in ("run", "product", "batch")},
            "at": (begins + timedelta(minutes=due["due_min"] + 2)).isoformat(),
            "measured": [measured],
            "author": "Jonte",
        }
        for due, measured in zip(past, MEASURED, strict=False)
    ]
    if entries:
        page.request.post("/api/rounds/entries", data={"entries": entries})
    page.set_viewport_size({"width": 820, "height": 1180})
    page.goto("/walk/ring-line/oven")
    page.get_by_label("Who walks?").fill("Jonte")
    page.get_by_role("button", name="Begin the walk").click()
    page.get_by_role("heading", name="Steam oven").wait_for()


def stop(page: Page) -> None:
    """A station stands: what to do now, what is where, and the options as they come."""
    page.goto("/now?line=ring-line")
    page.get_by_role("button", name="Something stopped").click()
    page.get_by_role("dialog").get_by_role("button", name="Proofer").click()
    page.get_by_role("button", name="Say the cause").click()
    page.get_by_role("button", name="drive", exact=True).click()
    page.get_by_role("button", name="chain or belt").click()
    page.get_by_text("cheapest for the likely time").wait_for()


def weigh(page: Page) -> None:
    """A batch that is weighed up on a tablet: the first ingredient is asked for, out of the oldest lot."""
    record(page, "flour")
    day = page.request.get("/api/window").json()
    runs = page.request.get("/api/plans/newest?line=bread-line&floor=true").json()["plan"]["runs"]
    run, batch = next(
        (run["id"], batch["number"]) for run in runs for batch in run["batches"] if batch["start_min"] > day["now_min"]
    )
    page.set_viewport_size({"width": 820, "height": 1180})
    page.goto(f"/weigh/bread-line/{run}/{batch}")
    page.get_by_role("button", name="from the simulated scale").wait_for(timeout=60_000)


def record(page: Page, words: str) -> str:
    """The address of the first lot with some words on its label, once there is one."""
    for _ in range(60):
        found = page.request.get(f"/api/lots?words={words}&most=500").json()
        if found:
            return f"/lots/{found[0]['lot']['number']}"
        page.wait_for_timeout(1_000)
    raise AssertionError(words)


def lot(page: Page) -> None:
    """A bag of a filled doughnut, with its way from the flour, some of it on a lorry."""
    page.goto(record(page, "doughnut-line packs"))
    page.get_by_role("heading", name="Its way").wait_for()


def dispatch(page: Page) -> None:
    """A lorry that is loaded: the oldest packs first."""
    record(page, "packs")
    page.goto("/dispatch")
    page.get_by_role("button", name=re.compile("^Load the oldest")).first.click()
    page.get_by_text("on it").first.wait_for()


WEIGHED = (97.0, 96.8, 97.1, 96.7, 97.2, 96.9, 97.0, 97.1, 96.8, 97.0, 97.2, 97.6, 97.9, 98.1)
"""What somebody has weighed at the divider before, g: the mean of five; it drifts in the end."""


def quality(page: Page) -> None:
    """The ring line's charts: a divider that drifts, and what to do about it."""
    found = page.request.get("/api/rounds?line=ring-line").json()
    stops = (stop for stop in found["round"]["stops"] for check in stop["checks"])
    stop_ = next(stop for stop in stops if stop["station"] == "divider")
    check = next(one for one in stop_["checks"] if one["inspection"]["name"] == "Scaled weight")
    due = next(due for due in check["due"] if due["low"] is not None)
    aim, now_at = (due["low"] + due["high"]) / 2, datetime.fromisoformat(found["window"]["starts_at"])
    now_at += timedelta(minutes=found["now_min"])
    entries = [
        {
            "uuid": str(uuid4()),
            "window": found["number"],
            "version": found["inspections"],
            "inspection": check["inspection"]["id"],
            "occasion": due["key"],
            **{name: due[name] for name in ("run", "product", "batch")},
            "at": (now_at - timedelta(minutes=20 * (len(WEIGHED) - place))).isoformat(),
            "measured": [round(aim * mean / 97 + off, 1) for off in (-0.9, -0.3, 0.1, 0.4, 0.7)],
            "author": "Jonte",
        }
        for place, mean in enumerate(WEIGHED)
    ]
    page.request.post("/api/rounds/entries", data={"entries": entries})
    page.goto("/quality?line=ring-line")
    page.get_by_text("Move the divider").first.wait_for()


FLOOR: dict[str, Callable[[Page], None]] = {view.__name__: view for view in (now, instruments, account, learning)}
"""Views of a plant at work."""

SHIFT: dict[str, Callable[[Page], None]] = {view.__name__: view for view in (walk, weigh, lot, dispatch, quality, stop)}
"""Views of people at work, by a clock that goes as theirs does."""

ROUND = "2026-03-11T02:56:00+01:00"
"""When that clock begins."""

HEARD_S = 15
"""So long the instruments are listened to before, s."""

AT_WORK_S = 90
"""So long it works, sixty times as fast as the clock, before its pictures are taken, s."""


def main() -> None:
    """Start the application on the demo day, take the pictures, stop it."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("names", nargs="*", choices=[[], *VIEWS, *FLOOR, *SHIFT], default=[], metavar="NAME")
    parser.add_argument("--out", type=Path, default=ROOT / "docs" / "screenshots")
    wanted = parser.parse_args()
    wanted.out.mkdir(parents=True, exist_ok=True)
    still = [name for name in VIEWS if name in wanted.names or not wanted.names]
    live = [name for name in FLOOR if name in wanted.names or not wanted.names]
    if still:
        with served({"RUNDGANG_CLOCK_SHOWS": NOW, "RUNDGANG_SIMULATED": "false"}) as address:
            take(address, {name: VIEWS[name] for name in still}, wanted.out, NOW)
    shift = [name for name in SHIFT if name in wanted.names or not wanted.names]
    if shift:
        runs = {"RUNDGANG_CLOCK_AT": datetime.now(UTC).isoformat(), "RUNDGANG_CLOCK_SPEED": "1"}
        with served({"RUNDGANG_CLOCK_SHOWS": ROUND, **runs}) as address:
            time.sleep(HEARD_S)
            take(address, {name: SHIFT[name] for name in shift}, wanted.out, None)
    if live:
        runs = {"RUNDGANG_CLOCK_AT": datetime.now(UTC).isoformat(), "RUNDGANG_CLOCK_SPEED": "60"}
        with served({"RUNDGANG_CLOCK_SHOWS": NIGHT, **runs}) as address:
            time.sleep(AT_WORK_S)
            take(address, {name: FLOOR[name] for name in live}, wanted.out, None)


@contextmanager
def served(clock: dict[str, str]) -> Iterator[str]:
    """The address of the demo, by a clock, in a database of its own."""
    port = free_port()
    with tempfile.TemporaryDirectory() as home:
        Path(home).chmod(0o755)
        environment = {**os.environ, "RUNDGANG_HOME": home, **clock}
        environment.pop("DATABASE_URL", None)
        command = [sys.executable, "-m", "rundgang.cli", "serve", "--demo", "--port", str(port), "--day", DAY]
        server = subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, text=True)
        try:
            assert server.stdout is not None
            server.stdout.readline()
            yield f"http://127.0.0.1:{port}"
        finally:
            server.send_signal(signal.SIGINT)
            server.wait(30)


def take(address: str, views: dict[str, Callable[[Page], None]], out: Path, fixed: str | None) -> None:
    """One picture a view, 1280 x 800.

    Parameters
    ----------
    fixed : str or None
        The moment at which the browser's clock stands; None where it runs.
    """
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        for name, view in views.items():
            page = browser.new_page(
                base_url=address, viewport={"width": 1280, "height": 800}, reduced_motion="reduce", locale="en-GB"
            )
            if fixed:
                page.clock.set_fixed_time(fixed)
            page.goto("/plan")
            view(page)
            page.evaluate("document.fonts.ready")
            page.wait_for_timeout(400)
            page.screenshot(path=out / f"{name}.png")
            page.close()
        browser.close()


if __name__ == "__main__":
    main()
