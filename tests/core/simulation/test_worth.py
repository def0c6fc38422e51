"""What changes would be worth: each makes what it says, its plan passes the check, and no luck is told as its merit."""

import pytest

from families import rate, strokes
from plants import belt, on_belt, product, scenario
from rundgang.core.errors import OutOfRangeError, UnknownItemError
from rundgang.core.kinds.conveyor import ConveyorStation
from rundgang.core.kinds.every import AnyStation
from rundgang.core.kinds.rate import RateStation
from rundgang.core.planning.model import PlantPlan
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario
from rundgang.core.simulation.worth import (
    LATER_MIN,
    LONGER,
    ORDERED,
    SELDOMER,
    Change,
    changes_for,
    with_change,
    worth_of,
)


def plant() -> Scenario:
    """A line whose slicer stops often, whose cooler is its bottleneck, and whose lorry leaves too soon."""
    buns = product(
        "bun",
        (strokes("divider", 200), on_belt("oven", 20, grace=1), on_belt("cooler", 30), strokes("slicer", 400)),
        target=6_000,
    )
    slicer = rate("slicer").model_copy(update={"stops_every_min": 40.0})
    return scenario(
        [rate("divider"), belt("oven"), belt("cooler", places=1_500), slicer], [buns], [("bun", 300.0, 12_000)]
    )


def search(asked: Scenario, begin: PlantPlan) -> PlantPlan:
    return plan_plant(asked, begin_from=begin.plans, weights=begin.weights, stop=after_evaluations(50, 50))


def _number(station: AnyStation) -> int:
    """Machines of a station, or its mixers."""
    return station.machines if isinstance(station, RateStation) else len(getattr(station, "mixers", ()))


def test_a_plan_that_does_not_pass_the_check_is_worth_nothing() -> None:
    day = plant()
    begin = plan_plant(day, stop=after_evaluations(50, 50))

    def careless(_: Scenario, plan: PlantPlan) -> PlantPlan:
        late = plan.plans[0].model_copy(update={"runs": plan.plans[0].runs * 2})
        return plan.model_copy(update={"plans": (late,)})

    assert worth_of(day, begin, "line", Change(kind="today"), careless) is None


def test_each_change_is_what_it_says() -> None:
    day = plant()
    line = day.line("line")
    for change in changes_for(day, "line"):
        changed = with_change(day, "line", change)
        there = changed.line("line")
        match change.kind:
            case "today":
                assert changed == day
            case "one more":
                before, after = (_number(one.station(str(change.station))) for one in (line, there))
                assert after == before + 1
            case "longer":
                station, grown = line.station(str(change.station)), there.station(str(change.station))
                assert isinstance(station, ConveyorStation)
                assert isinstance(grown, ConveyorStation)
                assert grown.length_m == LONGER * station.length_m
                assert grown.places == int(LONGER * (station.places or 0))
            case "steadier":
                stops = {one.id: one.stops_every_min for one in there.piece_stations}[str(change.station)]
                assert stops is not None
                if change.station == "slicer":
                    assert stops == SELDOMER * 40
            case "more orders":
                assert sum(one.packs for one in changed.orders) == round(ORDERED * 12_000)
            case "later lorries":
                assert [one.departs_min for one in changed.waves] == [one.departs_min + LATER_MIN for one in day.waves]
    assert {change.kind for change in changes_for(day, "line")} == {
        "today", "one more", "longer", "steadier", "more orders", "later lorries",
    }  # fmt: skip


def test_what_helps_misses_less_and_what_does_not_as_much() -> None:
    day = plant()
    begin = plan_plant(day, stop=after_evaluations(50, 50))
    found = {
        (one.change.kind, one.change.station): one
        for one in (worth_of(day, begin, "line", change, search) for change in changes_for(day, "line"))
        if one
    }
    assert len(found) == len(changes_for(day, "line")), "each plan passes the check"
    today = found["today", None]
    assert 0 < today.missed < 12_000
    assert today.planned_short == sum(one.short for one in begin.plans[0].waves)
    assert found["longer", "cooler"].planned_short < today.planned_short, "the cooler is the bottleneck"
    assert found["longer", "cooler"].missed < today.missed
    assert found["one more", "divider"].missed == today.missed, "the divider is not"
    assert found["steadier", "slicer"].missed < today.missed
    assert found["later lorries", None].missed < today.missed
    assert found["more orders", None].missed > today.missed
    assert all(0 <= one.complete <= 1 for one in found.values())


def test_what_cannot_be_is_said() -> None:
    day = plant()
    with pytest.raises(UnknownItemError):
        with_change(day, "line", Change(kind="steadier", station="nowhere"))
    for change in (Change(kind="longer", station="slicer"), Change(kind="one more", station="oven")):
        with pytest.raises(OutOfRangeError):
            with_change(day, "line", change)
