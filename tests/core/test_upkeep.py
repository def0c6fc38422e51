"""Tools worn by what passes, against sums by hand; what is cleaned between runs; a tool that was renewed is new."""

import pytest

from rundgang.core.floor.upkeep import Cleaned, due_cleanings, renewed_at, tool_states
from rundgang.core.kinds.parts import WearingTool
from rundgang.core.kinds.rate import RateStation, RateStep
from rundgang.core.planning.legs import passings
from rundgang.core.planning.model import LinePlan, PlantPlan
from rundgang.core.scenario import Scenario
from rundgang.store.cluster import Urls
from simulated import planned_in

SLICER = "slicer"


@pytest.fixture
def planned(urls: Urls) -> tuple[Scenario, PlantPlan]:
    """The ring line's day and its first plan."""
    return planned_in(urls)


def with_tool(scenario: Scenario, **more: object) -> Scenario:
    """The slicer has one tool, and no other station any."""
    tool = WearingTool.model_validate({"id": "t", "name": "Tool", "renew_min": 15, **more})
    line = scenario.plant.lines[0]
    stations = tuple(
        station.model_copy(update={"tools": (tool,) if station.id == SLICER else ()}) for station in line.stations
    )
    plant = scenario.plant.model_copy(update={"lines": (line.model_copy(update={"stations": stations}),)})
    opening = scenario.opening.model_copy(update={"worn": ()})
    return scenario.model_copy(update={"plant": plant, "opening": opening})


def without_renewals(plan: LinePlan) -> LinePlan:
    return plan.model_copy(update={"renewals": ()})


def test_hours_are_counted_from_the_first_piece_in_to_the_last_out(planned: tuple[Scenario, PlantPlan]) -> None:
    scenario, plan = with_tool(planned[0], counted="hours", life=3), without_renewals(planned[1].plans[0])
    at = [one for run in plan.runs for one in passings(scenario, run) if one.station == SLICER]
    hours = sum(one.last_out - one.first_in for one in at) / 60
    (state,) = tool_states(scenario, plan, 10_000)
    assert state.used == pytest.approx(hours)
    (before,) = tool_states(scenario, plan, 0)
    assert before.used == 0
    left, ends = 180.0, 0.0
    for one in sorted(at, key=lambda passing: passing.first_in):
        if left <= one.last_out - one.first_in:
            ends = one.first_in + left
            break
        left -= one.last_out - one.first_in
    assert before.ends_min == pytest.approx(ends)
    assert (before.stands, state.stands) == ("ends first", "worn")


def test_strokes_are_of_one_lane(planned: tuple[Scenario, PlantPlan]) -> None:
    """Pieces over machines, lanes, efficiency and pieces a stroke (common practice, no published source)."""
    scenario, plan = with_tool(planned[0], counted="strokes", life=1e6), without_renewals(planned[1].plans[0])
    station = scenario.plant.lines[0].station(SLICER)
    assert isinstance(station, RateStation)
    strokes = 0.0
    for run in plan.runs:
        for one in passings(scenario, run):
            if one.station == SLICER:
                step = next(step for step in one.product.piece_steps if step.station == SLICER)
                assert isinstance(step, RateStep)
                pieces = one.flow_per_h * (one.last_in - one.first_in) / 60
                strokes += pieces / (station.machines * station.lanes * station.efficiency * step.takes)
    (state,) = tool_states(scenario, plan, 10_000)
    assert state.used == pytest.approx(strokes)
    assert state.ends_min is None, "its life is longer than the plan"
    assert state.stands == "good"


def test_days_pass_by_themselves(planned: tuple[Scenario, PlantPlan]) -> None:
    scenario, plan = with_tool(planned[0], counted="days", life=2), without_renewals(planned[1].plans[0])
    (state,) = tool_states(scenario, plan, 720)
    assert state.used == pytest.approx(0.5)
    assert state.ends_min == pytest.approx(2_880)


@pytest.mark.parametrize("counted", ["hours", "strokes", "days"])
def test_a_tool_that_was_renewed_is_new_from_then_on(planned: tuple[Scenario, PlantPlan], counted: str) -> None:
    """Whatever it was worn by before; and worn by what passes later as an old one would be."""
    scenario, plan = with_tool(planned[0], counted=counted, life=1e6), without_renewals(planned[1].plans[0])
    minute, later = 900.0, 1_500.0
    (old,), (older,) = tool_states(scenario, plan, minute), tool_states(scenario, plan, later)
    worn = renewed_at(scenario, plan, SLICER, "t", minute)
    after = scenario.model_copy(update={"opening": scenario.opening.model_copy(update={"worn": worn})})
    (new,), (newer,) = tool_states(after, plan, minute), tool_states(after, plan, later)
    assert old.used > 0
    assert new.used == pytest.approx(0)
    assert newer.used == pytest.approx(older.used - old.used)


def test_what_leaves_an_allergen_is_cleaned_away_before_what_has_none(planned: tuple[Scenario, PlantPlan]) -> None:
    """As by Regulation (EU) 1169/2011 each allergen is one that the next product must declare, or must not bring."""
    scenario, plan = planned[0], planned[1].plans[0]
    due = list(due_cleanings(scenario, plan, 0))
    assert due
    assert not any(one.is_over for one in due)
    product = {run.id: run.product for run in plan.runs}
    for one in due:
        behind, before = scenario.product(product[one.behind]), scenario.product(product[one.before])
        left = (scenario.allergens(behind) - scenario.allergens(before)) | (behind.traits - before.traits)
        assert any(name in one.what for name in left)
        assert one.until_min - one.from_min >= one.minutes - 1e-6, "the plan leaves time for it"


def test_a_cleaning_that_was_done_in_its_time_is_due_no_more(planned: tuple[Scenario, PlantPlan]) -> None:
    scenario, plan = planned[0], planned[1].plans[0]
    first, *others = due_cleanings(scenario, plan, 100_000)
    assert first.is_over
    middle = (first.from_min + first.until_min) / 2
    assert list(due_cleanings(scenario, plan, 100_000, [Cleaned(first.station, middle)])) == others
    elsewhere = [Cleaned("nowhere", middle), Cleaned(first.station, first.until_min + first.minutes + 1)]
    assert list(due_cleanings(scenario, plan, 100_000, elsewhere)) == [first, *others]
