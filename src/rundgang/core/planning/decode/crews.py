"""Crews: people who go where they are needed, counted over all lines."""

from collections.abc import Sequence

import numpy as np

from rundgang.core.compiled import Records, compiled, inner
from rundgang.core.planning.decode.arrays import SAME_MOMENT_MIN, WHOLE, Runs, ShopArrays, State
from rundgang.core.planning.legs import Passage
from rundgang.core.scenario import Scenario

LEAST_WAIT_MIN = 0.01
"""A run that finds no people free is put off by so much at least, min."""


def crew_uses(scenario: Scenario, passages: Sequence[Passage]) -> list[tuple[int, int, int, int, float, float]]:
    """The people that a product's passages need, as `CREW_USE` has it."""
    crews, found = [crew.id for crew in scenario.plant.crews], []
    for stop, owner in passages:
        station = scenario.line_of(owner).station(stop.station)
        if station.staffed:
            go_leg, go = stop.leg, stop.offset_min + stop.dwell_min
            if stop.splits:
                go_leg, go = stop.leg + 1, -station.transfer_min
            use = station.staffed
            found.append((crews.index(use.crew), stop.leg, go_leg, use.people, stop.offset_min, go))
    return found


@inner
def at_work(use: Records, times: Records) -> tuple[float, float]:
    """From when to when a run needs people, min, by the times of its legs."""
    come, go = times[use.come_leg], times[use.go_leg]
    return come.start + use.come, go.start + go.feed + use.go


@inner
def begin_people(shop: ShopArrays, state: State) -> int:
    """Count those who are away as at work elsewhere; how many stretches there are then."""
    for place in range(len(shop.absences)):
        state.people[place] = shop.absences[place]
    return len(shop.absences)


@inner
def add_people(shop: ShopArrays, runs: Runs, run: int, state: State, taken: int) -> int:
    """Count a run's people as at work; how many stretches there are then."""
    p, times = runs.of[run].product, runs.times[run]
    for need in range(shop.products[p].first_use, shop.products[p].end_use):
        state.people[taken].crew, state.people[taken].people = shop.uses[need].crew, shop.uses[need].people
        state.people[taken].come, state.people[taken].go = at_work(shop.uses[need], times)
        taken += 1
    return taken


@inner
def crew_delay(shop: ShopArrays, runs: Runs, run: int, state: State, taken: int) -> tuple[float, int]:
    """By how much a run must wait for people, min, and of which crew; 0 where all it needs are free."""
    p, times = runs.of[run].product, runs.times[run]
    for need in range(shop.products[p].first_use, shop.products[p].end_use):
        crew, size = shop.uses[need].crew, shop.crew_size[shop.uses[need].crew]
        begin, end = at_work(shop.uses[need], times)
        beside = 0
        for other in range(taken):
            if state.people[other].crew == crew and state.people[other].come < end and begin < state.people[other].go:
                state.near[beside] = other
                beside += 1
        for probe in range(-1, beside):
            at = begin if probe < 0 else max(begin, state.people[state.near[probe]].come)
            people, frees = 0.0, np.inf
            for own in range(shop.products[p].first_use, shop.products[p].end_use):
                come, go = at_work(shop.uses[own], times)
                if shop.uses[own].crew == crew and come <= at < go:
                    people += shop.uses[own].people
            for place in range(beside):
                other = state.near[place]
                if state.people[other].come <= at < state.people[other].go:
                    people += state.people[other].people
                    frees = min(frees, state.people[other].go)
            if people > size + WHOLE and frees < np.inf:
                return max(frees - begin, LEAST_WAIT_MIN), crew
    return 0.0, -1


@compiled
def crew_peak(state: State, away: int, taken: int, crews: int) -> float:
    """People at work at once at most, all crews together, each at its own peak; those who are away are none.

    Parameters
    ----------
    away, taken : int
        Stretches of people away, which stand first, and of all.
    """
    working, taken = state.people[away:taken], taken - away
    comes, goes = np.empty(taken), np.empty(taken)
    for place in range(taken):
        comes[place], goes[place] = working[place].come, working[place].go
    arrive, leave = np.argsort(comes), np.argsort(goes)
    now, peak = np.zeros(crews), np.zeros(crews)
    left = 0
    for place in range(taken):
        come = arrive[place]
        while left < taken and goes[leave[left]] <= comes[come] + SAME_MOMENT_MIN:
            now[working[leave[left]].crew] -= working[leave[left]].people
            left += 1
        crew = working[come].crew
        now[crew] += working[come].people
        peak[crew] = max(peak[crew], now[crew])
    return float(peak.sum())
