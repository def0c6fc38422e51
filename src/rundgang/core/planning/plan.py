"""What a plan says: runs, their batches, what binds their starts, and what it means for every lorry.

A plan is a result, immutable and complete: it can be printed, stored, checked and compared without
the search that made it. All times are minutes from the horizon's start.
"""

from typing import Literal

from pydantic import Field

from rundgang.core.batching import BatchSplit
from rundgang.core.model import Id, Model, Name

Time = float


class PreparationSlot(Model):
    """A batch of a preparation, made for one dough.

    Attributes
    ----------
    start_min, discharged_min, used_min : float
        Charging begins; the bowl is empty; it goes into the dough.
    position : str or None
        The trough it stands in.
    """

    preparation: Id
    mixer: Name
    start_min: Time
    discharged_min: Time
    used_min: Time
    position: str | None = None
    grams: int = Field(ge=1)


class Batch(Model):
    """One dough of a run.

    Attributes
    ----------
    start_min, discharged_min : float
        Charging begins; the bowl is empty.
    divided_min, last_piece_min : float
        First and last piece enter the divider.
    trough : str or None
        The one it ferments or rests in.
    preparations : tuple of PreparationSlot
        Made for it before.
    """

    number: int = Field(ge=1)
    mixer: Name
    start_min: Time
    discharged_min: Time
    divided_min: Time
    last_piece_min: Time
    pieces: int = Field(ge=1)
    dough_g: int = Field(ge=1)
    trough: str | None = None
    preparations: tuple[PreparationSlot, ...] = ()

    @property
    def slots(self) -> "tuple[Batch | PreparationSlot, ...]":
        """All that is mixed for it: the dough, and its preparations."""
        return (self, *self.preparations)


class Reason(Model):
    """A part of a gap: what it is for, and how long it takes, min."""

    what: str
    minutes: float


BindingKind = Literal["opening", "headway", "mixers", "freshness"]


class Binding(Model):
    """What keeps a run from starting earlier.

    Attributes
    ----------
    kind : {"opening", "headway", "mixers", "freshness"}
        The horizon's start and the first dough; a run before it at a station; no mixer or trough free; or a lorry
        for which its packs would be too old.
    after : str or None
        The run before it.
    station, where : str or None
        Where the two meet: the station, and what it is called.
    gap_min : float
        White time between the two at that station's entry.
    reasons : tuple of Reason
        What the gap is made of.
    """

    kind: BindingKind
    after: str | None = None
    station: str | None = None
    where: str | None = None
    gap_min: float = 0
    reasons: tuple[Reason, ...] = ()


class Run(Model):
    """A product running down its line without a break.

    Attributes
    ----------
    start_min : float
        First piece into make-up (the divider).
    feed_min : float
        From the first piece in to the last.
    scaled_per_h : float
        Pace at the divider, pieces/h.
    pieces, packs, packs_wanted : int
        Pieces scaled, good packs they give, and packs that the orders want of this run.
    first_pack_min, last_pack_min : float
        When packs begin and cease to come off the line.
    """

    id: str
    product: Id
    line: Id
    start_min: Time
    feed_min: float = Field(gt=0)
    scaled_per_h: float = Field(gt=0)
    pieces: int = Field(ge=1)
    packs: int = Field(ge=0)
    packs_wanted: int = Field(ge=0)
    first_pack_min: Time
    last_pack_min: Time
    batches: tuple[Batch, ...] = Field(min_length=1)
    split: BatchSplit
    binding: Binding


class CutRun(Model):
    """What a run gives beside its own packs: packs of the product that is cut out of its pieces."""

    run: str
    product: Id
    packs: int = Field(ge=0)
    first_pack_min: Time
    last_pack_min: Time


class WaveOutcome(Model):
    """What a lorry gets of a product.

    Attributes
    ----------
    packs : int
        Ordered for it.
    short : int
        Of these, not yet made when it leaves.
    late_pack_hours : float
        Packs x hours they are late.
    stale : int
        Thrown away before it, made so early that they would be too old when it leaves.
    ready_min : float or None
        When its last pack is made; None where the plan never makes it.
    """

    wave: Id
    product: Id
    packs: int
    short: int
    late_pack_hours: float
    stale: int = 0
    ready_min: Time | None


class Score(Model):
    """The parts a plan is judged by, first things first; plans are compared in this order.

    The surplus counts what is mixed for itself; what is cut out follows its parent and is none.
    """

    packs_short: int
    late_pack_hours: float
    packs_stale: int = 0
    changeover_min: float
    surplus_packs: int
    last_pack_min: Time

    @property
    def key(self) -> tuple[float, ...]:
        """For comparing: less is better, the earlier part first."""
        return (
            self.packs_short,
            round(self.late_pack_hours, 6),
            self.packs_stale,
            round(self.changeover_min, 6),
            self.surplus_packs,
            round(self.last_pack_min, 6),
        )


class Plan(Model):
    """A plan of one line's horizon.

    Attributes
    ----------
    rule : str
        How the order was found, in words for the planner.
    evaluated : int
        Orders that were tried.
    """

    line: Id
    rule: str
    evaluated: int
    runs: tuple[Run, ...]
    cut_runs: tuple[CutRun, ...] = ()
    waves: tuple[WaveOutcome, ...]
    score: Score

    @property
    def giving(self) -> tuple[Run | CutRun, ...]:
        """All that gives packs: the runs, and what is cut out of them."""
        return (*self.runs, *self.cut_runs)
