"""Loading lorries: which packs of which lot go on which, and that it has left, short or over with a reason."""

from collections.abc import Mapping
from datetime import datetime
from uuid import UUID

from pydantic import Field

from rundgang.clock import Clock
from rundgang.core.errors import RundgangError, UnknownItemError
from rundgang.core.floor.loading import oldest_first, refusal
from rundgang.core.model import Id, Model, Text
from rundgang.core.opening import Loaded
from rundgang.core.orders import MAX_PACKS, Wave
from rundgang.core.scenario import Scenario
from rundgang.jobs.absence import as_there, take_out
from rundgang.jobs.keeping import keep_within, loadable
from rundgang.store.lots import Load, StoredLot
from rundgang.store.repository import Repository


class NotLoadedError(RundgangError):
    """Packs that may not go on this lorry; the message says why and what may."""


class HasLeftError(RundgangError):
    """The lorry has left."""

    def __init__(self, name: str) -> None:
        super().__init__(f"{name} has left. Nothing was changed. Allowed: lorries that are here.")


class LoadEntry(Model):
    """Packs of a lot for a lorry; below nothing, off it again."""

    uuid: UUID
    lorry: Id
    lot: int = Field(ge=1, le=2_000_000_000)
    packs: int = Field(ge=-MAX_PACKS, le=MAX_PACKS)
    reason: Text = Field(default="", max_length=200)
    author: Text = Field(min_length=1, max_length=60)


class LeaveEntry(Model):
    """That a lorry leaves; by product why it is short of it, or gets more."""

    uuid: UUID
    lorry: Id
    reasons: dict[Id, Text] = Field(default_factory=dict, max_length=500)
    author: Text = Field(min_length=1, max_length=60)


def load(store: Repository, clock: Clock, entry: LoadEntry) -> None:
    """Load packs on a lorry.

    Raises
    ------
    UnknownItemError
    HasLeftError
    NotLoadedError
    """
    store.lots.lock()
    if store.lots.is_told(entry.uuid):
        return
    keep_within(store, clock)
    scenario, lot = store.windows.scenario(), store.lots.lot(entry.lot)
    wave = wave_of(scenario, entry.lorry)
    if entry.lorry in store.lots.gone([entry.lorry]):
        raise HasLeftError(wave.name)
    if lot.kind != "packs":
        raise NotLoadedError(f"{lot.code} is no lot of packs. Allowed: packs.")
    if entry.packs < 0:
        _refuse_off(store, lot, wave, entry)
    else:
        _refuse_on(store, scenario, lot, wave, entry)
    load = Load(
        uuid=entry.uuid, lot=lot.number, lorry=wave.id, product=lot.item, packs=entry.packs, at=clock.now(),
        author=entry.author,
    )  # fmt: skip
    store.lots.load([load])
    store.session.commit()


class OldestEntry(Model):
    """The oldest packs of a product that may go, as many as are due and not on the lorry yet."""

    uuid: UUID
    lorry: Id
    product: Id
    author: Text = Field(min_length=1, max_length=60)


def load_oldest(store: Repository, clock: Clock, entry: OldestEntry) -> None:
    """Load the oldest packs of a product that a lorry is due.

    Raises
    ------
    UnknownItemError
    HasLeftError
    NotLoadedError
        Nothing that may go is there, or nothing more is due.
    """
    store.lots.lock()
    if store.lots.is_told(entry.uuid):
        return
    keep_within(store, clock)
    scenario = store.windows.scenario()
    wave, product = wave_of(scenario, entry.lorry), scenario.product(entry.product)
    if entry.lorry in store.lots.gone([entry.lorry]):
        raise HasLeftError(wave.name)
    due = ordered_for(scenario, wave.id).get(product.id, 0) - loaded_on(store, wave.id).get(product.id, 0)
    there = loadable(store, scenario, product.id)
    taken = oldest_first(scenario, wave, there, due)
    loads = [
        Load(
            uuid=None if place else entry.uuid, lot=lot, lorry=wave.id, product=product.id, packs=packs,
            at=clock.now(), author=entry.author,
        )
        for place, (lot, packs) in enumerate(taken)
    ]  # fmt: skip
    store.lots.load(loads)
    if not taken:
        raise NotLoadedError(f"{wave.name}: no pack of {product.name} that is due and may go is there.")
    store.session.commit()


def wave_of(scenario: Scenario, lorry: str) -> Wave:
    """A lorry of the window; UnknownItemError where there is none."""
    wave = next((wave for wave in scenario.waves if wave.id == lorry), None)
    if wave is None:
        raise UnknownItemError("lorry", lorry)
    return wave


def _refuse_on(store: Repository, scenario: Scenario, lot: StoredLot, wave: Wave, entry: LoadEntry) -> None:
    """Say why packs of a lot may not be loaded, where they may not."""
    there = next((packs for packs in loadable(store, scenario, lot.item) if packs.lot == lot.number), None)
    why = refusal(scenario, wave, there) if there else None
    if why and not (why.kind == "too old" and entry.reason):
        raise NotLoadedError(f"{lot.code} may not be loaded for {wave.name}: {why.says}.")
    most = there.packs if there else 0
    if not 1 <= entry.packs <= most:
        raise NotLoadedError(f"{entry.packs} packs of {lot.code} are said. Allowed: 1 to {most}, which are there.")


def _refuse_off(store: Repository, lot: StoredLot, wave: Wave, entry: LoadEntry) -> None:
    on = sum(one.packs for one in store.lots.loads([wave.id]) if one.lot == lot.number)
    if -entry.packs > on:
        raise NotLoadedError(f"{-entry.packs} packs are to come off {wave.name}. Allowed: up to {on}, which are on it.")


def leave(store: Repository, clock: Clock, entry: LeaveEntry) -> None:
    """Let a lorry leave with what is loaded; the plan goes on from that.

    Raises
    ------
    UnknownItemError
    HasLeftError
    NotLoadedError
        It is short or over without a reason.
    """
    store.lots.lock()
    if store.lots.is_told(entry.uuid):
        return
    keep_within(store, clock)
    scenario = store.windows.scenario()
    wave = wave_of(scenario, entry.lorry)
    if entry.lorry in store.lots.gone([entry.lorry]):
        raise HasLeftError(wave.name)
    ordered, on = ordered_for(scenario, wave.id), loaded_on(store, wave.id)
    off = [name for name in {*ordered, *on} if ordered.get(name, 0) != on.get(name, 0) and not entry.reasons.get(name)]
    if off:
        named = "; ".join(
            f"{scenario.product(name).name}: {on.get(name, 0):,} of {ordered.get(name, 0):,}" for name in sorted(off)
        )
        raise NotLoadedError(f"{wave.name} is short or over: {named}. Allowed: a reason for each.")
    said = {"reasons": {name: why for name, why in entry.reasons.items() if why}}
    store.lots.leave(wave.id, clock.now(), said, entry.author, entry.uuid)
    _take_unordered(store, clock, wave, ordered, entry.author)
    _tell_plan(store, wave, ordered, on, clock.now(), entry.author)
    store.session.commit()


def ordered_for(scenario: Scenario, wave: str) -> dict[str, int]:
    """Packs ordered for a lorry, by product."""
    found: dict[str, int] = {}
    for order in scenario.orders:
        if order.wave == wave:
            found[order.product] = found.get(order.product, 0) + order.packs
    return found


def loaded_on(store: Repository, lorry: str) -> dict[str, int]:
    """Packs that are on a lorry, by product."""
    found: dict[str, int] = {}
    for one in store.lots.loads([lorry]):
        found[one.product] = found.get(one.product, 0) + one.packs
    return {product: packs for product, packs in found.items() if packs}


def _take_unordered(
    store: Repository, clock: Clock, wave: Wave, ordered: Mapping[str, int], author: str
) -> None:  # fmt: skip
    """What went along though nobody had ordered it is not there any more."""
    packs = dict[int, int]()
    for one in store.lots.loads([wave.id]):
        if one.product not in ordered:
            packs[one.lot] = packs.get(one.lot, 0) + one.packs
    scenario = store.windows.scenario()
    gone = {lot: as_there(scenario, store.lots.lot(lot), count) for lot, count in packs.items() if count}
    take_out(store, clock, gone, f"{author} let {wave.name} leave with what it was not due")


def _tell_plan(
    store: Repository, wave: Wave, ordered: Mapping[str, int], on: Mapping[str, int], at: datetime, author: str
) -> None:  # fmt: skip
    """What has left otherwise than ordered leaves the stock so; the plan goes on from that, and so does the roll."""
    told = tuple(
        Loaded(wave=wave.id, product=name, packs=on.get(name, 0))
        for name in sorted({*ordered, *on})
        if on.get(name, 0) != ordered.get(name, 0) and name in ordered
    )
    if told:
        store.openings.locked_window()
        scenario = store.windows.scenario()
        opening = scenario.opening
        others = tuple(one for one in opening.loaded if one.wave != wave.id)
        after = scenario.changed(opening=opening.model_copy(update={"loaded": (*others, *told)}))
        store.openings.write(after, f"{author} let {wave.name} leave at {at:%H:%M} UTC")
