"""Estimates against published worked examples and a reference library; and that a wrong one would be seen."""

from random import Random

import pytest
from hypothesis import given
from hypothesis import strategies as some
from scipy import stats

from rundgang.core.learning.estimates import held_out, mean_of, median_of, share_of, time_between

SLEEP_H = (0.7, -1.6, -0.2, -1.2, -0.1, 3.4, 3.7, 0.8, 0.0, 2.0)
"""Hours of sleep that ten people gained (Cushny and Peebles, in Student, "The probable error of a mean", *Biometrika*,
1908; from memory)."""


def test_a_mean_lies_where_student_found_it() -> None:
    """Mean 0.75, deviation 1.79 by n - 1, t of 9 degrees 2.262: from -0.53 to 2.03 (tables of t; from memory)."""
    found = mean_of(SLEEP_H)
    assert found
    assert (found.observed, found.held_out) == (10, 0)
    assert (found.value, found.low, found.high) == pytest.approx((0.75, -0.53, 2.03), abs=0.001)
    assert found.spread == pytest.approx(1.789, abs=0.001)


def test_what_is_far_from_the_others_is_held_out() -> None:
    """By hand: the middle is 10, half lie within 1 of it, so that 3.5 x 1.4826 x 1 is the limit: from 4.81 to 15.19."""
    values = (4.7, 4.9, 8, 9, 9, 9, 10, 10, 10, 11, 11, 11, 12, 15.1, 15.2)
    assert [value for value, is_out in zip(values, held_out(values), strict=True) if is_out] == [4.7, 15.2]
    assert held_out((1, 1, 1, 90)) == (False,) * 4, "among so few nobody knows"


@given(some.integers(0, 5_000), some.integers(0, 400))
def test_a_share_is_jeffreys_interval(good: int, lost: int) -> None:
    """As SciPy's own beta distribution has it; where nothing is lost it reaches to one."""
    found = share_of(good, lost)
    beta = stats.beta(good + 0.5, lost + 0.5)
    assert found.low == pytest.approx(beta.ppf(0.025) if good else 0, abs=1e-9)
    assert found.high == pytest.approx(beta.ppf(0.975) if lost else 1, abs=1e-9)
    assert found.low <= found.value <= found.high


def test_the_time_between_stops_lies_between_the_two_exact_limits() -> None:
    """Ten stops in 1,000 h: 54.4 to 208.5 h (chi-square, MIL-HDBK-338B §8.3.2.5.2, both limits; from memory).

    Its limits for a test that ends by time have 2 n + 2 and 2 n degrees; that of 2 n + 1 lies between them.
    """
    found = time_between(10, 1_000)
    assert found
    assert found.value == 100
    assert 2_000 / stats.chi2.ppf(0.975, 22) < found.low < 2_000 / stats.chi2.ppf(0.975, 20)
    assert 2_000 / stats.chi2.ppf(0.025, 22) < found.high < 2_000 / stats.chi2.ppf(0.025, 20)
    assert found.low == pytest.approx(56.4, abs=0.1)
    assert found.high == pytest.approx(194.5, abs=0.1)
    assert time_between(3, 1_000) is None


@pytest.mark.parametrize("seed", range(3))
def test_intervals_hold_what_is_true_95_times_of_100(seed: int) -> None:
    """Of 2,000 each: what fails but once in ten thousand (binomial)."""
    random, tries = Random(seed), 2_000
    within = {"mean": 0, "median": 0, "share": 0, "time": 0}
    for _ in range(tries):
        mean = mean_of([random.gauss(5, 2) for _ in range(8)])
        half = median_of([random.lognormvariate(1, 0.7) for _ in range(8)])
        lost = sum(random.random() < 0.02 for _ in range(400))
        share = share_of(400 - lost, lost)
        at, stops = random.expovariate(1 / 60), 0
        while at < 900:
            at, stops = at + random.expovariate(1 / 60), stops + 1
        between = time_between(max(4, stops), 900)
        assert mean
        assert half
        assert between
        within["mean"] += mean.low <= 5 <= mean.high
        within["median"] += half.low <= 2.718281828 <= half.high
        within["share"] += share.low <= 0.98 <= share.high
        within["time"] += between.low <= 60 <= between.high
    for name, number in within.items():
        assert stats.binom.ppf(1e-4, tries, 0.94) <= number <= stats.binom.ppf(1 - 1e-4, tries, 0.965), name


@pytest.mark.parametrize("few", [[], [1.0], [1.0, 2.0, 3.0]])
def test_of_too_few_nothing_is_said(few: list[float]) -> None:
    assert mean_of(few) is None
    assert median_of(few) is None
