"""What is told of a shift beside its checks and stops: pieces that were pulled, and what the next one must know."""

from collections.abc import Sequence
from datetime import datetime
from uuid import UUID

from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, select

from rundgang.formats.accounted import Note, Pulled, Scrapped
from rundgang.store.floor_tables import HandoverNote, PulledEntry
from rundgang.store.lot_tables import LotEvent, LotRow
from rundgang.store.rows import Rows


class Evening(Rows):
    """Pulled pieces, scrapped packs and handover notes."""

    def pull(self, pulled: Pulled) -> None:
        """Store pieces that were pulled, in the open transaction; what is there already stays."""
        row = insert(PulledEntry).values(pulled.model_dump()).on_conflict_do_nothing(index_elements=["uuid"])
        self.session.connection().execute(row)

    def pulled_of(self, uuids: Sequence[UUID]) -> frozenset[UUID]:
        """Which of some are there."""
        return frozenset(self.session.exec(select(PulledEntry.uuid).where(col(PulledEntry.uuid).in_(uuids))))

    def pulled(self, line: str, begin: datetime, until: datetime) -> tuple[Pulled, ...]:
        """What was pulled off a line in a time, in the order of its moments."""
        query = select(PulledEntry).where(PulledEntry.line == line, PulledEntry.at >= begin, PulledEntry.at < until)
        rows = self.session.exec(query.order_by(col(PulledEntry.at), col(PulledEntry.id)))
        return tuple(Pulled.model_validate({name: getattr(row, name) for name in Pulled.model_fields}) for row in rows)

    def scrapped(self, line: str, begin: datetime, until: datetime) -> tuple[Scrapped, ...]:
        """The packs of a line that were scrapped in a time, in the order of its moments."""
        query = (
            select(LotEvent, LotRow)
            .join(LotRow, col(LotRow.id) == LotEvent.lot_id)
            .where(LotEvent.kind == "scrap", LotRow.line == line, LotEvent.at >= begin, LotEvent.at < until)
            .order_by(col(LotEvent.at), col(LotEvent.id))
        )
        return tuple(
            Scrapped(
                lot=event.lot_id,
                code=lot.code,
                product=lot.item,
                packs=int(event.said["packs"]),
                cause=event.said.get("cause", "other"),
                reason=event.said.get("reason", ""),
                at=event.at,
                author=event.author,
            )
            for event, lot in self.session.exec(query)
        )

    def hand_over(self, note: Note) -> None:
        """Store what the next shift must know, in the open transaction; what is there already stays."""
        row = insert(HandoverNote).values(note.model_dump()).on_conflict_do_nothing(index_elements=["uuid"])
        self.session.connection().execute(row)

    def notes(self, line: str, begin: datetime, until: datetime) -> tuple[Note, ...]:
        """What was handed over on a line in a time, the newest first."""
        query = select(HandoverNote).where(HandoverNote.line == line, HandoverNote.at >= begin, HandoverNote.at < until)
        rows = self.session.exec(query.order_by(col(HandoverNote.at).desc(), col(HandoverNote.id).desc()))
        return tuple(Note.model_validate({name: getattr(row, name) for name in Note.model_fields}) for row in rows)
