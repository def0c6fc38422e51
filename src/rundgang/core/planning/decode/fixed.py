"""What no order moves, as arrays: runs that have begun or stay as planned, what they take, and what is closed."""

from collections.abc import Iterable, Iterator, Sequence
from typing import NamedTuple

import numpy as np

from rundgang.core.compiled import Floats, Records
from rundgang.core.materials import Draw, run_draws
from rundgang.core.planning.cut_runs import cut_runs
from rundgang.core.planning.decode.arrays import CLOSED, FIXED_RUN, KEPT, TIME, UNIT_USE, Fixed
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.model import FillingBatch, Run
from rundgang.core.products import Product
from rundgang.core.units import GRAMS_PER_KG


class _Taken(NamedTuple):
    """A unit taken from when to when, and by what class."""

    unit: int
    begin: float
    end: float
    class_: int


def fixed_arrays(shop: Shop, runs: Sequence[Run]) -> Fixed:
    """The arrays of runs that stay as they are, and of closed units."""
    times = np.ones((len(runs), shop.arrays.legs.shape[1]), TIME)
    for place, run in enumerate(runs):
        for leg, found in enumerate(run.legs):
            times[place, leg] = found.start_min, found.feed_min
    known = [(shop.place_of(run), run.packs, run.pieces, *_last_dough(shop, run)) for run in runs]
    used = tuple(_joined(use for run in runs for use in _uses(shop, run)))
    taken = sorted((*_closed(shop), *used))
    return Fixed(
        runs=np.array(known, dtype=FIXED_RUN),
        times=times,
        drawn=_drawn(shop, runs),
        kept=_kept(shop, runs, used),
        used=_used(shop, runs),
        taken=np.array([(use.unit, use.class_, use.begin, use.end) for use in taken], dtype=UNIT_USE),
    )


def _last_dough(shop: Shop, run: Run) -> tuple[int, int, float, float, float]:
    """A run's last dough, as `FIXED_RUN` has it; no pieces where it is another's rest."""
    product, batch = shop.scenario.product(run.product), run.batches[-1]
    begun = min(slot.start_min for slot in batch.slots)
    into = batch.discharged_min + product.mixing.rest_min
    trough = shop.unit(run.line, product.trough.station, batch.trough) if product.trough and batch.trough else -1
    return 0 if batch.shared else batch.pieces, trough, batch.divided_min, begun, into


def _joined(uses: Iterable[_Taken]) -> Iterator[_Taken]:
    """Stretches of a unit, those that overlap as one: what a run leaves for the next stays in its trough or tank."""
    known: _Taken | None = None
    for use in sorted(uses):
        if known and use.unit == known.unit and use.begin < known.end:
            known = known._replace(end=max(known.end, use.end))
            continue
        if known:
            yield known
        known = use
    if known:
        yield known


def _kept(shop: Shop, runs: Sequence[Run], used: Sequence[_Taken]) -> Records:
    """What runs leave of each filling, less what others have used of it: the last batch that went into a tank."""
    found = np.zeros(max(1, len(shop.scenario.preparations)), KEPT)
    found["by"] = -1
    for place, made in enumerate(shop.scenario.preparations):
        batches = [
            (batch.used_until_min, number, batch)
            for number, run in enumerate(runs)
            for batch in run.fillings
            if batch.preparation == made.id and batch.tank
        ]
        own = [one for one in batches if not one[2].kept]
        if not own or made.held is None:
            continue
        _, by, last = max(own, key=lambda one: one[:2])
        used_g = sum(batch.used_g for _, _, batch in batches if batch.is_of(last))
        free = max(until for until, _, batch in batches if batch.tank == last.tank)
        unit = shop.unit(runs[by].line, made.held.station, last.tank or "")
        begin = next(use.begin for use in used if use.unit == unit and use.begin <= last.mixed_min < use.end)
        kg = (last.grams - used_g) / GRAMS_PER_KG
        found[place] = by, unit, kg, begin, free, last.mixed_min + made.most_hold_min
    return found


def _used(shop: Shop, runs: Sequence[Run]) -> Floats:
    """What each run uses of fillings that others have left, by stream, kg."""
    found = np.zeros((len(runs), max((len(streams) for streams in shop.streams), default=1)))
    for place, run in enumerate(runs):
        for number, stream in enumerate(shop.streams[shop.place_of(run)][1:], start=1):
            assert stream.preparation is not None  # noqa: S101  (only doughs have none)
            own = (b.used_g for b in run.fillings if b.kept and b.preparation == stream.preparation.id)
            found[place, number] = sum(own) / GRAMS_PER_KG
    return found


def _drawn(shop: Shop, runs: Sequence[Run]) -> Records:
    """What the runs draw of the materials that bind."""
    if not shop.materials.stocks:
        return shop.materials.drawn(())
    shares, found = shop.materials.shares, list[Draw]()
    for line in shop.lines:
        own = [run for run in runs if run.line == line.id]
        cuts = {cut.run: cut for cut in cut_runs(shop.scenario, own)}
        found += [
            draw
            for run in own
            if shop.materials.binds(run.product)
            for draw in run_draws(shares, run, cuts.get(run.id))
        ]
    return shop.materials.drawn([(draw.item, draw.at_min, draw.amount) for draw in found])


def _closed(shop: Shop) -> Iterator[_Taken]:
    """When each unit is closed; closings that touch or overlap are one."""
    by_pool: dict[int, list[tuple[float, float]]] = {}
    for block in sorted(shop.scenario.blocks, key=lambda block: block.from_min):
        for line in shop.lines:
            called = shop.scenario.plant.called_on(line.id, block.at)
            pool = shop.pool_at.get(shop.key_of(line.id, called)) if called else None
            if pool is None:
                continue
            known = by_pool.setdefault(pool, [])
            if known and known[-1][1] >= block.from_min:
                known[-1] = known[-1][0], max(known[-1][1], block.to_min)
            else:
                known.append((block.from_min, block.to_min))
    for pool, stretches in by_pool.items():
        for unit in range(*shop.arrays.rooms.pools[pool].tolist()):
            for begin, end in stretches:
                yield _Taken(unit, begin, end, CLOSED)


def _uses(shop: Shop, run: Run) -> Iterator[_Taken]:
    """Every unit that a run takes."""
    own = shop.place_of(run)
    product = shop.products[own]
    line = shop.scenario.line_of(product)
    for batch in run.batches:
        if not batch.shared:
            mixer = shop.unit(line.id, product.mixing.station, batch.mixer)
            yield _Taken(mixer, batch.start_min, batch.discharged_min, own)
        if product.trough and batch.trough:
            into = batch.discharged_min + product.mixing.rest_min
            away = batch.divided_min + line.holder(product.trough.station).turn_round_min
            trough = shop.unit(line.id, product.trough.station, batch.trough)
            yield _Taken(trough, into, max(away, batch.last_piece_min), own)
        for slot in batch.preparations if not batch.shared else ():
            made = shop.scenario.preparation(slot.preparation)
            kettle = shop.unit(line.id, made.mixing.station, slot.mixer)
            yield _Taken(kettle, slot.start_min, slot.discharged_min, shop.class_of(made.id))
            if made.held and slot.position:
                into = slot.discharged_min + made.mixing.rest_min
                away = slot.used_min + line.holder(made.held.station).turn_round_min
                position = shop.unit(line.id, made.held.station, slot.position)
                yield _Taken(position, into, away, shop.class_of(made.id))
    yield from _filling_uses(shop, product, run.fillings)


def _filling_uses(shop: Shop, product: Product, fillings: Iterable[FillingBatch]) -> Iterator[_Taken]:
    """Every kettle, and every tank from its first batch until its last is used up and it is turned round."""
    tanks: dict[tuple[str, str], tuple[float, float]] = {}
    for batch in fillings:
        made = shop.scenario.preparation(batch.preparation)
        if not batch.kept:
            kettle = shop.unit(product.line, made.mixing.station, batch.kettle)
            yield _Taken(kettle, batch.start_min, batch.emptied_min, shop.class_of(made.id))
        if batch.tank:
            first, last = tanks.get((made.id, batch.tank), (batch.mixed_min, batch.used_until_min))
            tanks[made.id, batch.tank] = min(first, batch.mixed_min), max(last, batch.used_until_min)
    for (name, tank), (first, last) in tanks.items():
        made = shop.scenario.preparation(name)
        assert made.held is not None  # noqa: S101  (it stands in a tank)
        turn = shop.scenario.line(product.line).holder(made.held.station).turn_round_min
        unit = shop.unit(product.line, made.held.station, tank)
        yield _Taken(unit, first, last + turn, shop.class_of(made.id))
