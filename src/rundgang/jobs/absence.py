"""Lots that are held, and packs that are gone: told in the record, and taken out of what the plan counts.

With each hold stands how many packs the plan does not count any more for it: so many it counts again when it ends.
"""

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any, NamedTuple
from uuid import UUID

from rundgang.clock import Clock
from rundgang.core.floor.absent import PacksThere, held_back, put_back
from rundgang.core.planning.past import opened
from rundgang.core.scenario import Scenario
from rundgang.formats.clock import minute_of
from rundgang.store.lots import StoredLot
from rundgang.store.repository import Repository


class Changed(NamedTuple):
    """The scenario of this moment before and after; None where nothing is published, and so nothing is counted."""

    before: Scenario
    after: Scenario


def hold_lots(
    store: Repository, clock: Clock, said: Mapping[int, dict[str, Any]], at: datetime, author: str, origin: str,
    uuid: UUID | None = None,
) -> Changed | None:  # fmt: skip
    """Hold lots, in the open transaction of who has the record to himself; what is held already is counted once.

    Parameters
    ----------
    said : mapping of int to dict
        By lot, the reason among others.
    origin : str
        Who holds what, for the history of the stock.
    """
    held = store.lots.holds(list(said))
    there = packs_there(store, [lot for lot in said if lot not in held])
    changed, absent = take_out(store, clock, there, origin)
    store.lots.note({lot: {**of, "absent": absent.get(lot, 0)} for lot, of in said.items()}, "hold", at, author, uuid)
    return changed


def packs_there(store: Repository, numbers: Sequence[int]) -> dict[int, PacksThere]:
    """By lot, the packs that are there, of products that the plant still makes."""
    scenario = store.windows.scenario()
    made = {product.id for product in scenario.products}
    became = store.lots.became(numbers)
    found = (
        (lot, round(lot.amount) - became[lot.number].sent - became[lot.number].scrap)
        for lot in store.lots.all_of(numbers)
        if lot.kind == "packs" and lot.item in made
    )
    return {lot.number: as_there(scenario, lot, packs) for lot, packs in found if packs > 0}


def as_there(scenario: Scenario, lot: StoredLot, packs: int) -> PacksThere:
    """So many packs of a lot as the core takes them."""
    return PacksThere(lot.item, packs, minute_of(scenario, lot.until_at), lot.line, lot.run)


def take_out(
    store: Repository, clock: Clock, packs: Mapping[int, PacksThere], origin: str
) -> tuple[Changed | None, dict[int, int]]:
    """Let the plan not count packs any more; by lot, how many it had counted."""
    if not packs or store.plans.published() is None:
        return None, {}
    store.openings.locked_window()
    before = _present(store, clock)
    after, absent = before, dict[int, int]()
    for number, there in packs.items():
        after, absent[number] = held_back(after, there)
    store.openings.write(after, origin)
    return Changed(before, after), absent


def put_in(store: Repository, clock: Clock, packs: Sequence[PacksThere], origin: str) -> Changed | None:
    """Let the plan count packs again."""
    listed = [there for there in packs if there.packs > 0]
    if not listed or store.plans.published() is None:
        return None
    store.openings.locked_window()
    before = after = _present(store, clock)
    for there in listed:
        after = put_back(after, there)
    store.openings.write(after, origin)
    return Changed(before, after)


def _present(store: Repository, clock: Clock) -> Scenario:
    scenario = store.windows.scenario()
    return opened(scenario, store.plans.floor_plans(), clock.minute_of(scenario.window.starts_at))
