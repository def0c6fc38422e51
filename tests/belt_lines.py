"""Lines of belts with due times: runs of five families on one line, as plants that the engine plans.

Proofer, oven and cooler are belts of one speed, the oven has one temperature; a run is one piece that takes long to
feed, due when its lorry leaves. Due times are spread over 1.25 times the feeding of all runs. Invented figures.
"""

from typing import NamedTuple

import numpy as np

from plants import belt, mixers, on_belt, product, scenario
from rundgang.core.scenario import Scenario

QUICKER = 4.0
"""All times are so many times shorter than a line's, because no line makes less than a piece an hour."""

SPREAD = 1.25
SETUP_MIN, CLEAN_MIN, HEATING_C, COOLING_C = 5.0 / QUICKER, 20.0 / QUICKER, 4.0 * QUICKER, 2.0 * QUICKER
WINDOW_MIN = 10_080


class _Family(NamedTuple):
    proof: float
    bake: float
    heat: float
    cool: float
    nuts: bool


def belt_line(runs: int, seed: int) -> Scenario:
    """A line with so many runs of five families, each a product with an order of its own."""
    random = np.random.default_rng(seed)
    families = [
        _Family(
            proof=random.integers(9, 19) * 5 / QUICKER,
            bake=random.integers(13, 25) / QUICKER,
            heat=float(random.integers(20, 26) * 10),
            cool=random.integers(10, 19) * 5 / QUICKER,
            nuts=bool(random.integers(0, 3)),
        )
        for _ in range(5)
    ]
    own = [families[number] for number in random.integers(0, 5, runs)]
    feed = random.integers(20, 121, runs) / QUICKER
    due = np.sort(random.uniform(0, SPREAD * feed.sum(), runs))
    random.shuffle(due)
    first = max(family.proof + family.bake + family.cool for family in families)
    made = [
        product(
            f"run-{number}",
            [
                on_belt("proofer", family.proof),
                on_belt("oven", family.bake, heat=family.heat),
                on_belt("cooler", family.cool),
            ],
            grams=2_000,
            target=60 / feed[number],
            cycle=3,
            rest=0,
            age=600,
            nuts=family.nuts,
        )
        for number, family in enumerate(own)
    ]
    clean = {"changeover": mixers(clean=CLEAN_MIN).changeover}
    ramps = {"heating_c_per_min": HEATING_C, "cooling_c_per_min": COOLING_C}
    return scenario(
        [
            belt("proofer", setup=SETUP_MIN).model_copy(update=clean),
            belt("oven", setup=SETUP_MIN).model_copy(update=clean | ramps),
            belt("cooler", setup=SETUP_MIN).model_copy(update=clean),
        ],
        made,
        [(f"run-{number}", float(round(first + due[number])), 1) for number in range(runs)],
        mixing=mixers(8),
        minutes=WINDOW_MIN,
        hot={"oven": families[0].heat},
    )
