"""What would fit in what a plan cannot make in time: each named change worked by hand on a line of one belt."""

import pytest

from plants import belt, mixers, on_belt, product, scenario
from rundgang.core.errors import UnknownItemError
from rundgang.core.planning.fit_in import ways_in
from rundgang.core.planning.model import PlantPlan
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario


def planned(leaves: float, packs: int = 1_000) -> tuple[Scenario, PlantPlan]:
    """Mixed 10 min, rested 5, baked 25: the first pack at 40, the last of 1,000 at 40 + 1,000 / 6,000 h = 50."""
    roll = product("roll", [on_belt("oven", 25)], cycle=10, rest=5, age=120, target=6_000)
    plant = scenario([belt("oven")], [roll], [("roll", leaves, packs)], mixing=mixers(8, most=500), minutes=600)
    return plant, plan_plant(plant, stop=after_evaluations(5, 5))


def test_a_lorry_that_leaves_too_early() -> None:
    """Half of its packs are made when it leaves at 45: half an hour is enough, by the lorry or by the opening."""
    plant, plan = planned(45)
    found = ways_in(plant, plan, "line", "w0", "roll")
    assert {way.what: way.short for way in found} == {
        "Lorry w0 leaves 30 min later": 0,
        "the plant opens 30 min earlier": 0,
        "500 packs fewer ordered": 0,
    }
    assert all(way.points > 0 for way in found)


def test_what_is_not_enough_is_said() -> None:
    """At 10 nothing is made; 30 min later neither, after an hour all is: only what brings something is listed."""
    plant, plan = planned(10)
    found = {way.what: way.short for way in ways_in(plant, plan, "line", "w0", "roll")}
    assert found == {
        "Lorry w0 leaves 60 min later": 0,
        "the plant opens 60 min earlier": 0,
        "1,000 packs fewer ordered": 0,
    }
    plant, plan = planned(15, packs=9_000)
    partly = {way.what: way.short for way in ways_in(plant, plan, "line", "w0", "roll")}
    assert partly["Lorry w0 leaves 30 min later"] == 9_000 - 500
    assert partly["Lorry w0 leaves 120 min later"] == 0


def test_a_lorry_that_misses_nothing_needs_nothing() -> None:
    plant, plan = planned(300)
    assert ways_in(plant, plan, "line", "w0", "roll") == ()
    with pytest.raises(UnknownItemError, match="lorry with that product"):
        ways_in(plant, plan, "line", "w0", "cake")
