"""The tables of what was made: lots, what went into what, what became of each, and what was loaded. Each row once."""

from datetime import date, datetime
from typing import Any
from uuid import UUID

from sqlalchemy import Column
from sqlalchemy.dialects.postgresql import JSONB
from sqlmodel import Field, SQLModel

from rundgang.store.tables import moment, written_at


def _said() -> Any:
    return Field(default_factory=dict, sa_column=Column(JSONB, nullable=False, server_default="{}"))


class LotRow(SQLModel, table=True):
    """A lot: what came in, was mixed or was packed together, from when until when. Its code is on its label."""

    __tablename__ = "lot"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    code: str = Field(unique=True)
    kind: str
    item: str
    line: str | None = None
    run: str | None = None
    batch: str | None = None
    window_id: int = Field(foreign_key="planning_window.id")
    at: datetime = moment()
    until_at: datetime = moment()
    amount: float
    best_before: date | None = None
    supplier: str | None = None
    said: dict[str, Any] = _said()
    author: str


class LotUse(SQLModel, table=True):
    """So much of a lot, or of an item of which nobody knows the lot, went into another lot."""

    __tablename__ = "lot_use"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    uuid: UUID | None = Field(default=None, unique=True)
    lot_id: int | None = Field(default=None, foreign_key="lot.id")
    into_id: int = Field(foreign_key="lot.id")
    item: str
    amount: float
    kind: str
    at: datetime = moment()
    said: dict[str, Any] = _said()
    author: str


class LotEvent(SQLModel, table=True):
    """What became of a lot: held, released, scrapped, cleared; of a batch, what its mixer did."""

    __tablename__ = "lot_event"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    uuid: UUID | None = Field(default=None, unique=True)
    lot_id: int = Field(foreign_key="lot.id")
    kind: str
    at: datetime = moment()
    said: dict[str, Any] = _said()
    author: str


class LotLoad(SQLModel, table=True):
    """So many packs of a lot were loaded on a lorry; below nothing, taken off it again."""

    __tablename__ = "lot_load"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    uuid: UUID | None = Field(default=None, unique=True)
    lot_id: int = Field(foreign_key="lot.id")
    window_id: int = Field(foreign_key="planning_window.id")
    lorry: str
    product: str
    packs: int
    at: datetime = moment()
    author: str


class MockRecall(SQLModel, table=True):
    """A bag that somebody has to recall for practice; the stop-watch begins when it is written."""

    __tablename__ = "mock_recall"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    uuid: UUID = Field(unique=True)
    lot_id: int = Field(foreign_key="lot.id")
    item: str
    author: str


class MockRecallAnswer(SQLModel, table=True):
    """What somebody has found of it, and what of that was right then."""

    __tablename__ = "mock_recall_answer"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    recall_id: int = Field(foreign_key="mock_recall.id", unique=True)
    answer: dict[str, Any] = _said()
    judgement: dict[str, Any] = _said()


class LorryGone(SQLModel, table=True):
    """That a lorry has left, with why it was short of something, or got more."""

    __tablename__ = "lorry_gone"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    uuid: UUID | None = Field(default=None, unique=True)
    lorry: str = Field(unique=True)
    window_id: int = Field(foreign_key="planning_window.id")
    at: datetime = moment()
    said: dict[str, Any] = _said()
    author: str
