"""Upkeep: how far each tool is worn by now, when its life ends, and what is cleaned between which runs.

What a run wears, it wears evenly: strokes while its pieces come, hours while they are inside. A tool begins anew when a
plan or a closing has renewed it, or when somebody has told so.
"""

from collections.abc import Iterator, Sequence
from itertools import pairwise
from math import inf
from typing import Literal, NamedTuple

from rundgang.core.conditions import MINUTES_PER_DAY
from rundgang.core.kinds.parts import WearingTool
from rundgang.core.model import Id, Model
from rundgang.core.opening import WornTool
from rundgang.core.planning.headway import cleaning
from rundgang.core.planning.legs import Passing, passings
from rundgang.core.planning.model import LinePlan, Run
from rundgang.core.rolling.state import renewed_by, wears
from rundgang.core.scenario import Scenario
from rundgang.core.tools import COUNTED_IN, tools_of


class ToolState(Model):
    """How far a tool is worn.

    Attributes
    ----------
    used : float
        Of its life: strokes, hours or days, as `counted` says.
    ends_min : float or None
        When its life ends if nobody renews it; None: not in this plan.
    renewed_min : float or None
        When the plan, or a closing, renews it next.
    stands : {"good", "ends first", "worn"}
        Whether its life ends before anything renews it, or has ended.
    """

    station: Id
    at: str
    tool: Id
    name: str
    counted: Literal["strokes", "hours", "days"]
    used: float
    life: float
    renew_min: float
    ends_min: float | None
    renewed_min: float | None
    stands: Literal["good", "ends first", "worn"]


class DueCleaning(Model):
    """What is cleaned at a station between two runs, and from when until when there is time for it, min.

    Attributes
    ----------
    is_over : bool
        Whether that time is over.
    """

    station: Id
    at: str
    what: str
    minutes: float
    behind: str
    before: str
    from_min: float
    until_min: float
    is_over: bool


class Cleaned(NamedTuple):
    """That a station was cleaned, and when that was done, min."""

    station: str
    done_min: float


class _Stretch(NamedTuple):
    """A run wears a tool evenly from a moment to another, by so much."""

    from_min: float
    until_min: float
    wear: float


class _Wearing(NamedTuple):
    """A tool in a plan: what wears it when, and when it is new."""

    tool: WearingTool
    used: float
    stretches: tuple[_Stretch, ...]
    renewed: tuple[float, ...]

    def used_at(self, minute: float) -> float:
        """How far it is worn at a moment, as it is counted."""
        since = max((new for new in self.renewed if new <= minute), default=None)
        begun = self.used if since is None else 0.0
        if self.tool.counted == "days":
            return begun + (minute - (since or 0.0)) / MINUTES_PER_DAY
        worn = sum(_by(stretch, minute) for stretch in self.stretches if since is None or stretch.from_min >= since)
        return begun + worn / COUNTED_IN[self.tool.counted]

    def ends_min(self, now_min: float) -> float | None:
        """When its life ends from a moment on, if nobody renews it; None: not by what is planned."""
        left = self.tool.life - self.used_at(now_min)
        if left <= 0:
            return now_min
        if self.tool.counted == "days":
            return now_min + left * MINUTES_PER_DAY
        left *= COUNTED_IN[self.tool.counted]
        for stretch in self.stretches:
            rest = stretch.wear - _by(stretch, now_min)
            if rest > left:
                begin = max(now_min, stretch.from_min)
                return begin + (stretch.until_min - begin) * left / rest
            left -= rest
        return None


def _by(stretch: _Stretch, minute: float) -> float:
    """What has been worn by a moment."""
    share = (minute - stretch.from_min) / max(1e-9, stretch.until_min - stretch.from_min)
    return stretch.wear * min(1.0, max(0.0, share))


def tool_states(scenario: Scenario, plan: LinePlan, now_min: float) -> tuple[ToolState, ...]:
    """The tools of a line, those whose life ends first ahead.

    Parameters
    ----------
    plan : LinePlan
        As it went, and goes on.
    """
    found = []
    for station, tool in tools_of(scenario.line(plan.line)):
        wearing = _wearing(scenario, plan, station.id, tool)
        coming = [one.from_min for one in plan.renewals if (one.station, one.tool) == (station.id, tool.name)]
        coming += [
            block.from_min
            for block in scenario.blocks
            if (block.line, block.station, block.renews) == (plan.line, station.id, tool.id)
        ]
        ends, renewed = wearing.ends_min(now_min), min((at for at in coming if at > now_min), default=None)
        found.append(
            ToolState(
                station=station.id,
                at=station.name,
                tool=tool.id,
                name=tool.name,
                counted=tool.counted,
                used=wearing.used_at(now_min),
                life=tool.life,
                renew_min=tool.renew_min,
                ends_min=ends,
                renewed_min=renewed,
                stands=_stands(ends, renewed, now_min),
            )
        )
    return tuple(sorted(found, key=lambda state: (state.ends_min is None, state.ends_min or 0.0)))


def _stands(
    ends_min: float | None, renewed_min: float | None, now_min: float
) -> Literal["good", "ends first", "worn"]:  # fmt: skip
    if ends_min is None:
        return "good"
    if ends_min <= now_min:
        return "worn"
    return "ends first" if renewed_min is None or renewed_min > ends_min else "good"


def _wearing(scenario: Scenario, plan: LinePlan, station: str, tool: WearingTool) -> _Wearing:
    passing = [one for _, one in _passing(scenario, plan, station)]
    ends = [one.last_out if tool.counted == "hours" else one.last_in for one in passing]
    worn = [wears(scenario, one, tool) for one in passing]
    new = [one.to_min for one in plan.renewals if (one.station, one.tool) == (station, tool.name)]
    return _Wearing(
        tool=tool,
        used=scenario.opening.used(plan.line, station, tool.id),
        stretches=tuple(_Stretch(one.first_in, end, wear) for one, end, wear in zip(passing, ends, worn, strict=True)),
        renewed=(*new, *renewed_by(scenario.blocks, plan.line, station, tool.id, inf)),
    )


def _passing(scenario: Scenario, plan: LinePlan, station: str) -> list[tuple[Run, Passing]]:
    found = [(run, one) for run in plan.runs for one in passings(scenario, run) if one.station == station]
    return sorted(found, key=lambda entry: entry[1].first_in)


def renewed_at(
    scenario: Scenario, plan: LinePlan, station: str, tool: str, minute: float
) -> tuple[WornTool, ...]:  # fmt: skip
    """How far tools are worn at the window's start, for one to be new at a moment: that one as far below nothing."""
    known = scenario.line(plan.line).station(station).tools
    of = next(one for one in known if one.id == tool)
    wearing = _wearing(scenario, plan, station, of)._replace(used=0.0, renewed=())
    others = (one for one in scenario.opening.worn if (one.line, one.station, one.tool) != (plan.line, station, tool))
    return (*others, WornTool(line=plan.line, station=station, tool=tool, used=-wearing.used_at(minute)))


def due_cleanings(
    scenario: Scenario, plan: LinePlan, now_min: float, cleaned: Sequence[Cleaned] = ()
) -> Iterator[DueCleaning]:  # fmt: skip
    """What is cleaned between the runs of a line and has not been, station by station, in its order.

    It has been where it was done in the time there is for it, or hardly sooner or later than that.
    """
    for station in scenario.line(plan.line).stations:
        for (first, one), (second, then) in _neighbours(_passing(scenario, plan, station.id)):
            for reason in cleaning(scenario, station.changeover, one.product, then.product):
                earliest, latest = one.last_out - reason.minutes, then.first_in + reason.minutes
                if any(done.station == station.id and earliest <= done.done_min <= latest for done in cleaned):
                    continue
                yield DueCleaning(
                    station=station.id,
                    at=station.name,
                    what=reason.what,
                    minutes=reason.minutes,
                    behind=first.id,
                    before=second.id,
                    from_min=one.last_out,
                    until_min=then.first_in,
                    is_over=then.first_in < now_min,
                )


def _neighbours(
    passing: Sequence[tuple[Run, Passing]],
) -> Iterator[tuple[tuple[Run, Passing], tuple[Run, Passing]]]:  # fmt: skip
    return ((one, then) for one, then in pairwise(passing) if one[0].id != then[0].id)
