"""Where each figure that can be learnt stands in the library: how it is read there, and the library that says it.

Figures are rounded to what they are written in.
"""

from collections.abc import Callable, Iterable, Mapping
from math import log
from typing import Any, NamedTuple

from pydantic import Field, model_validator

from rundgang.core.capacity import leg_paces
from rundgang.core.kinds.batch import MixerFriction
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep, KnownCooling
from rundgang.core.kinds.every import AnyStation, Step
from rundgang.core.kinds.parts import Standstill
from rundgang.core.learning.observed import Kind
from rundgang.core.library import Library
from rundgang.core.model import Id, Model, Text
from rundgang.core.plant import Line
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario
from rundgang.core.thermal.cooling import rate_from_run

ASKED: Mapping[Kind, tuple[str, ...]] = {
    "friction": ("product", "mixer"),
    "cooling": ("product", "station"),
    "yield": ("product", "station"),
    "bake loss": ("product",),
    "pace": ("product",),
    "tool change": ("station",),
    "belt set": ("station",),
    "stops": ("station",),
    "stands": ("station",),
}
"""What each is of."""

UNSAID = frozenset[Kind]({"stops", "stands"})
"""What a library need not say."""


class TakenLesson(Model):
    """A lesson that is taken: what it is of, its figure, and of durations the spread of their logarithm."""

    kind: Kind
    product: Id | None = None
    station: Id | None = None
    mixer: Text | None = Field(default=None, max_length=80)
    value: float = Field(ge=-1_000, le=1_000_000)
    spread: float | None = Field(default=None, ge=0, le=1_000_000)

    @model_validator(mode="after")
    def _is_of_something(self) -> "TakenLesson":
        asked = ASKED[self.kind]
        missing = [name for name in asked if getattr(self, name) is None]
        if missing or (self.product is not None) != ("product" in asked):
            raise ValueError(f"{self.kind} is of a {' and a '.join(asked)}; allowed: exactly these named")
        if self.value <= 0 and self.kind not in {"friction", "bake loss"}:
            raise ValueError(f"value is {self.value:g}; allowed: above 0")
        return self


class _OfProduct(NamedTuple):
    """A figure of a product, perhaps at a station or in a mixer: what the library says, and how it says another."""

    said: Callable[[Scenario, Product, str | None], float | None]
    changed: Callable[[Product, TakenLesson], Product]


class _OfStation(NamedTuple):
    """A figure of a station: what the library says, and what is to be said instead."""

    said: Callable[[AnyStation], float | None]
    changed: Callable[[AnyStation, TakenLesson], Mapping[str, Any]]


def planned_pace(scenario: Scenario, product: Product) -> float:
    """Finished pieces an hour at which a product is planned."""
    return float(leg_paces(scenario, product)[0]) / float(product.taken_per_finished[0])


def _step(product: Product, station: str | None) -> Step | None:
    return next((step for step in product.route if step.station == station), None)


def _yield(product: Product, station: str | None) -> float | None:
    return getattr(_step(product, station), "yield_", None)


def _cooling(product: Product, station: str | None) -> KnownCooling | None:
    step = _step(product, station)
    return step.cooling if isinstance(step, ConveyorStep) else None


def _rate(product: Product, station: str | None) -> float | None:
    known = _cooling(product, station)
    return rate_from_run(known.from_c, known.to_c, known.air_c, known.minutes) if known else None


def _with(product: Product, station: str | None, **changed: object) -> Product:
    route = tuple(step.model_copy(update=changed) if step.station == station else step for step in product.route)
    return product.model_copy(update={"route": route})


def _friction_in(product: Product, one: TakenLesson) -> Product:
    own = MixerFriction(mixer=str(one.mixer), friction_c=round(one.value, 1))
    others = (other for other in product.mixing.frictions if other.mixer != own.mixer)
    return _with(product, product.mixing.station, frictions=(*others, own))


def _cooling_at(product: Product, one: TakenLesson) -> Product:
    """The measured run of a cooler with the minutes that it takes at a rate."""
    known = _cooling(product, one.station)
    if known is None:
        return product
    minutes = log((known.from_c - known.air_c) / (known.to_c - known.air_c)) / one.value
    return _with(product, one.station, cooling=known.model_copy(update={"minutes": round(minutes, 2)}))


_PRODUCTS: Mapping[Kind, _OfProduct] = {
    "friction": _OfProduct(
        lambda _, product, mixer: product.mixing.friction_in(str(mixer)) if product.formula else None,
        _friction_in,
    ),
    "cooling": _OfProduct(lambda _, product, station: _rate(product, station), _cooling_at),
    "yield": _OfProduct(
        lambda _, product, station: _yield(product, station),
        lambda product, one: _with(product, one.station, yield_=round(one.value, 4)),
    ),
    "bake loss": _OfProduct(
        lambda _, product, __: product.bake_loss,
        lambda product, one: product.model_copy(update={"bake_loss": round(one.value, 4)}),
    ),
    "pace": _OfProduct(
        lambda scenario, product, _: planned_pace(scenario, product),
        lambda product, one: product.model_copy(update={"target_per_hour": float(round(one.value))}),
    ),
}

_STATIONS: Mapping[Kind, _OfStation] = {
    "tool change": _OfStation(
        lambda station: station.changeover.tool_change_min,
        lambda station, one: {
            "changeover": station.changeover.model_copy(update={"tool_change_min": round(one.value, 1)})
        },
    ),
    "belt set": _OfStation(
        lambda station: station.setup_min if isinstance(station, ConveyorStation) else None,
        lambda _, one: {"setup_min": round(one.value, 1)},
    ),
    "stops": _OfStation(
        lambda station: station.stops_every_min,
        lambda _, one: {"stops_every_min": round(one.value, 1)},
    ),
    "stands": _OfStation(
        lambda station: station.stands.median_min if station.stands else None,
        lambda _, one: {"stands": Standstill(median_min=round(one.value, 1), spread=round(one.spread or 0, 2))},
    ),
}


def said_by(
    scenario: Scenario, line: str, kind: Kind, product: str | None, place: str | None
) -> float | None:  # fmt: skip
    """What the library says of a thing; None where it says nothing.

    Parameters
    ----------
    place : str or None
        A station, or of a friction factor a mixer.
    """
    if product is not None:
        return _PRODUCTS[kind].said(scenario, scenario.product(product), place)
    return _STATIONS[kind].said(scenario.line(line).station(str(place)))


def with_taken(library: Library, line: str, taken: Iterable[TakenLesson]) -> Library:
    """The library that says what was learnt."""
    products = {product.id: product for product in library.products}
    lines = {own.id: own for own in library.plant.lines}
    for one in taken:
        if one.product is not None:
            products[one.product] = _PRODUCTS[one.kind].changed(products[one.product], one)
        else:
            lines[line] = _line_with(lines[line], one)
    plant = library.plant.model_copy(update={"lines": tuple(lines.values())})
    return library.model_copy(update={"plant": plant, "products": tuple(products.values())})


def _line_with(line: Line, one: TakenLesson) -> Line:
    changed = _STATIONS[one.kind].changed
    stations = tuple(
        station.model_copy(update=dict(changed(station, one))) if station.id == one.station else station
        for station in line.stations
    )
    return line.model_copy(update={"stations": stations})
