"""Plans: of single lines, and the plant's versions that they make up; and which version the floor works by."""

from datetime import datetime
from typing import NamedTuple

from sqlmodel import Session, col, func, select

from rundgang.core.errors import RundgangError, UnknownItemError
from rundgang.core.model import Model
from rundgang.core.planning.check.violation import Violation
from rundgang.core.planning.model import LinePlan, PlantPlan
from rundgang.core.planning.objective import Score
from rundgang.store.books import Books
from rundgang.store.libraries import Libraries
from rundgang.store.rows import Rows, key, written
from rundgang.store.tables import LinePlanRow, OrderBook, PlanningWindow, PlanVersion, Publication


class StoredPlan(Model):
    """A line's plan as it was stored, with the order book, library and opening it was made for."""

    number: int
    created_at: datetime
    book: int
    library: int
    opening: int | None = None
    plan: LinePlan
    violations: tuple[Violation, ...]


class Made(Model):
    """What a version is made for, by whom and from what.

    Attributes
    ----------
    opening : int
        The window's opening; 0 where there is none.
    parent : int or None
        The version it was changed from.
    job : int or None
        The search that found it.
    """

    book: int
    library: int
    opening: int = 0
    author: str = "planner"
    note: str
    parent: int | None = None
    restores: int | None = None
    job: int | None = None


class VersionNote(Model):
    """A version of the plant's plan without its lines."""

    number: int
    created_at: datetime
    author: str
    note: str
    parent: int | None
    restores: int | None
    book: int
    library: int
    opening: int
    score: Score
    cost: float
    bound: float


class Basis(NamedTuple):
    """What a plan made now would be made of: orders, library and opening.

    Attributes
    ----------
    books : frozenset of int
        The newest order book, and the earlier one it repeats, if it does.
    openings : frozenset of int
        The newest opening, and the earlier one it repeats, if it does.
    """

    books: frozenset[int | None]
    library: int
    openings: frozenset[int | None]

    def outdates(self, made: StoredPlan | VersionNote) -> bool:
        """Whether a plan was made of something else."""
        same = made.book in self.books and (made.opening or 0) in self.openings
        return not same or made.library != self.library


class StoredVersion(Model):
    """A version with its lines' plans, and what it breaks in what they share."""

    note: VersionNote
    plans: tuple[StoredPlan, ...]
    plan: PlantPlan
    violations: tuple[Violation, ...]

    @property
    def breaks_rules(self) -> bool:
        """Whether the check found anything in it."""
        return bool(self.violations) or any(stored.violations for stored in self.plans)


class Published(Model):
    """Which version the floor works by, since when, and who said so."""

    version: int
    author: str
    created_at: datetime


Checked = dict[str, tuple[Violation, ...]]
"""By line, what the check found in its plan by itself."""


class NothingPublishedError(RundgangError):
    """There is no plan that the floor works by."""

    def __init__(self) -> None:
        super().__init__("No plan is live on the floor. Allowed: publish one first.")


class PublishedAt(NamedTuple):
    """That a version of a window's plan was published, and when, by the machine's time."""

    number: int
    window: int
    version: int
    created_at: datetime


class Plans(Rows):
    """The plans of the window's lines, and its versions."""

    def __init__(self, session: Session, window: int | None = None) -> None:
        super().__init__(session, window)
        self.libraries, self.books = Libraries(session), Books(session, window)

    def add(self, plan: PlantPlan, made: Made, alone: Checked, shared: tuple[Violation, ...]) -> StoredVersion:
        """Store a plan of the plant under the next number; lines that have not changed are shared."""
        version = self.write(plan, made, alone, shared)
        self.session.commit()
        return version

    def write(self, plan: PlantPlan, made: Made, alone: Checked, shared: tuple[Violation, ...]) -> StoredVersion:
        """Store a plan of the plant, in the open transaction.

        A job's version is stored once: asked again, the one there is comes back.

        Parameters
        ----------
        alone, shared : mapping, tuple
            What the check found, by line and in what lines share.
        """
        window = self.locked_window()
        if made.job is not None:
            known = self.session.exec(select(PlanVersion).where(PlanVersion.job_id == made.job)).first()
            if known:
                return self._as_version(known)
        book, opening = key(self.books.row(made.book).id), made.opening or None
        parent = self._row(window, made.parent) if made.parent else None
        before = {stored.plan.line: stored for stored in self._lines(parent)} if parent else {}
        keys = []
        for line in plan.plans:
            same = before.get(line.line)
            if same and same.plan == line and _made_for(same) == (made.book, made.library, opening):
                keys.append(self._key(same.number))
            else:
                keys.append(self._write(window, (book, made.library, opening), line, alone[line.line]))
        last = self.session.exec(select(func.max(PlanVersion.number)).where(PlanVersion.window_id == window.id)).one()
        version = PlanVersion(
            window_id=key(window.id),
            number=(last or 0) + 1,
            parent=made.parent,
            restores=made.restores,
            author=made.author,
            note=made.note,
            book_id=book,
            library_id=made.library,
            opening_id=opening,
            plans=keys,
            result=plan.model_dump(mode="json", exclude={"plans"}),
            violations=[violation.model_dump(mode="json") for violation in shared],
            job_id=made.job,
        )
        self.session.add(version)
        self.session.flush()
        return self._as_version(version)

    def of_job(self, job: int) -> StoredVersion | None:
        """The version that a search has become, if it has."""
        row = self.session.exec(select(PlanVersion).where(PlanVersion.job_id == job)).first()
        return self._as_version(row) if row else None

    def version(self, number: int | None = None) -> StoredVersion:
        """A version, by default the newest, or UnknownItemError."""
        return self.known(("version", number), lambda: self._version(number))

    def _version(self, number: int | None) -> StoredVersion:
        window = self.window()
        row = self._newest(window) if number is None else self._row(window, number)
        if row is None:
            raise UnknownItemError("version of the plan", "yet")
        return self.memory.recall(("version", row.id), lambda: self._as_version(row))

    def newest_number(self) -> int | None:
        """Number of the newest version, if there is one."""
        newest = self._newest(self.window())
        return newest.number if newest else None

    def versions(self, before: int | None, most: int) -> tuple[VersionNote, ...]:
        """So many versions of the window, newest first; where asked, of those before one."""
        query = select(PlanVersion).where(PlanVersion.window_id == self.window().id)
        if before is not None:
            query = query.where(col(PlanVersion.number) < before)
        found = self.session.exec(query.order_by(col(PlanVersion.number).desc()).limit(most))
        return tuple(self._note(row) for row in found)

    def restore(self, number: int, author: str) -> StoredVersion:
        """Store the next version: an earlier one brought back. Undo and redo are both this."""
        window = self.locked_window()
        row, last = self._row(window, number), self._newest(window)
        shared = ("window_id", "book_id", "library_id", "opening_id", "plans", "result", "violations")
        version = PlanVersion(
            number=key(last.number if last else 0) + 1,
            parent=row.restores or number,
            restores=row.restores or number,
            author=author,
            note=f"version {row.restores or number} restored",
            **{name: getattr(row, name) for name in shared},
        )
        self.session.add(version)
        self.session.commit()
        return self._as_version(version)

    def publish(self, number: int, author: str) -> None:
        """Make a version the one that the floor works by."""
        self.write_publication(number, author)
        self.session.commit()

    def write_publication(self, number: int, author: str) -> None:
        """Make a version the one that the floor works by, in the open transaction."""
        window = self.locked_window()
        self._row(window, number)
        self.session.add(Publication(window_id=key(window.id), version=number, author=author))
        self.session.flush()

    def published(self) -> Published | None:
        """The version that the floor works by, if one is published."""
        return self.known("published", self._published)

    def _published(self) -> Published | None:
        query = select(Publication).where(Publication.window_id == self.window().id)
        found = self.session.exec(query.order_by(col(Publication.id).desc()).limit(1)).first()
        if found is None:
            return None
        return Published(version=found.version, author=found.author, created_at=written(found.created_at))

    def live(self) -> StoredVersion:
        """The version that the floor works by; NothingPublishedError where none is published."""
        published = self.published()
        if published is None:
            raise NothingPublishedError
        return self.version(published.version)

    def publications(self, after: int) -> tuple[PublishedAt, ...]:
        """What was published behind a publication, of whichever window, in order."""
        query = select(Publication).where(col(Publication.id) > after).order_by(col(Publication.id))
        return tuple(
            PublishedAt(key(row.id), row.window_id, row.version, written(row.created_at))
            for row in self.session.exec(query)
        )

    def floor_plans(self) -> tuple[LinePlan, ...]:
        """The plans of the lines in the published version; none where none is published."""
        published = self.published()
        return self.version(published.version).plan.plans if published else ()

    def floor_plan(self, line: str | None = None) -> StoredPlan:
        """The plan of a line that the floor works by: of the version published, or where none is, of the newest."""
        published = self.published()
        plans = self.version(published.version).plans if published else ()
        return next((stored for stored in plans if line in {None, stored.plan.line}), None) or self.line(line=line)

    def line(self, number: int | None = None, line: str | None = None) -> StoredPlan:
        """A line's plan by its number, or that of the newest version, of a line or of any, or UnknownItemError."""
        if number is not None:
            return self._read(self._key(number))
        newest = self.newest_lines()
        found = [stored for stored in newest if line is None or stored.plan.line == line]
        if not found:
            raise UnknownItemError("plan", "yet")
        return found[0] if line else max(found, key=lambda stored: stored.number)

    def newest_lines(self) -> tuple[StoredPlan, ...]:
        """The plans of the newest version's lines, in the plant's order."""
        row = self._newest(self.window())
        return self._lines(row) if row else ()

    def version_with(self, number: int) -> int:
        """Number of the version that has a line's plan: of the published one, or else of the newest that has it."""
        published, key_of_plan = self.published(), self._key(number)
        query = select(PlanVersion.number).where(
            PlanVersion.window_id == self.window().id, col(PlanVersion.plans).contains([key_of_plan])
        )
        known = sorted(self.session.exec(query))
        return published.version if published and published.version in known else known[-1]

    def key_of(self, number: int) -> int:
        """The key of a line's plan, or UnknownItemError."""
        return self._key(number)

    def _write(
        self,
        window: PlanningWindow,
        made_for: tuple[int, int, int | None],
        plan: LinePlan,
        violations: tuple[Violation, ...],
    ) -> int:
        book, library, opening = made_for
        last = self.session.exec(select(func.max(LinePlanRow.number)).where(LinePlanRow.window_id == window.id)).one()
        row = LinePlanRow(
            window_id=key(window.id),
            number=(last or 0) + 1,
            book_id=book,
            library_id=library,
            opening_id=opening,
            line=plan.line,
            document=plan.model_dump(mode="json"),
            violations=[violation.model_dump(mode="json") for violation in violations],
        )
        self.session.add(row)
        self.session.flush()
        return key(row.id)

    def _newest(self, window: PlanningWindow) -> PlanVersion | None:
        query = select(PlanVersion).where(PlanVersion.window_id == window.id)
        return self.session.exec(query.order_by(col(PlanVersion.number).desc()).limit(1)).first()

    def _row(self, window: PlanningWindow, number: int) -> PlanVersion:
        query = select(PlanVersion).where(PlanVersion.window_id == window.id, PlanVersion.number == number)
        row = self.session.exec(query).first()
        if row is None:
            raise UnknownItemError("version of the plan", str(number))
        return row

    def _lines(self, row: PlanVersion) -> tuple[StoredPlan, ...]:
        found = [self._read(stored) for stored in row.plans]
        order = [line.id for line in self.libraries.read(row.library_id).plant.lines]
        return tuple(sorted(found, key=lambda stored: order.index(stored.plan.line)))

    def _note(self, row: PlanVersion) -> VersionNote:
        book = self.session.get_one(OrderBook, row.book_id)
        return VersionNote(
            number=row.number,
            created_at=written(row.created_at),
            author=row.author,
            note=row.note,
            parent=row.parent,
            restores=row.restores,
            book=book.number,
            library=row.library_id,
            opening=row.opening_id or 0,
            score=Score.model_validate(row.result["score"]),
            cost=row.result["cost"],
            bound=row.result["bound"],
        )

    def _as_version(self, row: PlanVersion) -> StoredVersion:
        plans = self._lines(row)
        return StoredVersion(
            note=self._note(row),
            plans=plans,
            plan=PlantPlan.model_validate({**row.result, "plans": tuple(stored.plan for stored in plans)}),
            violations=tuple(Violation.model_validate(violation) for violation in row.violations),
        )

    def _read(self, stored: int) -> StoredPlan:
        return self.memory.recall(("plan", stored), lambda: self._as_plan(self.session.get_one(LinePlanRow, stored)))

    def _as_plan(self, row: LinePlanRow) -> StoredPlan:
        book = self.session.get_one(OrderBook, row.book_id)
        return StoredPlan(
            number=row.number,
            created_at=written(row.created_at),
            book=book.number,
            library=row.library_id,
            opening=row.opening_id,
            plan=LinePlan.model_validate(row.document),
            violations=tuple(Violation.model_validate(violation) for violation in row.violations),
        )

    def _key(self, number: int) -> int:
        query = select(LinePlanRow.id).where(LinePlanRow.window_id == self.window().id, LinePlanRow.number == number)
        found = self.session.exec(query).first()
        if found is None:
            raise UnknownItemError("plan", str(number))
        return found


def _made_for(stored: StoredPlan) -> tuple[int, int, int | None]:
    return stored.book, stored.library, stored.opening
