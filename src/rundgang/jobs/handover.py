"""Handing a line over: what whoever leaves tells whoever comes."""

from datetime import timedelta
from uuid import UUID

from rundgang.clock import Clock
from rundgang.formats.accounted import Note
from rundgang.store.repository import Repository

FRESH = timedelta(days=1)
"""An older note is of no shift that somebody comes to."""


def hand_over(store: Repository, clock: Clock, uuid: UUID, line: str, says: str, author: str) -> Note:
    """Store what the next shift must know; UnknownItemError where there is no such line."""
    store.windows.scenario().line(line)
    note = Note(uuid=uuid, line=line, says=says, at=clock.now(), author=author)
    store.evening.hand_over(note)
    store.session.commit()
    return note


def newest_note(store: Repository, clock: Clock, line: str) -> Note | None:
    """What was handed over last on a line, where that is not long ago; UnknownItemError where there is no such line."""
    store.windows.scenario().line(line)
    notes = store.evening.notes(line, clock.now() - FRESH, clock.now() + timedelta(minutes=1))
    return notes[0] if notes else None
