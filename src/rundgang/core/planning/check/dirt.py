"""What is left behind: by products at stations, and by doughs and preparations in mixers, kettles and tanks."""

from typing import NamedTuple

from rundgang.core.kinds.every import AnyStation
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario


class Content(NamedTuple):
    """What is in a mixer, kettle or tank: what must be cleaned away before something without it."""

    allergens: frozenset[str]
    traits: frozenset[str]


class Dirt:
    """What products leave behind: allergens by product, each found once."""

    def __init__(self, scenario: Scenario) -> None:
        self.scenario = scenario
        self._known: dict[str, frozenset[str]] = {}
        self._parents = {p.cut_out[1].product: p for p in scenario.products if p.cut_out}

    def cleaning_min(self, station: AnyStation, dirty: Product, next_: Product) -> float:
        """Cleaning that one product makes necessary before another at a station, min."""
        left, wanted = (Content(self.allergens(product), product.traits) for product in (dirty, next_))
        return self.unit_cleaning_min(station, left, wanted)

    def unit_cleaning_min(self, station: AnyStation, dirty: "Content", next_: "Content") -> float:
        """Cleaning of a mixer, kettle or tank between two things that were in it, min."""
        if dirty.allergens - next_.allergens and station.changeover.allergen_clean_min:
            return station.changeover.allergen_clean_min
        return station.changeover.trait_clean_min if dirty.traits - next_.traits else 0.0

    def dough(self, product_id: str) -> "Content":
        """A product's dough."""
        product = self.scenario.product(product_id)
        return Content(self.allergens(product), product.traits)

    def preparation(self, name: str) -> "Content":
        """A preparation."""
        return Content(self.left_by_preparation(name), frozenset())

    def allergens(self, product: Product) -> frozenset[str]:
        """What a product's ingredients, additions and preparations bring; of a cut-out, its parent's dough too."""
        if product.id not in self._known:
            self._known[product.id] = self._brought(product)
        return self._known[product.id]

    def left_by_preparation(self, name: str) -> frozenset[str]:
        """What a preparation's ingredients bring."""
        made = next(made for made in self.scenario.preparations if made.id == name)
        used = {line.ingredient for line in made.formula}
        return frozenset(a for item in self.scenario.plant.ingredients if item.id in used for a in item.allergens)

    def _brought(self, product: Product) -> frozenset[str]:
        parent = self._parents.get(product.id)
        used = {line.ingredient for dough in (product, parent) if dough for line in dough.formula}
        used |= {addition.item for step in product.piece_steps for addition in step.adds}
        if parent:
            cutter = next(place for place, step in enumerate(parent.piece_steps) if getattr(step, "cut_out", None))
            used |= {addition.item for step in parent.piece_steps[: cutter + 1] for addition in step.adds}
        for made in self.scenario.preparations:
            if made.id in used:
                used |= {line.ingredient for line in made.formula}
        return frozenset(a for item in self.scenario.plant.ingredients if item.id in used for a in item.allergens)
