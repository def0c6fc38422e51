"""The tables of what the floor has told: what was found, stood, was left, cleaned and renewed. Each row once."""

from datetime import datetime
from typing import Any
from uuid import UUID

from sqlmodel import Field, SQLModel

from rundgang.store.tables import json_document, moment, written_at


class InspectionEntry(SQLModel, table=True):
    """What was found at an inspection, by the version that it was judged by. Its uuid is the sender's."""

    __tablename__ = "inspection_entry"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    uuid: UUID = Field(unique=True)
    window_id: int = Field(foreign_key="planning_window.id")
    version_id: int = Field(foreign_key="inspections_version.id")
    occasion: str
    inspection: str
    line: str
    station: str
    run: str | None = None
    product: str | None = None
    batch: int | None = None
    at: datetime = moment()
    measured: list[Any] = json_document()
    word: str | None = None
    good: bool | None = None
    says: str
    note: str
    author: str


class StopEntry(SQLModel, table=True):
    """That a station stands, since when, when somebody told it, and who."""

    __tablename__ = "stop_entry"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    window_id: int = Field(foreign_key="planning_window.id")
    line: str
    station: str
    began_at: datetime = moment()
    told_at: datetime = moment()
    author: str


class StopEvent(SQLModel, table=True):
    """What became of a stop."""

    __tablename__ = "stop_event"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    stop_id: int = Field(foreign_key="stop_entry.id", index=True)
    kind: str
    at: datetime = moment()
    said: dict[str, Any] = json_document()
    author: str


class PulledEntry(SQLModel, table=True):
    """Pieces that were pulled off a line, where, and why. Its uuid is the sender's."""

    __tablename__ = "pulled_entry"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    uuid: UUID = Field(unique=True)
    line: str
    station: str
    run: str | None = None
    product: str | None = None
    pieces: int
    cause: str
    at: datetime = moment()
    note: str
    author: str


class HandoverNote(SQLModel, table=True):
    """What whoever leaves tells whoever comes. Its uuid is the sender's."""

    __tablename__ = "handover_note"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    uuid: UUID = Field(unique=True)
    line: str
    says: str
    at: datetime = moment()
    author: str


class LessonLeft(SQLModel, table=True):
    """A lesson that was looked at and left, and between which figures it lay then."""

    __tablename__ = "lesson_left"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    line: str
    lesson: str
    low: float
    high: float
    at: datetime = moment()
    reason: str
    author: str


class UpkeepEntry(SQLModel, table=True):
    """That a station was cleaned, or a tool of it renewed: what, from when until when, and by whom."""

    __tablename__ = "upkeep_entry"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    uuid: UUID = Field(unique=True)
    line: str
    station: str
    kind: str
    what: str
    tool: str | None = None
    began_at: datetime = moment()
    ended_at: datetime = moment()
    author: str


class UpkeepRelease(SQLModel, table=True):
    """That what was cleaned or renewed was looked at and released, by whom."""

    __tablename__ = "upkeep_release"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    entry_id: int = Field(foreign_key="upkeep_entry.id", unique=True)
    at: datetime = moment()
    author: str
