"""From an order of lots to runs with times: as early as headways and mixers let them.

Neighbouring lots of one product become one run; what an earlier run made too much is taken from the
next one's demand. A run starts when every run before it has the headway it needs, and a mixer and a
trough are free for every one of its doughs and for what is prepared for them. Doughs are mixed as late as
they may be, so none is older than it must be.
"""

from collections.abc import Iterable, Iterator, Sequence
from itertools import groupby, pairwise
from typing import NamedTuple

from rundgang.core.batching import BatchSplit, packs_from_pieces
from rundgang.core.capacity import transit_min
from rundgang.core.planning.lots import Lot
from rundgang.core.planning.plan import BindingKind
from rundgang.core.planning.pool import SAME_MOMENT_MIN, Pattern, Pool, Stretch
from rundgang.core.planning.shop import Feed, Shop
from rundgang.core.products import Product


class Slot(NamedTuple):
    """A dough: the unit of each need, when its first and last piece are divided, and its pieces."""

    units: tuple[int, ...]
    divided: float
    last: float
    pieces: int


class Placed(NamedTuple):
    """A run with its times, as light as a search needs it; `as_runs` makes the plan's models of them.

    `changeover_min` is the white time at the divider that the change before it costs; what it waits for the
    freshness of its packs is none.
    """

    product: str
    start_min: float
    feed_min: float
    scaled_per_h: float
    packs: int
    packs_wanted: int
    first_pack_min: float
    last_pack_min: float
    slots: tuple[Slot, ...]
    split: BatchSplit
    after: int | None
    waits: BindingKind
    waits_at: str | None = None
    changeover_min: float = 0.0


class Demand(NamedTuple):
    """What neighbouring lots of one product ask of one run.

    Attributes
    ----------
    fresh_from_min : float
        Its first pack made before is too old for the last of its lorries.
    """

    product: str
    packs: int
    fresh_from_min: float


class Stock(NamedTuple):
    """Packs that a run made beyond its demand, and when the first of them was made, min."""

    packs: int
    made_from_min: float


NO_STOCK = Stock(0, 0.0)


def merged(sequence: Iterable[Lot]) -> Iterator[Demand]:
    """Neighbouring lots of one product as one, as long as a pack can be fresh for all their lorries."""
    for product, group in groupby(sequence, key=lambda lot: lot.product):
        packs, fresh_from, first_leaves = 0, 0.0, float("inf")
        for lot in group:
            if packs and (lot.fresh_from_min >= first_leaves or fresh_from >= lot.departs_min):
                yield Demand(product, packs, fresh_from)
                packs, fresh_from, first_leaves = 0, 0.0, float("inf")
            packs += lot.packs
            fresh_from = max(fresh_from, lot.fresh_from_min)
            first_leaves = min(first_leaves, lot.departs_min)
        yield Demand(product, packs, fresh_from)


def decode(shop: Shop, sequence: Iterable[Lot], exact: bool = False) -> tuple[Placed, ...]:
    """Runs with times for an order of lots.

    Parameters
    ----------
    exact : bool
        Whether to work out the mixer and trough of every dough; a search needs the times only.

    Raises
    ------
    InfeasibleError
        A product's smallest dough would be too old before it is divided.
    """
    runs: list[Placed] = []
    stocks = dict.fromkeys(shop.products, NO_STOCK)
    pools = shop.pools()
    for demand in merged(sequence):
        stock = stocks[demand.product]
        fresh = stock.packs if stock.made_from_min >= demand.fresh_from_min else 0
        wanted = demand.packs - fresh
        stocks[demand.product] = stock._replace(packs=max(0, -wanted))
        if wanted <= 0:
            continue
        run = _place(shop, demand, wanted, runs, pools, exact)
        surplus = run.split.surplus_packs
        stocks[demand.product] = Stock(surplus, run.last_pack_min - run.feed_min * surplus / run.packs)
        runs.append(run)
    return tuple(runs)


def cut_beside(shop: Shop, runs: tuple[Placed, ...]) -> tuple[Placed, ...]:
    """What is cut out of the runs and sold, as runs of their own beside them."""
    return tuple(_cut_from(shop, run, shop.cut_outs[run.product]) for run in runs if run.product in shop.cut_outs)


def _cut_from(shop: Shop, run: Placed, cut_id: str) -> Placed:
    whole = shop.scenario.whole(shop.scenario.product(cut_id))
    first = run.start_min + transit_min(shop.line, whole)
    packs = packs_from_pieces(whole, sum(run.split.pieces))
    return run._replace(
        product=cut_id, packs=packs, packs_wanted=0, first_pack_min=first, last_pack_min=first + run.feed_min, slots=()
    )


def beyond_horizon(shop: Shop, runs: tuple[Placed, ...]) -> float:
    """By how much the last pack falls after the horizon's end, min; 0 where it does not."""
    last = max((run.last_pack_min for run in runs), default=0.0)
    return max(0.0, last - shop.scenario.horizon.minutes)


def _place(shop: Shop, demand: Demand, wanted: int, runs: list[Placed], pools: dict[str, Pool], exact: bool) -> Placed:
    """The earliest legal start of a run after those placed; its units are taken from the pools."""
    product, fresh_from = shop.products[demand.product], demand.fresh_from_min
    feed = shop.feed(product, wanted)
    start, after = _after_runs(shop, product, runs)
    waits: BindingKind = "opening" if after is None else "headway"
    waits_at = None
    idle = start - (runs[-1].start_min + runs[-1].feed_min) if runs else 0.0
    if fresh_from - shop.transit[product.id] > start + SAME_MOMENT_MIN:
        start, after, waits = fresh_from - shop.transit[product.id], None, "freshness"
    slots, delay, station = _mix(shop, product, feed, start, pools, exact)
    while delay > SAME_MOMENT_MIN:
        start += delay
        idle += delay
        after, waits, waits_at = len(runs) - 1 if runs else None, "mixers", station
        slots, delay, station = _mix(shop, product, feed, start, pools, exact)
    first = start + shop.transit[product.id]
    return Placed(
        product=product.id,
        start_min=start,
        feed_min=feed.divided[-1],
        scaled_per_h=feed.pace,
        packs=feed.split.packs,
        packs_wanted=wanted,
        first_pack_min=first,
        last_pack_min=first + feed.divided[-1],
        slots=slots,
        split=feed.split,
        after=after,
        waits=waits,
        waits_at=waits_at,
        changeover_min=max(0.0, idle),
    )


def _after_runs(shop: Shop, product: Product, runs: list[Placed]) -> tuple[float, int | None]:
    """Earliest start by the opening and by every run before, and the index of the run that binds."""
    start, after = shop.lead[product.id], None
    for index, run in enumerate(runs):
        pair = shop.headways.get((run.product, product.id))
        if pair and run.start_min + run.feed_min + pair.beyond_feed_min > start:
            start, after = run.start_min + run.feed_min + pair.beyond_feed_min, index
    return start, after


def _mix(
    shop: Shop, product: Product, feed: Feed, start: float, pools: dict[str, Pool], exact: bool
) -> tuple[tuple[Slot, ...], float, str]:
    """Take a unit for every need of every dough; or how much too early the start is, min, and for which station."""
    needs = [
        (pools[need.station], pattern) for need, pattern in zip(shop.needs[product.id], feed.patterns, strict=True)
    ]
    if all(start + pattern.first >= pool.ready(product.id) for pool, pattern in needs):
        units = []
        for pool, pattern in needs:
            if exact:
                pool.settle()
            pool.note(start, pattern, product.id)
            units.append(pool.settle() if exact else ())
        return _slots(feed, start, units) if exact else (), 0.0, ""
    return _mix_between(shop, product, feed, start, needs)


def _mix_between(
    shop: Shop, product: Product, feed: Feed, start: float, needs: list[tuple[Pool, Pattern]]
) -> tuple[tuple[Slot, ...], float, str]:
    """The same where others have taken units: dough by dough, each need at the first unit that is free for it."""
    for pool, _ in needs:
        pool.settle()
    taken: list[tuple[Pool, int, Stretch]] = []
    units: list[list[int]] = [[] for _ in needs]
    for dough in range(len(feed.split.pieces)):
        for place, (pool, pattern) in enumerate(needs):
            offset, length = pattern.stretches[dough]
            begin = start + offset
            free, unit = pool.earliest(begin, length, product.id)
            if free - begin > SAME_MOMENT_MIN:
                for used, number, stretch in reversed(taken):
                    used.give_back(number, stretch)
                return (), free - begin, shop.needs[product.id][place].station
            stretch = Stretch(begin, begin + length, product.id)
            pool.take(unit, stretch)
            taken.append((pool, unit, stretch))
            units[place].append(unit)
    return _slots(feed, start, units), 0.0, ""


def _slots(feed: Feed, start: float, units: Sequence[Sequence[int]]) -> tuple[Slot, ...]:
    """The doughs of a run with their units: one row of units a need."""
    return tuple(
        Slot(tuple(row[dough] for row in units), start + first, start + last, pieces)
        for dough, (pieces, (first, last)) in enumerate(zip(feed.split.pieces, pairwise(feed.divided), strict=True))
    )
