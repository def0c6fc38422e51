"""The order of the lots: a simple rule, then small changes kept while they are no worse.

The rule puts the earliest lorry first and, within it, the product already on the line, then the one
that can follow soonest. The search moves one lot elsewhere or swaps two, keeps what is no worse, and
stops when the caller says so. Few enough lots are simply tried in every order, which proves the best.
"""

from collections.abc import Callable
from itertools import permutations
from math import factorial
from random import Random
from typing import NamedTuple

from rundgang.core.errors import InfeasibleError
from rundgang.core.planning.decode import Shop, decode
from rundgang.core.planning.lots import Lot, lots_of
from rundgang.core.planning.plan import Plan, Run, Score, WaveOutcome
from rundgang.core.planning.score import outcomes, score
from rundgang.core.products import OddBatch
from rundgang.core.scenario import Scenario


class Progress(NamedTuple):
    """How far a search has come: orders tried, and how many of them since the last better one."""

    evaluated: int
    since_better: int


StopCriterion = Callable[[Progress], bool]

EVERY_ORDER_UP_TO = 120
"""As many orders as are tried one and all instead of searched: five lots."""

RULE = "earliest lorry first; for the same lorry the product on the line, then the one that can follow soonest"


def after_evaluations(most: int, idle: int) -> StopCriterion:
    """Stop after so many orders in all, or so many in a row without a better one."""
    return lambda progress: progress.evaluated >= most or progress.since_better >= idle


THOROUGH_ENOUGH = after_evaluations(most=400, idle=150)
"""The stop criterion when none is given: the same seed gives the same plan on every machine."""


class _Tried(NamedTuple):
    sequence: tuple[Lot, ...]
    runs: tuple[Run, ...]
    waves: tuple[WaveOutcome, ...]
    score: Score


def first_order(shop: Shop, lots: tuple[Lot, ...]) -> tuple[Lot, ...]:
    """The rule's order of the lots."""
    left = list(lots)
    order: list[Lot] = []
    while left:
        lorry = min(lot.departs_min for lot in left)
        before = order[-1].product if order else None
        chosen = min(
            (lot for lot in left if lot.departs_min == lorry),
            key=lambda lot: (lot.product != before, _beyond(shop, before, lot.product)),
        )
        left.remove(chosen)
        order.append(chosen)
    return tuple(order)


def _beyond(shop: Shop, before: str | None, product: str) -> float:
    pair = shop.headways.get((before, product)) if before else None
    return pair.beyond_feed_min if pair else 0.0


def make_plan(
    scenario: Scenario,
    line_id: str,
    *,
    seed: int = 0,
    stop: StopCriterion = THOROUGH_ENOUGH,
    odd_batch: dict[str, OddBatch] | None = None,
) -> Plan:
    """Plan one line's horizon.

    Parameters
    ----------
    scenario : Scenario
        What is to be made, and where.
    line_id : str
        The line.
    seed : int
        Of the search's random moves.
    stop : callable
        Told the progress before every try; True ends the search.
    odd_batch : dict of str to OddBatch, optional
        Choices for the odd last batch, by product, that differ from the products' own.

    Raises
    ------
    UnknownItemError
        No such line.
    InfeasibleError
        No legal plan exists in any order that was tried; the message says why.
    """
    shop = Shop(scenario, line_id, odd_batch)
    lots = lots_of(scenario, line_id)
    start = first_order(shop, lots)
    if factorial(len(lots)) <= EVERY_ORDER_UP_TO:
        best, tried = _every_order(shop, lots, start)
        rule = f"{RULE}; then every order of the {len(lots)} lots tried: proved best"
    else:
        best, tried = _improve(shop, lots, start, Random(seed), stop)  # noqa: S311  (a search, not a secret)
        rule = f"{RULE}; then {tried - 1} changes tried, each kept if no worse"
    return Plan(line=line_id, rule=rule, evaluated=tried, runs=best.runs, waves=best.waves, score=best.score)


def _try(shop: Shop, lots: tuple[Lot, ...], sequence: tuple[Lot, ...]) -> _Tried:
    runs = decode(shop, sequence)
    waves = outcomes(lots, runs)
    return _Tried(sequence, runs, waves, score(runs, waves))


def _every_order(shop: Shop, lots: tuple[Lot, ...], start: tuple[Lot, ...]) -> tuple[_Tried, int]:
    best, why = None, None
    orders = list(permutations(start))
    for order in orders:
        try:
            tried = _try(shop, lots, order)
        except InfeasibleError as error:
            why = why or error
            continue
        if best is None or tried.score.key < best.score.key:
            best = tried
    if best is None:
        raise why or InfeasibleError("No order of the lots is possible.")
    return best, len(orders)


def _improve(
    shop: Shop, lots: tuple[Lot, ...], start: tuple[Lot, ...], random: Random, stop: StopCriterion
) -> tuple[_Tried, int]:
    best = _try(shop, lots, start)
    tried, since_better = 1, 0
    while not stop(Progress(tried, since_better)):
        tried += 1
        since_better += 1
        try:
            candidate = _try(shop, lots, _changed(best.sequence, random))
        except InfeasibleError:
            continue
        if candidate.score.key < best.score.key:
            since_better = 0
        if candidate.score.key <= best.score.key:
            best = candidate
    return best, tried


def _changed(sequence: tuple[Lot, ...], random: Random) -> tuple[Lot, ...]:
    order = list(sequence)
    here, there = random.sample(range(len(order)), 2)
    if random.random() < 0.5:
        order[here], order[there] = order[there], order[here]
    else:
        order.insert(there, order.pop(here))
    return tuple(order)
