"""The check of heat: every piece is cold enough when it leaves its cooler, in the air that it met on the way."""

from collections.abc import Iterator, Sequence
from math import exp, floor, inf, log

from rundgang.core.kinds.conveyor import ConveyorStep, KnownCooling
from rundgang.core.planning.check.line import Passage
from rundgang.core.planning.check.violation import SLACK_MIN, Violation, fault
from rundgang.core.planning.model import Run
from rundgang.core.scenario import Scenario

SLACK_K = 0.01
"""No probe tells temperatures apart that are this close, K."""


def heat_faults(scenario: Scenario, run: Run, passed: dict[str, Passage]) -> Iterator[Violation]:
    """Belts that a run drives faster than its route says, and pieces that leave a cooler too warm."""
    for station_id in sorted(run.dwell_min.keys() - passed.keys()):
        yield fault(run.id, station_id, "is given a time there, but does not pass it")
    for station_id, at in passed.items():
        name = scenario.line(run.line).station(station_id).name
        steps = scenario.product(at.product).piece_steps
        asked = next(step for step in steps if step.station == station_id)
        if station_id in run.dwell_min:
            own, wanted = run.dwell_min[station_id], getattr(asked, "dwell_min", None)
            if wanted is None:
                yield fault(run.id, name, "is given a time there, but nothing dwells")
            elif wanted - own > SLACK_MIN:
                yield fault(run.id, name, f"stays {own:g} min, its route says {wanted:g}", wanted - own)
        if isinstance(asked, ConveyorStep) and asked.cooling:
            yield from _cooling_faults(scenario, run, name, at, asked)


def _cooling_faults(
    scenario: Scenario, run: Run, name: str, at: Passage, step: ConveyorStep
) -> Iterator[Violation]:  # fmt: skip
    known, stays = step.cooling, at.first_out - at.first_in
    assert known is not None  # noqa: S101  (the caller has looked)
    air = [
        hour.room_c if hour.room_c is not None else scenario.conditions.room_c for hour in scenario.conditions.by_hour
    ]
    air = air or [scenario.conditions.room_c]
    if step.temperature_c is not None:
        air = [step.temperature_c]
    warmest, enters = max((_leaves_at(known, air, moment, stays), moment) for moment in _moments(at, stays))
    if warmest > known.to_c + SLACK_K:
        hours = air[_hour(enters, air) : _hour(enters + stays, air) + 1]
        lacks = _minutes_to(known, max(hours)) - stays
        why = f"at minute {enters + stays:.0f} a piece leaves at {warmest:.1f} °C, allowed {known.to_c:g}"
        if lacks == inf:
            yield fault(run.id, name, f"{why}; air of {max(hours):.1f} °C never cools it so far")
        else:
            yield fault(run.id, name, why, lacks)


def _moments(at: Passage, stays: float) -> list[float]:
    """When the warmest piece may enter: the first, the last, and where an hour begins at its entry or its exit.

    Between these the temperature at the exit runs monotonically towards a limit.
    """
    found = {at.first_in, at.last_in}
    for hour in range(floor(at.first_in / 60), floor((at.last_in + stays) / 60) + 1):
        found |= {60.0 * hour, 60.0 * hour - stays}
    return [moment for moment in found if at.first_in <= moment <= at.last_in]


def _hour(minute: float, air: Sequence[float]) -> int:
    return min(max(int(minute // 60), 0), len(air) - 1)


def _leaves_at(known: KnownCooling, air: Sequence[float], enters: float, stays: float) -> float:
    """The core of a piece at its exit, hour by hour through the air, °C."""
    core, now, out = known.from_c, enters, enters + stays
    while now < out:
        until = min(out, 60.0 * (floor(now / 60) + 1))
        around = air[_hour(now, air)]
        core = around + (core - around) * exp(-_per_min(known) * (until - now))
        now = until
    return core


def _per_min(known: KnownCooling) -> float:
    return log((known.from_c - known.air_c) / (known.to_c - known.air_c)) / known.minutes


def _minutes_to(known: KnownCooling, air_c: float) -> float:
    return log((known.from_c - air_c) / (known.to_c - air_c)) / _per_min(known) if air_c < known.to_c else inf
