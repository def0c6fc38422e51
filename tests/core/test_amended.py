"""What a change of the library does to a plan as it stands: each figure worked by hand on a line of one oven."""

import pytest

from plants import belt, mixers, on_belt, product, scenario
from rundgang.core.errors import InfeasibleError
from rundgang.core.library import library_of
from rundgang.core.planning.amended import LineAmended, amended, touched
from rundgang.core.planning.model import PlantPlan
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.plant import Crew, Line
from rundgang.core.scenario import Scenario


def plant(dwell: float = 25, setup: float = 0, leaves: float = 300, humid: float | None = None) -> Scenario:
    """Mixed 10 min, rested 5, baked; two products of 1,000 pieces each, at 6,000 an hour 10 min long."""
    steps = {"roll": on_belt("oven", dwell), "bun": on_belt("oven", dwell).model_copy(update={"humidity_pct": humid})}
    rolls = [product(name, [step], cycle=10, rest=5, age=120, target=6_000) for name, step in steps.items()]
    ordered = [("roll", leaves, 1_000), ("bun", leaves, 1_000)]
    return scenario([belt("oven", setup=setup)], rolls, ordered, mixing=mixers(8), minutes=600)


def planned(made: Scenario) -> PlantPlan:
    return plan_plant(made, stop=after_evaluations(5, 5))


def only(before: Scenario, after: Scenario, plan: PlantPlan) -> LineAmended:
    (found,) = amended(before, after, plan)
    return found


def test_nothing_changes_where_nothing_is_changed() -> None:
    before = plant()
    assert amended(before, plant(), planned(before)) == ()


def test_a_longer_bake_moves_every_last_pack_by_as_much() -> None:
    """Six minutes more in the oven: the divider begins as before, every last pack is six minutes later."""
    before, after = plant(), plant(dwell=31)
    plan = planned(before)
    found = only(before, after, plan)
    assert [(one.station, one.was_min, one.now_min) for one in found.stays] == [("oven", 25, 31)] * 2
    for run in found.runs:
        assert run.now_start_min == pytest.approx(run.was_start_min)
        assert run.now_last_pack_min == pytest.approx(run.was_last_pack_min + 6)
    assert len(found.runs) == 2
    assert [found.gaps, found.lorries, found.gone] == [(), (), ()]
    assert found.breaks, "the plan as it stands takes the pieces out six minutes too early"


def test_setting_up_between_two_products_widens_the_gap_by_it() -> None:
    """Another humidity is set on the empty belt: 25 min white; with eight minutes to set it, 33."""
    before, after = plant(humid=60), plant(humid=60, setup=8)
    plan = planned(before)
    found = only(before, after, plan)
    (gap,) = found.gaps
    assert (gap.first, gap.then) == tuple(run.id for run in plan.plans[0].runs)
    assert [gap.was_min, gap.now_min] == pytest.approx([25, 33])
    (later,) = found.runs
    assert later.run == gap.then
    assert later.now_start_min - later.was_start_min == pytest.approx(8)
    assert found.stays == ()


def test_packs_that_a_lorry_then_misses_are_said() -> None:
    """The last pack was made just in time; six minutes later 600 of its 10 minutes' 1,000 are late."""
    first = plant()
    last = max(run.last_pack_min for run in planned(first).plans[0].runs)
    before, after = plant(leaves=last), plant(dwell=31, leaves=last)
    plan = planned(before)
    assert all(outcome.short == 0 for outcome in plan.plans[0].waves)
    (lorry,) = only(before, after, plan).lorries
    assert lorry.was_short == 0
    assert lorry.now_short == pytest.approx(600, abs=1)


def test_a_product_that_is_made_there_no_more_takes_its_runs_along() -> None:
    before = plant()
    plan = planned(before)
    kept = tuple(made for made in before.products if made.id == "roll")
    orders = tuple(order for order in before.orders if order.product == "roll")
    after = Scenario.model_validate(
        {**{name: getattr(before, name) for name in Scenario.model_fields}, "products": kept, "orders": orders}
    )
    gone = [run.id for run in plan.plans[0].runs if run.product == "bun"]
    assert only(before, after, plan) == LineAmended(line="line", gone=tuple(gone))


def test_a_line_that_cannot_make_it_at_all_is_named() -> None:
    """A dough rests until the divider begins and must be used up within less than that: no run can be laid."""
    before = plant()
    rolls = [product(name, [on_belt("oven", 25)], cycle=10, rest=5, age=5.01, target=10) for name in ("roll", "bun")]
    after = scenario([belt("oven")], rolls, [("roll", 300, 1_000)], mixing=mixers(8, least=400), minutes=600)
    with pytest.raises(InfeasibleError, match=r"^Line: "):
        amended(before, after, planned(before))


def test_only_lines_that_a_change_has_to_do_with_are_laid_anew() -> None:
    """What all lines share touches all; a line or a product of its own only that line."""
    before = plant()
    plan = planned(before)
    library = library_of(before)
    assert touched(library, library, plan) == ()
    named = library.model_copy(update={"plant": library.plant.model_copy(update={"town": "Elsewhere"})})
    assert touched(library, named, plan) == (), "a name decides about no time"
    hands = library.plant.model_copy(update={"crews": (Crew(id="hands", name="Hands", people=2),)})
    assert touched(library, library.model_copy(update={"plant": hands}), plan) == ("line",)
    other = Line(id="other", name="Other", stations=(mixers(), belt("oven")))
    more = library.plant.model_copy(update={"lines": (*library.plant.lines, other)})
    assert touched(library, library.model_copy(update={"plant": more}), plan) == (), "the plan has no runs of it"
