"""The order of the lots: a simple rule, then small changes kept while they are no worse.

The rule puts the earliest lorry first and, within it, the product already on the line, then the one
that can follow soonest. The search moves lots and runs about, keeps what is no worse, leaps where it is
stuck, and stops when the caller says so. Few enough lots are simply tried in every order, which proves
the best.
"""

from collections.abc import Callable
from itertools import groupby, permutations
from math import factorial
from random import Random
from typing import NamedTuple

from rundgang.core.errors import InfeasibleError
from rundgang.core.planning.decode import Demand, Placed, beyond_horizon, cut_beside, decode, merged
from rundgang.core.planning.lots import Lot, lots_of
from rundgang.core.planning.plan import Plan, Score, WaveOutcome
from rundgang.core.planning.runs import as_cut_runs, as_runs
from rundgang.core.planning.score import outcomes, score
from rundgang.core.planning.shop import Shop
from rundgang.core.products import OddBatch
from rundgang.core.scenario import Scenario


class Progress(NamedTuple):
    """How far a search has come: orders tried, and how many of them since the last better one."""

    evaluated: int
    since_better: int


StopCriterion = Callable[[Progress], bool]

EVERY_ORDER_UP_TO = 120
"""As many orders as are tried one and all instead of searched: five lots."""

PATIENCE = 40
"""Changes tried without gain before the search leaps."""

LEAP = 3
"""Changes made at once in a leap."""

NEAR = 12
"""So many places away a lot is moved at most: a lorry of another day is far, and nothing is gained there."""

RULE = "earliest lorry first; for the same lorry the product on the line, then the one that can follow soonest"


def after_evaluations(most: int, idle: int) -> StopCriterion:
    """Stop after so many orders in all, or so many in a row without a better one."""
    return lambda progress: progress.evaluated >= most or progress.since_better >= idle


THOROUGH_ENOUGH = after_evaluations(most=1_000, idle=500)
"""The stop criterion when none is given: the same seed gives the same plan on every machine."""


class _Tried(NamedTuple):
    sequence: tuple[Lot, ...]
    runs: tuple[Placed, ...]
    waves: tuple[WaveOutcome, ...]
    score: Score
    beyond_horizon: float

    @property
    def key(self) -> tuple[float, ...]:
        """For comparing: a plan that ends in time before one that does not, then by its score."""
        return (self.beyond_horizon, *self.score.key)


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
        A product's dough cannot be divided in time, or no order tried ends within the horizon.
    """
    shop = Shop(scenario, line_id, odd_batch)
    lots = lots_of(scenario, line_id)
    start = first_order(shop, tuple(lot for lot in lots if lot.product in shop.products))
    if factorial(len(start)) <= EVERY_ORDER_UP_TO:
        best, tried = _every_order(shop, lots, start)
        rule = f"{RULE}; then every order of the {len(start)} lots tried: proved best"
    else:
        best, tried = _improve(shop, lots, start, Random(seed), stop)  # noqa: S311  (a search, not a secret)
        rule = f"{RULE}; then {tried - 1} changes tried, small ones kept if no worse"
    if best.beyond_horizon > 0:
        raise InfeasibleError(
            f"The last pack would come {best.beyond_horizon:.0f} min after the horizon ends, in the best order found. "
            "Allowed: fewer packs, a longer horizon, or a faster line."
        )
    placed = decode(shop, best.sequence, exact=True)
    runs = as_runs(shop, placed)
    return Plan(
        line=line_id,
        rule=rule,
        evaluated=tried,
        runs=runs,
        cut_runs=as_cut_runs(shop, placed),
        waves=best.waves,
        score=best.score,
    )


def _try(shop: Shop, lots: tuple[Lot, ...], sequence: tuple[Lot, ...]) -> _Tried:
    runs = decode(shop, sequence)
    everything = runs + cut_beside(shop, runs)
    waves = outcomes(lots, everything)
    parts = score(runs, waves, frozenset(shop.cut_outs.values()))
    return _Tried(sequence, runs, waves, parts, beyond_horizon(shop, everything))


def _every_order(shop: Shop, lots: tuple[Lot, ...], start: tuple[Lot, ...]) -> tuple[_Tried, int]:
    tried = [_try(shop, lots, order) for order in permutations(start)]
    return min(tried, key=lambda one: one.key), len(tried)


def _improve(
    shop: Shop, lots: tuple[Lot, ...], start: tuple[Lot, ...], random: Random, stop: StopCriterion
) -> tuple[_Tried, int]:
    """Keep changes that are no worse; when nothing has helped for a while, leap from the best and go on."""
    best = here = _try(shop, lots, start)
    seen: dict[tuple[Demand, ...], _Tried] = {}
    tried, since_better, stuck = 1, 0, 0
    while not stop(Progress(tried, since_better)):
        leap = stuck >= PATIENCE
        order = best.sequence if leap else here.sequence
        for _ in range(LEAP if leap else 1):
            order = _changed(order, random)
        tried, since_better, stuck = tried + 1, since_better + 1, 0 if leap else stuck + 1
        runs = tuple(merged(order))
        if runs not in seen:
            seen[runs] = _try(shop, lots, order)
        candidate = seen[runs]._replace(sequence=order)
        if candidate.key < here.key:
            stuck = 0
        if leap or candidate.key <= here.key:
            here = candidate
        if candidate.key < best.key:
            best, since_better = candidate, 0
    return best, tried


def _changed(sequence: tuple[Lot, ...], random: Random) -> tuple[Lot, ...]:
    """One small change: swap two lots, move one, move a whole run, or bring a lot to its own product."""
    order = list(sequence)
    here = random.randrange(len(order))
    near = [place for place in range(here - NEAR, here + NEAR + 1) if place != here and 0 <= place < len(order)]
    there = random.choice(near)
    kind = random.randrange(4)
    if kind == 0:
        order[here], order[there] = order[there], order[here]
        return tuple(order)
    if kind == 1:
        order.insert(there, order.pop(here))
        return tuple(order)
    if kind == 2:
        runs = [list(group) for _, group in groupby(order, key=lambda lot: lot.product)]
        moved = runs.pop(random.randrange(len(runs)))
        runs.insert(random.randrange(len(runs) + 1), moved)
        return tuple(lot for run in runs for lot in run)
    lot = order.pop(here)
    own = [place for place, other in enumerate(order) if other.product == lot.product]
    order.insert(random.choice(own) + random.randrange(2) if own else there, lot)
    return tuple(order)
