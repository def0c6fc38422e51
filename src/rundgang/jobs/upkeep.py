"""Upkeep as it is told: the tools of a line as they are worn, what is to be cleaned, and the diary of what was."""

from datetime import datetime, timedelta
from uuid import UUID

from pydantic import Field

from rundgang.clock import Clock
from rundgang.core.errors import RundgangError, UnknownItemError
from rundgang.core.floor.upkeep import Cleaned, DueCleaning, ToolState, due_cleanings, renewed_at, tool_states
from rundgang.core.model import Id, Model, Name, Text
from rundgang.core.planning.lines_in_place import planned_line
from rundgang.core.planning.model import LinePlan
from rundgang.core.planning.past import opened
from rundgang.core.scenario import Scenario
from rundgang.formats.clock import minute_of, moment_of
from rundgang.jobs.following import went
from rundgang.store.repository import Repository
from rundgang.store.upkeep import NewUpkeep, StoredUpkeep, UpkeepKind

DIARY_DAYS = 14
"""So far back the diary is shown."""

BACK_MIN, AHEAD_MIN = 12 * 60.0, 24 * 60.0
"""Cleanings are shown so long behind now and ahead of it, min."""

LONGEST_MIN = 24 * 60.0
"""Nothing takes longer, min."""


class NotToldError(RundgangError):
    """An entry that cannot be so; the message says why and what is allowed."""


class Upkept(Model):
    """The upkeep of a line.

    Attributes
    ----------
    stations : dict of str to str
        What they are called, in walking order.
    due : tuple of DueCleaning
        What the plan leaves time to clean, that nobody has told of.
    days : int
        So far back the diary goes.
    """

    line: Id
    name: str
    now_min: float
    stations: dict[Id, str]
    tools: tuple[ToolState, ...]
    due: tuple[DueCleaning, ...]
    days: int
    diary: tuple[StoredUpkeep, ...]


class UpkeepTold(Model):
    """What somebody has done at a station, from when until when on the plant's clock."""

    uuid: UUID
    station: Id
    kind: UpkeepKind
    what: Name
    tool: Id | None = None
    began_at: datetime
    ended_at: datetime
    author: Text = Field(min_length=1, max_length=60)


def upkeep_of(store: Repository, clock: Clock, line: str) -> Upkept:
    """The upkeep of a line; UnknownItemError where there is no such line, NothingPublishedError where nothing is."""
    scenario, plan, now_min = _as_it_stands(store, clock, line)
    diary = store.upkeep.since(line, clock.now() - timedelta(days=DIARY_DAYS))
    cleaned = [Cleaned(one.station, minute_of(scenario, one.ended_at)) for one in diary if one.kind == "cleaned"]
    due = (
        one
        for one in due_cleanings(scenario, plan, now_min, cleaned)
        if now_min - BACK_MIN <= one.until_min <= now_min + AHEAD_MIN
    )
    return Upkept(
        line=line,
        name=scenario.line(line).name,
        now_min=now_min,
        stations={station.id: station.name for station in scenario.line(line).stations},
        tools=tool_states(scenario, plan, now_min),
        due=tuple(sorted(due, key=lambda one: one.until_min)),
        days=DIARY_DAYS,
        diary=diary,
    )


def _as_it_stands(store: Repository, clock: Clock, line: str) -> tuple[Scenario, LinePlan, float]:
    """The scenario at this moment, and the published plan of a line as the counters have seen it."""
    version, scenario = store.plans.live(), store.windows.scenario()
    scenario.line(line)
    plan, now_min = planned_line(version.plan, line), max(0.0, clock.minute_of(scenario.window.starts_at))
    present = opened(scenario, store.plans.floor_plans(), now_min)
    return present, went(store, present, plan, now_min), now_min


def tell(store: Repository, clock: Clock, line: str, told: UpkeepTold) -> None:
    """Note what was done at a station; a tool that was renewed is new from then on.

    Raises
    ------
    UnknownItemError
        No such line, station or tool.
    NotToldError
        It ends before it begins, lies ahead, or took longer than anything does.
    """
    store.openings.locked_window()
    if store.upkeep.is_told(told.uuid):
        return
    scenario, plan, now_min = _as_it_stands(store, clock, line)
    begin, end = minute_of(scenario, told.began_at), minute_of(scenario, told.ended_at)
    _refuse(scenario, line, told, (begin, end, now_min))
    moments = {"began_at": moment_of(scenario, begin), "ended_at": moment_of(scenario, end)}
    store.upkeep.add(NewUpkeep(line=line, **told.model_dump() | moments))
    if told.tool is not None:
        worn = renewed_at(scenario, plan, told.station, told.tool, end)
        now = store.windows.scenario()
        opening = now.opening.model_copy(update={"worn": worn})
        store.openings.write(now.changed(opening=opening), f"{told.what}, by {told.author}")
    store.session.commit()


def _refuse(scenario: Scenario, line: str, told: UpkeepTold, minutes: tuple[float, float, float]) -> None:
    begin, end, now_min = minutes
    stations = {station.id: station for station in scenario.line(line).stations}
    if told.station not in stations:
        raise UnknownItemError("station", told.station, tuple(stations))
    tools = tuple(tool.id for tool in stations[told.station].tools)
    if (told.kind == "renewed") != (told.tool is not None):
        raise NotToldError("What is renewed is a tool, and only that. Allowed: a tool with 'renewed', none else.")
    if told.tool is not None and told.tool not in tools:
        raise UnknownItemError("tool", told.tool, tools)
    if not 0 <= end - begin <= LONGEST_MIN:
        raise NotToldError("It ends before it begins, or took longer than a day. Allowed: up to 24 h, in order.")
    if end > now_min + 1:
        raise NotToldError("It would end later than now. Allowed: what has been done.")


def release(store: Repository, clock: Clock, line: str, number: int, author: str) -> None:
    """Release what was done: by somebody else than whoever did it. Once released, it stays so.

    Raises
    ------
    UnknownItemError
        The line's diary has no such entry.
    NotToldError
        Whoever did it releases it.
    """
    entry = store.upkeep.entry(line, number)
    if entry.author.strip().casefold() == author.strip().casefold():
        raise NotToldError(f"{entry.author} has done it. Allowed: a release by somebody else.")
    store.upkeep.release(number, clock.now(), author)
    store.session.commit()
