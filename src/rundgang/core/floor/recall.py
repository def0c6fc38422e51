"""A recall: from any lot all that it was made of and all that holds it, where that is, and whether it balances.

Packs are counted: made = sent + held + scrap + in stock. Kilograms are as they were weighed: what went into the doughs
and onto the pieces is what the packs weigh, what the oven took, and what was trimmed, pulled or stayed in bowls.
"""

from collections import deque
from collections.abc import Iterable, Mapping, Sequence
from math import prod
from typing import NamedTuple

from rundgang.core.floor.lots import Lot, Use
from rundgang.core.model import Model
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import GRAMS_PER_KG


class PacksOf(NamedTuple):
    """What became of the packs of a lot: sent with lorries, thrown away, and of what is there, held."""

    sent: int
    scrap: int
    held: int


class PacksBalance(Model):
    """The packs of some lots; what was made is all the others together.

    Attributes
    ----------
    in_stock : int
        There and not held.
    """

    made: int
    sent: int
    held: int
    scrap: int
    in_stock: int


class MassBalance(Model):
    """The mass of some lots of packs, kg.

    Attributes
    ----------
    dough, put_on : float
        Of the doughs that were divided for them, and of what was put on or into their pieces.
    packs : float
        What they weigh by their product, without their packing.
    bake_loss : float
        What oven or fryer took.
    other_loss : float
        The rest: trimmed, pulled, or off its weight; below nothing where the pieces were made too heavy on paper.
    """

    dough: float
    put_on: float
    packs: float
    bake_loss: float
    other_loss: float


class Traced(Model):
    """A lot on the way from the one that was asked about, and by how many steps."""

    lot: Lot
    steps: int


class TracedUse(Model):
    """What of one lot went into another."""

    lot: int
    into: int
    amount: float
    kind: str


class Trace(Model):
    """A lot with all that it is of and all that is of it, nearest first, and what went into what."""

    lot: Lot
    made_of: tuple[Traced, ...]
    went_into: tuple[Traced, ...]
    uses: tuple[TracedUse, ...]


def traced(lots: Mapping[int, Lot], uses: Iterable[Use], number: int) -> Trace:
    """A lot with all that it is of and all that is of it.

    Parameters
    ----------
    lots : mapping of int to Lot
        It and all lots on its ways, by number.
    uses : iterable of Use
        Between them.
    """
    known = tuple(use for use in uses if use.lot in lots and use.into in lots)
    up = _steps({use.into: [] for use in known}, ((use.into, use.lot) for use in known), number)
    down = _steps({use.lot: [] for use in known}, ((use.lot, use.into) for use in known), number)
    on_way = {number, *up, *down}
    return Trace(
        lot=lots[number],
        made_of=_nearest_first(lots, up),
        went_into=_nearest_first(lots, down),
        uses=tuple(TracedUse(**use._asdict()) for use in known if use.lot in on_way and use.into in on_way),
    )


def _steps(ways: dict[int, list[int]], pairs: Iterable[tuple[int, int]], begin: int) -> dict[int, int]:
    """All that can be reached, with the fewest steps to it."""
    for at, to in pairs:
        ways[at].append(to)
    found, waiting = dict[int, int](), deque([(begin, 0)])
    while waiting:
        at, steps = waiting.popleft()
        for to in ways.get(at, ()):
            if to not in found and to != begin:
                found[to] = steps + 1
                waiting.append((to, steps + 1))
    return found


def _nearest_first(lots: Mapping[int, Lot], steps: Mapping[int, int]) -> tuple[Traced, ...]:
    ordered = sorted(steps, key=lambda number: (steps[number], number))
    return tuple(Traced(lot=lots[number], steps=steps[number]) for number in ordered)


def packs_balance(lots: Sequence[Lot], became: Mapping[int, PacksOf]) -> PacksBalance:
    """What became of the packs of some lots, to the pack."""
    of = [became.get(lot.number, PacksOf(0, 0, 0)) for lot in lots]
    made, sent = sum(round(lot.amount) for lot in lots), sum(one.sent for one in of)
    held, scrap = sum(one.held for one in of), sum(one.scrap for one in of)
    return PacksBalance(made=made, sent=sent, held=held, scrap=scrap, in_stock=made - sent - held - scrap)


def mass_balance(scenario: Scenario, lots: Sequence[Lot], uses: Iterable[Use]) -> MassBalance:
    """What the packs of some lots are made of and what they weigh.

    Parameters
    ----------
    uses : iterable of Use
        What went into them.
    """
    into = {lot.number for lot in lots}
    own = [use for use in uses if use.into in into]
    dough = sum(use.amount for use in own if use.kind == "divided")
    put_on = sum(use.amount for use in own if use.kind == "put on")
    packs, baked_off = 0.0, 0.0
    for lot in lots:
        product = scenario.product(lot.item)
        packs += lot.amount * product.finished_g / GRAMS_PER_KG
        baked_off += lot.amount * _bake_loss_g(product) / GRAMS_PER_KG
    return MassBalance(
        dough=dough, put_on=put_on, packs=packs, bake_loss=baked_off, other_loss=dough + put_on - packs - baked_off
    )


def _bake_loss_g(product: Product) -> float:
    """What the pieces of a pack lose in the oven, g."""
    a_pack = prod(float(step.conversion) for step in product.piece_steps[product.bake_place + 1 :])
    return a_pack * product.baked_g * product.bake_loss / (1 - product.bake_loss)
