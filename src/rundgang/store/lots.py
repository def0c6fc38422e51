"""Lots: what came in, was mixed, was packed; what went into what; holds, loads, and both ways of a trace."""

from collections.abc import Iterable, Mapping, Sequence
from datetime import date, datetime
from typing import Any, Literal
from uuid import UUID

from pydantic import Field
from sqlalchemy import Integer, bindparam, text, tuple_
from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, func, select

from rundgang.core.errors import UnknownItemError
from rundgang.core.floor.lots import Lot, LotKind, Use, UseKind
from rundgang.core.floor.recall import PacksOf, Trace, traced
from rundgang.core.model import Model
from rundgang.core.units import GRAMS_PER_KG
from rundgang.store.lot_tables import LorryGone, LotEvent, LotLoad, LotRow, LotUse
from rundgang.store.rows import Rows, key

LotEventKind = Literal["hold", "release", "scrap", "cleared", "empty", "charged", "phase", "added", "discharged"]

KEEPING = 71_003
"""The advisory lock under which the record is kept: one at a time."""

UP = "SELECT u.lot_id FROM lot_use u JOIN way ON u.into_id = way.lot WHERE u.lot_id IS NOT NULL"
DOWN = "SELECT u.into_id FROM lot_use u JOIN way ON u.lot_id = way.lot"


class NewLot(Model):
    """A lot to be stored."""

    code: str
    kind: LotKind
    item: str
    line: str | None = None
    run: str | None = None
    batch: str | None = None
    at: datetime
    until_at: datetime
    amount: float
    best_before: date | None = None
    supplier: str | None = None
    said: dict[str, Any] = Field(default_factory=dict)
    author: str


class StoredLot(NewLot):
    """A lot with its number, and the window in which it was made."""

    number: int
    window: int

    @property
    def lot(self) -> Lot:
        """As the core takes it."""
        return Lot(
            number=self.number,
            code=self.code,
            kind=self.kind,
            item=self.item,
            line=self.line,
            run=self.run,
            batch=self.batch,
            amount=self.amount,
            best_before=self.best_before,
            supplier=self.supplier,
            allergens=frozenset(self.said.get("allergens", ())),
        )


class NewUse(Model):
    """That so much of a lot went into another; of an item without a lot nobody knows which."""

    uuid: UUID | None = None
    lot: int | None
    into: int
    item: str
    amount: float
    kind: UseKind
    at: datetime
    said: dict[str, Any] = Field(default_factory=dict)
    author: str


class StoredUse(NewUse):
    """The same, with its number."""

    number: int


class StoredLotEvent(Model):
    """What became of a lot."""

    number: int
    lot: int
    kind: LotEventKind
    at: datetime
    said: dict[str, Any]
    author: str


class Load(Model):
    """Packs of a lot that are loaded on a lorry; below nothing, taken off it again."""

    uuid: UUID | None = None
    lot: int
    lorry: str
    product: str
    packs: int
    at: datetime
    author: str


class StoredGone(Model):
    """That a lorry has left."""

    lorry: str
    at: datetime
    said: dict[str, Any]
    author: str


class Lots(Rows):
    """The record of what was made."""

    def lock(self) -> None:
        """Have the record to oneself until the transaction ends."""
        self.session.execute(text("SELECT pg_advisory_xact_lock(:lock)"), {"lock": KEEPING})

    def add(self, lots: Sequence[NewLot]) -> dict[str, int]:
        """Store lots, in the open transaction; the number of each by its code. One that is there stays as it is."""
        window = key(self.window().id)
        rows = [lot.model_dump() | {"window_id": window} for lot in lots]
        if rows:
            self._insert(insert(LotRow).on_conflict_do_nothing(index_elements=["code"]), rows)
        codes = [lot.code for lot in lots]
        found = self.session.exec(select(LotRow.code, LotRow.id).where(col(LotRow.code).in_(codes)))
        return {code: key(number) for code, number in found}

    def use(self, uses: Sequence[NewUse]) -> None:
        """Store what went into what, in the open transaction."""
        rows = [use.model_dump(exclude={"lot", "into"}) | {"lot_id": use.lot, "into_id": use.into} for use in uses]
        self._insert(insert(LotUse), rows)

    def note(
        self, said: Mapping[int, dict[str, Any]], kind: LotEventKind, at: datetime, author: str,
        uuid: UUID | None = None,
    ) -> None:  # fmt: skip
        """Store what became of lots, in the open transaction; of several the first has the uuid.

        Parameters
        ----------
        said : mapping of int to dict
            What is said of each lot.
        """
        rows = [
            {"lot_id": lot, "kind": kind, "at": at, "said": of, "author": author, "uuid": None if place else uuid}
            for place, (lot, of) in enumerate(said.items())
        ]
        self._insert(insert(LotEvent), rows)

    def load(self, loads: Sequence[Load]) -> None:
        """Store what is loaded, in the open transaction."""
        window = key(self.window().id)
        rows = [load.model_dump(exclude={"lot"}) | {"lot_id": load.lot, "window_id": window} for load in loads]
        self._insert(insert(LotLoad), rows)

    def leave(self, lorry: str, at: datetime, said: dict[str, Any], author: str, uuid: UUID | None) -> None:
        """Store that a lorry has left, in the open transaction."""
        row = {
            "uuid": uuid, "lorry": lorry, "window_id": key(self.window().id), "at": at, "said": said, "author": author,
        }  # fmt: skip
        self._insert(insert(LorryGone), [row])

    def _insert(self, insertion: Any, rows: Sequence[dict[str, Any]]) -> None:
        # One statement for all rows: with the rows in it, each would be another that has to be worked out anew.
        if rows:
            self.session.connection().execute(insertion, rows)

    def lot(self, number: int) -> StoredLot:
        """A lot; UnknownItemError where there is none of that number."""
        row = self.session.get(LotRow, number)
        if row is None:
            raise UnknownItemError("lot", str(number))
        return _lot(row)

    def all_of(self, numbers: Sequence[int]) -> tuple[StoredLot, ...]:
        """Some lots by their numbers, in their order."""
        rows = self.session.exec(select(LotRow).where(col(LotRow.id).in_(numbers)).order_by(col(LotRow.id)))
        return tuple(_lot(row) for row in rows)

    def of_batch(self, line: str, run: str, batch: str, since: datetime) -> StoredLot | None:
        """The lot of a batch that was begun since a moment, by its run and card."""
        query = select(LotRow).where(
            LotRow.kind == "batch", LotRow.line == line, LotRow.run == run, LotRow.batch == batch, LotRow.at >= since
        )
        row = self.session.exec(query.order_by(col(LotRow.id).desc()).limit(1)).first()
        return _lot(row) if row else None

    def since(self, kind: LotKind, since: datetime, line: str | None = None) -> tuple[StoredLot, ...]:
        """The lots of a kind that began since a moment, of a line or of all, in their order."""
        query = select(LotRow).where(LotRow.kind == kind, LotRow.at >= since)
        if line is not None:
            query = query.where(LotRow.line == line)
        return tuple(_lot(row) for row in self.session.exec(query.order_by(col(LotRow.at), col(LotRow.id))))

    def of_codes(self, codes: Iterable[str]) -> tuple[StoredLot, ...]:
        """The lots with some codes."""
        rows = self.session.exec(select(LotRow).where(col(LotRow.code).in_(list(codes))))
        return tuple(_lot(row) for row in rows)

    def is_empty(self) -> bool:
        """Whether no lot has ever been stored."""
        return self.session.exec(select(LotRow.id).limit(1)).first() is None

    def materials_known(self) -> frozenset[str]:
        """The materials that have ever come in, as far as the record knows."""
        return frozenset(self.session.exec(select(LotRow.item).where(LotRow.kind == "material").distinct()))

    def last_number(self) -> int:
        """The number of the lot that was stored last; 0 where there is none."""
        return self.session.exec(select(func.max(LotRow.id))).one() or 0

    def numbers_after(self, number: int) -> tuple[int, ...]:
        """The numbers of the lots that were stored behind one, in their order."""
        query = select(LotRow.id).where(col(LotRow.id) > number).order_by(col(LotRow.id))
        return tuple(key(found) for found in self.session.exec(query))

    def with_event(self, lots: Sequence[int], kind: LotEventKind) -> frozenset[int]:
        """Those of some lots of which a thing has been told."""
        query = select(LotEvent.lot_id).where(LotEvent.kind == kind, col(LotEvent.lot_id).in_(lots))
        return frozenset(self.session.exec(query))

    def packs_there(self, since: datetime, product: str | None = None) -> tuple[tuple[StoredLot, int], ...]:
        """Packs made since a moment that are not sent or scrapped, the oldest first, held ones too, and how many."""
        query = select(LotRow).where(LotRow.kind == "packs", LotRow.at >= since)
        if product is not None:
            query = query.where(LotRow.item == product)
        lots = [_lot(row) for row in self.session.exec(query.order_by(col(LotRow.at), col(LotRow.id)))]
        became = self.became([lot.number for lot in lots])
        left = [(lot, round(lot.amount) - became[lot.number].sent - became[lot.number].scrap) for lot in lots]
        return tuple((lot, packs) for lot, packs in left if packs > 0)

    def found(self, words: str, before: int | None, most: int) -> tuple[StoredLot, ...]:
        """So many lots, those made last first, with some words in their code, item, supplier's lot or line."""
        query = select(LotRow)
        for word in words.split():
            like = f"%{word.replace('%', '').replace('_', '')}%"
            query = query.where(
                col(LotRow.code).ilike(like) | col(LotRow.supplier).ilike(like) | col(LotRow.item).ilike(like)
            )
        if before is not None:
            last = self.lot(before)
            query = query.where(tuple_(col(LotRow.until_at), col(LotRow.id)) < (last.until_at, last.number))
        ordered = query.order_by(col(LotRow.until_at).desc(), col(LotRow.id).desc())
        return tuple(_lot(row) for row in self.session.exec(ordered.limit(most)))

    def open_materials(self, item: str) -> tuple[tuple[StoredLot, float], ...]:
        """The lots of a material of which something is left, the oldest first, and how much that is."""
        empty = select(LotEvent.lot_id).where(LotEvent.kind == "empty")
        used = (
            select(LotUse.lot_id, func.sum(LotUse.amount).label("used"))
            .where(col(LotUse.lot_id).is_not(None))
            .group_by(col(LotUse.lot_id))
            .subquery()
        )
        query = (
            select(LotRow, func.coalesce(used.c.used, 0.0))
            .join(used, used.c.lot_id == LotRow.id, isouter=True)
            .where(LotRow.kind == "material", LotRow.item == item, col(LotRow.id).not_in(empty))
        )
        rows = self.session.exec(query.order_by(col(LotRow.at), col(LotRow.id)))
        return tuple((_lot(row), row.amount - gone) for row, gone in rows)

    def used_of(self, lots: Sequence[int]) -> dict[int, float]:
        """What has been used of some lots, kg or pieces."""
        query = select(LotUse.lot_id, func.sum(LotUse.amount)).where(col(LotUse.lot_id).in_(lots))
        return {key(lot): float(used) for lot, used in self.session.exec(query.group_by(col(LotUse.lot_id)))}

    def uses_into(self, lots: Sequence[int]) -> tuple[StoredUse, ...]:
        """What went into some lots, in its order."""
        query = select(LotUse).where(col(LotUse.into_id).in_(lots)).order_by(col(LotUse.id))
        return tuple(_use(row) for row in self.session.exec(query))

    def gone_since(self, since: datetime) -> tuple[int, ...]:
        """The lots of which packs are on lorries that have left since a moment."""
        query = (
            select(LotLoad.lot_id)
            .join(LorryGone, col(LorryGone.lorry) == LotLoad.lorry)
            .where(LorryGone.at >= since)
            .group_by(col(LotLoad.lot_id))
            .having(func.sum(LotLoad.packs) > 0)
        )
        return tuple(self.session.exec(query.order_by(col(LotLoad.lot_id))))

    def moment(self) -> datetime:
        """The real moment, by the database's clock."""
        found: datetime = self.session.exec(select(func.now())).one()
        return found

    def at_hand(self, since: datetime) -> tuple[tuple[StoredLot, frozenset[str]], ...]:
        """The batches begun since a moment that somebody weighs up and that are not out, the one told last behind.

        With what has been weighed for each.
        """
        out = select(LotEvent.lot_id).where(LotEvent.kind == "discharged")
        query = (
            select(LotRow, func.array_agg(LotUse.item))
            .join(LotUse, col(LotUse.into_id) == LotRow.id)
            .where(LotRow.kind == "batch", LotUse.kind == "weighed", LotUse.at >= since, col(LotRow.id).not_in(out))
            .group_by(col(LotRow.id))
            .order_by(func.max(LotUse.at))
        )
        return tuple((_lot(row), frozenset(items)) for row, items in self.session.exec(query))

    def weighed_off(self) -> dict[str, float]:
        """What batches of the window that are out took of each item beyond what their cards ask for, kg."""
        out = select(LotEvent.lot_id).where(LotEvent.kind == "discharged")
        asked = func.max(LotUse.said["target"].astext.cast(Integer)) / GRAMS_PER_KG
        query = (
            select(LotUse.item, func.sum(LotUse.amount) - asked)
            .join(LotRow, col(LotRow.id) == LotUse.into_id)
            .where(LotUse.kind == "weighed", LotRow.window_id == key(self.window().id), col(LotRow.id).in_(out))
            .group_by(col(LotUse.into_id), col(LotUse.item))
        )
        found: dict[str, float] = {}
        for item, off in self.session.exec(query):
            found[item] = found.get(item, 0.0) + float(off)
        return found

    def events_of(self, lots: Sequence[int]) -> tuple[StoredLotEvent, ...]:
        """What became of some lots, in its order."""
        query = select(LotEvent).where(col(LotEvent.lot_id).in_(lots)).order_by(col(LotEvent.id))
        return tuple(_event(row) for row in self.session.exec(query))

    def is_told(self, uuid: UUID) -> bool:
        """Whether an entry is there already."""
        tables = (LotUse, LotEvent, LotLoad, LorryGone)
        return any(self.session.exec(select(of.id).where(of.uuid == uuid)).first() is not None for of in tables)

    def holds(self, lots: Sequence[int]) -> dict[int, tuple[StoredLotEvent, ...]]:
        """The holds that nobody has released, of some lots, by lot."""
        released = select(LotEvent.said["hold"].astext.cast(Integer)).where(LotEvent.kind == "release")
        query = select(LotEvent).where(
            LotEvent.kind == "hold", col(LotEvent.id).not_in(released), col(LotEvent.lot_id).in_(lots)
        )
        found: dict[int, tuple[StoredLotEvent, ...]] = {}
        for row in self.session.exec(query.order_by(col(LotEvent.id))):
            found[row.lot_id] = (*found.get(row.lot_id, ()), _event(row))
        return found

    def loads(self, lorries: Sequence[str]) -> tuple[Load, ...]:
        """What was loaded on some lorries, in its order."""
        rows = self.session.exec(select(LotLoad).where(col(LotLoad.lorry).in_(lorries)).order_by(col(LotLoad.id)))
        return tuple(_load(row) for row in rows)

    def loads_of(self, lots: Sequence[int]) -> tuple[Load, ...]:
        """Where some lots were loaded, in its order."""
        rows = self.session.exec(select(LotLoad).where(col(LotLoad.lot_id).in_(lots)).order_by(col(LotLoad.id)))
        return tuple(_load(row) for row in rows)

    def gone(self, lorries: Sequence[str]) -> dict[str, StoredGone]:
        """Which of some lorries have left."""
        rows = self.session.exec(select(LorryGone).where(col(LorryGone.lorry).in_(lorries)))
        return {row.lorry: StoredGone(lorry=row.lorry, at=row.at, said=row.said, author=row.author) for row in rows}

    def became(self, lots: Sequence[int]) -> dict[int, PacksOf]:
        """What became of the packs of some lots: sent, scrapped, and of the rest, held."""
        sent = select(LotLoad.lot_id, func.sum(LotLoad.packs)).where(col(LotLoad.lot_id).in_(lots))
        gone = {lot: int(packs) for lot, packs in self.session.exec(sent.group_by(col(LotLoad.lot_id)))}
        scrap = dict.fromkeys(lots, 0)
        for event in self.events_of(lots):
            scrap[event.lot] += int(event.said["packs"]) if event.kind == "scrap" else 0
        held = self.holds(lots)
        amounts = self.session.exec(select(LotRow.id, LotRow.amount).where(col(LotRow.id).in_(lots)))
        return {
            key(lot): PacksOf(
                gone.get(key(lot), 0),
                scrap[key(lot)],
                round(amount) - gone.get(key(lot), 0) - scrap[key(lot)] if lot in held else 0,
            )
            for lot, amount in amounts
        }

    def trace(self, number: int) -> Trace:
        """A lot with all that it is of and all that is of it."""
        self.lot(number)
        on_way = {number, *self._way(UP, number), *self._way(DOWN, number)}
        wanted: Any = bindparam("lots", value=sorted(on_way))
        lots = {
            key(row.id): _lot(row).lot
            for row in self.session.exec(select(LotRow).where(text("lot.id = ANY(:lots)").bindparams(wanted)))
        }
        found = text(
            "SELECT lot_id, into_id, sum(amount), kind FROM lot_use "
            "WHERE into_id = ANY(:lots) AND lot_id = ANY(:lots) GROUP BY lot_id, into_id, kind"
        ).bindparams(wanted)
        uses = [Use(*row) for row in self.session.connection().execute(found)]
        return traced(lots, uses, number)

    def _way(self, step: str, number: int) -> set[int]:
        found = text(f"WITH RECURSIVE way(lot) AS (SELECT :lot ::integer UNION {step}) SELECT lot FROM way")  # noqa: S608
        return {row[0] for row in self.session.connection().execute(found, {"lot": number})}


def _lot(row: LotRow) -> StoredLot:
    return StoredLot(
        number=key(row.id),
        window=row.window_id,
        **{name: getattr(row, name) for name in NewLot.model_fields},
    )


def _use(row: LotUse) -> StoredUse:
    return StoredUse(
        number=key(row.id),
        lot=row.lot_id,
        into=row.into_id,
        **{name: getattr(row, name) for name in ("uuid", "item", "amount", "kind", "at", "said", "author")},
    )


def _event(row: LotEvent) -> StoredLotEvent:
    names = ("kind", "at", "said", "author")
    return StoredLotEvent(number=key(row.id), lot=row.lot_id, **{name: getattr(row, name) for name in names})


def _load(row: LotLoad) -> Load:
    names = ("uuid", "lorry", "product", "packs", "at", "author")
    return Load(lot=row.lot_id, **{name: getattr(row, name) for name in names})
