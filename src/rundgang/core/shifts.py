"""Shifts: who of the crews is there in a window, and so who is away, minute by minute of it."""

from collections.abc import Iterable, Iterator, Sequence
from datetime import tzinfo

from rundgang.core.calendar import REACH, Calendar, CrewShift, days_between, span_of
from rundgang.core.model import Model
from rundgang.core.orders import Absence, Window
from rundgang.core.plant import Crew, Plant

LONG_AFTER_MIN = 20_160.0
"""An absence that no shift ends goes on for two weeks behind the window, min."""


class Shift(Model):
    """A shift of a window, from its start, min; and the crews that come together for it."""

    from_min: float
    to_min: float
    crews: tuple[str, ...]


def shifts_of(calendar: Calendar, plant: Plant, zone: tzinfo | None, window: Window) -> tuple[Shift, ...]:
    """The shifts that a window sees something of, in the order of the clock."""
    crews = dict[tuple[float, float], list[str]]()
    for crew in plant.crews:
        own = [shift for shift in calendar.shifts if shift.crew == crew.id]
        for begins, ends, _ in _shift_spans(calendar, own, zone, window):
            if begins < window.minutes and ends > 0:
                crews.setdefault((begins, ends), []).append(crew.name)
    return tuple(
        Shift(from_min=begins, to_min=ends, crews=tuple(crews[begins, ends])) for begins, ends in sorted(crews)
    )


def absences_of(calendar: Calendar, plant: Plant, zone: tzinfo | None, window: Window) -> tuple[Absence, ...]:
    """Who of the crews is not there in a window: all but those that the shifts bring, each stretch by itself."""
    found = list[Absence]()
    for crew in plant.crews:
        shifts = [shift for shift in calendar.shifts if shift.crew == crew.id]
        if shifts:
            found += _absent(crew, _shift_spans(calendar, shifts, zone, window), window)
    return tuple(found)


def _shift_spans(
    calendar: Calendar, shifts: Iterable[CrewShift], zone: tzinfo | None, window: Window
) -> list[tuple[float, float, int]]:  # fmt: skip
    """From when to when how many are there, min; none on a holiday."""
    first, last = (day.date() for day in span_of(window, zone))
    holidays, spans = {one.on for one in calendar.holidays}, list[tuple[float, float, int]]()
    for day in days_between(first - REACH, last + REACH):
        for shift in shifts:
            if shift.comes_on(day) and day not in holidays:
                spans.append((*shift.span_on(day, zone, window), shift.people))
    return spans


def _absent(crew: Crew, spans: Sequence[tuple[float, float, int]], window: Window) -> Iterator[Absence]:
    """The stretches in which fewer are there than the crew has, and how many of them are missing."""
    start, end = -LONG_AFTER_MIN / 2, window.minutes + LONG_AFTER_MIN
    moments = sorted({start, end, *(at for begin, over, _ in spans for at in (begin, over) if start < at < end)})
    open_from, missing = start, 0
    for moment in moments:
        there = sum(people for begin, over, people in spans if begin <= moment < over)
        away = crew.people - min(crew.people, there) if moment < end else 0
        if away != missing:
            if missing:
                yield Absence(crew=crew.id, from_min=open_from, to_min=moment, people=missing)
            open_from, missing = moment, away
