"""Going on to the next window: settled, carried on and planned for in one transaction, or not at all."""

from datetime import datetime

from rundgang.clock import Clock
from rundgang.core.calendar import Calendar
from rundgang.core.planning.checked import checked
from rundgang.core.planning.past import opened
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.rolling.ahead import FarEnoughError, gone_on
from rundgang.formats.clock import zone_of
from rundgang.jobs.keeping import keep_within
from rundgang.jobs.weathering import with_weather
from rundgang.jobs.weighed import as_weighed
from rundgang.store.plans import Made
from rundgang.store.repository import Repository
from rundgang.store.rows import WindowOverError
from rundgang.store.windows import WindowNote

BY_ITSELF = "Rundgang"
"""Who goes on where nobody does it."""


def go_on(store: Repository, clock: Clock, author: str) -> WindowNote:
    """Go on to the next window: a day longer, from this moment on. What has begun comes along as it is.

    Raises
    ------
    WindowOverError
        Somebody else has gone on meanwhile.
    FarEnoughError
    """
    # Whoever holds or loads has the record first, and then the window: in that order here, or each would wait for both.
    store.lots.lock()
    store.windows.locked_window()
    store = Repository(store.session)
    scenario, floor, newest = store.windows.scenario(), store.plans.floor_plans(), store.calendars.newest()
    now = max(0.0, clock.minute_of(scenario.window.starts_at))
    keep_within(store, clock)
    scenario = as_weighed(store, store.windows.scenario())
    present = opened(scenario, floor, now) if now else scenario
    book = store.books.orders(store.books.row())
    rolled = gone_on(present, floor, book, newest.calendar if newest else Calendar(), zone_of(scenario))
    if rolled.scenario.conditions.by_weather:
        air = with_weather(rolled.scenario, rolled.scenario.conditions, clock.now())
        rolled = rolled.model_copy(update={"scenario": rolled.scenario.going_on(conditions=air)})
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
