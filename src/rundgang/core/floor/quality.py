"""Quality by product and check: the chart of what was measured, what to do at the divider, giveaway, and the law.

What a check measures in samples, and what the scale behind a divider reads, are drawn alike. What is given away is what
the pieces weigh beyond what they should; the law is asked of packs, by what their label says.
"""

from bisect import bisect_right
from collections.abc import Iterable, Sequence
from itertools import chain
from statistics import fmean
from typing import Literal, NamedTuple

from rundgang.core.errors import OutOfRangeError
from rundgang.core.floor.control import LEAST_SAMPLES, Advice, ControlChart, advice, control_chart
from rundgang.core.floor.inspections import MEASURES, Inspection, Measured, limits_of, own_figure
from rundgang.core.model import Id, Model
from rundgang.core.money import kilogram_price
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR
from rundgang.core.weights import Verdict, average_quantity, giveaway_kg, maximum_allowable_variation

MOST_SAMPLES = 60
"""So many samples are drawn, the last ones."""

MOST_JUDGED = 50
"""So many of the last packs are asked of by the law."""

HOURS_PER_YEAR = 8_760

LAW_LEAST = 20
"""Of fewer packs the law asks nothing."""

WEIGHTS = frozenset({"scaled weight", "baked weight", "pack weight"})

Law = Literal["average quantity", "maximum variation"]


class Sample(NamedTuple):
    """What was measured of a product at a moment, min, in metric units."""

    at_min: float
    product: str
    values: tuple[float, ...]


class Giveaway(Model):
    """What is given away, by what the last samples weigh in the mean.

    Attributes
    ----------
    grams : float
        Of a piece; below 0: too little.
    kg_per_h : float
        At the pace that the product is wanted from the line.
    money_per_h : float or None
        What its dough costs; None where something has no price.
    hours_a_year, kg_a_year : float
        So long it is made in a year in which all of it is ordered as in this window, h; and what that gives away, kg.
    """

    grams: float
    kg_per_h: float
    money_per_h: float | None
    hours_a_year: float
    kg_a_year: float
    money_a_year: float | None


class QualityChart(Model):
    """A product at a check.

    Attributes
    ----------
    target, low, high : float or None
        What it should be, and may be.
    chart : ControlChart or None
        None where there are too few samples; `why` says how many are missing.
    advice, giveaway : Advice, Giveaway or None
        Of what is weighed at a divider.
    verdict : Verdict or None
        What the law says of the last packs.
    """

    key: str
    name: str
    station: Id
    product: Id
    quantity: str
    unit: str
    target: float | None
    low: float | None
    high: float | None
    samples: int
    chart: ControlChart | None
    why: str
    advice: Advice | None
    giveaway: Giveaway | None
    verdict: Verdict | None

    @property
    def is_broken(self) -> bool:
        """Whether its last sample breaks a rule."""
        return self.chart is not None and bool(self.chart.points[-1].broken)


def quality_of(
    scenario: Scenario, one: Inspection, samples: Iterable[Sample], law: Law = "average quantity"
) -> tuple[QualityChart, ...]:
    """A check's charts, product by product, those that break a rule first.

    Parameters
    ----------
    samples : iterable of Sample
        In the order of their moments.
    law : {"average quantity", "maximum variation"}
        Which system the plant's packs are under.
    """
    if not isinstance(one.asks, Measured):
        return ()
    by_product: dict[str, list[Sample]] = {}
    known = {product.id for product in scenario.products}
    for sample in samples:
        if sample.values and sample.product in known:
            by_product.setdefault(sample.product, []).append(sample)
    found = (_chart(scenario, one, one.asks, product, own, law) for product, own in by_product.items())
    return tuple(sorted(found, key=lambda chart: not chart.is_broken))


def _chart(
    scenario: Scenario, one: Inspection, asks: Measured, product_id: str, samples: Sequence[Sample], law: Law
) -> QualityChart:  # fmt: skip
    product, limits = scenario.product(product_id), limits_of(scenario, one, product_id)
    target = own_figure(scenario, asks, product, one.station) if asks.around != "fixed" else None
    last = [sample for sample in samples if len(sample.values) == len(samples[-1].values)][-MOST_SAMPLES:]
    try:
        chart, why = control_chart([sample.at_min for sample in last], [sample.values for sample in last]), ""
    except OutOfRangeError:
        chart, why = None, f"{len(last)} of the {LEAST_SAMPLES} samples that limits need"
    divides = asks.subject == "scaled weight" and target is not None
    return QualityChart(
        key=f"{one.id}/{product_id}",
        name=one.name,
        station=one.station,
        product=product_id,
        quantity=MEASURES[asks.subject].quantity,
        unit=MEASURES[asks.subject].unit,
        target=target,
        low=limits.low,
        high=limits.high,
        samples=len(last),
        chart=chart,
        why=why,
        advice=advice(chart, target) if chart and divides and target is not None else None,
        giveaway=_giveaway(scenario, product, target, last) if divides and target is not None else None,
        verdict=_verdict(product, last, law) if asks.subject == "pack weight" else None,
    )


def _giveaway(scenario: Scenario, product: Product, target: float, samples: Sequence[Sample]) -> Giveaway:
    mean = fmean(chain.from_iterable(sample.values for sample in samples))
    scaled_per_h = product.target_per_hour * float(product.taken_per_finished[0])
    hours, price = _hours_a_year(scenario, product), kilogram_price(scenario, scenario.whole(product))
    kg_per_h, kg_a_year = giveaway_kg(mean, target, scaled_per_h), giveaway_kg(mean, target, scaled_per_h, hours)
    return Giveaway(
        grams=mean - target,
        kg_per_h=kg_per_h,
        money_per_h=None if price is None else kg_per_h * price,
        hours_a_year=hours,
        kg_a_year=kg_a_year,
        money_a_year=None if price is None else kg_a_year * price,
    )


def _hours_a_year(scenario: Scenario, product: Product) -> float:
    """How long a product is made in a year, where all of it is ordered as in this window, h."""
    pieces = product.pieces_per_pack * sum(order.packs for order in scenario.orders if order.product == product.id)
    return pieces / product.target_per_hour * HOURS_PER_YEAR * MINUTES_PER_HOUR / scenario.window.minutes


def _verdict(product: Product, samples: Sequence[Sample], law: Law) -> Verdict | None:
    packs = tuple(chain.from_iterable(sample.values for sample in samples))[-MOST_JUDGED:]
    if product.nominal_g is None or len(packs) < LAW_LEAST:
        return None
    judge = average_quantity if law == "average quantity" else maximum_allowable_variation
    return judge(product.nominal_g, packs)


def scale_samples(
    readings: Iterable[tuple[float, float]], runs: Sequence[tuple[str, float, float]], every_min: float, size: int
) -> tuple[Sample, ...]:
    """Samples of what a scale behind a divider reads: so many pieces one after the other, every so often in a run.

    Parameters
    ----------
    readings : iterable of (float, float)
        When, min, and how heavy, g.
    runs : sequence of (str, float, float)
        What was divided from when until when, min, one after the other.
    """
    begins, taken = [begin for _, begin, _ in runs], dict[tuple[int, int], list[tuple[float, float]]]()
    for at, grams in readings:
        number = bisect_right(begins, at) - 1
        if number >= 0 and at <= runs[number][2] and grams > 0:
            taken.setdefault((number, int((at - begins[number]) // every_min)), []).append((at, grams))
    return tuple(
        Sample(own[0][0], runs[number][0], tuple(grams for _, grams in own[:size]))
        for (number, _), own in sorted(taken.items())
        if len(own) >= size
    )
