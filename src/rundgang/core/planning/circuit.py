"""A line's order items as a circuit: what every order of them costs at least, proved by constraint programming.

A relaxation of the plan of one line: items follow each other at the divider, fed as fast as can be, with the white
time and the empty oven that the change between two products takes at least; each is out when its last piece has gone
the shortest way through the line; what is out behind its lorry's loading is short, what is out too early is too old;
and each may be left out at its price. People, doughs, stores and what lines share are left away, which makes no plan
dearer. Items of one product come in the order of their lorries: whoever exchanges two of them changes nothing.
"""

from collections.abc import Sequence
from itertools import pairwise
from math import floor, inf
from typing import NamedTuple

import numpy as np
from ortools.sat.python import cp_model

from rundgang.core.compiled import Ints
from rundgang.core.planning.bound import is_timed, least_changes
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.lorries import OrderItem
from rundgang.core.planning.objective import Weights
from rundgang.core.units import MINUTES_PER_HOUR

SCALE = 100
"""Minutes and points are whole numbers in the model: hundredths, rounded to where they bound less."""

ROUNDED = 1e-6

WORKERS = 2
"""Of the solver: one by itself proves little, and more than there are cores hinder each other."""


class Circuit(NamedTuple):
    """What was proved of the order items of a line.

    Attributes
    ----------
    bound : float
        A cost below which no plan of these items lies, points; without what their number alone decides.
    order : array or None
        The items in the best order found for the relaxation, those left out last; None where there was no time for one.
    """

    bound: float
    order: Ints | None


class _Items:
    """What the relaxation knows of each item, min: feeding time, from its start to its first piece out, and so on."""

    def __init__(self, shop: Shop, listed: Sequence[OrderItem]) -> None:
        arrays, dues = shop.arrays, {(due.product, due.wave): due for due in shop.dues}
        self.places = [shop.index[item.product] for item in listed]
        products, legs = arrays.products[self.places], arrays.legs[self.places]
        self.packs = [item.packs for item in listed]
        self.feed = np.array(self.packs) * MINUTES_PER_HOUR * products["ratio"] / legs["pace"][:, 0]
        self.through = legs["span"].sum(axis=1) + products["tail"]
        self.release = np.maximum(arrays.now + products["lead"], arrays.set_free[self.places, 0])
        self.due = np.array([dues[item.due].loaded_by_min for item in listed])
        self.fresh = np.array([dues[item.due].fresh_from_min for item in listed])
        self.weight = np.array([dues[item.due].weight for item in listed])
        self.window = arrays.window


def circuit_bound(
    shop: Shop, listed: Sequence[OrderItem], weights: Weights, effort: float, known: Sequence[int], known_cost: float
) -> Circuit:  # fmt: skip
    """Prove what the items of a line cost at least.

    Parameters
    ----------
    shop : Shop
        Of the line alone, on which nothing has begun.
    effort : float
        Time of the solver, s, on two cores. How far it comes in that time differs from machine to machine.
    known : sequence of int
        A good order of the items, to begin with.
    known_cost : float
        What the plan of that order costs, points.
    """
    items = _Items(shop, listed)
    model = _Model(shop, items, weights, known_cost)
    model.hint(known)
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = WORKERS
    solver.parameters.max_time_in_seconds = effort
    found = solver.solve(model.model)
    bound = max(0.0, solver.best_objective_bound / SCALE)
    has_order = found in (cp_model.OPTIMAL, cp_model.FEASIBLE)
    return Circuit(bound, model.order(solver) if has_order else None)


class _Model:
    """The circuit: a depot, numbered behind the items, from which the line begins and to which it returns."""

    def __init__(self, shop: Shop, items: _Items, weights: Weights, known_cost: float) -> None:
        self.items, self.count, self.model = items, len(items.packs), cp_model.CpModel()
        self.made = [self.model.new_bool_var(f"{item} is made") for item in range(self.count)]
        self.idle, self.empty = least_changes(shop)
        self.arcs: dict[tuple[int, int], cp_model.IntVar] = {}
        self.cost: list[cp_model.LinearExprT] = []
        self._circuit(weights)
        self._left_out(weights, known_cost)
        if is_timed(shop):
            self._times(weights)
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
                same = other < depot and items.places[one] == items.places[other]
                if one == other or (same and (items.due[one], one) > (items.due[other], other)):
                    continue
                self.arcs[one, other] = self.model.new_bool_var(f"{one} before {other}")
                idle, empty = self._change(one, other) if other < depot else (0.0, 0.0)
                lasts = items.feed[one] + (idle if other < depot else items.through[one])
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

    def _left_out(self, weights: Weights, known_cost: float) -> None:
        """What it costs to leave an item out; what costs more than all of a known plan is made."""
        items = self.items
        for item, made in enumerate(self.made):
            hours = max(0.0, items.window - items.due[item]) / MINUTES_PER_HOUR
            each = items.weight[item] * (weights.packs_short + weights.late_pack_hours * hours)
            price = each * items.packs[item]
            if price > known_cost:
                self.model.add(made == 1)
            self.cost.append(_down(price) * made.negated())

    def _times(self, weights: Weights) -> None:
        items, most = self.items, _down(self.items.window)
        starts = [self.model.new_int_var(min(_down(at), most), most, "start") for at in items.release]
        for (one, other), arc in self.arcs.items():
            if self.count not in (one, other):
                gap = _down(items.feed[one] + self._change(one, other)[0])
                self.model.add(starts[other] >= starts[one] + gap).only_enforce_if(arc)
        for item, start in enumerate(starts):
            packs, feed = items.packs[item], _down(items.feed[item])
            if feed == 0:
                continue
            late, early = (self.model.new_int_var(0, packs, name) for name in ("late", "early"))
            all_late = self.model.new_bool_var("all late")
            in_time = _up(items.due[item] - items.through[item] - items.feed[item])
            free = [all_late.negated(), self.made[item]]
            self.model.add(late * feed >= packs * (start - in_time - 1)).only_enforce_if(free)
            self.model.add(late == packs).only_enforce_if(all_late)
            self.cost.append(_down(weights.packs_short * items.weight[item]) * late)
            if items.fresh[item] > -inf:
                fresh = _down(items.fresh[item] - items.through[item])
                whole = self.model.new_bool_var("all too old")
                held = [whole.negated(), self.made[item]]
                self.model.add(early * feed >= packs * (fresh - start - 1)).only_enforce_if(held)
                self.model.add(early == packs).only_enforce_if(whole)
                self.cost.append(_down(weights.packs_stale) * early)

    def hint(self, known: Sequence[int]) -> None:
        """Begin with an order, all of it made."""
        way = [self.count, *known, self.count]
        followed = set(pairwise(way))
        for pair, arc in self.arcs.items():
            self.model.add_hint(arc, pair in followed)
        for made in self.made:
            self.model.add_hint(made, True)

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


def _up(value: float) -> int:
    return -_down(-value)
