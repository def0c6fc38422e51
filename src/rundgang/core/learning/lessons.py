"""Lessons: each figure that was learnt, beside what the library says.

A lesson tells something where what the library says lies outside of the interval. Which is taken, a planner decides.
"""

from collections.abc import Iterable, Sequence
from datetime import datetime
from math import log
from typing import NamedTuple, assert_never, get_args

from rundgang.core.kinds.parts import ROUNDING
from rundgang.core.learning.estimates import Estimate, held_out, mean_of, median_of, share_of, time_between
from rundgang.core.learning.facts import planned_pace, said_by
from rundgang.core.learning.observed import Kind, Observed
from rundgang.core.model import Id, Model
from rundgang.core.scenario import Scenario

MOST_SHOWN = 60
"""So many of what was observed are shown, the last ones."""

DURATIONS = frozenset[Kind]({"tool change", "belt set", "stands"})
"""Durations are told by their logarithm."""


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
    hint : str
        Why it cannot be taken as it is, and what to do instead; empty where it can.
    shown : tuple of Shown
        What was observed last; of stops, none.
    """

    key: str
    kind: Kind
    product: Id | None
    station: Id | None
    mixer: str | None
    name: str
    said: float | None
    estimate: Estimate
    tells: bool
    hint: str
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
    kinds = get_args(Kind)
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
    values = [one.value for one in own]
    out = held_out([log(value) for value in values] if of.kind in DURATIONS else values)
    shown = [Shown(at=one.at, value=one.value, held_out=is_out) for one, is_out in zip(own, out, strict=True)]
    return Lesson(
        key=of.key,
        kind=of.kind,
        product=of.product,
        station=of.station,
        mixer=of.mixer,
        name=" · ".join(_names(scenario, line, of)),
        said=said,
        estimate=estimate,
        tells=said is None or not estimate.low <= said <= estimate.high,
        hint=_hint(scenario, of, estimate),
        shown=() if of.kind == "stops" else tuple(sorted(shown, key=lambda one: one.at)[-MOST_SHOWN:]),
    )


def _hint(scenario: Scenario, of: _Of, estimate: Estimate) -> str:
    """A pace above what the narrowest station is said to give cannot be said of the product."""
    if of.kind != "pace" or of.product is None:
        return ""
    product = scenario.product(of.product)
    planned = planned_pace(scenario, product)
    if estimate.low <= planned or planned >= product.target_per_hour * (1 - ROUNDING):
        return ""
    return "The bottleneck gives less, by what the library says of it: look there first."


def _names(scenario: Scenario, line: str, of: _Of) -> list[str]:
    names = [scenario.product(of.product).name] if of.product else []
    return [*names, *([scenario.line(line).station(of.station).name] if of.station else []), *filter(None, [of.mixer])]


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
