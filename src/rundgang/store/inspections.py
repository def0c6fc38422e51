"""Inspections: what the plant has defined, version by version, and what was found on the walk."""

from collections.abc import Sequence
from datetime import datetime
from uuid import UUID

from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, select

from rundgang.core.errors import UnknownItemError
from rundgang.core.floor.inspections import Inspections
from rundgang.core.model import Model
from rundgang.store.floor_tables import InspectionEntry
from rundgang.store.rows import Rows, key, written
from rundgang.store.tables import InspectionsVersion


class StoredInspections(Model):
    """A version of what is inspected, and since when; number 0 where nobody has defined any."""

    number: int
    inspections: Inspections
    created_at: datetime | None = None


class Found(Model):
    """What was found at an inspection, by whom, and when it was: by the plant's clock, not when it came here.

    Attributes
    ----------
    uuid : UUID
        Given by whoever sends it: sent twice, it is there once.
    version : int
        Of the inspections, that it was judged by.
    occasion : str
        Its key.
    measured : tuple of float
        In metric units.
    good : bool or None
        None where it could not be taken.
    says : str
        What was found, in words.
    """

    uuid: UUID
    window: int
    version: int
    occasion: str
    inspection: str
    line: str
    station: str
    run: str | None
    product: str | None
    batch: int | None
    at: datetime
    measured: tuple[float, ...]
    word: str | None
    good: bool | None
    says: str
    note: str
    author: str


class StoredFound(Found):
    """The same, with when it came here."""

    created_at: datetime


class InspectionsRows(Rows):
    """The versions there are, of which the newest counts; and all that was found."""

    def newest(self) -> StoredInspections:
        """The newest version; the empty one where there is none."""
        return self.known("inspections", self._newest)

    def _newest(self) -> StoredInspections:
        row = self.session.exec(select(InspectionsVersion).order_by(col(InspectionsVersion.id).desc()).limit(1)).first()
        return _stored(row) if row else StoredInspections(number=0, inspections=Inspections())

    def version(self, number: int) -> StoredInspections:
        """A version; UnknownItemError where there is none of that number."""
        row = self.session.get(InspectionsVersion, number)
        if row is None:
            raise UnknownItemError("version of the checks", str(number))
        return self.memory.recall(("inspections", number), lambda: _stored(row))

    def write(self, inspections: Inspections, origin: str) -> int:
        """Store the next version, in the open transaction; its number."""
        row = InspectionsVersion(origin=origin, document=inspections.model_dump(mode="json"))
        self.session.add(row)
        self.session.flush()
        return key(row.id)

    def add(self, found: Found) -> bool:
        """Store what was found, in the open transaction; whether it was not there yet."""
        row = found.model_dump(exclude={"window", "version", "measured"})
        row |= {"window_id": found.window, "version_id": found.version, "measured": list(found.measured)}
        added = insert(InspectionEntry).values(row).on_conflict_do_nothing(index_elements=["uuid"])
        return self.session.connection().execute(added.returning(col(InspectionEntry.id))).first() is not None

    def found(self, line: str, begin: datetime, until: datetime) -> tuple[StoredFound, ...]:
        """What was found on a line in a time, in the order of its moments."""
        query = select(InspectionEntry).where(InspectionEntry.line == line, InspectionEntry.at >= begin)
        query = query.where(InspectionEntry.at <= until)
        rows = self.session.exec(query.order_by(col(InspectionEntry.at), col(InspectionEntry.id)))
        return tuple(_found(row) for row in rows)

    def known_of(self, uuids: Sequence[UUID]) -> frozenset[UUID]:
        """Which of some are there."""
        query = select(InspectionEntry.uuid).where(col(InspectionEntry.uuid).in_(uuids))
        return frozenset(self.session.exec(query))


def _stored(row: InspectionsVersion) -> StoredInspections:
    return StoredInspections(
        number=key(row.id), inspections=Inspections.model_validate(row.document), created_at=written(row.created_at)
    )


def _found(row: InspectionEntry) -> StoredFound:
    return StoredFound(
        uuid=row.uuid,
        window=row.window_id,
        version=row.version_id,
        occasion=row.occasion,
        inspection=row.inspection,
        line=row.line,
        station=row.station,
        run=row.run,
        product=row.product,
        batch=row.batch,
        at=row.at,
        measured=tuple(row.measured),
        word=row.word,
        good=row.good,
        says=row.says,
        note=row.note,
        author=row.author,
        created_at=written(row.created_at),
    )
