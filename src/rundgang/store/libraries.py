"""Versions of the library: plant, preparations and products."""

from datetime import datetime

from sqlmodel import col, select

from rundgang.core.errors import UnknownItemError
from rundgang.core.library import Library, library_of
from rundgang.core.model import Model
from rundgang.core.plant import Plant
from rundgang.core.products import Preparation, Product
from rundgang.core.scenario import Scenario
from rundgang.store.rows import Rows, key, written
from rundgang.store.tables import LibraryVersion


class LibraryNote(Model):
    """A version of the library without its contents."""

    number: int
    created_at: datetime
    origin: str


class Libraries(Rows):
    """The versions there are; the newest counts."""

    def read(self, number: int | None = None) -> Library:
        """A version, by default the newest, or UnknownItemError."""
        found = self.number(number)
        return self.memory.recall(("library", found), lambda: self._read(found))

    def number(self, number: int | None = None) -> int:
        """The number of a version that there is, by default of the newest, or UnknownItemError."""
        query = select(LibraryVersion.id)
        if number is not None:
            query = query.where(LibraryVersion.id == number)
        found = self.session.exec(query.order_by(col(LibraryVersion.id).desc()).limit(1)).first()
        if found is None:
            raise UnknownItemError("version of the library", str(number))
        return found

    def notes(self) -> tuple[LibraryNote, ...]:
        """All versions, newest first."""
        query = select(LibraryVersion.id, LibraryVersion.created_at, LibraryVersion.origin)
        found = self.session.exec(query.order_by(col(LibraryVersion.id).desc()))
        return tuple(
            LibraryNote(number=key(number), created_at=written(moment), origin=origin)
            for number, moment, origin in found
        )

    def add(self, scenario: Scenario, origin: str) -> LibraryNote:
        """Store the plant, preparations and products of a scenario as the next version, in the open transaction."""
        version = LibraryVersion(origin=origin, **library_of(scenario).model_dump(mode="json"))
        self.session.add(version)
        self.session.flush()
        return LibraryNote(number=key(version.id), created_at=written(version.created_at), origin=origin)

    def _read(self, number: int) -> Library:
        version = self.session.get_one(LibraryVersion, number)
        return Library(
            plant=Plant.model_validate(version.plant),
            preparations=tuple(Preparation.model_validate(made) for made in version.preparations),
            products=tuple(Product.model_validate(product) for product in version.products),
        )
