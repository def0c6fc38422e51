"""Lorries as people ask for them: what each is due, what is on it, which lots may be loaded, and its delivery note."""

from collections.abc import Sequence
from datetime import date, datetime
from typing import NamedTuple

from rundgang.clock import Clock
from rundgang.core.floor.loading import Loadable, Refusal, refusal
from rundgang.core.model import Model
from rundgang.core.orders import Wave
from rundgang.core.scenario import Scenario
from rundgang.core.units import GRAMS_PER_KG
from rundgang.formats.clock import moment_of, zone_of
from rundgang.formats.recalled import DeliveryNote, NoteLine
from rundgang.jobs.keeping import loadable
from rundgang.jobs.loading import ordered_for, wave_of
from rundgang.store.lots import Load, StoredGone, StoredLot
from rundgang.store.repository import Repository

BACK_MIN, AHEAD_MIN = 12 * 60.0, 24 * 60.0
"""Lorries that left so long ago, and that leave in so long, are shown, min."""


class LoadedLot(Model):
    """A lot on a lorry, how many packs of it, and who loaded them last."""

    lot: int
    code: str
    packs: int
    best_before: date | None
    author: str


class LotThere(Model):
    """A lot that is there for a lorry: how many packs, and why it may not be loaded, where it may not."""

    lot: int
    code: str
    packs: int
    made_at: datetime
    best_before: date | None
    refused: Refusal | None


class LorryProduct(Model):
    """What a lorry is due of a product, what is on it, and what is there for it, the oldest first."""

    product: str
    name: str
    ordered: int
    loaded: tuple[LoadedLot, ...]
    there: tuple[LotThere, ...]
    reason: str = ""

    @property
    def packs(self) -> int:
        """What is on it."""
        return sum(one.packs for one in self.loaded)


class LorryView(Model):
    """A lorry.

    Attributes
    ----------
    left_at : datetime or None
        When it left, and who says so; None while it is here.
    """

    lorry: str
    name: str
    departs_min: float
    loaded_by_min: float
    left_at: datetime | None
    author: str | None
    products: tuple[LorryProduct, ...]


class _Stock(NamedTuple):
    """The packs that are there, by product, what is on some lorries, all their lots, and which lorries have left."""

    there: dict[str, list[Loadable]]
    loads: dict[str, list[Load]]
    lots: dict[int, StoredLot]
    gone: dict[str, StoredGone]


def lorries_around(store: Repository, clock: Clock) -> tuple[LorryView, ...]:
    """The lorries around this moment, in the order in which they leave."""
    scenario = store.windows.scenario()
    now_min = clock.minute_of(scenario.window.starts_at)
    waves = [wave for wave in scenario.waves if now_min - BACK_MIN <= wave.departs_min <= now_min + AHEAD_MIN]
    stock = _stock(store, scenario, waves)
    return tuple(_view(stock, scenario, wave) for wave in sorted(waves, key=lambda wave: wave.departs_min))


def lorry_view(store: Repository, lorry: str) -> LorryView:
    """A lorry; UnknownItemError where the window has none of that name."""
    scenario = store.windows.scenario()
    wave = wave_of(scenario, lorry)
    return _view(_stock(store, scenario, [wave]), scenario, wave)


def _stock(store: Repository, scenario: Scenario, waves: Sequence[Wave]) -> _Stock:
    there: dict[str, list[Loadable]] = {}
    for packs in loadable(store, scenario):
        there.setdefault(packs.product, []).append(packs)
    loads: dict[str, list[Load]] = {}
    for load in store.lots.loads([wave.id for wave in waves]):
        loads.setdefault(load.lorry, []).append(load)
    numbers = {load.lot for own in loads.values() for load in own} | {one.lot for own in there.values() for one in own}
    return _Stock(
        there=there,
        loads=loads,
        lots={lot.number: lot for lot in store.lots.all_of(sorted(numbers))},
        gone=store.lots.gone([wave.id for wave in waves]),
    )


def _view(stock: _Stock, scenario: Scenario, wave: Wave) -> LorryView:
    gone, ordered = stock.gone.get(wave.id), ordered_for(scenario, wave.id)
    loaded = {load.product for load in stock.loads.get(wave.id, ())}
    names = [product.id for product in scenario.products if product.id in ordered or product.id in loaded]
    return LorryView(
        lorry=wave.id,
        name=wave.name,
        departs_min=wave.departs_min,
        loaded_by_min=wave.loaded_by_min,
        left_at=gone.at if gone else None,
        author=gone.author if gone else None,
        products=tuple(_product(stock, scenario, wave, name, ordered.get(name, 0)) for name in names),
    )


def _product(stock: _Stock, scenario: Scenario, wave: Wave, product: str, ordered: int) -> LorryProduct:
    own = [load for load in stock.loads.get(wave.id, ()) if load.product == product]
    gone = stock.gone.get(wave.id)
    there = [] if gone else stock.there.get(product, [])
    loaded = (_loaded(stock.lots[number], own) for number in dict.fromkeys(load.lot for load in own))
    return LorryProduct(
        product=product,
        name=scenario.product(product).name,
        ordered=ordered,
        loaded=tuple(one for one in loaded if one.packs),
        there=tuple(_there(stock.lots[packs.lot], scenario, wave, packs) for packs in there),
        reason=(gone.said.get("reasons") or {}).get(product, "") if gone else "",
    )


def _loaded(lot: StoredLot, loads: Sequence[Load]) -> LoadedLot:
    own = [load for load in loads if load.lot == lot.number]
    return LoadedLot(
        lot=lot.number,
        code=lot.code,
        packs=sum(load.packs for load in own),
        best_before=lot.best_before,
        author=own[-1].author,
    )


def _there(lot: StoredLot, scenario: Scenario, wave: Wave, packs: Loadable) -> LotThere:
    return LotThere(
        lot=lot.number,
        code=lot.code,
        packs=packs.packs,
        made_at=lot.at,
        best_before=lot.best_before,
        refused=refusal(scenario, wave, packs),
    )


def note_of(store: Repository, lorry: str, moment: datetime) -> DeliveryNote:
    """A lorry's delivery note; UnknownItemError where the window has none of that name."""
    scenario = store.windows.scenario()
    wave, view = wave_of(scenario, lorry), lorry_view(store, lorry)
    zone = zone_of(scenario)
    return DeliveryNote(
        plant=scenario.plant.name,
        town=scenario.plant.town,
        lorry=wave.name,
        number=lorry,
        made_at=moment.astimezone(zone),
        departs_at=moment_of(scenario, wave.departs_min).astimezone(zone),
        left_at=view.left_at.astimezone(zone) if view.left_at else None,
        customers=tuple(
            sorted({order.customer for order in scenario.orders if order.wave == lorry and order.customer})
        ),
        lines=tuple(
            NoteLine(
                name=product.name,
                ordered=product.ordered,
                packs=product.packs,
                kg=product.packs * scenario.product(product.product).finished_g / GRAMS_PER_KG,
                lots=tuple((lot.code, lot.packs, lot.best_before) for lot in product.loaded),
                reason=product.reason,
            )
            for product in view.products
        ),
    )
