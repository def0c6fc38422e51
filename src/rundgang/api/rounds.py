"""The routes of the walk: a line's round as it is now, and what was found on it."""

import time
from datetime import UTC, timedelta
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import Field

from rundgang.api.deps import Now, Store
from rundgang.api.now import LineNow, ReadNow, line_now
from rundgang.api.views import LineView
from rundgang.core.floor.round import Find, Round, round_on, standing_of
from rundgang.core.model import Id, Model
from rundgang.core.orders import Window
from rundgang.core.scenario import Scenario
from rundgang.formats.accounted import Note, Pulled
from rundgang.formats.clock import days_of
from rundgang.jobs.handover import newest_note
from rundgang.jobs.rounds import Entry, PulledEntry, Taken, take, take_pulled
from rundgang.store.inspections import Found, StoredFound
from rundgang.store.repository import Repository

router = APIRouter(prefix="/api/rounds")

LOOK_BACK = timedelta(hours=36)
"""What was found so long ago is of no round any more."""

SHOWN_BACK = timedelta(hours=8)
"""So far back it is shown what was pulled."""

STANDING_S = 20.0
"""So long it is as good as new how the rounds stand, s."""

MOST_SENT = 500
"""So many entries are taken at once."""


class RoundView(Model):
    """A line's round with all that its page shows: a tablet keeps it while there is no network.

    Attributes
    ----------
    number, inspections, version : int
        Of the window, of the checks, and of the plan that it was made of.
    products, preparations : dict of str to str
        What the line's products, and its preparations, are called.
    read : tuple of ReadNow
        What the line's instruments read last.
    pulled : tuple of Pulled
        What was pulled off the line in the last hours.
    handover : Note or None
        What the last shift has handed over.
    """

    number: int
    inspections: int
    version: int
    plant: str
    time_zone: str
    window: Window
    now_min: float
    clock_speed: float
    clock_simulated: bool
    lines: tuple[LineView, ...]
    products: dict[str, str]
    preparations: dict[str, str]
    round: Round
    read: tuple[ReadNow, ...]
    pulled: tuple[Pulled, ...]
    handover: Note | None


class LineStanding(Model):
    """How many checks of a line are due and not late yet, how many are late, and how many failed ones hold packs."""

    line: Id
    due: int
    late: int
    held: int


class PulledRequest(Model):
    """What was pulled off lines, in the order in which it was."""

    entries: tuple[PulledEntry, ...] = Field(min_length=1, max_length=MOST_SENT)


class EntriesRequest(Model):
    """What was found, in the order in which it was."""

    entries: tuple[Entry, ...] = Field(min_length=1, max_length=MOST_SENT)


@router.get("")
def walked(store: Store, now: Now, line: Annotated[Id, Query()]) -> RoundView:
    """A line's round: its stops in walking order, with all that is due in the next hours."""
    scenario = store.windows.scenario()
    going = line_now(store, now, line)
    return RoundView(
        number=store.windows.window().id or 0,
        inspections=store.inspections.newest().number,
        version=going.version,
        plant=scenario.plant.name,
        time_zone=scenario.plant.time_zone,
        window=scenario.window,
        now_min=now.minute_of(scenario.window.starts_at),
        clock_speed=now.speed,
        clock_simulated=now.is_simulated,
        lines=tuple(LineView(id=one.id, name=one.name) for one in scenario.plant.lines),
        products={made.id: made.name for made in scenario.products if made.line == line},
        preparations={made.id: made.name for made in scenario.preparations if made.line == line},
        round=_round(store, now, going),
        read=going.read,
        pulled=store.evening.pulled(line, now.now() - SHOWN_BACK, now.now() + LOOK_BACK),
        handover=newest_note(store, now, line),
    )


@router.get("/standing")
def standing(store: Store, now: Now) -> tuple[LineStanding, ...]:
    """How the rounds of all lines stand; nothing where no plan is published."""
    if store.plans.published() is None or not store.inspections.newest().inspections.all:
        return ()
    stamp = store.plans.state(), int(time.monotonic() / STANDING_S)
    key = "standing", store.windows.window().id
    return store.memory.fresh(key, stamp, lambda: _standing(store, now))


@router.post("/entries", status_code=201)
def enter(store: Store, now: Now, request: EntriesRequest) -> Taken:
    """Take what was found, in its order, each once however often it is sent; what is wrong is refused by itself."""
    return take(store, now, request.entries)


@router.post("/pulled", status_code=201)
def pull(store: Store, now: Now, request: PulledRequest) -> Taken:
    """Take what was pulled off lines, each once however often it is sent; what is wrong is refused by itself."""
    return take_pulled(store, now, request.entries)


@router.get("/entries")
def entries(
    store: Store, now: Now, line: Annotated[Id, Query()], hours: Annotated[int, Query(ge=1, le=744)] = 36
) -> tuple[StoredFound, ...]:
    """What was found on a line in the last hours, in the order of its moments."""
    return store.inspections.found(line, now.now() - timedelta(hours=hours), now.now() + timedelta(hours=1))


def _standing(store: Repository, now: Now) -> tuple[LineStanding, ...]:
    scenario = store.windows.scenario()
    found = list[LineStanding]()
    for line in scenario.plant.lines:
        seen = _round(store, now, line_now(store, now, line.id))
        due, late = standing_of(seen, now.minute_of(scenario.window.starts_at))
        found.append(LineStanding(line=line.id, due=due, late=late, held=len(seen.held)))
    return tuple(found)


def _round(store: Repository, now: Now, going: LineNow) -> Round:
    scenario = store.windows.scenario()
    begin = now.now() - LOOK_BACK
    windows = store.windows.rolled_from()
    found = store.inspections.found(going.line, begin, now.now() + LOOK_BACK)
    finds = [_find(scenario, one) for one in found if one.window in windows]
    return round_on(
        scenario,
        going.plan,
        store.inspections.newest().inspections,
        finds,
        _probed(store, going),
        days_of(scenario),
        now.minute_of(scenario.window.starts_at),
    )


def _find(scenario: Scenario, found: Found) -> Find:
    starts_at = scenario.window.starts_at.astimezone(UTC)
    return Find(
        occasion=found.occasion,
        inspection=found.inspection,
        at_min=(found.at - starts_at).total_seconds() / 60,
        measured=found.measured,
        word=found.word,
        good=found.good,
        says=found.says,
        note=found.note,
        author=found.author,
    )


def _probed(store: Repository, going: LineNow) -> dict[tuple[str, int], float]:
    """What the dough room has probed of the plan, by run and batch, °C."""
    version = store.plans.version(going.version)
    stored = next(one for one in version.plans if one.plan.line == going.line)
    return {dough: measured.dough_c for dough, measured in store.probes.log(stored.number).items()}
