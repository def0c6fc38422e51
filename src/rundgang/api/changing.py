"""Changes of a plan that are stored: the scenario at this moment, the legal plan of it, and the version it becomes."""

from collections.abc import Sequence
from typing import Literal

from rundgang.api.deps import at_present, made_for
from rundgang.clock import Clock
from rundgang.core.model import Model
from rundgang.core.planning.checked import Checked, checked, fitted, noted
from rundgang.core.planning.model import PlantPlan
from rundgang.core.planning.repair import Change, Fit, Moved, Repaired, repair
from rundgang.core.scenario import Scenario
from rundgang.store.plans import Made, StoredVersion, VersionNote
from rundgang.store.repository import Repository


class Changed(Model):
    """The version that a change has made, and what moved."""

    version: int
    cost: float
    cost_before: float
    moved: tuple[Moved, ...]


def change_version(store: Repository, now: Clock, before: StoredVersion, change: Change, author: str) -> Changed:
    """Change a version by hand; one fitted anew is for the newest orders, library and opening."""
    if isinstance(change, Fit):
        return fit_newest(store, now, before, (change.line,), author)
    scenario = at_present(store, now, made_for(store, before.note))
    found = repair(scenario, before.plan, change)
    made = Made(
        book=before.note.book,
        library=before.note.library,
        opening=before.note.opening,
        author=author,
        note=noted(scenario, before.plan, change),
        parent=before.note.number,
    )
    return _stored(store, scenario, before, found, made)


def fit_newest(
    store: Repository, now: Clock, before: StoredVersion, lines: Sequence[str], author: str
) -> Changed:  # fmt: skip
    """Fit lines of a version, and all that these touch, to the newest orders, library and opening."""
    scenario = at_present(store, now, store.windows.scenario())
    found = fitted(scenario, before.plan, lines)
    made = Made(
        book=store.books.newest().number,
        library=store.libraries.number(),
        opening=store.openings.newest().number,
        author=author,
        note=noted(scenario, before.plan, Fit(line=lines[0])),
        parent=before.note.number,
    )
    return _stored(store, scenario, before, found, made)


Then = Literal["same", "put back", "changed since"]
"""Of orders, or of the opening, when an action is undone or redone: it has not changed any; or they are put back; or
others have come since, and stay."""


def bring_orders_back(store: Repository, action: VersionNote, again: int) -> Then:
    """Take what an action did to the orders back, or do it again, in the open transaction, if it changed any.

    Only an action that wrote a book of its own did: an urgent order, a change of line; a book that came before it, by
    an import, stays.

    Parameters
    ----------
    action : VersionNote
        The version that the action made.
    again : int
        The version that is brought back: the action's own where that is redone.
    """
    store.openings.locked_window()
    if not store.books.was_written_at(action.book, action.created_at):
        return "same"
    # Under the window's lock the book before it has the number before.
    there, wanted = (action.book - 1, action.book) if again == action.number else (action.book, action.book - 1)
    if there not in store.basis().books:
        return "changed since"
    store.books.write_again(wanted)
    return "put back"


def bring_opening_back(store: Repository, action: VersionNote, again: int, author: str) -> Then:
    """Take what an action did to the opening back, or do it again, likewise: the downtime that a stop wrote."""
    store.openings.locked_window()
    found = store.openings.written_at(action.opening or 0, action.created_at)
    if found is None:
        return "same"
    there, wanted = found if again == action.number else reversed(found)
    if there not in store.basis().openings:
        return "changed since"
    store.openings.write_again(wanted, author)
    return "put back"


def _stored(
    store: Repository, scenario: Scenario, before: StoredVersion, found: Repaired, made: Made
) -> Changed:  # fmt: skip
    version = store_version(store, scenario, found.plan, made)
    return Changed(version=version.note.number, cost=found.plan.cost, cost_before=before.plan.cost, moved=found.moved)


def store_version(store: Repository, scenario: Scenario, plan: PlantPlan, made: Made) -> StoredVersion:
    """Check a plan and store it as the next version."""
    alone, shared = checked(scenario, plan)
    return store.plans.add(plan, made, alone, shared)


def store_as_fact(
    store: Repository, plan: PlantPlan, found: Checked, parent: int, author: str, note: str
) -> StoredVersion:  # fmt: skip
    """Store a plan of what has happened, for the newest book, library and opening, as what the floor works by."""
    made = Made(
        book=store.books.newest().number,
        library=store.libraries.number(),
        opening=store.openings.newest().number,
        author=author,
        note=note,
        parent=parent,
    )
    stored = store.plans.add(plan, made, *found)
    store.plans.publish(stored.note.number, author)
    return stored
