"""Weighing up by the guide: what was weighed of which lot, charged, mixed and discharged is the batch's record.

Every entry has an id of its own, given where it was made: sent twice, it is there once. What a batch has of an
ingredient that nobody weighed is entered as its card says, once it is discharged.
"""

from collections.abc import Sequence
from datetime import datetime, timedelta
from math import inf
from typing import Literal, NamedTuple
from uuid import UUID

from pydantic import AwareDatetime, Field

from rundgang.clock import Clock
from rundgang.core.dough.card import BatchCard, find_card
from rundgang.core.errors import RundgangError, UnknownItemError
from rundgang.core.floor.record import BatchName, MadeBatch, made_batches
from rundgang.core.floor.weighing import LeftOf, Weighed, WeighingStep, refuse_weighed, weighing_steps
from rundgang.core.model import Id, Model, Text
from rundgang.core.scenario import Scenario
from rundgang.core.units import GRAMS_PER_KG
from rundgang.formats.clock import local_time, minute_of, moment_of
from rundgang.jobs.keeping import KNOWN_FOR, batch_lot, batches_of, completed, draw, keep_within
from rundgang.jobs.probing import learnt
from rundgang.store.lots import NewUse, StoredLot, StoredLotEvent
from rundgang.store.plans import StoredPlan
from rundgang.store.repository import Repository

Tap = Literal["charged", "phase", "added", "discharged"]
"""What is told by one tap, or by the mixer: all is in; a speed begins; a late addition is in; it is out."""

AHEAD = timedelta(minutes=5)
"""Clocks may be so far apart."""


class BatchRef(Model):
    """A batch of the plan that the floor works by: its line, its run, and its card's key."""

    line: Id
    run: str = Field(min_length=1, max_length=40)
    key: str = Field(min_length=1, max_length=80)


class WeighedEntry(BatchRef):
    """What was put on the scale for an ingredient.

    Attributes
    ----------
    scale : str or None
        The instrument that weighed it; None where the weight was typed.
    """

    uuid: UUID
    ingredient: Id
    lot: int | None = Field(default=None, ge=1, le=2_000_000_000)
    grams: int = Field(ge=1, le=10_000_000)
    reason: Text = Field(default="", max_length=200)
    scale: str | None = Field(default=None, max_length=120)
    at: AwareDatetime
    author: Text = Field(min_length=1, max_length=60)


class TapEntry(BatchRef):
    """What was told of a batch by one tap; `what` is the speed that begins, or what was added."""

    uuid: UUID
    tap: Tap
    what: Text = Field(default="", max_length=80)
    at: AwareDatetime
    author: Text = Field(min_length=1, max_length=60)


class Guide(Model):
    """A batch as it is weighed up.

    Attributes
    ----------
    station : str
        Where it is mixed.
    lot : StoredLot or None
        Its record, once something of it has been told.
    """

    line: Id
    station: Id
    plan: int
    card: BatchCard
    lot: StoredLot | None
    steps: tuple[WeighingStep, ...]
    told: tuple[StoredLotEvent, ...]


class DoneError(RundgangError):
    """The batch is out of its bowl."""

    def __init__(self) -> None:
        super().__init__("This batch is out of its bowl. Nothing was changed. Allowed: batches that are not.")


class _Batch(NamedTuple):
    """A batch with all that is known of it."""

    scenario: Scenario
    stored: StoredPlan
    card: BatchCard
    lot: StoredLot | None


def guide(store: Repository, clock: Clock, ref: BatchRef) -> Guide:
    """A batch's guide as it stands.

    Raises
    ------
    UnknownItemError
        The plan that the floor works by has no such batch.
    """
    found = _found(store, ref)
    told = store.lots.events_of([found.lot.number]) if found.lot else ()
    card = found.card
    made = found.scenario.preparation(card.preparation) if card.preparation else found.scenario.product(card.product)
    return Guide(
        line=made.line,
        station=made.mixing.station,
        plan=found.stored.number,
        card=card,
        lot=found.lot,
        steps=_steps(store, clock, found),
        told=told,
    )


def weigh(store: Repository, clock: Clock, entry: WeighedEntry) -> None:
    """Store what was weighed.

    Raises
    ------
    UnknownItemError
    DoneError
    LotRefusedError, OffWeightError
        It may not go in so.
    """
    store.lots.lock()
    if store.lots.is_told(entry.uuid):
        return
    _refuse_moment(clock, entry.at)
    found = _found(store, entry)
    _refuse_done(store, found)
    steps = {step.ingredient: step for step in _steps(store, clock, found)}
    if entry.ingredient not in steps:
        raise UnknownItemError("ingredient of this batch", entry.ingredient, tuple(steps))
    one = Weighed(ingredient=entry.ingredient, lot=entry.lot, grams=entry.grams, reason=entry.reason)
    refuse_weighed(steps[entry.ingredient], one)
    said: dict[str, object] = {"target": steps[entry.ingredient].grams}
    said |= {name: text for name, text in (("reason", entry.reason), ("scale", entry.scale)) if text}
    use = NewUse(
        uuid=entry.uuid,
        lot=entry.lot,
        into=_begun(store, found, entry, entry.author).number,
        item=entry.ingredient,
        amount=entry.grams / GRAMS_PER_KG,
        kind="weighed",
        at=entry.at,
        said=said,
        author=entry.author,
    )
    store.lots.use([use])
    store.session.commit()


def tap(store: Repository, clock: Clock, entry: TapEntry) -> None:
    """Store what was told by one tap; what is discharged is closed, and what nobody weighed of it is as its card says.

    Raises
    ------
    UnknownItemError
    DoneError
    """
    store.lots.lock()
    if store.lots.is_told(entry.uuid):
        return
    _refuse_moment(clock, entry.at)
    if entry.tap == "discharged":
        keep_within(store, clock)
    found = _found(store, entry)
    _refuse_done(store, found)
    lot = _begun(store, found, entry, entry.author)
    said = {"what": entry.what} if entry.what else {}
    if entry.tap == "discharged":
        _close(store, found, lot, entry)
    else:
        store.lots.note({lot.number: said}, entry.tap, entry.at, entry.author, entry.uuid)
    store.session.commit()


def _close(store: Repository, found: _Batch, lot: StoredLot, entry: TapEntry) -> None:
    scenario, name = found.scenario, BatchName(entry.run, entry.key)
    made = _made(scenario, found.stored, name)._replace(done_min=minute_of(scenario, entry.at))
    batches = batches_of(store, scenario, entry.line)
    batches[name] = lot
    draw(store, scenario, list(completed(store, scenario, batches, [made], entry.author, entry.uuid)))


def _found(store: Repository, ref: BatchRef) -> _Batch:
    stored = store.plans.floor_plan(ref.line)
    if stored.plan.line != ref.line:
        raise UnknownItemError("line", ref.line)
    scenario = store.windows.scenario(stored.book, stored.library, stored.opening)
    known, log = learnt(store, scenario, stored.plan), store.probes.log(stored.number)
    card = find_card(scenario, stored.plan, ref.run, ref.key, known, log)
    since = moment_of(scenario, 0) - KNOWN_FOR
    return _Batch(scenario, stored, card, store.lots.of_batch(ref.line, ref.run, ref.key, since))


def _made(scenario: Scenario, stored: StoredPlan, name: BatchName) -> MadeBatch:
    return next(one for one in made_batches(scenario, stored.plan, inf) if one.name == name)


def _begun(store: Repository, found: _Batch, ref: BatchRef, author: str) -> StoredLot:
    """The batch's lot; one that begins with this where it has none."""
    if found.lot:
        return found.lot
    made = _made(found.scenario, found.stored, BatchName(ref.run, ref.key))
    new = batch_lot(found.scenario, ref.line, made).model_copy(update={"author": author})
    numbers = store.lots.add([new])
    return store.lots.lot(numbers[new.code])


def _refuse_done(store: Repository, found: _Batch) -> None:
    if found.lot and store.lots.with_event([found.lot.number], "discharged"):
        raise DoneError


def _refuse_moment(clock: Clock, at: datetime) -> None:
    if at > clock.now() + AHEAD:
        raise RundgangError(f"It is of {at:%Y-%m-%d %H:%M}, which is to come. Allowed: up to now.")


def _steps(store: Repository, clock: Clock, found: _Batch) -> tuple[WeighingStep, ...]:
    uses = store.lots.uses_into([found.lot.number]) if found.lot else ()
    weighed = [
        Weighed(
            ingredient=use.item,
            lot=use.lot,
            grams=round(use.amount * GRAMS_PER_KG),
            reason=use.said.get("reason", ""),
        )
        for use in uses
        if use.kind in {"weighed", "mixed in"}
    ]
    lots = {line.ingredient: _lots_of(store, found, line.ingredient) for line in found.card.ingredients}
    today = local_time(found.scenario, minute_of(found.scenario, clock.now())).date()
    return weighing_steps(found.scenario, found.card, lots, weighed, today)


def _lots_of(store: Repository, found: _Batch, item: str) -> Sequence[LeftOf]:
    """What lies there of an ingredient, or of a preparation, the oldest first."""
    if found.scenario.is_preparation(item):
        since = moment_of(found.scenario, 0) - KNOWN_FOR
        batches = [lot for lot in store.lots.since("batch", since) if lot.item == item]
        used = store.lots.used_of([lot.number for lot in batches])
        there = [(lot, lot.amount - used.get(lot.number, 0.0)) for lot in batches]
        there = [(lot, left) for lot, left in there if left > LEFT_KG]
    else:
        there = list(store.lots.open_materials(item))
    held = store.lots.holds([lot.number for lot, _ in there])
    return [
        LeftOf(lot=lot.lot, left=left, held=held[lot.number][-1].said["reason"] if lot.number in held else None)
        for lot, left in there
    ]


LEFT_KG = 0.001
"""Less of a preparation is what sticks to its bowl, kg."""
