"""The dough room's calculations against conservation, IAPWS, and figures of the trade."""

from math import exp, prod

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from iapws import IAPWS97
from scipy.integrate import quad

from rundgang.core.dough.dry_ice import CO2_M3_PER_KG, room_check
from rundgang.core.dough.flour import room_rule, same_dry_matter
from rundgang.core.dough.friction import ProbeReading, factor_of, learn
from rundgang.core.dough.heat_balance import (
    CO2_GAS_KJ_KG_K,
    DRY_ICE_C,
    FLOUR_KJ_KG_K,
    ICE_KJ_KG_K,
    MELTING_KJ_KG,
    OTHER_KJ_KG_K,
    SUBLIMATION_KJ_KG,
    WATER_KJ_KG_K,
    Bowl,
    dry_ice_kj,
    remedies,
    water_by_heat,
    work_kj,
    work_rise,
)
from rundgang.core.dough.lamination import laminate
from rundgang.core.dough.proof import (
    BAKERS,
    Piece,
    Yeast,
    activity,
    minutes_for,
    over_proofed_after,
    proof_done,
    same_proof,
)
from rundgang.core.dough.water import ice_share, water_temperature
from rundgang.core.errors import InfeasibleError, OutOfRangeError

BOWL = Bowl(flour_kg=100, water_kg=58, other_kg=6, flour_c=22, other_c=18, tap_c=16, work_wh_per_kg=6)


def dough_by_heat(bowl: Bowl, water_c: float, ice_kg: float) -> float:
    """Temperature of a dough, °C, of which all heat that went in is in it: what is weighed in, and the mixing work."""
    brought_in = [
        (bowl.flour_kg * FLOUR_KJ_KG_K, bowl.flour_c),
        (bowl.other_kg * OTHER_KJ_KG_K, bowl.other_c),
        ((bowl.water_kg - ice_kg) * WATER_KJ_KG_K, water_c),
        (bowl.dry_ice_kg * CO2_GAS_KJ_KG_K, DRY_ICE_C),
    ]
    to_melt = ice_kg * (MELTING_KJ_KG - ICE_KJ_KG_K * bowl.ice_c) + bowl.dry_ice_kg * SUBLIMATION_KJ_KG
    heat = sum(capacity * celsius for capacity, celsius in brought_in) + work_kj(bowl) - to_melt
    return heat / (sum(capacity for capacity, _ in brought_in) + ice_kg * WATER_KJ_KG_K)


@given(
    flour=st.floats(50, 500),
    water=st.floats(30, 300),
    other=st.floats(0, 60),
    flour_c=st.floats(5, 35),
    tap_c=st.floats(4, 30),
    work=st.floats(0, 14),
    dough_c=st.floats(20, 32),
    dry=st.floats(0, 5),
)
def test_energy_is_conserved(
    flour: float, water: float, other: float, flour_c: float, tap_c: float, work: float, dough_c: float, dry: float
) -> None:
    """What the balance prescribes, mixed, comes out at the temperature wanted."""
    bowl = Bowl(
        flour_kg=flour,
        water_kg=water,
        other_kg=other,
        flour_c=flour_c,
        other_c=20,
        tap_c=tap_c,
        work_wh_per_kg=work,
        dry_ice_kg=dry,
    )
    found = water_by_heat(bowl, dough_c)
    if found.short_k:
        assert found.ice_kg == water
        assert dough_by_heat(bowl, 0, water) > dough_c
        return
    drawn = max(found.water_c, tap_c) if found.ice_kg == 0 else tap_c
    assert dough_by_heat(bowl, drawn, found.ice_kg) == pytest.approx(dough_c, abs=1e-6)


def test_no_time_dough_warms_by_about_14_degrees() -> None:
    """11 Wh/kg of mixing work (common practice of mechanical dough development, no published source)."""
    assert work_rise(11) == pytest.approx(14, abs=0.2)


def test_heat_capacity_of_water_agrees_with_iapws() -> None:
    """IAPWS-IF97 between 5 and 35 °C, by the iapws package, to half a percent."""
    for celsius in (5, 15, 25, 35):
        assert pytest.approx(IAPWS97(T=celsius + 273.15, P=0.101325).cp, rel=5e-3) == WATER_KJ_KG_K


@given(tap=st.floats(8, 30), below=st.floats(1, 25))
def test_ice_of_factor_rule_and_heat_balance_agrees(tap: float, below: float) -> None:
    """The factor rule's ice against the heat balance for ice at 0 °C in water alone, to 1 %."""
    wanted = tap - below
    of_tap = WATER_KJ_KG_K * (tap - wanted)
    by_heat = of_tap / (333.55 + WATER_KJ_KG_K * wanted + of_tap)
    assert ice_share(tap, wanted) == pytest.approx(by_heat, rel=0.01)


def test_factor_rule_and_heat_balance_follow_the_flour_the_same_way() -> None:
    """Warmer flour asks for colder water in both."""
    warm = BOWL.model_copy(update={"flour_c": 27.0})
    assert water_by_heat(warm, 26).water_c < water_by_heat(BOWL, 26).water_c
    assert water_temperature(26, (27, 23), 20) < water_temperature(26, (22, 23), 20)


def test_all_ice_and_still_too_warm_is_said() -> None:
    hot = BOWL.model_copy(update={"flour_c": 40.0, "work_wh_per_kg": 40.0, "tap_c": 25.0})
    found = water_by_heat(hot, 24)
    assert found.ice_kg == hot.water_kg
    assert found.short_k > 0
    with pytest.raises(OutOfRangeError, match="both above 0"):
        water_by_heat(BOWL.model_copy(update={"flour_kg": 0.0}), 25)


def test_remedies_are_ranked_and_true() -> None:
    """Each remedy, applied in the balance, cools the dough by what it says (within the dough's own c)."""
    found = {remedy.measure: remedy.cools_k for remedy in remedies(BOWL, 26)}
    assert list(found.values()) == sorted(found.values(), reverse=True)
    before = dough_by_heat(BOWL, 10, 0)
    colder = dough_by_heat(BOWL.model_copy(update={"flour_c": 17.0}), 10, 0)
    assert before - colder == pytest.approx(found["flour 5 °C colder"], rel=0.12)
    dried = dough_by_heat(BOWL.model_copy(update={"dry_ice_kg": BOWL.dough_kg / 100}), 10, 0)
    assert before - dried == pytest.approx(found["1.6 kg of dry ice"], rel=0.15)


def test_dry_ice_takes_more_than_its_sublimation() -> None:
    """571 kJ/kg to sublime at −78.5 °C, and the gas leaves at the dough's temperature (from memory)."""
    assert dry_ice_kj(1, 25) == pytest.approx(571 + 0.85 * 103.5)


def reading(dough: float, water: float = 10) -> ProbeReading:
    return ProbeReading(dough_c=dough, others_c=(21, 24), water_c=water)


def test_factor_learnt_from_one_dough_reproduces_it() -> None:
    """The rule with the learnt factor gives back the water that was used (by definition)."""
    measured = reading(26.5)
    assert water_temperature(26.5, (21, 24), factor_of(measured)) == pytest.approx(10)


def test_steady_readings_are_learnt() -> None:
    learnt = learn(20, tuple(reading(26) for _ in range(20)))
    assert learnt.friction_c == pytest.approx(factor_of(reading(26)), abs=0.05)
    assert not any(learnt.held_out)


def test_an_outlier_is_held_out() -> None:
    """A probe left in the ice bucket: 12 °C among 25 °C must not move the factor."""
    steady = [reading(25 + 0.1 * (n % 3)) for n in range(8)]
    without = learn(20, tuple(steady))
    learnt = learn(20, (*steady, reading(12)))
    assert learnt.held_out == (False,) * 8 + (True,)
    assert learnt.friction_c == without.friction_c
    assert learnt.factors[-1] == factor_of(reading(12)), "it stays in the history"


def test_a_real_change_is_followed() -> None:
    """A new mixer arm: the level shifts for good, and the factor follows."""
    learnt = learn(20, (*(reading(25) for _ in range(6)), *(reading(25.6) for _ in range(14))))
    assert learnt.friction_c == pytest.approx(factor_of(reading(25.6)), abs=0.2)


@given(flour=st.floats(20, 500), water=st.floats(60, 300), moisture=st.floats(8, 18))
def test_moisture_keeps_dry_matter_and_mass(flour: float, water: float, moisture: float) -> None:
    found = same_dry_matter(flour, water, moisture)
    assert found.flour_kg * (100 - moisture) == pytest.approx(flour * 86)
    assert found.flour_kg + found.water_kg == pytest.approx(flour + water)


def test_flour_at_its_reference_changes_nothing() -> None:
    assert same_dry_matter(100, 60, 14).water_kg == pytest.approx(60)
    with pytest.raises(OutOfRangeError, match="5 to 20 %"):
        same_dry_matter(100, 60, 40)
    with pytest.raises(OutOfRangeError, match="0 kg or more"):
        same_dry_matter(100, 2, 18)


def test_room_rule() -> None:
    """2 % less water for every 10 points above 60 %: 1.2 kg of 60 at 70 %."""
    assert room_rule(60, 70, 60, 2) == pytest.approx(58.8)
    with pytest.raises(OutOfRangeError):
        room_rule(60, 130, 60, 2)


def test_co2_gas_volume() -> None:
    """Ideal gas at 20 °C and 1013.25 hPa: 8.314 x 293.15 / 101325 / 0.04401 m³/kg."""
    assert pytest.approx(8.314 * 293.15 / 101_325 / 0.04401, rel=2e-3) == CO2_M3_PER_KG


def test_room_fills_as_the_mass_balance_says() -> None:
    """dc/dt = G/V − n c, stepped finely over a shift."""
    rise, changes, c, step, total = 20 * CO2_M3_PER_KG / 600 * 1e6, 4.0, 420.0, 1e-4, 0.0
    for _ in range(int(8 / step)):
        c += (rise - changes * (c - 420)) * step
        total += c * step
    found = room_check(20, 600, 4)
    assert found.peak_ppm == pytest.approx(c, rel=1e-3)
    assert found.eight_hours_ppm == pytest.approx(total / 8, rel=1e-3)
    assert found.keeps_limits == (total / 8 <= 5_000)


@given(kg=st.floats(0.1, 100), room=st.floats(50, 5_000))
def test_air_changes_needed_just_keep_the_limits(kg: float, room: float) -> None:
    needed = room_check(kg, room, 1).air_changes_needed
    assert room_check(kg, room, needed * 1.001).keeps_limits
    if needed > 0.01:
        assert not room_check(kg, room, needed * 0.98).keeps_limits


def test_rooms_that_cannot_be_are_refused() -> None:
    for figures in ((5, 0, 2), (5, 100, 0), (-1, 100, 2)):
        with pytest.raises(OutOfRangeError):
            room_check(*figures)
    assert room_check(5, 200, 2).caution.text.endswith("decide.")
    assert exp(0) == 1


def test_five_folds_in_three_give_243_layers() -> None:
    """243 layers by repeated folding in three (common practice, no published source)."""
    found = laminate((3, 3, 3, 3, 3), 3, 0.25, 1_000, 10)
    assert found.fat_layers == 243
    assert found.dough_layers == 244
    assert found.fat_blocks_per_h == 25


@given(folds=st.lists(st.integers(2, 4), min_size=1, max_size=5).map(tuple), share=st.floats(0.1, 0.4))
def test_layers_add_up_to_the_sheet(folds: tuple[int, ...], share: float) -> None:
    found = laminate(folds, 4, share, 500, 5)
    assert found.fat_layers == prod(folds)
    assert found.fat_layers * found.fat_um + found.dough_layers * found.dough_um == pytest.approx(4_000)


def test_folds_that_cannot_be_are_refused() -> None:
    for folds, sheet, share, block in (((), 3.0, 0.2, 5.0), ((1,), 3.0, 0.2, 5.0), ((3,), 0.0, 0.2, 5.0),
                                       ((3,), 3.0, 1.2, 5.0), ((3,), 3.0, 0.2, 0.0)):  # fmt: skip
        with pytest.raises(OutOfRangeError):
            laminate(folds, sheet, share, 500, block)


def test_cardinal_temperatures() -> None:
    """By definition of the model: nothing at the ends, all at the best (Rosso et al. 1993)."""
    assert activity(BAKERS, BAKERS.least_c) == activity(BAKERS, BAKERS.most_c) == 0
    assert activity(BAKERS, BAKERS.best_c) == pytest.approx(1)
    nearby = [activity(BAKERS, BAKERS.best_c + shift) for shift in (-0.5, 0.5)]
    assert max(nearby) < 1


@given(celsius=st.floats(2, 46))
def test_activity_is_a_share(celsius: float) -> None:
    assert 0 <= activity(BAKERS, celsius) <= 1 + 1e-12


@given(dough_c=st.floats(5, 37), air_c=st.floats(20, 37), k=st.floats(0.005, 0.3), minutes=st.floats(5, 240))
@settings(max_examples=25)
def test_proof_done_is_the_integral_along_the_pieces_own_curve(
    dough_c: float, air_c: float, k: float, minutes: float
) -> None:
    """Against SciPy's adaptive quadrature of the activity at the temperature of Newton's law."""

    def activity_after(t: float) -> float:
        return activity(BAKERS, air_c + (dough_c - air_c) * exp(-k * t))

    expected, _ = quad(activity_after, 0, minutes, limit=200)
    assert proof_done(BAKERS, Piece(dough_c=dough_c, air_c=air_c, k_per_min=k), minutes) == pytest.approx(
        expected, rel=1e-4
    )


@given(usual_c=st.floats(10, 36), colder_k=st.floats(0.5, 8), air_c=st.floats(25, 37), k=st.floats(0.01, 0.3))
def test_a_colder_dough_needs_longer_while_the_air_is_not_above_the_best(
    usual_c: float, colder_k: float, air_c: float, k: float
) -> None:
    usual = Piece(dough_c=usual_c, air_c=air_c, k_per_min=k)
    colder = usual.model_copy(update={"dough_c": usual_c - colder_k})
    longer = same_proof(BAKERS, 60, usual, colder)
    assert longer > 60
    assert same_proof(BAKERS, longer, colder, usual) == pytest.approx(60, abs=0.2)


def test_yeast_in_air_that_kills_it_never_gets_there() -> None:
    with pytest.raises(InfeasibleError, match="does not get there at 50"):
        minutes_for(BAKERS, Piece(dough_c=50, air_c=50, k_per_min=0.1), 40)
    with pytest.raises(OutOfRangeError, match="between 24 and 46"):
        activity(Yeast(best_c=20), 30)


def test_over_proof_comes_sooner_in_the_warm() -> None:
    """A piece that bears 130 % of 60 min at 35 °C is over-proofed after 78 min there, later in the cold."""
    warm, cold = (Piece(dough_c=celsius, air_c=celsius, k_per_min=0.06) for celsius in (35.0, 28.0))
    assert over_proofed_after(BAKERS, 60, warm, warm, 1.3) == pytest.approx(78)
    assert over_proofed_after(BAKERS, 60, warm, cold, 1.3) > 78
    with pytest.raises(OutOfRangeError, match="above 100 %"):
        over_proofed_after(BAKERS, 60, warm, warm, 1)
