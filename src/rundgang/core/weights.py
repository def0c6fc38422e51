"""Piece and pack weights: samples, giveaway, two legal systems, control limits, and where to aim.

The average-quantity system follows directive 76/211/EEC as amended, with the sampling of its Annex II;
the other allows each package a maximum variation and asks the average to reach the label, after the
procedures of NIST Handbook 133. Figures are from memory; local law decides which system holds.
"""

from itertools import pairwise
from math import ceil
from statistics import fmean, stdev
from typing import Literal

from rundgang.core.errors import OutOfRangeError
from rundgang.core.model import Model

TOLERABLE_ERROR: tuple[tuple[float, float, Literal["%", "g"]], ...] = (
    (50, 9, "%"),
    (100, 4.5, "g"),
    (200, 4.5, "%"),
    (300, 9, "g"),
    (500, 3, "%"),
    (1_000, 15, "g"),
    (10_000, 1.5, "%"),
)
"""Directive 76/211/EEC, Annex I: nominal up to (g), tolerable negative error, in % or g; from memory."""

LEAST_NOMINAL_G, MOST_NOMINAL_G = 5.0, 10_000.0

MEAN_FACTOR = {20: 0.640, 30: 0.503, 50: 0.379}
"""Directive 76/211/EEC, Annex II: mean >= nominal - factor x s, by sample size; from memory.

Each is Student's t at 99.5 % over the root of the sample size.
"""

NON_CONFORMING = {20: (1, 2), 30: (2, 3), 50: (3, 4), 80: (5, 6)}
"""Annex II: packages below the tolerable error at which a lot is accepted, refused; from memory."""

MAXIMUM_VARIATION: tuple[tuple[float, float], ...] = (
    (36, 0.10),
    (54, 3.6),
    (81, 5.4),
    (117, 7.2),
    (154, 9.0),
    (208, 10.8),
    (263, 12.7),
    (317, 14.5),
    (381, 16.3),
    (426, 18.1),
    (489, 19.9),
    (571, 21.7),
    (635, 23.5),
    (698, 25.4),
    (771, 27.2),
    (852, 29.0),
    (970, 31.7),
    (1_120, 35.3),
    (1_250, 37.1),
    (1_450, 39.9),
    (1_760, 45.3),
)
"""NIST Handbook 133, packages labelled by weight: label up to (g), variation allowed (g; the first a share)."""

SAMPLE_CORRECTION = {12: 0.635, 24: 0.422, 48: 0.290}
"""NIST Handbook 133, category A: average error >= - factor x s; Student's t at 97.5 % over root n; from memory."""

CHART: dict[int, tuple[float, float, float, float]] = {
    2: (1.880, 0.0, 3.267, 1.128),
    3: (1.023, 0.0, 2.574, 1.693),
    4: (0.729, 0.0, 2.282, 2.059),
    5: (0.577, 0.0, 2.114, 2.326),
    6: (0.483, 0.0, 2.004, 2.534),
    7: (0.419, 0.076, 1.924, 2.704),
    8: (0.373, 0.136, 1.864, 2.847),
    9: (0.337, 0.184, 1.816, 2.970),
    10: (0.308, 0.223, 1.777, 3.078),
}
"""Constants A2, D3, D4 and d2 of mean and range charts by sample size (ASTM E2587; from memory)."""

TWO_AND_A_HALF_PERCENT_Z = 1.960
"""Normal deviate below which 2.5 % fall."""

ONE_IN_TEN_THOUSAND_Z = 3.719
"""Normal deviate below which one in 10,000 falls: "none" for a filling line (common practice)."""


class Rule(Model):
    """One legal rule and whether a sample keeps it."""

    rule: str
    kept: bool
    arithmetic: str


class Verdict(Model):
    """A sample against a legal system.

    Attributes
    ----------
    tolerance_g : float
        Tolerable negative error, or maximum allowable variation, g.
    """

    system: Literal["average quantity", "maximum variation"]
    nominal_g: float
    count: int
    mean_g: float
    spread_g: float
    tolerance_g: float
    rules: tuple[Rule, ...]
    kept: bool


class ControlLimits(Model):
    """Limits of a chart of means and ranges, g."""

    centre_g: float
    lower_mean_g: float
    upper_mean_g: float
    mean_range_g: float
    lower_range_g: float
    upper_range_g: float
    spread_g: float


def tolerable_negative_error(nominal_g: float) -> float:
    """Tolerable negative error of a nominal quantity, g; percentages are rounded up to a tenth of a gram.

    Raises
    ------
    OutOfRangeError
        Nominal outside 5 g to 10 kg.
    """
    if not LEAST_NOMINAL_G <= nominal_g <= MOST_NOMINAL_G:
        raise OutOfRangeError("The nominal quantity", f"{nominal_g:g} g", "5 g to 10,000 g")
    _, amount, unit = next(row for row in TOLERABLE_ERROR if nominal_g <= row[0])
    if unit == "g":
        return amount
    return ceil(round(nominal_g * amount / 10, 6)) / 10


def maximum_variation(label_g: float) -> float:
    """Maximum allowable variation of a labelled weight, g, or OutOfRangeError above the table."""
    most = MAXIMUM_VARIATION[-1][0]
    if not 0 < label_g <= most:
        raise OutOfRangeError("The labelled weight", f"{label_g:g} g", f"above 0, at most {most:,.0f} g")
    first, share = MAXIMUM_VARIATION[0]
    if label_g <= first:
        return label_g * share
    return next(allowed for up_to, allowed in MAXIMUM_VARIATION if label_g <= up_to)


def average_quantity(nominal_g: float, sample_g: tuple[float, ...]) -> Verdict:
    """A sample against the average-quantity system.

    The mean test and the numbers below the tolerable error are defined for samples of 20, 30 and 50;
    a sample of another size is judged by the next smaller one's factors.

    Raises
    ------
    OutOfRangeError
        Fewer than 20 weights, or a nominal outside the directive.
    """
    _at_least(sample_g, 20)
    error = tolerable_negative_error(nominal_g)
    size = max(n for n in MEAN_FACTOR if n <= len(sample_g))
    mean, spread = fmean(sample_g), stdev(sample_g)
    least = nominal_g - MEAN_FACTOR[size] * spread
    low, lower = nominal_g - error, nominal_g - 2 * error
    below = sum(weight < low for weight in sample_g)
    far_below = sum(weight < lower for weight in sample_g)
    accepted = NON_CONFORMING[size][0]
    rules = (
        Rule(
            rule="mean",
            kept=mean >= least,
            arithmetic=f"{mean:.2f} g ≥ {nominal_g:g} g − {MEAN_FACTOR[size]} × {spread:.2f} g = {least:.2f} g",
        ),
        Rule(
            rule="tolerable negative error",
            kept=below <= accepted,
            arithmetic=f"{below} below {nominal_g:g} g − {error:g} g = {low:g} g; allowed {accepted} of {size}",
        ),
        Rule(
            rule="none below twice the error",
            kept=far_below == 0,
            arithmetic=f"{far_below} below {nominal_g:g} g − 2 × {error:g} g = {lower:g} g; allowed 0",
        ),
    )
    return _verdict("average quantity", nominal_g, sample_g, error, rules)


def maximum_allowable_variation(label_g: float, sample_g: tuple[float, ...]) -> Verdict:
    """A sample against the system of maximum allowable variation, samples of 12, 24 or 48 (or more).

    Raises
    ------
    OutOfRangeError
        Fewer than 12 weights, or a label beyond the table.
    """
    _at_least(sample_g, 12)
    variation = maximum_variation(label_g)
    size = max(n for n in SAMPLE_CORRECTION if n <= len(sample_g))
    mean, spread = fmean(sample_g), stdev(sample_g)
    least = label_g - SAMPLE_CORRECTION[size] * spread
    below = sum(weight < label_g - variation for weight in sample_g)
    rules = (
        Rule(
            rule="average reaches the label",
            kept=mean >= least,
            arithmetic=f"{mean:.2f} g ≥ {label_g:g} g − {SAMPLE_CORRECTION[size]} × {spread:.2f} g = {least:.2f} g",
        ),
        Rule(
            rule="none below the allowed variation",
            kept=below == 0,
            arithmetic=f"{below} below {label_g:g} g − {variation:g} g = {label_g - variation:g} g, allowed 0",
        ),
    )
    return _verdict("maximum variation", label_g, sample_g, variation, rules)


def _at_least(sample: tuple[float, ...], count: int) -> None:
    if len(sample) < count:
        raise OutOfRangeError("The number of weights", len(sample), f"at least {count}")


def _verdict(
    system: Literal["average quantity", "maximum variation"],
    nominal_g: float,
    sample_g: tuple[float, ...],
    tolerance_g: float,
    rules: tuple[Rule, ...],
) -> Verdict:
    return Verdict(
        system=system,
        nominal_g=nominal_g,
        count=len(sample_g),
        mean_g=fmean(sample_g),
        spread_g=stdev(sample_g),
        tolerance_g=tolerance_g,
        rules=rules,
        kept=all(rule.kept for rule in rules),
    )


def control_limits(samples_g: tuple[tuple[float, ...], ...]) -> ControlLimits:
    """Limits for means and ranges from samples of one size, 2 to 10.

    Raises
    ------
    OutOfRangeError
        No two samples, or samples of different or unsuitable sizes.
    """
    sizes = {len(sample) for sample in samples_g}
    if len(samples_g) < 2:
        raise OutOfRangeError("The number of samples", len(samples_g), "at least 2")
    if len(sizes) != 1 or not sizes <= CHART.keys():
        raise OutOfRangeError("The samples' sizes", sorted(sizes), "one size, from 2 to 10")
    a2, d3, d4, d2 = CHART[sizes.pop()]
    centre = fmean(fmean(sample) for sample in samples_g)
    mean_range = fmean(max(sample) - min(sample) for sample in samples_g)
    return ControlLimits(
        centre_g=centre,
        lower_mean_g=centre - a2 * mean_range,
        upper_mean_g=centre + a2 * mean_range,
        mean_range_g=mean_range,
        lower_range_g=d3 * mean_range,
        upper_range_g=d4 * mean_range,
        spread_g=mean_range / d2,
    )


def smallest_target(nominal_g: float, spread_g: float) -> float:
    """Smallest mean to aim at, g, that keeps all three rules of the average-quantity system.

    The mean itself must reach the nominal; at most 2.5 % may fall below the tolerable error; none, taken
    as one in 10,000, below twice the error.
    """
    if spread_g < 0:
        raise OutOfRangeError("The spread", f"{spread_g:g} g", "0 g or more")
    error = tolerable_negative_error(nominal_g)
    return max(
        nominal_g,
        nominal_g - error + TWO_AND_A_HALF_PERCENT_Z * spread_g,
        nominal_g - 2 * error + ONE_IN_TEN_THOUSAND_Z * spread_g,
    )


def giveaway_kg(mean_g: float, nominal_g: float, pieces_per_h: float, hours: float = 1) -> float:
    """Dough given away above the nominal, kg in so many hours."""
    return (mean_g - nominal_g) * pieces_per_h * hours / 1_000


def is_trending(means_g: tuple[float, ...], run: int = 7) -> bool:
    """Whether the last so many means all rise or all fall: a drift seen before a limit is crossed."""
    last = means_g[-run:]
    if len(last) < run:
        return False
    return all(b > a for a, b in pairwise(last)) or all(b < a for a, b in pairwise(last))
