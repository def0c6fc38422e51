"""Ostermere's calendar: its lorries every day, and what it closes every week."""

from collections.abc import Iterable
from datetime import date, time, timedelta

from rundgang.core.calendar import Calendar, Lorry, WeeklyClosing, departure_id
from rundgang.core.orders import ClosingKind, Order
from rundgang.demo.lorries import LORRIES

CLOSED: tuple[tuple[str, str, str, ClosingKind, int, time, int, str, str | None], ...] = (
    ("oven-wash", "ring-line", "oven", "cleaning", 0, time(15, 0), 120, "steam oven washed down", None),
    ("blades", "bread-line", "slicer", "blades", 1, time(10, 30), 40, "slicer blades changed", "blades"),
    ("oil", "doughnut-line", "fryer", "cleaning", 1, time(14, 0), 150, "frying oil changed", None),
    ("rollers", "biscuit-line", "moulder", "rollers", 1, time(9, 0), 60, "moulding rollers changed", None),
    ("pastry-break", "pastry-line", "inspection", "shift", 0, time(13, 0), 60, "inspectors at training", None),
)
"""Name, line, station, kind, day of the first window, when, for how long, why, and the tool that is renewed."""

LATER_DAYS = 4
"""So many days behind the window have orders already."""


def calendar(first_day: date, days: int) -> Calendar:
    """The lorries of every day, and the closings of the first window again every week from the days behind it on."""
    return Calendar(
        lorries=tuple(Lorry(id=lorry, name=name, leaves=leaves) for lorry, name, leaves in LORRIES),
        closings=tuple(
            WeeklyClosing(
                id=name,
                line=line,
                station=station,
                kind=kind,
                weekdays=((first_day + timedelta(days=day)).weekday(),),
                begins=begins,
                minutes=minutes,
                reason=reason,
                renews=renews,
                valid_from=first_day + timedelta(days=days),
            )
            for name, line, station, kind, day, begins, minutes, reason, renews in CLOSED
        ),
        days=days,
    )


def orders_of(
    packs: Iterable[tuple[str, str, tuple[int, ...]]], first_day: date, days: int, number: int, since: int = 0
) -> tuple[Order, ...]:  # fmt: skip
    """Orders of some days, numbered on from a number; each product's packs come round again.

    Parameters
    ----------
    packs : iterable
        Product, lorry, and packs on each of some days.
    since : int
        So many days after the first.
    """
    listed = tuple(packs)
    found = list[Order]()
    for day in range(since, since + days):
        for product, lorry, by_day in listed:
            wanted = by_day[day % len(by_day)]
            if wanted:
                wave = departure_id(lorry, first_day + timedelta(days=day))
                found.append(Order(id=str(number + len(found)), product=product, wave=wave, packs=wanted))
    return tuple(found)
