"""Lots as people ask for them: in a list, whole with both ways, as a recall, and as a label."""

from collections.abc import Sequence
from datetime import datetime

from rundgang.core.floor.lots import Use
from rundgang.core.floor.recall import MassBalance, PacksBalance, Trace, mass_balance, packs_balance
from rundgang.core.model import Model
from rundgang.core.scenario import Scenario
from rundgang.formats.clock import zone_of
from rundgang.formats.recalled import Label, Recall, RecalledLot, RecalledUse
from rundgang.store.lots import Load, StoredLot, StoredLotEvent
from rundgang.store.repository import Repository


class LotLine(Model):
    """A lot in a list.

    Attributes
    ----------
    what : str
        What its item is called.
    left : float
        Of a material and of packs what is there, kg or pieces; of a batch what has gone into nothing yet, kg.
    held : str or None
        Why it is held, where it is.
    """

    lot: StoredLot
    what: str
    unit: str
    left: float
    held: str | None


class LotView(Model):
    """A lot with all that is known of it.

    Attributes
    ----------
    names : dict of str to str
        What the items on its ways are called.
    loads : tuple of Load
        Where the packs went that are it, or that hold some of it.
    asks_clearing : bool
        Whether it is of packs that the plant wants cleared before they are loaded, and is not yet.
    balance, mass : PacksBalance, MassBalance or None
        Of these packs; None where there are none.
    """

    line: LotLine
    trace: Trace
    names: dict[str, str]
    events: tuple[StoredLotEvent, ...]
    held: tuple[StoredLotEvent, ...]
    loads: tuple[Load, ...]
    lorries: dict[str, str]
    asks_clearing: bool
    balance: PacksBalance | None
    mass: MassBalance | None


def lines_of(store: Repository, lots: Sequence[StoredLot]) -> tuple[LotLine, ...]:
    """Lots as a list has them."""
    numbers = [lot.number for lot in lots]
    scenario, held, used = store.windows.scenario(), store.lots.holds(numbers), store.lots.used_of(numbers)
    became = store.lots.became([lot.number for lot in lots if lot.kind == "packs"])
    return tuple(
        LotLine(
            lot=lot,
            what=name_of(scenario, lot.item),
            unit=unit_of_lot(scenario, lot),
            left=lot.amount - became[lot.number].sent - became[lot.number].scrap
            if lot.number in became
            else lot.amount - used.get(lot.number, 0.0),
            held=held[lot.number][-1].said["reason"] if lot.number in held else None,
        )
        for lot in lots
    )


def name_of(scenario: Scenario, item: str) -> str:
    """What an item is called; by its id where the plant does not have it any more."""
    for things in (scenario.products, scenario.preparations, scenario.plant.ingredients):
        for thing in things:
            if thing.id == item:
                return thing.name
    return item


def unit_of_lot(scenario: Scenario, lot: StoredLot) -> str:
    """In what a lot is counted."""
    if lot.kind == "packs":
        return "packs"
    packing = {item.id for item in scenario.plant.ingredients if item.role == "packing"}
    return "pieces" if lot.item in packing else "kg"


def lot_view(store: Repository, number: int) -> LotView:
    """A lot with all that is known of it; UnknownItemError where there is none of that number."""
    lot, trace = store.lots.lot(number), store.lots.trace(number)
    scenario = store.windows.scenario()
    packs = [one for one in (trace.lot, *(found.lot for found in trace.went_into)) if one.kind == "packs"]
    numbers = [one.number for one in packs]
    uses = [Use(use.lot or 0, use.into, use.amount, use.kind) for use in store.lots.uses_into(numbers)]
    loads = store.lots.loads_of(numbers)
    on_ways = [trace.lot, *(found.lot for found in (*trace.made_of, *trace.went_into))]
    known = {product.id for product in scenario.products}
    return LotView(
        line=lines_of(store, [lot])[0],
        trace=trace,
        names={one.item: name_of(scenario, one.item) for one in on_ways},
        events=store.lots.events_of([number]),
        held=store.lots.holds([number]).get(number, ()),
        loads=loads,
        lorries=lorry_names(store, loads),
        asks_clearing=lot.kind == "packs"
        and scenario.plant.clears_packs
        and not store.lots.with_event([number], "cleared"),
        balance=packs_balance(packs, store.lots.became(numbers)) if packs else None,
        mass=mass_balance(scenario, packs, uses) if packs and {one.item for one in packs} <= known else None,
    )


def lorry_names(store: Repository, loads: Sequence[Load]) -> dict[str, str]:
    """What lorries are called: those of the window by their names."""
    known = {wave.id: wave.name for wave in store.windows.scenario().waves}
    return {load.lorry: known.get(load.lorry, load.lorry) for load in loads}


def recall_of(store: Repository, number: int, moment: datetime) -> Recall:
    """A recall of a lot; UnknownItemError where there is none of that number."""
    view, scenario = lot_view(store, number), store.windows.scenario()
    numbers = [number, *(found.lot.number for found in view.trace.went_into)]
    lots = {lot.number: lot for lot in store.lots.all_of(numbers)}
    lines = {line.lot.number: line for line in lines_of(store, [lots[one] for one in numbers])}
    sent: dict[int, list[tuple[str, int]]] = {}
    for load in view.loads:
        sent.setdefault(load.lot, []).append((view.lorries[load.lorry], load.packs))
    return Recall(
        plant=scenario.plant.name,
        zone=str(zone_of(scenario)),
        made_at=moment,
        lot=view.line.lot.lot,
        what=view.line.what,
        unit=view.line.unit,
        lots=tuple(
            RecalledLot(
                lot=line.lot.lot,
                what=line.what,
                unit=line.unit,
                begun_at=line.lot.at,
                done_at=line.lot.until_at,
                left=line.left,
                held=line.held,
                sent=tuple(sent.get(line.lot.number, ())),
            )
            for line in lines.values()
        ),
        uses=tuple(
            RecalledUse(lot=use.lot, into=use.into, amount=use.amount, kind=use.kind)
            for use in view.trace.uses
            if use.lot in lines and use.into in lines
        ),
        loads=tuple((load.lot, load.lorry, load.packs, load.at) for load in view.loads),
        balance=view.balance,
        mass=view.mass,
    )


def label_of(store: Repository, line: LotLine, address: str) -> Label:
    """What stands on a lot's label."""
    scenario, lot = store.windows.scenario(), line.lot
    zone = zone_of(scenario)
    return Label(
        plant=scenario.plant.name,
        code=lot.code,
        what=line.what,
        amount=lot.amount,
        unit=line.unit,
        made_at=lot.at.astimezone(zone),
        best_before=lot.best_before,
        allergens=_allergens(scenario, lot),
        held=line.held,
        address=address,
    )


def _allergens(scenario: Scenario, lot: StoredLot) -> tuple[str, ...]:
    """What must be declared of a lot."""
    own = lot.lot.allergens
    if any(product.id == lot.item for product in scenario.products):
        own |= scenario.allergens(scenario.product(lot.item))
    elif scenario.is_preparation(lot.item):
        own |= scenario.preparation_allergens(scenario.preparation(lot.item))
    elif any(item.id == lot.item for item in scenario.plant.ingredients):
        own |= scenario.ingredient(lot.item).allergens
    return tuple(sorted(own))
