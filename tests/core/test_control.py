"""Control charts against published constants and run lengths, and the divider that is better left alone."""

from itertools import pairwise
from math import sqrt
from statistics import fmean, pvariance

import numpy as np
import pytest
from scipy import stats
from scipy.integrate import quad

from rundgang.core.errors import OutOfRangeError
from rundgang.core.floor.control import RULES, advice, broken_rules, c4, control_chart

C4 = {2: 0.7979, 3: 0.8862, 4: 0.9213, 5: 0.9400, 6: 0.9515, 7: 0.9594, 8: 0.9650, 9: 0.9693, 10: 0.9727}
"""ASTM E2587, and D.C. Montgomery, *Introduction to Statistical Quality Control*, appendix VI; from memory."""

B4 = {7: 1.882, 8: 1.815, 9: 1.761, 10: 1.716}
B3 = {7: 0.118, 8: 0.185, 9: 0.239, 10: 0.284}
A3 = {7: 1.182, 8: 1.099, 9: 1.032, 10: 0.975}
A2 = {2: 1.880, 3: 1.023, 4: 0.729, 5: 0.577, 6: 0.483}


def samples(size: int, count: int = 30, seed: int = 1) -> list[list[float]]:
    drawn: list[list[float]] = np.random.default_rng(seed).normal(96, 0.8, (count, size)).tolist()
    return drawn


@pytest.mark.parametrize(("size", "published"), C4.items())
def test_the_constant_of_standard_deviations_is_the_published_one(size: int, published: float) -> None:
    assert c4(size) == pytest.approx(published, abs=5e-5)


@pytest.mark.parametrize("size", A2)
def test_small_samples_are_drawn_by_their_ranges(size: int) -> None:
    drawn = samples(size)
    chart = control_chart(range(len(drawn)), drawn)
    mean_range = fmean(max(sample) - min(sample) for sample in drawn)
    assert chart.kind == "mean and range"
    assert chart.upper - chart.centre == pytest.approx(A2[size] * mean_range, rel=2e-3)
    d2 = quad(lambda x: 1 - stats.norm.cdf(x) ** size - stats.norm.sf(x) ** size, -9, 9)[0]
    assert mean_range / chart.deviation == pytest.approx(d2, abs=1e-3), "the mean range of so many normal figures"


@pytest.mark.parametrize("size", A3)
def test_large_samples_are_drawn_by_their_standard_deviations(size: int) -> None:
    drawn = samples(size)
    chart = control_chart(range(len(drawn)), drawn)
    mean_s = fmean(np.std(sample, ddof=1) for sample in drawn)
    assert chart.kind == "mean and standard deviation"
    assert chart.upper - chart.centre == pytest.approx(A3[size] * mean_s, rel=1e-3)
    assert chart.spread_upper / mean_s == pytest.approx(B4[size], abs=6e-4)
    assert chart.spread_lower / mean_s == pytest.approx(B3[size], abs=6e-4)


def test_single_figures_are_drawn_with_their_moving_range() -> None:
    """Limits of individuals are 2.66 moving ranges from the centre (ASTM E2587; from memory)."""
    values = [[12.1], [12.4], [11.9], [12.0], [12.6], [12.2], [12.3], [11.8], [12.1]]
    chart = control_chart(range(len(values)), values)
    moving = fmean(abs(b[0] - a[0]) for a, b in pairwise(values))
    assert chart.kind == "individuals"
    assert chart.upper - chart.centre == pytest.approx(2.66 * moving, rel=1e-3)
    assert chart.spread_upper == pytest.approx(3.267 * moving)


@pytest.mark.parametrize(
    ("points", "rule"),
    [
        ([0.2, -0.4, 3.1], 0),
        ([0.2, 2.1, -0.4, 2.3], 1),
        ([1.1, 1.2, 0.3, 1.4, 1.6], 2),
        ([0.1, 0.4, 0.2, 0.3, 0.9, 0.1, 0.2, 0.3], 3),
    ],
)
def test_each_rule_is_broken_by_its_own_pattern_on_either_side(points: list[float], rule: int) -> None:
    for side in (1, -1):
        broken = broken_rules([side * point for point in points])
        assert broken[-1] == (RULES[rule][0],)
        assert all(not before for before in broken[:-1])


def test_points_on_both_sides_are_no_pattern() -> None:
    assert broken_rules([2.1, 0.1, -2.3, 1.4, -1.2, 1.1, -1.3, 1.2])[-1] == ()


def run_length(shift: float, rules: int, seed: int, runs: int = 1_500, most: int = 4_000) -> float:
    """How many points there are in the mean until a rule of the first so many is broken."""
    numbers, names, lengths = np.random.default_rng(seed), {rule[0] for rule in RULES[:rules]}, list[int]()
    for _ in range(runs):
        points: list[float] = []
        while len(points) < most:
            points.append(float(numbers.normal(shift)))
            if names & {*broken_rules(points[-8:])[-1]}:
                break
        lengths.append(len(points))
    return fmean(lengths)


@pytest.mark.parametrize(("shift", "published"), [(0.0, 91.75), (1.0, 9.22), (2.0, 3.13)])
def test_runs_are_as_long_as_published(shift: float, published: float) -> None:
    """C.W. Champ and W.H. Woodall, *Technometrics* 29 (1987), all four rules; from memory."""
    assert run_length(shift, 4, seed=7) == pytest.approx(published, rel=0.08)


def test_one_rule_alone_rings_every_370_points() -> None:
    """1 / P(|z| > 3) = 370.4 (any table of the normal distribution)."""
    assert run_length(0.0, 1, seed=8, runs=600) == pytest.approx(370.4, rel=0.12)


def at_the_divider(follows: bool, seed: int, count: int = 400) -> float:
    """The variance of the mean weight, in that of a sample, of a divider that is moved by every sample or by advice."""
    numbers, set_to, moved, size = np.random.default_rng(seed), 0.0, -1.0, 5
    drawn, made = [list(numbers.normal(0, 1, size)) for _ in range(12)], list[float]()
    times = [float(number) - 12 for number in range(12)]
    for minute in range(count):
        sample = [float(piece) + set_to for piece in numbers.normal(0, 1, size)]
        made.append(fmean(sample))
        drawn, times = [*drawn[-39:], sample], [*times[-39:], float(minute)]
        if follows:
            set_to -= fmean(sample)
            continue
        found = advice(control_chart(times, drawn), 0.0, moved)
        if found.move is not None:
            set_to, moved = set_to + found.move, float(minute)
    return pvariance(made) * size


def test_to_follow_every_sample_doubles_the_variance_and_to_follow_the_advice_does_not() -> None:
    """W.E. Deming, *Out of the Crisis* (1986), the funnel, rule 2: twice the variance; from memory."""
    followed = fmean(at_the_divider(True, seed) for seed in range(6))
    advised = fmean(at_the_divider(False, seed) for seed in range(6))
    assert followed == pytest.approx(2.0, rel=0.12)
    assert advised < 1.4, "a false alarm now and then, by limits of few samples, is all"


def test_what_is_off_is_moved_by_as_much() -> None:
    drawn = samples(5)
    chart = control_chart(range(len(drawn)), drawn)
    found = advice(chart, chart.centre - 0.6)
    assert found.move is not None
    assert found.move == pytest.approx(-0.6, abs=3 * chart.deviation / sqrt(5))
    assert found.because
    assert advice(chart, chart.centre).move is None
    assert advice(chart, chart.centre - 0.6, since_min=chart.points[-1].at_min).move is None, "nothing is seen since"


def test_too_few_or_unequal_samples_are_refused() -> None:
    with pytest.raises(OutOfRangeError, match="at least 8"):
        control_chart(range(3), samples(5, 3))
    with pytest.raises(OutOfRangeError, match="one size"):
        control_chart(range(9), [*samples(5, 8), [1.0, 2.0]])
