"""A figure from what was observed, and the interval in which it lies 95 times of 100.

What is far from the others is held out: by the median and the median absolute deviation (Iglewicz and Hoaglin, *How to
Detect and Handle Outliers*, 1993; from memory).

- A mean, and a median of durations by their logarithms: Student's t.
- A share: the beta posterior of so many good and lost ones, from Jeffreys' prior; where none is lost it reaches to one
  (Brown, Cai and DasGupta, "Interval estimation for a binomial proportion", *Statistical Science*, 2001; from memory).
- The mean time between stops: exponential, the time since the last one counted too; chi-square with 2 n + 1 degrees,
  between the two exact limits of 2 n and 2 n + 2 (Cox, "Some simple approximate tests for Poisson variates",
  *Biometrika*, 1953; from memory).
"""

from collections.abc import Sequence
from math import exp, log, sqrt
from statistics import fmean, median, stdev

from scipy.special import betaincinv, gammaincinv, stdtrit

from rundgang.core.dough.friction import MAD_TO_SIGMA, OUTLIER_SIGMAS
from rundgang.core.model import Model

LEAST_OBSERVED = 4
"""Of fewer nothing is said."""

LEAST_TO_JUDGE = 10
"""Among fewer none is called an outlier: their scatter is not known well enough."""

TAIL = 0.025
"""Beyond either end of an interval."""

JEFFREYS = 0.5


class Estimate(Model):
    """A figure that was learnt.

    Attributes
    ----------
    low, high : float
        Between these it lies, 95 times of 100.
    observed, held_out : int
        What was counted, and what was too far from it.
    spread : float or None
        Standard deviation of what was observed, of its logarithm where it is a duration; None where single ones have
        none.
    """

    value: float
    low: float
    high: float
    observed: int
    held_out: int = 0
    spread: float | None = None


def held_out(values: Sequence[float]) -> tuple[bool, ...]:
    """Which values are too far from the others."""
    if len(values) < LEAST_TO_JUDGE:
        return (False,) * len(values)
    middle = median(values)
    limit = OUTLIER_SIGMAS * MAD_TO_SIGMA * median(abs(value - middle) for value in values)
    return tuple(limit > 0 and abs(value - middle) > limit for value in values)


def _kept(values: Sequence[float]) -> list[float]:
    return [value for value, is_out in zip(values, held_out(values), strict=True) if not is_out]


def mean_of(values: Sequence[float]) -> Estimate | None:
    """The mean of figures that scatter evenly; None of too few."""
    kept = _kept(values)
    if len(kept) < LEAST_OBSERVED:
        return None
    mean, spread = fmean(kept), stdev(kept)
    half = float(stdtrit(len(kept) - 1, 1 - TAIL)) * spread / sqrt(len(kept))
    return Estimate(
        value=mean,
        low=mean - half,
        high=mean + half,
        observed=len(kept),
        held_out=len(values) - len(kept),
        spread=spread,
    )


def median_of(durations: Sequence[float]) -> Estimate | None:
    """The median of durations above 0, which are log-normal; None of too few."""
    found = mean_of([log(duration) for duration in durations])
    if found is None:
        return None
    return found.model_copy(
        update={"value": exp(found.value), "low": exp(found.low), "high": exp(found.high)},
    )


def share_of(good: int, lost: int) -> Estimate:
    """The share of good ones among so many good and lost; where none is lost, or good, it may be all, or none."""
    a, b = good + JEFFREYS, lost + JEFFREYS
    return Estimate(
        value=a / (a + b) if good and lost else float(not lost),
        low=float(betaincinv(a, b, TAIL)) if good else 0.0,
        high=float(betaincinv(a, b, 1 - TAIL)) if lost else 1.0,
        observed=good + lost,
    )


def time_between(stops: int, watched_min: float) -> Estimate | None:
    """The mean time between stops of a station that was watched while it ran, min; None of too few stops."""
    if stops < LEAST_OBSERVED:
        return None
    half = stops + 0.5
    return Estimate(
        value=watched_min / stops,
        low=watched_min / float(gammaincinv(half, 1 - TAIL)),
        high=watched_min / float(gammaincinv(half, TAIL)),
        observed=stops,
    )
