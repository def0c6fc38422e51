"""Holding lots and releasing them, and throwing away: who, why, and what it costs which lorry.

What is held may not be weighed in or loaded, and the plan counts its packs as absent.
"""

from collections.abc import Sequence
from datetime import datetime
from uuid import UUID

from rundgang.clock import Clock
from rundgang.core.errors import OutOfRangeError, RundgangError, UnknownItemError
from rundgang.core.floor.absent import LorryCost, PacksThere, costs, held_back, put_back
from rundgang.core.model import Model
from rundgang.core.planning.checked import fitted
from rundgang.core.planning.past import opened
from rundgang.core.scenario import Scenario
from rundgang.jobs.keeping import keep_within
from rundgang.store.lots import StoredLot
from rundgang.store.repository import Repository


class AlreadyError(RundgangError):
    """A lot is so already."""


class HeldLots(Model):
    """The lots that are held or released now, and what that does to which lorry."""

    lots: tuple[int, ...]
    costs: tuple[LorryCost, ...]


def hold(store: Repository, clock: Clock, number: int, onward: bool, reason: str, author: str, uuid: UUID) -> HeldLots:
    """Hold a lot; and where asked, all that holds some of it.

    Raises
    ------
    UnknownItemError
    AlreadyError
        It is held, and so is all that holds some of it.
    """
    store.lots.lock()
    keep_within(store, clock)
    trace = store.lots.trace(number)
    wanted = [number, *(one.lot.number for one in trace.went_into)] if onward else [number]
    held = store.lots.holds(wanted)
    fresh = [lot for lot in wanted if lot not in held]
    if store.lots.is_told(uuid):
        return HeldLots(lots=tuple(wanted), costs=())
    if not fresh:
        raise AlreadyError("It is held already. Nothing was changed. Allowed: to release it.")
    there = _packs_of(store, clock, fresh)
    said = {"reason": reason, "from": number}
    store.lots.note(fresh, "hold", clock.now(), said, author, uuid)
    found = _absent(store, clock, there, f"{author} holds {_named(store, number)}: {reason}", back=False)
    store.session.commit()
    return HeldLots(lots=tuple(fresh), costs=found)


def release(
    store: Repository, clock: Clock, number: int, onward: bool, reason: str, author: str, uuid: UUID
) -> HeldLots:
    """Release a lot; and where asked, all that holds some of it. Who releases says why.

    Raises
    ------
    UnknownItemError
    AlreadyError
        Nothing of it is held.
    """
    store.lots.lock()
    keep_within(store, clock)
    trace = store.lots.trace(number)
    wanted = [number, *(one.lot.number for one in trace.went_into)] if onward else [number]
    if store.lots.is_told(uuid):
        return HeldLots(lots=tuple(wanted), costs=())
    held = store.lots.holds(wanted)
    if not held:
        raise AlreadyError("Nothing of it is held. Nothing was changed. Allowed: to hold it.")
    for place, event in enumerate(event for of in held.values() for event in of):
        said = {"hold": event.number, "reason": reason}
        store.lots.note([event.lot], "release", clock.now(), said, author, None if place else uuid)
    there = _packs_of(store, clock, list(held))
    found = _absent(store, clock, there, f"{author} releases {_named(store, number)}: {reason}", back=True)
    store.session.commit()
    return HeldLots(lots=tuple(held), costs=found)


def scrap(
    store: Repository, clock: Clock, number: int, packs: int, reason: str, author: str, uuid: UUID
) -> tuple[LorryCost, ...]:
    """Throw packs of a lot away.

    Raises
    ------
    UnknownItemError
        No such lot of packs.
    OutOfRangeError
        More than are there.
    """
    store.lots.lock()
    keep_within(store, clock)
    lot = store.lots.lot(number)
    if lot.kind != "packs":
        raise UnknownItemError("lot of packs", lot.code)
    if store.lots.is_told(uuid):
        return ()
    became = store.lots.became([number])[number]
    there = round(lot.amount) - became.sent - became.scrap
    if not 1 <= packs <= there:
        raise OutOfRangeError(f"The packs of {lot.code}", packs, f"1 to {there}, which are there")
    held = number in store.lots.holds([number])
    store.lots.note([number], "scrap", clock.now(), {"packs": packs, "reason": reason}, author, uuid)
    gone = () if held else (_as_there(store.windows.scenario(), lot, packs),)
    found = _absent(store, clock, gone, f"{author} scraps {packs} packs of {lot.code}: {reason}", back=False)
    store.session.commit()
    return found


def let_go(store: Repository, clock: Clock, numbers: Sequence[int], author: str, uuid: UUID) -> None:
    """Let packs go ahead to be loaded, as the plant asks of quality control.

    Raises
    ------
    UnknownItemError
        No such lot.
    AlreadyError
        It is held.
    """
    store.lots.lock()
    held = store.lots.holds(numbers)
    for number in numbers:
        lot = store.lots.lot(number)
        if number in held:
            raise AlreadyError(f"{lot.code} is held: {held[number][-1].said['reason']}. Allowed: to release it first.")
    if not store.lots.is_told(uuid):
        store.lots.note(numbers, "go ahead", clock.now(), {}, author, uuid)
    store.session.commit()


def _named(store: Repository, number: int) -> str:
    return store.lots.lot(number).code


def _packs_of(store: Repository, clock: Clock, numbers: Sequence[int]) -> tuple[PacksThere, ...]:
    """The packs of lots that are there, of products that the plant still makes."""
    scenario = store.windows.scenario()
    made = {product.id for product in scenario.products}
    became = store.lots.became(numbers)
    lots = (store.lots.lot(number) for number in numbers)
    found = (
        (lot, round(lot.amount) - became[lot.number].sent - became[lot.number].scrap)
        for lot in lots
        if lot.kind == "packs" and lot.item in made
    )
    return tuple(_as_there(scenario, lot, packs) for lot, packs in found if packs > 0)


def _as_there(scenario: Scenario, lot: StoredLot, packs: int) -> PacksThere:
    return PacksThere(lot.item, packs, minute_at(scenario, lot.until_at), lot.line, lot.run)


def minute_at(scenario: Scenario, moment: datetime) -> float:
    """The minute of the window at a moment."""
    return (moment - scenario.window.starts_at).total_seconds() / 60


def _absent(
    store: Repository, clock: Clock, packs: tuple[PacksThere, ...], origin: str, *, back: bool
) -> tuple[LorryCost, ...]:  # fmt: skip
    """Store that packs are absent, or back; what that does to the lorries of the plan that the floor works by."""
    published = store.plans.published()
    if not packs or published is None:
        return ()
    store.openings.locked_window()
    plan = store.plans.version(published.version).plan
    scenario = store.windows.scenario()
    present = opened(scenario, plan.plans, clock.minute_of(scenario.window.starts_at))
    lines = sorted({present.product(one.product).line for one in packs})
    after = put_back(present, packs) if back else held_back(present, packs)
    store.openings.write(after, origin)
    return costs(fitted(present, plan, lines).plan.plans, fitted(after, plan, lines).plan.plans)
