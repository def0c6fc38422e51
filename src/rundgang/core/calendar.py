"""The calendar: the weekly timetable of the lorries with its exceptions, and what is closed every week.

It knows dates and the time on the wall; what it gives are lorries and closings of a window, in minutes from its start.
A time that the clocks skip one night is as much later as they skip; of one that comes twice the first counts.
"""

from collections.abc import Collection, Iterable, Iterator
from datetime import UTC, date, datetime, time, timedelta, tzinfo
from typing import Annotated, Literal

from pydantic import AfterValidator, Field, StringConstraints, model_validator

from rundgang.core.model import FORMULA_SIGNS, FreshFor, Id, Model, Name
from rundgang.core.orders import MAX_PACKS, Block, ClosingKind, Order, Wave, Window
from rundgang.core.plant import Plant
from rundgang.core.units import SECONDS_PER_MINUTE

ShortId = Annotated[str, StringConstraints(pattern=r"^[a-z0-9][a-z0-9-]{0,31}$")]
"""A key to which a date can be added."""

WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")

MOST_DAYS = 7
"""A window is no longer than a week."""


def _in_order(days: tuple[int, ...]) -> tuple[int, ...]:
    return tuple(sorted(set(days)))


Weekdays = Annotated[
    tuple[Annotated[int, Field(ge=0, le=6)], ...], Field(min_length=1, max_length=7), AfterValidator(_in_order)
]
"""Days of the week, 0 is Monday."""


class _Weekly(Model):
    """What comes every week, on some days, from one date until another."""

    weekdays: Weekdays = tuple(range(7))
    valid_from: date | None = None
    valid_until: date | None = None

    @model_validator(mode="after")
    def _begins_before_it_ends(self) -> "_Weekly":
        if self.valid_from and self.valid_until and self.valid_until < self.valid_from:
            raise ValueError(f"valid_until is {self.valid_until}; allowed: from {self.valid_from} on")
        return self

    def comes_on(self, day: date) -> bool:
        """Whether it comes on a day."""
        begun = self.valid_from is None or self.valid_from <= day
        return begun and (self.valid_until is None or day <= self.valid_until) and day.weekday() in self.weekdays


class Lorry(_Weekly):
    """A lorry that leaves at the same time on some days of every week.

    Attributes
    ----------
    leaves : time
        On the plant's clock.
    loading_min : float
        So long before that its loading ends, min.
    """

    id: ShortId
    name: Name
    leaves: time
    loading_min: float = Field(default=0, ge=0, le=1_440)


class MovedLorry(Model):
    """A lorry that leaves at another time on one day, or on another day."""

    lorry: ShortId
    on: date
    leaves: datetime = Field(description="on the plant's clock")

    @model_validator(mode="after")
    def _is_local(self) -> "MovedLorry":
        if self.leaves.tzinfo is not None:
            raise ValueError("leaves has an offset; allowed: a time on the plant's clock")
        return self


class CancelledLorry(Model):
    """A lorry that does not leave on one day."""

    lorry: ShortId
    on: date


class ExtraLorry(Model):
    """A lorry that leaves once, beside the timetable."""

    id: Id
    name: Name
    leaves: datetime = Field(description="on the plant's clock")
    loading_min: float = Field(default=0, ge=0, le=1_440)


class _WeeklySpan(_Weekly):
    """What lasts for a while at the same time on some days of every week.

    Attributes
    ----------
    begins : time
        On the plant's clock.
    minutes : float
        For how long, min.
    """

    id: ShortId
    begins: time
    minutes: float = Field(gt=0, le=10_080)

    def span_on(self, day: date, zone: tzinfo | None, window: Window) -> tuple[float, float]:
        """From when to when it lasts on a day, from the window's start, min."""
        begins = minutes_until(window.starts_at, datetime.combine(day, self.begins, zone))
        return begins, begins + self.minutes


class WeeklyClosing(_WeeklySpan):
    """A station that takes nothing at the same time on some days of every week."""

    line: Id
    station: Id
    kind: ClosingKind
    reason: Name
    renews: str | None = None


class CrewShift(_WeeklySpan):
    """People of a crew who are there at the same time on some days of every week.

    A crew that has shifts is there in them only; together no more of it than it has people.
    """

    crew: Id
    people: int = Field(ge=1, le=5_000)


class StandingOrder(_Weekly):
    """Packs that a lorry takes on some days of every week.

    Attributes
    ----------
    number : str
        Of its orders, to which the day is added.
    fresh_for_h : float or None
        How old packs may be when the lorry leaves, where the customer asks for fresher ones than the product, h.
    """

    number: Annotated[Name, Field(max_length=30)]
    lorry: ShortId
    product: Id
    packs: int = Field(ge=1, le=MAX_PACKS)
    customer: Name | None = None
    fresh_for_h: FreshFor | None = None


class Holiday(Model):
    """A day on which no lorry of the timetable leaves, and no shift of a crew begins."""

    on: date
    name: Name


class Calendar(Model):
    """When lorries leave and stations are closed, and how far a window reaches.

    Attributes
    ----------
    days : int
        So many days are planned at once, at most.
    rolls_at : time or None
        When the window goes on by itself, on the plant's clock; None where somebody does it.
    """

    lorries: tuple[Lorry, ...] = Field(default=(), max_length=500)
    moved: tuple[MovedLorry, ...] = Field(default=(), max_length=2_000)
    cancelled: tuple[CancelledLorry, ...] = Field(default=(), max_length=2_000)
    extra: tuple[ExtraLorry, ...] = Field(default=(), max_length=2_000)
    holidays: tuple[Holiday, ...] = Field(default=(), max_length=1_000)
    closings: tuple[WeeklyClosing, ...] = Field(default=(), max_length=500)
    shifts: tuple[CrewShift, ...] = Field(default=(), max_length=500)
    standing: tuple[StandingOrder, ...] = Field(default=(), max_length=5_000)
    days: int = Field(default=3, ge=1, le=MOST_DAYS)
    rolls_at: time | None = None

    @model_validator(mode="after")
    def _parts_agree(self) -> "Calendar":
        faults = [*_calendar_faults(self)]
        if faults:
            raise ValueError("\n".join(faults))
        return self

    def lorry(self, lorry_id: str) -> Lorry | None:
        """The lorry of that id, if there is one."""
        return next((lorry for lorry in self.lorries if lorry.id == lorry_id), None)


class Departure(Model):
    """A lorry that leaves at a moment.

    Attributes
    ----------
    id : str
        By which orders are for it: the lorry's with its day, or its own where it is extra.
    change : str or None
        How it differs from the timetable.
    """

    id: str
    lorry: str | None
    on: date
    name: str
    leaves: datetime
    loading_min: float
    change: Literal["moved", "cancelled", "extra", "holiday"] | None = None

    @property
    def leaves_at_all(self) -> bool:
        """Whether it is neither cancelled nor on a holiday."""
        return self.change not in {"cancelled", "holiday"}


def departure_id(lorry_id: str, day: date) -> str:
    """By what name orders are for a lorry of a day, for instance harbour-260311."""
    return f"{lorry_id}-{day:%y%m%d}"


def departures(calendar: Calendar, zone: tzinfo | None, first: date, last: date) -> tuple[Departure, ...]:
    """The lorries of some days of the timetable, cancelled ones too, and the extra ones, by when they leave."""
    moved = {(one.lorry, one.on): one for one in calendar.moved}
    cancelled = {(one.lorry, one.on) for one in calendar.cancelled}
    holidays = {one.on for one in calendar.holidays}
    found = []
    for day in days_between(first, last):
        for lorry in calendar.lorries:
            key = lorry.id, day
            if not lorry.comes_on(day):
                continue
            change: Literal["moved", "cancelled", "holiday"] | None = "moved" if key in moved else None
            if key in cancelled:
                change = "cancelled"
            elif day in holidays and not change:
                change = "holiday"
            leaves = moved[key].leaves if key in moved else datetime.combine(day, lorry.leaves)
            found.append(
                Departure(
                    id=departure_id(lorry.id, day),
                    lorry=lorry.id,
                    on=day,
                    name=f"{lorry.name}, {day:%a}",
                    leaves=leaves.replace(tzinfo=zone),
                    loading_min=lorry.loading_min,
                    change=change,
                )
            )
    found += [
        Departure(
            id=one.id,
            lorry=None,
            on=one.leaves.date(),
            name=one.name,
            leaves=one.leaves.replace(tzinfo=zone),
            loading_min=one.loading_min,
            change="extra",
        )
        for one in calendar.extra
        if first <= one.leaves.date() <= last
    ]
    return tuple(sorted(found, key=lambda one: (one.leaves.astimezone(UTC), one.id)))


def plant_faults(calendar: Calendar, plant: Plant, products: Collection[str]) -> Iterator[str]:
    """What weekly closings, shifts and standing orders name that the plant does not have or make; or is a formula."""
    crews = {crew.id: crew for crew in plant.crews}
    for shift in calendar.shifts:
        crew = crews.get(shift.crew)
        if crew is None:
            known = ", ".join(one.name for one in plant.crews) or "none, the plant has no crews"
            yield f"shift at {shift.begins:%H:%M}: is of {shift.crew}; allowed: {known}"
        elif shift.people > crew.people:
            yield f"shift at {shift.begins:%H:%M}: {shift.people} of {crew.name}; allowed: at most {crew.people}"
    for order in calendar.standing:
        if order.product not in products:
            yield f"standing order {order.number} is for {order.product}; allowed: the plant's products"
        for text in (order.number, order.customer or " "):
            if text[0] in FORMULA_SIGNS:
                yield f"standing order {order.number}: “{text}” is taken for a formula; allowed: not = + - @ first"
    stations = {(line.id, station.id): station for line in plant.lines for station in line.stations}
    for closing in calendar.closings:
        station = stations.get((closing.line, closing.station))
        if station is None:
            yield f"{closing.reason}: closes {closing.station} of {closing.line}; allowed: a station of a line"
        elif closing.renews and closing.renews not in {tool.id for tool in station.tools}:
            tools = ", ".join(tool.name for tool in station.tools) or "none, it has no tools that wear"
            yield f"{closing.reason}: renews {closing.renews} at {station.name}; allowed: {tools}"


REACH = timedelta(days=8)
"""A lorry is moved by no more than a week."""


def waves_of(calendar: Calendar, zone: tzinfo | None, window: Window) -> tuple[Wave, ...]:
    """The lorries that leave in a window."""
    first, last = (day.date() for day in span_of(window, zone))
    found = []
    for one in departures(calendar, zone, first - REACH, last + REACH):
        minute = minutes_until(window.starts_at, one.leaves)
        if one.leaves_at_all and 0 <= minute <= window.minutes:
            found.append(Wave(id=one.id, name=one.name, departs_min=minute, loading_min=one.loading_min))
    return tuple(found)


def closings_of(calendar: Calendar, zone: tzinfo | None, window: Window) -> tuple[Block, ...]:
    """What the weekly closings close in a window, what has begun before it included."""
    first, last = (day.date() for day in span_of(window, zone))
    found = []
    for day in days_between(first - REACH, last):
        for closing in calendar.closings:
            if not closing.comes_on(day):
                continue
            begins, ends = closing.span_on(day, zone, window)
            if begins <= window.minutes and ends > 0:
                found.append(
                    Block(
                        id=departure_id(closing.id, day),
                        line=closing.line,
                        station=closing.station,
                        kind=closing.kind,
                        from_min=max(0.0, begins),
                        to_min=ends,
                        reason=closing.reason,
                        renews=closing.renews,
                        weekly=True,
                    )
                )
    return tuple(found)


def standing_orders(
    calendar: Calendar, zone: tzinfo | None, after: datetime, until: datetime
) -> tuple[Order, ...]:  # fmt: skip
    """The standing orders of the lorries that leave behind a moment, until another."""
    found = []
    first, last = (moment.astimezone(zone).date() for moment in (after, until))
    for one in departures(calendar, zone, first - REACH, last + REACH):
        if not one.leaves_at_all or not after < one.leaves <= until:
            continue
        for standing in calendar.standing:
            if standing.lorry == one.lorry and standing.comes_on(one.on):
                found.append(
                    Order(
                        id=f"{standing.number}-{one.on:%y%m%d}",
                        product=standing.product,
                        wave=one.id,
                        packs=standing.packs,
                        customer=standing.customer,
                        fresh_for_h=standing.fresh_for_h,
                    )
                )
    return tuple(found)


def written_out(waves: Iterable[Wave], window: Window, zone: tzinfo | None) -> Calendar:
    """The calendar of a window whose lorries no timetable gives: each leaves once."""
    starts_at = window.starts_at.astimezone(UTC)
    return Calendar(
        extra=tuple(
            ExtraLorry(
                id=wave.id,
                name=wave.name,
                leaves=(starts_at + timedelta(minutes=wave.departs_min)).astimezone(zone).replace(tzinfo=None),
                loading_min=wave.loading_min,
            )
            for wave in waves
        )
    )


def next_end(zone: tzinfo | None, ends_at: datetime) -> datetime:
    """The same time on the wall a day later."""
    local = ends_at.astimezone(zone)
    return (local.replace(tzinfo=None) + timedelta(days=1)).replace(tzinfo=zone)


def minutes_until(starts_at: datetime, moment: datetime) -> float:
    """Minutes that pass from a window's start to a moment, in the nights when the clocks change too."""
    return (moment.astimezone(UTC) - starts_at.astimezone(UTC)).total_seconds() / SECONDS_PER_MINUTE


def span_of(window: Window, zone: tzinfo | None) -> tuple[datetime, datetime]:
    """When a window begins and ends, on the plant's clock."""
    begin = window.starts_at.astimezone(UTC)
    return begin.astimezone(zone), (begin + timedelta(minutes=window.minutes)).astimezone(zone)


def days_between(first: date, last: date) -> Iterator[date]:
    """Every day from one to another."""
    day = first
    while day <= last:
        yield day
        day += timedelta(days=1)


def _calendar_faults(calendar: Calendar) -> Iterator[str]:
    for what, ids in (
        ("lorries", [lorry.id for lorry in calendar.lorries]),
        ("extra lorries", [extra.id for extra in calendar.extra]),
        ("closings", [closing.id for closing in calendar.closings]),
        ("shifts", [shift.id for shift in calendar.shifts]),
        ("moved lorries", [f"{one.lorry} on {one.on}" for one in calendar.moved]),
        ("cancelled lorries", [f"{one.lorry} on {one.on}" for one in calendar.cancelled]),
        ("holidays", [f"{one.on}" for one in calendar.holidays]),
        ("standing orders", [f"{one.number}, {one.product} for {one.lorry}" for one in calendar.standing]),
    ):
        yield from (f"{what}: “{twice}” stands twice; allowed: each once" for twice in _twice(ids))
    for lorry_id, on in ((one.lorry, one.on) for ones in (calendar.moved, calendar.cancelled) for one in ones):
        lorry = calendar.lorry(lorry_id)
        if lorry is None:
            known = ", ".join(each.name for each in calendar.lorries) or "none, the timetable is empty"
            yield f"{lorry_id} on {on} is no lorry of the timetable; allowed: {known}"
        elif not lorry.comes_on(on):
            days = ", ".join(WEEKDAYS[day] for day in lorry.weekdays)
            yield f"{lorry.name} does not leave on {on:%A %d %B %Y}; allowed: {days}, while it is valid"
    for order in calendar.standing:
        if calendar.lorry(order.lorry) is None:
            known = ", ".join(one.name for one in calendar.lorries) or "none, the timetable is empty"
            yield f"standing order {order.number} is for {order.lorry}, no lorry of the timetable; allowed: {known}"
    for each in calendar.moved:
        if abs(each.leaves.date() - each.on) >= REACH:
            yield f"{each.lorry} is moved from {each.on} to {each.leaves.date()}; allowed: by a week at most"


def _twice(ids: Iterable[str]) -> list[str]:
    listed = list(ids)
    return sorted({one for one in listed if listed.count(one) > 1}) if len(set(listed)) < len(listed) else []
