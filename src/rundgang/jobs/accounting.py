"""The account of a line as people ask for it: whole hours that are over, with what was told of the stops in them."""

from datetime import UTC, datetime, timedelta
from math import ceil, floor, inf
from typing import NamedTuple

from rundgang.clock import Clock
from rundgang.core.errors import OutOfRangeError, RundgangError
from rundgang.core.floor.account import Account, ToldStop, account_of
from rundgang.core.model import Id, Model
from rundgang.core.planning.lines_in_place import planned_line
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR
from rundgang.formats.clock import local_time, minute_of, moment_of
from rundgang.jobs.following import heard
from rundgang.store.repository import Repository

SHIFT_HOURS = 8
"""So many hours are told where nobody says which."""

MOST_HOURS = 24 * 7
MOST_STOPS = 500


class NothingCountedError(RundgangError):
    """No counter has told how many packs the line made."""

    def __init__(self, line: str) -> None:
        super().__init__(
            f"Nothing has counted the packs of the {line} in these hours. Allowed: hours in which its last station is "
            "heard; the Instruments page says which are mapped."
        )


class LineAccount(Model):
    """A line's account, and the plan's version that it is held beside."""

    line: Id
    name: str
    version: int
    since: datetime
    until: datetime
    account: Account
    stations: dict[Id, str]


class _Span(NamedTuple):
    """Whole hours of the clock, min from the window's start."""

    begin: float
    until: float

    @property
    def hours(self) -> list[float]:
        """When each begins, and the last ends."""
        count = max(1, round((self.until - self.begin) / MINUTES_PER_HOUR))
        return [self.begin + MINUTES_PER_HOUR * number for number in range(count + 1)]


def line_account(
    store: Repository, clock: Clock, line: str, since: datetime | None, until: datetime | None
) -> LineAccount:  # fmt: skip
    """The account of a line.

    Parameters
    ----------
    since, until : datetime, optional
        On the plant's clock, rounded to whole hours; none: the last eight hours that are over.

    Raises
    ------
    UnknownItemError
        No such line.
    NothingPublishedError
    OutOfRangeError
        No whole hour that is over lies between the two, or too many do.
    NothingCountedError
    """
    version, scenario = store.plans.live(), store.windows.scenario()
    plan, known = planned_line(version.plan, line), scenario.line(line)
    now_min = clock.minute_of(scenario.window.starts_at)
    span = _span(scenario, now_min, since, until)
    told = heard(store.readings, scenario, plan, min(now_min, span.until + MINUTES_PER_HOUR))
    if told.packs is None or told.packs.since_min >= span.until:
        raise NothingCountedError(known.name)
    begin = max(span.begin, _next_hour(scenario, told.packs.since_min))
    if begin >= span.until:
        raise NothingCountedError(known.name)
    hours = _Span(begin, span.until).hours
    scrapped = _scrapped(store, line, moment_of(scenario, begin), moment_of(scenario, span.until))
    account = account_of(scenario, plan, told.packs, told.stood, _told(store, scenario, line), hours, scrapped)
    return LineAccount(
        line=line,
        name=known.name,
        version=version.note.number,
        since=moment_of(scenario, begin),
        until=moment_of(scenario, span.until),
        account=account,
        stations={station.id: station.name for station in known.stations},
    )


def _span(scenario: Scenario, now_min: float, since: datetime | None, until: datetime | None) -> _Span:
    full = _full_hour(scenario, now_min)
    end = full if until is None else min(full, _full_hour(scenario, minute_of(scenario, until)))
    begin = end - SHIFT_HOURS * MINUTES_PER_HOUR if since is None else _full_hour(scenario, minute_of(scenario, since))
    begin = max(begin, _next_hour(scenario, 0.0))
    count = (end - begin) / MINUTES_PER_HOUR
    if not 1 <= count <= MOST_HOURS:
        raise OutOfRangeError("The account", f"of {count:.0f} whole hours that are over", f"1 to {MOST_HOURS}")
    return _Span(begin, end)


def _full_hour(scenario: Scenario, minute: float) -> float:
    """The last whole hour of the plant's clock at a minute."""
    whole = floor(minute)
    return float(whole - local_time(scenario, whole).minute)


def _next_hour(scenario: Scenario, minute: float) -> float:
    """The next whole hour of the plant's clock from a minute on."""
    full = _full_hour(scenario, ceil(minute))
    return full if full >= minute else full + MINUTES_PER_HOUR


def _told(store: Repository, scenario: Scenario, line: str) -> list[ToldStop]:
    found = list[ToldStop]()
    for stop in store.stops.listed(None, MOST_STOPS):
        said = next((event.said for event in reversed(stop.events) if event.kind == "cause"), None)
        if stop.line == line and said:
            ends = inf if stop.ended_at is None else minute_of(scenario, stop.ended_at)
            cause = f"{said['cause']}: {said['exactly']}"
            found.append(ToldStop(stop.station, minute_of(scenario, stop.began_at), ends, cause))
    return found


def _scrapped(store: Repository, line: str, begin: datetime, until: datetime) -> int:
    """Packs of a line that were scrapped in a time."""
    lots = store.lots.since("packs", begin.astimezone(UTC) - timedelta(days=30), line)
    events = store.lots.events_of([lot.number for lot in lots])
    return sum(int(event.said["packs"]) for event in events if event.kind == "scrap" and begin <= event.at < until)
