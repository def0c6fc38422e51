"""One line of a plan laid out anew while all others stay: what a change by hand and a cure are tried with."""

from collections import OrderedDict
from collections.abc import Hashable, Sequence

import numpy as np

from rundgang.core.errors import UnknownItemError
from rundgang.core.planning.decode.appraisal import appraise, priced
from rundgang.core.planning.decode.arrays import Fixed
from rundgang.core.planning.decode.fixed import fixed_arrays
from rundgang.core.planning.decode.pools import coupled
from rundgang.core.planning.decode.reading import lay_out
from rundgang.core.planning.decode.room import make_runs, make_state
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.line_plans import line_plan
from rundgang.core.planning.lorries import OrderItem
from rundgang.core.planning.model import LinePlan, PlantPlan, Run
from rundgang.core.planning.objective import OFF_PIN, Weights, weight_array
from rundgang.core.planning.past import has_begun
from rundgang.core.scenario import Scenario

MOST_SHOPS = 16
"""So many are kept known for a scenario: those of the versions that one compares, line by line."""


def planned_line(plan: PlantPlan, line_id: str) -> LinePlan:
    """The plan of a line, or UnknownItemError."""
    for found in plan.plans:
        if found.line == line_id:
            return found
    raise UnknownItemError("planned line", line_id, tuple(found.line for found in plan.plans))


class LineInPlace:
    """A line of a plan between all that stays: the other lines that it shares something with, and what has begun.

    Attributes
    ----------
    begun, free : tuple of Run
        The line's runs that have begun, and those that can be laid out anew.
    """

    def __init__(self, scenario: Scenario, plan: PlantPlan, line_id: str) -> None:
        self.scenario, self.line_id, self.before = scenario, line_id, planned_line(plan, line_id)
        now = scenario.opening.now_min
        group = next(group for group in coupled(scenario) if line_id in group)
        others = [line for line in plan.plans if line.line in group and line.line != line_id]
        entered = scenario.opening.begun_on(line_id)
        self.begun = entered or tuple(run for run in self.before.runs if has_begun(run, now))
        known = {run.id for run in self.begun}
        self.free = tuple(run for run in self.before.runs if run.id not in known)
        self.fixed = (*(run for line in others for run in line.runs), *self.begun)
        self.shop = _shop(scenario, (line_id, *(line.line for line in others)), (*self.fixed, *self.free))
        self._fixed_arrays = self._fixed()

    def _fixed(self) -> Fixed:
        """The arrays of what stays; those of the change before, where the same stays in the same shop: a hand drags."""
        products = self.shop.arrays.products
        known = self.scenario.memo.get("fixed")
        if known and known[0] is products and _are_same(known[1], self.fixed):
            found: Fixed = known[2]
            return found
        found = fixed_arrays(self.shop, self.fixed)
        self.scenario.memo["fixed"] = products, self.fixed, found
        return found

    def costs(self, items: Sequence[OrderItem], weights: Weights) -> float:
        """What an order of items costs, points; a minute later than pinned as much as any other."""
        arrays = self.shop.arrays, self._fixed_arrays, self.shop.items(items)
        order = np.arange(len(items), dtype=np.int64)
        alone = np.array([int(item.alone) for item in items], dtype=np.int64)
        found = appraise(*arrays, order, alone, make_state(*arrays), make_runs(*arrays))
        off_pin = float(found[OFF_PIN])
        found[OFF_PIN] = 0.0
        return float(priced(found, weight_array(weights))) + off_pin

    def laid_out(self, items: Sequence[OrderItem], rule: str) -> LinePlan:
        """The plan of the line with its items in this order."""
        decoded = lay_out(self.shop, self._fixed_arrays, items)
        return line_plan(decoded, self.line_id, self.fixed, rule, self.before.evaluated)


def _are_same(some: Sequence[Run], others: Sequence[Run]) -> bool:
    """Whether they are the very same runs, not only such as say the same."""
    return len(some) == len(others) and all(one is other for one, other in zip(some, others, strict=True))


def _shop(scenario: Scenario, lines: Sequence[str], runs: Sequence[Run]) -> Shop:
    """The shop of some lines, worked out once for a scenario, its runs and what has begun; moved to other moments."""
    order = [line.id for line in scenario.plant.lines]
    begun = frozenset(run.made_as for run in scenario.opening.begun)
    key = tuple(sorted(lines, key=order.index)), frozenset(run.made_as for run in runs), begun
    shops: OrderedDict[Hashable, Shop] = scenario.memo.setdefault("shops", OrderedDict())
    found = shops.get(key)
    if found is None:
        found = shops[key] = Shop(scenario, key[0], runs)
        while len(shops) > MOST_SHOPS:
            shops.popitem(last=False)
    return found.at(scenario.opening.now_min)
