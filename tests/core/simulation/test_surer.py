"""Plans that are surer: each passes the check, what is asked for makes good what was missed, and the frontier holds."""

from itertools import pairwise
from random import Random

import pytest

from families import rate, strokes
from plants import belt, on_belt, product, scenario
from rundgang.core.errors import InfeasibleError, UnknownItemError
from rundgang.core.planning.check.plans import check_plant
from rundgang.core.planning.model import PlantPlan
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario
from rundgang.core.simulation.line_odds import odds_of
from rundgang.core.simulation.surer import STEPS, Wish, frontier, surer


def plant(seed: int) -> Scenario:
    """Two products that are spoilt where the oven stands, and two lorries."""
    rng = Random(seed)
    products = [
        product(
            name,
            (
                strokes("divider", 200),
                on_belt("oven", rng.choice([12, 20]), grace=1),
                on_belt("cooler", rng.choice([20, 30])),
                strokes("slicer", 400),
            ),
            target=4_000,
        )
        for name in ("bun", "loaf")
    ]
    orders = [(name, departs, rng.randint(1_500, 4_000)) for name in ("bun", "loaf") for departs in (900.0, 1_800.0)]
    slicer = rate("slicer").model_copy(update={"stops_every_min": 60.0})
    return scenario([rate("divider"), belt("oven"), belt("cooler"), slicer], products, orders)


def search(asked: Scenario, begin: PlantPlan) -> PlantPlan:
    return plan_plant(asked, begin_from=begin.plans, weights=begin.weights, stop=after_evaluations(300, 300))


@pytest.mark.parametrize("seed", range(6))
def test_plans_pass_the_check_and_the_last_is_surer(seed: int) -> None:
    day = plant(seed)
    begin = plan_plant(day, stop=after_evaluations(300, 300))
    now = {one.wave: one.odds for one in odds_of(day, begin.plans[0]).lorries}
    wave = min(now, key=now.__getitem__)
    assert now[wave] < 0.9
    wish = Wish(line="line", waves=(wave,), odds=min(0.97, now[wave] + 0.3))
    found = list(surer(day, begin, (), wish, search))
    assert found[0].plan.plans[0].runs == begin.plans[0].runs
    assert (found[0].plan.cost, found[0].eased, found[0].odds) == (begin.cost, (), now[wave])
    assert 1 < len(found) <= STEPS + 1
    for one in found:
        assert check_plant(day, one.plan.plans) == ()
        assert one.odds == {lorry.wave: lorry.odds for lorry in odds_of(day, one.plan.plans[0]).lorries}[wave]
        assert {eased.wave for eased in one.eased} <= {wave}
    assert max(one.odds for one in found) >= now[wave] + 0.1
    asked = [sum(sum(eased.more.values()) + eased.earlier_min for eased in one.eased) for one in found]
    assert asked == sorted(asked), "at each step no less is asked for than before"


def test_who_is_sure_enough_is_asked_nothing() -> None:
    day = plant(1)
    begin = plan_plant(day, stop=after_evaluations(300, 300))
    assert len(list(surer(day, begin, (), Wish(line="line", odds=0.01), search))) == 1


def test_a_plan_that_breaks_a_rule_is_not_begun_from() -> None:
    day = plant(1)
    begin = plan_plant(day, stop=after_evaluations(1, 1))
    twice = begin.plans[0].model_copy(update={"runs": begin.plans[0].runs * 2})
    with pytest.raises(InfeasibleError, match="fitted"):
        list(surer(day, begin.model_copy(update={"plans": (twice,)}), (), Wish(line="line"), search))


def test_what_is_not_there_is_said() -> None:
    day = plant(1)
    begin = plan_plant(day, stop=after_evaluations(1, 1))
    for wish in (Wish(line="other"), Wish(line="line", waves=("w9",))):
        with pytest.raises(UnknownItemError):
            list(surer(day, begin, (), wish, search))


def test_of_the_frontier_none_is_as_cheap_and_surer() -> None:
    rng = Random(5)
    for _ in range(200):
        plans = [(float(rng.randint(0, 9)), rng.randint(0, 9) / 10) for _ in range(rng.randint(0, 12))]
        best = [plans[place] for place in frontier(plans)]
        for one in plans:
            beaten = any(cost <= one[0] and odds >= one[1] and (cost, odds) != one for cost, odds in plans)
            assert (one in best) == (not beaten)
        assert all(a[0] < b[0] and a[1] < b[1] for a, b in pairwise(best))
