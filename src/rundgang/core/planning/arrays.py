"""A scenario's line as the arrays of the kernel, and what the calendar and other lines take of it."""

from collections.abc import Iterable, Sequence
from math import inf, nan
from typing import Any, NamedTuple

import numpy as np

from rundgang.core.batching import POLICIES, BatchLimits, batch_limits, packs_from_pieces
from rundgang.core.capacity import dough_bounds, scaled_pace, transit_min
from rundgang.core.compiled import Floats, Ints
from rundgang.core.errors import InfeasibleError
from rundgang.core.kinds.batch import BatchStation
from rundgang.core.kinds.conveyor import ConveyorStation
from rundgang.core.kinds.held import HeldStation
from rundgang.core.planning.headway import Gap, Passage, cleaning, cut_is_held, gap, leg_headways, passages, splits_at
from rundgang.core.planning.kernel import Items, LineData, Outside
from rundgang.core.planning.lorries import Lot, lots_of
from rundgang.core.planning.needs import needs_of, refuse_old_dough, steady_pace
from rundgang.core.products import OddBatch, Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR

LARGEST_RUN_PACKS = 1_000_000


class Busy(NamedTuple):
    """A unit of the dough room taken: the pool and its unit, from when to when, by which product."""

    pool: str
    unit: int
    begin: float
    end: float
    product: str


class AtWork(NamedTuple):
    """People of a crew at work, from when to when."""

    crew: str
    begin: float
    end: float
    people: int


class Passed(NamedTuple):
    """A shared station taken by a run of another line: first piece in, last piece in, and the product."""

    shared: str
    first_in: float
    last_in: float
    product: str


class Stored(NamedTuple):
    """A shared store filled by a run of another line: first piece in, hold, feeding time, share of it a minute."""

    shared: str
    entry: float
    hold: float
    feed: float
    share_per_min: float


class Taken(NamedTuple):
    """What runs of other lines take of what is shared."""

    units: tuple[Busy, ...] = ()
    crews: tuple[AtWork, ...] = ()
    stations: tuple[Passed, ...] = ()
    stores: tuple[Stored, ...] = ()


class LineShop:
    """All that does not change while orders of lots are tried: a line, its products, and their arrays.

    Parameters
    ----------
    scenario : Scenario
    line_id : str
    odd_batch : dict of str to OddBatch
        Choices for the odd last batch that differ from the products' own.

    Raises
    ------
    UnknownItemError
        No such line.
    InfeasibleError
        A product that is ordered cannot be made on the line, whatever the order.
    """

    def __init__(self, scenario: Scenario, line_id: str, odd_batch: dict[str, OddBatch] | None = None) -> None:
        self.scenario = scenario
        self.line = scenario.line(line_id)
        self.lots = lots_of(scenario, line_id)
        wanted = {lot.product for lot in self.lots}
        self.products = tuple(
            product
            for product in scenario.made_on(line_id)
            if product.id in wanted or ((cut := scenario.cut_from(product)) and cut.id in wanted)
        )
        self.index = {product.id: place for place, product in enumerate(self.products)}
        chosen = odd_batch or {}
        self.policy = {product.id: chosen.get(product.id, product.odd_batch) for product in self.products}
        self.limits: dict[str, BatchLimits] = {
            product.id: batch_limits(product, dough_bounds(scenario, product)) for product in self.products
        }
        self.needs = {product.id: needs_of(scenario, product) for product in self.products}
        self.pools = tuple(dict.fromkeys(self.pool(need.station) for needs in self.needs.values() for need in needs))
        self.foreign = _foreign_products(scenario, line_id, self.pools)
        self.passages = {product.id: passages(scenario, product) for product in self.products}
        self.crews = tuple(crew.id for crew in scenario.plant.crews)
        self._gaps: dict[tuple[str, str, str], Gap] = {}
        self.data = self._data()
        self._closed_units = self._blocked_units()
        self._closed = {product.id: self._closed_windows(product) for product in self.products}

    def gap(self, station_id: str, first: Product, then: Product) -> Gap:
        """The gap two products need at a station of the line; worked out once a pair."""
        key = station_id, first.id, then.id
        if key not in self._gaps:
            self._gaps[key] = gap(self.scenario, station_id, first, then)
        return self._gaps[key]

    def pool(self, station_id: str) -> str:
        """What counts the units of a dough room station: the station, or what it is shared as."""
        return pool_of(self.scenario, self.line.id, station_id)

    def units(self, station_id: str) -> tuple[str, ...]:
        """The names of a dough room station's mixers or positions."""
        station = self.line.station(station_id)
        if isinstance(station, BatchStation):
            return station.mixers
        assert isinstance(station, HeldStation)  # noqa: S101  (needs name mixers and holders only)
        return tuple(f"{station.position} {number}" for number in range(1, station.positions + 1))

    def slack_min(self, product: Product, scaled_per_h: float, feed_min: float) -> float:
        """How much longer than it must a run may stay in its store, min: as long as it may, and as it finds room."""
        place = self.index[product.id]
        filled = scaled_per_h / MINUTES_PER_HOUR * float(self.data.store_share[place])
        slack = float(self.data.slack[place])
        return min(slack, 1 / filled - float(self.data.store_least[place])) if filled * feed_min > 1 else slack

    def cap(self, product: Product) -> int:
        """The most packs that one run can give: as many doughs as can follow each other without a break."""
        limits, policy = self.limits[product.id], self.policy[product.id]
        counts = [len(self.units(need.station)) for need in self.needs[product.id]]
        pace = scaled_pace(self.scenario, product)
        full = (limits.most_pieces,) * (max(counts) + 2)
        steady = steady_pace(pace, full, counts, self.needs[product.id])
        if steady > 0:
            refuse_old_dough(product, limits.most_pieces, steady)
            return LARGEST_RUN_PACKS
        few = min(count for count, need in zip(counts, self.needs[product.id], strict=True) if need.empties)
        packs = packs_from_pieces(product, few * limits.most_pieces)
        if packs < 1:
            raise InfeasibleError(
                f"{product.name}: {few} {self.units(product.route[1].station)[0]} alone cannot feed the divider for "
                f"one pack, policy {policy}. Allowed: more of them, or larger doughs."
            )
        return packs

    def _data(self) -> LineData:
        count, delivered = len(self.products), self._delivered()
        lots = [lot for lot in self.lots if lot.product in delivered]
        stock = {entry.product: entry for entry in self.scenario.finished}
        found: dict[str, Any] = {
            "headway": self._headways(),
            "unit_from": _ends([len(self.units(station)) for station in self._pool_stations()]),
            "cleaning": self._cleaning(),
            "lot_product": np.array([delivered[lot.product] for lot in lots], dtype=np.int64),
            "lot_departs": np.array([lot.departs_min for lot in lots], dtype=np.float64),
            "lot_packs": np.array([lot.packs for lot in lots], dtype=np.int64),
            "lot_fresh": np.array([lot.fresh_from_min for lot in lots], dtype=np.float64),
            "in_stock": np.array([stock[name].packs if name in stock else 0 for name in delivered], dtype=np.int64),
            "stock_made": np.array([stock[name].made_min if name in stock else 0.0 for name in delivered]),
            "window": float(self.scenario.window.minutes),
            "crew_size": np.array([float(crew.people) for crew in self.scenario.plant.crews]),
            **self._ovens(count),
            **self._staffed(),
            **{name: np.array(values, dtype=np.int64) for name, values in self._whole_numbers().items()},
            **{name: np.array(values, dtype=np.float64) for name, values in self._real_numbers().items()},
        }
        return LineData(**found)

    def _delivered(self) -> dict[str, int]:
        """Where each product stands among those delivered: the mixed ones, then those cut out of them."""
        cuts = [cut.id for product in self.products if (cut := self.scenario.cut_from(product))]
        return {name: place for place, name in enumerate((*self.index, *cuts))}

    def _whole_numbers(self) -> dict[str, list[int]]:
        delivered, needs = self._delivered(), [need for product in self.products for need in self.needs[product.id]]
        pools = {pool: place for place, pool in enumerate(self.pools)}
        stores = [station.id for station in self.line.stations]
        cuts = [self.scenario.cut_from(product) for product in self.products]
        return {
            "least": [self.limits[product.id].least_pieces for product in self.products],
            "most": [self.limits[product.id].most_pieces for product in self.products],
            "policy": [POLICIES.index(self.policy[product.id]) for product in self.products],
            "cap": [self.cap(product) for product in self.products],
            "need_from": list(_ends([len(self.needs[product.id]) for product in self.products])),
            "need_pool": [pools[self.pool(need.station)] for need in needs],
            "need_empties": [int(need.empties) for need in needs],
            "store": [
                -1 if place is None else stores.index(product.piece_steps[place].station)
                for product in self.products
                for place in (product.store_place,)
            ],
            "cut_of": [delivered[cut.id] if cut else -1 for cut in cuts],
            "cut_leg": [int(cut_is_held(product)) for product in self.products],
        }

    def _real_numbers(self) -> dict[str, list[float]]:
        scenario, needs = self.scenario, [need for product in self.products for need in self.needs[product.id]]
        stores = [self._store(product) for product in self.products]
        cuts = [scenario.whole(cut) if (cut := scenario.cut_from(product)) else None for product in self.products]
        return {
            "lead": [max(need.before_min for need in self.needs[product.id]) for product in self.products],
            "transit": [transit_min(self.line, product, scaled_pace(scenario, product)) for product in self.products],
            "slack": [slack for slack, _, _, _ in stores],
            "store_offset": [offset for _, offset, _, _ in stores],
            "store_least": [least for _, _, least, _ in stores],
            "store_share": [share for _, _, _, share in stores],
            "ratio": [float(product.scaled_per_pack) for product in self.products],
            "pace": [scaled_pace(scenario, product) for product in self.products],
            "age_span": [product.max_age_min - product.rest_min for product in self.products],
            "need_before": [need.before_min for need in needs],
            "need_length": [need.length_min for need in needs],
            "cut_ratio": [float(cut.scaled_per_pack) if cut else 1.0 for cut in cuts],
            "cut_transit": [transit_min(self.line, cut, scaled_pace(scenario, cut)) if cut else 0.0 for cut in cuts],
        }

    def _store(self, product: Product) -> tuple[float, float, float, float]:
        """Slack, entry and least hold of the store that splits a route, min, and the share that one scaled piece fills.

        A piece lost before the store does not reach it: so many come in for one scaled.
        """
        place = product.store_place
        if place is None:
            return 0.0, 0.0, 0.0, 0.0
        step = product.piece_steps[place]
        stop = self.passages[product.id][place].stop
        needs = product.taken_per_finished
        arrive = float(needs[place] / needs[0])
        room = self.line.operation(step).places
        least, most = stop.dwell_min, getattr(step, "most_min", stop.dwell_min)
        return most - least, stop.offset_min, least, arrive / room

    def _headways(self) -> Floats:
        count = len(self.products)
        found = np.full((count, count, 2, 2), -inf)
        for one, first in enumerate(self.products):
            for other, then in enumerate(self.products):
                for (leaves, enters), pair in leg_headways(self.scenario, first, then).items():
                    found[one, other, leaves, enters] = pair.beyond_feed_min
        return found

    def _pool_stations(self) -> tuple[str, ...]:
        """A station of this line for each pool."""
        stations = {self.pool(need.station): need.station for needs in self.needs.values() for need in needs}
        return tuple(stations[pool] for pool in self.pools)

    def _cleaning(self) -> Floats:
        known = (*self.products, *self.foreign)
        found = np.zeros((max(len(self.pools), 1), max(len(known), 1), max(len(known), 1)))
        for place, station_id in enumerate(self._pool_stations()):
            changeover = self.line.station(station_id).changeover
            for one, first in enumerate(known):
                for other, then in enumerate(known):
                    reasons = cleaning(self.scenario, changeover, first, then)
                    found[place, one, other] = sum(reason.minutes for reason in reasons)
        return found

    def _ovens(self, count: int) -> dict[str, Floats | Ints]:
        ovens = [s.id for s in self.line.stations if isinstance(s, ConveyorStation) and s.heating_c_per_min]
        leg, offset, dwell = (
            np.full((count, len(ovens)), -1),
            np.zeros((count, len(ovens))),
            np.zeros((count, len(ovens))),
        )
        for place, product in enumerate(self.products):
            for stop, owner in self.passages[product.id]:
                if stop.station in ovens and owner.id == product.id:
                    oven = ovens.index(stop.station)
                    leg[place, oven], offset[place, oven], dwell[place, oven] = (
                        stop.leg,
                        stop.offset_min,
                        stop.dwell_min,
                    )
        return {"oven_leg": leg.astype(np.int64), "oven_offset": offset, "oven_dwell": dwell}

    def _staffed(self) -> dict[str, Floats | Ints]:
        uses = [self._crew_uses(product) for product in self.products]
        flat = [use for product in uses for use in product]
        return {
            "crew_from": _ends([len(product) for product in uses]),
            "crew": np.array([use[0] for use in flat], dtype=np.int64),
            "crew_leg": np.array([use[1] for use in flat], dtype=np.int64),
            "crew_begin": np.array([use[2] for use in flat], dtype=np.float64),
            "crew_end": np.array([use[3] for use in flat], dtype=np.float64),
            "crew_people": np.array([use[4] for use in flat], dtype=np.float64),
        }

    def _crew_uses(self, product: Product) -> list[tuple[int, int, float, float, float]]:
        found = []
        for stop, _ in self.passages[product.id]:
            use = self.line.station(stop.station).staffed
            if use:
                ends = stop.offset_min + stop.dwell_min
                found.append((self.crews.index(use.crew), stop.leg, stop.offset_min, ends, float(use.people)))
        return found

    def items(self, parts: Iterable["Part"]) -> Items:
        """The arrays of what is put in order."""
        listed = tuple(parts)
        return Items(
            product=np.array([self.index[part.product] for part in listed], dtype=np.int64),
            packs=np.array([part.packs for part in listed], dtype=np.int64),
            fresh=np.array([part.fresh_from_min for part in listed], dtype=np.float64),
            leaves=np.array([part.departs_min for part in listed], dtype=np.float64),
            pin=np.array([nan if part.pinned_min is None else part.pinned_min for part in listed], dtype=np.float64),
            not_before=np.array([part.not_before_min for part in listed], dtype=np.float64),
            share=np.array([part.pace_share for part in listed], dtype=np.float64),
            policy=np.array(
                [-1 if part.odd_batch is None else POLICIES.index(part.odd_batch) for part in listed], dtype=np.int64
            ),
            was=np.array([nan if part.was_min is None else part.was_min for part in listed], dtype=np.float64),
        )

    def outside(self, taken: Taken) -> Outside:
        """The arrays of what the calendar and other lines take."""
        units = sorted((*self._closed_units, *self._taken_units(taken)))
        windows = [self._windows(product, taken) for product in self.products]
        flat = [window for product in windows for window in product]
        crews = [work for work in taken.crews if work.crew in self.crews]
        stores = self._shared_stores()
        stored = [entry for entry in taken.stores if entry.shared in stores]
        return Outside(
            window_from=_ends([len(product) for product in windows]),
            window_leg=np.array([window[0] for window in flat], dtype=np.int64),
            window_low=np.array([window[1] for window in flat], dtype=np.float64),
            window_high=np.array([window[2] for window in flat], dtype=np.float64),
            taken_unit=np.array([unit[0] for unit in units], dtype=np.int64),
            taken_begin=np.array([unit[1] for unit in units], dtype=np.float64),
            taken_end=np.array([unit[2] for unit in units], dtype=np.float64),
            taken_class=np.array([unit[3] for unit in units], dtype=np.int64),
            crew=np.array([self.crews.index(work.crew) for work in crews], dtype=np.int64),
            crew_begin=np.array([work.begin for work in crews], dtype=np.float64),
            crew_end=np.array([work.end for work in crews], dtype=np.float64),
            crew_people=np.array([float(work.people) for work in crews], dtype=np.float64),
            stored=np.array([stores[entry.shared] for entry in stored], dtype=np.int64),
            stored_entry=np.array([entry.entry for entry in stored], dtype=np.float64),
            stored_hold=np.array([entry.hold for entry in stored], dtype=np.float64),
            stored_feed=np.array([entry.feed for entry in stored], dtype=np.float64),
            stored_share=np.array([entry.share_per_min for entry in stored], dtype=np.float64),
        )

    def _shared_stores(self) -> dict[str, int]:
        """Stations of this line, by place, that are stores shared with others."""
        shared = {
            place: self.scenario.plant.shared_as(self.line.id, s.id) for place, s in enumerate(self.line.stations)
        }
        return {found.id: place for place, found in shared.items() if found}

    def _blocked_units(self) -> list[tuple[int, float, float, int]]:
        """When each unit is closed: unit, from, to and -1; closings that touch or overlap are one."""
        blocked: list[tuple[int, float, float, int]] = []
        for block in sorted(self.scenario.blocks, key=lambda block: block.from_min):
            called = self.scenario.plant.called_on(self.line.id, block.at)
            for unit in (
                range(*self._unit_range(self.pool(called))) if called and self.pool(called) in self.pools else ()
            ):
                earlier = next((found for found in blocked if found[0] == unit and found[2] >= block.from_min), None)
                if earlier:
                    blocked.remove(earlier)
                begins, ends = (
                    (earlier[1], max(earlier[2], block.to_min)) if earlier else (block.from_min, block.to_min)
                )
                blocked.append((unit, begins, ends, -1))
        return blocked

    def _taken_units(self, taken: Taken) -> list[tuple[int, float, float, int]]:
        kinds = {product.id: place for place, product in enumerate((*self.products, *self.foreign))}
        return [
            (self._unit_range(busy.pool)[0] + busy.unit, busy.begin, busy.end, kinds[busy.product])
            for busy in taken.units
            if busy.pool in self.pools
        ]

    def _unit_range(self, pool: str) -> tuple[int, int]:
        place = self.pools.index(pool)
        return int(self.data.unit_from[place]), int(self.data.unit_from[place + 1])

    def _windows(self, product: Product, taken: Taken) -> list[tuple[int, float, float]]:
        """Leg, low and high: the leg may not start between low less the feeding time and high."""
        found = list(self._closed[product.id])
        for passage in self.passages[product.id] if taken.stations else ():
            if splits_at(passage.product, passage.stop.station):
                continue
            shared = self.scenario.plant.shared_as(self.line.id, passage.stop.station)
            for other in taken.stations if shared else ():
                if shared and other.shared == shared.id:
                    found.append(self._shared_window(passage.stop.station, passage, other))
        return found

    def _closed_windows(self, product: Product) -> list[tuple[int, float, float]]:
        """The windows that closed stations make."""
        found = []
        for block in self.scenario.blocks:
            called = self.scenario.plant.called_on(self.line.id, block.at)
            for stop, owner in self.passages[product.id] if called else ():
                if stop.station != called:
                    continue
                split = splits_at(owner, stop.station)
                stay = 0.0 if split else stop.dwell_min
                found.append((stop.leg, block.from_min - stop.offset_min - stay, block.to_min - stop.offset_min))
                if split:
                    out = stop.offset_min + stop.dwell_min
                    found.append((stop.leg + 1, block.from_min - out, block.to_min - out))
        return found

    def _shared_window(self, station_id: str, passage: Passage, other: Passed) -> tuple[int, float, float]:
        stop, owner = passage
        foreign = self.scenario.product(other.product)
        theirs = next(
            ref.station
            for shared in self.scenario.plant.shared
            if shared.id == other.shared
            for ref in shared.stations
            if ref.line == foreign.line
        )
        before = gap(self.scenario, station_id, owner, foreign, theirs).minutes
        after = gap(self.scenario, theirs, foreign, owner, station_id).minutes
        return stop.leg, other.first_in - before - stop.offset_min, other.last_in + after - stop.offset_min


class Part(NamedTuple):
    """A lot, or a part of one, as the planner may want it made.

    Attributes
    ----------
    pinned_min : float or None
        Where it must start; None where it may.
    not_before_min : float
        Nothing of it is mixed before.
    pace_share : float
        Of the line's pace for the product.
    odd_batch : str or None
        Choice for the odd last dough; None for the product's.
    alone : bool
        Whether it begins a run of its own.
    was_min : float or None
        Where the published plan starts it.
    """

    product: str
    wave: str
    packs: int
    departs_min: float
    fresh_from_min: float = -inf
    pinned_min: float | None = None
    not_before_min: float = 0.0
    pace_share: float = 1.0
    odd_batch: OddBatch | None = None
    alone: bool = False
    was_min: float | None = None


def parts_of(shop: LineShop, lots: Sequence[Lot]) -> tuple[Part, ...]:
    """The lots that are mixed for themselves, less what is in stock, cut where a run can be no longer.

    Stock goes to the earliest lorry for which it is fresh enough.
    """
    stock = {entry.product: entry.packs for entry in shop.scenario.finished}
    made = {entry.product: entry.made_min for entry in shop.scenario.finished}
    parts = []
    for lot in lots:
        if lot.product not in shop.index:
            continue
        fresh = made.get(lot.product, 0.0) >= lot.fresh_from_min
        given = min(stock.get(lot.product, 0), lot.packs) if fresh else 0
        stock[lot.product] = stock.get(lot.product, 0) - given if fresh else 0
        left, most = lot.packs - given, int(shop.data.cap[shop.index[lot.product]])
        while left > 0:
            packs = min(left, most)
            parts.append(Part(lot.product, lot.wave, packs, lot.departs_min, lot.fresh_from_min))
            left -= packs
    return tuple(parts)


def pool_of(scenario: Scenario, line_id: str, station_id: str) -> str:
    """What counts the units of a station: itself on its line, or what it is shared as."""
    shared = scenario.plant.shared_as(line_id, station_id)
    return shared.id if shared else f"{line_id}/{station_id}"


def _foreign_products(scenario: Scenario, line_id: str, pools: Sequence[str]) -> tuple[Product, ...]:
    """Products of other lines whose doughs take units of the same pools."""
    lines = {ref.line for shared in scenario.plant.shared if shared.id in pools for ref in shared.stations} - {line_id}
    return tuple(
        product
        for other in sorted(lines)
        for product in scenario.made_on(other)
        if any(pool_of(scenario, other, need.station) in pools for need in needs_of(scenario, product))
    )


def _ends(lengths: Sequence[int]) -> Ints:
    return np.concatenate(([0], np.cumsum(np.array(lengths, dtype=np.int64)))).astype(np.int64)
