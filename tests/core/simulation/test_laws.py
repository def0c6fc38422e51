"""The simulation against closed forms and the laws of the shop floor.

Sources, from memory: W. Hopp and M. Spearman, *Factory Physics*, chapters 7 to 9 (best case, Little's law, availability
mttf / (mttf + mttr)); the Poisson and the lognormal distribution as in any textbook of statistics. Means are held to
three standard errors.
"""

from math import exp, log, sqrt
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


def test_no_stop_while_it_is_fed_as_often_as_renewals_say() -> None:
    every = 60.0
    plant = line()
    _, days = simulated(plant, Chances({"divider": every}, {"divider": (0.001, 0.0)}))
    _, undisturbed = simulated(plant, Chances(), 1)
    takes = ends(undisturbed)[0] - undisturbed.from_min[0, 0]
    stopped = ends(days) - days.from_min[:, 0] > takes + 5e-4
    # Stops of next to no time, each behind a least and an exponential time: seen at any moment, none comes for so long
    # as the forward recurrence time of that renewal says, the integral of the survival over the mean.
    none = every * exp(-(takes - LEAST_BETWEEN_MIN) / every) / (every + LEAST_BETWEEN_MIN)
    assert 0.1 < none < 0.9
    as_expected((~stopped).astype(float), none)


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
        [rate("divider"), belt("oven"), belt("cooler")],
        [product("bun", (strokes("divider", 200), on_belt("oven", 20, grace=0), on_belt("cooler", 30)), target=3_000)],
        [("bun", 600.0, 3_000)],
    )
    every, stands, undisturbed = 60.0, 6.0, simulated(plant, Chances(), 1)[1]
    for stops, holds_the_oven in (("divider", False), ("cooler", True)):
        model, days = simulated(plant, Chances({stops: every}, {stops: (stands, 0.0)}), 200)
        assert dict(zip(("divider", "oven", "cooler"), model.pass_times[:, 3], strict=True))["oven"] == 0.0
        late, spoilt = ends(days) > ends(undisturbed)[0] + 1e-6, np.any(~days.good, axis=1)
        assert late.any()
        assert spoilt.any() == holds_the_oven
        assert late[spoilt].all()


def test_a_day_is_the_same_with_whichever_others() -> None:
    plant = line(3)
    chances = Chances({"belt-0": 50.0}, {"belt-0": (5.0, 0.9)}, (0.6, 0.8), 0.01, 0.1)
    model, days = simulated(plant, chances, 40)
    for first in (0, 13, 39):
        again = days_of(model, seed=7, first_day=first, days=1)
        assert (again.until_min[0] == days.until_min[first]).all()
    assert len(set(ends(days))) == 40
    assert all((one.short <= one.due.packs).all() for one in sure(plant, model, days))
