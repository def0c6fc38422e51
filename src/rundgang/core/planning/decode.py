"""From an order of lots to runs with times: as early as headways and mixers let them.

Neighbouring lots of one product become one run; what an earlier run made too much is taken from the
next one's demand. A run starts when every run before it has the headway it needs, and a mixer and a
trough are free for every one of its doughs and for what is prepared for them. Doughs are mixed as late as
they may be, so none is older than it must be.
"""

from collections.abc import Iterable, Iterator, Sequence
from itertools import accumulate, groupby, pairwise
from typing import NamedTuple

from rundgang.core.batching import BatchLimits, BatchSplit, batch_limits, dough_grams, packs_from_pieces, split
from rundgang.core.capacity import batch_capacity, dough_bounds, scaled_pace, transit_min
from rundgang.core.errors import InfeasibleError
from rundgang.core.planning.headway import Headways, cleaning, headways
from rundgang.core.planning.lots import Lot
from rundgang.core.planning.plan import Batch, Binding, BindingKind, CutRun, PreparationSlot, Reason, Run
from rundgang.core.planning.pool import SAME_MOMENT_MIN, Cleaning, Pattern, Pool, Stretch
from rundgang.core.plant import BatchStation, HeldStation, Line
from rundgang.core.products import OddBatch, Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR


class Need(NamedTuple):
    """What every dough of a product takes in the dough room: a unit of a station for a stretch of time.

    Attributes
    ----------
    before_min : float
        From the stretch's beginning to the dough's first piece at the divider, min.
    length_min : float
        Of the stretch, min.
    empties : bool
        Whether it lasts at least until the dough's last piece is divided: a trough by the divider.
    """

    station: str
    before_min: float
    length_min: float
    empties: bool = False


class Feed(NamedTuple):
    """How a run is fed: its doughs and the pace; when each is divided, from the run's start; what each pool gives.

    Attributes
    ----------
    divided : tuple of float
        First piece of every dough, and at the end the last piece of the last, min.
    patterns : tuple of Pattern
        One for each need of the product.
    """

    split: BatchSplit
    pace: float
    divided: tuple[float, ...]
    patterns: tuple[Pattern, ...]


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
        self.products = {p.id: p for p in scenario.made_on(line_id)}
        self.cut_outs = {p.id: cut.id for p in self.products.values() if (cut := scenario.cut_from(p)) is not None}
        self.headways: Headways = headways(scenario, tuple(self.products.values()))
        chosen = odd_batch or {}
        self.policy = {p.id: chosen.get(p.id, p.odd_batch) for p in self.products.values()}
        self.pace = {p.id: scaled_pace(scenario, p) for p in self.products.values()}
        self.transit = {p.id: transit_min(self.line, p) for p in self.products.values()}
        self.needs = {p.id: needs_of(scenario, p) for p in self.products.values()}
        self.lead = {name: max(need.before_min for need in needs) for name, needs in self.needs.items()}
        self._limits: dict[str, BatchLimits] = {}
        self._feeds: dict[tuple[str, int], Feed] = {}
        self.mixer_cleaning = {
            (station.id, first.id, then.id): reasons
            for station in self.line.batch_stations
            for first in self.products.values()
            for then in self.products.values()
            if (reasons := cleaning(scenario, station.changeover, first, then))
        }
        self._cleaning: dict[str, Cleaning] = {station.id: {} for station in self.line.stations}
        for (station_id, first_id, then_id), reasons in self.mixer_cleaning.items():
            self._cleaning[station_id][first_id, then_id] = sum(reason.minutes for reason in reasons)

    def units(self, station_id: str) -> tuple[str, ...]:
        """The names of a dough room station's mixers or positions."""
        station = self.line.station(station_id)
        if isinstance(station, BatchStation):
            return station.mixers
        assert isinstance(station, HeldStation)  # noqa: S101  (needs name mixers and holders only)
        return tuple(f"{station.position} {number}" for number in range(1, station.positions + 1))

    def pools(self) -> dict[str, Pool]:
        """All mixers and positions of the dough room, none of them taken yet."""
        stations = {need.station for needs in self.needs.values() for need in needs}
        return {station: Pool(len(self.units(station)), self._cleaning[station]) for station in sorted(stations)}

    def limits(self, product: Product) -> BatchLimits:
        """Pieces a dough of the product may be scaled to on this line."""
        if product.id not in self._limits:
            self._limits[product.id] = batch_limits(product, dough_bounds(self.scenario, product))
        return self._limits[product.id]

    def feed(self, product: Product, packs: int) -> Feed:
        """The doughs for so many packs, by the policy chosen for the product, and how they are fed."""
        key = product.id, packs
        if key not in self._feeds:
            cut = split(product, packs, self.limits(product), self.policy[product.id])
            pace = fed_pace(self, product, cut.pieces)
            minutes = (MINUTES_PER_HOUR * pieces / pace for pieces in cut.pieces)
            divided = tuple(accumulate(minutes, initial=0.0))
            patterns = tuple(_pattern(need, divided) for need in self.needs[product.id])
            self._feeds[key] = Feed(cut, pace, divided, patterns)
        return self._feeds[key]


def _pattern(need: Need, divided: tuple[float, ...]) -> Pattern:
    """What a need takes of its pool for doughs divided at these times from the run's start."""
    stretches = []
    for first, last in pairwise(divided):
        begin = first - need.before_min
        length = max(need.length_min, last - begin) if need.empties else need.length_min
        stretches.append((begin, length))
    return Pattern(tuple(stretches), stretches[0][0], max(begin + length for begin, length in stretches))


def needs_of(scenario: Scenario, product: Product) -> tuple[Need, ...]:
    """What every dough of a product takes in the dough room; its mixer first, then its trough, then preparations."""
    line, mixing = scenario.line_of(product), product.mixing
    mixed = product.rest_min + mixing.cycle_min
    needs = [Need(mixing.station, mixed, mixing.cycle_min)]
    if product.trough:
        hold = product.trough.least_min
        turn = line.holder(product.trough.station).turn_round_min
        needs.append(Need(product.trough.station, hold, hold + turn, empties=True))
    for made, _ in scenario.preparations_in(product):
        cycle = made.mixing.cycle_min
        needs.append(Need(made.mixing.station, mixed + made.least_hold_min + cycle, cycle))
        if made.held:
            hold, turn = made.held.least_min, line.holder(made.held.station).turn_round_min
            needs.append(Need(made.held.station, mixed + hold, hold + turn))
    return tuple(needs)


def fed_pace(shop: Shop, product: Product, pieces: tuple[int, ...]) -> float:
    """Pace at which doughs of these sizes can be fed, pieces/h.

    With m units of a station, dough b + m takes the unit of dough b, so the m doughs between must feed the
    line for at least the time that the unit is taken. A trough by the divider is taken at least until its dough
    is divided, which leaves the m - 1 doughs after it to feed the line while the next one ferments.

    Raises
    ------
    InfeasibleError
        One trough alone cannot feed a divider without a break.
    """
    pace = shop.pace[product.id]
    for need in shop.needs[product.id]:
        units = len(shop.units(need.station))
        for first in range(len(pieces) - units):
            mean = sum(pieces[first : first + units]) / units
            pace = min(pace, batch_capacity(units, mean, need.length_min))
            if need.empties and need.before_min:
                others = sum(pieces[first + 1 : first + units])
                pace = min(pace, MINUTES_PER_HOUR * others / need.before_min)
    if pace <= 0:
        raise InfeasibleError(
            f"{product.name}: one {shop.units(shop.needs[product.id][1].station)[0]} alone cannot feed the divider "
            "without a break. Allowed: at least two, or one dough a run."
        )
    return pace


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
    stock = dict.fromkeys(shop.products, 0)
    pools = shop.pools()
    for demand in merged(sequence):
        wanted = demand.packs - stock[demand.product]
        stock[demand.product] = max(0, -wanted)
        if wanted <= 0:
            continue
        run = _place(shop, demand, wanted, runs, pools, exact)
        stock[demand.product] = run.split.surplus_packs
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
            batches=_batches(shop, shop.products[run.product], run),
            split=run.split,
            binding=_binding(shop, run, placed),
        )
        for number, run in enumerate(placed, start=1)
    )


def as_cut_runs(shop: Shop, placed: tuple[Placed, ...]) -> tuple[CutRun, ...]:
    """What the plan's runs give beside their own packs."""
    return tuple(
        CutRun(
            run=f"R{number}",
            product=beside.product,
            packs=beside.packs,
            first_pack_min=beside.first_pack_min,
            last_pack_min=beside.last_pack_min,
        )
        for number, run in enumerate(placed, start=1)
        for beside in cut_beside(shop, (run,))
    )


def _batches(shop: Shop, product: Product, run: Placed) -> tuple[Batch, ...]:
    return tuple(_batch(shop, product, number, slot) for number, slot in enumerate(run.slots, start=1))


def _batch(shop: Shop, product: Product, number: int, slot: Slot) -> Batch:
    used = iter(zip(shop.needs[product.id], slot.units, strict=True))

    def take() -> tuple[str, float]:
        need, unit = next(used)
        return shop.units(need.station)[unit], slot.divided - need.before_min

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


def _binding(shop: Shop, run: Placed, placed: tuple[Placed, ...]) -> Binding:
    if run.after is None:
        return Binding(kind=run.waits)
    before = f"R{run.after + 1}"
    if run.waits == "mixers":
        station = run.waits_at or shop.line.stations[0].id
        cleaned: tuple[Reason, ...] = shop.mixer_cleaning.get((station, placed[run.after].product, run.product), ())
        name = shop.line.station(station).name
        return Binding(kind="mixers", after=before, station=station, where=name, reasons=cleaned)
    pair = shop.headways[placed[run.after].product, run.product]
    return Binding(
        kind="headway",
        after=before,
        station=pair.station,
        where=shop.line.station(pair.station).name,
        gap_min=pair.gap.minutes,
        reasons=pair.gap.reasons,
    )
