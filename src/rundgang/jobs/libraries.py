"""The library as it is changed: checked as a whole with the window it is for, and taken as the next version."""

from pydantic import ValidationError

from rundgang.core.errors import MalformedError
from rundgang.core.library import Library, library_of, with_library
from rundgang.core.model import Model
from rundgang.core.scenario import Scenario
from rundgang.formats.documents import faults_of
from rundgang.formats.library_words import changes_in_words
from rundgang.store.libraries import LibraryNote
from rundgang.store.repository import Repository


class Taken(Model):
    """What a change or a file would do, and the version it was saved as, if it was.

    Attributes
    ----------
    note : LibraryNote or None
        None where it was only read, or where nothing differs.
    """

    changes: tuple[str, ...]
    note: LibraryNote | None


def held_together(scenario: Scenario, library: Library) -> Scenario:
    """The window with this library; MalformedError where the parts, or the orders, do not fit."""
    try:
        return with_library(scenario, library)
    except ValidationError as error:
        raise MalformedError("The library does not hold together. It", faults_of(error)) from None


def read_only(store: Repository, after: Library) -> Taken:
    """What a library would change; it is checked, and nothing is stored."""
    scenario = store.windows.scenario()
    held_together(scenario, after)
    return Taken(changes=changes_in_words(library_of(scenario), after), note=None)


def take_library(store: Repository, after: Library, origin: str) -> Taken:
    """Store a library as the next version, where anything in it differs from the newest."""
    scenario = store.windows.scenario()
    whole = held_together(scenario, after)
    found = changes_in_words(library_of(scenario), after)
    note = store.libraries.add(whole, origin) if found else None
    store.session.commit()
    return Taken(changes=found, note=note)
