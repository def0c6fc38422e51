"""Units: exact factors against SciPy's constants, and round trips to the displayed digit."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import constants

from rundgang.core.errors import OutOfRangeError, UnknownItemError
from rundgang.core.units import TABLE, Unit, shown, to_metric, to_us, typed

FACTORS = {
    "dough mass": 1 / constants.pound,
    "wasted mass": 1 / constants.pound,
    "scaled mass": 1 / constants.pound,
    "piece mass": 1e-3 / constants.oz,
    "length": 1 / constants.foot,
    "thickness": 1e-3 / constants.inch,
    "belt speed": 1 / constants.foot,
    "water volume": 1e-3 / constants.gallon,
    "room volume": 1 / constants.foot**3,
    "mixing work": constants.pound,
    "heat": 3.6e6 / constants.Btu_IT,
    "area": 1 / constants.foot**2,
    "band loading": constants.foot**2 / constants.pound,
    "mass flow": 1 / constants.pound,
    "yearly mass": 1_000 / constants.short_ton,
    "layer thickness": 1e-6 / constants.mil,
    "heat flow": 3.6e6 / constants.Btu_IT,
    "energy": 1e3 / constants.Btu_IT,
    "heat of a mass": 1e3 * constants.pound / constants.Btu_IT,
    "specific heat": 1e3 * constants.pound / constants.Btu_IT * 5 / 9,
    "volume of a gas": constants.pound / constants.foot**3,
    "water in air": 1e-3 * constants.pound / constants.grain,
}


@pytest.mark.parametrize(("quantity", "factor"), FACTORS.items())
def test_factors_agree_with_scipy(quantity: str, factor: float) -> None:
    """SciPy's constants (CODATA and the definitions of 1959)."""
    assert to_us(quantity, 1.0) == pytest.approx(factor, rel=1e-12)


@given(celsius=st.floats(-80, 400))
def test_temperatures_agree_with_scipy(celsius: float) -> None:
    assert to_us("temperature", celsius) == pytest.approx(
        float(constants.convert_temperature(celsius, "Celsius", "Fahrenheit"))
    )
    assert to_us("temperature difference", celsius) == pytest.approx(celsius * 9 / 5)
    assert to_us("heating rate", celsius) == pytest.approx(celsius * 9 / 5)


def test_every_quantity_has_an_outside_check() -> None:
    assert {unit.quantity for unit in TABLE} == {*FACTORS, "temperature", "temperature difference", "heating rate"}


@given(unit=st.sampled_from(TABLE), steps=st.integers(-40_000, 4_000_000))
def test_us_figures_survive_being_stored_in_metric(unit: Unit, steps: int) -> None:
    """What a person reads in US units, typed back and shown again, is the same to its last digit."""
    text = shown(unit.quantity, to_metric(unit.quantity, steps / 10**unit.us_decimals), "us")
    assert shown(unit.quantity, typed(unit.quantity, text, "us"), "us") == text


@given(unit=st.sampled_from([u for u in TABLE if u.quantity != "heat"]), steps=st.integers(-40_000, 4_000_000))
def test_metric_figures_survive_being_read_in_us(unit: Unit, steps: int) -> None:
    """A metric figure shown in US digits and typed from there comes back to its own last digit."""
    text = shown(unit.quantity, steps / 10**unit.metric_decimals, "metric")
    as_us = shown(unit.quantity, typed(unit.quantity, text, "metric"), "us")
    assert shown(unit.quantity, typed(unit.quantity, as_us, "us"), "metric") == text


def test_known_pairs() -> None:
    """375 °F for frying is said as 190 °C; 86 to 88 °F as 30 to 31 °C (common practice)."""
    assert to_metric("temperature", 375) == pytest.approx(190, abs=0.6)
    assert to_metric("temperature", 86) == pytest.approx(30)
    assert to_metric("temperature", 88) == pytest.approx(31, abs=0.12)
    assert shown("temperature", -40, "us") == "-40.0"


def test_what_is_no_figure_is_refused() -> None:
    with pytest.raises(OutOfRangeError, match="temperature is “warm”; allowed: a number"):
        typed("temperature", "warm", "us")
    with pytest.raises(UnknownItemError, match="no quantity “feel”"):
        to_us("feel", 1)
