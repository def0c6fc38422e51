"""What comes later because a station stands: the begun runs that have yet to pass it, and those that these hold up.

A run that is held up is in the way of what comes behind it at every station that both pass, by what the stop is longer
than the white time between them.
"""

from collections.abc import Sequence
from typing import NamedTuple

from rundgang.core.errors import OutOfRangeError, UnknownItemError
from rundgang.core.floor.stop import Stop
from rundgang.core.planning.headway import gap
from rundgang.core.planning.legs import Passage, Passing, passages, passings
from rundgang.core.planning.model import LinePlan, Run
from rundgang.core.scenario import Scenario


class Stands(NamedTuple):
    """A run that stands because of a stop, or is pushed by one that does.

    Attributes
    ----------
    leg, passing : int, Passing
        Where it is held up: at the station that stands, or at one where the run ahead is.
    spare_min : float
        A stop so long makes it no later: its first piece is not there yet, or white time lies before it.
    """

    run: Run
    leg: int
    passing: Passing
    spare_min: float

    def from_min(self, stop: Stop) -> float:
        """When its leg stands: at the stop, or when its first piece gets there; held at the feed where none is fed."""
        if self.leg == 0 and self.run.start_min >= stop.known_min:
            return stop.known_min
        return max(stop.from_min, self.passing.first_in)

    def late_min(self, minutes: float) -> float:
        """How much later it comes by a stop of so many minutes, min."""
        return max(0.0, minutes - self.spare_min)


def standing(scenario: Scenario, plan: LinePlan, stop: Stop) -> tuple[Stands, ...]:
    """The begun runs that come later by the longest that a station may stand, in the order in which they come out.

    Those that have yet to pass it; and those which these are in the way of at another station.

    Raises
    ------
    UnknownItemError
        The line has no such station.
    OutOfRangeError
        The station is a mixer or a trough: doughs pass it, not pieces.
    """
    line = scenario.line(stop.line)
    if stop.station not in [station.id for station in line.stations]:
        raise UnknownItemError("station of the line", stop.station, tuple(station.id for station in line.stations))
    if not any(step.station == stop.station for p in scenario.products for step in p.piece_steps if p.line == line.id):
        raise OutOfRangeError("The station that stands", line.station(stop.station).name, "one that pieces pass")
    found: list[Stands] = []
    begun = [run for run in plan.runs if run.first_mixed_min < stop.known_min and run.last_pack_min > stop.from_min]
    for run in sorted(begun, key=lambda run: run.first_pack_min):
        found.extend(one for one in _held_up(scenario, plan, stop, run, found) if one.spare_min < stop.high_min)
    return tuple(found)


def _held_up(
    scenario: Scenario, plan: LinePlan, stop: Stop, run: Run, ahead: Sequence[Stands]
) -> list[Stands]:  # fmt: skip
    """Where a run is held up: at the station that stands; or, if it does not pass that, by a run that is held up."""
    places = [
        (passage.stop.leg, passing)
        for passage, passing in zip(passages_of(scenario, run), passings(scenario, run), strict=True)
        if passing.last_out > stop.from_min
    ]
    pushed = [
        Stands(run, leg, passing, one.spare_min + white)
        for leg, passing in places
        for one in ahead
        if (white := _white_min(scenario, plan, stop, one, passing)) is not None
    ]
    soonest = min(pushed, key=lambda one: one.spare_min, default=None)
    own = [
        Stands(run, leg, passing, max(0.0, passing.first_in - stop.from_min))
        for leg, passing in places
        if passing.station == stop.station
    ]
    if own and soonest:
        return [one._replace(spare_min=min(one.spare_min, soonest.spare_min)) for one in own]
    return own or ([soonest] if soonest else [])


def _white_min(
    scenario: Scenario, plan: LinePlan, stop: Stop, ahead: Stands, passing: Passing
) -> float | None:  # fmt: skip
    """The white time behind a run that is held up, before what comes behind it to a station; None where nothing does.

    A tool that is renewed between the two takes its time; what has left the station when all stands is in nobody's way.
    """
    for passage, theirs in zip(passages_of(scenario, ahead.run), passings(scenario, ahead.run), strict=True):
        comes = theirs.station == passing.station and theirs.first_in < passing.first_in
        if comes and passage.stop.leg >= ahead.leg and theirs.last_out > stop.from_min:
            needed = gap(scenario, passing.station, theirs.product, passing.product).minutes
            between = [one for one in plan.renewals if one.station == passing.station]
            renewing = [
                one.to_min - one.from_min for one in between if theirs.first_in < one.from_min < passing.first_in
            ]
            free = max(theirs.last_in + needed, *(theirs.last_out + minutes for minutes in renewing), 0.0)
            return max(0.0, passing.first_in - free)
    return None


def all_as_late(
    scenario: Scenario, plan: LinePlan, stop: Stop, stands: Sequence[Stands]
) -> tuple[Stands, ...]:  # fmt: skip
    """The begun runs that stand, and all that are not fed yet, each of which comes as much later as the stop lasts."""
    known = {one.run.id for one in stands}
    fed_later = [
        Stands(run, 0, passings(scenario, run)[0], 0.0)
        for run in plan.runs
        if run.first_mixed_min < stop.known_min <= run.start_min and run.id not in known
    ]
    return (*(one._replace(spare_min=0.0) for one in stands), *fed_later)


def passages_of(scenario: Scenario, run: Run) -> tuple[Passage, ...]:
    """What a run passes, as it is made, leg by leg; as many as its passings."""
    return passages(scenario, scenario.dwelling(run.product, run.dwell_min))
