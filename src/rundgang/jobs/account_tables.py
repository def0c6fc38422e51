"""Accounts beside each other: by shift, day, week, line or product, each row with what it comes to."""

from collections.abc import Iterator
from datetime import UTC, date, datetime, time, timedelta, tzinfo
from itertools import pairwise
from typing import NamedTuple

from rundgang.clock import Clock
from rundgang.formats.accounted import AccountBy, AccountRow, AccountTable, Pulled, Scrapped, Tally
from rundgang.formats.clock import moment_of, zone_of
from rundgang.jobs.accounting import (
    Cell,
    LineSeen,
    NothingCountedError,
    asked_span,
    product_tallies,
    tally_of,
)
from rundgang.jobs.spells import spells
from rundgang.store.repository import Repository

WEEK = timedelta(days=7)

FIRST_HOURS = (6, 14, 22)
"""When shifts begin where the calendar says none, h."""

NO_SHIFTS = "The calendar says no shifts: these are thirds of the day, from 06:00 on."


class _Stretch(NamedTuple):
    """A stretch of time with its name."""

    name: str
    since: datetime
    until: datetime


class _All(NamedTuple):
    """Lines over some time, with what was scrapped and pulled in it."""

    lines: list[LineSeen]
    store: Repository

    def cells(self, since: datetime, until: datetime) -> list[Cell]:
        return [cell for line in self.lines for cell in line.cells(since, until)]

    def off(self, since: datetime, until: datetime) -> tuple[list[Scrapped], list[Pulled]]:
        """What was scrapped, and what was pulled, in a time."""
        at = since.astimezone(UTC), until.astimezone(UTC)
        evening = self.store.evening
        return (
            [one for line in self.lines for one in evening.scrapped(line.line, *at)],
            [one for line in self.lines for one in evening.pulled(line.line, *at)],
        )

    def tally(self, since: datetime, until: datetime) -> Tally | None:
        cells = self.cells(since, until)
        return tally_of(cells, *self.off(since, until)) if cells else None


def account_table(
    store: Repository, clock: Clock, by: AccountBy, line: str | None, since: datetime | None, until: datetime | None
) -> AccountTable:  # fmt: skip
    """Accounts beside each other.

    Parameters
    ----------
    line : str, optional
        None: all lines.
    since, until : datetime, optional
        On the plant's clock, rounded to whole hours; none: the last eight hours that are over.

    Raises
    ------
    UnknownItemError
        No such line.
    OutOfRangeError
        No whole hour that is over lies between the two, or too many do.
    NothingCountedError
    """
    scenario = store.windows.scenario()
    begin, end = asked_span(store, clock, since, until)
    names = [scenario.line(line).id] if line else [one.id for one in scenario.plant.lines]
    known = _All([LineSeen(store, clock, name, begin, end) for name in names], store)
    total = known.tally(begin, end)
    if total is None:
        raise NothingCountedError(known.lines[0].name if line else "lines")
    span = _Stretch("", begin, end)
    assumed = by == "shift" and not _told_shifts(store, clock, span)
    return AccountTable(
        by=by,
        says=NO_SHIFTS if assumed else "",
        since=begin,
        until=end,
        currency=scenario.plant.currency,
        rows=tuple(_rows(known, clock, by, span)),
        total=total,
    )


def _rows(known: _All, clock: Clock, by: AccountBy, span: _Stretch) -> Iterator[AccountRow]:
    whole = {"line": None, "product": None, "since": span.since, "until": span.until}
    match by:
        case "line":
            for line in known.lines:
                tally = _All([line], known.store).tally(span.since, span.until)
                if tally:
                    yield AccountRow(name=line.name, **whole | {"line": line.line}, tally=tally)
        case "product":
            scenario, cells = known.store.windows.scenario(), known.cells(span.since, span.until)
            names = {product.id: product.name for product in scenario.products}
            for product, tally in product_tallies(cells, *known.off(span.since, span.until)).items():
                yield AccountRow(name=names.get(product, product), **whole | {"product": product}, tally=tally)
        case _:
            only = known.lines[0].line if len(known.lines) == 1 else None
            for part in _stretches(known.store, clock, by, span):
                since, until = max(part.since, span.since), min(part.until, span.until)
                tally = known.tally(since, until) if since < until else None
                if tally:
                    yield AccountRow(name=part.name, line=only, product=None, since=since, until=until, tally=tally)


def _stretches(store: Repository, clock: Clock, by: AccountBy, span: _Stretch) -> Iterator[_Stretch]:
    """The shifts, days or weeks that a time sees something of, on the plant's clock."""
    zone = zone_of(store.windows.scenario())
    if by == "shift":
        yield from _shifts(store, clock, zone, span)
        return
    day = span.since.astimezone(zone).date()
    if by == "week":
        day -= timedelta(days=day.weekday())
    while (begin := _midnight(day, zone)) < span.until:
        if by == "week":
            year, week, _ = day.isocalendar()
            then, name = day + WEEK, f"{year} week {week}"
        else:
            then, name = day + timedelta(days=1), f"{day:%A} {day:%Y-%m-%d}"
        yield _Stretch(name, begin, _midnight(then, zone))
        day = then


def _midnight(day: date, zone: tzinfo) -> datetime:
    return datetime.combine(day, time(), zone)


def _shifts(store: Repository, clock: Clock, zone: tzinfo, span: _Stretch) -> Iterator[_Stretch]:
    """The shifts that the calendar said in each window; where it says none, thirds of the day."""
    for begin, until in sorted(_told_shifts(store, clock, span) or _thirds(zone, span)):
        at, ends = begin.astimezone(zone), until.astimezone(zone)
        yield _Stretch(f"{at:%a %Y-%m-%d} {at:%H:%M}–{ends:%H:%M}", begin, until)


def _told_shifts(store: Repository, clock: Clock, span: _Stretch) -> set[tuple[datetime, datetime]]:
    """From when until when each shift is that the calendar of its window says."""
    found = set[tuple[datetime, datetime]]()
    for spell in spells(store, clock, span.since):
        for shift in spell.store.windows.shifts(spell.scenario):
            begin, until = (moment_of(spell.scenario, minute) for minute in (shift.from_min, shift.to_min))
            if begin < span.until and span.since < until:
                found.add((begin.astimezone(UTC), until.astimezone(UTC)))
    return found


def _thirds(zone: tzinfo, span: _Stretch) -> Iterator[tuple[datetime, datetime]]:
    """Thirds of the day, from six in the morning on (common practice, no published source)."""
    day = span.since.astimezone(zone).date() - timedelta(days=1)
    while _midnight(day, zone) < span.until:
        moments = [datetime.combine(day, time(hour), zone) for hour in FIRST_HOURS]
        moments.append(datetime.combine(day + timedelta(days=1), time(FIRST_HOURS[0]), zone))
        for begin, until in pairwise(moment.astimezone(UTC) for moment in moments):
            if begin < span.until and span.since < until:
                yield begin, until
        day += timedelta(days=1)
