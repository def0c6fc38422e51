"""A scenario: everything a plan is made from, in one document: plant, products, window, orders, conditions.

Its parts are checked against each other here, so that the calculations need not ask whether a
product's station, line or ingredient exists.
"""

from collections.abc import Hashable, Mapping
from datetime import date
from functools import cached_property
from typing import Any

from pydantic import Field, model_validator

from rundgang.core.agreement import faults_of
from rundgang.core.conditions import Conditions
from rundgang.core.errors import MalformedError, UnknownItemError
from rundgang.core.kinds.every import Step
from rundgang.core.kinds.rate import CutOut
from rundgang.core.model import Id, Model, Name, Names
from rundgang.core.opening import Opening
from rundgang.core.orders import Absence, Block, FinishedStock, Order, Wave, Window
from rundgang.core.plant import Ingredient, Line, Plant
from rundgang.core.products import FormulaLine, Preparation, Product


class Delivery(Model):
    """What comes in, and when: minutes from the window's start; kg, or pieces of packing.

    Attributes
    ----------
    lot : str or None
        The supplier's.
    best_before : date or None
    allergens : frozenset of str
        What it brings beside what its ingredient always does.
    """

    at_min: float = Field(ge=0, le=10_080)
    amount: float = Field(ge=0, le=10_000_000)
    lot: Name | None = None
    best_before: date | None = None
    allergens: Names = frozenset()


class Stock(Model):
    """What lies in the stores of an item at the window's start, kg or pieces, and what will come in.

    Attributes
    ----------
    on_hand : float
        Below nothing where less was counted later than has come since.
    binds : bool
        Whether a plan may draw only what is there: a run waits for a delivery, or is left out.
    """

    item: Id
    on_hand: float = Field(ge=-10_000_000, le=10_000_000)
    deliveries: tuple[Delivery, ...] = Field(default=(), max_length=100)
    binds: bool = False


class Scenario(Model):
    """Plant, products, window, waves, orders and conditions, consistent with each other."""

    plant: Plant
    preparations: tuple[Preparation, ...] = Field(default=(), max_length=500)
    products: tuple[Product, ...] = Field(min_length=1, max_length=5_000)
    window: Window
    waves: tuple[Wave, ...] = Field(default=(), max_length=500)
    orders: tuple[Order, ...] = Field(default=(), max_length=50_000)
    conditions: Conditions
    stocks: tuple[Stock, ...] = Field(default=(), max_length=2_000)
    finished: tuple[FinishedStock, ...] = Field(default=(), max_length=5_000)
    blocks: tuple[Block, ...] = Field(default=(), max_length=2_000)
    absences: tuple[Absence, ...] = Field(default=(), max_length=5_000)
    opening: Opening = Opening()

    @model_validator(mode="after")
    def _parts_agree(self) -> "Scenario":
        faults = list(faults_of(self))
        if faults:
            raise ValueError("\n".join(faults))
        return self

    def opened(self, opening: Opening) -> "Scenario":
        """The same at another moment; what is worked out of either is known to both, by what decides it."""
        copied = self.changed(opening=opening)
        copied.__dict__["memo"] = self.memo
        return copied

    def changed(self, **parts: object) -> "Scenario":
        """The same with other orders, lorries, closings, stock, crews or opening.

        What was worked out of stations and products stays known, so neither of them may be among the parts.
        """
        copied = self._with(**parts)
        copied.__dict__["known"] = self.known
        if copied.conditions == self.conditions:
            copied.__dict__["of_the_air"] = self.of_the_air
        return copied

    def going_on(self, **parts: object) -> "Scenario":
        """The same plant in another window, with all that is not stations and products among the parts; checked.

        What was worked out of stations and products stays known, but for what the air of the hours decides.
        """
        copied = self.changed(**parts)
        faults = list(faults_of(copied))
        if faults:
            raise MalformedError("The next window", tuple(faults))
        return copied

    def during(self, minute: float) -> "Scenario":
        """The same in the hour of a minute: with the conditions that hold then."""
        conditions = self.conditions.at(minute)
        if conditions is self.conditions:
            return self
        if conditions not in self._hours:
            self._hours[conditions] = self._with(conditions=conditions)
        return self._hours[conditions]

    @cached_property
    def _hours(self) -> dict[Conditions, "Scenario"]:
        return {}

    def _with(self, **parts: object) -> "Scenario":
        """A copy with other parts, of the same plant and products."""
        copied = self.model_copy(update=parts)
        known = ("_products", "_lines", "_preparations", "_ingredients", "_parents", "_wholes", "_allergens")
        copied.__dict__.update({name: getattr(self, name) for name in known})
        return copied

    @cached_property
    def known(self) -> dict[tuple[Hashable, ...], Any]:
        """What was worked out from plant and products, by what it is."""
        return {}

    @cached_property
    def of_the_air(self) -> dict[str, Any]:
        """What was worked out from the air of the hours, by product."""
        return {}

    @cached_property
    def memo(self) -> dict[Hashable, Any]:
        """What was worked out from this very scenario, at whatever moment, by what it is; kept as long as it is."""
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
        return frozenset().union(*(self._ingredients[name].allergens for name in self._eaten(product)))

    def _eaten(self, product: Product) -> frozenset[str]:
        """The ingredients of a product's dough and of what its steps add, those inside preparations too."""
        added = [addition.item for step in product.piece_steps for addition in step.adds]
        used = {*(line.ingredient for line in product.formula), *added}
        inside = {line.ingredient for name in used if name in self._preparations for line in self.formula_of(name)}
        return frozenset((used | inside) & self._ingredients.keys())

    def drawn_by(self, product: Product) -> frozenset[str]:
        """The ingredients that a product takes, what it is packed in too."""
        return self._eaten(self._wholes[product.id]) | {use.item for use in product.packing}

    def product(self, product_id: str) -> Product:
        """The product of that id, or UnknownItemError."""
        if product_id not in self._products:
            raise UnknownItemError("product", product_id, tuple(self._products))
        return self._products[product_id]

    def whole(self, product: Product) -> Product:
        """The product with its whole way from the dough: a cut-out piece's begins with the other's mixing."""
        return self._wholes[product.id]

    def dwelling(self, product_id: str, dwell_min: Mapping[str, float]) -> Product:
        """A product as a run makes it that dwells otherwise at some stations; itself where at none.

        What is cut out of it is known then as well; each has an id of its own, and its `listed_id`.
        """
        product = self.product(product_id)
        if not dwell_min:
            return product
        key = "dwelling", product_id, tuple(sorted(dwell_min.items()))
        if key in self.known:
            found: Product = self.known[key]
            return found
        made = product.dwelling(dwell_min)
        self._wholes[made.id] = made
        self._allergens[made.id] = self._allergens[product_id]
        cut = self.cut_from(product)
        if cut:
            self._add_cut_out(made, cut, cut.dwelling(dwell_min))
        return self._known_as(key, made)

    def _known_as(self, key: tuple[Hashable, ...], made: Product) -> Product:
        """Let a product be found once all that is asked of it is known: other threads may ask at the same moment."""
        found: Product = self._products.setdefault(made.id, made)
        self.known[key] = found
        return found

    def _add_cut_out(self, parent: Product, listed: Product, cut: Product) -> None:
        self._allergens[cut.id] = self._allergens[listed.id]
        self._wholes[cut.id] = _from_parent(cut, parent)
        self._products[cut.id], self._parents[cut.id] = cut, parent

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
    ring = CutOut.model_construct(grams=parent.entering_g[place + 1], product=parent.id)
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
