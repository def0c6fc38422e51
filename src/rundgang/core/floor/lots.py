"""Lots: what came in together, was mixed together, or was packed of one dough; and what went into what.

A lot is traced by what it was made of and by what was made of it. Of what nobody has told the published plan counts as
fact, and the record says so.
"""

from datetime import date
from typing import Literal, NamedTuple

from rundgang.core.model import Id, Model, Name, Names

LotKind = Literal["material", "batch", "packs"]
"""Came in; was mixed: a dough, a preparation, a filling; was packed."""

UseKind = Literal["weighed", "mixed in", "rework", "divided", "put on", "packed in", "beside"]
"""How a lot went into another. "beside": none of it by the order in which things go in and out, but the two met."""

BY_PLAN = "as planned"
"""Who says so where nobody has told."""


class Lot(Model):
    """A lot.

    Attributes
    ----------
    number : int
        By which the record knows it.
    code : str
        On its label; no two lots have the same.
    item : str
        The ingredient, the preparation or the product. A batch without a preparation is a dough of its product.
    batch : str or None
        The card it was mixed by; of packs the number of their dough.
    amount : float
        Of a material what came in, of a batch what its card says, kg; of packs and packing their number.
    allergens : frozenset of str
        What a delivery brings beside what its ingredient always does.
    """

    number: int
    code: str
    kind: LotKind
    item: Id
    line: Id | None = None
    run: str | None = None
    batch: str | None = None
    amount: float
    best_before: date | None = None
    supplier: Name | None = None
    allergens: Names = frozenset()


class Use(NamedTuple):
    """So much of a lot went into another: kg, or pieces of packing."""

    lot: int
    into: int
    amount: float
    kind: UseKind


def batch_code(day: date, line: str, run: str, key: str) -> str:
    """The code of a batch, by the day on which it was begun."""
    return f"{day:%y%m%d}-{line}-{run}-{key}"


def packs_code(day: date, line: str, run: str, batch: int, cut: str | None = None) -> str:
    """The code of the packs of a dough, by the day of the first; of what was cut out of it, with its name."""
    return f"{day:%y%m%d}-{line}-{run}-{batch}-packs{f'-{cut}' if cut else ''}"


def material_code(item: str, day: date, told: str) -> str:
    """The code of a delivery, by the day it came and what the supplier calls it, or where nobody said, when it came."""
    return f"{day:%y%m%d}-{item}-{told}"
