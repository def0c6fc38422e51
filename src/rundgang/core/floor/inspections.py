"""Inspections: what is looked at and measured on the walk, when, what it must be, and what to do when it is not.

On the floor one says *check*. The plant defines them: each is of a station, comes at its time, and asks for a figure,
a word or a count. A figure's limits are fixed, or stand around what the product itself asks for: its dough temperature,
its scaling weight, its oven.
"""

from collections.abc import Iterator, Mapping, Sequence
from statistics import fmean
from typing import Annotated, Literal, NamedTuple

from pydantic import Field, StringConstraints, model_validator

from rundgang.core.kinds.conveyor import ConveyorStep
from rundgang.core.kinds.every import PieceStep
from rundgang.core.kinds.parts import DwellStep
from rundgang.core.model import Id, Lines, Model, Name, Text
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario

Subject = Literal[
    "dough temperature",
    "flour temperature",
    "water temperature",
    "fat temperature",
    "climate",
    "humidity",
    "oven temperature",
    "oil temperature",
    "core temperature",
    "scaled weight",
    "baked weight",
    "pack weight",
    "size",
    "off centre",
]


class Measure(NamedTuple):
    """What a figure is of.

    Attributes
    ----------
    quantity, unit : str
        As `units` names it; the metric unit.
    usual, possible : tuple of float
        What it hardly ever is beyond, and never (common practice, no published source).
    """

    quantity: str
    unit: str
    usual: tuple[float, float]
    possible: tuple[float, float]


MEASURES: Mapping[Subject, Measure] = {
    "dough temperature": Measure("temperature", "°C", (8, 40), (-2, 55)),
    "flour temperature": Measure("temperature", "°C", (3, 40), (-20, 60)),
    "water temperature": Measure("temperature", "°C", (0.5, 40), (0.1, 99)),
    "fat temperature": Measure("temperature", "°C", (2, 30), (-25, 60)),
    "climate": Measure("temperature", "°C", (-25, 60), (-45, 90)),
    "humidity": Measure("", "%", (15, 98), (1, 100)),
    "oven temperature": Measure("temperature", "°C", (120, 320), (0, 450)),
    "oil temperature": Measure("temperature", "°C", (140, 205), (0, 260)),
    "core temperature": Measure("temperature", "°C", (12, 102), (-25, 112)),
    "scaled weight": Measure("piece mass", "g", (3, 3_000), (0.1, 30_000)),
    "baked weight": Measure("piece mass", "g", (3, 3_000), (0.1, 30_000)),
    "pack weight": Measure("piece mass", "g", (20, 10_000), (0.1, 100_000)),
    "size": Measure("thickness", "mm", (1, 400), (0.1, 2_000)),
    "off centre": Measure("thickness", "mm", (0, 8), (0, 200)),
}

ODD_WIDTHS = 4.0
"""A figure is odd that is off its limits by more than so many times what lies between them."""

MOST_COUNTED = 100_000
"""So many pieces are in no pack."""

EARLY_SHARE, LATE_SHARE = 0.5, 0.2
"""What comes again and again may be taken so much of its interval before it is due, and is late so much after."""

LATE_MIN = 10.0
"""All others are late so long after they are due, min."""

DAILY_LATE_MIN = 60.0
"""And those of the day, min."""


class Every(Model):
    """Again and again while pieces pass."""

    kind: Literal["every"] = "every"
    minutes: float = Field(ge=5, le=1_440)


class AtStart(Model):
    """When a run's first piece comes."""

    kind: Literal["start"] = "start"


class EachBatch(Model):
    """Of every batch, when it comes, or so long after: of a trough, after it was put in."""

    kind: Literal["batch"] = "batch"
    after_min: float = Field(default=0, ge=0, le=10_080)


class AtChangeover(Model):
    """Between two products; perhaps only where the first leaves an allergen that the second does not have."""

    kind: Literal["changeover"] = "changeover"
    allergens_only: bool = False


class Daily(Model):
    """Once a day, before its first run."""

    kind: Literal["daily"] = "daily"


When = Annotated[Every | AtStart | EachBatch | AtChangeover | Daily, Field(discriminator="kind")]


class Measured(Model):
    """A figure.

    Attributes
    ----------
    low, high : float or None
        What it may be; None: no limit.
    around : {"fixed", "own", "own percent"}
        Fixed; or from what the product asks for, so much more or less, or so many percent of it: -1 and 1.
    sample : int
        So many pieces are measured; their mean counts.
    zone : int
        Of an oven, counted from 1; 0 where it is all one.
    """

    kind: Literal["measured"] = "measured"
    subject: Subject
    low: float | None = Field(default=None, ge=-1_000, le=30_000)
    high: float | None = Field(default=None, ge=-1_000, le=30_000)
    around: Literal["fixed", "own", "own percent"] = "fixed"
    sample: int = Field(default=1, ge=1, le=20)
    zone: int = Field(default=0, ge=0, le=30)

    @model_validator(mode="after")
    def _in_order(self) -> "Measured":
        if self.low is not None and self.high is not None and self.low > self.high:
            raise ValueError(f"low is {self.low:g} and high {self.high:g}; allowed: the lower one first")
        return self


Word = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=30)]


class Chosen(Model):
    """A word: the good one, or one of those that say what is wrong."""

    kind: Literal["chosen"] = "chosen"
    good: Word
    bad: tuple[Word, ...] = Field(min_length=1, max_length=4)

    @model_validator(mode="after")
    def _each_once(self) -> "Chosen":
        if len({self.good, *self.bad}) < 1 + len(self.bad):
            raise ValueError("bad: a word stands twice; allowed: each word once")
        return self


class CountedPieces(Model):
    """A count of pieces in a pack, which must be exact; None: as many as the product has."""

    kind: Literal["counted"] = "counted"
    wanted: int | None = Field(default=None, ge=1, le=10_000)


Asks = Annotated[Measured | Chosen | CountedPieces, Field(discriminator="kind")]


class Inspection(Model):
    """What is looked at or measured at a station.

    Attributes
    ----------
    hint : str
        How to take it.
    action : str
        What to do when it is out.
    product : str or None
        Of which alone it is; None: of all.
    leaving : bool
        Whether it is of what leaves the station, not of what comes to it.
    holds : bool
        Whether all is held, when it fails, that has passed since it was good.
    clears : bool
        Whether nothing of a run is to be packed before it is good: what is, is held.
    """

    id: Id
    line: Id
    station: Id
    name: Name
    hint: Text = Field(default="", max_length=120)
    when: When
    asks: Asks
    action: Lines = Field(min_length=1, max_length=200)
    product: Id | None = None
    leaving: bool = True
    holds: bool = False
    clears: bool = False

    @model_validator(mode="after")
    def _clears_a_run(self) -> "Inspection":
        if self.clears and not isinstance(self.when, AtStart):
            raise ValueError("clears: nothing waits for a check that is not of a run's start; allowed: with when start")
        return self

    @property
    def is_probe(self) -> bool:
        """Whether it takes a dough's temperature, batch by batch."""
        return (
            isinstance(self.asks, Measured) and self.asks.subject == "dough temperature" and self.when.kind == "batch"
        )


class Inspections(Model):
    """All of a plant's."""

    all: tuple[Inspection, ...] = Field(default=(), max_length=2_000)

    @model_validator(mode="after")
    def _each_once(self) -> "Inspections":
        known = [one.id for one in self.all]
        if len({*known}) < len(known):
            twice = next(name for name in known if known.count(name) > 1)
            raise ValueError(f"all: {twice} stands twice; allowed: each id once")
        return self

    def on(self, line: str) -> tuple[Inspection, ...]:
        """Those of a line."""
        return tuple(one for one in self.all if one.line == line)

    def faults(self, scenario: Scenario) -> Iterator[str]:
        """What of them does not fit the plant: which, what it is, and what is allowed."""
        stations = {(line.id, station.id) for line in scenario.plant.lines for station in line.stations}
        products = {product.id: product.line for product in scenario.products}
        for one in self.all:
            if (one.line, one.station) not in stations:
                yield f"{one.name}: no station of the plant is meant; allowed: one that the page lists"
            elif one.product is not None and products.get(one.product) != one.line:
                yield f"{one.name}: the product is not made on its line; allowed: one of that line, or all of them"
            elif isinstance(one.asks, Measured) and one.asks.around != "fixed":
                yield from _without_figure(scenario, one, one.asks)


def _without_figure(scenario: Scenario, one: Inspection, asks: Measured) -> Iterator[str]:
    passing = [made for made in scenario.products if _is_of(scenario, one, made)]
    mixed = asks.subject == "dough temperature" and any(one.station in _kettles(scenario, made) for made in passing)
    if passing and not mixed and all(own_figure(scenario, asks, made, one.station) is None for made in passing):
        yield f"{one.name}: no product has a {asks.subject} of its own there; allowed: fixed limits"


def _is_of(scenario: Scenario, one: Inspection, product: Product) -> bool:
    """Whether a product is made at an inspection's station, and meant."""
    if product.line != one.line or one.product not in {None, product.id}:
        return False
    return any(step.station == one.station for step in product.route) or one.station in _kettles(scenario, product)


def _kettles(scenario: Scenario, product: Product) -> set[str]:
    return {made.mixing.station for made in scenario.preparations if made.line == product.line}


class Limits(NamedTuple):
    """What a figure may be; None: no limit."""

    low: float | None
    high: float | None

    def keep(self, value: float) -> bool:
        """Whether a value is within."""
        return (self.low is None or value >= self.low) and (self.high is None or value <= self.high)


def limits_of(scenario: Scenario, one: Inspection, product: str | None, preparation: str | None = None) -> Limits:
    """What an inspection's figure, or count, may be for a product, or for what is prepared for it."""
    made = scenario.product(product) if product else None
    match one.asks:
        case CountedPieces(wanted=wanted):
            count = wanted if wanted is not None else (made.pieces_per_pack if made else None)
            return Limits(count, count)
        case Measured() as asks:
            if asks.around == "fixed":
                return Limits(asks.low, asks.high)
            own = own_figure(scenario, asks, made, one.station, preparation) if made else None
            if own is None:
                return Limits(None, None)
            scale = own / 100 if asks.around == "own percent" else 1.0
            low, high = (None if off is None else own + off * scale for off in (asks.low, asks.high))
            return Limits(low, high)
        case Chosen():
            return Limits(None, None)


def own_figure(
    scenario: Scenario, asks: Measured, product: Product, station: str, preparation: str | None = None
) -> float | None:
    """What a product itself asks for, in the measure's unit; None where it says nothing of it."""
    match asks.subject:
        case "dough temperature":
            return scenario.preparation(preparation).temperature_c if preparation else _dough_c(product, station)
        case "scaled weight":
            return entering_g(product, station)
        case "baked weight":
            return product.baked_g if _step_at(product, station) else None
        case "pack weight":
            return product.nominal_g if _step_at(product, station) else None
        case _:
            step = _step_at(product, station)
            return _set_at(asks, step) if step else None


def _dough_c(product: Product, station: str) -> float | None:
    return product.dough_temperature_c if product.formula and product.mixing.station == station else None


def _step_at(product: Product, station: str) -> PieceStep | None:
    return next((step for step in product.piece_steps if step.station == station), None)


def entering_g(product: Product, station: str) -> float | None:
    """What a piece of a product weighs as it comes to a station, g; None where it does not come there."""
    step = _step_at(product, station)
    return product.entering_g[product.piece_steps.index(step)] if step else None


def _set_at(asks: Measured, step: PieceStep) -> float | None:
    """What a step sets at its station: heat, zone by zone, the air's humidity, or to what it cools."""
    if not isinstance(step, DwellStep):
        return None
    zones = step.zone_c if isinstance(step, ConveyorStep) else ()
    match asks.subject:
        case "climate" | "oven temperature" | "oil temperature":
            return zones[asks.zone - 1] if 1 <= asks.zone <= len(zones) else step.temperature_c
        case "humidity":
            return step.humidity_pct
        case "core temperature":
            return step.cooling.to_c if isinstance(step, ConveyorStep) and step.cooling else None
        case _:
            return None


def set_up_at(product: Product, station: str) -> str:
    """What is set up at a station before a product, in words; nothing where nothing is."""
    step = _step_at(product, station)
    return "; ".join(f"{check.what} {check.wanted}" for check in step.set_up) if step else ""


class Range(NamedTuple):
    """What a figure of an inspection may be taken as: at once, and after it was asked about."""

    usual: tuple[float, float]
    possible: tuple[float, float]


def range_of(asks: Measured | CountedPieces, limits: Limits) -> Range:
    """The figures that are taken at once, and those that can be at all."""
    if isinstance(asks, CountedPieces):
        wanted = 1 if limits.high is None else limits.high
        return Range((wanted / 2, wanted * 2), (0, MOST_COUNTED))
    measure = MEASURES[asks.subject]
    low, high = measure.usual
    if limits.low is not None and limits.high is not None:
        wide = ODD_WIDTHS * (limits.high - limits.low)
        low, high = max(low, limits.low - wide), min(high, limits.high + wide)
    least = low if limits.low is None else min(low, limits.low)
    most = high if limits.high is None else max(high, limits.high)
    return Range((least, most), measure.possible)


class Judged(NamedTuple):
    """Whether what was found is good, and how it reads."""

    good: bool
    says: str


def judged(asks: Asks, limits: Limits, values: Sequence[float], word: str | None) -> Judged:
    """What was found, judged: a mean or a count against its limits, a word against the good one.

    Raises
    ------
    ValueError
        What was found does not answer what was asked, or cannot be.
    """
    if isinstance(asks, Chosen):
        if values or word not in {asks.good, *asks.bad}:
            said = ", ".join((asks.good, *asks.bad))
            raise ValueError(f"{word or 'A figure'} is no answer; allowed: {said}")
        return Judged(word == asks.good, word or "")
    wanted = asks.sample if isinstance(asks, Measured) else 1
    if word or len(values) != wanted:
        raise ValueError(f"{len(values)} figures are given; allowed: {wanted}")
    unit = unit_of(asks)
    least, most = range_of(asks, limits).possible
    beyond = [value for value in values if not least <= value <= most]
    if beyond:
        raise ValueError(f"{beyond[0]:g} {unit} cannot be; allowed: {least:g} to {most:g} {unit}")
    return judged_figure(asks, limits, fmean(values))


def judged_figure(asks: Measured | CountedPieces, limits: Limits, figure: float) -> Judged:
    """A mean or a count against its limits."""
    return Judged(limits.keep(figure), f"{figure:.4g} {unit_of(asks)}")


def unit_of(asks: Asks) -> str:
    """The metric unit of a figure; nothing where a word is asked for."""
    match asks:
        case Measured(subject=subject):
            return MEASURES[subject].unit
        case CountedPieces():
            return "pieces"
        case Chosen():
            return ""
