"""The engine that plans the plant on no-wait flow shops, and beside a plain circuit model with due times.

Run with `PYTHONPATH=tests`: how a flow shop becomes a plant stands there. Prints, in one run: published instances, the
makespan found, the best published, whether it is proved, and seconds; then flow shops of 30 and 45 jobs with due times,
cost = 10 x minutes late, beside a circuit model of the same instance, given the same seconds and cores.
"""

import argparse
from itertools import pairwise
from time import perf_counter

import numpy as np
from ortools.sat.python import cp_model

from flow_shops import MAKESPAN, flow_shop, makespan, taillard
from rundgang.core.compiled import Floats
from rundgang.core.planning.objective import PARTS, Weights
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import Progress, after_evaluations

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
TARDINESS = Weights(**dict.fromkeys(PARTS, 0.0) | {"late_pack_hours": 60.0 * POINTS_A_MINUTE})
SPREAD = 1.25
"""Due times are drawn up to so many times the sum of the least delays between jobs."""


def delays(times: Floats) -> Floats:
    """Least time from the start of the row's job to the start of the column's, min."""
    done = np.cumsum(times, axis=0)
    found: Floats = (done[:, :, None] - (done - times)[:, None, :]).max(axis=0)
    return found


def due_times(times: Floats, seed: int) -> Floats:
    """When each job is due, min."""
    random, between = np.random.default_rng(seed), delays(times)
    np.fill_diagonal(between, np.inf)
    drawn: Floats = random.uniform(0, SPREAD * between.min(axis=1).sum(), times.shape[1]) + times.sum(axis=0).max()
    return drawn


def circuit(times: Floats, due: Floats, seconds: float) -> float:
    """The plain model: a circuit with start times, hinted by the earliest due date."""
    between, count = delays(times).astype(int), times.shape[1]
    through = times.sum(axis=0).astype(int)
    model, most = cp_model.CpModel(), int(between.max()) * count
    starts = [model.new_int_var(0, most, f"start {job}") for job in range(count)]
    follows = set(pairwise((count, *np.argsort(due).tolist(), count)))
    arcs = []
    for job in range(count + 1):
        for then in range(count + 1):
            if job == then:
                continue
            literal = model.new_bool_var(f"{job} before {then}")
            model.add_hint(literal, (job, then) in follows)
            arcs.append((job, then, literal))
            if count not in (job, then):
                model.add(starts[then] >= starts[job] + int(between[job, then])).only_enforce_if(literal)
    model.add_circuit(arcs)
    late = [model.new_int_var(0, 2 * most, f"late {job}") for job in range(count)]
    for job in range(count):
        model.add(late[job] >= starts[job] + int(through[job]) - int(due[job]))
    model.minimize(sum(late))
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 2
    solver.parameters.max_time_in_seconds = seconds
    found = solver.solve(model)
    return POINTS_A_MINUTE * solver.objective_value if found in (cp_model.OPTIMAL, cp_model.FEASIBLE) else np.inf


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
    asked.add_argument("--seconds", type=float, default=10, help="for either, on every flow shop with due times")
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
    for jobs in (30, 45):
        for seed in (1, 2, 3):
            times = taillard(jobs, 5, seed)
            due = due_times(times, seed)
            plan = plan_plant(flow_shop(times, due.astype(int).tolist()), weights=TARDINESS, stop=Clock(seconds))
            plain = circuit(times, due, seconds)
            print(f"{jobs:>4} jobs {plan.cost:>10.0f} {plain:>10.0f} {plan.cost / plain:>6.2f}")


if __name__ == "__main__":
    main()
