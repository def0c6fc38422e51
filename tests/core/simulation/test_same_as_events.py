"""The simulation beside one of events, by SimPy, on random lines: the same distribution of ends, and of what is lost.

Kolmogorov-Smirnov on when each run ends, at 1 % divided by how many tests there are (Bonferroni). A sample of what
`script/soak` does with 20 lines and 2,000 days on each side.
"""

import os
from random import Random

import numpy as np
import pytest
from scipy.stats import ks_2samp

from families import rate, strokes
from plants import belt, items_on, laid_out, on_belt, product, scenario
from rundgang.core.kinds.every import PieceStation
from rundgang.core.scenario import Scenario
from rundgang.core.simulation.days import days_of
from rundgang.core.simulation.model import Chances, LineModel, model_of
from simulation_events import Day

SOAKED = "SOAK_PLANTS" in os.environ
LINES, DAYS = (20, 2_000) if SOAKED else (3, 300)
AT = 0.01


def random_line(seed: int) -> Scenario:
    """A divider, belts and a slicer; two or three products that dwell differently, some spoilt where they stand."""
    rng = Random(seed)
    belts = rng.randint(1, 3)
    stations: list[PieceStation] = [
        rate("divider"),
        *(belt(f"belt-{place}", setup=rng.choice([0, 5, 12])) for place in range(belts)),
        rate("slicer"),
    ]
    names = ["bun", "loaf", "roll"][: rng.randint(2, 3)]
    products = [
        product(
            name,
            (
                strokes("divider", 200),
                *(
                    on_belt(f"belt-{place}", rng.choice([8, 15, 25]), grace=rng.choice([None, 0.0, 2.0]))
                    for place in range(belts)
                ),
                strokes("slicer", 400),
            ),
            target=rng.choice([3_000, 5_000]),
        )
        for name in names
    ]
    return scenario(stations, products, [(name, 900.0, rng.randint(1_000, 6_000)) for name in names])


def random_model(seed: int) -> LineModel:
    """Its plan, with chances."""
    plant, rng = random_line(seed), Random(f"chances/{seed}")
    plan = laid_out(plant, items_on(plant))
    stations = [station.id for station in plant.line("line").stations if station.kind != "batch"]
    return model_of(
        plant,
        plan,
        Chances(
            stops_every_min={station: rng.uniform(40, 300) for station in stations},
            stands_min={station: (rng.uniform(1, 8), rng.uniform(0.2, 1.0)) for station in stations},
            late_min=(rng.uniform(0.2, 2), 0.8),
            pace_spread=0.01,
            change_spread=0.2,
        ),
    )


@pytest.mark.parametrize("seed", range(LINES))
def test_runs_end_alike(seed: int) -> None:
    model = random_model(seed)
    days = days_of(model, seed, 0, DAYS)
    events = [Day(model, Random(f"events/{seed}/{day}")).run() for day in range(DAYS)]
    for place, (leg, _, _) in enumerate(model.gives):
        ends = days.until_min[:, days.first[place + 1] - 1]
        lost = (~days.good[:, days.first[place] : days.first[place + 1]]).sum(axis=1)
        for ours, theirs in (
            (ends, [day.ends_min[leg] for day in events]),
            (lost, [day.lost[leg] for day in events]),
        ):
            assert ks_2samp(ours, np.asarray(theirs)).pvalue > AT / (2 * LINES * len(model.gives))
