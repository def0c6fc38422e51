"""Lorries: what each gets of a product, pack by pack from the oldest, and what is made beyond."""

import numpy as np

from rundgang.core.compiled import Floats, Ints, compiled, inner
from rundgang.core.planning.decode.arrays import WHOLE, Runs, ShopArrays

ON_TIME_MIN = 1e-6
"""A pack made this little after the lorry's loading ends is on time, min."""

WITHOUT_END = 2**62
"""More packs than any plan has."""

SHORT, LATE_MIN, STALE, READY, NEVER = range(5)
"""Columns of what a lorry gets: packs short, packs x minutes late, too old; when its last is made; never made."""


@inner
def _made_by(minute: float, first: float, feed: float, packs: int, low: int, high: int) -> int:
    """Number of the last pack made by a minute, of those numbered low + 1 to high; `low` where none is."""
    made = int(np.floor((minute - first) * packs / feed)) if feed > 0 else (packs if minute >= first else 0)
    return min(max(made, low), high)


@inner
def _made_before(minute: float, first: Floats, feed: Floats, packs: Ints) -> int:
    """Packs made too early for a lorry that wants none made before a minute."""
    made = 0
    if minute > -np.inf:
        for run in range(len(first)):
            made += _made_by(minute - ON_TIME_MIN, first[run], feed[run], packs[run], 0, packs[run])
    return made


@inner
def _load(
    lorry: int, departs: float, low: int, high: int, first: Floats, feed: Floats, packs: Ints, outcome: Floats
) -> int:  # fmt: skip
    """Load packs low + 1 to high onto a lorry, as far as they are made, and write what it gets; how many they are."""
    before, loaded = 0, 0
    for run in range(len(first)):
        begin, end = max(low - before, 0), min(high - before, packs[run])
        if begin < end:
            on_time = _made_by(departs + ON_TIME_MIN, first[run], feed[run], packs[run], begin, end)
            late = end - on_time
            outcome[lorry, SHORT] += late
            if late:
                numbers = late * (on_time + 1 + end) / 2
                outcome[lorry, LATE_MIN] += late * (first[run] - departs) + feed[run] / packs[run] * numbers
            outcome[lorry, READY] = first[run] + feed[run] * end / packs[run]
            loaded += end - begin
        before += packs[run]
    return loaded


@compiled
def serve(
    departs: Floats, wanted: Ints, fresh: Floats, good: Floats, first: Floats, feed: Floats, packs: Ints,
    window: float, outcome: Floats,
) -> None:  # fmt: skip
    """What every lorry gets of one product, pack by pack from the oldest: into `outcome`, shape (lorries, 5).

    Pack i of P leaves a run at first + feed i / P. A pack belongs to the first lorry whose demand it fills, and for
    which it is fresh enough. One that is too old for a lorry only because a customer asks for fresher ones is passed
    over and stays for later lorries; one that the product's own age rules out is thrown away, for it is too old for all
    of them. A pack that is never made is late to the window's end.

    Parameters
    ----------
    departs, wanted, fresh, good : array, shape (lorries,)
        By departure: until when it can be loaded, its packs, and from when they must be made to be fresh for it, and to
        be good for anyone, min.
    first, feed, packs : array, shape (runs,)
        By first pack.
    """
    left = np.empty((1 + int((fresh > good).sum()), 2), np.int64)
    left[0, 0], left[0, 1], parts = 0, WITHOUT_END, 1
    for lorry in range(len(departs)):
        too_old = _made_before(good[lorry], first, feed, packs)
        passed = _made_before(fresh[lorry], first, feed, packs) if fresh[lorry] > good[lorry] else too_old
        for column in range(outcome.shape[1]):
            outcome[lorry, column] = np.nan if column == READY else 0.0
        for part in range(parts):
            low = min(max(too_old, left[part, 0]), left[part, 1])
            outcome[lorry, STALE] += low - left[part, 0]
            left[part, 0] = low
        missing, reached, part = wanted[lorry], 0, 0
        while missing > 0:
            low = max(passed, left[part, 0])
            high = min(low + missing, left[part, 1])
            if low < high:
                reached += _load(lorry, departs[lorry], low, high, first, feed, packs, outcome)
                missing -= high - low
                parts += _taken(left, parts, part, low, high)
            part += 1
        never = wanted[lorry] - reached
        outcome[lorry, SHORT] += never
        outcome[lorry, LATE_MIN] += never * max(0.0, window - departs[lorry])
        outcome[lorry, NEVER] = never
        if never:
            outcome[lorry, READY] = np.nan


@inner
def _taken(left: Ints, parts: int, part: int, low: int, high: int) -> int:
    """Take packs low + 1 to high out of a part of what is left; 1 where some are left before and some behind them."""
    begin, end = left[part, 0], left[part, 1]
    if begin == low:
        left[part, 0] = high
        return 0
    left[part, 1] = low
    if high == end:
        return 0
    for later in range(parts, part + 1, -1):
        left[later, 0], left[later, 1] = left[later - 1, 0], left[later - 1, 1]
    left[part + 1, 0], left[part + 1, 1] = high, end
    return 1


@inner
def gives(shop: ShopArrays, runs: Runs, run: int, delivered: int) -> tuple[int, float, float]:
    """Packs that a run gives of something delivered, when the first comes and for how long; -1 where it gives none."""
    made = runs.of[run]
    product = shop.products[made.product]
    if product.article == delivered:
        time = runs.times[run, product.legs - 1]
        return made.packs, time.start + product.tail, time.feed
    if product.cut_of == delivered:
        time = runs.times[run, product.cut_leg]
        packs = int(np.floor(made.pieces / product.cut_ratio + WHOLE))
        return packs, time.start + product.cut_tail, time.feed
    return -1, 0.0, 0.0


@compiled
def serve_all(shop: ShopArrays, runs: Runs, count: int) -> tuple[float, float, float, float]:
    """Packs short, packs x minutes late and packs too old of all lorries, each by its weight, and packs in surplus.

    The surplus counts what is mixed for itself; what is cut out follows its parent and is none.
    """
    short, late, stale, surplus = 0.0, 0.0, 0.0, 0.0
    many = len(shop.dues)
    room = count + len(shop.lots)
    first, feed, packs = np.empty(room), np.empty(room), np.empty(room, np.int64)
    departs, wanted, weight = np.empty(many), np.empty(many, np.int64), np.empty(many)
    fresh, good = np.empty(many), np.empty(many)
    outcome = np.empty((many, 5))
    for delivered in range(shop.delivered):
        giving = given_by(shop, runs, count, delivered, first, feed, packs)
        due = 0
        for place in range(many):
            if shop.dues[place].product == delivered:
                departs[due], wanted[due] = shop.dues[place].departs, shop.dues[place].packs
                fresh[due], good[due] = shop.dues[place].fresh, shop.dues[place].good
                weight[due] = shop.dues[place].weight
                due += 1
        serve(
            departs[:due], wanted[:due], fresh[:due], good[:due], first[:giving], feed[:giving], packs[:giving],
            shop.window, outcome,
        )  # fmt: skip
        for place in range(due):
            short += weight[place] * outcome[place, SHORT]
            late += weight[place] * outcome[place, LATE_MIN]
            stale += outcome[place, STALE]
        if delivered < len(shop.products):
            surplus += packs[:giving].sum()
            for place in range(due):
                surplus -= wanted[place] - outcome[place, NEVER]
    return short, late, stale, surplus


@inner
def given_by(
    shop: ShopArrays, runs: Runs, count: int, delivered: int, first: Floats, feed: Floats, packs: Ints
) -> int:  # fmt: skip
    """Write what gives packs of something, by its first pack; how many there are."""
    giving = 0
    for lot in range(len(shop.lots)):
        if shop.lots[lot].product == delivered:
            first[giving], feed[giving], packs[giving] = shop.lots[lot].made, 0.0, shop.lots[lot].packs
            giving += 1
    for run in range(count):
        many, begin, lasts = gives(shop, runs, run, delivered)
        if many < 0:
            continue
        place = giving
        while place > 0 and first[place - 1] > begin:
            first[place], feed[place], packs[place] = first[place - 1], feed[place - 1], packs[place - 1]
            place -= 1
        first[place], feed[place], packs[place] = begin, lasts, many
        giving += 1
    return giving
