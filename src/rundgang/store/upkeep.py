"""The diary of cleaning and of tools: what was done, by whom, and who has released it. Each entry once."""

from datetime import datetime
from typing import Literal
from uuid import UUID

from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, select

from rundgang.core.errors import UnknownItemError
from rundgang.core.model import Model
from rundgang.store.floor_tables import UpkeepEntry, UpkeepRelease
from rundgang.store.rows import Rows, key

UpkeepKind = Literal["cleaned", "renewed"]


class NewUpkeep(Model):
    """What was done at a station.

    Attributes
    ----------
    uuid : UUID
        Given by whoever sends it: sent twice, it is there once.
    tool : str or None
        Which was renewed.
    """

    uuid: UUID
    line: str
    station: str
    kind: UpkeepKind
    what: str
    tool: str | None = None
    began_at: datetime
    ended_at: datetime
    author: str


class Released(Model):
    """Who has released something, and when."""

    at: datetime
    author: str


class StoredUpkeep(NewUpkeep):
    """The same with its number, and its release."""

    number: int
    released: Released | None


class Upkeep(Rows):
    """The diary."""

    def add(self, entry: NewUpkeep) -> None:
        """Store an entry, in the open transaction."""
        self.session.add(UpkeepEntry(**entry.model_dump()))
        self.session.flush()

    def is_told(self, uuid: UUID) -> bool:
        """Whether an entry is there already."""
        return self.session.exec(select(UpkeepEntry.id).where(UpkeepEntry.uuid == uuid)).first() is not None

    def release(self, number: int, at: datetime, author: str) -> None:
        """Store that an entry is released, in the open transaction; one that is released already stays so."""
        row = {"entry_id": number, "at": at, "author": author}
        self.session.connection().execute(insert(UpkeepRelease).values(row).on_conflict_do_nothing())

    def entry(self, line: str, number: int) -> StoredUpkeep:
        """An entry of a line; UnknownItemError where it has none of that number."""
        row = self.session.get(UpkeepEntry, number)
        if row is None or row.line != line:
            raise UnknownItemError("entry of the diary", str(number))
        return _stored(row, self._releases([number]))

    def since(self, line: str, since: datetime) -> tuple[StoredUpkeep, ...]:
        """The entries of a line that ended since a moment, the newest first."""
        query = select(UpkeepEntry).where(UpkeepEntry.line == line, UpkeepEntry.ended_at >= since)
        rows = self.session.exec(query.order_by(col(UpkeepEntry.ended_at).desc(), col(UpkeepEntry.id).desc())).all()
        releases = self._releases([key(row.id) for row in rows])
        return tuple(_stored(row, releases) for row in rows)

    def _releases(self, numbers: list[int]) -> dict[int, Released]:
        rows = self.session.exec(select(UpkeepRelease).where(col(UpkeepRelease.entry_id).in_(numbers)))
        return {row.entry_id: Released(at=row.at, author=row.author) for row in rows}


def _stored(row: UpkeepEntry, releases: dict[int, Released]) -> StoredUpkeep:
    known = {name: getattr(row, name) for name in NewUpkeep.model_fields}
    return StoredUpkeep(**known, number=key(row.id), released=releases.get(key(row.id)))
