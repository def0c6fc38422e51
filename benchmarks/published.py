"""The engine that plans the plant on no-wait flow shops, and beside a plain circuit model with due times.

Run with `PYTHONPATH=tests`: how a flow shop becomes a plant stands there. Prints, in one run: published instances, the
makespan found, the best published, whether it is proved, and seconds; then lines of belts with 30 and 45 runs and due
times, cost = 10 x minutes late, beside a circuit model of the same instance, given the same seconds and cores: the
engine searches with one seed a core, and the better counts.
"""

import argparse
from concurrent.futures import ProcessPoolExecutor
from itertools import pairwise
from time import perf_counter

import numpy as np
from ortools.sat.python import cp_model

from belt_lines import belt_line
from flow_shops import MAKESPAN, flow_shop, makespan, taillard
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.objective import PARTS, Weights
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import Progress, after_evaluations
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR

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
"""Jobs, then seed and best known no-wait makespan on five machines: E. Taillard, EJOR 64 (1993)."""

EFFORT_S = 60.0
POINTS_A_MINUTE = 10
CORES = 2
TARDINESS = Weights(**dict.fromkeys(PARTS, 0.0) | {"late_pack_hours": 60.0 * POINTS_A_MINUTE})


def circuit(line: Scenario, seconds: float) -> float:
    """The plain model: a circuit with start times at the engine's own headways, hinted by the earliest due date."""
    shop = Shop(line, ["line"])
    arrays, count = shop.arrays, len(shop.dues)
    made = [shop.index[due.product] for due in shop.dues]
    feed = np.array([MINUTES_PER_HOUR * arrays.products["ratio"][p] / arrays.legs["pace"][p, 0] for p in made])
    between = np.ceil(feed[:, None] + np.maximum(arrays.headway[np.ix_(made, made)][:, :, 0, 0], 0.0)).astype(int)
    through = np.ceil(feed + arrays.legs["span"].sum(axis=1)[made] + arrays.products["tail"][made]).astype(int)
    due = np.array([due.loaded_by_min for due in shop.dues])
    model, most = cp_model.CpModel(), int(between.max()) * count
    starts = [
        model.new_int_var(int(np.ceil(arrays.now + arrays.products["lead"][p])), most, f"start {run}")
        for run, p in enumerate(made)
    ]
    follows = set(pairwise((count, *np.argsort(due).tolist(), count)))
    arcs = []
    for run in range(count + 1):
        for then in range(count + 1):
            if run == then:
                continue
            literal = model.new_bool_var(f"{run} before {then}")
            model.add_hint(literal, (run, then) in follows)
            arcs.append((run, then, literal))
            if count not in (run, then):
                model.add(starts[then] >= starts[run] + int(between[run, then])).only_enforce_if(literal)
    model.add_circuit(arcs)
    late = [model.new_int_var(0, 2 * most, f"late {run}") for run in range(count)]
    for run in range(count):
        model.add(late[run] >= starts[run] + int(through[run]) - int(due[run]))
    model.minimize(sum(late))
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = CORES
    solver.parameters.max_time_in_seconds = seconds
    found = solver.solve(model)
    return POINTS_A_MINUTE * solver.objective_value if found in (cp_model.OPTIMAL, cp_model.FEASIBLE) else np.inf


def engine(line: Scenario, seconds: float, seed: int) -> float:
    """What the engine's plan costs after so many seconds on one core."""
    return plan_plant(line, weights=TARDINESS, seed=seed, stop=Clock(seconds)).cost


class Clock:
    """Stop after so many seconds."""

    def __init__(self, seconds: float) -> None:
        self.end = perf_counter() + seconds

    def __call__(self, _: Progress) -> bool:
        """Whether they are over."""
        return perf_counter() >= self.end


def main() -> None:
    """Print both tables."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--seconds", type=float, default=10, help="for either, on every line with due times")
    seconds = asked.parse_args().seconds
    plan_plant(flow_shop(taillard(12, 5, 1)), weights=MAKESPAN, effort=1, stop=after_evaluations(400, 400))
    print("no-wait flow shop, 5 machines: makespan, best published, proved, seconds")
    for jobs, instances in PUBLISHED.items():
        for seed, best in instances:
            shop, begin = flow_shop(taillard(jobs, 5, seed)), perf_counter()
            plan = plan_plant(shop, weights=MAKESPAN, effort=EFFORT_S)
            took = perf_counter() - begin
            print(f"{jobs:>4} jobs {makespan(plan):>8.0f} {best:>6} {plan.proved!s:>6} {took:>8.2f}")
    print(f"with due times, {seconds:g} s each: the engine, the circuit model, ratio")
    with ProcessPoolExecutor(CORES) as cores:
        list(cores.map(engine, [belt_line(6, 1)] * CORES, [0.1] * CORES, range(CORES)))
        for runs in (30, 45):
            for seed in (1, 2, 3):
                line = belt_line(runs, seed)
                cost = min(cores.map(engine, [line] * CORES, [seconds] * CORES, range(CORES)))
                plain = circuit(line, seconds)
                print(f"{runs:>4} runs {cost:>10.0f} {plain:>10.0f} {cost / plain:>6.2f}", flush=True)


if __name__ == "__main__":
    main()
