"""A recall, a label and a delivery note, as files and paper have them."""

from datetime import date, datetime

from rundgang.core.floor.lots import Lot
from rundgang.core.floor.recall import MassBalance, PacksBalance
from rundgang.core.model import Model


class RecalledLot(Model):
    """A lot of a recall: from when until when it was made, what is there, whether it is held, and where it went.

    Attributes
    ----------
    sent : tuple of (str, int)
        Packs by lorry.
    """

    lot: Lot
    what: str
    unit: str
    begun_at: datetime
    done_at: datetime
    left: float
    held: str | None
    sent: tuple[tuple[str, int], ...]


class RecalledUse(Model):
    """So much of a lot of the recall went into another one."""

    lot: int
    into: int
    amount: float
    kind: str


class Recall(Model):
    """A lot and all that holds some of it.

    Attributes
    ----------
    lots : tuple of RecalledLot
        The lot itself first, then what it went into, nearest first.
    loads : tuple of (int, str, int, datetime)
        By lot, the lorry, how many packs, and when.
    """

    plant: str
    zone: str
    made_at: datetime
    lot: Lot
    what: str
    unit: str
    lots: tuple[RecalledLot, ...]
    uses: tuple[RecalledUse, ...]
    loads: tuple[tuple[int, str, int, datetime], ...]
    balance: PacksBalance | None
    mass: MassBalance | None


class Label(Model):
    """What stands on a lot's label; the address is what its code opens."""

    plant: str
    code: str
    what: str
    amount: float
    unit: str
    made_at: datetime
    best_before: date | None
    allergens: tuple[str, ...]
    held: str | None
    address: str


class NoteLine(Model):
    """A product on a delivery note: packs and kg, by lot with its best-before; and why it is short or over."""

    name: str
    ordered: int
    packs: int
    kg: float
    lots: tuple[tuple[str, int, date | None], ...]
    reason: str


class DeliveryNote(Model):
    """What is on a lorry."""

    plant: str
    town: str
    lorry: str
    number: str
    made_at: datetime
    departs_at: datetime
    left_at: datetime | None
    customers: tuple[str, ...]
    lines: tuple[NoteLine, ...]
