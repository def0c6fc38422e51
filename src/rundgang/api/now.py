"""The routes of the floor as it is now: each line against its plan, timed anew by what the counters say."""

import time
from collections.abc import Iterable
from datetime import UTC, datetime, timedelta
from math import floor
from typing import NamedTuple

from fastapi import APIRouter

from rundgang.api.deps import Now, Store, at_present
from rundgang.api.instruments import SourceState, signal_views, states
from rundgang.clock import Clock
from rundgang.core.errors import UnknownItemError
from rundgang.core.floor.followed import Counted, Followed, Spell, followed, timed_anew
from rundgang.core.floor.instruments import Signal, signals_of
from rundgang.core.floor.now import Coming, HourBoard, Pace, hours_of, next_on, pace_of, roots
from rundgang.core.model import Id, Model
from rundgang.core.planning.lines_in_place import planned_line
from rundgang.core.planning.model import LinePlan
from rundgang.core.planning.repair import Repaired
from rundgang.core.planning.timeline import Ribbon, Timeline, timeline
from rundgang.core.scenario import Scenario
from rundgang.formats.clock import local_time, minute_of
from rundgang.store.plans import StoredVersion
from rundgang.store.readings import Readings
from rundgang.store.repository import Repository

router = APIRouter(prefix="/api/now")

BACK_MIN = 24 * 60.0
"""So far back counts are looked at, min."""

HOURS_BACK, HOURS_AHEAD = 6, 2
STRETCH = timedelta(minutes=1)
KEPT_S = 4.0
"""So long an answer is as good as new, s."""


class RunNow(Model):
    """A begun run as it goes: by how much its last pack is later than planned, min."""

    run: Id | str
    late_min: float


class LorryNow(Model):
    """What a lorry gets of a product, as it was planned and as it looks now."""

    wave: Id
    product: Id
    packs: int
    loaded_by_min: float
    planned_min: float | None
    ready_min: float | None
    short: int
    short_planned: int


class ReadNow(Model):
    """What an instrument of a line read last, and when; None where it has not been heard."""

    path: str
    station: Id
    name: str
    quantity: str
    unit: str
    value: float | None
    at: datetime | None


class LineNow(Model):
    """A line now.

    Attributes
    ----------
    pace : Pace or None
        None where nothing has been counted.
    standing : tuple of Spell
        The stations that stand, each for itself.
    stood : tuple of Spell
        Those that stood in the hours shown.
    planned : tuple of Ribbon
        The runs as they were planned; `timeline` has them as they went and will go.
    silent : tuple of str
        Signals of the line that are not heard.
    read : tuple of ReadNow
        What its instruments read last, in walking order.
    """

    line: Id
    version: int
    now_min: float
    pace: Pace | None
    hours: tuple[HourBoard, ...]
    standing: tuple[Spell, ...]
    stood: tuple[Spell, ...]
    runs: tuple[RunNow, ...]
    next: tuple[Coming, ...]
    lorries: tuple[LorryNow, ...]
    plan: LinePlan
    timeline: Timeline
    planned: tuple[Ribbon, ...]
    sources: tuple[SourceState, ...]
    silent: tuple[str, ...]
    read: tuple[ReadNow, ...]


@router.get("")
def line_now(store: Store, now: Now, line: Id) -> LineNow:
    """How a line does against the plan that is published, and what that means for what comes."""
    published = store.plans.published()
    if published is None:
        raise UnknownItemError("published plan", "yet")
    moment = int(time.monotonic() / KEPT_S)
    key = "now", line, published.version, store.windows.window().id, moment
    return store.memory.recall(key, lambda: _line_now(store, now, store.plans.version(published.version), line))


class _Heard(NamedTuple):
    """What the instruments of a line have said since a moment."""

    fed: dict[str, Counted]
    packs: Counted | None
    stood: tuple[Spell, ...]


def _line_now(store: Repository, now: Clock, version: StoredVersion, line: str) -> LineNow:
    scenario = at_present(store, now, store.windows.scenario())
    plan, now_min = planned_line(version.plan, line), now.minute_of(scenario.window.starts_at)
    heard = _heard(store.readings, scenario, plan, now_min)
    found = followed(scenario, plan, heard.fed, heard.stood, now_min)
    after, retimed = _timed_anew(store, scenario, version, line, found)
    going = _as_it_went(retimed.plan.of(line), found)
    instruments = store.instruments.newest().instruments
    sources = states(instruments, store.instruments.beats())
    own = {signal.path for signal in signals_of(scenario) if signal.line == line}
    told = {mapped.signal.path for source in instruments.sources for mapped in source.nodes} & own
    return LineNow(
        line=line,
        version=version.note.number,
        now_min=now_min,
        pace=pace_of(plan, heard.packs, now_min) if heard.packs else None,
        hours=_hours(scenario, plan, heard, now_min),
        standing=tuple(spell for spell in heard.stood if spell.until_min is None),
        stood=heard.stood,
        runs=tuple(RunNow(run=one.run.id, late_min=one.late_min) for one in found),
        next=next_on(going, now_min),
        lorries=_lorries(after, plan, going, now_min),
        plan=going,
        timeline=timeline(after, going),
        planned=timeline(scenario, plan).ribbons,
        sources=sources,
        silent=tuple(sorted(told & {path for source in sources for path in source.missing})),
        read=_read(store.readings, scenario, line, told, now.now()),
    )


def _read(
    readings: Readings, scenario: Scenario, line: str, told: set[str], until: datetime
) -> tuple[ReadNow, ...]:  # fmt: skip
    newest = {signal.path: reading for signal, reading in readings.newest(until).items()}
    return tuple(
        ReadNow(
            path=view.signal.path,
            station=view.signal.station,
            name=view.station,
            quantity=view.quantity,
            unit=view.unit,
            value=newest[view.signal.path].value if view.signal.path in newest else None,
            at=newest[view.signal.path].at if view.signal.path in newest else None,
        )
        for view in signal_views(scenario)
        if view.signal.path in told
    )


def _timed_anew(
    store: Repository, scenario: Scenario, version: StoredVersion, line: str, found: tuple[Followed, ...]
) -> tuple[Scenario, Repaired]:  # fmt: skip
    """The plan timed anew; worked out once for as long as no run goes otherwise by a minute, and none begins."""
    went = tuple((one.run.id, round(one.run.start_min), round(one.run.last_pack_min)) for one in found)
    begun = tuple(sorted(run.id for run in scenario.opening.begun_on(line)))
    key = "timed anew", store.windows.window().id, version.note.number, line, begun, went
    return store.memory.recall(key, lambda: timed_anew(scenario, version.plan, line, found))


def _as_it_went(plan: LinePlan, found: Iterable[Followed]) -> LinePlan:
    """A plan with the runs that are over as they went, too."""
    went = {one.run.id: one.run for one in found}
    return plan.model_copy(update={"runs": tuple(went.get(run.id, run) for run in plan.runs)})


def _heard(readings: Readings, scenario: Scenario, plan: LinePlan, now_min: float) -> _Heard:
    begins = max(0.0, now_min - BACK_MIN)
    made = [scenario.product(name) for name in {run.product for run in plan.giving}]
    mixed = [product for product in made if product.formula]
    fed = {
        station: counted
        for station in {product.piece_steps[0].station for product in mixed}
        if (counted := _counted(readings, scenario, (plan.line, station), begins, now_min))
    }
    ends = {product.piece_steps[-1].station for product in made}
    packs = [_counted(readings, scenario, (plan.line, station), begins, now_min) for station in sorted(ends)]
    known = [one for one in packs if one]
    stood = _stood(readings, scenario, plan.line, begins, now_min)
    return _Heard(fed, _together(known, begins) if known else None, roots(scenario, plan.line, stood))


def _at(scenario: Scenario, minute: float) -> datetime:
    return scenario.window.starts_at.astimezone(UTC) + timedelta(minutes=minute)


def _counted(
    readings: Readings, scenario: Scenario, of: tuple[str, str], begins: float, now_min: float
) -> Counted | None:  # fmt: skip
    """How a station's count rose, minute by minute; None where nothing is known of it."""
    signal = Signal(line=of[0], station=of[1], quantity="count")
    begin, until = _at(scenario, begins), _at(scenario, now_min)
    first = readings.first(signal, begin, until) if until > begin else None
    if first is None:
        return None
    rose = readings.rose(signal, begin, until, STRETCH)
    stretches = int((until - begin) / STRETCH) + 1
    return Counted(
        since_min=minute_of(scenario, first),
        until_min=tuple(min(now_min, begins + number + 1) for number in range(stretches)),
        rises=tuple(rose.get(begin + number * STRETCH, 0.0) for number in range(stretches)),
    )


def _together(counted: list[Counted], begins: float) -> Counted:
    """Several counts as one, from when on all are known."""
    since = max(begins, *(one.since_min for one in counted))
    rises = tuple(sum(each) for each in zip(*(one.rises for one in counted), strict=True))
    return Counted(since, counted[0].until_min, rises)


def _stood(readings: Readings, scenario: Scenario, line: str, begins: float, now_min: float) -> list[Spell]:
    pieces = (station.id for station in scenario.line(line).stations if station.kind not in {"batch", "held"})
    signals = [Signal(line=line, station=station, quantity="state") for station in pieces]
    begin, until = _at(scenario, begins), _at(scenario, now_min)
    return [
        Spell(
            station=signal.station,
            from_min=minute_of(scenario, start),
            until_min=None if end is None else minute_of(scenario, end),
        )
        for signal, spells in readings.spells(signals, begin, until).items()
        for start, end in spells
    ]


def _hours(scenario: Scenario, plan: LinePlan, heard: _Heard, now_min: float) -> tuple[HourBoard, ...]:
    """The clock's hours around now."""
    if heard.packs is None:
        return ()
    begun = floor(now_min)
    full = float(begun - local_time(scenario, begun).minute)
    hours = [full + 60.0 * number for number in range(-HOURS_BACK, HOURS_AHEAD + 2)]
    return hours_of(scenario, plan, heard.packs, heard.stood, hours, now_min)


def _lorries(scenario: Scenario, plan: LinePlan, going: LinePlan, now_min: float) -> tuple[LorryNow, ...]:
    """The lorries that have not been loaded yet, by departure."""
    planned = {(one.wave, one.product): one for one in plan.waves}
    waves = {wave.id: wave for wave in scenario.waves if wave.loaded_by_min >= now_min}
    found = [
        LorryNow(
            wave=one.wave,
            product=one.product,
            packs=one.packs,
            loaded_by_min=waves[one.wave].loaded_by_min,
            planned_min=was.ready_min if was else None,
            ready_min=one.ready_min,
            short=one.short,
            short_planned=was.short if was else one.short,
        )
        for one in going.waves
        if one.wave in waves
        for was in (planned.get((one.wave, one.product)),)
    ]
    return tuple(sorted(found, key=lambda one: (one.loaded_by_min, one.product)))
