"""A line's order items as a circuit: what every order of them costs at least, proved by constraint programming.

A relaxation of the plan of one line. Items follow each other at the divider, fed as fast as can be, with the white time
and the empty oven that the change between two products takes at least. None begins so early that it would be too old,
as far as its way through the line can be long. What has gone the shortest way through it when a lorry has been loaded
is what that lorry and those before it can have; the rest is short. Lateness beyond that, people, doughs, stores and
what lines share are left away: that makes no plan dearer.
"""

from collections.abc import Sequence
from math import floor, inf
from typing import NamedTuple

import numpy as np
from ortools.sat.python import cp_model

from rundgang.core.batching import packs_from_pieces, pieces_for_packs
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
        A cost below which no order of these items lies, points; what stock costs by itself is not in it.
    order : array or None
        The items in the best order found for the relaxation, those left out last; None where none was found in time.
    took_s : float
        Of the effort, s.
    """

    bound: float
    order: Ints | None
    took_s: float


class _Items:
    """What the relaxation knows of the items, by item.

    Attributes
    ----------
    wanted, packs, feed : array
        Packs; those that are made for it at least, for what a run before it has made too much is not; and how long
        these feed the divider, min.
    surplus : dict of int to int
        Packs of a product that can be over from a run at most.
    min_a_pack : array
        Feeding time of a pack, min.
    shortest, longest : array
        From its start to its first pack, min; `longest` is infinite where nothing says how long that can be.
    release : array
        The earliest start, min.
    fresh : array
        When its first pack may be made, min.
    """

    def __init__(self, shop: Shop, listed: Sequence[OrderItem]) -> None:
        arrays = shop.arrays
        dues = {(due.product, due.wave): due for due in shop.dues}
        self.due = [dues[item.due] for item in listed]
        self.places = [shop.index[item.product] for item in listed]
        products, legs = arrays.products[self.places], arrays.legs[self.places]
        wanted = np.array([item.packs for item in listed])
        self.surplus = {place: _surplus(shop, listed, place) for place in self.places}
        self.wanted, self.packs = wanted, np.maximum(wanted - [self.surplus[place] for place in self.places], 0)
        self.min_a_pack = MINUTES_PER_HOUR * products["ratio"] / legs["pace"][:, 0]
        self.feed = self.packs * self.min_a_pack
        ways = [_through(shop, place) for place in self.places]
        self.shortest, self.longest = (np.array(way) for way in zip(*ways, strict=True))
        self.release = np.maximum(arrays.now + products["lead"], arrays.set_free[self.places, 0])
        self.fresh = np.array([due.fresh_from_min for due in self.due])
        self.window = arrays.window


def _through(shop: Shop, place: int) -> tuple[float, float]:
    """From a run's start to its first pack in any heat class, min: at least, and with the longest stay in stores."""
    end = place + int(shop.arrays.products[place]["classes"])
    legs, tails = shop.arrays.legs[place:end], shop.arrays.products[place:end]["tail"]
    least = legs["span"].sum(axis=1) + tails
    most = inf if legs["waits"].any() else float((least + legs["slack"].sum(axis=1)).max())
    return float(least.min()), most


def _surplus(shop: Shop, listed: Sequence[OrderItem], place: int) -> int:
    """Packs of a product that can be over from a run at most, by the choice for its odd last dough."""
    product = shop.products[place]
    least, most = int(shop.arrays.products[place]["least"]), int(shop.arrays.products[place]["most"])
    own = [item for item in listed if shop.index[item.product] == place]
    choices = {item.odd_batch or shop.policy[product.id] for item in own}
    smallest = min(pieces_for_packs(product, item.packs) for item in own)
    if choices == {"equal"} and 2 * least <= most and smallest >= least:
        return 0
    return packs_from_pieces(product, most if "round-up" in choices else least)


def circuit_bound(
    shop: Shop, listed: Sequence[OrderItem], weights: Weights, effort: float, known_cost: float
) -> Circuit:  # fmt: skip
    """Prove what the items of a line cost at least.

    Parameters
    ----------
    shop : Shop
        Of the line alone, on which nothing has begun.
    effort : float
        Time of the solver, s, on two cores. How far it comes in that time differs from machine to machine.
    known_cost : float
        What the plan of some order costs, points.
    """
    items = _Items(shop, listed)
    model = _Model(shop, items, weights, known_cost)
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = WORKERS
    solver.parameters.max_time_in_seconds = effort
    found = solver.solve(model.model)
    bound = max(0.0, solver.best_objective_bound / SCALE)
    has_order = found in (cp_model.OPTIMAL, cp_model.FEASIBLE)
    return Circuit(bound, model.order(solver) if has_order else None, solver.wall_time)


class _Model:
    """The circuit: a depot, numbered behind the items, from which the line begins and to which it returns."""

    def __init__(self, shop: Shop, items: _Items, weights: Weights, known_cost: float) -> None:
        self.items, self.count, self.model = items, len(items.places), cp_model.CpModel()
        self.made = [self.model.new_bool_var(f"{item} is made") for item in range(self.count)]
        self.idle, self.empty = least_changes(shop)
        self.arcs: dict[tuple[int, int], cp_model.IntVar] = {}
        self.cost: list[cp_model.LinearExprT] = []
        self.timed = is_timed(shop)
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

    def _times(self) -> list[cp_model.IntVar]:
        """When each item begins: behind the one before it, and not so early that it would be too old."""
        items, most = self.items, _up(self.items.window)
        starts = [self.model.new_int_var(min(_down(at), most), most, "start") for at in items.release]
        for (one, other), arc in self.arcs.items():
            if self.count not in (one, other):
                gap = _down(items.feed[one] + self._change(one, other)[0])
                self.model.add(starts[other] >= starts[one] + gap).only_enforce_if(arc)
        for start, fresh, longest, made in zip(starts, items.fresh, items.longest, self.made, strict=True):
            if fresh - longest > 0:
                self.model.add(start >= _down(fresh - longest)).only_enforce_if(made)
        return starts

    def _short(self, weights: Weights, known_cost: float) -> None:
        """Packs short at each lorry: what all lorries until then want of a product, less what is made by then."""
        starts = self._times() if self.timed else []
        for place, surplus in self.items.surplus.items():
            own = [item for item, its in enumerate(self.items.places) if its == place]
            dues = sorted({self.items.due[item] for item in own}, key=lambda due: (due.loaded_by_min, due.wave))
            least = weights.packs_short * min(due.weight for due in dues)
            wanted = 0
            for due in dues:
                packs = sum(int(self.items.wanted[item]) for item in own if self.items.due[item] == due)
                wanted += packs
                short = self.model.new_int_var(0, packs, "short")
                none = self.model.new_bool_var("all short")
                made = sum(self._made_by(item, due.loaded_by_min, starts) for item in own)
                self.model.add(short >= wanted - surplus - made).only_enforce_if(none.negated())
                self.model.add(short == packs).only_enforce_if(none)
                self.cost.append(_down(weights.packs_short * due.weight) * short)
            for item in own:
                if least * self.items.packs[item] > known_cost:
                    self.model.add(self.made[item] == 1)

    def _made_by(self, item: int, minute: float, starts: Sequence[cp_model.IntVar]) -> cp_model.LinearExprT:
        """Packs of an item that can be made by a moment."""
        packs, latest = int(self.items.wanted[item]), minute - self.items.shortest[item]
        whole = packs * self.items.min_a_pack[item]
        if not starts or latest - whole >= self.items.window:
            return packs * self.made[item]
        if latest < self.items.release[item]:
            return 0
        found, begun = self.model.new_int_var(0, packs, "made by"), self.model.new_bool_var("begun by")
        self.model.add(found <= packs * begun)
        self.model.add_implication(begun, self.made[item])
        self.model.add(found * _down(whole) <= packs * (_up(latest) + 1 - starts[item])).only_enforce_if(begun)
        return found

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
