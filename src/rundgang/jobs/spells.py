"""Spells: the windows that are over and the one that is, each for as long as none before or behind it has that time."""

from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from typing import NamedTuple

from rundgang.clock import Clock
from rundgang.core.planning.model import LinePlan
from rundgang.core.scenario import Scenario
from rundgang.formats.clock import minute_of
from rundgang.store.plans import StoredVersion
from rundgang.store.repository import Repository


class Spell(NamedTuple):
    """A window, and from when until when of it is its own, min from its start.

    Attributes
    ----------
    store : Repository
        Of that window.
    scenario, version : Scenario, StoredVersion
        What was published, and what it was made for, by the library of that time.
    """

    store: Repository
    scenario: Scenario
    version: StoredVersion
    begin: float
    until: float

    @property
    def plans(self) -> tuple[LinePlan, ...]:
        """The published plans of its lines."""
        return self.version.plan.plans

    @property
    def moments(self) -> tuple[datetime, datetime, datetime]:
        """When the window starts, and from when until when of it is its own."""
        starts_at = self.scenario.window.starts_at.astimezone(UTC)
        return starts_at, starts_at + timedelta(minutes=self.begin), starts_at + timedelta(minutes=self.until)


def spells(store: Repository, clock: Clock, since: datetime) -> Iterator[Spell]:
    """The windows since a moment, the newest first."""
    notes, until = store.windows.all(), clock.now()
    rolled = store.windows.rolled_from()
    for note in (note for note in notes if note.number in rolled):
        begins = max(note.goes_on_at, since)
        if begins >= until:
            return
        own = Repository(store.session, note.number)
        published = own.plans.published()
        if published:
            yield _spell(own, own.plans.version(published.version), begins, until)
        until = note.goes_on_at


def _spell(own: Repository, live: StoredVersion, begins: datetime, until: datetime) -> Spell:
    scenario = own.windows.scenario(live.note.book, live.note.library, live.note.opening)
    return Spell(own, scenario, live, minute_of(scenario, begins), minute_of(scenario, until))
