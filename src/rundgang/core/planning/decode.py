"""From an order of lots to runs with times: as early as headways and mixers let them.

Neighbouring lots of one product become one run; what an earlier run made too much is taken from the
next one's demand. A run starts when every run before it has the headway it needs and a mixer is free
for every one of its doughs. Doughs are mixed as late as they may be, so none is older than it must be.
"""

from collections.abc import Iterable, Iterator
from itertools import groupby

from rundgang.core.balance import (
    MINUTES_PER_HOUR,
    batch_capacity,
    largest_batch_by_age_kg,
    make_up_capacity,
    taken_per_finished_piece,
    transit_min,
)
from rundgang.core.batching import BatchLimits, BatchSplit, batch_limits, dough_grams, split
from rundgang.core.errors import InfeasibleError
from rundgang.core.planning.headway import Headways, cleaning, headways
from rundgang.core.planning.lots import Lot
from rundgang.core.planning.plan import Batch, Binding, Reason, Run
from rundgang.core.plant import Line
from rundgang.core.products import OddBatch, Product
from rundgang.core.scenario import Scenario

SAME_MOMENT_MIN = 1e-9
"""Two times closer than this are the same moment, min."""


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
        self.pace = {p.id: self._make_up_pace(p) for p in self.products.values()}
        self.transit = {p.id: transit_min(self.line, p) for p in self.products.values()}
        self._limits: dict[str, BatchLimits] = {}
        self._cleaning = {
            (first.id, then.id): cleaning(scenario, self.line.mixers.changeover, first, then)
            for first in self.products.values()
            for then in self.products.values()
        }

    def limits(self, product: Product) -> BatchLimits:
        """Pieces a dough of the product may be scaled to on this line."""
        if product.id not in self._limits:
            mixers = self.line.mixers
            by_age = largest_batch_by_age_kg(product, self.pace[product.id])
            self._limits[product.id] = batch_limits(product, mixers.min_fill_kg, mixers.max_fill_kg, by_age)
        return self._limits[product.id]

    def mixer_cleaning(self, first: str, then: str) -> tuple[Reason, ...]:
        """Cleaning of a mixer between two products' doughs."""
        return self._cleaning[first, then]

    def _make_up_pace(self, product: Product) -> float:
        """Target, as far as everything after the mixers carries it, scaled pieces/h."""
        carried, _ = make_up_capacity(self.line, product)
        return min(carried, product.target_per_hour) * float(taken_per_finished_piece(product)[0])


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


def decode(shop: Shop, sequence: Iterable[Lot]) -> tuple[Run, ...]:
    """Runs with times for an order of lots.

    Raises
    ------
    InfeasibleError
        A product's smallest dough would be too old, or the last packs fall outside the horizon.
    """
    runs: list[Run] = []
    stock = dict.fromkeys(shop.products, 0)
    mixers: dict[str, tuple[float, str | None]] = dict.fromkeys(shop.line.mixers.mixers, (0.0, None))
    for product_id, ordered in merged(sequence):
        wanted = ordered - stock[product_id]
        stock[product_id] = max(0, -wanted)
        if wanted <= 0:
            continue
        product = shop.products[product_id]
        cut = split(product, wanted, shop.limits(product), shop.policy[product_id])
        stock[product_id] = cut.surplus_packs
        run = _place(shop, product, cut, wanted, runs, mixers)
        for batch in run.batches:
            mixers[batch.mixer] = (batch.discharged_min, product_id)
        runs.append(run)
    horizon = shop.scenario.horizon.minutes
    if runs and max(run.last_pack_min for run in runs) > horizon:
        late = max(runs, key=lambda run: run.last_pack_min)
        raise InfeasibleError(
            f"{late.id} {shop.products[late.product].name} would give its last pack "
            f"{late.last_pack_min - horizon:.0f} min after the horizon ends. "
            "Allowed: fewer packs, a longer horizon, or a faster line."
        )
    return tuple(runs)


def _place(
    shop: Shop,
    product: Product,
    cut: BatchSplit,
    wanted: int,
    runs: list[Run],
    mixers: dict[str, tuple[float, str | None]],
) -> Run:
    pace = fed_pace(shop, product, cut.pieces)
    start, binding = _after_runs(shop, product, runs)
    batches, delay, waits_for = _mix(shop, product, cut, pace, start, mixers)
    while delay > SAME_MOMENT_MIN:
        start += delay
        binding = Binding(
            kind="mixers",
            after=runs[-1].id if runs else None,
            station=shop.line.mixers.id,
            reasons=waits_for,
        )
        batches, delay, waits_for = _mix(shop, product, cut, pace, start, mixers)
    pieces = sum(cut.pieces)
    feed = MINUTES_PER_HOUR * pieces / pace
    return Run(
        id=f"R{len(runs) + 1}",
        product=product.id,
        line=shop.line.id,
        start_min=start,
        feed_min=feed,
        scaled_per_h=pace,
        pieces=pieces,
        packs=cut.packs,
        packs_wanted=wanted,
        first_pack_min=start + shop.transit[product.id],
        last_pack_min=start + shop.transit[product.id] + feed,
        batches=batches,
        split=cut,
        binding=binding,
    )


def _after_runs(shop: Shop, product: Product, runs: list[Run]) -> tuple[float, Binding]:
    """Earliest start by the opening and by every run before, and which of them binds."""
    start = product.mixing.cycle_min + product.mixing.rest_min
    binding = Binding(kind="opening")
    for run in runs:
        pair = shop.headways.get((run.product, product.id))
        if pair is None:
            continue
        earliest = run.start_min + run.feed_min + pair.beyond_feed_min
        if earliest > start:
            start = earliest
            binding = Binding(
                kind="headway",
                after=run.id,
                station=pair.station,
                gap_min=pair.gap.minutes,
                reasons=pair.gap.reasons,
            )
    return start, binding


def _mix(
    shop: Shop,
    product: Product,
    cut: BatchSplit,
    pace: float,
    start: float,
    mixers: dict[str, tuple[float, str | None]],
) -> tuple[tuple[Batch, ...], float, tuple[Reason, ...]]:
    """Give every dough its mixer; the delay is how much too late the latest-freed mixer comes, min."""
    step = product.mixing
    free = dict(mixers)
    batches: list[Batch] = []
    delay = 0.0
    waits_for: tuple[Reason, ...] = ()
    divided = start
    for number, pieces in enumerate(cut.pieces, start=1):
        begin = divided - step.rest_min - step.cycle_min
        ready = {name: _freed(shop, held, product.id) for name, held in free.items()}
        mixer = min(ready, key=lambda name: ready[name])
        if ready[mixer] - begin > max(delay, SAME_MOMENT_MIN):
            delay = ready[mixer] - begin
            before = free[mixer][1]
            waits_for = shop.mixer_cleaning(before, product.id) if before else ()
        last = divided + MINUTES_PER_HOUR * pieces / pace
        discharged = begin + step.cycle_min
        batches.append(
            Batch(
                number=number,
                mixer=mixer,
                start_min=begin,
                discharged_min=discharged,
                divided_min=divided,
                last_piece_min=last,
                pieces=pieces,
                dough_g=dough_grams(product, pieces),
            )
        )
        free[mixer] = (discharged, product.id)
        divided = last
    return tuple(batches), delay, waits_for


def _freed(shop: Shop, held: tuple[float, str | None], product_id: str) -> float:
    """When a mixer is free and clean for a product, min."""
    until, before = held
    return until + sum(r.minutes for r in shop.mixer_cleaning(before, product_id)) if before else until
