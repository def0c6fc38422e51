"""A line's order items as a circuit: what every order of them costs at least, proved by constraint programming.

For lines on which nothing can be late or too old: of their relaxation only who follows whom is left, the white time and
the empty oven between two products, what is left out, and when the last piece is out.
"""

from collections.abc import Sequence
from math import floor

import numpy as np
from ortools.sat.python import cp_model

from rundgang.core.compiled import Ints
from rundgang.core.planning.bound import LineBound, least_changes
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.lorries import OrderItem
from rundgang.core.planning.objective import Weights
from rundgang.core.planning.relaxed.items import RelaxedItems

SCALE = 100
"""Minutes and points are whole numbers in the model: hundredths, rounded to where they bound less."""

ROUNDED = 1e-6

WORKERS = 2
"""Of the solver: one by itself proves little, and more than there are cores hinder each other."""


def circuit_bound(
    shop: Shop, listed: Sequence[OrderItem], weights: Weights, effort: float, known_cost: float
) -> tuple[LineBound, float]:  # fmt: skip
    """Prove what the items of a line cost at least; how much of the effort that took, s.

    Parameters
    ----------
    shop : Shop
        Of the line alone, on which nothing has begun.
    effort : float
        Time of the solver, s, on two cores. How far it comes in that time differs from machine to machine.
    known_cost : float
        What the plan of some order costs, points.
    """
    items = RelaxedItems(shop, listed)
    model = _Model(shop, items, weights, known_cost)
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = WORKERS
    solver.parameters.max_time_in_seconds = effort
    found = solver.solve(model.model)
    bound = max(0.0, solver.best_objective_bound / SCALE)
    has_order = found in (cp_model.OPTIMAL, cp_model.FEASIBLE)
    return LineBound(bound, model.order(solver) if has_order else None), solver.wall_time


class _Model:
    """The circuit: a depot, numbered behind the items, from which the line begins and to which it returns."""

    def __init__(self, shop: Shop, items: RelaxedItems, weights: Weights, known_cost: float) -> None:
        self.items, self.count, self.model = items, len(items.places), cp_model.CpModel()
        self.made = [self.model.new_bool_var(f"{item} is made") for item in range(self.count)]
        self.idle, self.empty = least_changes(shop)
        self.arcs: dict[tuple[int, int], cp_model.IntVar] = {}
        self.cost: list[cp_model.LinearExprT] = []
        self._circuit(weights)
        self._short(weights, known_cost)
        self.model.minimize(sum(self.cost))

    def _change(self, one: int, other: int) -> tuple[float, float]:
        """White time and empty oven between two items, at least, min."""
        places = self.items.places[one], self.items.places[other]
        return (0.0, 0.0) if places[0] == places[1] else (float(self.idle[places]), float(self.empty[places]))

    def _circuit(self, weights: Weights) -> None:
        """The last piece is out no earlier than all feeding and changes together, and the way of the last run."""
        items, depot = self.items, self.count
        for one in range(self.count):
            for other in (depot, *range(self.count)):
                if one == other or (other < depot and self._same_turned(one, other)):
                    continue
                self.arcs[one, other] = self.model.new_bool_var(f"{one} before {other}")
                idle, empty = self._change(one, other) if other < depot else (0.0, 0.0)
                lasts = items.feed[one] + (idle if other < depot else items.shortest[one])
                points = weights.changeover_min * idle + weights.oven_empty_min * empty
                self.cost.append(_down(points + weights.last_pack_min * lasts) * self.arcs[one, other])
            self.arcs[depot, one] = self.model.new_bool_var(f"{one} first")
            self.cost.append(_down(weights.last_pack_min * items.release[one]) * self.arcs[depot, one])
        nothing = self.model.new_bool_var("nothing is made")
        for made in self.made:
            self.model.add_implication(nothing, made.negated())
        self.model.add_circuit(
            [(one, other, arc) for (one, other), arc in self.arcs.items()]
            + [(item, item, made.negated()) for item, made in enumerate(self.made)]
            + [(depot, depot, nothing)]
        )

    def _same_turned(self, one: int, other: int) -> bool:
        """Whether turning two neighbours round changes nothing: of one product, and the second is for an earlier lorry.

        Where a run can make too much it could change what is made by a moment.
        """
        items = self.items
        if items.places[one] != items.places[other] or items.surplus[items.places[one]]:
            return False
        return (items.due[one].loaded_by_min, one) > (items.due[other].loaded_by_min, other)

    def _short(self, weights: Weights, known_cost: float) -> None:
        """Packs short of each lorry: what it and those before it want of a product, less what is made of it."""
        for place, surplus in self.items.surplus.items():
            own = [item for item, its in enumerate(self.items.places) if its == place]
            dues = sorted({self.items.due[item] for item in own}, key=lambda due: (due.loaded_by_min, due.wave))
            least = weights.packs_short * min(due.weight for due in dues)
            made = sum(int(self.items.wanted[item]) * self.made[item] for item in own)
            wanted = 0
            for due in dues:
                packs = sum(int(self.items.wanted[item]) for item in own if self.items.due[item] == due)
                wanted += packs
                short = self.model.new_int_var(0, packs, "short")
                none = self.model.new_bool_var("all short")
                self.model.add(short >= wanted - surplus - made).only_enforce_if(none.negated())
                self.model.add(short == packs).only_enforce_if(none)
                self.cost.append(_down(weights.packs_short * due.weight) * short)
            for item in own:
                if least * self.items.packs[item] > known_cost:
                    self.model.add(self.made[item] == 1)

    def order(self, solver: cp_model.CpSolver) -> Ints:
        """The items in the order of a solution, those left out last."""
        follows = {one: other for (one, other), arc in self.arcs.items() if solver.boolean_value(arc)}
        found, item = [], follows.get(self.count, self.count)
        while item != self.count:
            found.append(item)
            item = follows[item]
        found += [item for item in range(self.count) if item not in set(found)]
        return np.array(found, dtype=np.int64)


def _down(value: float) -> int:
    return floor(value * SCALE + ROUNDED)
