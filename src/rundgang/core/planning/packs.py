"""Packs: pack by pack, which lorry has got what by now, what is in stock, and what is still owed.

Each lorry takes the oldest packs that are fresh enough for it; what is too old for anyone is thrown away. Of what a
lorry that has left did not get, it is owed what the plan makes late for it; the rest it is short of.
"""

from collections import Counter
from collections.abc import Iterable, Sequence

import numpy as np

from rundgang.core.compiled import Floats, Ints
from rundgang.core.model import Id, Model
from rundgang.core.opening import Loaded
from rundgang.core.orders import FinishedStock, Order
from rundgang.core.planning.cut_runs import cut_runs
from rundgang.core.planning.decode.lorries import ON_TIME_MIN
from rundgang.core.planning.lorries import Due, dues_of
from rundgang.core.planning.model import CutRun, Run
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR


class Served(Model):
    """What came of a lorry's packs of a product since the window was rolled last.

    Attributes
    ----------
    sent, short : int
        Packs that went, but for those of runs that come along; and packs that it did not get and never will.
    kept : int
        Packs that come along with it: of runs that come along, or made late for it.
    """

    wave: Id
    product: Id
    sent: int
    short: int
    kept: int


class Packs(Model):
    """What came of all packs.

    Attributes
    ----------
    lots : tuple of FinishedStock
        In stock, but for those of runs that come along; by the hour in which they were made, min from the old start.
    thrown : dict of str to int
        Too old for their lorry, by product, but for those of runs that come along.
    """

    served: tuple[Served, ...]
    lots: tuple[FinishedStock, ...]
    thrown: dict[Id, int]


class _Made:
    """The packs of a product, the oldest first as lorries take them: when each is made, and whether it comes along."""

    def __init__(self, lots: Sequence[FinishedStock], giving: Sequence[Run | CutRun], along: Sequence[bool]) -> None:
        parts = [(lot.made_min, np.full(lot.packs, lot.made_min), False) for lot in lots]
        parts += [(one.first_pack_min, _pack_times(one), comes) for one, comes in zip(giving, along, strict=True)]
        parts.sort(key=lambda part: part[0])
        self.at: Floats = np.concatenate([np.empty(0), *(times for _, times, _ in parts)])
        self.along = np.concatenate([np.empty(0, bool), *(np.full(len(at), comes) for _, at, comes in parts)])
        self.gone = np.zeros(len(self.at), bool)

    def _old(self, from_min: float) -> int:
        """How many there are, from the oldest, that were made before a minute."""
        return int((self.at < from_min - ON_TIME_MIN).sum())

    def too_old(self, good_from_min: float) -> int:
        """Throw away what is too old for every lorry from the next on; packs of those that do not come along."""
        thrown = np.flatnonzero(~self.gone[: self._old(good_from_min)])
        self.gone[thrown] = True
        return int((~self.along[thrown]).sum())

    def take(self, packs: int, fresh_from_min: float) -> Ints:
        """Which packs a lorry takes: the oldest that are fresh enough for it."""
        passed = self._old(fresh_from_min)
        taken: Ints = passed + np.flatnonzero(~self.gone[passed:])[:packs]
        self.gone[taken] = True
        return taken


def packs_by_now(scenario: Scenario, planned: Sequence[Run], carried: Sequence[Run]) -> Packs:
    """What came of all packs by the scenario's now.

    Parameters
    ----------
    scenario : Scenario
        With all that has begun.
    planned, carried : sequence of Run
        Runs that have not begun; and of those that have, the ones that come along.
    """
    now, along = scenario.opening.now_min, {(run.line, run.id) for run in carried}
    runs = (*scenario.opening.begun, *planned)
    giving: list[tuple[Run | CutRun, bool]] = []
    for run in runs:
        comes = run in planned or (run.line, run.id) in along
        giving += [(run, comes), *((cut, comes) for cut in cut_runs(scenario, (run,)))]
    served, lots, thrown = list[Served](), list[FinishedStock](), Counter[str]()
    for line in scenario.plant.lines:
        dues = dues_of(scenario, line.id)
        for product in (product.id for product in scenario.products if product.line == line.id):
            own = [(one, comes) for one, comes in giving if one.product == product]
            made = _Made(
                [lot for lot in scenario.finished if lot.product == product],
                [one for one, _ in own],
                [comes for _, comes in own],
            )
            for due in (due for due in dues if due.product == product and due.loaded_by_min <= now):
                thrown[product] += made.too_old(due.good_from_min)
                served.append(_served(due, made, now))
            lots += _lots(product, made, now)
    return Packs(
        served=tuple(served), lots=tuple(lots), thrown={name: packs for name, packs in thrown.items() if packs}
    )


def _pack_times(run: Run | CutRun) -> Floats:
    """When each pack of a run is made, min."""
    return run.first_pack_min + (run.last_pack_min - run.first_pack_min) * np.arange(1, run.packs + 1) / run.packs


def _served(due: Due, made: _Made, now: float) -> Served:
    """What a lorry that has left has got; what is made after now is owed."""
    taken = made.take(due.packs, due.fresh_from_min)
    there, along = made.at[taken] <= now + ON_TIME_MIN, made.along[taken]
    sent, kept = int((there & ~along).sum()), int((~there | along).sum())
    return Served(wave=due.wave, product=due.product, sent=sent, short=due.packs - sent - kept, kept=kept)


def _lots(product: str, made: _Made, now: float) -> Iterable[FinishedStock]:
    """What is made and left in stock, by the hour in which it was made."""
    there = np.sort(made.at[~made.gone & ~made.along & (made.at <= now + ON_TIME_MIN)])
    _, first, packs = np.unique(np.floor(there / MINUTES_PER_HOUR), return_index=True, return_counts=True)
    for made_min, many in zip(there[first].tolist(), packs.tolist(), strict=True):
        yield FinishedStock(product=product, packs=many, made_min=made_min)


def with_loaded(
    orders: Iterable[Order], served: Iterable[Served], loaded: Iterable[Loaded]
) -> tuple[Served, ...]:  # fmt: skip
    """What came of lorries' packs: of those that have left as it was told, of the others as the plan has it."""
    told, ordered = {(one.wave, one.product): one.packs for one in loaded}, Counter[tuple[str, str]]()
    for order in orders:
        ordered[order.wave, order.product] += order.packs
    as_told = (
        Served(wave=wave, product=product, sent=packs, short=max(0, ordered[wave, product] - packs), kept=0)
        for (wave, product), packs in told.items()
    )
    return (*(one for one in served if (one.wave, one.product) not in told), *as_told)


def as_loaded(orders: Sequence[Order], loaded: Iterable[Loaded]) -> tuple[Order, ...]:
    """The orders that a plan is made for: of a lorry that has left, what it got of them; more than was ordered, too."""
    told = {(one.wave, one.product): one.packs for one in loaded}
    if not told:
        return tuple(orders)
    found, last = list[Order](), {(order.wave, order.product): place for place, order in enumerate(orders)}
    for place, order in enumerate(orders):
        due = order.wave, order.product
        packs = min(told[due], order.packs) if due in told else order.packs
        if due in told:
            packs = told[due] if last[due] == place else packs
            told[due] -= packs
        if packs:
            found.append(order if packs == order.packs else order.model_copy(update={"packs": packs}))
    return tuple(found)


def kept_orders(orders: Iterable[Order], served: Iterable[Served]) -> tuple[Order, ...]:
    """The orders as far as something of them comes along: what went, went for the first of a lorry's orders."""
    settled = {(one.wave, one.product): one.sent + one.short for one in served}
    kept = []
    for order in orders:
        due = order.wave, order.product
        packs = order.packs - min(order.packs, settled.get(due, 0))
        if due in settled:
            settled[due] -= order.packs - packs
        if packs:
            kept.append(order if packs == order.packs else order.model_copy(update={"packs": packs}))
    return tuple(kept)
