"""Demand: dispatch waves, the orders that must be on each lorry, packs in stock; and when stations are blocked."""

from typing import Literal

from pydantic import AwareDatetime, Field, model_validator

from rundgang.core.model import FreshFor, Id, Model, Name, Text
from rundgang.core.plant import StationRef

MAX_PACKS = 100_000
"""More packs in one order line than any plant here makes in a day: taken for a slip of the hand."""


LONGEST_WINDOW_MIN = 10_080
"""A week, min."""


class Window(Model):
    """The stretch of time that is planned.

    Attributes
    ----------
    starts_at : datetime
        Its start, with a UTC offset. The core never does arithmetic on it: minute 0 is this moment.
    minutes : int
        Its length, min.
    """

    starts_at: AwareDatetime = Field(description="ISO 8601 with offset")
    minutes: int = Field(ge=60, le=LONGEST_WINDOW_MIN)


class Wave(Model):
    """A lorry, and when it leaves.

    Attributes
    ----------
    departs_min : float
        From the window's start, min; below 0 where it has left, and something for it is still to be made.
    loading_min : float
        So long before it leaves its loading ends: what is not made by then has missed it, min.
    """

    id: Id
    name: Name
    departs_min: float = Field(ge=-10_080, le=150_000)
    loading_min: float = Field(default=0, ge=0, le=1_440)

    @property
    def loaded_by_min(self) -> float:
        """When its loading ends, min."""
        return self.departs_min - self.loading_min


OrderLine = tuple[str, str, str]
"""Number, product and lorry: by them a line of an order is told from all others."""


class Order(Model):
    """A line of an order: so many packs of a product for a wave. One number may have several.

    Attributes
    ----------
    customer, reference : str or None
        Who wants it, and by what name they know it.
    priority : float
        How much a pack counts against others where not all can be made in time: 2 counts double.
    fresh_for_h : float or None
        How old packs may be when the lorry leaves, where the customer asks for fresher ones than the product, h.
    """

    id: Text = Field(min_length=1, max_length=40)
    product: Id
    wave: Id
    packs: int = Field(ge=1, le=MAX_PACKS)
    priority: float = Field(default=1, ge=0.1, le=10)
    fresh_for_h: FreshFor | None = None
    customer: Name | None = None
    reference: Name | None = None

    @property
    def line(self) -> OrderLine:
        """What tells it from all others."""
        return self.id, self.product, self.wave


class FinishedStock(Model):
    """Packs in stock that no run of the plan makes, all of one age; a product may have several such lots.

    Attributes
    ----------
    made_min : float
        When they were made, counted from the window's start: by now, min.
    """

    product: Id
    packs: int = Field(ge=0, le=1_000_000)
    made_min: float = Field(default=0, ge=-100_000, le=10_080)


class Absence(Model):
    """People of a crew who are not there for a while: outside their shift, or on a break.

    Attributes
    ----------
    from_min, to_min : float
        From the window's start, min; below 0 where it has begun before.
    """

    crew: Id
    from_min: float = Field(ge=-20_160, le=150_000)
    to_min: float = Field(ge=-20_160, le=1_000_000)
    people: int = Field(ge=1, le=5_000)


ClosingKind = Literal["shift", "cleaning", "blades", "rollers", "repair"]


class Block(Model):
    """A stretch of time in which a station takes nothing: closed shift, cleaning window, blade or roller change.

    Attributes
    ----------
    from_min, to_min : float
        From the window's start, min.
    renews : str or None
        The station's tool that is renewed meanwhile.
    weekly : bool
        Whether the calendar closes it.
    """

    id: Id
    line: Id
    station: Id
    kind: ClosingKind
    from_min: float = Field(ge=0, le=10_080)
    to_min: float = Field(ge=0, le=20_160)
    reason: Name
    renews: Id | None = None
    weekly: bool = False

    @property
    def at(self) -> StationRef:
        """The station that is closed."""
        return StationRef(line=self.line, station=self.station)

    @model_validator(mode="after")
    def _ends_after_it_begins(self) -> "Block":
        if self.to_min <= self.from_min:
            raise ValueError(f"to_min is {self.to_min:g}; allowed: after from_min, {self.from_min:g}")
        return self
