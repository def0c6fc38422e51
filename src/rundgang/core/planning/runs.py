"""From the kernel's arrays to the plan's own models: runs, their batches with mixers and troughs, what is cut out."""

from collections.abc import Sequence
from itertools import accumulate, pairwise
from typing import NamedTuple

import numpy as np

from rundgang.core.batching import POLICIES, BatchSplit, dough_grams, packs_from_pieces, split
from rundgang.core.capacity import transit_min
from rundgang.core.compiled import Ints
from rundgang.core.errors import InfeasibleError
from rundgang.core.planning.arrays import AtWork, Busy, LineShop, Part, Passed, Stored, Taken
from rundgang.core.planning.headway import cut_is_held, splits_at
from rundgang.core.planning.kernel import Outside, Runs, decode, make_room, make_runs
from rundgang.core.planning.model import Batch, CutRun, PreparationSlot, Run, RunItem
from rundgang.core.products import Product
from rundgang.core.units import MINUTES_PER_HOUR


class Slot(NamedTuple):
    """A dough: the unit of each need, when its first and last piece are divided, and its pieces."""

    units: tuple[int, ...]
    divided: float
    last: float
    pieces: int


class Placed(NamedTuple):
    """A run with its times, before the plan's models are made of it.

    `changeover_min` is the white time at the divider that the change before it costs; what it waits for the
    freshness of its packs, or for a closed station, is none.
    """

    product: Product
    parts: tuple[Part, ...]
    start_min: float
    extra_hold_min: float
    feed_min: float
    scaled_per_h: float
    wanted: int
    split: BatchSplit
    slots: tuple[Slot, ...]
    changeover_min: float

    @property
    def head(self) -> Part:
        """The part that says how the planner wants it."""
        return self.parts[0]


class Decoded(NamedTuple):
    """All runs of an order, and by how much pins could not be kept, min."""

    runs: tuple[Placed, ...]
    off_pin_min: float


def place(shop: LineShop, parts: Sequence[Part], outside: Outside) -> Decoded:
    """Decode parts in their order.

    Raises
    ------
    InfeasibleError
        A run cannot be made at all; the message names it.
    """
    items = shop.items(parts)
    order = np.arange(len(parts), dtype=np.int64)
    alone = np.array([int(part.alone) for part in parts], dtype=np.int64)
    runs = make_runs(shop.data, items)
    room = make_room(shop.data, outside, items)
    count, off_pin, impossible = decode(shop.data, outside, items, order, alone, room, runs)
    placed = _read(shop, parts, runs, count)
    if impossible:
        _refuse(shop, placed)
    return Decoded(placed, off_pin)


def _refuse(shop: LineShop, placed: tuple[Placed, ...]) -> None:
    for run in placed:
        if run.start_min > 10 * shop.data.window or run.scaled_per_h <= 1:
            raise InfeasibleError(
                f"{run.product.name}: {run.wanted} packs find no time on {shop.line.name} that is long enough between "
                "what blocks its stations. Allowed: shorter blocks, smaller lots, or another line."
            )
        longest = max(slot.last - slot.divided for slot in run.slots)
        window = run.product.max_age_min - run.product.rest_min
        if longest > window:
            raise InfeasibleError(
                f"{run.product.name}: at {run.scaled_per_h:.0f} pieces/h a dough is divided in {longest:.1f} min, but "
                f"must be within {window:.1f}. Allowed: a faster pace, smaller doughs, or a longer maximum age."
            )
    raise InfeasibleError(f"{shop.line.name}: a run finds no time. Allowed: fewer blocks, or more units.")


def _read(shop: LineShop, parts: Sequence[Part], runs: Runs, count: int) -> tuple[Placed, ...]:
    covered: dict[int, list[Part]] = {}
    last: dict[str, int] = {}
    at = 0
    for run in range(count):
        first, many = int(runs.first_place[run]), int(runs.places[run])
        for skipped in parts[at:first]:
            covered[last[skipped.product]].append(skipped)
        covered[run] = list(parts[first : first + many])
        last[parts[first].product] = run
        at = first + many
    for skipped in parts[at:]:
        covered[last[skipped.product]].append(skipped)
    return tuple(_one(shop, tuple(covered[run]), runs, run) for run in range(count))


def _one(shop: LineShop, parts: tuple[Part, ...], runs: Runs, run: int) -> Placed:
    product, pace, start = shop.products[runs.product[run]], float(runs.pace[run]), float(runs.start[run])
    wanted, policy = int(runs.wanted[run]), POLICIES[runs.policy[run]]
    cut = split(product, wanted, shop.limits[product.id], policy)
    divided = tuple(accumulate((MINUTES_PER_HOUR * pieces / pace for pieces in cut.pieces), initial=0.0))
    needs = len(shop.needs[product.id])
    units: Ints = runs.slot_unit[runs.slot_from[run] : runs.slot_from[run + 1]].reshape(-1, needs)
    slots = tuple(
        Slot(tuple(map(int, row)), start + first, start + last, pieces)
        for row, pieces, (first, last) in zip(units, cut.pieces, pairwise(divided), strict=True)
    )
    return Placed(
        product=product,
        parts=parts,
        start_min=start,
        extra_hold_min=max(0.0, float(runs.extra[run])),
        feed_min=divided[-1],
        scaled_per_h=pace,
        wanted=wanted,
        split=cut,
        slots=slots,
        changeover_min=float(runs.idle[run]),
    )


def takes(shop: LineShop, runs: Sequence[Placed]) -> Taken:
    """What runs take of what their line shares with others."""
    scenario = shop.scenario
    units, works, stations, stores = [], [], [], []
    shared = {entry.id for entry in scenario.plant.shared}
    for run in runs:
        for need, row in zip(
            shop.needs[run.product.id], zip(*(slot.units for slot in run.slots), strict=True), strict=True
        ):
            pool = shop.pool(need.station)
            if pool not in shared:
                continue
            offset = int(shop.data.unit_from[shop.pools.index(pool)])
            for slot, unit in zip(run.slots, row, strict=True):
                begin = slot.divided - need.before_min
                length = max(need.length_min, slot.last - begin) if need.empties else need.length_min
                units.append(Busy(pool, unit - offset, begin, begin + length, run.product.id))
        for stop, owner in shop.passages[run.product.id]:
            station = shop.line.station(stop.station)
            first = run.start_min + stop.offset_min + (run.extra_hold_min if stop.leg else 0)
            if station.staffed:
                out = first + stop.dwell_min + run.feed_min
                works.append(AtWork(station.staffed.crew, first, out, station.staffed.people))
            member = scenario.plant.shared_as(shop.line.id, stop.station)
            if member and splits_at(owner, stop.station):
                per_min = run.scaled_per_h / MINUTES_PER_HOUR * float(shop.data.store_share[shop.index[run.product.id]])
                hold = stop.dwell_min + run.extra_hold_min
                stores.append(Stored(member.id, first, hold, run.feed_min, per_min))
            elif member:
                stations.append(Passed(member.id, first, first + run.feed_min, owner.id))
    return Taken(tuple(units), tuple(works), tuple(stations), tuple(stores))


def as_batches(shop: LineShop, run: Placed) -> tuple[Batch, ...]:
    """The batches of a run, each with its mixer, its trough and what is prepared for it."""
    return tuple(_batch(shop, run.product, number, slot) for number, slot in enumerate(run.slots, start=1))


def _batch(shop: LineShop, product: Product, number: int, slot: Slot) -> Batch:
    used = iter(zip(shop.needs[product.id], slot.units, strict=True))

    def take() -> tuple[str, float]:
        need, unit = next(used)
        offset = int(shop.data.unit_from[shop.pools.index(shop.pool(need.station))])
        return shop.units(need.station)[unit - offset], slot.divided - need.before_min

    grams = dough_grams(product, slot.pieces)
    mixer, begin = take()
    trough = take()[0] if product.trough else None
    prepared = []
    for made, share in shop.scenario.preparations_in(product):
        kettle, started = take()
        prepared.append(
            PreparationSlot(
                preparation=made.id,
                mixer=kettle,
                start_min=started,
                discharged_min=started + made.mixing.cycle_min,
                used_min=begin,
                position=take()[0] if made.held else None,
                grams=round(grams * share),
            )
        )
    return Batch(
        number=number,
        mixer=mixer,
        start_min=begin,
        discharged_min=begin + product.mixing.cycle_min,
        divided_min=slot.divided,
        last_piece_min=slot.last,
        pieces=slot.pieces,
        dough_g=grams,
        trough=trough,
        preparations=tuple(prepared),
    )


def as_items(parts: Sequence[Part]) -> tuple[RunItem, ...]:
    """The lorries that a run is for, parts of one lorry together."""
    packs: dict[str, int] = {}
    for part in parts:
        packs[part.wave] = packs.get(part.wave, 0) + part.packs
    return tuple(RunItem(wave=wave, packs=many) for wave, many in packs.items())


def as_cut_runs(shop: LineShop, runs: Sequence[Run]) -> tuple[CutRun, ...]:
    """What the plan's runs give beside their own packs."""
    found = []
    for run in runs:
        product = shop.scenario.product(run.product)
        cut = shop.scenario.cut_from(product)
        if cut is None:
            continue
        whole = shop.scenario.whole(cut)
        first = (
            run.start_min
            + transit_min(shop.line, whole, run.scaled_per_h)
            + (run.extra_hold_min if cut_is_held(product) else 0)
        )
        packs = packs_from_pieces(whole, run.pieces)
        found.append(
            CutRun(run=run.id, product=cut.id, packs=packs, first_pack_min=first, last_pack_min=first + run.feed_min)
        )
    return tuple(found)
