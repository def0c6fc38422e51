"""A scenario: everything a plan is made from, in one document: plant, products, horizon, orders, conditions.

Its parts are checked against each other here, so that the calculations need not ask whether a
product's station, line or ingredient exists.
"""

from collections.abc import Iterator
from functools import cached_property

from pydantic import Field, model_validator

from rundgang.core.errors import UnknownItemError
from rundgang.core.model import Celsius, Model
from rundgang.core.orders import Horizon, Order, Wave
from rundgang.core.plant import Ingredient, Line, Plant
from rundgang.core.products import Product

FLOUR_PERCENT = 100.0
"""The flours of a formula add up to this: what baker's percent means."""

PERCENT_SLACK = 0.01
"""Rounding allowed in the sum of the flours, percent points."""


class Conditions(Model):
    """What the dough room measures at the start of a shift, °C."""

    room_c: Celsius
    flour_c: Celsius
    tap_c: float = Field(gt=0, le=60)


class Scenario(Model):
    """Plant, products, horizon, waves, orders and conditions, consistent with each other."""

    plant: Plant
    products: tuple[Product, ...] = Field(min_length=1, max_length=5_000)
    horizon: Horizon
    waves: tuple[Wave, ...] = Field(min_length=1, max_length=500)
    orders: tuple[Order, ...] = Field(default=(), max_length=50_000)
    conditions: Conditions

    @model_validator(mode="after")
    def _parts_agree(self) -> "Scenario":
        faults = list(_faults(self))
        if faults:
            raise ValueError("\n".join(faults))
        return self

    @cached_property
    def _products(self) -> dict[str, Product]:
        return {product.id: product for product in self.products}

    @cached_property
    def _ingredients(self) -> dict[str, Ingredient]:
        return {item.id: item for item in self.plant.ingredients}

    @cached_property
    def _allergens(self) -> dict[str, frozenset[str]]:
        return {
            product.id: frozenset().union(*(self._ingredients[line.ingredient].allergens for line in product.formula))
            for product in self.products
        }

    def product(self, product_id: str) -> Product:
        """The product of that id, or UnknownItemError."""
        if product_id not in self._products:
            raise UnknownItemError("product", product_id, tuple(self._products))
        return self._products[product_id]

    def ingredient(self, ingredient_id: str) -> Ingredient:
        """The ingredient of that id."""
        return self._ingredients[ingredient_id]

    def line(self, line_id: str) -> Line:
        """The line of that id, or UnknownItemError."""
        for line in self.plant.lines:
            if line.id == line_id:
                return line
        raise UnknownItemError("line", line_id, tuple(line.id for line in self.plant.lines))

    def line_of(self, product: Product) -> Line:
        """The line a product is made on."""
        return self.line(product.line)

    def allergens(self, product: Product) -> frozenset[str]:
        """What the product's ingredients bring, to be declared and cleaned away."""
        return self._allergens[product.id]


def _faults(scenario: Scenario) -> Iterator[str]:
    plant = scenario.plant
    for what, ids in (
        ("plant.lines", [line.id for line in plant.lines]),
        ("plant.ingredients", [item.id for item in plant.ingredients]),
        ("products", [product.id for product in scenario.products]),
        ("waves", [wave.id for wave in scenario.waves]),
        ("orders", [order.id for order in scenario.orders]),
    ):
        for twice in sorted({i for i in ids if ids.count(i) > 1} if len(set(ids)) < len(ids) else ()):
            yield f"{what}: “{twice}” stands twice; allowed: each id once"
    lines = {line.id: line for line in plant.lines}
    for place, product in enumerate(scenario.products):
        where = f"products.{place} ({product.id})"
        if product.line not in lines:
            yield f"{where}.line is {product.line}; allowed: {', '.join(lines)}"
        else:
            yield from _route_faults(where, product, lines[product.line])
        yield from _formula_faults(where, product, {item.id: item for item in plant.ingredients})
    waves = {wave.id: wave for wave in scenario.waves}
    for place, wave in enumerate(scenario.waves):
        if wave.departs_min > scenario.horizon.minutes:
            yield (
                f"waves.{place} ({wave.id}).departs_min is {wave.departs_min:g}; "
                f"allowed: within the horizon, 0 to {scenario.horizon.minutes}"
            )
    products = {product.id for product in scenario.products}
    for place, order in enumerate(scenario.orders):
        if order.product not in products:
            yield f"orders.{place} ({order.id}).product is {order.product}; allowed: {', '.join(sorted(products))}"
        if order.wave not in waves:
            yield f"orders.{place} ({order.id}).wave is {order.wave}; allowed: {', '.join(waves)}"


def _route_faults(where: str, product: Product, line: Line) -> Iterator[str]:
    order = {station.id: place for place, station in enumerate(line.stations)}
    last = -1
    for place, step in enumerate(product.route):
        here = f"{where}.route.{place}"
        if step.station not in order:
            yield f"{here}.station is {step.station}, which {line.name} does not have; allowed: {', '.join(order)}"
            continue
        station = line.stations[order[step.station]]
        if station.kind != step.kind:
            yield f"{here}.kind is {step.kind}; allowed at {station.name}: {station.kind}"
        if order[step.station] <= last:
            yield f"{here}.station is {step.station}; allowed: only stations further down the line than the one before"
        last = max(last, order[step.station])


def _formula_faults(where: str, product: Product, ingredients: dict[str, Ingredient]) -> Iterator[str]:
    unknown = [line.ingredient for line in product.formula if line.ingredient not in ingredients]
    for name in unknown:
        yield f"{where}.formula has {name}; allowed: the plant's ingredients"
    if unknown:
        return
    flour = sum(line.percent for line in product.formula if ingredients[line.ingredient].role == "flour")
    if abs(flour - FLOUR_PERCENT) > PERCENT_SLACK:
        yield f"{where}.formula has flour adding up to {flour:g} %; allowed: 100 %"
    waters = [line for line in product.formula if ingredients[line.ingredient].role == "water"]
    if len(waters) != 1:
        yield f"{where}.formula has {len(waters)} lines of water; allowed: exactly 1"
