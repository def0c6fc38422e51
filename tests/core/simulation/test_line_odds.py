"""A line's odds: what may be said of them whatever the plan; by the demo's ring line."""

import pytest

from plants import make_plan
from rundgang.core.planning.model import LinePlan
from rundgang.core.scenario import Scenario
from rundgang.core.simulation.chances import USUAL_EVERY_MIN
from rundgang.core.simulation.line_odds import LineOdds, odds_of

HOURS, LONGEST_MIN, ROUNDED_OFF = 60, 10_000, 1e-9


def _with_stops(plant: Scenario, station: str, every_min: float) -> Scenario:
    told = plant.model_dump(mode="json", by_alias=True)
    for line in told["plant"]["lines"]:
        for one in line["stations"]:
            if one["id"] == station:
                one["stops_every_min"] = every_min
    return Scenario.model_validate(told, strict=False)


def _short(odds: LineOdds) -> float:
    return sum(one.short for lorry in odds.lorries for one in lorry.products)


@pytest.fixture(scope="module")
def found(demo: Scenario) -> tuple[LinePlan, LineOdds]:
    plan = make_plan(demo, "ring-line")
    return plan, odds_of(demo, plan)


def test_all_lorries_are_complete_no_oftener_than_the_least_sure_of_them(found: tuple[LinePlan, LineOdds]) -> None:
    plan, odds = found
    filled = [one.odds for lorry in odds.lorries for one in lorry.products if one.planned_short == 0]
    assert odds.all_complete
    assert odds.all_complete.low <= min(filled)
    assert 1 - odds.all_complete.high <= sum(1 - one for one in filled)  # Boole's inequality
    for lorry in odds.lorries:
        assert 0 <= lorry.odds <= min(one.odds for one in lorry.products) <= 1
        assert 1 - lorry.odds <= sum(1 - one.odds for one in lorry.products) + ROUNDED_OFF
    owed = {(lorry.wave, one.product) for lorry in odds.lorries for one in lorry.products}
    assert owed == {(one.wave, one.product) for one in plan.waves}
    assert all(one.short >= 0 for lorry in odds.lorries for one in lorry.products)


def test_bands_are_in_order_and_packs_only_become_more(found: tuple[LinePlan, LineOdds]) -> None:
    _, odds = found
    for point in odds.curve:
        assert list(point.packs) == sorted(point.packs)
    for before, after in zip(odds.curve, odds.curve[1:], strict=False):
        assert before.owed <= after.owed
        assert all(a <= b for a, b in zip(before.packs, after.packs, strict=True))
    assert odds.curve[-1].owed == sum(one.packs for lorry in odds.lorries for one in lorry.products)


def test_runs_lose_and_miss_no_more_than_they_have(found: tuple[LinePlan, LineOdds]) -> None:
    plan, odds = found
    assert {(one.run, one.product) for one in odds.runs} == {
        (getattr(one, "run", None) or getattr(one, "id", ""), one.product) for one in plan.giving
    }
    for one in odds.runs:
        assert 0 <= one.lost <= one.packs
        assert one.missed is not None, "nothing is cut out on this line"
        assert 0 <= one.missed <= one.packs
        assert one.late_min > 0
    missed = [one.missed or 0.0 for one in odds.runs]
    assert missed == sorted(missed, reverse=True)
    assert sum(one.lost for one in odds.runs) > 0
    assert sum(missed) > 0


def test_the_same_plan_has_the_same_odds(demo: Scenario, found: tuple[LinePlan, LineOdds]) -> None:
    plan, odds = found
    assert odds_of(demo, plan) == odds


def test_a_station_that_is_known_to_stop_seldom_costs_little_and_one_that_stops_often_most(
    demo: Scenario, found: tuple[LinePlan, LineOdds]
) -> None:
    plan, odds = found
    assert all(one.suggested for one in odds.stations)
    oven = next(one for one in odds.stations if "oven" in one.station)
    assert oven.every_min == USUAL_EVERY_MIN["conveyor"]
    seldom = odds_of(_with_stops(demo, oven.station, LONGEST_MIN), plan)
    often = odds_of(_with_stops(demo, oven.station, 2 * HOURS), plan)
    there = {one.station: one for one in seldom.stations}[oven.station]
    assert not there.suggested
    assert 0 <= there.packs < oven.packs
    assert often.stations[0].station == oven.station
    assert often.stations[0].clear
    assert often.all_complete
    assert odds.all_complete
    assert often.all_complete.value <= odds.all_complete.value
    assert _short(often) > _short(odds)
    assert [one.packs for one in often.stations] == sorted((one.packs for one in often.stations), reverse=True)
