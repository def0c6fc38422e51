"""Cleaning of units: what a batch leaves that the next must not carry, and how long that takes to clean away."""

from collections.abc import Sequence

import numpy as np

from rundgang.core.compiled import Floats, Ints
from rundgang.core.planning.decode.pools import Pool
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario

TRAIT_LEFT, ALLERGEN_LEFT = 1, 2
"""What is left in a unit, added up."""


def leaves_behind(scenario: Scenario, products: Sequence[Product]) -> Ints:
    """What one thing leaves that the next must not carry, by class: the products, then the preparations."""
    allergens = [scenario.allergens(product) for product in products]
    allergens += [scenario.preparation_allergens(made) for made in scenario.preparations]
    traits = [product.traits for product in products] + [frozenset[str]() for _ in scenario.preparations]
    found = np.zeros((len(traits), len(traits)), dtype=np.int64)
    for worth, carried in ((TRAIT_LEFT, traits), (ALLERGEN_LEFT, allergens)):
        for one, left in enumerate(carried):
            found[one] += [worth * bool(left - kept) for kept in carried]
    return found


def cleaning_min(scenario: Scenario, pools: Sequence[Pool]) -> Floats:
    """By pool, minutes to clean away what is left: nothing, a trait, an allergen, or both."""
    found = np.zeros((max(len(pools), 1), TRAIT_LEFT + ALLERGEN_LEFT + 1))
    for place, pool in enumerate(pools):
        change = scenario.line(pool.line).station(pool.station).changeover
        found[place, TRAIT_LEFT] = change.trait_clean_min
        found[place, ALLERGEN_LEFT] = change.allergen_clean_min
        found[place, TRAIT_LEFT + ALLERGEN_LEFT] = change.allergen_clean_min or change.trait_clean_min
    return found
