"""What would fit in what a plan cannot make in time: each named change worked by hand on a line of one belt."""

import pytest

from plants import belt, mixers, on_belt, product, scenario
from rundgang.core.errors import UnknownItemError
from rundgang.core.kinds.parts import CrewUse
from rundgang.core.orders import Absence
from rundgang.core.planning.fit_in import _with_one_more, ways_in
from rundgang.core.planning.model import PlantPlan
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.plant import Crew
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


def test_one_more_of_a_crew_is_away_when_all_are() -> None:
    """The bakers come at 60, and the lorry leaves then: a third one, who would come with them, brings nothing."""
    plant, _ = planned(300)
    staffed = tuple(
        station.model_copy(update={"staffed": CrewUse(crew="bakers", people=2)}) if station.id == "oven" else station
        for station in plant.plant.lines[0].stations
    )
    line = plant.plant.lines[0].model_copy(update={"stations": staffed})
    crews = (Crew(id="bakers", name="Bakers", people=2),)
    fields = {name: getattr(plant, name) for name in Scenario.model_fields}
    manned = Scenario(**fields | {"plant": plant.plant.model_copy(update={"lines": (line,), "crews": crews})})
    early = tuple(wave.model_copy(update={"departs_min": 60.0}) if wave.id == "w0" else wave for wave in manned.waves)
    shift = Absence(crew="bakers", from_min=-1_000, to_min=60, people=2)
    late = manned.changed(waves=early, absences=(shift,))
    plan = plan_plant(late, stop=after_evaluations(5, 5))
    ways = {way.what: way.short for way in ways_in(late, plan, "line", "w0", "roll")}
    assert "Lorry w0 leaves 60 min later" in ways, "at 60 the first piece enters, at 85 it is baked"
    assert "one person more in Bakers" not in ways
    one = _with_one_more(late, crews[0])
    assert (one.plant.crews[0].people, one.absences[0].people) == (3, 3)
    half = _with_one_more(late.changed(absences=(shift.model_copy(update={"people": 1}),)), crews[0])
    assert half.absences[0].people == 1, "where somebody is there, one more can be as well"
