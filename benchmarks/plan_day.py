"""How long the demo day's plan takes, beside its parts: ratios of one run on one machine.

The yardstick is reading the scenario's document once, which every plan needs as well.
"""

from collections.abc import Callable
from datetime import date
from statistics import median
from time import perf_counter

from rundgang.core.balance import balance
from rundgang.core.planning.check import check
from rundgang.core.planning.sequence import after_evaluations, make_plan
from rundgang.demo.ring_line import ring_line
from rundgang.formats.documents import read_scenario, write

REPEATS = 5


def seconds(work: Callable[[], object]) -> float:
    """The median time of a few repeats, s."""
    times = []
    for _ in range(REPEATS):
        begin = perf_counter()
        work()
        times.append(perf_counter() - begin)
    return median(times)


def main() -> None:
    """Print a table."""
    scenario = ring_line(date(2026, 3, 11))
    text = write(scenario)
    line = scenario.plant.lines[0].id
    plan = make_plan(scenario, line)
    work: dict[str, Callable[[], object]] = {
        "read the scenario's document": lambda: read_scenario(text),
        "balance one product": lambda: balance(scenario, scenario.products[0].id),
        "plan by the rule alone": lambda: make_plan(scenario, line, stop=after_evaluations(1, 1)),
        f"plan with {plan.evaluated} orders tried": lambda: make_plan(scenario, line),
        "check the plan": lambda: check(scenario, plan),
    }
    measured = {name: seconds(job) for name, job in work.items()}
    yardstick = next(iter(measured.values()))
    for name, time in measured.items():
        print(f"{name:<34}{time * 1000:>9.2f} ms {time / yardstick:>8.1f} x reading")


if __name__ == "__main__":
    main()
