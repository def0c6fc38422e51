"""What stations, and steps, of every kind have in common."""

from fractions import Fraction
from itertools import pairwise
from math import exp, inf
from statistics import NormalDist
from typing import Annotated, ClassVar, Literal, Self

from pydantic import ConfigDict, Field, model_validator

from rundgang.core.cautions import Hazard
from rundgang.core.errors import OutOfRangeError
from rundgang.core.kinds.ripening import Bears
from rundgang.core.model import Celsius, Id, Minutes, Model, Name, PositiveMinutes, Share

SECONDS_PER_MINUTE = 60

ROUNDING = 1e-9
"""Relative slack when a float ratio is rounded to a whole number."""


class Changeover(Model):
    """What a station needs between two runs, each counted from the moment its last piece has left.

    Attributes
    ----------
    separation_min : float
        Gap kept between any two runs, at the station's entry.
    tool_change_min : float
        When the two runs use different tools.
    allergen_clean_min : float
        When the first run leaves an allergen that the second does not declare.
    trait_clean_min : float
        When it leaves a flavour, colour or seed that the second must not carry.
    """

    separation_min: Minutes = 0
    tool_change_min: Minutes = 0
    allergen_clean_min: Minutes = 0
    trait_clean_min: Minutes = 0


class CrewUse(Model):
    """People of a crew who stand at a station from its first piece in to its last piece out."""

    crew: Id
    people: int = Field(ge=1, le=500)


class PutAside(Model):
    """Places beside a station where pieces can be put while the line stands, and how long they keep there, min."""

    pieces: int = Field(ge=1, le=1_000_000)
    keeps_min: PositiveMinutes


class WearingTool(Model):
    """A tool that wears, and must be renewed before its life ends: blades, rollers, a die, a belt.

    Attributes
    ----------
    life : float
        How much it bears: strokes of one lane, hours in which pieces are inside, or days since it was renewed.
    renew_min : float
        How long the station stands for it, min.
    fits : str or None
        It wears only in runs whose step asks for this tool; None: in every run.
    """

    id: Id
    name: Name
    counted: Literal["strokes", "hours", "days"]
    life: float = Field(ge=0.1, le=1e9)
    renew_min: Minutes
    fits: Name | None = None


class Standstill(Model):
    """How long a station stands when it stops: half of its stops are shorter than the median, min.

    Attributes
    ----------
    spread : float
        Standard deviation of the logarithm.
    """

    median_min: PositiveMinutes
    spread: float = Field(default=1.0, ge=0, le=3)

    def shorter_than_min(self, share: float) -> float:
        """So long the share of its stops that is asked for is no longer, min."""
        return self.median_min * exp(self.spread * NormalDist().inv_cdf(share))


class StationBase(Model):
    """What stations of all kinds have.

    Attributes
    ----------
    stops_every_min : float or None
        How long it runs in the mean until it stops, min; None where nobody knows.
    stands : Standstill or None
        How long it stands then; None where nobody knows.
    dwells : bool
        Whether pieces stay there for a time that can be set: on a belt, in a room, in a store.
    """

    dwells: ClassVar[bool] = False

    id: Id
    name: Name
    changeover: Changeover = Changeover()
    staffed: CrewUse | None = None
    aside: PutAside | None = None
    tools: tuple[WearingTool, ...] = Field(default=(), max_length=20)
    stops_every_min: PositiveMinutes | None = None
    stands: Standstill | None = None
    transfer_min: Minutes = Field(default=0, description="carried from here to the next station, min")
    hazards: tuple[Hazard, ...] = Field(default=(), max_length=12, description="what can hurt someone here")

    def with_count(self, wanted: int) -> Self:
        """The station with so many machines, people or positions; OutOfRangeError where it is not counted."""
        raise OutOfRangeError(f"The number at {self.name}", wanted, "not asked: it is one belt or one room")


class Addition(Model):
    """What a step puts on or into each piece it makes: filling, glaze, coating, oil taken up.

    Attributes
    ----------
    item : str
        An ingredient or a preparation.
    grams : float
        On one piece, g.
    """

    item: Id
    grams: float = Field(ge=0.001, le=20_000)


class SetUpCheck(Model):
    """What is looked at before a run begins at a station, and what it must be: the gap of the rollers, 4.5 mm."""

    what: Name
    wanted: Name


class Lamination(Model):
    """A cycle of folding: the parts of each fold, and the sheet after each pass of the rollers.

    Attributes
    ----------
    folds : tuple of int
        Each fold by the number of its parts: 3 for a single turn, 4 for a double.
    passes_mm : tuple of float
        Thickness of the sheet behind each pass after the last fold, thinner each time, mm.
    fat : str
        What is laid in.
    block_kg : float
        Mass of one block of it, kg.
    """

    folds: tuple[Annotated[int, Field(ge=2, le=12)], ...] = Field(min_length=1, max_length=12)
    passes_mm: tuple[Annotated[float, Field(ge=0.1, le=200)], ...] = Field(min_length=1, max_length=30)
    fat: Id
    block_kg: float = Field(ge=0.01, le=1_000)

    @model_validator(mode="after")
    def _thinner_each_time(self) -> Self:
        for before, after in pairwise(self.passes_mm):
            if after >= before:
                raise ValueError(f"passes_mm: {after:g} mm comes behind {before:g}; allowed: thinner each time")
        return self


class Bands(Model):
    """A sheet cut into parallel bands: how many, and how wide the sheet is, mm."""

    count: int = Field(ge=1, le=200)
    sheet_mm: float = Field(ge=1, le=10_000)


class PieceStepBase(Model):
    """What steps of all kinds have that take pieces and make pieces, one for one unless they say otherwise.

    Attributes
    ----------
    next_within_s : float or None
        A piece is in the next station at the latest so long after this one, s: a ring is closed before its ends dry.
    set_up : tuple of SetUpCheck
        What is looked at before a run begins here.
    """

    model_config = ConfigDict(validate_by_name=True, validate_by_alias=True, serialize_by_alias=True)

    station: Id
    yield_: Share = Field(default=1, alias="yield", description="good out / in")
    rework: float = Field(
        default=0, ge=0, le=1, description="share of what is rejected here that goes back into a dough"
    )
    adds: tuple[Addition, ...] = Field(default=(), max_length=12)
    next_within_s: float | None = Field(default=None, ge=0, le=86_400)
    set_up: tuple[SetUpCheck, ...] = Field(default=(), max_length=20)

    @property
    def conversion(self) -> Fraction:
        """Pieces taken for one made."""
        return Fraction(1)

    @property
    def taken_for_one(self) -> Fraction:
        """What must come in for one good piece to go out, exactly."""
        return self.conversion / Fraction(str(self.yield_))

    @property
    def added_g(self) -> float:
        """What the step adds to each piece it makes, g."""
        return sum(addition.grams for addition in self.adds)

    @property
    def stands_min(self) -> float:
        """How long a piece may stand beyond its time, min; inf where it only waits."""
        return inf

    def with_dwell(self, minutes: float) -> Self:
        """The step with another time inside; itself where that is not set."""
        return self


class ConvertingStep(PieceStepBase):
    """A step that takes several pieces for several made: six rings for a bag, one sheet for forty pieces.

    Attributes
    ----------
    laminates : Lamination or None
        The folding that is done here, for the layers and the fat.
    bands : Bands or None
        The parallel bands that a sheet is cut into here.
    """

    takes: int = Field(default=1, ge=1, le=10_000)
    makes: int = Field(default=1, ge=1, le=10_000)
    laminates: Lamination | None = None
    bands: Bands | None = None

    @property
    def conversion(self) -> Fraction:
        """Pieces taken for one made."""
        return Fraction(self.takes, self.makes)


class DwellStep(PieceStepBase):
    """A step in which every piece stays for a set time, perhaps in a set climate.

    Attributes
    ----------
    bakes : bool
        Whether it is here, in an oven or a fryer, that the piece loses what it loses in baking.
    grace_min : float or None
        How much longer a piece may stay when the line stands, before it is spoiled, min; None where it bakes: not at
        all; None elsewhere: it only waits.
    bears : Bears or None
        The same by what the yeast has done: how much of its proof a piece bears.
    """

    dwell_min: PositiveMinutes
    temperature_c: Celsius | None = None
    humidity_pct: float | None = Field(default=None, ge=0, le=100)
    bakes: bool = False
    grace_min: Minutes | None = None
    bears: Bears | None = None

    @model_validator(mode="after")
    def _grace_one_way(self) -> Self:
        if self.bears and (self.grace_min is not None or self.temperature_c is None):
            raise ValueError("bears: allowed with a temperature_c, and without a grace_min")
        return self

    def ripened(self, dough_c: float) -> Self:
        """The step with the grace of a piece that comes in at a temperature; InfeasibleError where its yeast rests."""
        if self.bears is None or self.temperature_c is None or self.grace_min is not None:
            return self
        grace = self.bears.grace_min(dough_c, self.temperature_c, self.dwell_min)
        return self.model_copy(update={"grace_min": grace})

    @property
    def stands_min(self) -> float:
        """How long a piece may stand beyond its time, min; inf where it only waits."""
        if self.grace_min is not None:
            return self.grace_min
        return 0.0 if self.bakes else inf

    @property
    def climate(self) -> tuple[float | None, float | None]:
        """Temperature and humidity."""
        return self.temperature_c, self.humidity_pct

    def with_dwell(self, minutes: float) -> Self:
        """The step with another time inside."""
        return self.model_copy(update={"dwell_min": minutes})


def said(value: float | None) -> str:
    """A figure in words."""
    return "unset" if value is None else f"{value:g}"


def bakes(step: PieceStepBase) -> bool:
    """Whether pieces are baked or fried in a step."""
    return isinstance(step, DwellStep) and step.bakes
