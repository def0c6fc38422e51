"""How long the ring line's day and the whole plant's balances take, beside their parts: ratios of one run.

The yardstick is reading the scenario's document once, which every plan needs as well.
"""

from collections.abc import Callable
from datetime import date
from statistics import median
from time import perf_counter

from rundgang.core.balance import balance
from rundgang.core.planning.check.plans import check
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.whatif import Setting, with_setting
from rundgang.demo.ostermere import ostermere
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
    plan = plan_plant(scenario).of(line)
    plant = ostermere(date(2026, 3, 11))
    setting = Setting(room_c=26)
    slowest = max(plant.products, key=lambda product: seconds(lambda: balance(plant, product.id))).id
    work: dict[str, Callable[[], object]] = {
        "read the scenario's document": lambda: read_scenario(text),
        "balance one product": lambda: balance(scenario, scenario.products[0].id),
        f"balance the slowest of {len(plant.products)}": lambda: balance(plant, slowest),
        "the same in a warmer room": lambda: balance(with_setting(plant, slowest, setting), slowest),
        "plan by the rule alone": lambda: plan_plant(scenario, stop=after_evaluations(1, 1)),
        f"plan with {plan.evaluated} orders tried": lambda: plan_plant(scenario),
        "check the plan": lambda: check(scenario, plan),
    }
    measured = {name: seconds(job) for name, job in work.items()}
    yardstick = next(iter(measured.values()))
    for name, time in measured.items():
        print(f"{name:<34}{time * 1000:>9.2f} ms {time / yardstick:>8.1f} x reading")


if __name__ == "__main__":
    main()
