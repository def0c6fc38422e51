"""What is drawn from the stores, against the formula by hand; when it runs out; the ice machine."""

import pytest

from families import bulk_bread, plant_of, sandwich, yeast_rings
from plants import make_plan
from rundgang.core.conditions import Conditions
from rundgang.core.materials import ItemSupply, draws, supply
from rundgang.core.planning.model import LinePlan
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.plant import IceMachine
from rundgang.core.scenario import Delivery, Scenario, Stock


def planned(plant: Scenario) -> LinePlan:
    return make_plan(plant, "line", stop=after_evaluations(1, 1))


def of(plant: Scenario, item: str) -> ItemSupply:
    return next(found for found in supply(plant, [planned(plant)]) if found.item == item)


def test_the_draw_of_bread_is_its_formula() -> None:
    """By hand: all flour, that of the sponge too, is 100 of 169.2 parts of dough; a bag a loaf."""
    plant = plant_of(bulk_bread(), packs=2_000)
    plan = planned(plant)
    dough_kg = sum(batch.dough_g for run in plan.runs for batch in run.batches) / 1_000
    flour = of(plant, "flour")
    assert flour.used == pytest.approx(dough_kg * (50 + 81 / 1.62) / 166, rel=2e-3)
    assert of(plant, "bag").used == pytest.approx(sum(run.packs for run in plan.runs))
    assert flour.used == pytest.approx(sum(flour.by_hour))
    assert flour.on_hand is None
    assert flour.runs_out is None
    assert "water" not in {found.item for found in supply(plant, [plan])}


def test_what_steps_add_is_drawn_too() -> None:
    """The cream of a sandwich is 40 % fat, 5 g a biscuit, and one oil-take of 5 g a ring, its centre apart."""
    plant = plant_of(sandwich(), packs=300)
    run = planned(plant).runs[0]
    assert of(plant, "fat").used == pytest.approx(run.pieces / 2 * 0.005 * 0.4)
    rings = plant_of(yeast_rings(), packs=300)
    run = planned(rings).runs[0]
    assert of(rings, "fat").used == pytest.approx(run.pieces * 0.98 * 0.005)


def test_the_batch_at_which_it_runs_out_is_named() -> None:
    """A store of 500 kg is enough for as many doughs as fit; a delivery later in the day comes too late."""
    late = Stock(item="flour", on_hand=500, deliveries=(Delivery(at_min=2_000, amount=50_000),))
    plant = plant_of(bulk_bread(), packs=4_000, stocks=[late])
    plan = planned(plant)
    flour = of(plant, "flour")
    taken, first = 0.0, None
    for draw in sorted(draws(plant, plan)):
        if draw.item == "flour":
            taken += draw.amount
            if taken > 500 and first is None:
                first = draw
    assert first is not None
    assert flour.runs_out is not None
    assert (flour.runs_out.at_min, flour.runs_out.batch) == (first.at_min, first.batch)
    early = Stock(item="flour", on_hand=500, deliveries=(Delivery(at_min=0, amount=50_000),))
    assert of(plant_of(bulk_bread(), packs=4_000, stocks=[early]), "flour").runs_out is None


@pytest.mark.parametrize(("kg_per_h", "bin_kg", "enough"), [(1_000, 1_000, True), (0, 5, False), (3, 5, False)])
def test_the_ice_machine(kg_per_h: float, bin_kg: float, enough: bool) -> None:
    """A warm day asks for ice; what the bin holds and the machine makes is or is not enough."""
    plant = plant_of(bulk_bread(), packs=3_000)
    hot = plant.model_copy(
        update={
            "conditions": Conditions(room_c=30, flour_c=29, tap_c=22),
            "plant": plant.plant.model_copy(update={"ice_machine": IceMachine(kg_per_h=kg_per_h, bin_kg=bin_kg)}),
        }
    )
    ice = of(hot, "ice")
    assert ice.used > 5
    assert (ice.runs_out is None) is enough
    assert all(level.amount <= bin_kg for level in ice.levels), "the bin holds no more than it holds"


def test_those_that_run_out_come_first() -> None:
    plant = plant_of(
        bulk_bread(), packs=3_000, stocks=[Stock(item="yeast", on_hand=0.5), Stock(item="bag", on_hand=9e6)]
    )
    listed = supply(plant, [planned(plant)])
    assert listed[0].item == "yeast"
    assert listed[0].runs_out is not None
    assert all(found.runs_out is None for found in listed[1:])
