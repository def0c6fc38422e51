"""What sureness costs on the demo: plans of several seeds, each line's last lorry, and the cheapest plan that is surer.

Each plan of a line is begun from by the product's own search for the odds. Told is the cheapest plan by which the lorry
is so many points surer, and what it costs more, of the cost of the whole plant's plan.
"""

import argparse
import time
from collections.abc import Callable
from datetime import date

from rundgang.core.planning.model import PlantPlan
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import Progress
from rundgang.core.scenario import Scenario
from rundgang.core.simulation.line_odds import odds_of
from rundgang.core.simulation.surer import STEPS, Wish, surer
from rundgang.demo.ostermere import ostermere

POINTS, WISHED = 0.1, 0.25


def within(seconds: float) -> Callable[[Progress], bool]:
    """A search ends after so many seconds."""
    begin = time.monotonic()
    return lambda _: time.monotonic() - begin > seconds


def main() -> None:
    """Print a line for each plan and line."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--seeds", type=int, default=3)
    asked.add_argument("--plan-s", type=float, default=30, help="for the plan of the plant")
    asked.add_argument("--search-s", type=float, default=16, help="for the plans of a line that are surer")
    given = asked.parse_args()
    plant = ostermere(date(2026, 3, 11))
    for seed in range(given.seeds):
        plan = plan_plant(plant, seed=seed, stop=within(given.plan_s))
        for line in (one.id for one in plant.plant.lines):

            def search(wanted: Scenario, begin: PlantPlan, line: str = line, seed: int = seed) -> PlantPlan:
                return plan_plant(
                    wanted,
                    lines=(line,),
                    kept=begin.plans,
                    begin_from=begin.plans,
                    weights=begin.weights,
                    seed=seed,
                    stop=within(given.search_s / STEPS),
                )

            lorry = odds_of(plant, plan.of(line)).lorries[-1]
            wish = Wish(line=line, waves=(lorry.wave,), odds=min(0.99, lorry.odds + WISHED))
            first, *others = surer(plant, plan, (), wish, search)
            enough = [one for one in others if one.odds >= first.odds + POINTS]
            cheapest = min(enough, key=lambda one: one.plan.cost, default=None)
            found = "none so sure"
            if cheapest:
                found = f"{cheapest.odds:.1%} for {cheapest.plan.cost / first.plan.cost - 1:+.2%}"
            print(f"seed {seed}, {line}, {lorry.wave}: {first.odds:.1%} -> {found}", flush=True)


if __name__ == "__main__":
    main()
