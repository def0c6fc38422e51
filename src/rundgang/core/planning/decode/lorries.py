"""Lorries: what each gets of a product, pack by pack from the oldest, and what is made beyond."""

import numpy as np

from rundgang.core.compiled import Floats, Ints, compiled, inner
from rundgang.core.planning.decode.arrays import WHOLE, Runs, ShopArrays

ON_TIME_MIN = 1e-6
"""A pack made this little after the lorry's loading ends is on time, min."""

SHORT, LATE_MIN, STALE, READY, NEVER = range(5)
"""Columns of what a lorry gets: packs short, packs x minutes late, too old; when its last is made; never made."""


@inner
def _made_by(minute: float, first: float, feed: float, packs: int, low: int, high: int) -> int:
    """Number of the last pack made by a minute, of those numbered low + 1 to high; `low` where none is."""
    made = int(np.floor((minute - first) * packs / feed)) if feed > 0 else (packs if minute >= first else 0)
    return min(max(made, low), high)


@compiled
def serve(
    departs: Floats, wanted: Ints, fresh: Floats, first: Floats, feed: Floats, packs: Ints, window: float,
    outcome: Floats,
) -> None:  # fmt: skip
    """What every lorry gets of one product, pack by pack from the oldest: into `outcome`, shape (lorries, 5).

    Pack i of P leaves a run at first + feed i / P. A pack belongs to the first lorry whose demand it fills; one
    that is too old for a lorry is thrown away, for it is too old for all later ones as well. A pack that is never
    made is late to the window's end.

    Parameters
    ----------
    departs, wanted, fresh : array, shape (lorries,)
        By departure: until when it can be loaded, its packs, and from when they must be made, min.
    first, feed, packs : array, shape (runs,)
        By first pack.
    """
    given = 0
    for lorry in range(len(departs)):
        old = 0
        if fresh[lorry] > -np.inf:
            for run in range(len(first)):
                old += _made_by(fresh[lorry] - ON_TIME_MIN, first[run], feed[run], packs[run], 0, packs[run])
        stale = max(0, old - given)
        low = given + stale
        before, reached, short, late_min, ready = 0, 0, 0, 0.0, np.nan
        for run in range(len(first)):
            begin = max(low - before, 0)
            end = min(low + wanted[lorry] - before, packs[run])
            if begin < end:
                on_time = _made_by(departs[lorry] + ON_TIME_MIN, first[run], feed[run], packs[run], begin, end)
                late = end - on_time
                short += late
                if late:
                    numbers = late * (on_time + 1 + end) / 2
                    late_min += late * (first[run] - departs[lorry]) + feed[run] / packs[run] * numbers
                ready = first[run] + feed[run] * end / packs[run]
                reached += end - begin
            before += packs[run]
        never = wanted[lorry] - reached
        outcome[lorry, SHORT] = short + never
        outcome[lorry, LATE_MIN] = late_min + never * max(0.0, window - departs[lorry])
        outcome[lorry, STALE] = stale
        outcome[lorry, READY] = ready if never == 0 else np.nan
        outcome[lorry, NEVER] = never
        given = low + wanted[lorry]


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
    departs, wanted, fresh, weight = np.empty(many), np.empty(many, np.int64), np.empty(many), np.empty(many)
    outcome = np.empty((many, 5))
    for delivered in range(shop.delivered):
        giving = given_by(shop, runs, count, delivered, first, feed, packs)
        due = 0
        for place in range(many):
            if shop.dues[place].product == delivered:
                departs[due], wanted[due] = shop.dues[place].departs, shop.dues[place].packs
                fresh[due], weight[due] = shop.dues[place].fresh, shop.dues[place].weight
                due += 1
        serve(
            departs[:due], wanted[:due], fresh[:due], first[:giving], feed[:giving], packs[:giving], shop.window,
            outcome,
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
