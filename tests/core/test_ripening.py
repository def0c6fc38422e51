"""Ripening: limits by what the yeast has done, against a sum of its own; folding, bands and dry ice by hand."""

from math import exp

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError
from scipy.integrate import quad

from families import laminated, mixing, plant_of, rate, strokes
from families import made as product_of
from plants import make_plan, mixers, scenario
from rundgang.core.balance import balance
from rundgang.core.dough.heat_balance import Bowl, dry_ice_to, water_by_heat
from rundgang.core.dough.proof import BAKERS, activity
from rundgang.core.kinds.conveyor import ConveyorStep
from rundgang.core.kinds.held import HeldStation, HeldStep
from rundgang.core.kinds.parts import Bands, Lamination, SetUpCheck
from rundgang.core.kinds.ripening import Bears, Ripening
from rundgang.core.planning.check.plans import check
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario

FEW = after_evaluations(20, 20)
AIR, K = 29.0, 0.01


def done(dough_c: float, minutes: float) -> float:
    """The integral of the yeast's activity along Newton's law, by adaptive quadrature (SciPy)."""
    return float(quad(lambda t: activity(BAKERS, AIR + (dough_c - AIR) * exp(-K * t)), 0, minutes, limit=200)[0])


def trough(
    dough_c: float, least: float, most: float | None = None, *, clock: tuple[float, float] = (10, 900)
) -> Product:
    ripens = Ripening(air_c=AIR, k_per_min=K, least_done_min=least, most_done_min=most)
    hold = HeldStep(station="troughs", least_min=clock[0], most_min=clock[1], ripens=ripens)
    return product_of(
        "loaf", (mixing(10, rest=0, age=1_000), hold, strokes("divider", 60)), dough_temperature_c=dough_c,
        target_per_hour=3_000,
    )  # fmt: skip


@settings(deadline=None, max_examples=25)
@given(dough_c=st.floats(18, 32), least=st.floats(20, 200))
def test_the_clock_follows_the_yeast(dough_c: float, least: float) -> None:
    """The least time is that after which the integral is what was asked; a colder dough never needs less."""
    found = trough(dough_c, least).trough
    assert found is not None
    if found.least_min > 10:
        assert done(dough_c, found.least_min) == pytest.approx(least, rel=2e-3)
    colder = trough(dough_c - 1, least).trough
    assert colder is not None
    assert colder.least_min >= found.least_min - 1e-6


def test_the_narrower_of_clock_and_yeast_counts() -> None:
    wide, strict = trough(24, 60, 200), trough(24, 60, 200, clock=(150, 160))
    assert wide.trough is not None
    assert strict.trough is not None
    assert wide.trough.most_min < 900
    assert (strict.trough.least_min, strict.trough.most_min) != (wide.trough.least_min, wide.trough.most_min)
    assert strict.trough.least_min == 150
    with pytest.raises(ValidationError, match="limits that leave it time"):
        trough(24, 60, 100, clock=(10, 60))


def held(product: Product, packs: int) -> Scenario:
    station = HeldStation(id="troughs", name="Troughs", positions=20)
    return scenario((station, rate("divider")), (product,), (("loaf", 5_000, packs),), mixing=mixers(3, most=30))


def test_the_plan_keeps_it_and_the_check_sums_for_itself() -> None:
    """A dough of 24 °C in air of 29 must do 120 min of the yeast's best, and not more than 260."""
    plant = held(trough(24, 120, 260), 900)
    plan = make_plan(plant, "line", stop=FEW)
    assert check(plant, plan) == ()
    for run in plan.runs:
        for batch in run.batches:
            assert done(24, batch.divided_min - batch.discharged_min) >= 120 - 0.05
            assert done(24, batch.last_piece_min - batch.discharged_min) <= 260 + 0.05
    colder = held(trough(20, 120, 260), 900)
    texts = [fault.text for fault in check(colder, plan)]
    assert any("has ripened" in text and "needed 120" in text for text in texts)
    warmer = held(trough(24, 120, 130), 900)
    late = make_plan(held(trough(24, 140, 260), 900), "line", stop=FEW)
    assert any("allowed 130" in fault.text for fault in check(warmer, late))


def test_over_proof_is_the_grace_of_a_proofer() -> None:
    """125 % of an hour's proof at 37 °C, air and dough, is a quarter of an hour more; a colder dough has less.

    At the yeast's best temperature from the start the work is the time. A colder piece warms up, and works faster at
    the end of its hour than over the whole of it.
    """
    step = ConveyorStep(station="proofer", dwell_min=60, temperature_c=37, bears=Bears(most_pct=125, k_per_min=0.05))
    assert step.ripened(37).stands_min == pytest.approx(15, abs=0.01)
    assert 0 < step.ripened(24).stands_min < 15
    with pytest.raises(ValidationError, match="without a grace_min"):
        ConveyorStep(
            station="proofer", dwell_min=60, temperature_c=37, grace_min=5, bears=Bears(most_pct=125, k_per_min=0.05)
        )


def test_the_line_screen_says_what_ripening_comes_to_on_the_clock() -> None:
    plant = held(trough(24, 120, 260), 900)
    stage = next(stage for stage in balance(plant, "loaf").stages if stage.station == "troughs")
    shown = {figure.name: figure.value for figure in stage.figures}
    assert done(24, shown["Ready after, by clock and yeast"]) == pytest.approx(120, rel=2e-3)
    assert done(24, shown["Over-ripe after"]) == pytest.approx(260, rel=2e-3)


def test_dry_ice_to_a_target_gives_the_target() -> None:
    """What is found, put into the bowl, leaves water that needs neither ice nor warming: the balance closes."""
    bowl = Bowl(flour_kg=100, water_kg=55, other_kg=8, flour_c=26, other_c=27, tap_c=16, work_wh_per_kg=11, ice_c=-5)
    needed = dry_ice_to(bowl, 24)
    assert needed > 0
    balanced = water_by_heat(bowl.model_copy(update={"dry_ice_kg": needed}), 24)
    assert balanced.water_c == pytest.approx(bowl.tap_c)
    assert balanced.ice_kg == pytest.approx(0, abs=1e-9)
    assert water_by_heat(bowl, 24).dry_ice_kg == pytest.approx(needed)
    assert dry_ice_to(bowl.model_copy(update={"work_wh_per_kg": 0.0}), 24) == 0


def test_heat_to_take_out_over_what_dry_ice_takes_by_hand() -> None:
    """Mixing alone, all else at 24 °C: 163 kg x 10 Wh/kg x 3.6 = 5,868 kJ over 571 + 0.85 x (24 + 78.5) = 658 kJ/kg."""
    bowl = Bowl(flour_kg=100, water_kg=55, other_kg=8, flour_c=24, other_c=24, tap_c=24, work_wh_per_kg=10)
    assert dry_ice_to(bowl, 24) == pytest.approx(5_868 / 658.125, rel=1e-6)


def test_a_sheet_folded_in_three_three_times_has_27_layers_of_fat() -> None:
    """Layers are the folds multiplied (3 x 3 x 3 = 27); a fifth of fat in 4 mm is 800 µm over them: 30 µm each."""
    family = laminated()
    whole = plant_of(family)
    crescent = whole.products[0]
    place, adds = next((n, step) for n, step in enumerate(crescent.route) if getattr(step, "adds", ()))
    fat = adds.adds[0]  # type: ignore[union-attr]
    cycle = Lamination(folds=(3, 3, 3), passes_mm=(10, 4), fat=fat.item, block_kg=2)
    checks = (SetUpCheck(what="gap", wanted="4 mm"),)
    folded = adds.model_copy(update={"laminates": cycle, "bands": Bands(count=6, sheet_mm=900), "set_up": checks})
    changed = crescent.model_copy(update={"route": (*crescent.route[:place], folded, *crescent.route[place + 1 :])})
    plant = Scenario(
        **{name: getattr(whole, name) for name in Scenario.model_fields} | {"products": (changed, *whole.products[1:])}
    )
    balanced = balance(plant, changed.id)
    stage = next(stage for stage in balanced.stages if stage.station == folded.station)
    shown = {figure.name: figure.value for figure in stage.figures}
    assert shown["Layers of fat"] == 27
    share = shown["Fat in the laminated dough"] / 100
    assert shown["Pass 2, a layer of fat"] == pytest.approx(4_000 * share / 27)
    assert shown["Pass 1, a layer of fat"] == pytest.approx(2.5 * shown["Pass 2, a layer of fat"])
    kg_an_hour = stage.taken_per_piece * balanced.pace_per_h * fat.grams / 1000 / float(folded.conversion)  # type: ignore[union-attr]
    assert shown["Fat blocks"] == pytest.approx(kg_an_hour / 2)
    assert shown["A band is wide"] == 150
    assert stage.set_up == checks
    with pytest.raises(ValidationError, match="thinner each time"):
        Lamination(folds=(3,), passes_mm=(4, 4), fat=fat.item, block_kg=2)
