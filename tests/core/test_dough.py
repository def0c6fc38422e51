"""The dough room: scaling exactly, the water's temperature, ice, and what the card says."""

from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plants import belt, make_plan, on_belt, product, scenario
from rundgang.core.conditions import Conditions
from rundgang.core.dough.card import BatchCard, Friction, batch_card, batch_cards
from rundgang.core.dough.mixed import Dough, find_dough
from rundgang.core.dough.probe import Measured
from rundgang.core.dough.scaling import scale_formula
from rundgang.core.dough.water import Counts, Water, ice_share, water_for, water_temperature
from rundgang.core.errors import UnknownItemError
from rundgang.demo.materials import INGREDIENTS
from rundgang.demo.ring_line import PRODUCTS, ring_line

HEAT_OF_MELTING_KJ_KG = 333.55  # ice to water at 0 °C, standard reference value, from memory
WATER_KJ_KG_K = 4.186  # from memory


def test_rule_of_three_temperatures() -> None:
    """The factor rule's worked form: 3 x 25 − 21 flour − 24 room − 20 friction = 10 °C (common practice)."""
    assert water_temperature(25, (21, 24), 20) == 10


def test_rule_of_four_temperatures() -> None:
    """With a pre-ferment at 23 °C: 4 x 25 − 21 − 24 − 23 − 20 = 12 °C (common practice)."""
    assert water_temperature(25, (21, 24, 23), 20) == 12


@given(tap=st.floats(5, 35), below=st.floats(0.5, 30))
def test_ice_by_rule_agrees_in_both_unit_systems(tap: float, below: float) -> None:
    """W (Ttap − Tw) / (Ttap + 80) in °C is / (Ttap + 112) in °F: 80 K x 1.8 − 32 = 112."""
    wanted = tap - below
    tap_f, wanted_f = tap * 1.8 + 32, wanted * 1.8 + 32
    assert ice_share(tap, wanted) == pytest.approx((tap_f - wanted_f) / (tap_f + 112))


@given(tap=st.floats(5, 35), below=st.floats(0.5, 30))
def test_ice_by_rule_agrees_with_the_heat_balance(tap: float, below: float) -> None:
    """Ice at 0 °C melts and warms to Tw while the rest cools from Ttap to Tw: to 1 %."""
    wanted = tap - below
    taken_per_kg_ice = HEAT_OF_MELTING_KJ_KG + WATER_KJ_KG_K * wanted
    given_per_kg_water = WATER_KJ_KG_K * (tap - wanted)
    by_heat = given_per_kg_water / (given_per_kg_water + taken_per_kg_ice)
    assert ice_share(tap, wanted) == pytest.approx(by_heat, rel=0.01)


PLAIN = product("plain", [on_belt("oven", 10)])  # dough 25 °C, friction 20 °C
DEMO = ring_line(date(2026, 3, 11))


def plain_water(room_c: float, flour_c: float, tap_c: float, chilled_c: float | None = None) -> Water:
    """Water of 100 kg for a dough of 25 °C with a friction of 20 °C."""
    today = Conditions(room_c=room_c, flour_c=flour_c, tap_c=tap_c, chilled_c=chilled_c)
    return water_for(25, (Counts("flour", flour_c), Counts("room", room_c)), today, 100_000, 20)


def test_warm_flour_asks_for_ice() -> None:
    water = plain_water(26, 25, 18)
    assert water.wanted_c == pytest.approx(4)
    assert water.ice_g == round(100_000 * 14 / 98 / 10) * 10
    assert water.liquid_g + water.ice_g == 100_000
    assert water.liquid_c == 18
    assert water.feasible


def test_cold_room_asks_for_warm_water() -> None:
    water = plain_water(16, 14, 9)
    assert (water.wanted_c, water.liquid_c, water.ice_g) == (25, 25, 0)


def test_says_by_how_much_it_cannot_be_reached() -> None:
    hot = plain_water(80, 60, 20)
    assert not hot.feasible
    assert "5.0 K too warm" in hot.remark, "3 x 25 − 80 − 60 − 20 = −85 °C, 5 °C below what all-ice stands for"
    assert hot.ice_g == 100_000
    cold = plain_water(0, -5, 5)
    assert not cold.feasible
    assert "10.0 K above what yeast bears" in cold.remark


def test_the_chiller_comes_before_the_ice() -> None:
    """Water of 8 °C from a tap of 18 and a chiller of 3: two thirds chilled, and it mixes to 8 °C."""
    water = plain_water(24, 23, 18, chilled_c=3)
    assert (water.wanted_c, water.ice_g, water.liquid_g) == (8, 0, 100_000)
    mixed = (water.chilled_g * 3 + (water.liquid_g - water.chilled_g) * 18) / water.liquid_g
    assert mixed == pytest.approx(8, abs=0.02), "to the chiller's meter"
    colder = plain_water(28, 25, 18, chilled_c=3)
    assert colder.wanted_c == 2
    assert (colder.liquid_c, colder.ice_g) == (3, round(100_000 * 1 / 83 / 10) * 10), "the ice melts in chilled water"


@given(grams=st.integers(70_000, 400_000), which=st.integers(0, 2))
def test_parts_add_up_to_the_batch_on_each_scale(grams: int, which: int) -> None:
    plant = INGREDIENTS
    steps = {item.id: item.scale_step_g for item in plant}
    parts = scale_formula(DEMO, PRODUCTS[which].formula, grams)
    assert sum(part.grams for part in parts) == grams
    flour = sum(part.grams for part in parts if part.role == "flour")
    for part in parts:
        if part.role != "water":
            assert part.grams % steps[part.ingredient] == 0
        assert part.grams / flour * 100 == pytest.approx(part.percent, abs=0.4), "baker's percent, to the scales"


def test_cards_follow_the_clock_and_the_plan() -> None:
    plan = make_plan(DEMO, "ring-line")
    cards = batch_cards(DEMO, plan)
    assert len(cards) == sum(len(run.batches) for run in plan.runs)
    assert [card.start_min for card in cards] == sorted(card.start_min for card in cards)
    for card in cards:
        assert sum(line.grams for line in card.ingredients) == card.dough_g
        assert card.divide_from_min <= card.divided_min + 1e-9
        assert card.divided_min < card.divide_by_min


def test_inclusions_go_in_late_and_allergens_are_named() -> None:
    """Inclusions go in during the last part of mixing, or they are crushed (common practice)."""
    plan = make_plan(DEMO, "ring-line")
    card = next(card for card in batch_cards(DEMO, plan) if card.product == "harvest-sesame")
    sesame = next(line for line in card.ingredients if line.ingredient == "sesame")
    total = sum(phase.minutes for phase in card.phases)
    assert total / 2 < sesame.at_min < total
    assert sesame.allergens == ("sesame",)
    assert any("sesame" in caution.about for caution in card.cautions)
    assert all(caution.text.endswith("decide.") for caution in card.cautions)


def test_unknown_batch_is_named() -> None:
    plant = scenario([belt("oven")], [PLAIN], [("plain", 600.0, 500)])
    plan = make_plan(plant, "line")
    assert find_dough(plan, "R1", 1).batch.number == 1
    with pytest.raises(UnknownItemError, match="no batch “R9 1”"):
        find_dough(plan, "R9", 1)


def test_learnt_friction_changes_the_batches_not_yet_measured() -> None:
    """One degree more friction, one degree colder water; what is mixed keeps the factor it had."""
    plan = make_plan(DEMO, "ring-line")
    run = plan.runs[0]
    first, other = run.batches[0], run.batches[2]
    own = batch_card(DEMO, Dough(run, first))

    def water_c(card: BatchCard) -> float:
        assert card.water is not None
        return card.water.wanted_c

    factor = own.friction.friction_c
    learnt = {(run.product, first.mixer): Friction(friction_c=factor + 1, readings=6)}
    wanted = own.dough_temperature_c
    log = {(run.id, first.number): Measured(dough_c=wanted + 2, water_c=water_c(own), friction_c=factor)}
    assert other.mixer == first.mixer
    assert water_c(batch_card(DEMO, Dough(run, other), learnt, log)) == pytest.approx(water_c(own) - 1)
    mixed = batch_card(DEMO, Dough(run, first), learnt, log)
    assert water_c(mixed) == pytest.approx(water_c(own))
    assert mixed.probe is not None
    assert mixed.probe.above_c == pytest.approx(2)
    assert not mixed.probe.good
    assert "+6.0 K off" in mixed.probe.lesson, "three temperatures times 2 K"
    assert mixed.probe.yeast_pace > 1, "a warmer dough runs ahead"


def test_factor_rule_and_heat_balance_stand_side_by_side() -> None:
    """With a mixing work that fits its friction factor rule and balance agree to a few degrees (common practice)."""
    plan = make_plan(DEMO, "ring-line")
    for run in plan.runs:
        card = batch_card(DEMO, Dough(run, run.batches[0]))
        assert card.heat is not None
        assert card.water is not None
        assert card.heat.water_c == pytest.approx(card.water.wanted_c, abs=3)
    bare = scenario([belt("oven")], [PLAIN], [("plain", 600.0, 500)])
    planned = make_plan(bare, "line")
    assert batch_card(bare, Dough(planned.runs[0], planned.runs[0].batches[0])).heat is None, "no mixing work is known"
