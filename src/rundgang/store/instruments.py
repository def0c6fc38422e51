"""Instruments: which node tells which signal, version by version, and when each source was heard of."""

from collections.abc import Sequence

from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, func, select

from rundgang.core.floor.instruments import Instruments
from rundgang.core.model import Model
from rundgang.store.rows import Rows, key
from rundgang.store.tables import InstrumentBeat, InstrumentsVersion


class StoredInstruments(Model):
    """A version of the instruments; number 0 where nobody has entered any."""

    number: int
    instruments: Instruments


class Beat(Model):
    """That a source was heard of.

    Attributes
    ----------
    age_s : float
        How long ago, by the database's clock, s.
    says : str
        What is wrong with it; nothing where it is well.
    missing : tuple of str
        The signals whose nodes tell nothing.
    """

    source: str
    age_s: float
    says: str
    missing: tuple[str, ...] = ()


class InstrumentsRows(Rows):
    """The versions there are; the newest counts."""

    def newest(self) -> StoredInstruments:
        """The newest version; the empty one where there is none."""
        return self.known("instruments", self._newest)

    def _newest(self) -> StoredInstruments:
        row = self.session.exec(select(InstrumentsVersion).order_by(col(InstrumentsVersion.id).desc()).limit(1)).first()
        if row is None:
            return StoredInstruments(number=0, instruments=Instruments())
        return StoredInstruments(number=key(row.id), instruments=Instruments.model_validate(row.document))

    def write(self, instruments: Instruments, origin: str) -> int:
        """Store the next version, in the open transaction; its number."""
        row = InstrumentsVersion(origin=origin, document=instruments.model_dump(mode="json"))
        self.session.add(row)
        self.session.flush()
        return key(row.id)

    def beat(self, source: str, says: str, missing: Sequence[str]) -> None:
        """Note that a source was heard of, or sought, now."""
        row = {"source": source, "beaten_at": func.now(), "says": says, "missing": list(missing)}
        said = insert(InstrumentBeat).values(row)
        self.session.execute(said.on_conflict_do_update(index_elements=["source"], set_=row))
        self.session.commit()

    def beats(self) -> dict[str, Beat]:
        """When each source was last heard of."""
        age_s = func.extract("epoch", func.now() - col(InstrumentBeat.beaten_at))
        return {
            row.source: Beat(source=row.source, age_s=float(age), says=row.says, missing=tuple(row.missing))
            for row, age in self.session.exec(select(InstrumentBeat, age_s))
        }
