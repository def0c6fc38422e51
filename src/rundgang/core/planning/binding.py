"""What keeps each run of a line from starting a moment earlier: asked of every rule in turn."""

from collections.abc import Iterator, Sequence

from rundgang.core.kinds.operation import Reason
from rundgang.core.planning.arrays import LineShop, Taken
from rundgang.core.planning.headway import cleaning, splits_at
from rundgang.core.planning.kernel import Outside
from rundgang.core.planning.model import Binding
from rundgang.core.planning.runs import Placed, takes

A_MOMENT_MIN = 0.02
"""So much earlier a run is tried, min."""


def bindings(shop: LineShop, runs: Sequence[Placed], outside: Outside, taken: Taken) -> tuple[Binding, ...]:
    """What binds each run, in their order."""
    busy = _busy(shop, runs, outside)
    return tuple(_binding(shop, runs, place, outside, taken, busy) for place in range(len(runs)))


Stretches = dict[int, list[tuple[float, float, int, int]]]
"""By unit: from when to when it is taken, by which product (-1 closed), and by which run (-1 another line's)."""


def _busy(shop: LineShop, runs: Sequence[Placed], outside: Outside) -> Stretches:
    found: Stretches = {}
    for unit, begin, end, kind in zip(
        outside.taken_unit.tolist(),
        outside.taken_begin.tolist(),
        outside.taken_end.tolist(),
        outside.taken_class.tolist(),
        strict=True,
    ):
        found.setdefault(unit, []).append((begin, end, kind, -1))
    for place, run in enumerate(runs):
        for unit, begin, length in _stretches(shop, run):
            found.setdefault(unit, []).append((begin, begin + length, shop.index[run.product.id], place))
    return found


def _stretches(shop: LineShop, run: Placed) -> Iterator[tuple[int, float, float]]:
    for slot in run.slots:
        for need, unit in zip(shop.needs[run.product.id], slot.units, strict=True):
            begin = slot.divided - need.before_min
            yield unit, begin, max(need.length_min, slot.last - begin) if need.empties else need.length_min


def _binding(
    shop: LineShop, runs: Sequence[Placed], place: int, outside: Outside, taken: Taken, busy: Stretches
) -> Binding:
    run = runs[place]
    if run.head.pinned_min is not None and run.start_min <= run.head.pinned_min + A_MOMENT_MIN:
        return Binding(kind="pin")
    if run.start_min <= shop.data.lead[shop.index[run.product.id]] + A_MOMENT_MIN:
        return Binding(kind="opening")
    fresh = max(part.fresh_from_min for part in run.parts)
    slack = _slack(shop, run)
    if run.start_min + slack + shop.data.transit[shop.index[run.product.id]] <= fresh + A_MOMENT_MIN:
        return Binding(kind="freshness")
    return (
        _headway(shop, runs, place)
        or _closed(shop, run, outside, taken)
        or _units(shop, run, place, runs, busy)
        or _people_or_room(shop, run, place, runs, taken)
    )


def _headway(shop: LineShop, runs: Sequence[Placed], place: int) -> Binding | None:
    """The station at which a run before it leaves no white."""
    run, closest = runs[place], None
    held = run.extra_hold_min if run.extra_hold_min < _slack(shop, run) - A_MOMENT_MIN else None
    entries = {passage.stop.station: passage for passage in shop.passages[run.product.id]}
    for index in range(place):
        before = runs[index]
        for stop, owner in shop.passages[before.product.id]:
            if stop.station not in entries:
                continue
            mine, behind = entries[stop.station]
            if mine.leg and held is not None:
                continue
            needed = shop.gap(stop.station, owner, behind)
            stays = shop.data.store[shop.index[before.product.id]] >= 0 and needed.empties
            leaves = stop.leg or (stays and splits_at(before.product, stop.station))
            last_in = before.start_min + before.feed_min + stop.offset_min + (before.extra_hold_min if leaves else 0)
            enters = run.start_min + mine.offset_min + (run.extra_hold_min if mine.leg else 0)
            spare = enters - last_in - needed.minutes
            if spare < A_MOMENT_MIN and (closest is None or spare < closest[0]):
                closest = (spare, index, stop.station, needed)
    if closest is None:
        return None
    _, index, station, needed = closest
    return Binding(
        kind="headway",
        after=f"R{index + 1}",
        station=station,
        where=shop.line.station(station).name,
        gap_min=needed.minutes,
        reasons=needed.reasons,
    )


def _slack(shop: LineShop, run: Placed) -> float:
    return shop.slack_min(run.product, run.scaled_per_h, run.feed_min)


def _closed(shop: LineShop, run: Placed, outside: Outside, taken: Taken) -> Binding | None:
    """The block, or the other line's run, that ends where this one starts."""
    product = shop.index[run.product.id]
    for window in range(int(outside.window_from[product]), int(outside.window_from[product + 1])):
        starts = run.start_min + (run.extra_hold_min if outside.window_leg[window] else 0)
        if abs(float(outside.window_high[window]) - starts) > A_MOMENT_MIN:
            continue
        for passage in shop.passages[run.product.id]:
            enters = starts + passage.stop.offset_min
            for block in shop.scenario.blocks:
                if abs(block.to_min - enters) <= A_MOMENT_MIN and block.station == passage.stop.station:
                    return Binding(
                        kind="block",
                        station=block.station,
                        where=shop.line.station(passage.stop.station).name,
                        gap_min=block.to_min - block.from_min,
                        reasons=(Reason(what=block.reason, minutes=block.to_min - block.from_min),),
                    )
            shared = shop.scenario.plant.shared_as(shop.line.id, passage.stop.station)
            if shared and any(other.shared == shared.id for other in taken.stations):
                return Binding(kind="shared", station=passage.stop.station, where=shared.name)
    return None


def _units(shop: LineShop, run: Placed, place: int, runs: Sequence[Placed], busy: Stretches) -> Binding | None:
    """The mixers or troughs of which none is free a moment earlier."""
    kind = shop.index[run.product.id]
    for slot in run.slots:
        for need in shop.needs[run.product.id]:
            pool = shop.pools.index(shop.pool(need.station))
            begin = slot.divided - need.before_min
            length = max(need.length_min, slot.last - begin) if need.empties else need.length_min
            blocking = []
            for unit in range(int(shop.data.unit_from[pool]), int(shop.data.unit_from[pool + 1])):
                found = _in_the_way(shop, pool, busy.get(unit, []), begin - A_MOMENT_MIN, length, kind, place)
                if found is None:
                    break
                blocking.append(found)
            else:
                _, other, by = max(blocking)
                after = runs[by].product if by >= 0 else None
                reasons = (
                    cleaning(shop.scenario, shop.line.station(need.station).changeover, after, run.product)
                    if after
                    else ()
                )
                name = shop.line.station(need.station).name
                if other < 0:
                    return Binding(kind="block", station=need.station, where=name)
                before = f"R{by + 1}" if by >= 0 else None
                return Binding(kind="mixers", after=before, station=need.station, where=name, reasons=reasons)
    return None


def _in_the_way(
    shop: LineShop,
    pool: int,
    stretches: list[tuple[float, float, int, int]],
    begin: float,
    length: float,
    kind: int,
    place: int,
) -> tuple[float, int, int] | None:
    """What another run has of a unit in a stretch of time: its end, its product, and that run."""
    cleaned = shop.data.cleaning[pool]
    for starts, ends, other, by in stretches:
        if by == place:
            continue
        after = cleaned[other, kind] if other >= 0 else 0.0
        before = cleaned[kind, other] if other >= 0 else 0.0
        if starts - before < begin + length - 1e-9 and begin < ends + after - 1e-9:
            return ends, other, by
    return None


def _people_or_room(shop: LineShop, run: Placed, place: int, runs: Sequence[Placed], taken: Taken) -> Binding:
    """What is left: people at work elsewhere, a full store, or nothing but the order."""
    after = f"R{place}" if place else None
    others = [
        *taken.crews,
        *(work for n, other in enumerate(runs) if n != place for work in takes(shop, (other,)).crews),
    ]
    wanted = takes(shop, (run,)).crews
    for work in wanted:
        size = next(crew.people for crew in shop.scenario.plant.crews if crew.id == work.crew)
        begin = work.begin - A_MOMENT_MIN
        at_work = [*others, *(other for other in wanted if other is not work)]
        there = sum(o.people for o in at_work if o.crew == work.crew and o.begin <= begin < o.end)
        if there + work.people > size:
            name = next(crew.name for crew in shop.scenario.plant.crews if crew.id == work.crew)
            return Binding(kind="crew", after=after, where=name)
    product = shop.index[run.product.id]
    if shop.data.store[product] >= 0 and any(shop.data.store[shop.index[r.product.id]] >= 0 for r in runs[:place]):
        station = run.product.piece_steps[run.product.store_place or 0].station
        return Binding(kind="store", after=after, station=station, where=shop.line.station(station).name)
    return Binding(kind="order", after=after)
