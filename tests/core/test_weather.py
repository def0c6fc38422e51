"""The room and the weather, against psychrolib, a solver of differential equations, and by hand."""

from datetime import date

import numpy as np
import psychrolib
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from rundgang.core.conditions import Between, Conditions, HourlyConditions, RoomCourse, RoomModel
from rundgang.core.dough.adjust import adjusted
from rundgang.core.errors import OutOfRangeError
from rundgang.core.scenario import Scenario
from rundgang.core.weather import (
    LAGS_H,
    OutdoorHour,
    RoomReading,
    by_weather,
    fit,
    hours_indoors,
    indoor_humidity,
    room_air,
    wet_spells,
)
from rundgang.demo.ostermere import ostermere

psychrolib.SetUnitSystem(psychrolib.SI)

DEMO = ostermere(date(2026, 3, 11))
"""Its rule: the formulas are right at 55 %, and so much less water for every ten points more."""


@given(
    air=st.floats(0.5, 38), humidity=st.floats(5, 100), pressure=st.floats(900, 1_050), warmer=st.floats(0, 20),
    added=st.floats(0, 8),
)  # fmt: skip
def test_humidity_is_carried_indoors_as_psychrolib_has_it(
    air: float, humidity: float, pressure: float, warmer: float, added: float
) -> None:
    """ASHRAE Handbook of Fundamentals 2017, by psychrolib: the humidity ratio is kept; to half a point."""
    ratio = psychrolib.GetHumRatioFromRelHum(air, humidity / 100, pressure * 100) + added / 1_000
    ratio = min(ratio, psychrolib.GetSatHumRatio(air + warmer, pressure * 100))
    expected = 100 * psychrolib.GetRelHumFromHumRatio(air + warmer, ratio, pressure * 100)
    outside = OutdoorHour(air_c=air, humidity_pct=humidity, pressure_hpa=pressure)
    assert indoor_humidity(outside, air + warmer, added) == pytest.approx(expected, abs=0.5)


def test_a_room_follows_a_step_by_63_per_cent_in_one_lag() -> None:
    """Newton's law of cooling: after one time constant 1 - 1/e of the step are done."""
    room = room_air([10.0] * 4 + [20.0] * 30, RoomModel(lag_h=6, offset_k=5))
    assert room[3] == pytest.approx(15)
    assert room[3 + 6] == pytest.approx(15 + 10 * (1 - np.exp(-1)))
    assert room[-1] == pytest.approx(25, abs=0.1)


def _followed(outdoor: list[float], lag_h: float, offset_k: float) -> list[float]:
    """The room by an integrator of its own: dT/dt = (T_out + offset - T) / lag, T_out held over each hour."""

    def slope(hour: float, room: np.ndarray) -> np.ndarray:
        outside = outdoor[min(int(hour) + 1, len(outdoor) - 1)]
        return np.asarray((outside + offset_k - room) / lag_h)

    found = solve_ivp(slope, (0, len(outdoor) - 1), [outdoor[0] + offset_k], max_step=0.05, dense_output=True)
    assert found.sol is not None
    return [float(found.sol(hour)[0]) for hour in range(len(outdoor))]


WEEK = [8 + 6 * np.sin(hour / 24 * 2 * np.pi) + 4 * np.sin(hour / 100) for hour in range(168)]


def test_the_room_is_what_an_integrator_makes_of_it() -> None:
    """SciPy's Runge-Kutta on the same equation, to a twentieth of a degree."""
    assert room_air(WEEK, RoomModel(lag_h=9, offset_k=12)) == pytest.approx(_followed(WEEK, 9, 12), abs=0.05)


@pytest.mark.parametrize(("lag_h", "offset_k"), [(2.0, 14.0), (7.5, 9.0), (20.0, 3.0)])
def test_lag_and_offset_are_found_again_from_readings(lag_h: float, offset_k: float) -> None:
    room = _followed(WEEK, lag_h, offset_k)
    found = fit([RoomReading(hour, room[hour]) for hour in range(5, 168, 7)], WEEK)
    assert found.lag_h == pytest.approx(lag_h, abs=0.5)
    assert found.offset_k == pytest.approx(offset_k, abs=0.1)
    assert found.readings == 24
    assert found.spread_k < 0.1
    assert min(LAGS_H) <= found.lag_h <= max(LAGS_H)


@pytest.mark.parametrize("hours", [(1, 9, 30), (1, 2, 3, 4, 5), (-5, 200, 300, 400, 500)])
def test_too_little_to_fit_is_said(hours: tuple[int, ...]) -> None:
    with pytest.raises(OutOfRangeError, match="at least 4, over at least 6 h"):
        fit([RoomReading(hour, 20) for hour in hours], WEEK)


def test_the_hours_begin_from_what_was_read() -> None:
    """Two hours into the window the room was 27: from there it goes back to what the weather makes of it."""
    outdoor = [OutdoorHour(air_c=5, humidity_pct=80, pressure_hpa=1_013)] * 40
    read = Conditions(room_c=27, flour_c=20, tap_c=12)
    found = by_weather(read, outdoor, RoomModel(lag_h=4, offset_k=15), 10, 120)
    rooms = found.room_by_hour
    assert len(rooms) == 30
    assert rooms[:2] == (20, 20)
    assert rooms[2] == 27
    assert rooms[6] == pytest.approx(20 + 7 * np.exp(-1), abs=0.06)
    assert found.by_weather
    assert found.at(6 * 60).room_c == rooms[6]


def test_warm_rooms_are_drier_and_never_wetter_than_wet() -> None:
    fog = OutdoorHour(air_c=12, humidity_pct=100, pressure_hpa=1_013)
    (warm,) = hours_indoors([fog], RoomModel(lag_h=1, offset_k=10))
    assert warm.humidity_pct is not None
    assert 50 < warm.humidity_pct < 56, "12 °C saturated is about 53 % at 22 °C (psychrometric chart)"
    (steam,) = hours_indoors([fog], RoomModel(lag_h=1, offset_k=0, water_g_per_kg=5))
    assert steam.humidity_pct == 100


def humid(*by_hour: float | None, moisture: float | None = None) -> Scenario:
    hours = tuple(HourlyConditions(humidity_pct=humidity) for humidity in by_hour)
    conditions = Conditions(
        room_c=22, flour_c=21, tap_c=14, humidity_pct=58, flour_moisture_pct=moisture, by_hour=hours
    )
    return DEMO.changed(conditions=conditions)


def test_wet_spells_are_told_with_what_the_rule_does() -> None:
    """Ten points above the 55 % of the rule: 65 and more is wet; 75 % is twenty points, a per cent of the water."""
    rule = DEMO.plant.humidity_rule
    assert rule is not None
    first, second = wet_spells(humid(50, 65, 75, 70, 64.9, None, 80))
    assert (first.from_min, first.to_min, first.humidity_pct) == (60, 240, 75)
    assert first.water_pct == pytest.approx(-2 * rule.percent_per_ten)
    assert (second.from_min, second.humidity_pct) == (360, 80)
    assert second.to_min == DEMO.window.minutes, "a later hour is as the last"
    assert first.told_from_min == 60 - 12 * 60, "half a day before"
    assert wet_spells(humid(50, 65, 75, 70, 64.9, None, 80), from_min=240) == (second,)
    assert wet_spells(humid(80, 80, moisture=14.5)) == (), "a measured moisture counts, not the rule"
    assert wet_spells(humid()) == ()


def test_humidity_goes_against_the_room_and_flour_with_it() -> None:
    course = RoomCourse(
        low_c=18,
        high_c=26,
        warmest_min=900,
        flour_c=Between(low=17, high=21),
        humidity_pct=Between(low=40, high=70),
    )
    hours = course.hours(1_440)
    warmest = max(hours, key=lambda hour: hour.room_c or 0)
    coolest = min(hours, key=lambda hour: hour.room_c or 0)
    assert warmest.humidity_pct == pytest.approx(40, abs=0.2)
    assert coolest.humidity_pct == pytest.approx(70, abs=0.2)
    assert warmest.flour_c == pytest.approx(21, abs=0.1)
    assert coolest.flour_c == pytest.approx(17, abs=0.1)
    assert all(hour.tap_c is None for hour in hours)
    with pytest.raises(ValueError, match="at most high, 40"):
        Between(low=41, high=40)


def test_a_filling_without_water_is_not_corrected() -> None:
    """There is nothing to leave out."""
    dry = tuple(line for line in DEMO.product("lantern-plain").formula if line.ingredient != "water")
    for today in ({"humidity_pct": 80.0}, {"flour_moisture_pct": 12.0}):
        conditions = DEMO.conditions.model_copy(update={"by_hour": (), **today})
        assert adjusted(DEMO.changed(conditions=conditions), dry).correction == ""
