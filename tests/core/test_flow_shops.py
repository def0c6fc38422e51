"""The engine that plans the plant, on published flow shops; and what the circuit proves, against brute force."""

from itertools import permutations

import numpy as np
import pytest

from belt_lines import belt_line
from brute_force import PLANTS, every_order, with_items
from flow_shops import MAKESPAN, flow_shop, makespan, no_wait_span, taillard
from plants import items_on
from rundgang.core.planning.bound import stock_floor
from rundgang.core.planning.check.plans import check_plant
from rundgang.core.planning.circuit import circuit_bound
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.objective import PARTS, Weights
from rundgang.core.planning.search.plant import plan_plant

PUBLISHED = (
    (20, 873654221, 1486),
    (20, 379008056, 1528),
    (20, 1866992158, 1460),
    (20, 216771124, 1588),
    (20, 495070989, 1449),
    (20, 402959317, 1481),
    (20, 1369363414, 1483),
    (20, 2021925980, 1482),
    (20, 573109518, 1469),
    (20, 88325120, 1377),
    (50, 1328042058, 3160),
)
"""Jobs, seed of the generator and best known no-wait makespan on five machines: É. Taillard, EJOR 64 (1993)."""

EFFORT_S = 20.0
FED_MIN = 0.1
"""What it takes to feed the single pieces of all jobs, at most."""


@pytest.mark.parametrize(("jobs", "seed", "best"), PUBLISHED)
def test_published_no_wait_makespans_are_reached_and_proved(jobs: int, seed: int, best: int) -> None:
    times = taillard(jobs, 5, seed)
    shop = flow_shop(times)
    plan = plan_plant(shop, weights=MAKESPAN, effort=EFFORT_S)
    assert makespan(plan) == pytest.approx(best, abs=FED_MIN)
    assert plan.proved
    order = [int(run.product.removeprefix("job-")) for run in plan.plans[0].runs]
    assert no_wait_span(times, order) == best
    assert check_plant(shop, plan.plans) == ()


def test_two_machines_without_waiting_against_brute_force() -> None:
    """S. M. Johnson 1954 may let jobs wait between two machines, so his makespan is never longer (from memory)."""
    times = taillard(8, 2, 873654221)
    found = makespan(plan_plant(flow_shop(times), weights=MAKESPAN, effort=EFFORT_S))
    early = sorted((j for j in range(8) if times[0, j] < times[1, j]), key=lambda j: float(times[0, j]))
    later = sorted((j for j in range(8) if times[0, j] >= times[1, j]), key=lambda j: -float(times[1, j]))
    first = second = 0.0
    for job in (*early, *later):
        first += times[0, job]
        second = max(first, second) + times[1, job]
    assert second <= found + FED_MIN
    assert found == pytest.approx(min(no_wait_span(times, order) for order in permutations(range(8))), abs=FED_MIN)


@pytest.mark.parametrize("legs", [1, 2])
@pytest.mark.parametrize("seed", range(4 * PLANTS))
def test_no_order_costs_less_than_the_circuit_proves(seed: int, legs: int) -> None:
    """Random plants of a few items: every order of them, with every choice of runs set apart.

    With each choice for the odd last dough: what one run makes too much another need not make.
    """
    drawn = with_items(seed + 900, 5 if legs == 1 else 4, legs)
    choice = ("equal", "short-last", "round-up")[seed % 3]
    plant = drawn.changed(products=tuple(p.model_copy(update={"odd_batch": choice}) for p in drawn.products))
    shop, listed = Shop(plant, ["line"]), items_on(plant)
    least = every_order(plant, runs_apart=True)
    found, _ = circuit_bound(shop, listed, Weights(), 5.0, np.inf)
    assert found.bound + stock_floor(shop, Weights()) <= least + 1e-6
    assert found.order is not None
    assert sorted(found.order.tolist()) == list(range(len(listed)))


def test_an_item_that_cannot_be_in_time_is_part_of_the_bound() -> None:
    """A lorry that leaves before the first dough could be through: all its packs are short, whatever the order."""
    shop = flow_shop(taillard(5, 2, 1), due=[10.0, 2_000.0, 3_000.0, 4_000.0, 5_000.0])
    plan = plan_plant(shop, effort=EFFORT_S)
    assert plan.score.packs_short == 1
    assert plan.bound >= Weights().packs_short


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_the_least_lateness_of_a_line_of_belts_against_brute_force(seed: int) -> None:
    """Six runs with due times: each starts when the headway behind the one before is over, in all 720 orders."""
    line = belt_line(6, seed)
    plan = plan_plant(line, weights=Weights(**dict.fromkeys(PARTS, 0.0) | {"late_pack_hours": 60.0}))
    shop = Shop(line, ["line"])
    arrays, made = shop.arrays, [shop.index[due.product] for due in shop.dues]
    feed = [60.0 * float(arrays.products[p]["ratio"]) / float(arrays.legs[p, 0]["pace"]) for p in made]
    tail = [float(arrays.legs[p]["span"].sum() + arrays.products[p]["tail"]) for p in made]
    least = np.inf
    for order in permutations(range(len(made))):
        late, start = 0.0, float(arrays.now + arrays.products[made[order[0]]]["lead"])
        for before, run in zip((None, *order), order, strict=False):
            if before is not None:
                start += feed[before] + max(0.0, float(arrays.headway[made[before], made[run], 0, 0]))
            late += max(0.0, start + feed[run] + tail[run] - shop.dues[run].loaded_by_min)
        least = min(least, late)
    assert plan.cost == pytest.approx(least, abs=1e-3)
