"""The routes of trouble: a station stands, what to do now, what can be done about the plan, and what became of it."""

import json
from collections.abc import Iterator
from contextlib import suppress
from datetime import datetime, timedelta
from typing import Any

from fastapi import APIRouter
from fastapi.responses import StreamingResponse
from pydantic import AwareDatetime, Field

from rundgang.api.deps import Author, Before, Most, Now, Number, Store
from rundgang.api.stops import StopRequest, asked_stop
from rundgang.clock import Clock
from rundgang.core.cautions import Caution, cautions_for
from rundgang.core.errors import MalformedError, RundgangError, UnknownItemError
from rundgang.core.floor.causes import CAUSES, HEAT, refuse_unknown
from rundgang.core.floor.effect import StopEffect, effect_of
from rundgang.core.floor.options import StopOption, cheapest_of, outcomes_of, running_again, stopped_at
from rundgang.core.floor.stop import FIRST_GUESS, LONGEST_STOOD_MIN, Guess, guesses_of
from rundgang.core.floor.todo import RunsOut, ToDo, running_out, to_do
from rundgang.core.model import Id, Model, Name
from rundgang.core.planning.lines_in_place import planned_line
from rundgang.core.units import MINUTES_PER_HOUR
from rundgang.formats.clock import local_time
from rundgang.store.repository import Repository
from rundgang.store.stops import EventKind, StoredStop

router = APIRouter(prefix="/api/trouble")

STOPS_PAGE = 50
"""So many stops are listed at once."""

ADVISER = "Rundgang"
"""Who advises."""

AHEAD = timedelta(minutes=5)
"""Clocks may be so far apart."""

BACK = timedelta(minutes=LONGEST_STOOD_MIN)
"""A stop may have begun so long ago."""


class CauseKind(Model):
    """A kind of trouble, and what exactly it may be; of some the heat fails and the drive goes on."""

    kind: str
    exactly: tuple[str, ...]
    heat: bool


class BegunRequest(Model):
    """A station stands, since a moment; none: since now."""

    line: Id
    station: Id
    began_at: AwareDatetime | None = None
    author: Author = "planner"


class EventRequest(Model):
    """What became of a stop: its cause, something of the list that is done, or that the station runs again."""

    kind: EventKind
    cause: Name | None = None
    exactly: Name | None = None
    done: str | None = Field(default=None, max_length=120)
    author: Author = "planner"


class StopView(Model):
    """A stop with what became of it.

    Attributes
    ----------
    begins : str
        On the plant's clock, as a stop is asked about.
    lasted_min : float or None
        None while it stands.
    cause, exactly : str or None
        None where nobody has said.
    guesses : tuple of Guess
        How long it may still last, to choose from.
    """

    number: int
    line: Id
    line_name: Name
    station: Id
    name: Name
    began_at: datetime
    begins: str
    author: str
    lasted_min: float | None
    cause: str | None
    exactly: str | None
    guesses: tuple[Guess, ...]
    stop: StoredStop


class NamedStation(Model):
    """A station of the line, and what it is called."""

    station: Id
    name: Name


class TroubleView(Model):
    """What a stop does, what to do at once, and the cautions that belong to it."""

    version: int
    effect: StopEffect
    stations: tuple[NamedStation, ...]
    todo: tuple[ToDo, ...]
    runs_out: tuple[RunsOut, ...]
    cautions: tuple[Caution, ...]


@router.get("/causes")
def causes() -> tuple[CauseKind, ...]:
    """Why a station can stand."""
    return tuple(CauseKind(kind=kind, exactly=exactly, heat=kind == HEAT) for kind, exactly in CAUSES.items())


@router.get("")
def stops(store: Store, before: Before = None, most: Most = STOPS_PAGE) -> tuple[StopView, ...]:
    """The stops, newest first: what was advised, what was done, and what each cost."""
    return tuple(view for stop in store.stops.listed(before, most) if (view := _view(store, stop)))


@router.get("/{number}")
def stop(store: Store, number: Number) -> StopView:
    """A stop."""
    found = _view(store, store.stops.stop(number))
    if found is None:
        raise UnknownItemError("stop", str(number))
    return found


@router.post("", status_code=201)
def begin(store: Store, now: Now, request: BegunRequest) -> StopView:
    """A station stands; the same stop where that is known already."""
    store.windows.locked_window()
    scenario = store.windows.scenario()
    line = next((one for one in scenario.plant.lines if one.id == request.line), None)
    if line is None or request.station not in {station.id for station in line.stations}:
        raise UnknownItemError("station of the line", request.station)
    began_at = request.began_at or now.now()
    if not now.now() - BACK <= began_at <= now.now() + AHEAD:
        allowed = f"the last {LONGEST_STOOD_MIN / MINUTES_PER_HOUR:g} h, up to now"
        raise MalformedError("The stop", (f"begins at {began_at:%Y-%m-%d %H:%M}; allowed: {allowed}",))
    standing = store.stops.standing(request.line, request.station)
    if standing:
        return stop(store, standing.number)
    number = store.stops.begin(request.line, request.station, began_at, now.now(), request.author)
    with suppress(RundgangError):
        store.stops.note(number, "advised", now.now(), _advice(store, now, number), ADVISER)
    store.session.commit()
    return stop(store, number)


@router.post("/{number}/events", status_code=201)
def note(store: Store, now: Now, number: Number, request: EventRequest) -> StopView:
    """What became of a stop."""
    store.windows.locked_window()
    found = store.stops.stop(number)
    if found.ended_at is not None:
        raise RundgangError("The station runs again already. Allowed: a stop that has not ended.")
    store.stops.note(number, request.kind, now.now(), _said(request), request.author)
    if request.kind == "runs":
        _end_downtime(store, now, found, request.author)
    store.session.commit()
    return stop(store, number)


@router.post("/effect")
def effect(store: Store, now: Now, request: StopRequest) -> TroubleView:
    """What a stop does by the plan that is live, and what to do now; nothing is stored."""
    scenario, version, asked = asked_stop(store, now, store.plans.live().note.number, request)
    then, plan = stopped_at(scenario, version.plan, asked), planned_line(version.plan, asked.line)
    found = effect_of(then, plan, asked)
    return TroubleView(
        version=version.note.number,
        effect=found,
        stations=tuple(NamedStation(station=one.id, name=one.name) for one in scenario.line(asked.line).stations),
        todo=to_do(then, plan, asked, found),
        runs_out=running_out(then, plan, asked),
        cautions=cautions_for(scenario.line(asked.line).station(asked.station).hazards),
    )


@router.post("/options", response_class=StreamingResponse)
def options(store: Store, now: Now, request: StopRequest) -> StreamingResponse:
    """What can be done, a line of JSON each as it is found; behind them which is cheapest for the likely time.

    Each comes with what the check says of its plan: one that breaks a rule is shown with the rule, and cannot be taken.
    """
    number = store.plans.live().note.number
    scenario, version, asked = asked_stop(store, now, number, request)

    def found() -> Iterator[str]:
        come = list[StopOption]()
        try:
            for one in outcomes_of(scenario, version.plan, asked):
                come.append(one.option)
                yield one.option.model_dump_json() + "\n"
        except RundgangError as error:
            yield json.dumps({"failed": str(error)}) + "\n"
            return
        yield json.dumps({"cheapest": cheapest_of(come), "version": number}) + "\n"

    return StreamingResponse(found(), media_type="application/x-ndjson")


def _advice(store: Repository, now: Clock, number: int) -> dict[str, Any]:
    """What is advised at once, where nobody has said yet how long it may last."""
    found = store.stops.stop(number)
    scenario = store.windows.scenario()
    begins = local_time(scenario, (found.began_at - scenario.window.starts_at).total_seconds() / 60)
    guess = guesses_of(scenario.line(found.line).station(found.station).stands)[FIRST_GUESS]
    asked = StopRequest(line=found.line, station=found.station, begins=begins, **guess.model_dump())
    view = effect(store, now, asked)
    return {
        "version": view.version,
        "restart_by_min": view.effect.restart_by_min,
        "hold_from_min": view.effect.hold_from_min,
        "todo": [one.model_dump(mode="json") for one in view.todo],
    }


def _said(request: EventRequest) -> dict[str, str]:
    match request.kind:
        case "cause":
            refuse_unknown(request.cause or "", request.exactly or "")
            return {"cause": request.cause or "", "exactly": request.exactly or ""}
        case "done":
            if not request.done:
                raise MalformedError("What was done", ("done is empty; allowed: what of the list it is",))
            return {"done": request.done}
        case "runs":
            return {}
        case "advised" | "taken":
            raise MalformedError("The event", (f"kind is {request.kind}; allowed: cause, done, runs",))


def _end_downtime(store: Repository, now: Clock, stop: StoredStop, author: str) -> None:
    """The station's downtime that the plan still counts on ends now."""
    scenario = store.windows.scenario()
    after = running_again(scenario, stop.line, stop.station, now.minute_of(scenario.window.starts_at))
    if after != scenario:
        store.openings.write(after, author)


def _view(store: Repository, stop: StoredStop) -> StopView | None:
    """A stop as it is shown; None where its station is no more."""
    scenario = store.windows.scenario()
    line = next((one for one in scenario.plant.lines if one.id == stop.line), None)
    station = next((one for one in line.stations if one.id == stop.station), None) if line else None
    if line is None or station is None:
        return None
    told = next((event.said for event in reversed(stop.events) if event.kind == "cause"), {})
    began_min = (stop.began_at - scenario.window.starts_at).total_seconds() / 60
    return StopView(
        number=stop.number,
        line=line.id,
        line_name=line.name,
        station=station.id,
        name=station.name,
        began_at=stop.began_at,
        begins=local_time(scenario, began_min).isoformat(timespec="seconds"),
        author=stop.author,
        lasted_min=(stop.ended_at - stop.began_at).total_seconds() / 60 if stop.ended_at else None,
        cause=told.get("cause"),
        exactly=told.get("exactly"),
        guesses=guesses_of(station.stands),
        stop=stop,
    )
