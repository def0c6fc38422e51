"""How fast days are run through: a thousand of the demo's window, and beside a simulation of events, in one run.

Run with `PYTHONPATH=tests`: the simulation of events, by SimPy, and its random lines stand there.
"""

import argparse
import time
from collections.abc import Callable
from datetime import date
from random import Random
from statistics import median

from core.simulation.test_same_as_events import random_model
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.simulation.chances import chances_of
from rundgang.core.simulation.days import days_of
from rundgang.core.simulation.model import model_of
from rundgang.core.simulation.odds import sure
from rundgang.demo.ostermere import ostermere
from simulation_events import Day

DAYS = 1_000


def took_s(done: Callable[[], object]) -> float:
    """How long it takes, s."""
    begin = time.perf_counter()
    done()
    return time.perf_counter() - begin


def main() -> None:
    """Print both."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--lines", type=int, default=8, help="random lines, on which both are measured")
    parser.add_argument("--events", type=int, default=20, help="days of each by events")
    wanted = parser.parse_args()
    plant = ostermere(date(2026, 3, 11))
    plans = plan_plant(plant, stop=after_evaluations(1, 1)).plans
    for again in ("first, machine code made or read", "then"):
        total = 0.0
        for plan in plans:
            model = model_of(plant, plan, chances_of(plant.line(plan.line)))
            total += took_s(lambda model=model: sure(plant, model, days_of(model, 1, 0, DAYS)))  # type: ignore[misc]
        print(f"{DAYS:,} days of the demo's window, {len(plans)} lines, one core, {again}: {total:.2f} s")
    ratios = []
    for seed in range(wanted.lines):
        model = random_model(seed)
        ours = took_s(lambda model=model: days_of(model, 1, 0, DAYS)) / DAYS  # type: ignore[misc]
        events = took_s(
            lambda model=model, seed=seed: [Day(model, Random(f"{seed}/{day}")).run() for day in range(wanted.events)]  # type: ignore[misc]
        )
        ratios.append(events / wanted.events / ours)
        print(f"line {seed}: a day takes {1e6 * ours:.0f} µs, by events {ratios[-1]:.0f} times as long")
    print(f"by events {median(ratios):.0f} times as long in the middle, {min(ratios):.0f} at least")


if __name__ == "__main__":
    main()
