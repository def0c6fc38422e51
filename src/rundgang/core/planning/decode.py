"""From an order of lots to runs with times: as early as headways and mixers let them.

Neighbouring lots of one product become one run; what an earlier run made too much is taken from the
next one's demand. A run starts when every run before it has the headway it needs and a mixer is free
for every one of its doughs. Doughs are mixed as late as they may be, so none is older than it must be.
"""

from collections.abc import Iterable, Iterator
from itertools import groupby
from typing import Literal, NamedTuple

from rundgang.core.balance import (
    batch_capacity,
    largest_batch_by_age_kg,
    scaled_pace,
    transit_min,
)
from rundgang.core.batching import BatchLimits, BatchSplit, batch_limits, dough_grams, split
from rundgang.core.planning.headway import Headways, cleaning, headways
from rundgang.core.planning.lots import Lot
from rundgang.core.planning.plan import Batch, Binding, Run
from rundgang.core.plant import Line
from rundgang.core.products import OddBatch, Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR

SAME_MOMENT_MIN = 1e-9
"""Two times closer than this are the same moment, min."""


class Slot(NamedTuple):
    """A dough's mixer, when charging begins, and when its first and last piece are divided."""

    mixer: str
    begin: float
    divided: float
    last: float
    pieces: int


class Placed(NamedTuple):
    """A run with its times, as light as a search needs it; `as_runs` makes the plan's models of them."""

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
    waits: Literal["opening", "headway", "mixers"]


class Shop:
    """All that does not change while orders of lots are tried: the line, its headways, the products' limits.

    Parameters
    ----------
    scenario : Scenario
    line_id : str
    odd_batch : dict of str to OddBatch
        Choices for the odd last batch that differ from the products' own.
    """

    def __init__(self, scenario: Scenario, line_id: str, odd_batch: dict[str, OddBatch] | None = None) -> None:
        self.scenario = scenario
        self.line: Line = scenario.line(line_id)
        self.products = {p.id: p for p in scenario.products if p.line == line_id}
        self.headways: Headways = headways(scenario, tuple(self.products.values()))
        chosen = odd_batch or {}
        self.policy = {p.id: chosen.get(p.id, p.odd_batch) for p in self.products.values()}
        self.pace = {p.id: scaled_pace(self.line, p) for p in self.products.values()}
        self.transit = {p.id: transit_min(self.line, p) for p in self.products.values()}
        self._limits: dict[str, BatchLimits] = {}
        self._cuts: dict[tuple[str, int], tuple[BatchSplit, float]] = {}
        self.mixer_cleaning = {
            (first.id, then.id): cleaning(scenario, self.line.mixers.changeover, first, then)
            for first in self.products.values()
            for then in self.products.values()
        }
        self.mixer_cleaning_min = {
            pair: sum(reason.minutes for reason in reasons) for pair, reasons in self.mixer_cleaning.items()
        }

    def limits(self, product: Product) -> BatchLimits:
        """Pieces a dough of the product may be scaled to on this line."""
        if product.id not in self._limits:
            mixers = self.line.mixers
            by_age = largest_batch_by_age_kg(product, self.pace[product.id])
            self._limits[product.id] = batch_limits(product, mixers.min_fill_kg, mixers.max_fill_kg, by_age)
        return self._limits[product.id]

    def cut(self, product: Product, packs: int) -> tuple[BatchSplit, float]:
        """The doughs for so many packs, by the policy chosen for the product, and the pace they can be fed at."""
        key = product.id, packs
        if key not in self._cuts:
            cut = split(product, packs, self.limits(product), self.policy[product.id])
            self._cuts[key] = cut, fed_pace(self, product, cut.pieces)
        return self._cuts[key]


def fed_pace(shop: Shop, product: Product, pieces: tuple[int, ...]) -> float:
    """Pace at which doughs of these sizes can be fed, pieces/h.

    With m mixers, dough b + m goes into the mixer of dough b, so the m doughs between must feed the line
    for at least one mixing cycle.
    """
    mixers = len(shop.line.mixers.mixers)
    pace = shop.pace[product.id]
    for first in range(len(pieces) - mixers):
        mean = sum(pieces[first : first + mixers]) / mixers
        pace = min(pace, batch_capacity(mixers, mean, product.mixing.cycle_min))
    return pace


def merged(sequence: Iterable[Lot]) -> Iterator[tuple[str, int]]:
    """Neighbouring lots of one product as one: product and packs."""
    for product, group in groupby(sequence, key=lambda lot: lot.product):
        yield product, sum(lot.packs for lot in group)


Mixers = dict[str, tuple[float, str | None]]
"""By mixer: when its last dough is out, and of which product that was."""


def decode(shop: Shop, sequence: Iterable[Lot]) -> tuple[Placed, ...]:
    """Runs with times for an order of lots.

    Raises
    ------
    InfeasibleError
        A product's smallest dough would be too old before it is divided.
    """
    runs: list[Placed] = []
    stock = dict.fromkeys(shop.products, 0)
    mixers: Mixers = dict.fromkeys(shop.line.mixers.mixers, (0.0, None))
    for product_id, ordered in merged(sequence):
        wanted = ordered - stock[product_id]
        stock[product_id] = max(0, -wanted)
        if wanted <= 0:
            continue
        run, mixers = _place(shop, shop.products[product_id], wanted, runs, mixers)
        stock[product_id] = run.split.surplus_packs
        runs.append(run)
    return tuple(runs)


def beyond_horizon(shop: Shop, runs: tuple[Placed, ...]) -> float:
    """By how much the last pack falls after the horizon's end, min; 0 where it does not."""
    last = max((run.last_pack_min for run in runs), default=0.0)
    return max(0.0, last - shop.scenario.horizon.minutes)


def _place(shop: Shop, product: Product, wanted: int, runs: list[Placed], mixers: Mixers) -> tuple[Placed, Mixers]:
    """The earliest legal start of a run after those placed, and the mixers after it."""
    cut, pace = shop.cut(product, wanted)
    start, after = _after_runs(shop, product, runs)
    waits: Literal["opening", "headway", "mixers"] = "opening" if after is None else "headway"
    slots, used, delay = _mix(shop, product, cut, pace, start, mixers)
    while delay > SAME_MOMENT_MIN:
        start += delay
        after, waits = len(runs) - 1 if runs else None, "mixers"
        slots, used, delay = _mix(shop, product, cut, pace, start, mixers)
    feed = MINUTES_PER_HOUR * sum(cut.pieces) / pace
    first = start + shop.transit[product.id]
    placed = Placed(product.id, start, feed, pace, cut.packs, wanted, first, first + feed, slots, cut, after, waits)
    return placed, used


def _after_runs(shop: Shop, product: Product, runs: list[Placed]) -> tuple[float, int | None]:
    """Earliest start by the opening and by every run before, and the index of the run that binds."""
    start, after = product.mixing.cycle_min + product.mixing.rest_min, None
    for index, run in enumerate(runs):
        pair = shop.headways.get((run.product, product.id))
        if pair and run.start_min + run.feed_min + pair.beyond_feed_min > start:
            start, after = run.start_min + run.feed_min + pair.beyond_feed_min, index
    return start, after


def _mix(
    shop: Shop, product: Product, cut: BatchSplit, pace: float, start: float, mixers: Mixers
) -> tuple[tuple[Slot, ...], Mixers, float]:
    """Give every dough its mixer; the delay is how much too late the latest-freed mixer comes, min."""
    before_divider = product.mixing.rest_min + product.mixing.cycle_min
    used = dict(mixers)
    slots: list[Slot] = []
    delay, divided = 0.0, start
    for pieces in cut.pieces:
        begin = divided - before_divider
        ready, mixer = min((_freed(shop, held, product.id), name) for name, held in used.items())
        delay = max(delay, ready - begin)
        last = divided + MINUTES_PER_HOUR * pieces / pace
        slots.append(Slot(mixer, begin, divided, last, pieces))
        used[mixer] = (begin + product.mixing.cycle_min, product.id)
        divided = last
    return tuple(slots), used, delay


def _freed(shop: Shop, held: tuple[float, str | None], product_id: str) -> float:
    """When a mixer is free and clean for a product, min."""
    until, before = held
    return until + shop.mixer_cleaning_min[before, product_id] if before else until


def as_runs(shop: Shop, placed: tuple[Placed, ...]) -> tuple[Run, ...]:
    """The plan's runs, numbered in order, with batches and what binds each start."""
    return tuple(
        Run(
            id=f"R{number}",
            product=run.product,
            line=shop.line.id,
            start_min=run.start_min,
            feed_min=run.feed_min,
            scaled_per_h=run.scaled_per_h,
            pieces=sum(run.split.pieces),
            packs=run.packs,
            packs_wanted=run.packs_wanted,
            first_pack_min=run.first_pack_min,
            last_pack_min=run.last_pack_min,
            batches=_batches(shop.products[run.product], run),
            split=run.split,
            binding=_binding(shop, run, placed),
        )
        for number, run in enumerate(placed, start=1)
    )


def _batches(product: Product, run: Placed) -> tuple[Batch, ...]:
    return tuple(
        Batch(
            number=number,
            mixer=slot.mixer,
            start_min=slot.begin,
            discharged_min=slot.begin + product.mixing.cycle_min,
            divided_min=slot.divided,
            last_piece_min=slot.last,
            pieces=slot.pieces,
            dough_g=dough_grams(product, slot.pieces),
        )
        for number, slot in enumerate(run.slots, start=1)
    )


def _binding(shop: Shop, run: Placed, placed: tuple[Placed, ...]) -> Binding:
    if run.after is None:
        return Binding(kind=run.waits)
    before = f"R{run.after + 1}"
    if run.waits == "mixers":
        cleaned = shop.mixer_cleaning[placed[run.after].product, run.product]
        return Binding(kind="mixers", after=before, station=shop.line.mixers.id, reasons=cleaned)
    pair = shop.headways[placed[run.after].product, run.product]
    return Binding(
        kind="headway",
        after=before,
        station=pair.station,
        gap_min=pair.gap.minutes,
        reasons=pair.gap.reasons,
    )
