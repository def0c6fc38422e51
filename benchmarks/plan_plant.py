"""Planning the whole demo plant, and ten of it: first legal plan, how good it is when, check, repair, memory.

Prints, in one run: seconds to the first legal plan and its cost; the cost after some seconds against the best
of the longest search; milliseconds of the check and of repairs; and the same for a plant of fifty lines.
"""

import argparse
import resource
from collections.abc import Callable
from datetime import date
from functools import partial
from statistics import median
from time import perf_counter

from rundgang.core.planning.check.plans import check_plant
from rundgang.core.planning.model import LinePlan, PlantPlan, Run
from rundgang.core.planning.repair import Move, repair
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import Progress, after_evaluations, proving_time
from rundgang.core.scenario import Scenario
from rundgang.demo.ostermere import ostermere

REPEATS = 5
DRAGGED = 3
Json = dict[str, object]


def tenfold(scenario: Scenario, times: int = 10) -> Scenario:
    """So many of a plant's lines side by side, each with products and orders of its own."""
    data = scenario.model_dump(mode="json")
    plant, lines = data["plant"], data["plant"]["lines"]
    own = {item["id"] for what in ("products", "preparations") for item in data[what]} | {line["id"] for line in lines}

    def renamed(value: object, number: int) -> object:
        if isinstance(value, dict):
            return {key: renamed(inner, number) for key, inner in value.items()}
        if isinstance(value, list):
            return [renamed(inner, number) for inner in value]
        return f"{value}-{number}" if isinstance(value, str) and value in own else value

    many: Json = {
        what: [renamed(item, number) for number in range(times) for item in data[what]]
        for what in ("products", "preparations", "blocks", "finished")
    }
    for what in ("orders", "blocks"):
        many[what] = [
            {**item, "id": f"{number}-{item['id']}"}
            for number in range(times)
            for item in (renamed(data[what], number) or [])  # type: ignore[attr-defined]
        ]
    plant = {
        **plant,
        "lines": [renamed(line, number) for number in range(times) for line in lines],
        "shared": [
            {**renamed(shared, number), "id": f"{shared['id']}-{number}"}  # type: ignore[dict-item]
            for number in range(times)
            for shared in plant["shared"]
        ],
        "crews": [{**crew, "people": crew["people"] * times} for crew in plant["crews"]],
    }
    opening = {
        what: [renamed(fact, number) for number in range(times) for fact in facts] if isinstance(facts, list) else facts
        for what, facts in data["opening"].items()
    }
    stocks = [
        {
            **stock,
            "on_hand": stock["on_hand"] * times,
            "deliveries": [{**delivery, "amount": delivery["amount"] * times} for delivery in stock["deliveries"]],
        }
        for stock in data["stocks"]
    ]
    return Scenario.model_validate({**data, **many, "plant": plant, "opening": opening, "stocks": stocks})


class Trail:
    """When the search had which cost."""

    def __init__(self, seconds: float) -> None:
        self.begin = perf_counter()
        self.seconds = seconds
        self.steps: list[tuple[float, float]] = []

    def stop(self, progress: Progress) -> bool:
        """Note the progress; stop after the seconds."""
        self.steps.append((perf_counter() - self.begin, progress.cost))
        return self.steps[-1][0] >= self.seconds

    def cost_after(self, seconds: float) -> float:
        """The best cost known by then."""
        return min(cost for at, cost in self.steps if at <= seconds or at == self.steps[0][0])

    def reached(self, cost: float) -> float:
        """When a cost was reached, s."""
        return next(at for at, found in self.steps if found <= cost)


def milliseconds(work: Callable[[], object]) -> float:
    """The median time of a few repeats, ms."""
    times = []
    for _ in range(REPEATS):
        begin = perf_counter()
        work()
        times.append(perf_counter() - begin)
    return median(times) * 1000


def dragged(line: LinePlan, run: Run) -> Move:
    """The change when a run is dropped an hour later."""
    return Move(line=line.line, run=run.id, start_min=run.start_min + 60)


def measured(name: str, scenario: Scenario, seconds: float) -> PlantPlan:
    """Plan a scenario and print what it took."""
    begin = perf_counter()
    first = plan_plant(scenario, stop=after_evaluations(1, 1))
    took = perf_counter() - begin
    faults = check_plant(scenario, first.plans)
    trail = Trail(seconds)
    plan = plan_plant(scenario, stop=trail.stop, effort=proving_time(seconds))
    runs = sum(len(line.runs) for line in plan.plans)
    batches = sum(len(run.batches) for line in plan.plans for run in line.runs)
    print(f"{name}: {len(plan.plans)} lines, {runs} runs, {batches} batches, {plan.evaluated:,} orders tried")
    print(f"  first legal plan {took:.2f} s, cost {first.cost:,.0f}, {len(faults)} faults")
    best = trail.steps[-1][1]
    for mark in (2, 5, 10, 20, 60, 300):
        if mark <= seconds:
            cost = trail.cost_after(mark)
            print(f"  after {mark:>3} s {cost:>12,.0f}  {cost / best:>6.3f} x the best")
    print(f"  within 2 % of the best after {trail.reached(best * 1.02):.1f} s; bound {plan.bound:,.0f}")
    print(f"  check {milliseconds(lambda: check_plant(scenario, plan.plans)):.0f} ms")
    times = [
        milliseconds(partial(repair, scenario, plan, dragged(line, run)))
        for line in plan.plans
        for run in line.runs[:DRAGGED]
    ]
    print(f"  a run dragged: {median(times):.0f} ms, at most {max(times):.0f} ms, of {len(times)} runs")
    print(f"  most memory so far {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")
    return plan


def main() -> None:
    """Print both tables."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument(
        "--seconds", type=float, default=60, help="of search, for either plant; 300 for the full comparison"
    )
    seconds = asked.parse_args().seconds
    demo = ostermere(date(2026, 3, 11))
    plan_plant(demo, stop=after_evaluations(400, 400))
    measured("the demo plant", demo, seconds)
    measured("ten of it", tenfold(demo), min(seconds, 75))


if __name__ == "__main__":
    main()
