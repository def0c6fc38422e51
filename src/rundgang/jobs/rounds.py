"""Taking what was found on the walk: each once, in order, with its own time, whenever it comes."""

from collections.abc import Sequence
from contextlib import suppress
from datetime import datetime, timedelta
from uuid import UUID

from pydantic import AwareDatetime, Field

from rundgang.clock import Clock
from rundgang.core.errors import RundgangError, UnknownItemError
from rundgang.core.floor.inspections import Inspection, Judged, judged, limits_of
from rundgang.core.floor.waste import WasteCause, run_there
from rundgang.core.model import Id, Model, Text
from rundgang.core.planning.model import LinePlan
from rundgang.core.scenario import Scenario
from rundgang.formats.accounted import Pulled
from rundgang.formats.clock import minute_of
from rundgang.jobs.probing import note_probe
from rundgang.store.inspections import Found
from rundgang.store.repository import Repository

AHEAD = timedelta(minutes=5)
"""Clocks may be so far apart."""

BACK = timedelta(days=14)
"""A tablet may have been without a network for so long."""

COULD_NOT = "could not be taken"


class Entry(Model):
    """What was found, as it was entered.

    Attributes
    ----------
    uuid : UUID
        Of the entry, given where it was made.
    window, version : int
        Of the round that it was made on: the window, and the version of the checks.
    cannot : bool
        Whether it could not be taken; the note says why.
    """

    uuid: UUID
    window: int = Field(ge=1, le=2_000_000_000)
    version: int = Field(ge=1, le=2_000_000_000)
    occasion: str = Field(min_length=1, max_length=200)
    inspection: Id
    run: str | None = Field(default=None, max_length=40)
    product: Id | None = None
    preparation: Id | None = None
    batch: int | None = Field(default=None, ge=1, le=100_000)
    at: AwareDatetime
    measured: tuple[float, ...] = Field(default=(), max_length=20)
    word: Text | None = Field(default=None, max_length=30)
    cannot: bool = False
    note: Text = Field(default="", max_length=200)
    author: Text = Field(min_length=1, max_length=60)


class PulledEntry(Model):
    """Pieces that were pulled off a line, as it was entered; its uuid is given where it was made."""

    uuid: UUID
    window: int = Field(ge=1, le=2_000_000_000)
    line: Id
    station: Id
    pieces: int = Field(ge=1, le=100_000)
    cause: WasteCause
    at: AwareDatetime
    note: Text = Field(default="", max_length=200)
    author: Text = Field(min_length=1, max_length=60)


class Refused(Model):
    """An entry that was not taken, and why."""

    uuid: UUID
    why: str


class Taken(Model):
    """The entries that are there now, were they sent before or not; and those that were refused."""

    taken: tuple[UUID, ...]
    refused: tuple[Refused, ...]


def take(store: Repository, now: Clock, entries: Sequence[Entry]) -> Taken:
    """Take entries in their order; all that are said to be taken are there once this returns."""
    taken, refused = list[UUID](), list[Refused]()
    known = store.inspections.known_of([entry.uuid for entry in entries])
    for entry in entries:
        if entry.uuid in known:
            taken.append(entry.uuid)
            continue
        try:
            found, one = _judged(store, now, entry)
        except (RundgangError, ValueError) as error:
            refused.append(Refused(uuid=entry.uuid, why=str(error)))
            continue
        if store.inspections.add(found) and one.is_probe and entry.preparation is None:
            _probe(store, one, found)
        taken.append(entry.uuid)
    store.session.commit()
    return Taken(taken=tuple(taken), refused=tuple(refused))


def take_pulled(store: Repository, now: Clock, entries: Sequence[PulledEntry]) -> Taken:
    """Take what was pulled off a line; all that is said to be taken is there once this returns."""
    taken, refused = list[UUID](), list[Refused]()
    known = store.evening.pulled_of([entry.uuid for entry in entries])
    for entry in entries:
        try:
            if entry.uuid not in known:
                store.evening.pull(_pulled(store, now, entry))
            taken.append(entry.uuid)
        except (RundgangError, ValueError) as error:
            refused.append(Refused(uuid=entry.uuid, why=str(error)))
    store.session.commit()
    return Taken(taken=tuple(taken), refused=tuple(refused))


def _pulled(store: Repository, now: Clock, entry: PulledEntry) -> Pulled:
    """What was pulled as it is stored: with the run that was there; RundgangError with what is wrong in it."""
    _refuse_far(now, entry.at)
    window = Repository(store.session, entry.window)
    scenario = window.windows.scenario()
    stations = tuple(station.id for station in scenario.line(entry.line).stations)
    if entry.station not in stations:
        raise UnknownItemError("station", entry.station, stations)
    plan = next((plan for plan in window.plans.floor_plans() if plan.line == entry.line), None)
    run = run_there(scenario, plan, entry.station, minute_of(scenario, entry.at)) if plan else None
    there = {"run": run.id if run else None, "product": run.product if run else None}
    return Pulled(**entry.model_dump(exclude={"window"}), **there)


def _refuse_far(now: Clock, at: datetime) -> None:
    if not now.now() - BACK <= at <= now.now() + AHEAD:
        raise RundgangError(f"It is of {at:%Y-%m-%d %H:%M}. Allowed: the last {BACK.days} days, up to now.")


def _judged(store: Repository, now: Clock, entry: Entry) -> tuple[Found, Inspection]:
    """An entry as it is stored; RundgangError or ValueError with what is wrong in it."""
    one = _inspection(store, entry)
    _refuse_far(now, entry.at)
    scenario = _scenario(store, entry)
    product = entry.product if entry.product in {made.id for made in scenario.products} else None
    prepared = entry.preparation if entry.preparation in {made.id for made in scenario.preparations} else None
    if entry.cannot:
        says = Judged(good=False, says=COULD_NOT)
    else:
        says = judged(one.asks, limits_of(scenario, one, product, prepared), entry.measured, entry.word)
    found = Found(
        **entry.model_dump(exclude={"cannot", "preparation"}),
        line=one.line,
        station=one.station,
        good=None if entry.cannot else says.good,
        says=says.says,
    )
    return found, one


def _inspection(store: Repository, entry: Entry) -> Inspection:
    inspections = store.inspections.version(entry.version).inspections
    found = next((one for one in inspections.all if one.id == entry.inspection), None)
    if found is None:
        raise UnknownItemError("check", entry.inspection)
    return found


def _scenario(store: Repository, entry: Entry) -> Scenario:
    """The scenario of the window that the entry is of, which may have gone on since."""
    return Repository(store.session, entry.window).windows.scenario()


def _probe(store: Repository, one: Inspection, found: Found) -> None:
    """A dough's temperature on the walk is a probe as well, which the next dough's water learns from."""
    if found.run is None or found.batch is None or found.good is None:
        return
    window = Repository(store.session, found.window)
    published = window.plans.published()
    if published is None:
        return
    version = window.plans.version(published.version)
    stored = next((stored for stored in version.plans if stored.plan.line == one.line), None)
    if stored is None or not _is_mixed_there(window.windows.scenario(), stored.plan, one, found):
        return
    scenario = window.windows.scenario(stored.book, stored.library, stored.opening)
    with suppress(UnknownItemError):
        note_probe(window, scenario, stored, found.run, found.batch, found.measured[0])


def _is_mixed_there(scenario: Scenario, plan: LinePlan, one: Inspection, found: Found) -> bool:
    run = next((run for run in plan.runs if run.id == found.run), None)
    made = scenario.product(run.product) if run else None
    return made is not None and bool(made.formula) and made.mixing.station == one.station
