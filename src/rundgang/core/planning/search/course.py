"""The course of a search: each line apart, its bound, then all that share something together, and around each other."""

from collections.abc import Iterable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from itertools import groupby, takewhile
from math import inf

from rundgang.core.planning.bound import is_timed
from rundgang.core.planning.search.annealing import BETTER
from rundgang.core.planning.search.apart import laid_together, lines_apart
from rundgang.core.planning.search.around import laid_back, line_around
from rundgang.core.planning.search.cooling import (
    APART_EPOCHS,
    AROUND_EPOCHS,
    FIRST_AROUND,
    HOT_EPOCHS,
    Round,
    rounds,
)
from rundgang.core.planning.search.groups import Group
from rundgang.core.planning.search.stopping import Progress, StopCriterion, Watcher

ISLAND_SEED, EPOCH_SEED = 104_729, 15_485_863
"""What sets the random moves of islands apart, and those of lines around the others from epoch to epoch."""

BEGINNINGS_A_SECOND, BEGINNINGS_AT_ONCE = 15_000, 5_000
"""Of each line's orders, that are branched over for a second to be spent on the bound, on every machine; in pieces."""


RELAXED_AT_LEAST, RELAXED_A_SECOND = 10_000, 10_000
"""Beginnings of a line's relaxation that are looked at, and more for a second to be spent on the bound."""

EXCHANGED = 8
"""After so many epochs islands tell each other the best order: before that each goes its own way."""

LAID_AFTER = 10_000
"""Orders of lines apart, before they are laid together for the first time."""


class Course:
    """How far the search of some groups has come, who is told, and how many orders are tried at once."""

    def __init__(self, groups: Sequence[Group], stop: StopCriterion, watch: Watcher | None, threads: int) -> None:
        self.groups, self.stop, self.watch, self.at_once = groups, stop, watch, threads
        self.evaluated, self.since_better = len(groups), 0
        self.cost = self._cost()

    def _cost(self) -> float:
        return sum(group.cost for group in self.groups)

    def tried(self, orders: int) -> None:
        """Count orders tried."""
        self.evaluated, self.since_better = self.evaluated + orders, self.since_better + orders
        cost = self._cost()
        if cost < self.cost - BETTER:
            self.since_better = 0
        self.cost = cost

    def ends(self) -> bool:
        """Tell how far it is; whether that is enough."""
        bound = sum(group.bound for group in self.groups)
        progress = Progress(self.evaluated, self.since_better, self.cost, min(bound, self.cost))
        if self.watch:
            told = self.watch(progress, lambda: {group.name: group.ordered for group in self.groups}) or {}
            for group in self.groups:
                group.adopt(told.get(group.name, ()))
        return all(group.done for group in self.groups) or self.stop(progress)


def run(course: Course, seed: int, effort: float) -> int:
    """Search until told to stop, each line apart at first, then those together that share something; orders tried.

    Parameters
    ----------
    effort : float
        To be spent on the bound, s, of all lines together.
    """
    if course.ends():
        return course.evaluated
    apart = {group: lines_apart(group) or (group,) for group in course.groups}
    lone = [own for lines in apart.values() for own in lines]
    with ThreadPoolExecutor(course.at_once) as threads:
        ended = _circuits([own for own in lone if not is_timed(own.shop)], effort, course)
        ended = ended or _apart(threads, apart, seed, course)
        if not ended or all(own.done for own in lone):
            ended = _proved(threads, [own for own in lone if is_timed(own.shop)], effort, course)
        for group, lines in apart.items():
            group.bound = min(group.cost, max(group.bound, sum(own.bound for own in lines)))
        most = max((len(own.listed) for own in lone), default=0)
        epochs = groupby(rounds(0, by_itself=len(lone) == len(apart), items=most), key=lambda now: now.epoch)
        together = partial(_together, threads, apart, seed + EPOCH_SEED, course, dict[Group, float]())
        ended = ended or together(takewhile(lambda epoch: epoch[0] < FIRST_AROUND, epochs))
        ended = ended or _branched(threads, lone, effort, course)
        if not (ended or course.ends()):
            together(epochs)
    return course.evaluated


def _apart(
    threads: ThreadPoolExecutor, apart: Mapping[Group, Sequence[Group]], seed: int, course: Course
) -> bool:  # fmt: skip
    """Each line by itself, then laid together; whether the course ended before that.

    Where many lines take long for that, they are laid together after earlier epochs too.
    """
    lone, laid = [own for lines in apart.values() for own in lines], course.evaluated
    for epoch, its_rounds in groupby(rounds(HOT_EPOCHS, by_itself=True), key=lambda now: now.epoch):
        if epoch == APART_EPOCHS:
            return False
        ended = _search(threads, lone, seed, its_rounds, course)
        if ended or epoch == APART_EPOCHS - 1 or course.evaluated > laid + LAID_AFTER:
            laid = course.evaluated
            for group, lines in apart.items():
                if group not in lines:
                    group.try_from(*laid_together(group, lines))
                    course.tried(1)
        if ended or course.ends():
            return True
    return False


def _together(
    threads: ThreadPoolExecutor,
    apart: Mapping[Group, Sequence[Group]],
    seed: int,
    course: Course,
    settled: dict[Group, float],
    epochs: Iterable[tuple[int, Iterable[Round]]],
) -> bool:
    """Each group as one list, an epoch at a time; after an epoch that found something, each line around the others.

    Parameters
    ----------
    settled : dict of Group to float
        What a group cost when its lines had last been searched around each other, points; written.
    """
    for epoch, its_rounds in epochs:
        if _search(threads, tuple(apart), seed, its_rounds, course):
            return True
        for group, lines in apart.items():
            if epoch < FIRST_AROUND - 1 or group.done or group.cost > settled.get(group, inf) - BETTER:
                continue
            if _line_by_line(threads, group, lines, seed + epoch * EPOCH_SEED, course):
                return True
            settled[group] = group.cost
    return False


def _line_by_line(
    threads: ThreadPoolExecutor, group: Group, lines: Sequence[Group], seed: int, course: Course
) -> bool:  # fmt: skip
    """Each line of a group around the others, one after another; whether the course ended before that."""
    for line in lines if len(lines) > 1 else ():
        own, mine = line_around(group, line, course.at_once)
        ahead = takewhile(lambda now: now.epoch < AROUND_EPOCHS, rounds(0))
        ended = _search(threads, [own], seed, ahead, course)
        for order, alone in laid_back(group, own, mine):
            group.try_from(order, alone)
            course.tried(1)
        if ended or course.ends():
            return True
    return False


def _branched(threads: ThreadPoolExecutor, lone: Sequence[Group], effort: float, course: Course) -> bool:
    """Go on through all orders of each line that has few enough; whether the course ended before that."""
    for _ in range(round(effort * BEGINNINGS_A_SECOND / BEGINNINGS_AT_ONCE)):
        open_ones = [own for own in lone if own.branching and not own.done]
        work = [threads.submit(own.branch, BEGINNINGS_AT_ONCE) for own in open_ones]
        course.tried(sum(one.result() for one in work))
        if course.ends():
            return True
    for own in lone:
        own.exchange()
    return False


def _circuits(lone: Sequence[Group], effort: float, course: Course) -> bool:
    """Prove what lines cost at least on which nothing can be late, in so many seconds; whether the course ended then.

    Lines of few items first: what of their share they leave is for the others. The solver needs no good order to begin
    with, and often ends the search.
    """
    left = sorted((own for own in lone if not own.done), key=lambda own: len(own.listed)) if effort else []
    for place, own in enumerate(left):
        effort = max(0.0, effort - own.prove_circuit(effort / (len(left) - place)))
        course.tried(0)
        if course.ends():
            return True
    return False


def _proved(threads: ThreadPoolExecutor, lone: Sequence[Group], effort: float, course: Course) -> bool:
    """Prove what each line costs at least, the same on every machine; whether the course ended then."""
    most = RELAXED_AT_LEAST + round(effort * RELAXED_A_SECOND)
    for work in [threads.submit(own.prove, most) for own in lone]:
        work.result()
    course.tried(0)
    return course.ends()


def _search(
    threads: ThreadPoolExecutor, groups: Sequence[Group], seed: int, ahead: Iterable[Round], course: Course
) -> bool:
    """Round by round, all islands of all groups side by side; whether the course ended before the rounds."""
    for now in ahead:
        work = [
            threads.submit(group.round, island, seed + island * ISLAND_SEED, now)
            for group in groups
            if not group.done
            for island in range(len(group.islands))
        ]
        orders = sum(one.result() for one in work)
        for group in groups if now.ends else ():
            if now.epoch % EXCHANGED == EXCHANGED - 1:
                group.exchange()
        course.tried(orders)
        if course.ends():
            return True
    return False
