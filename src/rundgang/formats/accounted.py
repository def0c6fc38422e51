"""Accounts as pages, paper and workbooks show them: with what was told of the hours, and the records beneath."""

from datetime import datetime
from typing import Literal
from uuid import UUID

from rundgang.core.floor.account import Account, Effectiveness
from rundgang.core.floor.evening import GivenAway, OvenSpell, RunMade
from rundgang.core.floor.waste import Off, WasteCause
from rundgang.core.model import Id, Model

AccountBy = Literal["shift", "day", "week", "line", "product"]
"""By what accounts stand beside each other."""


class Pulled(Model):
    """Pieces that were pulled off a line; of which run, where one was near."""

    uuid: UUID
    line: str
    station: str
    run: str | None
    product: str | None
    pieces: int
    cause: WasteCause
    at: datetime
    note: str
    author: str


class Scrapped(Model):
    """Packs of a lot that were scrapped; told without a cause before there were causes."""

    lot: int
    code: str
    product: str
    packs: int
    cause: WasteCause
    reason: str
    at: datetime
    author: str


class Note(Model):
    """What whoever leaves a line tells whoever comes."""

    uuid: UUID
    line: str
    says: str
    at: datetime
    author: str


class Stood(Model):
    """A time in which a station stood for itself, what it was told to be, and what the line's end felt of it, min.

    Attributes
    ----------
    stop : int or None
        The entry in the log of stops, where somebody made one.
    felt_min : float
        For so long no packs came for it.
    """

    station: Id
    from_min: float
    until_min: float | None
    cause: str
    stop: int | None
    felt_min: float


class PackedLot(Model):
    """A lot of packs that came off the line in these hours."""

    lot: int
    code: str
    run: str
    product: Id
    packs: int
    until_min: float


class Tally(Model):
    """What some hours come to.

    Attributes
    ----------
    adherence : float or None
        How far the plan was kept, of 1; None where nothing was planned.
    scrapped, pulled : int
        Packs, and pieces.
    oven_empty_min : float
        For so long ovens burned without product.
    given_kg, given_money : float or None
        What was given away in pieces that were too heavy; None where nothing says so, or something has no price.
    """

    figures: Effectiveness
    adherence: float | None
    scrapped: int
    pulled: int
    oven_empty_min: float
    given_kg: float | None
    given_money: float | None


class LineAccount(Model):
    """A line's account, the plan's version that it is held beside last, and the records beneath its figures."""

    line: Id
    name: str
    version: int
    since: datetime
    until: datetime
    currency: str | None
    account: Account
    tally: Tally
    stations: dict[Id, str]
    products: dict[Id, str]
    runs: tuple[RunMade, ...]
    stood: tuple[Stood, ...]
    ovens: tuple[OvenSpell, ...]
    given: tuple[GivenAway, ...]
    scrapped: tuple[Scrapped, ...]
    pulled: tuple[Pulled, ...]
    off: tuple[Off, ...]
    lots: tuple[PackedLot, ...]
    notes: tuple[Note, ...]


class AccountRow(Model):
    """What a shift, a day, a week, a line or a product comes to.

    Attributes
    ----------
    line, product : str or None
        Which it is of, where it is of one.
    since, until : datetime
        The part of the hours that were asked for that is its.
    """

    name: str
    line: Id | None
    product: Id | None
    since: datetime
    until: datetime
    tally: Tally


class AccountTable(Model):
    """Accounts beside each other, and all of them as one.

    Attributes
    ----------
    says : str
        What is to be known of the rows; empty where nothing is.
    """

    by: AccountBy
    says: str
    since: datetime
    until: datetime
    currency: str | None
    rows: tuple[AccountRow, ...]
    total: Tally
