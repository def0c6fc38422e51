"""Materials that bind: what a run draws of them, and the delivery that it must wait for."""

import numpy as np

from rundgang.core.compiled import Records, inner
from rundgang.core.planning.decode.arrays import SAME_MOMENT_MIN, Fixed, Runs, ShopArrays, State
from rundgang.core.planning.decode.units import own_batches

CRUMB = 1e-6
"""A level this far below nothing comes from adding floats, kg or pieces."""


@inner
def begin_draws(fixed: Fixed, state: State) -> None:
    """Only what is fixed has been drawn."""
    state.draws[:] = 0
    for place in range(len(fixed.drawn)):
        drawn = fixed.drawn[place]
        _add(state, drawn.stock, drawn.at, drawn.amount)


@inner
def _add(state: State, stock: int, at: float, amount: float) -> None:
    """Put down a draw in its place by time."""
    drawn, place = state.drawn, state.draws[stock]
    while place > 0 and drawn[stock, place - 1].at > at:
        there, here = drawn[stock, place], drawn[stock, place - 1]
        there.at, there.amount = here.at, here.amount
        place -= 1
    new = drawn[stock, place]
    new.at, new.amount = at, amount
    state.draws[stock] += 1


@inner
def _put(own: Records, many: int, at: float, amount: float) -> int:
    """Put down one of a run's own draws in its place by time; how many there are then."""
    place = many
    while place > 0 and own[place - 1].at > at:
        own[place].at, own[place].amount = own[place - 1].at, own[place - 1].amount
        place -= 1
    own[place].at, own[place].amount = at, amount
    return many + 1


@inner
def _own(shop: ShopArrays, runs: Runs, run: int, doughs: int, stock: int, state: State) -> int:
    """Write what a run draws of one material, by time; how many draws that are."""
    made = runs.of[run]
    product = shop.products[made.product]
    many, fed = 0, 60.0 * made.pieces / made.pace
    for place in range(product.first_draw, product.end_draw):
        draw = shop.draws[place]
        if draw.stock != stock:
            continue
        if draw.stream >= 0:
            many = _of_filling(shop, runs, run, place, many, state)
            continue
        time, divided = runs.times[run, draw.leg], 0.0
        for dough in range(doughs):
            at = time.start + draw.offset + divided / fed * time.feed
            many = _put(state.own, many, at, state.sizes[dough] * draw.per_unit + draw.per_batch)
            divided += 60.0 * state.sizes[dough] / made.pace
    return many


@inner
def _of_filling(shop: ShopArrays, runs: Runs, run: int, place: int, many: int, state: State) -> int:
    """Write what the batches of a filling draw; how many draws there are then."""
    draw, of = shop.draws[place], shop.streams[shop.draws[place].stream]
    time, total = runs.times[run, of.leg], runs.of[run].pieces * of.ratio
    kept = runs.kept[run, draw.stream - shop.products[runs.of[run].product].first_stream]
    count, size = own_batches(shop, runs, run, draw.stream)
    for batch in range(count):
        at = time.start + of.offset + draw.offset + min((kept + batch * size) / total, 1.0) * time.feed
        many = _put(state.own, many, at, size * draw.per_unit + draw.per_batch)
    return many


@inner
def stock_delay(shop: ShopArrays, runs: Runs, run: int, doughs: int, state: State) -> tuple[float, int]:
    """By how much a run must wait for a delivery, min, and of which material; inf where none comes that is enough."""
    product = shop.products[runs.of[run].product]
    if product.first_draw == product.end_draw:
        return 0.0, -1
    for stock in range(shop.stocks):
        many = _own(shop, runs, run, doughs, stock, state)
        if many:
            delay = _wait(shop, stock, many, state)
            if delay > 0:
                return delay, stock
    return 0.0, -1


@inner
def _wait(shop: ShopArrays, stock: int, many: int, state: State) -> float:
    """How long a run's draws must be put off until there is always enough, min: to the next delivery at least.

    Where the level falls below nothing at a moment, the run's last draw until then must wait for what comes next:
    between the two nothing is added.
    """
    level, came, mine, others = 0.0, 0, 0, 0
    drawn = state.drawn[stock]
    while mine < many or others < state.draws[stock]:
        own = mine < many and (others >= state.draws[stock] or state.own[mine].at <= drawn[others].at)
        at = state.own[mine].at if own else drawn[others].at
        while came < len(shop.supplies) and shop.supplies[came].at <= at + SAME_MOMENT_MIN:
            level += shop.supplies[came].amount if shop.supplies[came].stock == stock else 0.0
            came += 1
        if own:
            level -= state.own[mine].amount
            mine += 1
        else:
            level -= drawn[others].amount
            others += 1
        if level < -CRUMB and mine > 0:
            for later in range(came, len(shop.supplies)):
                if shop.supplies[later].stock == stock:
                    return float(shop.supplies[later].at - state.own[mine - 1].at)
            return np.inf
    return 0.0


@inner
def draw_all(shop: ShopArrays, runs: Runs, run: int, doughs: int, state: State) -> None:
    """Put down what a run draws."""
    product = shop.products[runs.of[run].product]
    if product.first_draw == product.end_draw:
        return
    for stock in range(shop.stocks):
        for place in range(_own(shop, runs, run, doughs, stock, state)):
            _add(state, stock, state.own[place].at, state.own[place].amount)
