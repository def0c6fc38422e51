"""The steps of a route: what a product asks of each station it passes.

The first step mixes a dough. A hold right after it keeps the dough in its trough; a hold further on is a
store that splits the route into legs. All other steps take pieces and make pieces: one for one, several
into one (two shells, six in a bag), or one into several (a sheet into triangles). A step may add something
to each piece it makes, and may cut something out of it.
"""

from fractions import Fraction
from functools import cached_property
from typing import Annotated, Literal

from pydantic import ConfigDict, Field, model_validator

from rundgang.core.model import Celsius, Id, Minutes, Model, Name, PositiveMinutes, Share

SECONDS_PER_MINUTE = 60


class MixPhase(Model):
    """A stretch of mixing at one speed."""

    speed: Name
    minutes: PositiveMinutes


class BatchStep(Model):
    """Mixing one dough.

    Attributes
    ----------
    charge_min, discharge_min : float
        Filling and emptying the bowl, min.
    friction_c : float
        Friction factor of the factor rule for the water's temperature, °C.
    work_wh_per_kg : float or None
        Mixing work that stays in the dough, for the heat balance; None where it was never measured.
    dry_ice_pct : float
        Dry ice thrown in, per 100 of flour; it leaves as gas.
    rest_min : float
        Least time from discharge to the divider or into the trough, min.
    max_age_min : float
        Most time from discharge until the last of the batch is divided, min.
    """

    kind: Literal["batch"] = "batch"
    station: Id
    charge_min: Minutes
    phases: tuple[MixPhase, ...] = Field(min_length=1, max_length=12)
    discharge_min: Minutes
    friction_c: float = Field(ge=-50, le=100)
    work_wh_per_kg: float | None = Field(default=None, ge=0, le=40)
    dry_ice_pct: float = Field(default=0, ge=0, le=50)
    rest_min: Minutes
    max_age_min: PositiveMinutes

    @model_validator(mode="after")
    def _ages_in_order(self) -> "BatchStep":
        if self.max_age_min <= self.rest_min:
            raise ValueError(f"max_age_min is {self.max_age_min:g}; allowed: above rest_min, {self.rest_min:g}")
        return self

    @cached_property
    def mix_min(self) -> float:
        """Minutes from the first turn of the arm to the last."""
        return sum(phase.minutes for phase in self.phases)

    @cached_property
    def cycle_min(self) -> float:
        """Minutes one dough occupies its mixer: charge + mix + discharge."""
        return self.charge_min + self.mix_min + self.discharge_min


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


class CutOut(Model):
    """What is cut out of each piece: the centre of a ring.

    Attributes
    ----------
    grams : float
        Dough cut out of one piece, g.
    product : str or None
        What it is sold as; None where it goes back into the dough.
    """

    grams: float = Field(ge=0.01, le=5_000)
    product: Id | None = None


class _PieceStep(Model):
    model_config = ConfigDict(validate_by_name=True, validate_by_alias=True, serialize_by_alias=True)

    station: Id
    yield_: Share = Field(default=1, alias="yield", description="good out / in")
    rework: float = Field(
        default=0, ge=0, le=1, description="share of what is rejected here that goes back into a dough"
    )
    adds: tuple[Addition, ...] = Field(default=(), max_length=12)

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


class HeldStep(_PieceStep):
    """Held in a trough or a store.

    Attributes
    ----------
    least_min, most_min : float
        Least and most time from going in to coming out, min.
    pieces_per_position : float or None
        Pieces that one position holds; None right after mixing, where it holds one dough.
    """

    kind: Literal["held"] = "held"
    least_min: Minutes
    most_min: PositiveMinutes
    pieces_per_position: float | None = Field(default=None, ge=0.01, le=1_000_000)

    @model_validator(mode="after")
    def _holds_in_order(self) -> "HeldStep":
        if self.most_min <= self.least_min:
            raise ValueError(f"most_min is {self.most_min:g}; allowed: above least_min, {self.least_min:g}")
        return self


class _ConvertingStep(_PieceStep):
    takes: int = Field(default=1, ge=1, le=10_000)
    makes: int = Field(default=1, ge=1, le=10_000)

    @property
    def conversion(self) -> Fraction:
        """Pieces taken for one made."""
        return Fraction(self.takes, self.makes)


class RateStep(_ConvertingStep):
    """Passing a machine stroke by stroke.

    Attributes
    ----------
    strokes_per_min : float
        Of one lane of one machine; each stroke takes `takes` pieces and makes `makes`.
    tool : str or None
        The die, roller or film that must be mounted.
    takes, makes : int
        Six rings taken, one bag made: takes 6, makes 1. One sheet taken, forty pieces made: 1 and 40.
    cut_out : CutOut or None
        What is cut out of each piece made.
    """

    kind: Literal["rate"] = "rate"
    strokes_per_min: float = Field(ge=0.01, le=10_000)
    tool: Name | None = None
    cut_out: CutOut | None = None


class BenchStep(_ConvertingStep):
    """Being worked by hand.

    Attributes
    ----------
    pieces_per_person_min : float
        Pieces one person takes in a minute.
    """

    kind: Literal["bench"] = "bench"
    pieces_per_person_min: float = Field(ge=0.01, le=1_000)


class _DwellStep(_PieceStep):
    dwell_min: PositiveMinutes
    temperature_c: Celsius | None = None
    humidity_pct: float | None = Field(default=None, ge=0, le=100)

    @property
    def climate(self) -> tuple[float | None, float | None]:
        """Temperature and humidity."""
        return self.temperature_c, self.humidity_pct


class PieceGeometry(Model):
    """How pieces lie on a belt of known width and length, mm.

    Attributes
    ----------
    across_mm : float
        Width of a piece across the belt.
    gap_mm : float
        Between two neighbours across.
    pitch_mm : float
        From one row to the next, along the belt.
    """

    across_mm: float = Field(ge=1, le=10_000)
    gap_mm: float = Field(ge=0, le=10_000)
    pitch_mm: float = Field(ge=1, le=10_000)


class KnownCooling(Model):
    """A run on the cooler that was measured: from one core temperature to another in known air, °C and min."""

    from_c: Celsius
    to_c: Celsius
    air_c: Celsius
    minutes: PositiveMinutes

    @model_validator(mode="after")
    def _it_cools(self) -> "KnownCooling":
        if not self.air_c < self.to_c < self.from_c:
            raise ValueError(
                f"to_c is {self.to_c:g}; allowed: between air_c, {self.air_c:g}, and from_c, {self.from_c:g}"
            )
        return self


class FriedSides(Model):
    """How long each side is fried, s: both equal where a total time is turned halfway."""

    first_s: float = Field(ge=1, le=3_600)
    second_s: float = Field(ge=1, le=3_600)

    @property
    def total_min(self) -> float:
        """Both together, min."""
        return (self.first_s + self.second_s) / SECONDS_PER_MINUTE


class ConveyorStep(_DwellStep):
    """Dwelling on a belt.

    Attributes
    ----------
    dwell_min : float
        From the belt's start to its end, min.
    temperature_c, humidity_pct : float or None
        The climate, where the belt has one.
    pieces_per_place : float
        More than 1 where a small piece shares a place.
    geometry : PieceGeometry or None
        How pieces lie, where the belt's places are not counted.
    sides : FriedSides or None
        How long each side is fried, in a fryer.
    cooling : KnownCooling or None
        A run that was measured, from which the core in warmer or colder rooms follows.
    """

    kind: Literal["conveyor"] = "conveyor"
    pieces_per_place: float = Field(default=1, ge=0.01, le=100)
    geometry: PieceGeometry | None = None
    sides: FriedSides | None = None
    cooling: KnownCooling | None = None

    @model_validator(mode="after")
    def _sides_fill_the_dwell(self) -> "ConveyorStep":
        if self.sides and abs(self.sides.total_min - self.dwell_min) > 0.01:
            raise ValueError(
                f"sides take {self.sides.total_min:g} min; allowed: together the dwell of {self.dwell_min:g} min"
            )
        return self


class ChamberStep(_DwellStep):
    """Dwelling in a room, on trays.

    Attributes
    ----------
    dwell_min : float
        From going in to coming out, min.
    pieces_per_tray : float
        How many lie on one tray.
    """

    kind: Literal["chamber"] = "chamber"
    pieces_per_tray: float = Field(ge=0.1, le=10_000)


PieceStep = HeldStep | RateStep | ConveyorStep | ChamberStep | BenchStep
DwellStep = ConveyorStep | ChamberStep
Step = Annotated[BatchStep | PieceStep, Field(discriminator="kind")]
