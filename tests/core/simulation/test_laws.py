"""The simulation against closed forms and the laws of the shop floor.

Sources, from memory: W. Hopp and M. Spearman, *Factory Physics*, chapters 7 to 9 (best case, Little's law, availability
mttf / (mttf + mttr)); the Poisson and the lognormal distribution as in any textbook of statistics. Means are held to
three standard errors.
"""

from math import exp, inf, log, sqrt
from statistics import NormalDist

import numpy as np
import pytest

from families import rate, strokes
from plants import belt, items_on, laid_out, on_belt, product, scenario
from rundgang.core.compiled import Floats
from rundgang.core.kinds.every import PieceStep
from rundgang.core.scenario import Scenario
from rundgang.core.simulation.days import LEAST_BETWEEN_MIN, LineDays, days_of
from rundgang.core.simulation.model import Chances, LineModel, model_of
from rundgang.core.simulation.odds import made_by, sure

DAYS = 4_000


def line(stations: int = 1, dwell: float = 20, packs: int = 3_000) -> Scenario:
    """A divider and belts in a row that make one bun; its lorry leaves when it can."""
    belts = [belt(f"belt-{place}") for place in range(stations - 1)]
    steps: list[PieceStep] = [strokes("divider", 200), *(on_belt(made.id, dwell) for made in belts)]
    return scenario([rate("divider"), *belts], [product("bun", steps, target=3_000)], [("bun", 600.0, packs)])


def simulated(plant: Scenario, chances: Chances, days: int = DAYS) -> tuple[LineModel, LineDays]:
    """Its only run, day by day."""
    model = model_of(plant, laid_out(plant, items_on(plant)), chances)
    return model, days_of(model, seed=7, first_day=0, days=days)


def ends(days: LineDays) -> Floats:
    """When the last pack comes."""
    return days.until_min[:, -1]


def as_expected(found: Floats, mean: float) -> None:
    """The mean within three standard errors."""
    assert found.mean() == pytest.approx(mean, abs=3 * found.std() / sqrt(len(found)))


def test_a_late_run_is_complete_as_often_as_the_lognormal_says() -> None:
    plant = line()
    model, days = simulated(plant, Chances(late_min=(5.0, 0.8)))
    planned = float(ends(simulated(plant, Chances(), 1)[1])[0])
    for spare in (2.0, 5.0, 12.0):
        odds = NormalDist().cdf(log(spare / 5.0) / 0.8)
        found = (made_by(model, days, "bun", planned + spare) == 3_000).astype(float)
        as_expected(found, odds)


def test_no_stop_while_it_is_fed_as_often_as_poisson_says() -> None:
    every = 100.0
    plant = line()
    model, days = simulated(plant, Chances({"divider": every}, {"divider": (3.0, 0.5)}))
    _, undisturbed = simulated(plant, Chances(), 1)
    begin, end = undisturbed.from_min[0, 0], ends(undisturbed)[0]
    # The first stop comes behind the least time and an exponential one: none before the end, if that is longer. But one
    # that is over before the run begins does not matter either, so only those with no stop before its begin are asked.
    first_in = model.leg_times[0, 0]
    assert first_in <= begin
    same = (np.abs(ends(days) - end) < 1e-6).astype(float)
    none_before_end = exp(-(end - LEAST_BETWEEN_MIN) / every)
    assert same.mean() >= none_before_end - 3 * sqrt(none_before_end / len(same))
    until_begin = exp(-(first_in - LEAST_BETWEEN_MIN) / every)
    assert same.mean() <= none_before_end + (1 - until_begin) + 3 * sqrt(0.25 / len(same))


@pytest.mark.parametrize("stations", [1, 2])
def test_availability_is_up_over_up_and_down_and_of_a_rigid_line_their_product(stations: int) -> None:
    every, median, spread = 60.0, 6.0, 0.6
    down = median * exp(spread**2 / 2)
    up = every + LEAST_BETWEEN_MIN
    plant = line(stations, dwell=0.01, packs=60_000)
    names = ["divider", *(f"belt-{place}" for place in range(stations - 1))]
    _, days = simulated(plant, Chances(dict.fromkeys(names, every), dict.fromkeys(names, (median, spread))), 600)
    _, undisturbed = simulated(plant, Chances(), 1)
    fed = float(ends(undisturbed)[0] - undisturbed.from_min[0, 0])
    took = ends(days) - undisturbed.from_min[0, 0]
    as_expected(took / fed, ((up + down) / up) ** stations)


def test_best_case_and_littles_law() -> None:
    plant = line(4, dwell=30, packs=9_000)
    model, days = simulated(plant, Chances(), 1)
    raw_process_min = float(model.pass_times[:, :2].sum())
    begin, fed = model.leg_times[0, :2]
    assert days.from_min[0, 0] - begin == pytest.approx(raw_process_min)
    pace = 9_000 / fed
    minute = begin + raw_process_min + fed / 3
    fed_by_then = pace * (minute - begin)
    inside = fed_by_then - made_by(model, days, "bun", minute)[0]
    assert inside == pytest.approx(pace * raw_process_min, abs=1)  # WIP = TH x CT


def test_what_stands_longer_than_it_bears_is_lost() -> None:
    plant = scenario(
        [rate("divider"), belt("oven", ramp=5), belt("cooler")],
        [product("bun", (strokes("divider", 200), on_belt("oven", 20, heat=220), on_belt("cooler", 30)), target=3_000)],
        [("bun", 600.0, 3_000)],
        hot={"oven": 220},
    )
    baked = {step.station: getattr(step, "bakes", False) for step in plant.product("bun").piece_steps}
    model, days = simulated(plant, Chances({"cooler": 60.0}, {"cooler": (6.0, 0.6)}), 200)
    bears = dict(zip(("divider", "oven", "cooler"), model.pass_times[:, 3], strict=True))
    assert bears["cooler"] == inf
    assert (bears["oven"] == 0.0) == baked["oven"]
    late = ends(days) > ends(simulated(plant, Chances(), 1)[1])[0] + 1
    assert late.any()
    assert ((~days.good).any(axis=1) == baked["oven"])[late].all()


def test_a_day_is_the_same_with_whichever_others() -> None:
    plant = line(3)
    chances = Chances({"belt-0": 50.0}, {"belt-0": (5.0, 0.9)}, (0.6, 0.8), 0.01, 0.1)
    model, days = simulated(plant, chances, 40)
    for first in (0, 13, 39):
        again = days_of(model, seed=7, first_day=first, days=1)
        assert (again.until_min[0] == days.until_min[first]).all()
    assert len(set(ends(days))) == 40
    assert all((one.short <= one.due.packs).all() for one in sure(plant, model, days))
