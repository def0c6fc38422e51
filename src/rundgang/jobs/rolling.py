"""Going on to the next window: settled, carried on and planned for in one transaction, or not at all."""

from datetime import UTC, datetime, timedelta
from math import ceil

from rundgang.clock import Clock
from rundgang.core.calendar import Calendar, closings_of, minutes_until, next_end, waves_of
from rundgang.core.errors import RundgangError
from rundgang.core.orders import Window
from rundgang.core.planning.checked import checked
from rundgang.core.planning.past import opened
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.rolling.roll import Rolled, roll
from rundgang.core.scenario import Scenario
from rundgang.formats.clock import zone_of
from rundgang.store.plans import Made
from rundgang.store.repository import Repository
from rundgang.store.rows import WindowOverError
from rundgang.store.windows import WindowNote

BY_ITSELF = "Rundgang"
"""Who goes on where nobody does it."""


class FarEnoughError(RundgangError):
    """The window reaches as far ahead as the calendar says already."""

    def __init__(self, ends_at: datetime, days: int) -> None:
        super().__init__(
            f"The window reaches to {ends_at:%a %d %b, %H:%M} already. Allowed: {days} days ahead of now, as the "
            "calendar says, and one to go on with."
        )


def go_on(store: Repository, clock: Clock, author: str) -> WindowNote:
    """Go on to the next window: a day longer, from this moment on. What has begun comes along as it is.

    Raises
    ------
    WindowOverError
        Somebody else has gone on meanwhile.
    FarEnoughError
    """
    store.windows.locked_window()
    store = Repository(store.session)
    scenario, floor = store.windows.scenario(), store.plans.floor_plans()
    found = store.calendars.newest()
    calendar = found.calendar if found else Calendar()
    now = max(0.0, clock.minute_of(scenario.window.starts_at))
    rolled = _rolled(store, opened(scenario, floor, now) if now else scenario, calendar)
    publishes = store.plans.published() is not None
    store.windows.go_on(rolled, author)
    plan = plan_plant(rolled.scenario, stop=after_evaluations(1, 1), begin_from=rolled.plans, published=rolled.plans)
    made = Made(
        book=store.books.newest().number,
        library=store.libraries.number(),
        opening=store.openings.newest().number,
        author=author,
        note="gone on from the window before",
    )
    version = store.plans.write(plan, made, *checked(rolled.scenario, plan))
    if publishes and not version.breaks_rules:
        store.plans.write_publication(version.note.number, author)
    store.session.commit()
    return store.windows.all()[0]


def go_on_if_due(store: Repository, clock: Clock) -> WindowNote | None:
    """Go on by itself where the calendar names an hour for it, and that has come since the window was gone on to."""
    found = None if store.windows.is_empty() else store.calendars.newest()
    if found is None or found.calendar.rolls_at is None:
        return None
    newest, zone = store.windows.all()[0], zone_of(store.windows.scenario())
    now = clock.now().astimezone(zone)
    due = datetime.combine(now.date(), found.calendar.rolls_at, zone)
    if not newest.goes_on_at < due <= now:
        return None
    try:
        return go_on(store, clock, BY_ITSELF)
    except (WindowOverError, FarEnoughError):
        store.session.rollback()
        return None


def _rolled(store: Repository, scenario: Scenario, calendar: Calendar) -> Rolled:
    """The next window of a scenario at this moment."""
    zone, starts_at = zone_of(scenario), scenario.window.starts_at.astimezone(UTC)
    ends_at, now = starts_at + timedelta(minutes=scenario.window.minutes), scenario.opening.now_min
    moment = starts_at + timedelta(minutes=now)
    later = next_end(zone, ends_at)
    while later.astimezone(UTC) < moment + timedelta(days=1):
        later = next_end(zone, later)
    if later.astimezone(UTC) > moment + timedelta(days=calendar.days + 1):
        raise FarEnoughError(ends_at.astimezone(zone), calendar.days)
    until = minutes_until(starts_at, later)
    reach = Window.model_construct(starts_at=scenario.window.starts_at, minutes=ceil(until))
    waves = {wave.id: wave for wave in (*waves_of(calendar, zone, reach), *scenario.waves)}
    blocks = (*(b for b in scenario.blocks if not b.weekly), *closings_of(calendar, zone, reach))
    book = store.books.orders(store.books.row())
    return roll(scenario, store.plans.floor_plans(), book, until_min=until, waves=tuple(waves.values()), blocks=blocks)
