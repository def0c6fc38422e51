"""Stores: how full each is with the runs that go through it, and from when a run finds room."""

from rundgang.core.compiled import Records, inner
from rundgang.core.planning.decode.arrays import WHOLE, Runs, ShopArrays, State

LEAST_STEP_MIN = 0.25
"""A run that finds its store full is put off by so much at least, min."""


@inner
def fit_legs(shop: ShopArrays, p: int, pieces: int, state: State) -> None:
    """Slow legs where a store asks for it, and say how long each may start behind the one before.

    With u and v the feeding times of the legs before and behind a store, the first piece waits at least
    max(0, u - v) beyond the least hold, or the last would leave too soon; and at most slack - max(0, v - u), or the
    last would wait too long. A run that fills more than the store (A > 1) leaves in time: u and v differ so little
    that it never overfills, and the first piece waits no longer than until the store is full.
    `state.settling` says how long each leg is fed by itself; that is changed where one must follow another.
    """
    legs = shop.products[p].legs
    for leg in range(legs - 1, 0, -1):
        ahead = state.settling[leg - 1]
        ahead.feed = max(ahead.feed, _least_feed(shop.legs[p, leg], pieces, state.settling[leg].feed))
    for leg in range(1, legs):
        boundary, settling = shop.legs[p, leg], state.settling[leg]
        u = state.settling[leg - 1].feed
        v = settling.feed = max(settling.feed, _least_feed(boundary, pieces, u))
        if boundary.store < 0:
            waits = boundary.waits * (u / (60.0 * pieces) - 1.0 / boundary.pace)
            settling.low = settling.high = boundary.span + waits
            continue
        settling.low = boundary.span + max(0.0, u - v)
        settling.high = boundary.span + boundary.slack - max(0.0, v - u)
        full = pieces * boundary.share
        if full > 1.0:
            longest = min(u / full, u - v * (1.0 - 1.0 / full)) - boundary.hold
            settling.high = max(settling.low, min(settling.high, boundary.span + longest))


@inner
def _least_feed(boundary: Records, pieces: int, other: float) -> float:
    """The shortest feeding time of one leg at a boundary, given that of the other one, min."""
    if boundary.store < 0:
        return other
    least = other - boundary.slack
    full = pieces * boundary.share
    if full > 1.0:
        least = max(least, other * (1.0 - 1.0 / full) + boundary.hold)
    return float(min(least, other))


@inner
def _inside(at: float, stand: Records) -> float:
    """Share of a run that stands in a store at a moment: what has come in less what has left and is turned round."""
    came = min(max((at - stand.enter) / stand.feed, 0.0), 1.0)
    gone = min(max((at - stand.exit) / stand.leave, 0.0), 1.0)
    return float(came - gone)


@inner
def _stay(shop: ShopArrays, q: int, leg: int, before: float, start: float) -> tuple[float, float]:
    """Entry of a run into a store and exit from it, turn-round included, min, by the starts of its two legs."""
    entry = before + shop.legs[q, leg].entry
    least_exit = entry + shop.legs[q, leg].hold
    return entry, least_exit + (start - before - shop.legs[q, leg].span)


@inner
def _stand(shop: ShopArrays, runs: Runs, run: int, leg: int, stand: Records) -> None:
    """Write how a run stands in the store before a leg."""
    of = runs.of[run]
    before, start = runs.times[run, leg - 1], runs.times[run, leg]
    stand.enter, stand.exit = _stay(shop, of.product, leg, before.start, start.start)
    stand.feed, stand.leave, stand.share = before.feed, start.feed, of.pieces * shop.legs[of.product, leg].share


@inner
def store_delay(shop: ShopArrays, runs: Runs, count: int, p: int, leg: int, state: State) -> float:
    """By how much a run must wait until a store has room for it beside the others, min.

    The run at hand stands in `runs` at `count`, not yet counted.
    """
    store, stands = shop.legs[p, leg].store, state.stands
    own = stands[0]
    _stand(shop, runs, count, leg, own)
    many = 1
    for run in range(count, -1, -1):
        q = runs.of[run].product
        for other in range(1, shop.products[q].legs):
            if shop.legs[q, other].store != store or (run == count and other == leg):
                continue
            stand = stands[many]
            _stand(shop, runs, run, other, stand)
            if stand.enter < own.exit + own.leave and own.enter < stand.exit + stand.leave:
                many += 1
    delay, pace = 0.0, own.share / own.feed
    for probe in range(many):
        for corner in range(4):
            at = stands[probe].enter + stands[probe].feed * (corner == 1)
            if corner >= 2:
                at = stands[probe].exit + stands[probe].leave * (corner == 3)
            if own.share * _inside(at, own) <= WHOLE:
                continue
            full = 0.0
            for one in range(many):
                full += stands[one].share * _inside(at, stands[one])
            if full > 1.0 + WHOLE:
                delay = max(delay, (full - 1.0) / pace, LEAST_STEP_MIN)
    return delay
