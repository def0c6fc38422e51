"""Weights against the directive's and the handbook's own tables, and against SciPy's distributions."""

from math import sqrt
from random import Random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats
from scipy.integrate import trapezoid

from rundgang.core.errors import OutOfRangeError
from rundgang.core.weights import (
    CHART,
    MEAN_FACTOR,
    ONE_IN_TEN_THOUSAND_Z,
    SAMPLE_CORRECTION,
    TWO_AND_A_HALF_PERCENT_Z,
    average_quantity,
    control_limits,
    giveaway_kg,
    is_trending,
    maximum_allowable_variation,
    maximum_variation,
    smallest_target,
    tolerable_negative_error,
)


@pytest.mark.parametrize(
    ("nominal", "error"),
    [(5, 0.5), (50, 4.5), (75, 4.5), (100, 4.5), (120, 5.4), (200, 9), (250, 9), (300, 9), (400, 12), (500, 15),
     (750, 15), (1_000, 15), (2_000, 30), (10_000, 150)],
)  # fmt: skip
def test_tolerable_negative_error(nominal: float, error: float) -> None:
    """Directive 76/211/EEC, Annex I, table (from memory); percentages rounded up to a tenth of a gram."""
    assert tolerable_negative_error(nominal) == pytest.approx(error)


def test_tolerable_error_never_falls_as_packs_grow() -> None:
    errors = [tolerable_negative_error(nominal) for nominal in range(5, 10_001)]
    assert errors == sorted(errors)


def test_mean_factors_are_students_t() -> None:
    """Annex II factors 0.640, 0.503 and 0.379 are t(0.995, n − 1) / √n (SciPy)."""
    for size, factor in MEAN_FACTOR.items():
        assert factor == pytest.approx(stats.t.ppf(0.995, size - 1) / sqrt(size), abs=6e-4)


def test_sample_corrections_are_students_t() -> None:
    """NIST Handbook 133 factors are t(0.975, n − 1) / √n (SciPy)."""
    for size, factor in SAMPLE_CORRECTION.items():
        assert factor == pytest.approx(stats.t.ppf(0.975, size - 1) / sqrt(size), abs=6e-4)


def test_normal_deviates() -> None:
    assert pytest.approx(-stats.norm.ppf(0.025), abs=5e-4) == TWO_AND_A_HALF_PERCENT_Z
    assert pytest.approx(-stats.norm.ppf(1e-4), abs=5e-4) == ONE_IN_TEN_THOUSAND_Z


@pytest.mark.parametrize("size", CHART)
def test_chart_constants_from_the_distribution_of_the_range(size: int) -> None:
    """d2 and d3 are mean and deviation of a normal sample's range (L. H. C. Tippett 1925), integrated by SciPy."""

    x, widths = np.linspace(-8, 8, 801)[:, None], np.linspace(0, 12, 1_201)[None, :]
    inside = stats.norm.cdf(x + widths) - stats.norm.cdf(x)
    narrower = trapezoid(size * stats.norm.pdf(x) * inside ** (size - 1), x, axis=0)
    mean = float(trapezoid(1 - narrower, widths[0]))
    square = float(trapezoid(2 * widths[0] * (1 - narrower), widths[0]))
    deviation = sqrt(square - mean**2)
    a2, d3, d4, d2 = CHART[size]
    assert d2 == pytest.approx(mean, abs=1e-3)
    assert a2 == pytest.approx(3 / (mean * sqrt(size)), abs=1e-3)
    assert d3 == pytest.approx(max(0, 1 - 3 * deviation / mean), abs=2e-3)
    assert d4 == pytest.approx(1 + 3 * deviation / mean, abs=2e-3)


def sample(mean: float, spread: float, count: int = 50) -> tuple[float, ...]:
    """A sample with exactly this mean and nearly this spread: the normal quantiles."""
    return tuple(mean + spread * float(stats.norm.ppf((n + 0.5) / count)) for n in range(count))


def test_a_sample_on_its_nominal_is_kept() -> None:
    verdict = average_quantity(500, sample(501, 4))
    assert verdict.kept
    assert verdict.tolerance_g == 15


def test_a_light_mean_is_refused() -> None:
    verdict = average_quantity(500, sample(497, 4))
    assert [rule.kept for rule in verdict.rules] == [False, True, True]
    assert "497.00 g ≥ 500 g − 0.379 ×" in verdict.rules[0].arithmetic


def test_too_many_light_packs_are_refused() -> None:
    """Nominal 500 g, 15 g tolerable: four of fifty below 485 g are one too many."""
    light = (484.0,) * 4 + (505.0,) * 46
    assert [rule.kept for rule in average_quantity(500, light).rules] == [True, False, True]
    assert average_quantity(500, (*light[1:], 505.0)).kept


def test_one_pack_below_twice_the_error_is_refused() -> None:
    assert not average_quantity(500, (469.0,) + (506.0,) * 49).rules[2].kept


def test_maximum_variation_table() -> None:
    """NIST Handbook 133, Appendix A, table 2-5 (from memory)."""
    assert maximum_variation(30) == pytest.approx(3)
    assert [maximum_variation(label) for label in (50, 100, 400, 454, 680)] == [3.6, 7.2, 18.1, 19.9, 25.4]
    with pytest.raises(OutOfRangeError, match="at most 1,760"):
        maximum_variation(2_000)


def test_no_pack_below_the_allowed_variation() -> None:
    verdict = maximum_allowable_variation(454, (433.0, *(456.0,) * 11))
    assert [rule.kept for rule in verdict.rules] == [True, False]
    assert maximum_allowable_variation(454, (435.0, *(456.0,) * 11)).kept


def test_a_sample_too_small_is_refused() -> None:
    with pytest.raises(OutOfRangeError, match="weights is 19; allowed: at least 20"):
        average_quantity(500, (500.0,) * 19)


def test_control_limits_by_hand() -> None:
    """Three samples of four with ranges 4, 6 and 8: mean range 6, limits ± 0.729 x 6 (ASTM E2587)."""
    limits = control_limits(((98, 99, 101, 102), (97, 99, 101, 103), (96, 99, 101, 104)))
    assert limits.centre_g == 100
    assert limits.upper_mean_g == pytest.approx(100 + 0.729 * 6)
    assert limits.upper_range_g == pytest.approx(2.282 * 6)
    assert limits.spread_g == pytest.approx(6 / 2.059)
    for wrong in (((1.0, 2.0),), ((1.0, 2.0), (1.0, 2.0, 3.0)), ((1.0,), (2.0,))):
        with pytest.raises(OutOfRangeError):
            control_limits(wrong)


@given(nominal=st.floats(20, 5_000), relative=st.floats(0.001, 0.05))
def test_the_target_is_the_smallest_that_keeps_all_rules(nominal: float, relative: float) -> None:
    """By SciPy's normal distribution: all rules hold at the target, one fails a little below it."""
    spread = nominal * relative
    error = tolerable_negative_error(nominal)

    def keeps(mean: float) -> bool:
        return bool(
            mean >= nominal
            and stats.norm.cdf(nominal - error, mean, spread) <= 0.025
            and stats.norm.cdf(nominal - 2 * error, mean, spread) <= 1e-4
        )

    target = smallest_target(nominal, spread)
    assert keeps(target + 0.001 * spread)
    assert not keeps(target - 0.001 * spread - 1e-9)


def test_giveaway() -> None:
    """2 g too many on 9,000 pieces an hour are 18 kg of dough an hour."""
    assert giveaway_kg(102, 100, 9_000) == pytest.approx(18)
    assert giveaway_kg(99, 100, 9_000, 2) == pytest.approx(-18)


def test_a_trend_is_seven_in_a_row() -> None:
    """Seven points steadily rising or falling (common rule of control charts)."""
    assert is_trending((1, 2, 3, 4, 5, 6, 7))
    assert not is_trending((1, 2, 3, 4, 5, 6))
    assert not is_trending(tuple(Random(1).random() for _ in range(7)))
    assert is_trending((9, 7, 6, 5, 4, 3, 2, 1))
