"""Demand: dispatch waves, and the orders that must be on each lorry."""

from pydantic import AwareDatetime, Field

from rundgang.core.model import Id, Model, Name

MAX_PACKS = 100_000
"""More packs in one order line than any plant here makes in a day: taken for a slip of the hand."""


class Horizon(Model):
    """The stretch of time that is planned.

    Attributes
    ----------
    starts_at : datetime
        Its start, with a UTC offset. The core never does arithmetic on it: minute 0 is this moment.
    minutes : int
        Its length, min.
    """

    starts_at: AwareDatetime = Field(description="ISO 8601 with offset")
    minutes: int = Field(ge=60, le=10_080)


class Wave(Model):
    """A lorry, and when it leaves: minutes from the horizon's start."""

    id: Id
    name: Name
    departs_min: float = Field(ge=0, le=10_080)


class Order(Model):
    """So many packs of a product for a wave."""

    id: str = Field(min_length=1, max_length=40)
    product: Id
    wave: Id
    packs: int = Field(ge=1, le=MAX_PACKS)
