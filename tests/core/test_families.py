"""Every family from its route to its packs: balance, doughs, cards and times, with the figures of the trade."""

from datetime import date

import pytest

from families import (
    FAMILIES,
    bulk_bread,
    centres,
    cracker,
    enrobed,
    filled,
    laminated,
    no_time_bread,
    plant_of,
    yeast_rings,
)
from families import sandwich as sandwich_biscuits
from plants import make_plan
from rundgang.core.balance import Stage, balance
from rundgang.core.dough.card import batch_cards
from rundgang.core.dough.lamination import laminate
from rundgang.core.planning.check.plans import check
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.planning.timeline import timeline
from rundgang.core.scenario import Scenario
from rundgang.demo.ostermere import ostermere

HOUR = 60


def gate(plant: Scenario, product: str, station: str, pace: float | None = None) -> Stage:
    return next(stage for stage in balance(plant, product, pace).stages if stage.station == station)


@pytest.mark.parametrize("name", FAMILIES)
def test_a_family_is_planned_from_its_first_dough_to_its_last_pack(name: str) -> None:
    """Balance, batches, cards and times, and the independent check finds nothing."""
    family = FAMILIES[name]()
    plant = plant_of(family)
    found = balance(plant, family.look_at)
    plan = make_plan(plant, "line", stop=after_evaluations(20, 20))
    assert check(plant, plan) == ()
    laid = timeline(plant, plan)
    giving = next(run for run in plan.giving if run.product == family.look_at)
    first_dough = min(slot.start_min for run in plan.runs for batch in run.batches for slot in batch.slots)
    assert giving.first_pack_min - laid.from_min >= found.flour_to_pack_min - 1e-6
    assert laid.from_min == first_dough
    assert any(ribbon.product == family.look_at for ribbon in laid.ribbons)
    cards = batch_cards(plant, plan)
    assert all(sum(line.grams for line in card.ingredients) == card.dough_g for card in cards)
    assert {card.preparation for card in cards} >= {
        made.id
        for made in family.preparations
        if any(made.id == line.ingredient for line in family.products[0].formula)
    }


def test_bulk_bread() -> None:
    """600 kg flour give about 1,000 kg dough; 192 a minute need three slicers of 65; 5.5 h (common practice)."""
    plant = plant_of(bulk_bread(), packs=6_000)
    plan = make_plan(plant, "line", stop=after_evaluations(1, 1))
    dough = batch_cards(plant, plan)[-1]
    assert dough.preparation is None
    sponge = next(card for card in batch_cards(plant, plan) if card.preparation and card.number == dough.number)
    flour_kg = sum(line.grams for card in (dough, sponge) for line in card.ingredients if line.role == "flour") / 1_000
    assert dough.dough_g / 1_000 == pytest.approx(flour_kg * 1_000 / 600, rel=0.01)
    assert gate(plant, "loaf", "slicer", 192 * HOUR).machines_needed == 3
    first = min(batch.preparations[0].start_min for batch in plan.runs[0].batches)
    assert (plan.runs[0].first_pack_min - first) / HOUR == pytest.approx(5.5, abs=0.25)


def test_bulk_bread_needs_its_troughs_and_tins() -> None:
    """By definition: troughs = (hold + turn-round) / interval, tins = pace x (time on + return) / pieces."""
    plant = plant_of(bulk_bread())
    found = balance(plant, "loaf", 10_000)
    troughs = next(stage for stage in found.stages if stage.station == "troughs")
    assert troughs.machines_needed == -(-(180 + 15) // found.batch_interval_min)
    tins = next(stage for stage in found.stages if stage.station == "tins")
    assert tins.machines_needed == -(-10_000 / HOUR * (60 + 20 + 15) // 4)
    few = plant.plant.lines[0].carriers[0].model_copy(update={"count": 2_000})
    line = plant.plant.lines[0].model_copy(update={"carriers": (few,)})
    tight = plant.model_copy(update={"plant": plant.plant.model_copy(update={"lines": (line,)})})
    assert balance(tight, "loaf").bottleneck == "tins"
    assert balance(tight, "loaf").most_per_h == pytest.approx(2_000 * 4 * HOUR / 95)


def test_no_time_bread_takes_three_and_a_half_hours() -> None:
    """3 min of mixing, 5 to 8 of rest, 45 to 50 of proof, 17 to 25 of bake, 2 h of cooling: about 3.5 h."""
    assert balance(plant_of(no_time_bread()), "loaf").flour_to_pack_min / HOUR == pytest.approx(3.5, abs=0.25)


def test_yeast_doughnuts_and_their_centres() -> None:
    """Fried 2 min in all, turned after 60 s; as many centres as rings are cut (common practice)."""
    plant = plant_of(yeast_rings())
    fryer = gate(plant, "ring", "fryer")
    assert fryer.dwell_min == 2
    plan = make_plan(plant, "line", stop=after_evaluations(1, 1))
    (run,), (cut,) = plan.runs, plan.cut_runs
    good_cut = run.pieces * 0.98
    assert cut.packs == int(good_cut / 10)
    rings, small = plant.product("ring"), plant.whole(plant.product("centre"))
    assert rings.scaling_g == pytest.approx(45 / 0.9 + 15)
    assert small.scaling_g == pytest.approx(rings.scaling_g), "the same sheet, seen from the centre"
    followed = balance(plant_of(centres()), "centre")
    assert followed.stages[0].name == "Mixers", "its way begins with the rings' dough"
    assert [stage.station for stage in followed.stages][-2:] == ["small-fryer", "tubs"]


def test_cake_doughnuts_have_no_proof() -> None:
    """Fried about 1.5 min, straight from the depositor: from flour to fried in minutes (common practice)."""
    plant = plant_of(FAMILIES["cake rings"]())
    assert balance(plant, "cake").flour_to_pack_min < 15
    assert gate(plant, "cake", "fryer").capacity_per_h == pytest.approx(150 * HOUR / 1.5)


def test_filled_doughnuts_are_as_many_as_hands_can_fill() -> None:
    """Headcount is the capacity: 12 people at 8 a minute; the cream's kettle is a second feed."""
    plant = plant_of(filled())
    found = balance(plant, "filled")
    assert (found.bottleneck, found.most_per_h) == ("nozzles", 12 * 8 * HOUR)
    cream = gate(plant, "filled", "kettle")
    assert cream.counted == "kg"
    assert cream.taken_per_piece == pytest.approx(0.014)
    assert cream.capacity_per_h == pytest.approx(200 * HOUR / 10 / 0.014)


def test_sandwich_biscuits_take_two_shells() -> None:
    """5,000 moulded shells an hour make 2,500 biscuits, 227 stacks of 11 (common practice)."""
    plant = plant_of(sandwich_biscuits())
    found = balance(plant, "sandwich")
    assert found.most_per_h == pytest.approx(2_500)
    assert found.packs_per_h == pytest.approx(2_500 / 11)
    assert gate(plant, "sandwich", "moulder").taken_per_piece == 2
    assert plant.product("sandwich").finished_g == pytest.approx(11 * (2 * 6 + 5))


def test_enrobed_biscuits_weigh_what_was_put_together() -> None:
    assert plant_of(enrobed()).product("enrobed").finished_g == 9 + 8 + 9


def test_crackers_wait_for_hours_and_no_longer_than_they_may() -> None:
    """16 h in the warm room with a ceiling of 19: one dough is divided within 3 h of being ready."""
    plant = plant_of(cracker())
    found = balance(plant, "cracker")
    assert found.flour_to_pack_min == pytest.approx(7 + 9 + 960 + 4), "slurry, dough, warm room, line"
    product = plant.product("cracker")
    assert (product.rest_min, product.max_age_min) == (960, 1_140)
    assert product.scaling_g == pytest.approx(100 * 4 / 0.8), "a sheet of a hundred crackers"
    room = gate(plant, "cracker", "warm-room")
    assert room.machines_needed == -(-(960 + 30) // found.batch_interval_min)


def test_laminated_pastry_rests_eight_hours_between_its_legs() -> None:
    """Refrigerated 8 h; 243 layers by folding in three (common practice)."""
    plant = plant_of(laminated())
    found = balance(plant, "pastry")
    assert found.flour_to_pack_min > 480
    assert laminate((3,) * 5, 3, 0.25, 900, 10).fat_layers == 243
    pastry = plant.product("pastry")
    assert pastry.scaling_g == pytest.approx(100 * 52 / 0.85 - 1_500), "the pad without the fat laid in"
    store = gate(plant, "pastry", "cold-store")
    assert store.capacity_in_per_h == pytest.approx(120 * 4 * HOUR / 490)
    assert store.inside == pytest.approx(found.pace_per_h / 100 * 8)


def test_the_demo_makes_twelve_families_on_five_lines() -> None:
    """Every product of the demo is balanced at its target, every line's plan passes the check."""
    demo = ostermere(date(2026, 3, 11))
    assert len(demo.plant.lines) == 5
    assert len(demo.products) >= 30
    assert len({product.family.split(",")[0] for product in demo.products}) >= 10
    for product in demo.products:
        found = balance(demo, product.id)
        assert found.most_per_h >= product.target_per_hour
        assert found.least_per_h < product.target_per_hour
    for line in demo.plant.lines:
        plan = make_plan(demo, line.id, stop=after_evaluations(1, 1))
        assert check(demo, plan) == ()


def test_factor_rule_and_heat_balance_agree_on_the_demo() -> None:
    """Each product's friction factor fits its mixing work: the rule and the heat balance lie close together."""
    demo = ostermere(date(2026, 3, 11))
    for line in demo.plant.lines:
        plan = make_plan(demo, line.id, stop=after_evaluations(1, 1))
        for card in batch_cards(demo, plan):
            if card.heat and card.water:
                assert card.heat.water_c == pytest.approx(card.water.wanted_c, abs=4), card.product_name
