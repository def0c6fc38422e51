"""Streams: the batches that follow each other for a run, and the units that all of them take."""

import numpy as np

from rundgang.core.compiled import inner
from rundgang.core.planning.decode.arrays import Runs, ShopArrays, State
from rundgang.core.planning.decode.rests import kept_tank
from rundgang.core.planning.decode.units import give_back_units, own_batches, slots_of, take_units


@inner
def take_all(shop: ShopArrays, run: int, doughs: int, state: State, runs: Runs) -> tuple[float, int]:
    """Take units for all streams of a run; or, taking none, by how much it is too early, min, and for which pool."""
    product = shop.products[runs.of[run].product]
    first_slot = runs.of[run - 1].end_slot if run else 0
    slot = runs.of[run].first_slot = first_slot
    for stream in range(product.first_stream, product.end_stream):
        batches, room_min = batches_of(shop, run, stream, doughs, state, runs)
        start, tank = _stream_start(shop, run, stream, runs), kept_tank(shop, runs, run, stream, state)
        delay, pool = take_units(shop, state, stream, batches, tank, start, room_min, runs, slot)
        if delay > 0:
            give_back_all(shop, run, doughs, stream, state, runs)
            return delay, pool
        slot += slots_of(shop, stream, batches)
    runs.of[run].end_slot = slot
    return 0.0, -1


@inner
def _stream_start(shop: ShopArrays, run: int, stream: int, runs: Runs) -> float:
    """When the first batch of a stream is begun to be used, min."""
    return float(runs.times[run, shop.streams[stream].leg].start + shop.streams[stream].offset)


@inner
def give_back_all(shop: ShopArrays, run: int, doughs: int, until: int, state: State, runs: Runs) -> None:
    """Give back every unit that a run has taken for its streams before one."""
    slot = runs.of[run].first_slot
    for stream in range(shop.products[runs.of[run].product].first_stream, until):
        batches, room_min = batches_of(shop, run, stream, doughs, state, runs)
        many = slots_of(shop, stream, batches)
        start, tank = _stream_start(shop, run, stream, runs), kept_tank(shop, runs, run, stream, state)
        give_back_units(shop, state, stream, batches, tank, start, room_min, runs, slot, slot + many)
        slot += many


@inner
def batches_of(shop: ShopArrays, run: int, stream: int, doughs: int, state: State, runs: Runs) -> tuple[int, float]:
    """Write when each batch of a stream is begun to be used; how many there are, and how early a tank has room."""
    made, of = runs.of[run], shop.streams[stream]
    state.used[0] = 60.0 * made.shared / made.pace if of.ratio == 0 else 0.0
    if of.ratio == 0:
        for dough in range(doughs):
            state.used[dough + 1] = state.used[dough] + 60.0 * state.sizes[dough] / made.pace
        return doughs, np.inf
    feed = runs.times[run, of.leg].feed
    total, kept = made.pieces * of.ratio, runs.kept[run, stream - shop.products[made.product].first_stream]
    count, size = own_batches(shop, runs, run, stream)
    state.used[0] = kept / total * feed
    for batch in range(count):
        state.used[batch + 1] = min((kept + (batch + 1) * size) / total, 1.0) * feed
    return count, (of.keeps - size) / total * feed
