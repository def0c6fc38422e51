"""The routes of the floor as it is now: each line against its plan, re-timed by what the counters say."""

import time
from datetime import datetime
from math import floor
from typing import NamedTuple

from fastapi import APIRouter

from rundgang.api.changing import Changed, store_as_fact
from rundgang.api.deps import Author, Now, Replanned, Store, at_present
from rundgang.api.instruments import SourceState, signal_views, states
from rundgang.clock import Clock
from rundgang.core.errors import RundgangError
from rundgang.core.floor.followed import Followed, GaveLess, Stoppage, as_it_went, gave_less, retimed
from rundgang.core.floor.instruments import signals_of
from rundgang.core.floor.now import Coming, HourBoard, LorryNow, Pace, hours_of, lorries_of, next_on, pace_of
from rundgang.core.floor.options import bettered
from rundgang.core.model import Id, Model
from rundgang.core.planning.checked import checked, refuse_unsound
from rundgang.core.planning.lines_in_place import planned_line
from rundgang.core.planning.model import LinePlan, PlantPlan
from rundgang.core.planning.repair import Moved, Repaired
from rundgang.core.planning.timeline import Ribbon, Timeline, timeline
from rundgang.core.scenario import Scenario
from rundgang.formats.clock import local_time
from rundgang.jobs.following import Heard, followed_by, heard
from rundgang.store.plans import StoredVersion
from rundgang.store.readings import Readings
from rundgang.store.repository import Repository

router = APIRouter(prefix="/api/now")

HOURS_BACK, HOURS_AHEAD = 6, 2
"""So many hours of the clock are shown beside the one that runs."""

PAYS = 1.0
"""A plan anew pays that costs so much less, points."""

KEPT_S = 4.0
"""So long an answer is as good as new, s."""


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
    standing : tuple of Stoppage
        The stations that stand, each for itself.
    less : tuple of GaveLess
        The runs that gave less than planned.
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
    standing: tuple[Stoppage, ...]
    next: tuple[Coming, ...]
    lorries: tuple[LorryNow, ...]
    less: tuple[GaveLess, ...]
    plan: LinePlan
    timeline: Timeline
    planned: tuple[Ribbon, ...]
    sources: tuple[SourceState, ...]
    silent: tuple[str, ...]
    read: tuple[ReadNow, ...]


@router.get("")
def line_now(store: Store, now: Now, line: Id) -> LineNow:
    """How a line does against the plan that is published, and what that means for what comes."""
    version = store.plans.live()
    stamp = store.plans.state(), int(time.monotonic() / KEPT_S)
    key = "now", store.windows.window().id, line
    return store.memory.fresh(key, stamp, lambda: _line_now(store, now, version, line))


class Offer(Model):
    """A plan anew that pays more than it disturbs.

    Attributes
    ----------
    gain : float
        How much less it costs than to go on as planned, points; what it changes of the published plan counted.
    short_before, short : int
        Packs that all lorries miss, as planned and anew.
    """

    version: int
    gain: float
    short_before: int
    short: int
    moved: tuple[Moved, ...]


class NoOfferError(RundgangError):
    """Nothing pays."""

    def __init__(self) -> None:
        super().__init__("No plan pays more than it disturbs. Nothing was changed; the line goes on as planned.")


class ReplanRequest(Model):
    """The line to plan anew, and who says so."""

    line: Id
    author: Author = "planner"


class _Going(NamedTuple):
    """A line as it goes: the moment's scenario, what was heard, and the plan re-timed for it."""

    scenario: Scenario
    plan: LinePlan
    now_min: float
    heard: Heard
    found: tuple[Followed, ...]
    after: Scenario
    fitted: Repaired


@router.get("/offer")
def offer(store: Store, now: Now, line: Id) -> Offer | None:
    """A plan that pays more than it disturbs, by what the line has done; None where none does."""
    version = store.plans.live()
    going = _going(store, now, version, line)
    better = _better(store, version, line, going)
    return None if better is None else _offer(version, going, better)


@router.post("/offer", status_code=201)
def take_offer(store: Replanned, now: Now, request: ReplanRequest) -> Changed:
    """Plan anew by what a line has done: its begun runs are facts as they went, and the floor works by it."""
    store.openings.locked_window()
    version = store.plans.live()
    going = _going(store, now, version, request.line)
    better = _better(store, version, request.line, going)
    if better is None:
        raise NoOfferError
    sound = checked(going.after, better.plan)
    refuse_unsound(sound)
    name = going.scenario.line(request.line).name
    note = f"planned anew by what the {name} did"
    stored = store_as_fact(store, better.plan, sound, version.note.number, request.author, note)
    cost, before = better.plan.cost, going.fitted.plan.cost
    return Changed(version=stored.note.number, cost=cost, cost_before=before, moved=better.moved)


def _better(store: Repository, version: StoredVersion, line: str, going: _Going) -> Repaired | None:
    """A better plan than the one re-timed, looked for once for as long as that is the same."""
    key = "better", store.windows.window().id, line

    def look() -> Repaired | None:
        found = bettered(going.after, version.plan, line, going.fitted)
        return found if found.plan.cost < going.fitted.plan.cost - PAYS else None

    return store.memory.fresh(key, _stamp(store, going.scenario, version, line, going.found), look)


def _offer(version: StoredVersion, going: _Going, better: Repaired) -> Offer:
    return Offer(
        version=version.note.number,
        gain=going.fitted.plan.cost - better.plan.cost,
        short_before=_short(going.fitted.plan),
        short=_short(better.plan),
        moved=better.moved,
    )


def _short(plan: PlantPlan) -> int:
    return sum(line.short for line in plan.plans)


def _going(store: Repository, now: Clock, version: StoredVersion, line: str) -> _Going:
    scenario = at_present(store, now, store.windows.scenario())
    plan, now_min = planned_line(version.plan, line), now.minute_of(scenario.window.starts_at)
    told = heard(store.readings, scenario, plan, now_min)
    found = followed_by(told, scenario, plan, now_min)
    after, fitted = _retimed(store, scenario, version, line, found)
    return _Going(scenario, plan, now_min, told, found, after, fitted)


def _line_now(store: Repository, now: Clock, version: StoredVersion, line: str) -> LineNow:
    scenario, plan, now_min, told_by, found, after, fitted = _going(store, now, version, line)
    going = as_it_went(fitted.plan.of(line), found)
    instruments = store.instruments.newest().instruments
    sources = states(instruments, store.instruments.beats())
    own = {signal.path for signal in signals_of(scenario) if signal.line == line}
    told = {mapped.signal.path for source in instruments.sources for mapped in source.nodes} & own
    return LineNow(
        line=line,
        version=version.note.number,
        now_min=now_min,
        pace=pace_of(plan, told_by.packs, now_min) if told_by.packs else None,
        hours=_hours(scenario, plan, told_by, now_min),
        standing=tuple(spell for spell in told_by.stood if spell.until_min is None),
        next=next_on(scenario, going, now_min),
        lorries=lorries_of(after, plan, going, now_min),
        less=gave_less(plan, found),
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


def _retimed(
    store: Repository, scenario: Scenario, version: StoredVersion, line: str, found: tuple[Followed, ...]
) -> tuple[Scenario, Repaired]:  # fmt: skip
    """The plan re-timed; worked out once for as long as nothing is written, no run goes otherwise, and none begins."""
    key = "retimed", store.windows.window().id, line
    stamp = _stamp(store, scenario, version, line, found)
    return store.memory.fresh(key, stamp, lambda: retimed(scenario, version.plan, line, found))


def _stamp(
    store: Repository, scenario: Scenario, version: StoredVersion, line: str, found: tuple[Followed, ...]
) -> tuple[object, ...]:  # fmt: skip
    went = tuple((one.run.id, round(one.run.start_min), round(one.run.last_pack_min), one.run.packs) for one in found)
    begun = tuple(sorted(run.id for run in scenario.opening.begun_on(line)))
    return store.plans.state(), version.note.number, begun, went


def _hours(scenario: Scenario, plan: LinePlan, told: Heard, now_min: float) -> tuple[HourBoard, ...]:
    """The clock's hours around now."""
    if told.packs is None:
        return ()
    begun = floor(now_min)
    full = float(begun - local_time(scenario, begun).minute)
    hours = [full + 60.0 * number for number in range(-HOURS_BACK, HOURS_AHEAD + 2)]
    return hours_of(scenario, plan, told.packs, told.stood, hours, now_min)
