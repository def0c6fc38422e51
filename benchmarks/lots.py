"""A year of the demo's lots: how long both ways of a trace take, of a flour and of a bag, beside one day's.

A day's record is made as the worker keeps it, and copied for every day of a year, each with the next numbers; so there
are as many lots, and as much went into what, as in a year of such days.
"""

import argparse
import time
from collections.abc import Callable
from datetime import UTC, date, datetime
from functools import partial
from pathlib import Path
from statistics import median
from tempfile import TemporaryDirectory

from sqlalchemy import Engine, text
from sqlmodel import Session

from rundgang.clock import Clock
from rundgang.demo.ostermere import demo_plant
from rundgang.jobs.keeping import keep
from rundgang.jobs.tracing import lot_view
from rundgang.serve import seed
from rundgang.store.cluster import PrivateCluster
from rundgang.store.database import connect, migrate
from rundgang.store.repository import Repository

DAY, EVENING = date(2026, 3, 11), datetime(2026, 3, 11, 20, tzinfo=UTC)
DAYS = 365
TIMES = 7

COPY = (
    "INSERT INTO lot (id, code, kind, item, line, run, batch, window_id, at, until_at, amount, best_before, supplier, "
    "said, author) SELECT id + day * :most, code || '/' || day, kind, item, line, run, batch, window_id, "
    "at + day * interval '1 day', until_at + day * interval '1 day', amount, best_before, supplier, said, author "
    "FROM lot, generate_series(1, :days) AS day",
    "INSERT INTO lot_use (lot_id, into_id, item, amount, kind, at, said, author) SELECT lot_id + day * :most, "
    "into_id + day * :most, item, amount, kind, at + day * interval '1 day', said, author "
    "FROM lot_use, generate_series(1, :days) AS day",
    "INSERT INTO lot_load (lot_id, window_id, lorry, product, packs, at, author) SELECT lot_id + day * :most, "
    "window_id, lorry || '-' || day, product, packs, at + day * interval '1 day', author "
    "FROM lot_load, generate_series(1, :days) AS day",
    "ANALYZE lot, lot_use, lot_load",
)


def took_ms(what: Callable[[], object]) -> float:
    """How long something takes, the median of several times."""
    times = []
    for _ in range(TIMES):
        begin = time.perf_counter()
        what()
        times.append(time.perf_counter() - begin)
    return median(times) * 1000


def busiest(engine: Engine, kind: str) -> int:
    """The lot of a kind, of the middle of the year, that has most to do with others."""
    column = "lot_id" if kind == "material" else "into_id"
    query = (
        f"SELECT lot.id FROM lot JOIN lot_use u ON u.{column} = lot.id WHERE lot.kind = :kind "
        "GROUP BY lot.id ORDER BY count(*) DESC, lot.id LIMIT 1"
    )
    with engine.connect() as connection:
        return int(connection.execute(text(query), {"kind": kind}).scalar_one())


def told(engine: Engine, name: str) -> None:
    """Print how long the traces take."""
    with engine.connect() as connection:
        lots = connection.execute(text("SELECT count(*) FROM lot")).scalar_one()
        uses = connection.execute(text("SELECT count(*) FROM lot_use")).scalar_one()
    print(f"{name}: {lots:,} lots, {uses:,} uses")
    for kind in ("material", "packs"):
        number = busiest(engine, kind)
        with Session(engine) as session:
            store = Repository(session)
            trace = store.lots.trace(number)
            both = took_ms(partial(store.lots.trace, number))
            page = took_ms(partial(lot_view, store, number))
        print(
            f"  {kind}: made of {len(trace.made_of):,}, went into {len(trace.went_into):,} lots: "
            f"traced in {both:.0f} ms, its page in {page:.0f} ms"
        )


def main() -> None:
    """Make a day, then a year."""
    argparse.ArgumentParser(description=__doc__).parse_args()
    with TemporaryDirectory() as home:
        Path(home).chmod(0o755)
        with PrivateCluster(Path(home), durable=False) as urls:
            migrate(urls.owner)
            seed(urls.app, demo_plant(DAY))
            engine, owner = connect(urls.app), connect(urls.owner)
            with Session(engine) as session:
                keep(Repository(session), Clock(EVENING))
            told(engine, "a day")
            with owner.begin() as connection:
                most = connection.execute(text("SELECT max(id) FROM lot")).scalar_one()
                for statement in COPY:
                    connection.execute(text(statement), {"most": most, "days": DAYS - 1})
            told(engine, "a year")
            engine.dispose()
            owner.dispose()


if __name__ == "__main__":
    main()
