"""A line as its counters have seen it: what the instruments have said, and its begun runs as they went."""

from datetime import UTC, timedelta
from typing import NamedTuple

from rundgang.core.floor.followed import Counted, Followed, Stoppage, as_it_went, counted_together, followed
from rundgang.core.floor.instruments import Signal
from rundgang.core.floor.now import roots
from rundgang.core.planning.model import LinePlan
from rundgang.core.plant import Line
from rundgang.core.scenario import Scenario
from rundgang.store.readings import Readings
from rundgang.store.repository import Repository

BACK_MIN = 24 * 60.0
"""So far back counts are looked at, min."""


class Heard(NamedTuple):
    """What the instruments of a line have said since a moment."""

    fed: dict[str, Counted]
    packed: dict[str, Counted]
    stood: tuple[Stoppage, ...]

    @property
    def packs(self) -> Counted | None:
        """All packs; None where nothing counts them."""
        return counted_together(tuple(self.packed.values())) if self.packed else None


def heard(
    readings: Readings, scenario: Scenario, plan: LinePlan, now_min: float, back_min: float = BACK_MIN
) -> Heard:  # fmt: skip
    """What the instruments of a line have said of a plan by a moment, and so far back."""
    starts_at, line = scenario.window.starts_at.astimezone(UTC), scenario.line(plan.line)
    begin, until = (starts_at + timedelta(minutes=minute) for minute in (max(0.0, now_min - back_min), now_min))
    made = [scenario.product(name) for name in {run.product for run in plan.giving}]
    ends = {product.piece_steps[-1].station for product in made}
    begins = {product.piece_steps[0].station for product in made if product.formula}
    counts = {
        station: readings.counted(Signal(line=line.id, station=station, quantity="count"), starts_at, begin, until)
        for station in sorted(ends | begins)
    }
    known = {station: counted for station, counted in counts.items() if counted}
    return Heard(
        fed={station: known[station] for station in begins & known.keys()},
        packed={station: known[station] for station in sorted(ends & known.keys())},
        stood=roots(scenario, line.id, list(readings.stoppages(states_of(line), starts_at, begin, until))),
    )


def states_of(line: Line) -> list[Signal]:
    """What tells whether the stations stand that pieces pass."""
    standing = (station.id for station in line.stations if station.kind not in {"batch", "held"})
    return [Signal(line=line.id, station=station, quantity="state") for station in standing]


def went(store: Repository, scenario: Scenario, plan: LinePlan, now_min: float) -> LinePlan:
    """A plan with its begun runs as the counters have seen them go."""
    return as_it_went(plan, followed_by(heard(store.readings, scenario, plan, now_min), scenario, plan, now_min))


def followed_by(heard: Heard, scenario: Scenario, plan: LinePlan, now_min: float) -> tuple[Followed, ...]:
    """The begun runs of a line as its counters have seen them."""
    return followed(scenario, plan, heard.fed, heard.packed, heard.stood, now_min)
