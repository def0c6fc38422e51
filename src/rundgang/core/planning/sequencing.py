"""The order of runs on one line by their headways alone: the heart of every plan, and small enough to prove.

Run j starts when every run before it has its headway:

    S_j = max(release_j, max over i before j of S_i + h(i, j)),

and gives its last piece at S_j + tail_j. What is sought is the order of least cost: minutes late against the
due times, minutes at the divider above feeding, and the end of the last run, each at its price. Up to
`EVERY_ORDER_UP_TO` runs are tried in every order, cutting off what cannot become better; a makespan is
proved by a circuit over the headways; all else is annealed.
"""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import NamedTuple

import numpy as np
from ortools.sat.python import cp_model

from rundgang.core.compiled import Floats, Ints, compiled, inner

EVERY_ORDER_UP_TO = 9
"""As many runs as are tried in every order."""

ROUND = 60_000
"""Orders tried in the first round of annealing; later rounds grow by a half, up to `LONGEST_ROUND`."""

LONGEST_ROUND = 1_500_000

THREADS = 2
"""Rounds annealed side by side, each with a seed of its own."""

CIRCUIT_SCALE = 1_000
"""Headways are whole numbers in the circuit: thousandths of a minute."""

TRIANGLE_SLACK = 1e-9


class Sequencing(NamedTuple):
    """One line's runs, to be put in order.

    Attributes
    ----------
    feed : array of float, shape (n,)
        Feeding time of each run, min.
    headway : array of float, shape (n, n)
        Least time from the start of the row's run to the start of the column's, min.
    tail : array of float, shape (n,)
        From a run's start to its last piece out, min.
    release : array of float, shape (n,)
        Earliest start, min.
    due : array of float, shape (n,)
        When the last piece is due; infinite where it does not matter, min.
    per_minute_late, per_minute_idle, per_minute_end : float
        What a minute late costs; one at the divider beyond feeding, between first start and last; and one of
        the last piece out.
    """

    feed: Floats
    headway: Floats
    tail: Floats
    release: Floats
    due: Floats
    per_minute_late: float = 0.0
    per_minute_idle: float = 0.0
    per_minute_end: float = 0.0


class Sequenced(NamedTuple):
    """An order of runs, what it costs, and what every order costs at least.

    Attributes
    ----------
    order : tuple of int
        The runs' numbers, first to last.
    starts : tuple of float
        When each starts, in that order, min.
    evaluated : int
        Orders tried; 0 where a circuit proved the best.
    """

    order: tuple[int, ...]
    starts: tuple[float, ...]
    cost: float
    bound: float
    evaluated: int

    @property
    def proved(self) -> bool:
        """Whether no order is better."""
        return self.cost <= self.bound * (1 + 1e-9) + 1e-6


Stop = Callable[[int], bool]
"""Told the orders tried so far after every round; True ends the search."""


def makespan(headway: Floats, tail: Floats) -> Sequencing:
    """The problem of the earliest end, nothing else."""
    count = len(tail)
    return Sequencing(np.zeros(count), headway, tail, np.zeros(count), np.full(count, np.inf), per_minute_end=1.0)


def solve(problem: Sequencing, stop: Stop, seed: int = 0) -> Sequenced:
    """The best order found before `stop` says so; proved best where that can be done.

    Parameters
    ----------
    problem : Sequencing
    stop : callable
    seed : int
        Of the random moves; the same seed and number of rounds give the same order.
    """
    count = len(problem.feed)
    if count == 0:
        return Sequenced((), (), 0.0, 0.0, 0)
    if count <= EVERY_ORDER_UP_TO:
        order, tried = _every_order(problem)
        return _result(problem, order, _cost(problem, order), tried)
    if not problem.per_minute_late and not problem.per_minute_idle and not problem.release.any():
        return _shortest(problem, _annealed(problem, stop_after(1), seed))
    return _annealed(problem, stop, seed)


def stop_after(orders: int) -> Stop:
    """Stop once so many orders were tried."""
    return lambda tried: tried >= orders


def _result(problem: Sequencing, order: Ints, bound: float, tried: int) -> Sequenced:
    starts = start_times(problem, order)
    return Sequenced(tuple(int(run) for run in order), tuple(map(float, starts)), _cost(problem, order), bound, tried)


@compiled
def start_times(problem: Sequencing, order: Ints) -> Floats:
    """When each run of an order starts, min."""
    starts = np.empty(len(order))
    for place in range(len(order)):
        run = order[place]
        start = problem.release[run]
        for before in range(place):
            start = max(start, starts[before] + problem.headway[order[before], run])
        starts[place] = start
    return starts


@compiled
def _cost(problem: Sequencing, order: Ints) -> float:
    return float(_cost_of(problem, order, start_times(problem, order)))


@inner
def _cost_of(problem: Sequencing, order: Ints, starts: Floats) -> float:
    late, end, feed = 0.0, 0.0, 0.0
    for place in range(len(order)):
        run = order[place]
        out = starts[place] + problem.tail[run]
        late += max(0.0, out - problem.due[run])
        end = max(end, out)
        feed += problem.feed[run]
    last = len(order) - 1
    idle = starts[last] + problem.feed[order[last]] - starts[0] - feed
    return float(problem.per_minute_late * late + problem.per_minute_idle * idle + problem.per_minute_end * end)


@compiled
def _every_order(problem: Sequencing) -> tuple[Ints, int]:
    """Depth first through all orders; a beginning that already costs more than the best is not continued."""
    count = len(problem.feed)
    order, starts = np.zeros(count, np.int64), np.zeros(count)
    late, end = np.zeros(count + 1), np.zeros(count + 1)
    tried_at, used = np.zeros(count, np.int64), np.zeros(count, np.bool_)
    best, least, tried, place = np.arange(count), np.inf, 0, 0
    while place >= 0:
        if tried_at[place] > 0:
            used[tried_at[place] - 1] = False
        run = tried_at[place]
        while run < count and used[run]:
            run += 1
        if run == count:
            tried_at[place] = 0
            place -= 1
            continue
        tried_at[place] = run + 1
        used[run] = True
        order[place] = run
        start = problem.release[run]
        for before in range(place):
            start = max(start, starts[before] + problem.headway[order[before], run])
        starts[place] = start
        out = start + problem.tail[run]
        late[place + 1] = late[place] + max(0.0, out - problem.due[run])
        end[place + 1] = max(end[place], out)
        if place == count - 1:
            tried += 1
            cost = _cost_of(problem, order, starts)
            if cost < least:
                least = cost
                best = order.copy()
            continue
        if problem.per_minute_late * late[place + 1] + problem.per_minute_end * end[place + 1] < least:
            place += 1
    return best, tried


def _annealed(problem: Sequencing, stop: Stop, seed: int) -> Sequenced:
    """Rounds of annealing, two at a time, each from the best so far, until told to stop."""
    best = np.lexsort((np.arange(len(problem.feed)), problem.due))
    least = _cost(problem, best)
    neighbours_suffice = holds_triangle(problem.headway, problem.feed)
    tried, number, length = 0, 0, ROUND
    bound = brute_bound(problem)
    with ThreadPoolExecutor(THREADS) as threads:
        while True:
            seeds = [seed * 1_000_003 + number * THREADS + thread for thread in range(THREADS)]
            rounds = [threads.submit(_anneal, problem, best, one, length, neighbours_suffice) for one in seeds]
            for found, cost in [one.result() for one in rounds]:
                if cost < least - 1e-9:
                    best, least = found, cost
            tried, number = tried + THREADS * length, number + 1
            length = min(length * 3 // 2, LONGEST_ROUND)
            if least <= bound + 1e-9 or stop(tried):
                return _result(problem, best, bound, tried)


def holds_triangle(headway: Floats, feed: Floats) -> bool:
    """Whether the headway of two runs with a third between them is kept by that third one's own: no need to ask."""
    through = np.min(headway[:, :, None] + headway[None, :, :], axis=1)
    return bool(np.all(headway <= through + TRIANGLE_SLACK))


@compiled
def _anneal(problem: Sequencing, begin: Ints, seed: int, tries: int, neighbours_suffice: bool) -> tuple[Ints, float]:
    """Move runs about; keep what is no worse, and what is worse the less often the cooler it gets."""
    np.random.seed(seed % 2_147_483_647)
    count = len(begin)
    here = begin.copy()
    starts = start_times(problem, here)
    cost = _cost_of(problem, here, starts)
    best, least = here.copy(), cost
    order, moved = here.copy(), starts.copy()
    warm = max(cost * 0.02, 1.0)
    cold = max(cost * 1e-5, 1e-3)
    cooling = (cold / warm) ** (1.0 / tries)
    heat = warm
    for _ in range(tries):
        heat *= cooling
        first = change(here, order)
        for place in range(first):
            order[place], moved[place] = here[place], starts[place]
        for place in range(first, count):
            run = order[place]
            start = problem.release[run]
            if neighbours_suffice:
                if place:
                    start = max(start, moved[place - 1] + problem.headway[order[place - 1], run])
            else:
                for before in range(place):
                    start = max(start, moved[before] + problem.headway[order[before], run])
            moved[place] = start
        new = _cost_of(problem, order, moved)
        if new <= cost or np.random.random() < np.exp((cost - new) / heat):
            here[:], starts[:] = order, moved
            cost = new
            if cost < least - 1e-9:
                least = cost
                best[:] = here
    return best, least


@compiled
def change(here: Ints, order: Ints) -> int:
    """Write a small change of an order into `order`: a swap, or a run or stretch moved; the first place changed."""
    count = len(here)
    kind = np.random.randint(0, 3)
    one = np.random.randint(0, count)
    other = np.random.randint(0, count - 1)
    if other >= one:
        other += 1
    if kind == 0:
        order[:] = here
        order[one], order[other] = here[other], here[one]
        return min(one, other)
    length = 1 if kind == 1 else np.random.randint(2, 5)
    length = min(length, count - max(one, other))
    if one < other:
        cut, into = one, other
        stretch = other - one
        for step in range(count):
            order[step] = here[step]
        for step in range(stretch):
            order[cut + step] = here[cut + length + step]
        for step in range(length):
            order[into + step] = here[cut + step]
        return cut
    for step in range(count):
        order[step] = here[step]
    for step in range(length):
        order[other + step] = here[one + step]
    for step in range(one - other):
        order[other + length + step] = here[other + step]
    return other


def brute_bound(problem: Sequencing) -> float:
    """What every order costs at least, min: from feeding and headways alone.

    Late: the k-th last piece comes no earlier than k least feeds after the first release and the least tail
    beyond feeding; against the k-th due time in order, which no pairing undercuts. Idle: every run but the
    last has a follower, none nearer than its nearest. End: all feeds, and the least tail beyond.
    """
    beyond = problem.tail - problem.feed
    ready = float(problem.release.min() + beyond.min())
    out = ready + np.cumsum(np.sort(problem.feed))
    late = float(np.maximum(out - np.sort(problem.due), 0.0).sum())
    above = problem.headway - problem.feed[:, None]
    np.fill_diagonal(above := above.copy(), np.inf)
    nearest = np.sort(above.min(axis=1))
    idle = max(0.0, float(nearest[:-1].sum())) if len(nearest) > 1 else 0.0
    return problem.per_minute_late * late + problem.per_minute_idle * idle + problem.per_minute_end * float(out[-1])


def _shortest(problem: Sequencing, found: Sequenced) -> Sequenced:
    """The earliest end, by a circuit: from a depot through every run and back, as long as headways and the last tail.

    The circuit asks neighbours only, so its length is a bound; where the headways hold the triangle it is
    the earliest end itself.
    """
    count = len(problem.feed)
    model = cp_model.CpModel()
    arcs, costs = [], []
    hinted = {(before, after) for before, after in zip((count, *found.order), (*found.order, count), strict=True)}

    def arc(before: int, after: int, minutes: float) -> None:
        literal = model.new_bool_var(f"{before} before {after}")
        model.add_hint(literal, (before, after) in hinted)
        arcs.append((before, after, literal))
        costs.append(round(minutes * CIRCUIT_SCALE) * literal)

    for run in range(count):
        arc(count, run, 0.0)
        arc(run, count, float(problem.tail[run]))
        for after in range(count):
            if run != after:
                arc(run, after, float(problem.headway[run, after]))
    model.add_circuit(arcs)
    model.minimize(sum(costs))
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = THREADS
    solver.parameters.max_time_in_seconds = 60
    solver.solve(model)
    follows = {before: after for before, after, literal in arcs if solver.boolean_value(literal)}
    order, run = [], follows[count]
    while run != count:
        order.append(run)
        run = follows[run]
    proved = solver.best_objective_bound / CIRCUIT_SCALE * problem.per_minute_end
    return _result(problem, np.array(order, dtype=np.int64), proved, found.evaluated)
