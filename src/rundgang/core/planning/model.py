"""What a plan says: runs, their batches, what binds their starts, and what it means for every lorry.

A plan is a result, immutable and complete: it can be printed, stored, checked and compared without
the search that made it. All times are minutes from the window's start.
"""

from functools import cached_property
from typing import Literal

from pydantic import Field

from rundgang.core.doughs import BatchSplit
from rundgang.core.kinds.operation import Reason
from rundgang.core.model import Id, Model, Name, PositiveMinutes
from rundgang.core.planning.objective import Score, Weights, how_near
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


class FillingBatch(Model):
    """A batch of a filling or topping, made for a run.

    Attributes
    ----------
    start_min, mixed_min, emptied_min, ready_min : float
        Charging begins; it is mixed, and ages from here; its kettle is empty; it may be used.
    used_from_min, used_until_min : float
        When the run begins to draw on it, and when it is used up, or the run is over.
    grams, used_g : int
        Made, and used by this run; the rest is left over, for the next run while it is good.
    tank : str or None
        Where it waits; None where the hopper of its station takes it.
    kept : bool
        Whether it is what a run before it has left in the tank, made for that: there and then. Its grams are what this
        run uses of it.
    """

    preparation: Id
    number: int = Field(ge=1)
    kettle: Name
    start_min: Time
    mixed_min: Time
    emptied_min: Time
    ready_min: Time
    used_from_min: Time
    used_until_min: Time
    grams: int = Field(ge=1)
    used_g: int = Field(ge=0)
    tank: str | None = None
    kept: bool = False

    def is_of(self, other: "FillingBatch") -> bool:
        """Whether it is the same batch as another, or a part of that."""
        return (self.preparation, self.kettle, self.start_min) == (other.preparation, other.kettle, other.start_min)


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
    shared : bool
        Whether it is the rest of the last dough of a run before it, mixed with that: there and then.
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
    shared: bool = False

    @property
    def slots(self) -> "tuple[Batch | PreparationSlot, ...]":
        """All that is mixed for it: the dough, and its preparations."""
        return (self, *self.preparations)


BindingKind = Literal[
    "opening",
    "headway",
    "units",
    "freshness",
    "closing",
    "crew",
    "shift",
    "store",
    "shared",
    "pin",
    "order",
    "tool",
    "materials",
]


class Binding(Model):
    """What keeps a run from starting earlier.

    Attributes
    ----------
    kind : str
        "opening": the window's start and the first dough; "headway": a run before it at a station; "units": no mixer,
        trough, kettle or tank free; "freshness": a lorry for which its packs would be too old; "closing": a station is
        closed; "crew": no people free; "shift": a shift of its people begins; "store": no room in the store; "shared":
        a station that another line uses; "tool": a tool is renewed before it; "materials": a delivery must come;
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


class RunLeg(Model):
    """A leg of a run behind its first: when its first piece enters its first station, and from then to the last."""

    start_min: Time
    feed_min: float = Field(gt=0)


class RunItem(Model):
    """Packs that a run is to make for a lorry."""

    wave: Id
    packs: int = Field(ge=1)


def split_items(items: tuple[RunItem, ...], first: int) -> tuple[tuple[RunItem, ...], tuple[RunItem, ...]]:
    """A run's lorries cut after so many packs: those of the first packs, and the rest."""
    ahead, behind = list[RunItem](), list[RunItem]()
    for item in items:
        taken = min(item.packs, max(first, 0))
        first -= taken
        if taken:
            ahead.append(item.model_copy(update={"packs": taken}))
        if item.packs > taken:
            behind.append(item.model_copy(update={"packs": item.packs - taken}))
    return tuple(ahead), tuple(behind)


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
    later_legs : tuple of RunLeg
        The legs behind its stores and loads.
    fillings : tuple of FillingBatch
        What is made to be put on or into its pieces.
    changeover_min : float
        White time at the divider that the change before it costs; what it waits for the freshness of its packs, or
        for a closed station, is none.
    pinned_min : float or None
        Where the planner wants it to start.
    pace_share : float
        Of the line's pace for the product, where the planner wants it slower.
    odd_batch : str or None
        The planner's choice for its odd last dough.
    alone : bool
        Whether the planner, or the search, set it apart from a run of the same product before it.
    dwell_min : dict of str to float
        Where it dwells otherwise than its route says, by station: longer on a cooler while the air is warm, min.
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
    later_legs: tuple[RunLeg, ...] = ()
    fillings: tuple[FillingBatch, ...] = ()
    changeover_min: float = Field(default=0, ge=0)
    pinned_min: Time | None = None
    pace_share: float = Field(default=1, gt=0, le=1)
    odd_batch: OddBatch | None = None
    alone: bool = False
    dwell_min: dict[Id, PositiveMinutes] = Field(default_factory=dict, max_length=60)

    @cached_property
    def legs(self) -> tuple[RunLeg, ...]:
        """All its legs, the first at the divider."""
        return (RunLeg(start_min=self.start_min, feed_min=self.feed_min), *self.later_legs)

    @property
    def mixed(self) -> tuple[Batch, ...]:
        """The doughs that are mixed for it: all but the rest of another run's."""
        return tuple(batch for batch in self.batches if not batch.shared)

    @property
    def made_fillings(self) -> tuple[FillingBatch, ...]:
        """The batches of fillings that are made for it: all but what another run has left."""
        return tuple(filling for filling in self.fillings if not filling.kept)

    @property
    def made_as(self) -> tuple[str, tuple[tuple[str, float], ...]]:
        """Its product, and where that dwells otherwise than its route says."""
        return self.product, tuple(sorted(self.dwell_min.items()))

    def with_packs(self, packs: int) -> "Run":
        """The run when it gives so many packs; of fewer, the last of its lorries miss the rest."""
        items = split_items(self.items, packs)[0]
        wanted = min(self.packs_wanted, packs)
        return self.model_copy(update={"packs": packs, "packs_wanted": wanted, "items": items})

    @property
    def first_mixed_min(self) -> Time:
        """When the first thing is begun for it: a dough, or what is prepared for its doughs and pieces, min."""
        doughs = (slot.start_min for batch in self.batches for slot in batch.slots)
        return min((*doughs, *(filling.start_min for filling in self.made_fillings)))


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
    fresh_for_h : float or None
        How old they may be, where one of its customers asks for fresher ones than the product, h.
    short, never : int
        Of these, not yet made when it has been loaded; and of those, never made.
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
    never: int = 0
    ready_min: Time | None
    fresh_for_h: float | None = None


class LeftOut(Model):
    """Packs for a lorry that the plan does not make, and why, where not for want of time."""

    product: Id
    wave: Id
    packs: int = Field(ge=1)
    because: str | None = None


class Renewal(Model):
    """A tool that is renewed before a run, or its life would end in it.

    Attributes
    ----------
    tool : str
        What it is called.
    used, life : float
        How much of its life it has had then: strokes, hours or days, as `counted` says.
    """

    station: Id
    tool: Name
    counted: Literal["strokes", "hours", "days"]
    used: float
    life: float
    before: str
    from_min: Time
    to_min: Time


class LinePlan(Model):
    """A plan of one line's window.

    Attributes
    ----------
    rule : str
        How the order was found, in words for the planner.
    evaluated : int
        Orders that were tried.
    left_out : tuple of LeftOut
        What is not made at all.
    renewals : tuple of Renewal
        When tools are renewed, beside the closings that do it.
    """

    line: Id
    rule: str
    evaluated: int
    runs: tuple[Run, ...]
    cut_runs: tuple[CutRun, ...] = ()
    waves: tuple[WaveOutcome, ...]
    score: Score
    left_out: tuple[LeftOut, ...] = ()
    renewals: tuple[Renewal, ...] = ()

    @property
    def short(self) -> int:
        """Packs that its lorries miss."""
        return sum(wave.short for wave in self.waves)

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
        At the weights, points: of this plan, and what every plan of these lots costs at least.
    proved : bool
        Whether no order of the lots is better, each run as early as it can be.
    lost : int
        Packs that miss their lorry in every plan.
    """

    plans: tuple[LinePlan, ...]
    score: Score
    weights: Weights
    cost: float
    bound: float
    proved: bool = False
    evaluated: int = 0
    lost: int = 0

    @property
    def how_good(self) -> str:
        """How far it is from the best that is possible, and what no plan can save, in words."""
        near = "no order of its lots is better" if self.proved else how_near(self.cost, self.bound)
        lost = f"{self.lost:,} packs no plan can save" if self.lost else ""
        return "; ".join(part for part in (near, lost) if part)

    def of(self, line_id: str) -> LinePlan:
        """The plan of a line."""
        return next(plan for plan in self.plans if plan.line == line_id)
