"""Thirty days rolled: how long the next day takes with its first legal plan, a day's pages, and what it costs on disk.

Prints, in one run, day by day: seconds to go on and plan, seconds for the pages' questions, packs short and violations
of the first plan; then the worst of each, and the database's growth a day and, by that, in a year. Orders come by the
demo's pattern for every day; materials are delivered again each day. The plan of each day is searched a little and
published, as a planner would.
"""

import argparse
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from tempfile import TemporaryDirectory
from time import perf_counter

from fastapi.testclient import TestClient
from sqlmodel import Session, text

from rundgang.api.app import create_app
from rundgang.clock import Clock
from rundgang.core.planning.checked import checked
from rundgang.core.planning.past import opened
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Delivery
from rundgang.demo.ostermere import PACKS, demo_plant
from rundgang.demo.timetable import orders_of
from rundgang.jobs.founding import found
from rundgang.jobs.rolling import go_on
from rundgang.settings import Settings
from rundgang.store.cluster import PrivateCluster
from rundgang.store.database import migrate
from rundgang.store.plans import Made
from rundgang.store.repository import Repository

FIRST_DAY = date(2026, 3, 11)
AT = timedelta(hours=16)
"""A day is gone on from at noon: so long after the shift of the day before has opened."""

PAGES = ("/api/window", "/api/versions/newest", "/api/orders", "/api/materials", "/api/calendar")
MEGABYTE = 1024 * 1024


def supplied(store: Repository, moment_min: float) -> None:
    """Every material comes again: as much as there was at first."""
    scenario = store.windows.scenario()
    first = {stock.item: stock.on_hand for stock in demo_plant(FIRST_DAY).scenario.stocks}
    stocks = tuple(
        stock.model_copy(
            update={
                "deliveries": (
                    *stock.deliveries,
                    Delivery(at_min=moment_min + 60, amount=first[stock.item] / 2),
                )
            }
        )
        for stock in scenario.stocks
    )
    store.openings.write(scenario.changed(stocks=stocks), "benchmark")
    store.session.commit()


def searched(store: Repository, clock: Clock, orders: int) -> None:
    """A plan that is searched a little from the newest, published."""
    scenario, floor = store.windows.scenario(), store.plans.floor_plans()
    present = opened(scenario, floor, max(0.0, clock.minute_of(scenario.window.starts_at)))
    newest = store.plans.version().plan.plans
    plan = plan_plant(present, stop=after_evaluations(orders, orders), begin_from=newest, published=floor)
    made = Made(
        book=store.books.newest().number,
        library=store.libraries.number(),
        opening=store.openings.newest().number,
        note="benchmark",
    )
    version = store.plans.add(plan, made, *checked(present, plan))
    if not version.breaks_rules:
        store.plans.publish(version.note.number, "benchmark")


def size(session: Session) -> int:
    """Bytes of the database."""
    return int(session.execute(text("SELECT pg_database_size(current_database())")).scalar_one())


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--days", type=int, default=30)
    parser.add_argument("--orders", type=int, default=3_000, help="orders tried in a day's search")
    options = parser.parse_args()
    with TemporaryDirectory() as home:
        Path(home).chmod(0o755)
        with PrivateCluster(Path(home) / "data") as urls:
            migrate(urls.owner)
            app = create_app(urls.app, Settings(hosts=["testserver"]))
            measured(app.state.engine, TestClient(app), options.days, options.orders)
            app.state.engine.dispose()


def measured(engine: object, client: TestClient, days: int, orders: int) -> None:
    """Roll day after day."""
    rolls, pages, sizes = list[float](), list[float](), list[int]()
    with Session(engine) as session:  # type: ignore[arg-type]
        found(Repository(session), demo_plant(FIRST_DAY), "demo", after_evaluations(orders, orders))
        opens = Repository(session).windows.window().starts_at
        sizes.append(size(session))
    for day in range(days):
        clock = Clock(shows=opens + timedelta(days=day) + AT, at=datetime.now(UTC))
        client.app.state.clock = clock  # type: ignore[attr-defined]
        with Session(engine) as session:  # type: ignore[arg-type]
            store = Repository(session)
            if day >= 4:
                later = orders_of(PACKS, FIRST_DAY, 1, 10_000 + 100 * day, since=day + 3)
                store.books.extend(later, "benchmark")
            begin = perf_counter()
            note = go_on(store, clock, "benchmark")
            rolls.append(perf_counter() - begin)
            store = Repository(session)
            plan = store.plans.version()
            broken = sum(len(one.violations) for one in plan.plans) + len(plan.violations)
            supplied(store, store.openings.newest().now_min)
            searched(store, clock, orders)
        begin = perf_counter()
        for path in PAGES:
            client.get(path).raise_for_status()
        pages.append(perf_counter() - begin)
        with Session(engine) as session:  # type: ignore[arg-type]
            sizes.append(size(session))
        print(
            f"day {day + 1:2}: gone on and planned in {rolls[-1]:.2f} s, pages {pages[-1]:.2f} s; {note.sent:,} packs "
            f"gone, {note.short:,} short, {note.thrown:,} thrown away; first plan {plan.note.score.packs_short:,.0f} "
            f"packs short, {broken} violations; +{(sizes[-1] - sizes[-2]) / MEGABYTE:.2f} MB",
            flush=True,
        )
    a_day = (sizes[-1] - sizes[0]) / len(rolls) / MEGABYTE
    print(
        f"worst: gone on {max(rolls):.2f} s, all pages {max(pages):.2f} s; {a_day:.2f} MB a day, "
        f"{a_day * 365:,.0f} MB a year"
    )


if __name__ == "__main__":
    main()
