"""The tables. Each row is written once; what changes is a new row with the next number."""

from datetime import datetime
from typing import Any

from sqlalchemy import BigInteger, CheckConstraint, Column, DateTime, UniqueConstraint, func
from sqlalchemy.dialects.postgresql import JSONB
from sqlmodel import Field, SQLModel


def written_at() -> Any:
    """When a row was stored, as the database says."""
    return Field(default=None, sa_column=Column(DateTime(timezone=True), server_default=func.now(), nullable=False))


def json_document() -> Any:
    """A document that is always there."""
    return Field(sa_column=Column(JSONB, nullable=False))


def moment() -> Any:
    """A moment that is always said."""
    return Field(sa_column=Column(DateTime(timezone=True), nullable=False))


class PlantOrigin(SQLModel, table=True):
    """Whose plant is in the database: the demo, or one's own. The newest entry counts."""

    __tablename__ = "plant_origin"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    origin: str
    name: str


class LibraryVersion(SQLModel, table=True):
    """The plant, its preparations and its products, as core documents. The newest counts."""

    __tablename__ = "library_version"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    origin: str
    plant: dict[str, Any] = json_document()
    preparations: list[Any] = json_document()
    products: list[Any] = json_document()


class CalendarVersion(SQLModel, table=True):
    """The calendar, as a core document. The newest counts."""

    __tablename__ = "calendar_version"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    origin: str
    document: dict[str, Any] = json_document()


class PlanningWindow(SQLModel, table=True):
    """A window to plan: its start and length, its lorries, the dough room's conditions. The newest is planned.

    `waves` are the lorries that no calendar gives; `settled` is what was over when the window before it went on to it,
    a core document.
    """

    __tablename__ = "planning_window"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    library_id: int = Field(foreign_key="library_version.id")
    starts_at: datetime = moment()
    minutes: int
    waves: list[Any] = json_document()
    conditions: dict[str, Any] = json_document()
    stocks: list[Any] = json_document()
    author: str = "planner"
    settled: dict[str, Any] | None = Field(default=None, sa_column=Column(JSONB(none_as_null=True)))


class OrderBook(SQLModel, table=True):
    """All orders of a window at one moment; importing or undoing writes the next one.

    It holds the lines of the book that it is based on, but for those that are `gone`, and its own behind them. `depth`
    says how many books stand beneath it in this way.
    """

    __tablename__ = "order_book"
    __table_args__ = (UniqueConstraint("window_id", "number"),)

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    window_id: int = Field(foreign_key="planning_window.id")
    number: int
    origin: str
    restores: int | None = None
    based_on: int | None = Field(default=None, foreign_key="order_book.id")
    gone: list[Any] = Field(default_factory=list, sa_column=Column(JSONB, nullable=False, server_default="[]"))
    depth: int = 0


class OrderLine(SQLModel, table=True):
    """One order line that a book has written itself."""

    __tablename__ = "order_line"
    __table_args__ = (UniqueConstraint("book_id", "order_no", "product", "wave"), CheckConstraint("packs > 0"))

    book_id: int = Field(foreign_key="order_book.id", primary_key=True)
    position: int = Field(primary_key=True)
    order_no: str
    product: str
    wave: str
    packs: int
    priority: float = 1
    customer: str | None = None
    reference: str | None = None
    fresh_for_h: float | None = None


class OrderMapping(SQLModel, table=True):
    """Under which headings a customer's file has our columns, by a name. The newest of a name counts."""

    __tablename__ = "order_mapping"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    name: str
    document: dict[str, Any] = json_document()


class LinePlanRow(SQLModel, table=True):
    """A line's plan, whole, with the order book and library it was made for and what the independent check found."""

    __tablename__ = "line_plan"
    __table_args__ = (UniqueConstraint("window_id", "number"),)

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    window_id: int = Field(foreign_key="planning_window.id")
    number: int
    book_id: int = Field(foreign_key="order_book.id")
    library_id: int = Field(foreign_key="library_version.id")
    opening_id: int | None = Field(default=None, foreign_key="opening_entry.id")
    line: str
    document: dict[str, Any] = json_document()
    violations: list[Any] = json_document()


class OpeningEntry(SQLModel, table=True):
    """What a window is planned from: packs, materials, closings, ovens, tools, what has begun; and the calendar.

    The newest entry of a window counts. Without `stocks` the materials are those of the window. One that `restores`
    repeats an earlier entry, 0 for none.
    """

    __tablename__ = "opening_entry"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    window_id: int = Field(foreign_key="planning_window.id")
    origin: str
    finished: list[Any] = json_document()
    blocks: list[Any] = json_document()
    heated: list[Any] = json_document()
    worn: list[Any] = json_document()
    last: list[Any] = json_document()
    stocks: list[Any] | None = Field(default=None, sa_column=Column(JSONB(none_as_null=True)))
    now_min: float = 0
    begun: list[Any] = json_document()
    calendar_id: int | None = Field(default=None, foreign_key="calendar_version.id")
    restores: int | None = None
    gives: list[Any] = Field(default_factory=list, sa_column=Column(JSONB, nullable=False, server_default="[]"))
    loaded: list[Any] = Field(default_factory=list, sa_column=Column(JSONB, nullable=False, server_default="[]"))


class PlanVersion(SQLModel, table=True):
    """A version of the whole plant's plan: the line plans it is made of, and what they come to together.

    `result` is a core PlantPlan without its plans; `plans` are keys of line plans, which versions may share.
    """

    __tablename__ = "plan_version"
    __table_args__ = (UniqueConstraint("window_id", "number"),)

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    window_id: int = Field(foreign_key="planning_window.id")
    number: int
    parent: int | None = None
    restores: int | None = None
    author: str
    note: str
    book_id: int = Field(foreign_key="order_book.id")
    library_id: int = Field(foreign_key="library_version.id")
    opening_id: int | None = Field(default=None, foreign_key="opening_entry.id")
    plans: list[Any] = json_document()
    result: dict[str, Any] = json_document()
    violations: list[Any] = json_document()
    job_id: int | None = Field(default=None, sa_column=Column(BigInteger, unique=True))


class Publication(SQLModel, table=True):
    """That a version was published for the floor. The newest entry of a window counts."""

    __tablename__ = "publication"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    window_id: int = Field(foreign_key="planning_window.id")
    version: int
    author: str


class SearchStep(SQLModel, table=True):
    """How far a search had come at a moment, and the order of items it had, to go on from."""

    __tablename__ = "search_step"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    job_id: int = Field(sa_column=Column(BigInteger, nullable=False))
    state: str
    text: str = ""
    elapsed_s: float = 0
    evaluated: int = Field(default=0, sa_column=Column(BigInteger, nullable=False))
    cost: float | None = None
    bound: float | None = None
    version: int | None = None
    arrangement: dict[str, Any] | None = Field(default=None, sa_column=Column(JSONB(none_as_null=True)))


class SearchFind(SQLModel, table=True):
    """How far an island of a search had come at a moment; and the order it had found, where it was its best so far."""

    __tablename__ = "search_find"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    job_id: int = Field(sa_column=Column(BigInteger, nullable=False))
    island: int
    evaluated: int = Field(default=0, sa_column=Column(BigInteger, nullable=False))
    cost: float
    arrangement: dict[str, Any] | None = Field(default=None, sa_column=Column(JSONB(none_as_null=True)))


class SearchStop(SQLModel, table=True):
    """That someone asked a search to stop and keep what it has."""

    __tablename__ = "search_stop"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    job_id: int = Field(sa_column=Column(BigInteger, nullable=False))


class ConditionsEntry(SQLModel, table=True):
    """What the dough room measured: room, flour, tap. The newest entry of a window counts."""

    __tablename__ = "conditions_entry"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    window_id: int = Field(foreign_key="planning_window.id")
    conditions: dict[str, Any] = json_document()


class ConditionsWithdrawal(SQLModel, table=True):
    """What the dough room measured that does not count any more, and why."""

    __tablename__ = "conditions_withdrawal"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    conditions_id: int = Field(foreign_key="conditions_entry.id", unique=True)
    reason: str
    author: str


class ProbeEntry(SQLModel, table=True):
    """A dough that was probed, with everything its water was calculated from; of no plan where that is gone."""

    __tablename__ = "probe_entry"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    plan_id: int | None = Field(default=None, foreign_key="line_plan.id")
    run: str
    batch: int
    product: str
    mixer: str
    dough_c: float
    water_c: float
    friction_c: float
    others_c: list[Any] = json_document()
    conditions: dict[str, Any] = json_document()


class ProbeWithdrawal(SQLModel, table=True):
    """A probe that does not count any more, and why."""

    __tablename__ = "probe_withdrawal"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    probe_id: int = Field(foreign_key="probe_entry.id")
    reason: str
    author: str


class InstrumentsVersion(SQLModel, table=True):
    """The instruments, as a core document. The newest counts."""

    __tablename__ = "instruments_version"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    origin: str
    document: dict[str, Any] = json_document()


class InspectionsVersion(SQLModel, table=True):
    """What is inspected on the walk, as a core document. The newest counts."""

    __tablename__ = "inspections_version"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    origin: str
    document: dict[str, Any] = json_document()


class SignalRow(SQLModel, table=True):
    """A quantity of a station that something has been read of; its readings have its number."""

    __tablename__ = "signal"

    id: int | None = Field(default=None, primary_key=True)
    line: str
    station: str
    quantity: str
    zone: int


class InstrumentBeat(SQLModel, table=True):
    """That a source was heard of at a moment, what is to be said of it, and the nodes that tell nothing.

    The only rows that are written over.
    """

    __tablename__ = "instrument_beat"

    source: str = Field(primary_key=True)
    beaten_at: datetime = moment()
    says: str
    missing: list[Any] = json_document()


class SurePlan(SQLModel, table=True):
    """A plan that a search for the odds has found: how sure, at what cost, what was asked for, and the plan."""

    __tablename__ = "sure_plan"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    job_id: int = Field(sa_column=Column(BigInteger, nullable=False))
    number: int
    odds: float
    cost: float
    eased: list[dict[str, Any]] = Field(sa_column=Column(JSONB, nullable=False))
    plan: dict[str, Any] = Field(sa_column=Column(JSONB, nullable=False))
    made: dict[str, Any] = Field(sa_column=Column(JSONB, nullable=False))


class WorthFound(SQLModel, table=True):
    """How a line does with a change, as a search that compares changes has found."""

    __tablename__ = "worth_found"

    id: int | None = Field(default=None, primary_key=True)
    created_at: datetime | None = written_at()
    job_id: int = Field(sa_column=Column(BigInteger, nullable=False))
    worth: dict[str, Any] = Field(sa_column=Column(JSONB, nullable=False))


WRITTEN = (
    PlantOrigin,
    LibraryVersion,
    CalendarVersion,
    PlanningWindow,
    OrderBook,
    OrderMapping,
    OpeningEntry,
    PlanVersion,
    Publication,
    ConditionsEntry,
    ConditionsWithdrawal,
    ProbeEntry,
    ProbeWithdrawal,
    InstrumentsVersion,
    InspectionsVersion,
)
"""The tables whose newest rows say whether anything that pages show has changed."""
