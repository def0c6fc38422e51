"""The routes of a stop: what it does to what is on the line, what can be done, and one option taken."""

from datetime import datetime

from fastapi import APIRouter
from pydantic import Field

from rundgang.api.changing import Changed, store_as_fact
from rundgang.api.deps import Author, Now, Number, Replanned, Store, at_present
from rundgang.clock import Clock
from rundgang.core.errors import MalformedError, RundgangError, UnknownItemError
from rundgang.core.floor.effect import StopEffect, effect_of
from rundgang.core.floor.options import OptionKind, StopOption, cheapest_of, outcomes_of, stopped_at
from rundgang.core.floor.stop import LONGEST_STOOD_MIN, Stop
from rundgang.core.model import Id, Model, PositiveMinutes
from rundgang.core.planning.checked import checked, refuse_unsound
from rundgang.core.planning.lines_in_place import planned_line
from rundgang.core.planning.past import opened
from rundgang.core.scenario import Scenario
from rundgang.formats.clock import clock, minute_of
from rundgang.store.plans import StoredVersion
from rundgang.store.repository import Repository

router = APIRouter(prefix="/api/versions")


SAME_MIN = 0.01
"""Durations that differ by no more are the same, min."""


class NotWorkedByError(RundgangError):
    """A version that is not what has happened on the floor."""

    def __init__(self, number: int) -> None:
        super().__init__(
            f"Version {number} is not what the floor has worked by so far. "
            "Allowed: the published version, or one that was made from it."
        )


class StopRequest(Model):
    """A station that stands, from a time on the plant's clock; how long at least, as it seems, and at most."""

    line: Id
    station: Id
    begins: datetime | None = Field(default=None, description="on the plant's clock; none: now")
    low_min: PositiveMinutes
    likely_min: PositiveMinutes
    high_min: PositiveMinutes
    heat_fails: bool = Field(default=False, description="it lost its heat, not its drive")
    number: int | None = Field(
        default=None, ge=1, le=2_000_000_000, description="of the stop in the log, if it is there"
    )


class StopAdvice(Model):
    """What a stop does, and what can be done: to wait for each duration, then the other ways; which is cheapest.

    None is where the plan of none passes the check.
    """

    effect: StopEffect
    options: tuple[StopOption, ...]
    cheapest: int | None


class TakenRequest(Model):
    """An option of a stop to go by, as it was offered, and who says so."""

    stop: StopRequest
    kind: OptionKind
    minutes: float = Field(gt=0, le=20_160)
    run: str | None = Field(default=None, max_length=40)
    made_as: Id | None = None
    author: Author = "planner"


@router.post("/{number}/stops")
def advise(store: Store, now: Now, number: Number, request: StopRequest) -> StopAdvice:
    """What a stop does to what is on the line, by a version's plan, and what can be done. Nothing is stored."""
    scenario, version, stop = asked_stop(store, now, number, request)
    effect = effect_of(stopped_at(scenario, version.plan, stop), planned_line(version.plan, stop.line), stop)
    options = tuple(one.option for one in outcomes_of(scenario, version.plan, stop))
    return StopAdvice(effect=effect, options=options, cheapest=cheapest_of(options))


@router.post("/{number}/stops/taken", status_code=201)
def take(store: Replanned, now: Now, number: Number, request: TakenRequest) -> Changed:
    """Go by an option: the station is closed, the plan repaired, and the floor works by it from now on."""
    store.openings.locked_window()
    scenario, version, stop = asked_stop(store, now, number, request.stop)
    for found in outcomes_of(scenario, version.plan, stop):
        option = found.option
        meant = (option.kind, option.run, option.made_as) == (request.kind, request.run, request.made_as)
        if not meant or abs(option.minutes - request.minutes) > SAME_MIN:
            continue
        name = scenario.line(stop.line).station(stop.station).name
        sound = checked(found.scenario, found.plan)
        refuse_unsound(sound)
        if found.scenario.orders != scenario.orders:
            origin = f"what {name} cannot make given to another line"
            orders = (*found.scenario.orders, *store.windows.beyond(scenario))
            store.books.write(store.windows.window(), orders, origin)
        store.openings.write(found.scenario, request.author)
        note = f"{name} stands for {option.minutes:.0f} min: {SAID[option.kind]}"
        if request.stop.number is not None:
            # With the window to itself, the next version has the next number.
            made = (store.plans.newest_number() or 0) + 1
            said = {"version": made, **option.model_dump(mode="json", exclude={"moved"})}
            store.stops.note(store.stops.stop(request.stop.number).number, "taken", now.now(), said, request.author)
        stored = store_as_fact(store, found.plan, sound, number, request.author, note)
        return Changed(version=stored.note.number, cost=option.cost, cost_before=option.cost_before, moved=option.moved)
    raise UnknownItemError("option", f"{request.kind} of {request.minutes:g} min")


SAID: dict[OptionKind, str] = {
    "wait": "waited for",
    "slow": "gone on slower without one of them",
    "scrap": "what stood wasted and made again",
    "elsewhere": "the rest made on another line",
}


def worked_by(store: Repository, now: Clock, number: int) -> tuple[Scenario, StoredVersion]:
    """The scenario at this moment and a version; NotWorkedByError where the floor has worked by another."""
    scenario, version = at_present(store, now, store.windows.scenario()), store.plans.version(number)
    if opened(scenario, version.plan.plans, scenario.opening.now_min).opening.begun != scenario.opening.begun:
        raise NotWorkedByError(number)
    return scenario, version


def minute_asked(scenario: Scenario, at: datetime | None, what: str, first_min: float | None = None) -> float:
    """A time on the plant's clock as a minute of the window; now where none is given; MalformedError outside of it.

    Parameters
    ----------
    first_min : float, optional
        The first that is taken; else now.
    """
    now_min = scenario.opening.now_min
    first = now_min if first_min is None else max(0.0, first_min)
    if at is None:
        return now_min
    try:
        minute = minute_of(scenario, at)
    except RundgangError as error:
        said = f"begins is {at:%Y-%m-%d %H:%M}; allowed: {error}"
        raise MalformedError(what, (said,)) from None
    if not first <= minute <= scenario.window.minutes:
        said = f"begins at {clock(scenario, minute)}; allowed: from {clock(scenario, first)} on"
        raise MalformedError(what, (f"{said}, in the window",))
    return minute


def asked_stop(
    store: Repository, now: Clock, number: int, request: StopRequest
) -> tuple[Scenario, StoredVersion, Stop]:  # fmt: skip
    """The scenario at this moment, the version, and the stop in the window's minutes."""
    scenario, version = worked_by(store, now, number)
    now_min = scenario.opening.now_min
    begins = minute_asked(scenario, request.begins, "The stop", now_min - LONGEST_STOOD_MIN)
    if not request.low_min <= request.likely_min <= request.high_min:
        said = f"{request.low_min:g}, {request.likely_min:g} and {request.high_min:g} min"
        raise MalformedError("The stop", (f"its durations are {said}; allowed: each at least the one before",))
    stop = Stop(
        line=request.line,
        station=request.station,
        from_min=begins,
        low_min=request.low_min,
        likely_min=request.likely_min,
        high_min=request.high_min,
        fails="heat" if request.heat_fails else "drive",
        told_min=now_min,
    )
    return scenario, version, stop
