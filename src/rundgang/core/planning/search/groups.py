"""A group: lines that share something, searched as one list of order items around what no order moves."""

from collections.abc import Iterable, Mapping, Sequence

import numpy as np

from rundgang.core.compiled import Floats, Ints, Records
from rundgang.core.planning.bound import LineBound, idle_between, shop_bound, stock_floor
from rundgang.core.planning.decode.appraisal import appraise, priced
from rundgang.core.planning.decode.arrays import Fixed, Runs, ShopArrays, State
from rundgang.core.planning.decode.fixed import fixed_arrays
from rundgang.core.planning.decode.reading import Decoded, lay_out
from rundgang.core.planning.decode.room import make_runs, make_state
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.lorries import OrderItem
from rundgang.core.planning.model import Run
from rundgang.core.planning.objective import PROVED_WITHIN, Weights, weight_array
from rundgang.core.planning.relaxed.orders import relaxed_bound
from rundgang.core.planning.search.annealing import BETTER, anneal
from rundgang.core.planning.search.beginnings import Ahead, ahead_of
from rundgang.core.planning.search.branching import branch
from rundgang.core.planning.search.cooling import APART_EPOCHS, Round
from rundgang.core.planning.search.reinsertion import inserted_best, late_items
from rundgang.core.planning.search.stretches import STRETCH, best_stretch, stretch_at

BRANCHED_AT_ONCE, BRANCHED_ALONG, BRANCHED_UP_TO = 5, 16, 20
"""So many items are branched over to the end before they are annealed; so many of a line while they are; and so many
of a line where time is given to the bound."""

BRANCHED_A_TRY = 2
"""Beginnings that are branched over for every order that an island tries."""

TRIES_A_STRETCH = 2_000
"""After an epoch that follows those apart one stretch of a line is put in its best order for so many orders of it."""

NO_END = 2**62

LEAST_WARM = 2.0
"""Points."""


class Island:
    """One search of a group, with moves of its own: where it is, and the best it has found."""

    def __init__(self, order: Ints, alone: Ints, cost: float) -> None:
        self.order, self.alone, self.cost = order, alone, cost
        self.here, self.here_alone = order.copy(), alone.copy()

    def found(self, order: Ints, alone: Ints, cost: float) -> None:
        """Keep an order if it is the best so far."""
        if cost < self.cost - BETTER:
            self.order, self.alone, self.cost = order, alone, cost

    def go_back(self) -> None:
        """Go on from the best."""
        self.here, self.here_alone = self.order.copy(), self.alone.copy()


class Branching(Island):
    """One search of a group through all its orders: how far it has come, and the best it has found."""

    def __init__(self, order: Ints, alone: Ints, cost: float) -> None:
        super().__init__(order, alone, cost)
        self.path = np.zeros(len(order) + 1, dtype=np.int64)
        self.ahead: Ahead | None = None

    @property
    def ended(self) -> bool:
        """Whether there is no better order."""
        return bool(self.path[-1] < 0)


class Group:
    """Lines that share something, with what is to be put in order.

    Parameters
    ----------
    lines : sequence of str
        The lines that are planned.
    shop : Shop
        These lines, and the others that share something with them.
    fixed : sequence of Run
        What no order moves.
    listed : sequence of OrderItem
        What is put in order, as the search begins.
    islands : int
        So many searches side by side.
    """

    def __init__(
        self,
        lines: Sequence[str],
        shop: Shop,
        fixed: Sequence[Run],
        listed: Sequence[OrderItem],
        weights: Weights,
        islands: int = 1,
    ) -> None:
        self.lines, self.shop, self.fixed, self.listed = tuple(lines), shop, tuple(fixed), tuple(listed)
        self.fixed_arrays, self.items = fixed_arrays(shop, self.fixed), shop.items(self.listed)
        self.wanted, self.weights = weights, weight_array(weights)
        self.item_lines = tuple(shop.products[shop.index[item.product]].line for item in self.listed)
        order = np.arange(len(self.listed), dtype=np.int64)
        alone = np.array([int(item.alone) for item in self.listed], dtype=np.int64)
        cost = self.cost_of(order, alone)
        self.islands = [Island(order, alone, cost) for _ in range(islands)]
        self.branching: Branching | None = None
        if 0 < len(order) <= (BRANCHED_UP_TO if len(self.lines) == 1 else BRANCHED_AT_ONCE):
            self.branching = Branching(order, alone, cost)
            gives_way = islands > 1 and len(order) <= BRANCHED_ALONG
            self.islands = [self.branching, *self.islands[int(gives_way) :]]
        self.bound = self.quick_bound = min(cost, shop_bound(shop, self.lines, self.fixed, weights))

    @property
    def _arrays(self) -> tuple[ShopArrays, Fixed, Records]:
        return self.shop.arrays, self.fixed_arrays, self.items

    def _room(self) -> tuple[State, Runs]:
        return make_state(*self._arrays), make_runs(*self._arrays)

    def cost_of(self, order: Ints, alone: Ints) -> float:
        """What an order costs, points."""
        return float(priced(appraise(*self._arrays, order, alone, *self._room()), self.weights))

    @property
    def name(self) -> str:
        """The first of its lines that share something."""
        return self.shop.lines[0].id

    @property
    def best(self) -> Island:
        """The island with the best order."""
        return min(self.islands, key=lambda island: island.cost)

    @property
    def cost(self) -> float:
        """Of the best order, points."""
        return self.best.cost

    @property
    def ordered(self) -> tuple[OrderItem, ...]:
        """The items in the best order."""
        best = self.best
        return tuple(self.listed[place].model_copy(update={"alone": bool(best.alone[place])}) for place in best.order)

    @property
    def proved(self) -> bool:
        """Whether all orders have been tried, or ruled out."""
        return not self.listed or (self.branching is not None and self.branching.ended)

    @property
    def done(self) -> bool:
        """Whether nothing better can be found."""
        return self.proved or self.is_at_bound

    @property
    def is_at_bound(self) -> bool:
        """Whether no plan can cost less."""
        return self.cost <= self.bound * (1 + PROVED_WITHIN) + 1e-6

    def decoded(self) -> Decoded:
        """The best order with its runs."""
        return lay_out(self.shop, self.fixed_arrays, self.ordered)

    def round(self, place: int, seed: int, now: Round) -> int:
        """One round of an island; how many orders were tried."""
        island = self.islands[place]
        if isinstance(island, Branching):
            return self.branch(now.tries * BRANCHED_A_TRY) if len(self.listed) <= BRANCHED_ALONG else 0
        if len(self.listed) <= BRANCHED_AT_ONCE:
            return 0
        own_seed, tried = round_seed(seed, now.number, self.lines[0]), 0
        if now.begins:
            tried = self._reinsert(island, now.epoch, own_seed)
            island.go_back()
        warmth = max(island.cost - self.quick_bound, LEAST_WARM)
        order, alone, cost = anneal(
            *self._arrays, *self._room(), island.here, island.here_alone, self.weights, own_seed, now.tries,
            warmth * now.warm, warmth * now.cold,
        )  # fmt: skip
        if now.ends and len(self.lines) == 1:
            order, cost, more = self._polished(order, alone, cost, now, own_seed)
            tried += more
        island.found(order, alone, cost)
        return now.tries + tried

    def _reinsert(self, island: Island, epoch: int, seed: int) -> int:
        """Take out what is late, and put each where it costs least; how many orders were tried."""
        if epoch == 0:
            return 0
        arrays, room, random = self._arrays, self._room(), np.random.default_rng(seed)

        def cost(order: Ints) -> float:
            return float(priced(appraise(*arrays, order, island.alone, *room), self.weights))

        cost(island.order)
        out = late_items(self.shop.arrays, room[1], self.items, island.order, random)
        lines = self.shop.arrays.products["line"][self.items["product"]]
        order, tried = inserted_best(cost, lines, island.order, out)
        island.found(order, island.alone, cost(order))
        return tried

    def _polished(self, order: Ints, alone: Ints, cost: float, now: Round, seed: int) -> tuple[Ints, float, int]:
        """An order with stretches put in their best order, more of them after long epochs; its cost; how many tried."""
        arrays, room, tried, apart = self._arrays, self._room(), 0, STRETCH // 2
        lines = self.shop.arrays.products["line"][self.items["product"]]
        places = np.random.default_rng(seed).permutation(np.arange(seed % apart, len(self.listed), apart))
        many = now.of_epoch // TRIES_A_STRETCH if now.epoch >= APART_EPOCHS else 0
        for place in places[:many].tolist():
            at = stretch_at(lines, order, place)
            order, cost, more = best_stretch(*arrays, *room, order, alone, self.weights, at, cost)
            tried += more
        return order, cost, tried

    def branch(self, most: int) -> int:
        """Go on through all orders, for so many beginnings; how many were tried whole.

        That no order is better is no bound of every plan: a run that must wait, for another line or because somebody
        says so, can end better than one that is made as early as it can be.
        """
        own = self.branching
        if own is None or own.ended:
            return 0
        if len(self.listed) <= BRANCHED_AT_ONCE:
            most = NO_END
        own.ahead = own.ahead or ahead_of(self.shop, self.wanted)
        best, alone = own.order.copy(), own.alone.copy()
        least, whole = branch(
            *self._arrays, *self._room(), self.weights, own.ahead, own.path, best, alone, own.cost, most
        )  # fmt: skip
        own.found(best, alone, least)
        return int(whole)

    def prove(self, most: int) -> None:
        """Prove what the items of a line by itself cost at least, by so many beginnings; its cheapest order is tried.

        Parameters
        ----------
        most : int
            As `relaxed_bound` takes it.
        """
        if self.is_at_bound or self.fixed or not self.listed or len(self.lines) > 1:
            return
        self._proved(relaxed_bound(self.shop, self.listed, self.wanted, most, self.cost))

    def prove_circuit(self, effort: float) -> float:
        """Prove it where nothing can be late, by the circuit; how much of the effort that took, s."""
        from rundgang.core.planning.circuit import circuit_bound  # noqa: PLC0415  (the solver takes a second to load)

        if self.done or self.fixed or len(self.lines) > 1:
            return 0.0
        found, took_s = circuit_bound(self.shop, self.listed, self.wanted, effort, self.cost)
        self._proved(found)
        return took_s

    def _proved(self, found: LineBound) -> None:
        """Keep a bound, and begin with the order that it is of where that is better."""
        if found.order is not None:
            self.try_from(found.order, np.zeros(len(self.listed), dtype=np.int64))
        self.bound = min(self.cost, max(self.bound, found.bound + stock_floor(self.shop, self.wanted)))

    def try_from(self, order: Ints, alone: Ints) -> None:
        """Let all islands begin with an order, if it is better than what they have."""
        cost = self.cost_of(order, alone)
        for island in self.islands:
            island.found(order, alone, cost)

    def adopt(self, items: Sequence[OrderItem]) -> None:
        """Let all islands begin with an order of the same items found elsewhere, if it is better than theirs."""
        known: dict[tuple[tuple[str, str], int], list[int]] = {}
        for place, item in enumerate(self.listed):
            known.setdefault((item.due, item.packs), []).append(place)
        order = [known[item.due, item.packs].pop() for item in items if known.get((item.due, item.packs))]
        if order and len(order) == len(items) == len(self.listed):
            alone = np.zeros(len(order), dtype=np.int64)
            alone[order] = [int(item.alone) for item in items]
            self.try_from(np.array(order, dtype=np.int64), alone)

    def exchange(self) -> None:
        """Let all islands know the best order."""
        best = self.best
        for island in self.islands:
            island.found(best.order, best.alone, best.cost)


def round_seed(seed: int, number: int, line_id: str) -> int:
    """The seed of a round."""
    return (seed * 1_000_003 + number * 7_919 + sum(map(ord, line_id))) % 2_147_483_647


def first_order(shop: Shop, items: Iterable[OrderItem]) -> tuple[OrderItem, ...]:
    """The rule's order: line by line, then all lines together by the lorries' times."""
    by_line: dict[str, list[OrderItem]] = {}
    for item in items:
        by_line.setdefault(shop.products[shop.index[item.product]].line, []).append(item)
    departs, idle = {wave.id: wave.departs_min for wave in shop.scenario.waves}, idle_between(shop)
    left = [_line_order(shop, listed, departs, idle) for listed in by_line.values()]
    order = list[OrderItem]()
    while left:
        first = min(left, key=lambda listed: departs[listed[0].wave])
        order.append(first.pop(0))
        left = [listed for listed in left if listed]
    return tuple(order)


def _line_order(
    shop: Shop, items: Sequence[OrderItem], departs: Mapping[str, float], idle: Floats
) -> list[OrderItem]:  # fmt: skip
    """Earliest lorry first; for the same lorry the product on the line, then the one that can follow soonest."""
    left, order = list(items), list[OrderItem]()
    while left:
        lorry = min(departs[item.wave] for item in left)
        before = order[-1].product if order else None
        chosen = min(
            (item for item in left if departs[item.wave] == lorry),
            key=lambda item: (
                item.product != before,
                float(idle[shop.index[before], shop.index[item.product]]) if before else 0.0,
            ),
        )
        left.remove(chosen)
        order.append(chosen)
    return order
