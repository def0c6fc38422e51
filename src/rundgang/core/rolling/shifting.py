"""Shifting: the same moments, counted from another window's start."""

from collections.abc import Mapping
from datetime import UTC, timedelta
from typing import TypeVar

from rundgang.core.conditions import LONGEST_READ_MIN, MINUTES_PER_DAY, Conditions
from rundgang.core.model import Model
from rundgang.core.orders import Window
from rundgang.core.planning.model import (
    Batch,
    CutRun,
    FillingBatch,
    LinePlan,
    PreparationSlot,
    Renewal,
    Run,
    RunLeg,
    WaveOutcome,
)
from rundgang.core.units import MINUTES_PER_HOUR

Timed = TypeVar("Timed", bound=Model)

MOMENTS: Mapping[type[Model], tuple[str, ...]] = {
    PreparationSlot: ("start_min", "discharged_min", "used_min"),
    FillingBatch: ("start_min", "mixed_min", "emptied_min", "ready_min", "used_from_min", "used_until_min"),
    Batch: ("start_min", "discharged_min", "divided_min", "last_piece_min"),
    RunLeg: ("start_min",),
    Run: ("start_min", "first_pack_min", "last_pack_min", "pinned_min"),
    CutRun: ("first_pack_min", "last_pack_min"),
    WaveOutcome: ("ready_min",),
    Renewal: ("from_min", "to_min"),
}
"""What of a plan is a moment, and not a length."""

PARTS: Mapping[type[Model], tuple[str, ...]] = {
    Batch: ("preparations",),
    Run: ("batches", "later_legs", "fillings"),
    LinePlan: ("runs", "cut_runs", "waves", "renewals"),
}
"""What of a plan has moments of its own."""


def shifted(timed: Timed, begin_min: float) -> Timed:
    """A run, or a line's plan, from the view of a window that begins so much later, min."""
    moments = {name: getattr(timed, name) for name in MOMENTS.get(type(timed), ())}
    changed: dict[str, object] = {name: at - begin_min for name, at in moments.items() if at is not None}
    for name in PARTS.get(type(timed), ()):
        changed[name] = tuple(shifted(part, begin_min) for part in getattr(timed, name))
    return timed.model_copy(update=changed)


def later_window(window: Window, begin_min: float, minutes: int) -> Window:
    """A window that begins so much later, or earlier, and is so long, min; by the same offset of its clock."""
    begins = window.starts_at.astimezone(UTC) + timedelta(minutes=begin_min)
    return Window(starts_at=begins.astimezone(window.starts_at.tzinfo), minutes=minutes)


def later_conditions(conditions: Conditions, begin_min: float, minutes: float) -> Conditions:
    """The conditions of a window that begins so many whole hours later, or earlier, and is so long, min.

    Hours before the first that is known are as a day's two figures say, or else as the first.
    """
    course, later = conditions.room_course, round(begin_min / MINUTES_PER_HOUR)
    hours = conditions.by_hour[min(max(0, later), max(0, len(conditions.by_hour) - 1)) :]
    if course:
        warmest = (course.warmest_min - begin_min) % MINUTES_PER_DAY
        course = course.model_copy(update={"warmest_min": warmest})
        drawn = course.hours(minutes)
        hours = (*drawn[: max(0, -later)], *hours)
        hours = (*hours, *drawn[len(hours) :])
    else:
        hours = (*hours[:1] * max(0, -later), *hours)
    read = None if conditions.read_min is None else max(conditions.read_min - begin_min, -LONGEST_READ_MIN)
    return conditions.model_copy(update={"by_hour": hours, "room_course": course, "read_min": read})
