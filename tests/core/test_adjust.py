"""Today's flour and weather on the card: same dry matter, the plant's rule, and the mass of the batch kept."""

from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plants import make_plan
from rundgang.core.conditions import Conditions
from rundgang.core.dough.adjust import adjusted
from rundgang.core.dough.card import batch_card
from rundgang.core.dough.mixed import Dough
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario
from rundgang.demo.ostermere import ostermere

DEMO = ostermere(date(2026, 3, 11))
WHITE = DEMO.product("lantern-plain")
PLAN = make_plan(DEMO, "ring-line", stop=after_evaluations(1, 1))
BISCUITS = make_plan(DEMO, "biscuit-line", stop=after_evaluations(1, 1))


def on(**today: float | None) -> Scenario:
    conditions = DEMO.conditions.model_dump() | {"humidity_pct": None, "by_hour": ()} | today
    return DEMO.model_copy(update={"conditions": Conditions.model_validate(conditions)})


def parts(plant: Scenario) -> dict[str, float]:
    return {line.ingredient: line.percent for line in adjusted(plant, WHITE.formula).formula}


def test_damp_flour_brings_its_own_water() -> None:
    """Same dry matter: at 15.5 % moisture 100 of flour become 100 x 86 / 84.5, the water gives way."""
    found = parts(on(flour_moisture_pct=15.5))
    assert found["flour-mill"] == pytest.approx(100 * 86 / 84.5)
    assert found["flour-mill"] + found["water"] == pytest.approx(153)
    assert found["salt"] == 1.8


def test_a_humid_room_holds_back_water_by_the_plants_rule() -> None:
    """0.5 % less for every ten points: 20 points above the reference are 1 %."""
    found = adjusted(on(humidity_pct=75), WHITE.formula)
    assert {line.ingredient: line.percent for line in found.formula}["water"] == pytest.approx(53 * 0.99)
    assert "-1.0 %" in found.correction
    assert adjusted(on(humidity_pct=55), WHITE.formula).correction == ""


def test_a_measurement_comes_before_the_rule() -> None:
    both = adjusted(on(humidity_pct=75, flour_moisture_pct=13), WHITE.formula)
    assert "13 % moisture" in both.correction
    assert "humidity" not in both.correction


@given(moisture=st.one_of(st.none(), st.floats(8, 18)), humidity=st.floats(0, 100))
def test_the_batch_keeps_its_mass(moisture: float | None, humidity: float) -> None:
    plant = on(flour_moisture_pct=moisture, humidity_pct=humidity)
    run = PLAN.runs[0]
    card = batch_card(plant, Dough(run, run.batches[0]))
    assert sum(line.grams for line in card.ingredients) == card.dough_g


def test_dry_ice_on_the_card_is_held_against_the_room() -> None:
    """1.6 % of the flour, at the plan's pace, in a room of 1,350 m³ with four air changes: well within the limits."""
    run = next(run for run in BISCUITS.runs if run.product == "signal-cocoa")
    card = batch_card(DEMO, Dough(run, run.batches[0]))
    flour = sum(line.grams for line in card.ingredients if line.role == "flour")
    assert card.dry_ice_g == pytest.approx(flour * 0.016, abs=50)
    assert card.room is not None
    assert card.room.keeps_limits
    assert any(caution.about == "Dry ice" for caution in card.cautions)
    assert all("decide." in caution.text for caution in card.cautions)


def test_a_dough_too_warm_for_ice_says_what_would_help() -> None:
    """Flour of 60 °C in a room of 80: all the water as ice is not enough, and each remedy says what it gives."""
    hot = on(flour_c=60, room_c=80, tap_c=30, chilled_c=None)
    run = PLAN.runs[0]
    card = batch_card(hot, Dough(run, run.batches[0]))
    assert card.water is not None
    assert card.heat is not None
    assert card.rule is not None
    assert not card.rule.feasible
    assert card.heat.short_k == 0, "rule and balance differ so far out; the rule alone asks for remedies"
    gains = [remedy.cools_k for remedy in card.heat.remedies]
    assert len(gains) == 4
    assert gains == sorted(gains, reverse=True)
