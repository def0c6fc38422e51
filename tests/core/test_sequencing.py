"""One line's order of runs: published makespans, brute force, and what a bound must be."""

from itertools import permutations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from rundgang.core.planning.sequencing import (
    Sequencing,
    brute_bound,
    holds_triangle,
    makespan,
    solve,
    start_times,
    stop_after,
)

LARGEST = 2_147_483_647
PUBLISHED = (
    (20, 873654221, 1486),
    (20, 379008056, 1528),
    (20, 1866992158, 1460),
    (20, 216771124, 1588),
    (20, 495070989, 1449),
    (20, 402959317, 1481),
    (20, 1369363414, 1483),
    (20, 2021925980, 1482),
    (20, 573109518, 1469),
    (20, 88325120, 1377),
    (50, 1328042058, 3160),
)
"""Runs, seed of the generator and best known no-wait makespan on five machines: É. Taillard, EJOR 64 (1993)."""


def taillard(runs: int, machines: int, seed: int) -> np.ndarray[tuple[int, int], np.dtype[np.float64]]:
    """Processing times of the published generator, machine by machine."""
    times = np.zeros((machines, runs))
    for machine in range(machines):
        for run in range(runs):
            seed = 16_807 * (seed % 127_773) - 2_836 * (seed // 127_773)
            seed += LARGEST if seed < 0 else 0
            times[machine, run] = 1 + int(seed / LARGEST * 99)
    return times


def no_wait(times: np.ndarray[tuple[int, int], np.dtype[np.float64]]) -> Sequencing:
    """The no-wait flow shop's delays as headways: a station holds one run at a time."""
    done = np.cumsum(times, axis=0)
    headway = (done[:, :, None] - (done - times)[:, None, :]).max(axis=0)
    return makespan(headway, done[-1])


@pytest.mark.parametrize(("runs", "seed", "best"), PUBLISHED)
def test_published_no_wait_makespans_are_reached_and_proved(runs: int, seed: int, best: int) -> None:
    found = solve(no_wait(taillard(runs, 5, seed)), stop_after(1))
    assert found.cost == pytest.approx(best)
    assert found.proved


def test_two_machines_without_waiting_against_brute_force() -> None:
    """S. M. Johnson 1954 may let runs wait between two machines, so his makespan is never longer (from memory)."""
    times = taillard(8, 2, 873654221)
    found = solve(no_wait(times), stop_after(1))
    early = sorted((j for j in range(8) if times[0, j] < times[1, j]), key=lambda j: float(times[0, j]))
    later = sorted((j for j in range(8) if times[0, j] >= times[1, j]), key=lambda j: -float(times[1, j]))
    first = second = 0.0
    for job in (*early, *later):
        first += times[0, job]
        second = max(first, second) + times[1, job]
    assert second <= found.cost <= min(span(times, order) for order in permutations(range(8))) + 1e-9


def span(times: np.ndarray[tuple[int, int], np.dtype[np.float64]], order: tuple[int, ...]) -> float:
    """Makespan of an order in which no run waits: each started as early as no machine holds two."""
    free = np.zeros(len(times))
    for job in order:
        entries = np.cumsum(times[:, job]) - times[:, job]
        start = float(np.max(free - entries))
        free = start + entries + times[:, job]
    return float(free[-1])


@st.composite
def problems(draw: st.DrawFn, most: int = 7) -> Sequencing:
    """Runs with due times; the headways need not hold the triangle."""
    count = draw(st.integers(1, most))
    minutes = st.integers(0, 60).map(float)
    feed = np.array(draw(st.lists(st.integers(5, 60).map(float), min_size=count, max_size=count)))
    beyond = np.array(draw(st.lists(st.lists(minutes, min_size=count, max_size=count), min_size=count, max_size=count)))
    rows = st.lists(minutes, min_size=count, max_size=count)
    return Sequencing(
        feed=feed,
        headway=feed[:, None] + beyond,
        tail=feed + np.array(draw(rows)),
        release=np.array(draw(rows)),
        due=np.array(draw(rows)) * 4,
        per_minute_late=draw(st.sampled_from([0.0, 10.0])),
        per_minute_idle=draw(st.sampled_from([0.0, 1.0])),
        per_minute_end=draw(st.sampled_from([0.0, 0.5])),
    )


def cost(problem: Sequencing, order: tuple[int, ...]) -> float:
    """What an order costs, written out run by run."""
    starts: list[float] = []
    for place, run in enumerate(order):
        ready = [starts[before] + problem.headway[order[before], run] for before in range(place)]
        starts.append(max([problem.release[run], *ready]))
    outs = [start + problem.tail[run] for start, run in zip(starts, order, strict=True)]
    late = sum(max(0.0, out - problem.due[run]) for out, run in zip(outs, order, strict=True))
    idle = starts[-1] + problem.feed[order[-1]] - starts[0] - problem.feed.sum()
    return float(problem.per_minute_late * late + problem.per_minute_idle * idle + problem.per_minute_end * max(outs))


@settings(max_examples=80, deadline=None)
@given(problem=problems())
def test_few_runs_equal_brute_force(problem: Sequencing) -> None:
    """Every order written out, one by one, against the search."""
    best = min(cost(problem, order) for order in permutations(range(len(problem.feed))))
    found = solve(problem, stop_after(1))
    assert found.cost == pytest.approx(best)
    assert cost(problem, found.order) == pytest.approx(found.cost)
    assert found.starts == pytest.approx(start_times(problem, np.array(found.order)).tolist())
    assert found.proved


@settings(max_examples=10, deadline=None)
@given(seed=st.integers(0, 1_000))
def test_nine_runs_with_due_times_equal_brute_force(seed: int) -> None:
    """All 362,880 orders, run by run for all of them at once."""
    random = np.random.default_rng(seed)
    feed = random.integers(20, 121, 9).astype(float)
    headway = (feed[:, None] + random.integers(0, 90, (9, 9))).astype(float)
    due = random.uniform(0, 1.25 * feed.sum(), 9) + 150
    problem = Sequencing(feed, headway, feed + 150, np.zeros(9), due, per_minute_late=10, per_minute_idle=1)
    orders = np.array(list(permutations(range(9))))
    starts = np.zeros(orders.shape)
    for place in range(1, 9):
        before = starts[:, :place] + headway[orders[:, :place], orders[:, place, None]]
        starts[:, place] = before.max(axis=1)
    late = np.maximum(starts + (feed + 150)[orders] - due[orders], 0).sum(axis=1)
    idle = starts[:, -1] + feed[orders[:, -1]] - feed.sum()
    assert solve(problem, stop_after(1)).cost == pytest.approx(float((10 * late + idle).min()))


@settings(max_examples=40, deadline=None)
@given(problem=problems(6))
def test_no_order_costs_less_than_the_brute_bound(problem: Sequencing) -> None:
    least = min(cost(problem, order) for order in permutations(range(len(problem.feed))))
    assert brute_bound(problem) <= least + 1e-6


@settings(max_examples=20, deadline=None)
@given(problem=problems(12))
def test_what_is_annealed_is_an_order_of_all_runs_with_its_true_cost(problem: Sequencing) -> None:
    found = solve(problem, stop_after(1), seed=3)
    assert sorted(found.order) == list(range(len(problem.feed)))
    assert found.cost == pytest.approx(cost(problem, found.order))
    assert found.bound <= found.cost + 1e-6


def test_the_triangle_is_asked_of_every_run_between() -> None:
    """A run that skips a station leaves its neighbours facing each other there: asking neighbours is not enough."""
    feed = np.array([10.0, 1.0, 10.0])
    headway = feed[:, None] + np.array([[0.0, 0.0, 90.0], [0.0, 0.0, 0.0], [0.0, 0.0, 0.0]])
    assert not holds_triangle(headway, feed)
    problem = Sequencing(feed, headway, feed, np.zeros(3), np.full(3, np.inf), per_minute_end=1.0)
    assert start_times(problem, np.array([0, 1, 2])).tolist() == [0.0, 10.0, 100.0]
