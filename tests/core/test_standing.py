"""What a search begins from: kept where it still holds and nothing better is found."""

from datetime import date

import pytest

from rundgang.core.planning.check.plans import check_plant
from rundgang.core.planning.model import PlantPlan
from rundgang.core.planning.objective import Weights
from rundgang.core.planning.repair import Move, repair
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.planning.standing import standing
from rundgang.demo.ring_line import ring_line

DAY = ring_line(date(2026, 3, 11))
AT_ONCE = after_evaluations(1, 1)


@pytest.fixture(scope="module")
def good() -> PlantPlan:
    return plan_plant(DAY, stop=after_evaluations(4_000, 4_000))


def test_a_plan_judged_anew_costs_what_it_cost(good: PlantPlan) -> None:
    again = standing(DAY, good.plans, (), Weights())
    assert again is not None
    assert again.cost == pytest.approx(good.cost)
    assert again.score.model_dump() == pytest.approx(good.score.model_dump())


def test_what_moved_counts_against_what_is_published(good: PlantPlan) -> None:
    """An hour later than published: 60 minutes moved, at what a minute costs."""
    run = good.plans[0].runs[-1]
    later = repair(DAY, good, Move(line=run.line, run=run.id, start_min=run.start_min + 60)).plan
    found = standing(DAY, later.plans, good.plans, Weights())
    assert found is not None
    assert found.score.moved_min == pytest.approx(60)


@pytest.mark.parametrize("seed", range(6))
def test_a_search_ends_no_worse_than_the_plan_that_it_began_from(good: PlantPlan, seed: int) -> None:
    for tries in (1, 300):
        on = plan_plant(DAY, seed=seed, begin_from=good.plans, stop=after_evaluations(tries, tries))
        assert on.cost <= good.cost + 1e-9
        assert check_plant(DAY, on.plans) == ()


def test_a_plan_stays_as_published_where_moving_costs_more_than_it_saves(good: PlantPlan) -> None:
    priced = Weights(moved_min=100)
    on = plan_plant(DAY, begin_from=good.plans, published=good.plans, weights=priced, stop=AT_ONCE)
    assert [plan.runs for plan in on.plans] == [plan.runs for plan in good.plans]
    assert on.score.moved_min == 0


def test_a_plan_that_breaks_a_rule_now_is_not_kept(good: PlantPlan) -> None:
    """The oven stands in the middle of it: what comes is a plan around that, though it costs more."""
    data = DAY.model_dump(mode="json")
    data["blocks"] = [
        *data["blocks"],
        {
            "id": "b",
            "line": "ring-line",
            "station": "oven",
            "kind": "repair",
            "from_min": 200,
            "to_min": 400,
            "reason": "burner out",
        },
    ]
    closed = type(DAY).model_validate(data)
    assert standing(closed, good.plans, (), Weights()) is None
    on = plan_plant(closed, begin_from=good.plans, stop=AT_ONCE)
    assert check_plant(closed, on.plans) == ()
    assert on.cost > good.cost
