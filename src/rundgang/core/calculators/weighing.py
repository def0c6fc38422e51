"""Questions of weighing: a sample against the law, and the limits of a control chart."""

from statistics import fmean
from typing import Annotated, Literal

from pydantic import BeforeValidator, Field

from rundgang.core.calculators.parts import Answer, Question, asked, numbers
from rundgang.core.errors import OutOfRangeError
from rundgang.core.figure import Figure
from rundgang.core.weights import (
    average_quantity,
    control_limits,
    giveaway_kg,
    is_trending,
    maximum_allowable_variation,
    smallest_target,
)

HOURS_IN_A_YEAR_OF_SHIFTS = 4_000.0
"""Two shifts on 250 days: what a giveaway of so much an hour is calculated up to, h."""


class WeightsQuestion(Question):
    """Does the sample keep the law, and where should the divider aim?"""

    system: Literal["average quantity", "maximum variation"] = Field(default="average quantity", title="Legal system")
    nominal_g: float = asked("Nominal weight", 420, 5, 10_000, "piece mass")
    pieces_per_h: float = asked("Pace", 9_000, 1, 1_000_000, unit="pieces/h")
    weights_g: Annotated[tuple[float, ...], BeforeValidator(numbers)] = Field(
        default=(
            *(421.5, 424.0, 419.0, 426.5, 422.0, 423.5, 420.5, 425.0, 417.5, 422.5),
            *(428.0, 421.0, 423.0, 424.5, 419.5, 422.0, 426.0, 420.0, 423.5, 425.5),
        ),
        title="Weights of the sample",
        max_length=2_000,
        json_schema_extra={"quantity": "piece mass", "unit": ""},
    )


def weights_answer(q: WeightsQuestion) -> Answer:
    """The sample against the chosen legal system, the target and the giveaway."""
    judge = average_quantity if q.system == "average quantity" else maximum_allowable_variation
    verdict = judge(q.nominal_g, q.weights_g)
    target = smallest_target(q.nominal_g, verdict.spread_g)
    given = giveaway_kg(verdict.mean_g, q.nominal_g, q.pieces_per_h)
    broken = [rule.rule for rule in verdict.rules if not rule.kept]
    return Answer(
        figures=(
            Figure(name="Mean", value=verdict.mean_g, quantity="piece mass"),
            Figure(name="Standard deviation", value=verdict.spread_g, quantity="piece mass"),
            Figure(name="Aim at, for this spread (average quantity)", value=target, quantity="piece mass"),
            Figure(name="Given away an hour", value=given, quantity="dough mass"),
            Figure(
                name="in a year of two shifts",
                value=given * HOURS_IN_A_YEAR_OF_SHIFTS / 1_000,
                quantity="yearly mass",
                decimals=1,
            ),
        ),
        good=verdict.kept,
        verdict=f"Not kept: {', '.join(broken)}." if broken else f"All {len(verdict.rules)} rules are kept.",
        working=tuple(f"{rule.rule}: {rule.arithmetic}" for rule in verdict.rules),
    )


class ControlQuestion(Question):
    """Is the divider in control, and where are the limits?"""

    size: int = asked("Pieces in a sample", 4, 2, 10)
    weights_g: Annotated[tuple[float, ...], BeforeValidator(numbers)] = Field(
        default=(
            *(96.2, 95.4, 97.1, 96.0, 95.8, 96.6, 96.9, 95.1, 96.4, 97.0, 95.5, 96.3),
            *(95.9, 96.8, 96.1, 95.7, 96.5, 96.2, 95.3, 96.7, 97.2, 96.0, 95.6, 96.4),
        ),
        title="Weights in the order they were taken",
        max_length=2_000,
        json_schema_extra={"quantity": "piece mass", "unit": ""},
    )


def control_answer(q: ControlQuestion) -> Answer:
    """Limits for means and ranges, and whether a sample lies outside or the means drift."""
    if len(q.weights_g) % q.size:
        allowed = f"whole samples of {q.size}"
        raise OutOfRangeError("The number of weights", len(q.weights_g), allowed)
    samples = tuple(q.weights_g[at : at + q.size] for at in range(0, len(q.weights_g), q.size))
    limits = control_limits(samples)
    means = tuple(fmean(sample) for sample in samples)
    outside = [
        number
        for number, (sample, mean) in enumerate(zip(samples, means, strict=True), start=1)
        if not limits.lower_mean_g <= mean <= limits.upper_mean_g
        or not limits.lower_range_g <= max(sample) - min(sample) <= limits.upper_range_g
    ]
    drifts = is_trending(means)
    words = [f"sample {number} lies outside" for number in outside] + (["the means drift"] if drifts else [])
    return Answer(
        figures=(
            Figure(name="Centre", value=limits.centre_g, quantity="piece mass"),
            Figure(name="Means from", value=limits.lower_mean_g, quantity="piece mass"),
            Figure(name="Means to", value=limits.upper_mean_g, quantity="piece mass"),
            Figure(name="Range at most", value=limits.upper_range_g, quantity="piece mass"),
            Figure(name="Standard deviation within samples", value=limits.spread_g, quantity="piece mass"),
        ),
        good=not words,
        verdict=(", ".join(words) + ".").capitalize() if words else "In control: no sample outside, no drift.",
        working=(
            f"{len(samples)} samples of {q.size}: mean {limits.centre_g:.2f} g, mean range {limits.mean_range_g:.2f} g",
            f"limits of means = {limits.centre_g:.2f} g ± {limits.upper_mean_g - limits.centre_g:.2f} g, "
            f"limit of ranges = {limits.upper_range_g:.2f} g",
        ),
    )
