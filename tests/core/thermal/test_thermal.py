"""Heat against psychrolib, IAPWS water properties, and figures of the trade."""

from math import exp, log

import psychrolib
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from iapws import IAPWS97

from rundgang.core.errors import InfeasibleError, OutOfRangeError
from rundgang.core.thermal.cooling import CoreReading, fit_rate, rate_from_run, temperature_after, time_to
from rundgang.core.thermal.dew_point import dew_point, sweating
from rundgang.core.thermal.fryer import frying
from rundgang.core.thermal.oven import LATENT_KJ_KG, oven_duty

psychrolib.SetUnitSystem(psychrolib.SI)


def test_cooling_conveyor_in_winter_and_summer() -> None:
    """96 to 37 °C in 50 min at 20 °C: k = 0.02995/min, 61.8 min at 26 °C, 44.7 at 16 (common practice)."""
    k = rate_from_run(96, 37, 20, 50)
    assert k == pytest.approx(0.02995, abs=5e-6)
    assert time_to(37, 96, 26, k) == pytest.approx(61.8, abs=0.05)
    assert time_to(37, 96, 16, k) == pytest.approx(44.7, abs=0.05)


@given(start=st.floats(60, 120), air=st.floats(-5, 35), end=st.floats(36, 55), k=st.floats(0.005, 0.2))
def test_time_and_temperature_undo_each_other(start: float, air: float, end: float, k: float) -> None:
    assert temperature_after(time_to(end, start, air, k), start, air, k) == pytest.approx(end)


def test_rate_fitted_to_exact_readings_is_the_rate() -> None:
    readings = tuple(
        CoreReading(minutes=m, core_c=temperature_after(m, 95, 22, 0.03), air_c=22) for m in (10, 20, 35, 50)
    )
    fitted = fit_rate(95, readings)
    assert fitted.k_per_min == pytest.approx(0.03)
    assert fitted.standard_error == pytest.approx(0, abs=1e-9)


def test_rate_fitted_to_scattered_readings_is_the_regression() -> None:
    """Regression through the origin, its slope and standard error written out (any textbook of statistics)."""
    readings = [(10, 76.0), (20, 61.0), (35, 47.5), (50, 38.0)]
    t = [m for m, _ in readings]
    y = [log((95 - 22) / (core - 22)) for _, core in readings]
    slope = sum(a * b for a, b in zip(t, y, strict=True)) / sum(a * a for a in t)
    residual = sum((b - slope * a) ** 2 for a, b in zip(t, y, strict=True))
    error = (residual / 3 / sum(a * a for a in t)) ** 0.5
    fitted = fit_rate(95, tuple(CoreReading(minutes=m, core_c=c, air_c=22) for m, c in readings))
    assert fitted.k_per_min == pytest.approx(slope)
    assert fitted.standard_error == pytest.approx(error)


def test_what_never_cools_is_said() -> None:
    with pytest.raises(InfeasibleError, match="never reached in air of 38"):
        time_to(37, 96, 38, 0.03)
    assert time_to(97, 96, 20, 0.03) == 0
    with pytest.raises(OutOfRangeError, match="above the air, 20 °C"):
        rate_from_run(96, 18, 20, 50)
    with pytest.raises(OutOfRangeError, match="at least 1"):
        fit_rate(96, ())


@settings(deadline=None)
@given(air=st.floats(0, 45), humidity=st.floats(15, 100))
def test_dew_point_agrees_with_psychrolib(air: float, humidity: float) -> None:
    """ASHRAE Handbook of Fundamentals 2017, by psychrolib, to 0.15 K above freezing."""
    expected = psychrolib.GetTDewPointFromRelHum(air, humidity / 100)
    if expected > 0:
        assert dew_point(air, humidity) == pytest.approx(expected, abs=0.15)


def test_a_bag_sweats_below_the_dew_point() -> None:
    """Saturated air condenses on anything colder than itself (by definition)."""
    assert dew_point(22, 100) == pytest.approx(22)
    assert sweating(12, 24, 60).sweats
    assert not sweating(23, 24, 60).sweats
    for humidity in (0, 130, -5):
        with pytest.raises(OutOfRangeError, match="above 0, at most 100 %"):
            dew_point(20, humidity)


def test_heat_of_evaporation_agrees_with_iapws() -> None:
    """IAPWS-IF97 at 100 °C, by the iapws package."""
    steam, water = IAPWS97(T=373.15, x=1), IAPWS97(T=373.15, x=0)
    assert pytest.approx(steam.h - water.h, rel=1e-3) == LATENT_KJ_KG


def test_oven_duty_by_hand() -> None:
    """10,000 pieces of 100 g, 12 % loss, 27 to 97 °C: 54.4 kW to warm, 75.2 kW at 100 °C to evaporate."""
    duty = oven_duty(10_000, 0.1, 0.12, 15, 27, 97, 100, 50)
    assert duty.pieces_inside == 2_500
    assert duty.loading_kg_m2 == pytest.approx(5)
    assert duty.warming_kw == pytest.approx(1_000 * 2.8 * 70 / 3_600)
    assert duty.evaporation_kw == pytest.approx(120 * 2_257 / 3_600)
    assert duty.total_kw == duty.warming_kw + duty.evaporation_kw
    assert oven_duty(10_000, 0.1, 0.12, 15, 27, 97, 250, 50).total_kw > duty.total_kw


def test_ring_doughnuts_two_minutes_in_all_or_two_a_side() -> None:
    """The two ways of frying (common practice): 2 min in all carries twice what 2 min a side does."""
    in_all = frying(400, 60, 60, 10_000, 6, 900)
    a_side = frying(400, 120, 120, 5_000, 6, 900)
    assert in_all.capacity_per_h == 2 * a_side.capacity_per_h == 12_000
    assert (in_all.turn_after_s, a_side.turn_after_s) == (60, 120)


def test_oil_is_made_up_and_turns_over() -> None:
    """10,000 pieces an hour taking 6 g each need 60 kg of oil; 900 kg turn over in 15 h."""
    found = frying(400, 60, 60, 10_000, 6, 900)
    assert (found.oil_taken_kg_h, found.turnover_h) == (60, 15)
    assert frying(400, 60, 60, 10_000, 0, 900).turnover_h is None
    with pytest.raises(OutOfRangeError, match="at most 12000"):
        frying(400, 60, 60, 15_000, 6, 900)
    with pytest.raises(OutOfRangeError, match="above 0 s"):
        frying(400, 0, 60, 100, 6, 900)


def test_law_of_cooling_is_the_solution_of_its_equation() -> None:
    """dT/dt = −k (T − Ta), stepped finely (I. Newton 1701)."""
    core, step = 96.0, 0.001
    for _ in range(int(30 / step)):
        core -= 0.03 * (core - 20) * step
    assert temperature_after(30, 96, 20, 0.03) == pytest.approx(core, abs=0.01)
    assert exp(-0.9) == pytest.approx((core - 20) / 76, abs=1e-3)
