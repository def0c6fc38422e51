"""Ahead: where the next window ends, and which lorries, closings and standing orders the calendar gives it."""

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta, tzinfo
from math import ceil

from rundgang.core.calendar import (
    Calendar,
    closings_of,
    minutes_until,
    next_end,
    standing_orders,
    waves_of,
)
from rundgang.core.errors import RundgangError
from rundgang.core.orders import Order, Window
from rundgang.core.planning.model import LinePlan
from rundgang.core.rolling.roll import Rolled, roll
from rundgang.core.scenario import Scenario
from rundgang.core.shifts import absences_of


class FarEnoughError(RundgangError):
    """The window reaches as far ahead as the calendar says already."""

    def __init__(self, ends_at: datetime, days: int) -> None:
        super().__init__(
            f"The window reaches to {ends_at:%a %d %b, %H:%M} already. Allowed: {days} days ahead of now, as the "
            "calendar says, and one to go on with."
        )


def gone_on(
    scenario: Scenario, plans: Sequence[LinePlan], book: Sequence[Order], calendar: Calendar, zone: tzinfo
) -> Rolled:
    """The next window of a scenario at this moment: a day longer, and at least a day from now.

    Parameters
    ----------
    scenario : Scenario
        With all that has begun.
    plans, book : sequence
        As `roll` takes them.
    zone : tzinfo
        The plant's.

    Raises
    ------
    FarEnoughError
    """
    starts_at = scenario.window.starts_at.astimezone(UTC)
    ends_at = starts_at + timedelta(minutes=scenario.window.minutes)
    moment = starts_at + timedelta(minutes=scenario.opening.now_min)
    later = next_end(zone, ends_at)
    while later.astimezone(UTC) < moment + timedelta(days=1):
        later = next_end(zone, later)
    if later.astimezone(UTC) > moment + timedelta(days=calendar.days + 1):
        raise FarEnoughError(ends_at.astimezone(zone), calendar.days)
    until = minutes_until(starts_at, later)
    reach = Window.model_construct(starts_at=scenario.window.starts_at, minutes=ceil(until))
    waves = {wave.id: wave for wave in (*waves_of(calendar, zone, reach), *scenario.waves)}
    blocks = (*(block for block in scenario.blocks if not block.weekly), *closings_of(calendar, zone, reach))
    known = {order.line for order in book}
    standing = standing_orders(calendar, zone, ends_at, later)
    whole = (*book, *(order for order in standing if order.line not in known))
    rolled = roll(scenario, plans, whole, until_min=until, waves=tuple(waves.values()), blocks=blocks)
    absences = absences_of(calendar, scenario.plant, zone, rolled.scenario.window)
    return rolled.model_copy(update={"scenario": rolled.scenario.going_on(absences=absences)})
