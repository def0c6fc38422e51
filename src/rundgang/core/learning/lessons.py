"""Lessons: each figure that was learnt, beside what the library says.

A lesson tells something where what the library says lies outside of the interval. Which is taken, a planner decides.
"""

from collections.abc import Iterable, Sequence
from datetime import datetime
from math import log
from typing import NamedTuple, assert_never

from rundgang.core.learning.estimates import Estimate, held_out, mean_of, median_of, share_of, time_between
from rundgang.core.learning.facts import planned_pace, said_by
from rundgang.core.learning.observed import Kind, Observed
from rundgang.core.model import Id, Model
from rundgang.core.scenario import Scenario

MOST_SHOWN = 60
"""So many of what was observed are shown, the last ones."""

QUANTITY: dict[Kind, tuple[str, str]] = {
    "friction": ("temperature difference", "°C"),
    "cooling": ("", "1/min"),
    "yield": ("", "share"),
    "bake loss": ("", "share"),
    "pace": ("", "an hour"),
    "tool change": ("", "min"),
    "belt set": ("", "min"),
    "stops": ("", "min"),
    "stands": ("", "min"),
}
"""A row of the table of units, where it has one, and the unit."""


class Shown(Model):
    """One thing that was observed, and whether it was held out."""

    at: datetime
    value: float
    held_out: bool


class Lesson(Model):
    """What was learnt of a product, a station, a product at a station, or a dough in a mixer.

    Attributes
    ----------
    key : str
        What it is known by.
    name : str
        The product and the station or the mixer, as they are called.
    said : float or None
        By the library; None where that says nothing.
    tells : bool
        Whether the library says otherwise, or nothing.
    shown : tuple of Shown
        What was observed last; of stops, none.
    """

    key: str
    kind: Kind
    product: Id | None
    station: Id | None
    mixer: str | None
    name: str
    quantity: str
    unit: str
    said: float | None
    estimate: Estimate
    tells: bool
    shown: tuple[Shown, ...]


class _Of(NamedTuple):
    kind: Kind
    product: str | None
    station: str | None
    mixer: str | None

    @property
    def key(self) -> str:
        return "/".join((self.kind, *filter(None, (self.product, self.station, self.mixer))))


def lessons_of(scenario: Scenario, line: str, observed: Iterable[Observed]) -> tuple[Lesson, ...]:
    """What was learnt of a line, kind by kind, in the order of its products and stations."""
    found: dict[_Of, list[Observed]] = {}
    for one in observed:
        found.setdefault(_Of(one.kind, one.product, one.station, one.mixer), []).append(one)
    lessons = (_lesson(scenario, line, of, own) for of, own in found.items() if _is_there(scenario, line, of))
    places = {of: place for place, of in enumerate(_order(scenario, line))}
    kinds = list(QUANTITY)
    return tuple(
        sorted(
            filter(None, lessons),
            key=lambda lesson: (
                kinds.index(lesson.kind),
                places[lesson.product],
                places[lesson.station],
                lesson.mixer or "",
            ),
        )
    )


def _order(scenario: Scenario, line: str) -> list[str | None]:
    products = [product.id for product in scenario.products if product.line == line]
    return [None, *products, *(station.id for station in scenario.line(line).stations)]


def _is_there(scenario: Scenario, line: str, of: _Of) -> bool:
    """Whether the library has what it is of still."""
    return (of.product is None or of.product in {product.id for product in scenario.products}) and (
        of.station is None or of.station in {station.id for station in scenario.line(line).stations}
    )


def _lesson(scenario: Scenario, line: str, of: _Of, own: Sequence[Observed]) -> Lesson | None:
    said = said_by(scenario, line, of.kind, of.product, of.station or of.mixer)
    estimate = _estimate(of.kind, own)
    if estimate is None:
        return None
    if of.kind == "pace":
        wanted = planned_pace(scenario, scenario.product(str(of.product)))
        estimate, own = _times(estimate, wanted), [one._replace(value=one.value * wanted) for one in own]
    values = [one.value for one in own]
    quantity, unit = QUANTITY[of.kind]
    out = held_out([log(value) for value in values] if of.kind in DURATIONS else values)
    shown = [Shown(at=one.at, value=one.value, held_out=is_out) for one, is_out in zip(own, out, strict=True)]
    return Lesson(
        key=of.key,
        kind=of.kind,
        product=of.product,
        station=of.station,
        mixer=of.mixer,
        name=" · ".join(_names(scenario, line, of)),
        quantity=quantity,
        unit=unit,
        said=said,
        estimate=estimate,
        tells=said is None or not estimate.low <= said <= estimate.high,
        shown=() if of.kind == "stops" else tuple(sorted(shown, key=lambda one: one.at)[-MOST_SHOWN:]),
    )


def _names(scenario: Scenario, line: str, of: _Of) -> list[str]:
    names = [scenario.product(of.product).name] if of.product else []
    return [*names, *([scenario.line(line).station(of.station).name] if of.station else []), *filter(None, [of.mixer])]


DURATIONS = frozenset[Kind]({"tool change", "belt set", "stands"})
"""Durations are told by their logarithm."""


def _estimate(kind: Kind, own: Sequence[Observed]) -> Estimate | None:
    values = [one.value for one in own]
    match kind:
        case "friction" | "cooling" | "bake loss" | "pace":
            return mean_of(values)
        case "tool change" | "belt set" | "stands":
            return median_of(values)
        case "stops":
            return time_between(sum(one.lost for one in own), sum(values))
        case "yield":
            out = held_out(values)
            kept = [one for one, is_out in zip(own, out, strict=True) if not is_out]
            found = share_of(sum(one.good for one in kept), sum(one.lost for one in kept))
            return found.model_copy(update={"held_out": sum(out)})
        case _:
            assert_never(kind)


def _times(estimate: Estimate, factor: float) -> Estimate:
    scaled = {name: getattr(estimate, name) * factor for name in ("value", "low", "high")}
    spread = None if estimate.spread is None else estimate.spread * factor
    return estimate.model_copy(update={**scaled, "spread": spread})
