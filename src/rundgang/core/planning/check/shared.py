"""The check of what lines share: mixers, troughs, stations and crews, over the plans of all of them."""

from collections.abc import Iterator, Sequence
from itertools import combinations
from typing import NamedTuple

from rundgang.core.kinds.batch import BatchStation
from rundgang.core.kinds.held import HeldStation
from rundgang.core.planning.check.dirt import Dirt
from rundgang.core.planning.check.dough import Use, unit_faults, unit_uses
from rundgang.core.planning.check.line import Passage, empty_for, meeting_faults, overfull, share_of, walk
from rundgang.core.planning.check.violation import SLACK_MIN, Violation, fault
from rundgang.core.planning.model import LinePlan
from rundgang.core.plant import Shared
from rundgang.core.scenario import Scenario


class _Passing(NamedTuple):
    """A run of a line at a shared station, which that line calls so."""

    run: str
    line: str
    station: str
    passage: Passage


def shared_faults(dirt: Dirt, plans: Sequence[LinePlan]) -> Iterator[Violation]:
    """Everything that is wrong between lines."""
    scenario = dirt.scenario
    for shared in scenario.plant.shared:
        refs = {ref.line: ref.station for ref in shared.stations}
        sharing = [plan for plan in plans if plan.line in refs]
        yield from _unit_faults(dirt, shared, sharing, refs)
        yield from _meeting_faults(dirt, sharing, refs)
        yield from _store_faults(scenario, shared, sharing, refs)
    yield from _crew_faults(scenario, plans)


def _unit_faults(dirt: Dirt, shared: Shared, plans: list[LinePlan], refs: dict[str, str]) -> Iterator[Violation]:
    """Mixers by their names, troughs by their numbers, whichever line uses them."""
    scenario = dirt.scenario
    used: dict[str, list[Use]] = {}
    for plan in plans:
        if not isinstance(scenario.line(plan.line).station(refs[plan.line]), (BatchStation, HeldStation)):
            return
        name = scenario.line(plan.line).name
        for unit, uses in unit_uses(dirt, plan, refs[plan.line]).items():
            used.setdefault(unit, []).extend(use._replace(run=f"{use.run} of {name}") for use in uses)
    for unit, uses in used.items() if plans else ():
        yield from unit_faults(dirt, scenario.line(plans[0].line).station(refs[plans[0].line]), unit, uses)


def _meeting_faults(dirt: Dirt, plans: list[LinePlan], refs: dict[str, str]) -> Iterator[Violation]:
    """Runs of different lines at one machine, belt or bench."""
    scenario = dirt.scenario
    passing = []
    for plan in plans:
        for run in plan.runs:
            passed = walk(scenario, run)
            store = isinstance(scenario.line(plan.line).station(refs[plan.line]), HeldStation)
            if refs[plan.line] in passed and not store:
                name = f"{run.id} of {scenario.line(plan.line).name}"
                passing.append(_Passing(name, plan.line, refs[plan.line], passed[refs[plan.line]]))
    passing.sort(key=lambda entry: entry.passage.first_in)
    for r, s in combinations(passing, 2):
        if r.line != s.line:
            station = scenario.line(s.line).station(s.station)
            empty = empty_for(dirt, station, r.passage, s.passage)
            yield from meeting_faults(station, empty, (r.run, r.passage), (s.run, s.passage))


def _store_faults(
    scenario: Scenario, shared: Shared, plans: list[LinePlan], refs: dict[str, str]
) -> Iterator[Violation]:
    """How full a shared store of pieces gets with the runs of all lines."""
    filling, begun, turn = [], set[str](), 0.0
    for plan in plans:
        station = scenario.line(plan.line).station(refs[plan.line])
        for run in plan.runs if isinstance(station, HeldStation) else ():
            passed = walk(scenario, run)
            if isinstance(station, HeldStation) and station.id in passed:
                at = passed[station.id]
                name = f"{run.id} of {scenario.line(plan.line).name}"
                filling.append((name, at, share_of(station, at)))
                begun |= {name} if run.id in {known.id for known in scenario.opening.begun_on(plan.line)} else set()
                turn = station.turn_round_min
    yield from overfull(shared.name, filling, begun, turn)


def _crew_faults(scenario: Scenario, plans: Sequence[LinePlan]) -> Iterator[Violation]:
    """No crew is asked for more people than it has, at any moment; not by runs alone that have all begun."""
    asked: dict[str, list[tuple[float, float, int, str, bool]]] = {}
    for plan in plans:
        line = scenario.line(plan.line)
        begun = {run.id for run in scenario.opening.begun_on(plan.line)}
        for run in plan.runs:
            for station_id, passage in walk(scenario, run).items():
                use = line.station(station_id).staffed
                if use:
                    who = f"{run.id} of {line.name}"
                    asked.setdefault(use.crew, []).append(
                        (passage.first_in, passage.last_out, use.people, who, run.id in begun)
                    )
    for crew in scenario.plant.crews:
        works, away = asked.get(crew.id, []), [one for one in scenario.absences if one.crew == crew.id]
        for begin, end, _, who, _ in works:
            for at in (begin, *(one.from_min for one in away if begin < one.from_min < end - SLACK_MIN)):
                there = [work for work in works if work[0] <= at and at + SLACK_MIN < work[1]]
                people = sum(work[2] for work in there)
                missing = sum(one.people for one in away if one.from_min <= at + SLACK_MIN < one.to_min)
                has = crew.people - missing
                if people > has and at + SLACK_MIN < end and not all(work[4] for work in there):
                    yield fault(who, crew.name, f"needs {people} people at minute {at:.0f}, there are {has}")
