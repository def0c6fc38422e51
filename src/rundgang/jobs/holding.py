"""Holding lots and releasing them, and scrapping: who, why, and what it costs which lorry.

What is held may not be weighed in or loaded, and the plan counts its packs as absent.
"""

from collections.abc import Sequence
from uuid import UUID

from rundgang.clock import Clock
from rundgang.core.errors import OutOfRangeError, RundgangError, UnknownItemError
from rundgang.core.floor.absent import LorryCost, costs
from rundgang.core.floor.waste import WasteCause
from rundgang.core.model import Model
from rundgang.core.planning.checked import fitted
from rundgang.jobs.absence import Changed, as_there, hold_lots, packs_there, put_in, take_out
from rundgang.jobs.keeping import keep_within
from rundgang.store.repository import Repository


class AlreadyError(RundgangError):
    """A lot is so already."""


class HeldLots(Model):
    """The lots that are held or released now, and what that does to which lorry."""

    lots: tuple[int, ...]
    costs: tuple[LorryCost, ...]


def hold(store: Repository, clock: Clock, number: int, onward: bool, reason: str, author: str, uuid: UUID) -> HeldLots:
    """Hold a lot; and where asked, all that holds some of it. What is made of it later is held with it.

    Raises
    ------
    UnknownItemError
    AlreadyError
        It is held, and so is all that holds some of it.
    """
    store.lots.lock()
    keep_within(store, clock)
    wanted = _meant(store, number, onward)
    if store.lots.is_told(uuid):
        return HeldLots(lots=wanted, costs=())
    held = store.lots.holds(wanted)
    fresh = tuple(lot for lot in wanted if lot not in held)
    if not fresh:
        raise AlreadyError("It is held already. Nothing was changed. Allowed: to release it.")
    origin = f"{author} holds {store.lots.lot(number).code}: {reason}"
    said = {lot: {"reason": reason, "from": number} for lot in fresh}
    changed = hold_lots(store, clock, said, clock.now(), author, origin, uuid)
    found = _costs(store, changed)
    store.session.commit()
    return HeldLots(lots=fresh, costs=found)


def release(
    store: Repository, clock: Clock, number: int, onward: bool, reason: str, author: str, uuid: UUID
) -> HeldLots:  # fmt: skip
    """Release a lot; and where asked, all that holds some of it. Who releases says why.

    Raises
    ------
    UnknownItemError
    AlreadyError
        Nothing of it is held.
    """
    store.lots.lock()
    keep_within(store, clock)
    wanted = _meant(store, number, onward)
    if store.lots.is_told(uuid):
        return HeldLots(lots=wanted, costs=())
    held = store.lots.holds(wanted)
    if not held:
        raise AlreadyError("Nothing of it is held. Nothing was changed. Allowed: to hold it.")
    for place, event in enumerate(event for of in held.values() for event in of):
        said = {event.lot: {"hold": event.number, "reason": reason}}
        store.lots.note(said, "release", clock.now(), author, None if place else uuid)
    absent = {lot: sum(int(event.said["absent"]) for event in of) for lot, of in held.items()}
    back = [
        there._replace(packs=min(there.packs, absent[lot])) for lot, there in packs_there(store, list(held)).items()
    ]
    origin = f"{author} releases {store.lots.lot(number).code}: {reason}"
    found = _costs(store, put_in(store, clock, back, origin))
    store.session.commit()
    return HeldLots(lots=tuple(held), costs=found)


class Scrap(Model):
    """Why packs are scrapped, and what else is said of it."""

    cause: WasteCause
    reason: str = ""

    @property
    def says(self) -> str:
        """Both in words."""
        return f"{self.cause}, {self.reason}" if self.reason else self.cause


def scrap(
    store: Repository, clock: Clock, number: int, packs: int, why: Scrap, author: str, uuid: UUID
) -> tuple[LorryCost, ...]:
    """Scrap packs of a lot.

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
    counted = number not in store.lots.holds([number]) and number in packs_there(store, [number])
    store.lots.note({number: {"packs": packs, **why.model_dump()}}, "scrap", clock.now(), author, uuid)
    gone = {number: as_there(store.windows.scenario(), lot, packs)} if counted else {}
    changed, _ = take_out(store, clock, gone, f"{author} scraps {packs} packs of {lot.code}: {why.says}")
    found = _costs(store, changed)
    store.session.commit()
    return found


def clear(store: Repository, clock: Clock, numbers: Sequence[int], author: str, uuid: UUID) -> None:
    """Clear packs to be loaded, as the plant asks of quality control.

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
        store.lots.note({number: {} for number in numbers}, "cleared", clock.now(), author, uuid)
    store.session.commit()


def _meant(store: Repository, number: int, onward: bool) -> tuple[int, ...]:
    """A lot, and where asked all that holds some of it."""
    trace = store.lots.trace(number)
    return (number, *(one.lot.number for one in trace.went_into)) if onward else (number,)


def _costs(store: Repository, changed: Changed | None) -> tuple[LorryCost, ...]:
    """What that does to the lorries of the plan that the floor works by."""
    if changed is None:
        return ()
    plan = store.plans.live().plan
    lines = [line.id for line in changed.after.plant.lines if _differs(changed, line.id)]
    before, after = (fitted(scenario, plan, lines).plan.plans for scenario in changed)
    return costs(before, after)


def _differs(changed: Changed, line: str) -> bool:
    """Whether a line has other packs, in stock or of its begun runs."""
    made = {product.id for product in changed.after.products if product.line == line}
    stock = [tuple(lot for lot in scenario.finished if lot.product in made) for scenario in changed]
    begun = [scenario.opening.begun_on(line) for scenario in changed]
    return stock[0] != stock[1] or begun[0] != begun[1]
