"""What a plan says: runs, their batches, what binds their starts, and what it means for every lorry.

A plan is a result, immutable and complete: it can be printed, stored, checked and compared without
the search that made it. All times are minutes from the window's start.
"""

from typing import Literal

from pydantic import Field

from rundgang.core.batching import BatchSplit
from rundgang.core.kinds.operation import Reason
from rundgang.core.model import Id, Model, Name
from rundgang.core.products import OddBatch

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


BindingKind = Literal["opening", "headway", "mixers", "freshness", "block", "crew", "store", "shared", "pin", "order"]


class Binding(Model):
    """What keeps a run from starting earlier.

    Attributes
    ----------
    kind : str
        "opening": the window's start and the first dough; "headway": a run before it at a station; "mixers": no
        mixer or trough free; "freshness": a lorry for which its packs would be too old; "block": a station is
        closed; "crew": no people free; "store": no room in the store; "shared": a station that another line uses;
        "pin": the planner wants it so; "order": nothing but that it comes after the run before it.
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


class RunItem(Model):
    """Packs that a run is to make for a lorry."""

    wave: Id
    packs: int = Field(ge=1)


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
    items : tuple of RunItem
        The lorries it is for; what an earlier run had over included.
    extra_hold_min : float
        How much longer than it must its store holds it, min.
    pinned_min : float or None
        Where the planner wants it to start.
    pace_share : float
        Of the line's pace for the product, where the planner wants it slower.
    odd_batch : str or None
        The planner's choice for its odd last dough.
    alone : bool
        Whether the planner, or the search, set it apart from a run of the same product before it.
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
    items: tuple[RunItem, ...] = ()
    extra_hold_min: float = Field(default=0, ge=0)
    pinned_min: Time | None = None
    pace_share: float = Field(default=1, gt=0, le=1)
    odd_batch: OddBatch | None = None
    alone: bool = False


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


class Weights(Model):
    """What each part of a plan's score costs, in points: first things first, and yours to change.

    Attributes
    ----------
    packs_short, late_pack_hours, packs_stale : float
        A pack that misses its lorry; an hour that one pack is late; one thrown away.
    changeover_min, oven_empty_min : float
        A minute that a divider waits at a change; one that a hot oven stands empty.
    surplus_packs : float
        A pack that nobody ordered.
    crew_peak : float
        One more pair of hands at the peak of a crew.
    moved_min : float
        A minute that a lot starts earlier or later than published.
    end_min : float
        A minute until a line's last pack.
    """

    packs_short: float = Field(default=50, ge=0, le=1_000_000)
    late_pack_hours: float = Field(default=5, ge=0, le=1_000_000)
    packs_stale: float = Field(default=20, ge=0, le=1_000_000)
    changeover_min: float = Field(default=2, ge=0, le=1_000_000)
    oven_empty_min: float = Field(default=0.5, ge=0, le=1_000_000)
    surplus_packs: float = Field(default=0.2, ge=0, le=1_000_000)
    crew_peak: float = Field(default=1, ge=0, le=1_000_000)
    moved_min: float = Field(default=0.05, ge=0, le=1_000_000)
    last_pack_min: float = Field(default=0.001, ge=0, le=1_000_000)


class Score(Model):
    """The parts a plan is judged by, first things first.

    The surplus counts what is mixed for itself; what is cut out follows its parent and is none.

    Attributes
    ----------
    crew_peak : float
        People at work at once at most, all crews together, each at its own peak.
    moved_min : float
        How far the lots' starts are from those published, min.
    """

    packs_short: int
    late_pack_hours: float
    packs_stale: int = 0
    changeover_min: float
    oven_empty_min: float = 0
    surplus_packs: int
    crew_peak: float = 0
    moved_min: float = 0
    last_pack_min: Time

    def cost(self, weights: Weights) -> float:
        """All parts at their prices, points."""
        return (
            weights.packs_short * self.packs_short
            + weights.late_pack_hours * self.late_pack_hours
            + weights.packs_stale * self.packs_stale
            + weights.changeover_min * self.changeover_min
            + weights.oven_empty_min * self.oven_empty_min
            + weights.surplus_packs * self.surplus_packs
            + weights.crew_peak * self.crew_peak
            + weights.moved_min * self.moved_min
            + weights.last_pack_min * self.last_pack_min
        )


class Plan(Model):
    """A plan of one line's window.

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


class PlantPlan(Model):
    """The plans of all lines, made together.

    Attributes
    ----------
    score : Score
        All lines' parts; the people of a crew are counted over all of them.
    cost, bound : float
        At the weights, points: of this plan, and what every plan costs at least.
    proved : bool
        Whether no order of the lots is better.
    """

    plans: tuple[Plan, ...]
    score: Score
    weights: Weights
    cost: float
    bound: float
    proved: bool = False
    evaluated: int = 0

    def of(self, line_id: str) -> Plan:
        """The plan of a line."""
        return next(plan for plan in self.plans if plan.line == line_id)
