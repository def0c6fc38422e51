"""Orders of runs on one line: the search against a plain constraint model given the same seconds and cores.

Prints, in one run: Taillard's no-wait flow shops against the best published makespans; lines of 30 and 45
runs with due times, cost = 10 x minutes late + minutes at the divider above feeding, beside a circuit model
of the same instance and a brute bound; and how the time of one order tried grows with the number of runs.
"""

import argparse
from collections.abc import Iterator
from time import perf_counter
from typing import NamedTuple

import numpy as np
from ortools.sat.python import cp_model

from rundgang.core.planning.sequencing import Sequenced, Sequencing, Stop, brute_bound, makespan, solve, stop_after

LARGEST = 2_147_483_647
PUBLISHED = {
    20: (
        (873654221, 1486),
        (379008056, 1528),
        (1866992158, 1460),
        (216771124, 1588),
        (495070989, 1449),
        (402959317, 1481),
        (1369363414, 1483),
        (2021925980, 1482),
        (573109518, 1469),
        (88325120, 1377),
    ),
    50: ((1328042058, 3160), (200382020, 3432)),
    100: ((896678084, 6361),),
}
"""Runs, then seed and best known no-wait makespan on five machines: E. Taillard, EJOR 64 (1993)."""

HORIZON_SCALE = 10


class Family(NamedTuple):
    """What the runs of a family have in common: dwells, min, oven, °C, and an allergen."""

    proof: float
    bake: float
    heat: float
    cool: float
    allergen: int


def flow_shop(runs: int, machines: int, seed: int) -> Sequencing:
    """Taillard's generator: processing times 1 to 99, machine by machine, as a no-wait flow shop."""
    times = np.zeros((machines, runs))
    for machine in range(machines):
        for run in range(runs):
            seed = 16_807 * (seed % 127_773) - 2_836 * (seed // 127_773)
            seed += LARGEST if seed < 0 else 0
            times[machine, run] = 1 + int(seed / LARGEST * 99)
    done = np.cumsum(times, axis=0)
    begun = done - times
    headway = (done[:, :, None] - begun[:, None, :]).max(axis=0)
    return makespan(headway, done[-1])


def bakery_line(runs: int, seed: int) -> Sequencing:
    """Runs of five families on one line with due times spread over 1.25 x the total feeding time."""
    random = np.random.default_rng(seed)
    families = [
        Family(
            proof=float(random.integers(9, 19) * 5),
            bake=float(random.integers(13, 25)),
            heat=float(random.integers(20, 26) * 10),
            cool=float(random.integers(10, 19) * 5),
            allergen=int(random.integers(0, 3)),
        )
        for _ in range(5)
    ]
    family = random.integers(0, 5, runs)
    feed = random.integers(20, 121, runs).astype(float)
    beyond = np.array([[_beyond(r, s) for s in families] for r in families])
    through = np.array([f.proof + f.bake + f.cool for f in families])
    tail = feed + through[family]
    due = np.sort(random.uniform(0, 1.25 * feed.sum(), runs)) + through.max()
    random.shuffle(due)
    headway = feed[:, None] + beyond[family][:, family]
    return Sequencing(feed, headway, tail, np.zeros(runs), due, per_minute_late=10.0, per_minute_idle=1.0)


def _beyond(first: Family, then: Family) -> float:
    """Headway above feeding: proofer, oven and cooler are belts of one speed, the oven has one temperature."""
    clean = 20.0 if first.allergen and first.allergen != then.allergen else 0.0
    ramp = abs(first.heat - then.heat) / (4.0 if then.heat > first.heat else 2.0)
    needs, before, after = [2.0 + clean], 0.0, 0.0
    for dwell_r, dwell_s, work in (
        (first.proof, then.proof, 0.0),
        (first.bake, then.bake, ramp),
        (first.cool, then.cool, 0.0),
    ):
        empties = dwell_r != dwell_s or work > 0 or clean > 0
        needs.append(before - after + (dwell_r + max(work, 5.0) + clean if empties else 2.0))
        before, after = before + dwell_r, after + dwell_s
    return max(needs)


def for_seconds(seconds: float) -> Stop:
    """Stop at the first round's end after so many seconds."""
    end = perf_counter() + seconds
    return lambda _: perf_counter() >= end


def circuit(problem: Sequencing, seconds: float) -> float:
    """The plain model: a circuit with start times, no overlap at the divider, hinted by the earliest due date."""
    count = len(problem.feed)
    model = cp_model.CpModel()
    whole = [round(minutes * HORIZON_SCALE) for minutes in problem.feed]
    headway = np.ceil(problem.headway * HORIZON_SCALE).astype(int)
    most = int(headway.max()) * count
    starts = [model.new_int_var(0, most, f"start {run}") for run in range(count)]
    feeds = [model.new_fixed_size_interval_var(starts[run], whole[run], f"feed {run}") for run in range(count)]
    model.add_no_overlap(feeds)
    order = [int(run) for run in np.argsort(problem.due)]
    follows = set(zip((count, *order), (*order, count), strict=True))
    arcs = []
    for run in range(count):
        for before, after in ((count, run), (run, count)):
            literal = model.new_bool_var("")
            model.add_hint(literal, (before, after) in follows)
            arcs.append((before, after, literal))
        for after in range(count):
            if run != after:
                literal = model.new_bool_var("")
                model.add_hint(literal, (run, after) in follows)
                arcs.append((run, after, literal))
                model.add(starts[after] >= starts[run] + int(headway[run, after])).only_enforce_if(literal)
    model.add_circuit(arcs)
    late = []
    for run in range(count):
        tardy = model.new_int_var(0, most * 2, f"late {run}")
        model.add(tardy >= starts[run] + round((problem.tail[run] - problem.due[run]) * HORIZON_SCALE))
        late.append(tardy)
    end = model.new_int_var(0, most * 2, "end")
    for run in range(count):
        model.add(end >= starts[run] + whole[run])
    model.minimize(10 * sum(late) + end - sum(whole))
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 2
    solver.parameters.max_time_in_seconds = seconds
    status = solver.solve(model)
    return solver.objective_value / HORIZON_SCALE if status in {cp_model.OPTIMAL, cp_model.FEASIBLE} else np.inf


def timed(problem: Sequencing, stop: Stop) -> tuple[Sequenced, float]:
    """A search, and how long it took, s."""
    begin = perf_counter()
    return solve(problem, stop), perf_counter() - begin


def growth() -> Iterator[tuple[int, float]]:
    """Microseconds an order takes, by number of runs."""
    for runs in (15, 30, 60, 120, 240):
        found, seconds = timed(bakery_line(runs, 1), stop_after(200_000))
        yield runs, seconds / found.evaluated * 1e6


def main() -> None:
    """Print three tables."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--seconds", type=float, default=10, help="for either, on every line of 30 and 45 runs")
    seconds = asked.parse_args().seconds
    timed(flow_shop(12, 5, 1), stop_after(1))
    print("no-wait flow shop, 5 machines: makespan, best published, proved, seconds")
    for runs, instances in PUBLISHED.items():
        for seed, best in instances:
            found, took = timed(flow_shop(runs, 5, seed), stop_after(1))
            print(f"{runs:>4} runs {found.cost:>8.0f} {best:>6} {found.proved!s:>6} {took:>8.2f}")
    print(f"one line with due times, {seconds:g} s each: search, circuit model, ratio, brute bound")
    for runs in (30, 45):
        for seed in (1, 2, 3):
            problem = bakery_line(runs, seed)
            found, _ = timed(problem, for_seconds(seconds))
            plain = circuit(problem, seconds)
            bound = brute_bound(problem)
            print(f"{runs:>4} runs {found.cost:>10.0f} {plain:>10.0f} {found.cost / plain:>6.2f} {bound:>10.0f}")
    print("growth: microseconds an order tried, two threads together")
    for runs, micro in growth():
        print(f"{runs:>4} runs {micro:>8.2f}")


if __name__ == "__main__":
    main()
