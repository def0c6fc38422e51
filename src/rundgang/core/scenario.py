"""A scenario: everything a plan is made from, in one document: plant, products, window, orders, conditions.

Its parts are checked against each other here, so that the calculations need not ask whether a
product's station, line or ingredient exists.
"""

from collections.abc import Hashable, Iterable, Iterator
from functools import cached_property
from typing import Any

from pydantic import Field, model_validator

from rundgang.core.errors import UnknownItemError
from rundgang.core.kinds.batch import BatchStation, BatchStep
from rundgang.core.kinds.every import Step
from rundgang.core.kinds.held import HeldStep
from rundgang.core.kinds.rate import CutOut
from rundgang.core.model import Celsius, Id, Model
from rundgang.core.opening import Opening
from rundgang.core.orders import Block, FinishedStock, Order, Wave, Window
from rundgang.core.plant import Ingredient, Line, Plant
from rundgang.core.products import FormulaLine, Preparation, Product

FLOUR_PERCENT = 100.0
"""The flours of a formula add up to this: what baker's percent means."""

PERCENT_SLACK = 0.01
"""Rounding allowed in the sum of the flours, percent points."""

CUT_SLACK = 0.02
"""So far a cut-out piece's own mass may be off what is cut out for it, as a share: rounding of weights."""


class Conditions(Model):
    """What the dough room measures at the start of a shift.

    Attributes
    ----------
    room_c, flour_c, tap_c : float
        °C.
    chilled_c : float or None
        Water from the chiller, where there is one, °C.
    humidity_pct : float or None
        Relative humidity of the room, where it was read, %.
    flour_moisture_pct : float or None
        Moisture of the flour, where it was measured, %.
    """

    room_c: Celsius
    flour_c: Celsius
    tap_c: float = Field(gt=0, le=60)
    chilled_c: float | None = Field(default=None, gt=0, le=30)
    humidity_pct: float | None = Field(default=None, ge=0, le=100)
    flour_moisture_pct: float | None = Field(default=None, ge=5, le=20)


class Delivery(Model):
    """What comes in, and when: minutes from the window's start; kg, or pieces of packing."""

    at_min: float = Field(ge=0, le=10_080)
    amount: float = Field(ge=0, le=10_000_000)


class Stock(Model):
    """What lies in the stores of an item at the window's start, kg or pieces, and what will come in."""

    item: Id
    on_hand: float = Field(ge=0, le=10_000_000)
    deliveries: tuple[Delivery, ...] = Field(default=(), max_length=100)


class Scenario(Model):
    """Plant, products, window, waves, orders and conditions, consistent with each other."""

    plant: Plant
    preparations: tuple[Preparation, ...] = Field(default=(), max_length=500)
    products: tuple[Product, ...] = Field(min_length=1, max_length=5_000)
    window: Window
    waves: tuple[Wave, ...] = Field(min_length=1, max_length=500)
    orders: tuple[Order, ...] = Field(default=(), max_length=50_000)
    conditions: Conditions
    stocks: tuple[Stock, ...] = Field(default=(), max_length=2_000)
    finished: tuple[FinishedStock, ...] = Field(default=(), max_length=5_000)
    blocks: tuple[Block, ...] = Field(default=(), max_length=2_000)
    opening: Opening = Opening()

    @model_validator(mode="after")
    def _parts_agree(self) -> "Scenario":
        faults = list(_faults(self))
        if faults:
            raise ValueError("\n".join(faults))
        return self

    def opened(self, opening: Opening) -> "Scenario":
        """The same at another moment; what was worked out of plant and products stays known."""
        copied = self.model_copy(update={"opening": opening})
        copied.memo.update(self.memo)
        return copied

    @cached_property
    def memo(self) -> dict[Hashable, Any]:
        """What was worked out from this very scenario, by what it is; kept as long as it is."""
        return {}

    @cached_property
    def _products(self) -> dict[str, Product]:
        return {product.id: product for product in self.products}

    @cached_property
    def _lines(self) -> dict[str, Line]:
        return {line.id: line for line in self.plant.lines}

    @cached_property
    def _preparations(self) -> dict[str, Preparation]:
        return {preparation.id: preparation for preparation in self.preparations}

    @cached_property
    def _ingredients(self) -> dict[str, Ingredient]:
        return {item.id: item for item in self.plant.ingredients}

    @cached_property
    def _parents(self) -> dict[str, Product]:
        """The product that each cut-out product is cut from."""
        return {p.cut_out[1].product: p for p in self.products if p.cut_out and p.cut_out[1].product}

    @cached_property
    def _wholes(self) -> dict[str, Product]:
        return {p.id: _from_parent(p, self._parents[p.id]) if p.is_cut_out else p for p in self.products}

    @cached_property
    def _allergens(self) -> dict[str, frozenset[str]]:
        return {product.id: self._brought(self._wholes[product.id]) for product in self.products}

    def _brought(self, product: Product) -> frozenset[str]:
        added = [addition.item for step in product.piece_steps for addition in step.adds]
        used = {*(line.ingredient for line in product.formula), *added}
        inside = {line.ingredient for name in used if name in self._preparations for line in self.formula_of(name)}
        items = (used | inside) & self._ingredients.keys()
        return frozenset().union(*(self._ingredients[name].allergens for name in items))

    def product(self, product_id: str) -> Product:
        """The product of that id, or UnknownItemError."""
        if product_id not in self._products:
            raise UnknownItemError("product", product_id, tuple(self._products))
        return self._products[product_id]

    def whole(self, product: Product) -> Product:
        """The product with its whole way from the dough: a cut-out piece's begins with the other's mixing."""
        return self._wholes[product.id]

    def preparation(self, preparation_id: str) -> Preparation:
        """The preparation of that id, or UnknownItemError."""
        if preparation_id not in self._preparations:
            raise UnknownItemError("preparation", preparation_id, tuple(self._preparations))
        return self._preparations[preparation_id]

    def is_preparation(self, item_id: str) -> bool:
        """Whether an item of a formula is a preparation."""
        return item_id in self._preparations

    def formula_of(self, preparation_id: str) -> tuple[FormulaLine, ...]:
        """The formula of a preparation."""
        return self._preparations[preparation_id].formula

    def ingredient(self, ingredient_id: str) -> Ingredient:
        """The ingredient of that id."""
        return self._ingredients[ingredient_id]

    def item_name(self, item_id: str) -> str:
        """What an ingredient or a preparation is called."""
        found = self._preparations.get(item_id) or self._ingredients[item_id]
        return found.name

    def line(self, line_id: str) -> Line:
        """The line of that id, or UnknownItemError."""
        if line_id not in self._lines:
            raise UnknownItemError("line", line_id, tuple(self._lines))
        return self._lines[line_id]

    def line_of(self, product: Product) -> Line:
        """The line a product is made on."""
        return self.line(product.line)

    def made_on(self, line_id: str) -> tuple[Product, ...]:
        """The products that a line mixes: all of its own but those cut out of another's dough."""
        return tuple(p for p in self.products if p.line == line_id and not p.is_cut_out)

    def parent(self, product: Product) -> Product | None:
        """The product that this one is cut out of, if it is."""
        return self._parents.get(product.id)

    def cut_from(self, product: Product) -> Product | None:
        """What is cut out of a product and sold, if anything is."""
        found = product.cut_out
        if found is None or found[1].product is None or product.id in self._parents:
            return None
        return self._products[found[1].product]

    def preparations_in(self, product: Product) -> tuple[tuple[Preparation, float], ...]:
        """The preparations of a product's formula, each with its share of the dough's mass."""
        total = sum(line.percent for line in product.formula)
        return tuple(
            (self._preparations[line.ingredient], line.percent / total)
            for line in product.formula
            if line.ingredient in self._preparations
        )

    def preparation_allergens(self, made: Preparation) -> frozenset[str]:
        """What a preparation's ingredients bring."""
        brought = (self._ingredients[line.ingredient].allergens for line in made.formula)
        return frozenset[str]().union(*brought)

    def allergens(self, product: Product) -> frozenset[str]:
        """What the product's ingredients bring, to be declared and cleaned away."""
        return self._allergens[product.id]


def _from_parent(cut: Product, parent: Product) -> Product:
    """A cut-out product's whole way: the parent's to its cutter, where now the parent's piece is what is cut away."""
    found = parent.cut_out
    assert found is not None  # noqa: S101  (the parent names it)
    place, _ = found
    steps = parent.piece_steps
    ring = CutOut(grams=parent.entering_g[place + 1], product=parent.id)
    swapped = steps[place].model_copy(update={"cut_out": ring})
    trough: tuple[Step, ...] = (parent.trough,) if parent.trough else ()
    return Product.model_construct(
        **{name: getattr(cut, name) for name in Product.model_fields}
        | {
            "formula": parent.formula,
            "dough_temperature_c": parent.dough_temperature_c,
            "route": (parent.mixing, *trough, *steps[:place], swapped, *cut.route),
        }
    )


def _faults(scenario: Scenario) -> Iterator[str]:
    plant = scenario.plant
    for what, ids in (
        ("plant.lines", [line.id for line in plant.lines]),
        (
            "ingredients and preparations",
            [item.id for item in plant.ingredients] + [made.id for made in scenario.preparations],
        ),
        ("products", [product.id for product in scenario.products]),
        ("waves", [wave.id for wave in scenario.waves]),
        ("orders", [order.id for order in scenario.orders]),
        ("stocks", [stock.item for stock in scenario.stocks]),
        ("finished", [stock.product for stock in scenario.finished]),
        ("blocks", [block.id for block in scenario.blocks]),
    ):
        for twice in sorted({i for i in ids if ids.count(i) > 1} if len(set(ids)) < len(ids) else ()):
            yield f"{what}: “{twice}” stands twice; allowed: each id once"
    lines = {line.id: line for line in plant.lines}
    items = _Items(scenario)
    for place, preparation in enumerate(scenario.preparations):
        yield from _preparation_faults(f"preparations.{place} ({preparation.id})", preparation, lines, items)
    for place, product in enumerate(scenario.products):
        where = f"products.{place} ({product.id})"
        if product.line not in lines:
            yield f"{where}.line is {product.line}; allowed: {', '.join(lines)}"
        else:
            yield from _route_faults(where, product.route, lines[product.line])
            yield from _carrier_faults(where, product, lines[product.line])
            yield from _store_faults(where, product, plant)
        yield from _article_faults(where, product, scenario)
        yield from items.faults(where, product)
        yield from _cut_out_faults(where, product, scenario)
    yield from _order_faults(scenario)
    for place, stock in enumerate(scenario.stocks):
        if stock.item not in items.ingredients:
            yield f"stocks.{place}.item is {stock.item}; allowed: the plant's ingredients"


def _order_faults(scenario: Scenario) -> Iterator[str]:
    waves = {wave.id: wave for wave in scenario.waves}
    for place, wave in enumerate(scenario.waves):
        if wave.departs_min > scenario.window.minutes:
            yield (
                f"waves.{place} ({wave.id}).departs_min is {wave.departs_min:g}; "
                f"allowed: within the window, 0 to {scenario.window.minutes}"
            )
    products = {product.id for product in scenario.products}
    for place, order in enumerate(scenario.orders):
        if order.product not in products:
            yield f"orders.{place} ({order.id}).product is {order.product}; allowed: {', '.join(sorted(products))}"
        if order.wave not in waves:
            yield f"orders.{place} ({order.id}).wave is {order.wave}; allowed: {', '.join(waves)}"
    formulas = {product.id: product.line for product in scenario.products if product.formula}
    for place, run in enumerate(scenario.opening.begun):
        if formulas.get(run.product) != run.line:
            yield f"opening.begun.{place} ({run.id}) makes {run.product} on {run.line}; allowed: a product of that line"
    for place, stock in enumerate(scenario.finished):
        if stock.product not in products:
            yield f"finished.{place}.product is {stock.product}; allowed: {', '.join(sorted(products))}"
    stations = {(line.id, station.id) for line in scenario.plant.lines for station in line.stations}
    for place, block in enumerate(scenario.blocks):
        if (block.line, block.station) not in stations:
            yield (
                f"blocks.{place} ({block.id}) is at {block.station} of {block.line}; "
                "allowed: a station of one of the plant's lines"
            )


def _route_faults(where: str, route: Iterable[Step], line: Line) -> Iterator[str]:
    order = {station.id: place for place, station in enumerate(line.stations)}
    last, previous = -1, None
    for place, step in enumerate(route):
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
        trough = step.kind == "held" and previous == "batch"
        if station.kind == step.kind and not isinstance(step, BatchStep) and not trough:
            yield from (f"{here}.{fault}" for fault in line.operation(step).faults())
        previous = step.kind


def _carrier_faults(where: str, product: Product, line: Line) -> Iterator[str]:
    there = [carrier.id for carrier in line.carriers]
    for use in product.carriers:
        if use.carrier not in there:
            yield f"{where}.carriers has {use.carrier}; allowed on {line.name}: {', '.join(there) or 'none'}"


def _article_faults(where: str, product: Product, scenario: Scenario) -> Iterator[str]:
    """What is sold as another product is packed like it, made on another line, and itself what others name."""
    if product.same_as is None:
        return
    other = next((p for p in scenario.products if p.id == product.same_as), None)
    if other is None or other.line == product.line or other.same_as or other.is_cut_out or product.is_cut_out:
        yield f"{where}.same_as is {product.same_as}; allowed: a product with a formula, on another line"
    elif other.pieces_per_pack != product.pieces_per_pack:
        yield f"{where} packs {product.pieces_per_pack}, {other.name} {other.pieces_per_pack}; allowed: the same"


def _store_faults(where: str, product: Product, plant: Plant) -> Iterator[str]:
    """Of a route with several stores only the first may be shared: the pieces in it are counted over all lines."""
    for place, step in enumerate(product.piece_steps):
        if isinstance(step, HeldStep) and place != product.store_place and plant.shared_as(product.line, step.station):
            yield f"{where} stores pieces at {step.station}, which lines share; allowed: as its route's first store"


def _cut_out_faults(where: str, product: Product, scenario: Scenario) -> Iterator[str]:
    """What is cut out and sold is a product of the same line without a formula, as heavy as what is cut out."""
    parents = [p for p in scenario.products if p.cut_out and p.cut_out[1].product == product.id]
    if product.is_cut_out and len(parents) != 1:
        yield f"{where}.formula is empty, and {len(parents)} products cut it out; allowed: a formula, or exactly 1"
    found = product.cut_out
    if found is None or found[1].product is None:
        return
    sold = next((p for p in scenario.products if p.id == found[1].product), None)
    if sold is None or not sold.is_cut_out or sold.line != product.line:
        yield f"{where} cuts out {found[1].product}; allowed: a product of its line without a formula"
    elif {step.station for step in sold.route} & {step.station for step in product.route}:
        both = sorted({step.station for step in sold.route} & {step.station for step in product.route})
        yield f"{where} and {sold.name}, cut out of it, both pass {', '.join(both)}; allowed: ways of their own"
    elif abs(sold.scaling_g - found[1].grams) > CUT_SLACK * found[1].grams:
        yield (
            f"{where} cuts out {found[1].grams:g} g, but {sold.name} needs {sold.scaling_g:.2f} g; "
            f"allowed: the same to {CUT_SLACK:.0%}"
        )


def _preparation_faults(where: str, made: Preparation, lines: dict[str, Line], items: "_Items") -> Iterator[str]:
    if made.line not in lines:
        yield f"{where}.line is {made.line}; allowed: {', '.join(lines)}"
        return
    held: tuple[Step, ...] = (made.held,) if made.held else ()
    yield from _route_faults(where, (made.mixing, *held), lines[made.line])
    for line in made.formula:
        if line.ingredient not in items.ingredients or items.ingredients[line.ingredient].role == "packing":
            yield f"{where}.formula has {line.ingredient}; allowed: the plant's ingredients"
    flour = sum(
        line.percent
        for line in made.formula
        if line.ingredient in items.ingredients and items.ingredients[line.ingredient].role == "flour"
    )
    if flour and abs(flour - FLOUR_PERCENT) > PERCENT_SLACK:
        yield f"{where}.formula has flour adding up to {flour:g} %; allowed: 100 %, or none at all"


class _Items:
    """What formulas and steps may name."""

    def __init__(self, scenario: Scenario) -> None:
        self.ingredients = {item.id: item for item in scenario.plant.ingredients}
        self.preparations = {made.id: made for made in scenario.preparations}
        self.lines = {line.id: line for line in scenario.plant.lines}

    def faults(self, where: str, product: Product) -> Iterator[str]:
        """What is wrong with a product's formula, additions and packing."""
        used = [line.ingredient for line in product.formula]
        added = [addition.item for step in product.piece_steps for addition in step.adds]
        unknown = [name for name in (*used, *added) if not self._usable(name)]
        for name in unknown:
            yield f"{where}.formula has {name}; allowed: the plant's ingredients and preparations"
        for use in product.packing:
            if use.item not in self.ingredients or self.ingredients[use.item].role != "packing":
                yield f"{where}.packing has {use.item}; allowed: ingredients whose role is packing"
        if unknown:
            return
        if product.formula:
            yield from self._dough_faults(where, product)
        yield from self._station_faults(where, product, {n for n in (*used, *added) if n in self.preparations})

    def _usable(self, name: str) -> bool:
        return name in self.preparations or (name in self.ingredients and self.ingredients[name].role != "packing")

    def _dough_faults(self, where: str, product: Product) -> Iterator[str]:
        flour = sum(line.percent * self._flour_share(line.ingredient) for line in product.formula)
        if abs(flour - FLOUR_PERCENT) > PERCENT_SLACK:
            inside = ", that inside its preparations included" if self._has_preparation(product) else ""
            yield f"{where}.formula has flour adding up to {flour:.4g} %{inside}; allowed: 100 %"
        waters = [line for line in product.formula if self._is_water(line.ingredient)]
        if len(waters) != 1:
            yield f"{where}.formula has {len(waters)} lines of water; allowed: exactly 1"

    def _flour_share(self, name: str) -> float:
        """How much of an item is flour, by mass."""
        if name in self.ingredients:
            return 1.0 if self.ingredients[name].role == "flour" else 0.0
        lines = self.preparations[name].formula
        known = [line for line in lines if line.ingredient in self.ingredients]
        flour = sum(line.percent for line in known if self.ingredients[line.ingredient].role == "flour")
        return flour / sum(line.percent for line in lines)

    def _is_water(self, name: str) -> bool:
        return name in self.ingredients and self.ingredients[name].role == "water"

    def _has_preparation(self, product: Product) -> bool:
        return any(line.ingredient in self.preparations for line in product.formula)

    def _station_faults(self, where: str, product: Product, used: set[str]) -> Iterator[str]:
        """Preparations are made in their product's dough room, each at stations that nothing else of it uses."""
        taken = [step.station for step in product.route]
        for name in sorted(used):
            made = self.preparations[name]
            if made.line != product.line:
                yield f"{where} uses {name} of line {made.line}; allowed: preparations of {product.line}"
            for station in (made.mixing.station, *((made.held.station,) if made.held else ())):
                if station in taken:
                    yield f"{where} uses {name}, made at {station}, twice; allowed: a station of its own"
                taken.append(station)
        line = self.lines.get(product.line)
        first = next((s for s in line.stations if s.id == product.route[0].station), None) if line else None
        if product.formula and first is not None and not isinstance(first, BatchStation):
            yield f"{where}.route begins at {first.name}; allowed: a batch station"
