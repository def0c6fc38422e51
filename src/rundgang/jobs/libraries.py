"""The library as it is changed: checked as a whole with the window it is for, and taken as the next version."""

from pydantic import ValidationError

from rundgang.core.calendar import Calendar, plant_faults
from rundgang.core.errors import MalformedError, RundgangError
from rundgang.core.library import Library, with_library
from rundgang.core.model import Model
from rundgang.core.scenario import Scenario
from rundgang.core.shifts import absences_of
from rundgang.formats.clock import zone_of
from rundgang.formats.documents import faults_of
from rundgang.formats.library_edits import Edit, edited, origin_of
from rundgang.formats.library_files import as_library
from rundgang.formats.library_words import changes_in_words, faults_in_words
from rundgang.store.libraries import LibraryNote
from rundgang.store.repository import Repository


class ChangedMeanwhileError(RundgangError):
    """The library has a newer version than the change was made on.

    Attributes
    ----------
    faults : tuple of str
        What was changed meanwhile.
    """

    def __init__(self, based_on: int, newest: int, meanwhile: tuple[str, ...]) -> None:
        self.faults = meanwhile
        super().__init__(
            f"Somebody saved version {newest} meanwhile; this change was made on version {based_on}. Nothing was "
            "saved, and nothing of yours is lost. Allowed: the same change on the newest version."
        )


class UnsoundLibraryError(RundgangError):
    """A library whose parts, or orders, do not fit together.

    Attributes
    ----------
    faults : tuple of str
        Each in words.
    """

    def __init__(self, faults: tuple[str, ...]) -> None:
        self.faults = faults
        super().__init__("The plant is not valid like this. Nothing was saved.")


class Taken(Model):
    """What a change or a file would do, and the version it was saved as, if it was.

    Attributes
    ----------
    note : LibraryNote or None
        None where it was only read, or where nothing differs.
    """

    changes: tuple[str, ...]
    note: LibraryNote | None


def held_together(store: Repository, library: Library) -> Scenario:
    """The window with this library; MalformedError where the parts, the orders or the calendar do not fit."""
    scenario, kept = store.windows.scenario(), store.calendars.newest()
    calendar = kept.calendar if kept else Calendar()
    faults = tuple(plant_faults(calendar, library.plant, {made.id for made in library.products}))
    try:
        whole = with_library(scenario.changed(absences=()), library)
    except ValidationError as error:
        faults = (*faults_of(error), *faults)
    if faults:
        raise MalformedError("The library is not valid. It", faults)
    return whole.changed(absences=absences_of(calendar, library.plant, zone_of(whole), whole.window))


def read_only(store: Repository, after: Library) -> Taken:
    """What a library would change; it is checked, and nothing is stored."""
    held_together(store, after)
    return Taken(changes=changes_in_words(store.libraries.read(), after), note=None)


def take_library(store: Repository, after: Library, origin: str) -> Taken:
    """Store a library as the next version, where anything in it differs from the newest."""
    store.windows.locked_window()
    whole = held_together(store, after)
    found = changes_in_words(store.libraries.read(), after)
    note = store.libraries.add(whole, origin) if found else None
    store.session.commit()
    return Taken(changes=found, note=note)


def change_library(store: Repository, based_on: int, edits: tuple[Edit, ...], origin: str | None = None) -> Taken:
    """Store the library with some of its things as they shall be, all at once.

    Parameters
    ----------
    origin : str, optional
        Where the change comes from; none: what it changes.

    Raises
    ------
    ChangedMeanwhileError
        The newest version is not the one that the edits were made on.
    UnsoundLibraryError
        Something does not fit.
    """
    store.windows.locked_window()
    before, newest = store.libraries.read(), store.libraries.number()
    if based_on != newest:
        raise ChangedMeanwhileError(based_on, newest, changes_in_words(store.libraries.read(based_on), before))
    data = edited(before, edits)
    try:
        return take_library(store, as_library(data), origin or origin_of(before, edits))
    except MalformedError as error:
        raise UnsoundLibraryError(tuple(fault.says for fault in faults_in_words(data, error.faults))) from None
