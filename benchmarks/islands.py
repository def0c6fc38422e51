"""Islands: two workers in some seconds beside one worker in twice as many, with one thread each, on many seeds.

Prints, by seed and in one run, the cost that one worker finds in 2 T seconds, what two find in T, and the medians.
Workers are processes of their own on a private database, as in a deployment.
"""

import argparse
import os
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from datetime import date
from pathlib import Path
from statistics import median
from tempfile import TemporaryDirectory

from sqlalchemy import Engine
from sqlmodel import Session

from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.demo.ostermere import demo_plant
from rundgang.jobs.queue import defer_search
from rundgang.jobs.requests import SearchRequest, state_of
from rundgang.serve import seed as seed_database
from rundgang.store.cluster import PrivateCluster, Urls
from rundgang.store.database import connect, migrate

BEFORE = "2026-03-10T12:00:00+01:00"
"""Now: nothing of the window has begun."""

READY_S = 8.0
"""Workers have so long to start."""


@contextmanager
def worker(urls: Urls) -> Iterator[None]:
    """A worker with one thread."""
    environment = {
        **os.environ,
        "DATABASE_URL": urls.app,
        "RUNDGANG_SEARCH_THREADS": "1",
        "RUNDGANG_CLOCK_SHOWS": BEFORE,
    }
    process = subprocess.Popen([sys.executable, "-m", "rundgang.cli", "worker"], env=environment)
    try:
        yield
    finally:
        process.terminate()
        process.wait(timeout=20)


def found(urls: Urls, engine: Engine, seed: int, seconds: float) -> float:
    """The cost that a search of so many seconds ends with, points."""
    job = defer_search(urls.app, engine, SearchRequest(seconds=seconds, seed=seed))
    while True:
        with Session(engine) as session:
            state = state_of(session, job)
        if state.state in {"done", "failed"} and state.cost is not None:
            return state.cost
        time.sleep(0.2)


def measured(urls: Urls, seeds: int, seconds: float, workers: int) -> list[float]:
    """Costs by seed with so many workers."""
    engine = connect(urls.app)
    with ExitStack() as running:
        for _ in range(workers):
            running.enter_context(worker(urls))
        time.sleep(READY_S)
        costs = [found(urls, engine, seed, seconds) for seed in range(1, seeds + 1)]
    engine.dispose()
    return costs


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--seeds", type=int, default=10)
    parser.add_argument("--seconds", type=float, default=15, help="T: one worker has twice as many")
    options = parser.parse_args()
    with TemporaryDirectory() as home:
        Path(home).chmod(0o755)
        with PrivateCluster(Path(home) / "data") as urls:
            migrate(urls.owner)
            seed_database(urls.app, demo_plant(date(2026, 3, 11)), after_evaluations(20, 20))
            one = measured(urls, options.seeds, 2 * options.seconds, 1)
            two = measured(urls, options.seeds, options.seconds, 2)
    print(f"seed  one worker, {2 * options.seconds:g} s  two workers, {options.seconds:g} s")
    for number, (alone, together) in enumerate(zip(one, two, strict=True), start=1):
        print(f"{number:4}  {alone:12,.1f}  {together:18,.1f}")
    print(f"median{median(one):11,.1f}  {median(two):18,.1f}   ratio {median(two) / median(one):.4f}")


if __name__ == "__main__":
    main()
