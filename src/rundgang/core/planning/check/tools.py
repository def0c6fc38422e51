"""The check of tools: followed run by run, none works beyond its life, and nothing passes while it is renewed."""

from collections.abc import Iterator
from typing import NamedTuple

from rundgang.core.kinds.every import AnyStation
from rundgang.core.kinds.parts import WearingTool
from rundgang.core.kinds.rate import RateStation, RateStep
from rundgang.core.planning.check.line import Passage, Walks
from rundgang.core.planning.check.violation import SLACK_MIN, SLACK_SHARE, Violation, fault
from rundgang.core.planning.model import LinePlan, Renewal
from rundgang.core.scenario import Scenario

MINUTES_IN = {"hours": 60.0, "days": 1_440.0}


class _At(NamedTuple):
    """A tool, its station, and the runs that pass that station, by time."""

    tool: WearingTool
    station: AnyStation
    passing: list[tuple[str, Passage]]


def tool_faults(scenario: Scenario, plan: LinePlan, walks: Walks) -> Iterator[Violation]:
    """Everything that is wrong with the tools of a line."""
    known = set[tuple[str, str]]()
    for station in scenario.line(plan.line).stations:
        for tool in station.tools:
            known.add((station.id, tool.name))
            passing = [(run.id, walks[run.id][station.id]) for run in plan.runs if station.id in walks[run.id]]
            at = _At(tool, station, sorted(passing, key=lambda entry: entry[1].first_in))
            renewed = [one for one in plan.renewals if (one.station, one.tool) == (station.id, tool.name)]
            yield from _renewal_faults(at, renewed)
            yield from _wear_faults(scenario, plan, at, renewed)
    for one in plan.renewals:
        if (one.station, one.tool) not in known:
            yield fault(one.before, one.station, f"renews {one.tool}, which the station does not have")


def _renewal_faults(at: _At, renewed: list[Renewal]) -> Iterator[Violation]:
    """It takes its time, and the station is empty meanwhile."""
    for one in renewed:
        missing = at.tool.renew_min - (one.to_min - one.from_min)
        if missing > SLACK_MIN:
            yield fault(one.before, at.station.name, f"leaves too little time to renew {at.tool.name}", missing)
        for run, passage in at.passing:
            inside = min(passage.last_out, one.to_min) - max(passage.first_in, one.from_min)
            if inside > SLACK_MIN:
                yield fault(run, at.station.name, f"passes while {at.tool.name} is renewed", inside)


def _wear_faults(scenario: Scenario, plan: LinePlan, at: _At, renewed: list[Renewal]) -> Iterator[Violation]:
    """How far it is worn behind each run, from how it was at the window's start."""
    begun = {run.id for run in scenario.opening.begun_on(plan.line)}
    used = sum(
        worn.used
        for worn in scenario.opening.worn
        if (worn.line, worn.station, worn.tool) == (plan.line, at.station.id, at.tool.id)
    )
    new = [one.to_min for one in renewed]
    new += [
        block.to_min
        for block in scenario.blocks
        if (block.line, block.station, block.renews) == (plan.line, at.station.id, at.tool.id)
    ]
    since = float("-inf")
    worn = used
    for run, passage in at.passing:
        if at.tool.fits is not None and getattr(passage.step, "tool", None) != at.tool.fits:
            continue
        latest = max((moment for moment in new if moment <= passage.first_in + SLACK_MIN), default=float("-inf"))
        if latest > since:
            since, worn = latest, 0.0
        if at.tool.counted == "days":
            worn = passage.last_out / MINUTES_IN["days"] + used
            if since > float("-inf"):
                worn = (passage.last_out - since) / MINUTES_IN["days"]
        else:
            worn += _wears(at, passage)
        if worn > at.tool.life * (1 + SLACK_SHARE) + SLACK_MIN and run not in begun:
            text = f"works with {at.tool.name} after {worn:.4g} {at.tool.counted}; allowed {at.tool.life:g}"
            yield fault(run, at.station.name, text)


def _wears(at: _At, passage: Passage) -> float:
    """Strokes of one lane, or hours, that a run wears."""
    if at.tool.counted == "hours":
        return (passage.last_out - passage.first_in) / MINUTES_IN["hours"]
    assert isinstance(at.station, RateStation)  # noqa: S101  (only there strokes are counted)
    assert isinstance(passage.step, RateStep)  # noqa: S101  (the scenario has matched the two)
    good_strokes = passage.flow_per_h * (passage.last_in - passage.first_in) / 60 / passage.step.takes
    return good_strokes / at.station.efficiency / at.station.lanes / at.station.machines
