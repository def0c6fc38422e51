"""Control charts: is it steady, and if not, by how much is it off; and when to leave the divider alone.

Samples of several pieces are drawn by their means and ranges, larger ones by means and standard deviations, single
figures by themselves and their moving range. The limits are three standard deviations of what is drawn (ASTM E2587;
constants from memory). A pattern that chance alone would hardly make breaks a run rule (Western Electric, *Statistical
Quality Control Handbook*, 1956; from memory).
"""

from collections.abc import Callable, Sequence
from itertools import pairwise
from math import exp, lgamma, sqrt
from statistics import fmean, stdev
from typing import Literal

from rundgang.core.errors import OutOfRangeError
from rundgang.core.model import Model
from rundgang.core.weights import CHART

MOST_BY_RANGE = 6
"""Of larger samples the standard deviation says more than the range."""

LEAST_SAMPLES = 8
"""Of fewer samples no limits are drawn."""

MOVING_RANGE_D2, MOVING_RANGE_D4 = 1.128, 3.267
"""Of the range of two figures, one behind the other (ASTM E2587; from memory)."""

ChartKind = Literal["individuals", "mean and range", "mean and standard deviation"]

RULES: tuple[tuple[str, int, int, float], ...] = (
    ("one beyond three standard deviations", 1, 1, 3.0),
    ("two of three beyond two, on one side", 2, 3, 2.0),
    ("four of five beyond one, on one side", 4, 5, 1.0),
    ("eight in a row on one side", 8, 8, 0.0),
)
"""What breaks a run rule: so many of so many points beyond so many standard deviations."""


class ChartPoint(Model):
    """A sample: its mean and how far its figures are apart, and the rules that are broken with it."""

    at_min: float
    mean: float
    spread: float
    broken: tuple[str, ...] = ()


class ControlChart(Model):
    """A chart; `deviation` is the standard deviation of a single figure, by what lies within samples."""

    kind: ChartKind
    size: int
    centre: float
    lower: float
    upper: float
    deviation: float
    spread_centre: float
    spread_lower: float
    spread_upper: float
    points: tuple[ChartPoint, ...]


class Advice(Model):
    """What to do at the divider.

    Attributes
    ----------
    move : float or None
        By how much to move it, in the figures' unit; None: leave it, what is seen is noise.
    off : float
        By how much the last samples are off their target, in the mean.
    because : str
        The rule that says so; empty where none does.
    samples : int
        So many samples say so.
    """

    move: float | None
    off: float
    because: str
    samples: int


def c4(size: int) -> float:
    """The mean of samples' standard deviations, of the true one: sqrt(2/(n-1)) G(n/2)/G((n-1)/2)."""
    return sqrt(2 / (size - 1)) * exp(lgamma(size / 2) - lgamma((size - 1) / 2))


def control_chart(at_min: Sequence[float], samples: Sequence[Sequence[float]]) -> ControlChart:
    """The chart of samples of one size, in their order.

    Raises
    ------
    OutOfRangeError
        Too few samples, or of several sizes.
    """
    sizes = {len(sample) for sample in samples}
    if len(samples) < LEAST_SAMPLES:
        raise OutOfRangeError("The number of samples", len(samples), f"at least {LEAST_SAMPLES}")
    if len(sizes) != 1:
        raise OutOfRangeError("The samples' sizes", sorted(sizes), "one size")
    size = sizes.pop()
    if size == 1:
        return _individuals(at_min, [sample[0] for sample in samples])
    return _ranges(at_min, samples, size) if size <= MOST_BY_RANGE else _deviations(at_min, samples, size)


def _individuals(at_min: Sequence[float], values: Sequence[float]) -> ControlChart:
    moving = [0.0, *(abs(then - before) for before, then in pairwise(values))]
    mean_range = fmean(moving[1:])
    deviation = mean_range / MOVING_RANGE_D2
    spread = (mean_range, 0.0, MOVING_RANGE_D4 * mean_range)
    return _chart("individuals", 1, at_min, values, moving, deviation, spread)


def _ranges(at_min: Sequence[float], samples: Sequence[Sequence[float]], size: int) -> ControlChart:
    _, d3, d4, d2 = CHART[size]
    ranges = [max(sample) - min(sample) for sample in samples]
    mean_range = fmean(ranges)
    spread = (mean_range, d3 * mean_range, d4 * mean_range)
    means = [fmean(sample) for sample in samples]
    return _chart("mean and range", size, at_min, means, ranges, mean_range / d2, spread)


def _deviations(at_min: Sequence[float], samples: Sequence[Sequence[float]], size: int) -> ControlChart:
    found, share = [stdev(sample) for sample in samples], c4(size)
    mean_s, off = fmean(found), 3 * sqrt(1 - share**2) / share
    spread = (mean_s, max(0.0, 1 - off) * mean_s, (1 + off) * mean_s)
    means = [fmean(sample) for sample in samples]
    return _chart("mean and standard deviation", size, at_min, means, found, mean_s / share, spread)


def _chart(
    kind: ChartKind, size: int, at_min: Sequence[float], means: Sequence[float], spreads: Sequence[float],
    deviation: float, spread: tuple[float, float, float],
) -> ControlChart:  # fmt: skip
    centre, of_mean = fmean(means), deviation / sqrt(size)
    broken = broken_rules([(mean - centre) / of_mean if of_mean else 0.0 for mean in means])
    return ControlChart(
        kind=kind,
        size=size,
        centre=centre,
        lower=centre - 3 * of_mean,
        upper=centre + 3 * of_mean,
        deviation=deviation,
        spread_centre=spread[0],
        spread_lower=spread[1],
        spread_upper=spread[2],
        points=tuple(
            ChartPoint(at_min=at, mean=mean, spread=apart, broken=rules)
            for at, mean, apart, rules in zip(at_min, means, spreads, broken, strict=True)
        ),
    )


def broken_rules(deviations: Sequence[float]) -> tuple[tuple[str, ...], ...]:
    """The rules that each point breaks together with those before it.

    Parameters
    ----------
    deviations : sequence of float
        How far each point is from the centre, in standard deviations of a point.
    """
    return tuple(
        tuple(rule[0] for rule in RULES if _is_broken(rule, deviations[: place + 1]))
        for place in range(len(deviations))
    )


def _is_broken(rule: tuple[str, int, int, float], seen: Sequence[float]) -> bool:
    """Whether the last point breaks a rule, on its own side."""
    _, many, of, beyond = rule
    last, side = seen[-of:], _side(seen[-1])
    return len(last) >= many and side(seen[-1]) > beyond and sum(side(one) > beyond for one in last) >= many


def _side(last: float) -> Callable[[float], float]:
    return (lambda one: one) if last > 0 else (lambda one: -one)


def advice(chart: ControlChart, target: float, since_min: float | None = None) -> Advice:
    """Whether to move a divider, and by how much: only where chance alone would hardly have made what is seen.

    To follow every sample would make its pieces more unequal than to leave it alone: their variance doubles
    (W.E. Deming, *Out of the Crisis*, 1986, the funnel; from memory).

    Parameters
    ----------
    target : float
        What the pieces should weigh.
    since_min : float, optional
        When it was moved last: what was before says nothing of how it is now.
    """
    points = [point for point in chart.points if since_min is None or point.at_min > since_min]
    of_mean = chart.deviation / sqrt(chart.size)
    if not points or not of_mean:
        return Advice(move=None, off=0.0, because="", samples=len(points))
    seen = [(point.mean - target) / of_mean for point in points]
    for name, many, of, beyond in RULES:
        if _is_broken((name, many, of, beyond), seen):
            last = points[-of:]
            off = fmean(point.mean for point in last) - target
            return Advice(move=-off, off=off, because=name, samples=len(last))
    return Advice(move=None, off=fmean(point.mean for point in points[-4:]) - target, because="", samples=len(points))
