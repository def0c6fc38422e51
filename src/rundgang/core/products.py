"""A product: its formula in baker's percent, its route along a line, its piece and its pack."""

from fractions import Fraction
from functools import cached_property
from math import prod
from typing import Annotated, Literal

from pydantic import ConfigDict, Field, model_validator

from rundgang.core.model import Celsius, Id, Minutes, Model, Name, PositiveMinutes, Share


class FormulaLine(Model):
    """One ingredient of a dough.

    Attributes
    ----------
    percent : float
        Baker's percent: mass per 100 of flour.
    at_min : float
        Minute of mixing at which it goes in; inclusions go in late, or they are crushed.
    """

    ingredient: Id
    percent: float = Field(ge=0.001, le=1_000)
    at_min: Minutes = 0


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
    rest_min : float
        Least time from discharge to the divider, min.
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


class _PieceStep(Model):
    model_config = ConfigDict(validate_by_name=True, validate_by_alias=True, serialize_by_alias=True)

    station: Id
    yield_: Share = Field(default=1, alias="yield", description="good out / in")

    @property
    def conversion(self) -> Fraction:
        """Pieces taken for one made."""
        return Fraction(1)

    @property
    def taken_for_one(self) -> Fraction:
        """What must come in for one good piece to go out, exactly."""
        return self.conversion / Fraction(str(self.yield_))


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
    """

    kind: Literal["rate"] = "rate"
    strokes_per_min: float = Field(ge=0.01, le=10_000)
    tool: Name | None = None


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
    """

    kind: Literal["conveyor"] = "conveyor"
    pieces_per_place: float = Field(default=1, ge=0.01, le=100)


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


PieceStep = RateStep | ConveyorStep | ChamberStep | BenchStep
DwellStep = ConveyorStep | ChamberStep
Step = Annotated[BatchStep | PieceStep, Field(discriminator="kind")]
OddBatch = Literal["equal", "short-last", "round-up"]


class Product(Model):
    """What is sold, and how it is made.

    Attributes
    ----------
    piece : str
        What one piece is called, for instance "ring".
    baked_g : float
        Mass of one baked piece, g.
    bake_loss : float
        Share of the scaled mass that the oven takes.
    target_per_hour : float
        Pieces an hour wanted from the line.
    traits : frozenset of str
        Flavours, colours and seeds it leaves behind on the line.
    odd_batch : {"equal", "short-last", "round-up"}
        What to do with the last batch when demand does not fill it.
    """

    id: Id
    name: Name
    line: Id
    piece: Name = "piece"
    pieces_per_pack: int = Field(ge=1, le=10_000)
    baked_g: float = Field(ge=0.1, le=20_000)
    bake_loss: float = Field(ge=0, lt=0.6)
    dough_temperature_c: float = Field(ge=-5, le=45)
    target_per_hour: float = Field(ge=1, le=1_000_000)
    traits: frozenset[Name] = frozenset()
    odd_batch: OddBatch = "equal"
    formula: tuple[FormulaLine, ...] = Field(min_length=2, max_length=100)
    route: tuple[Step, ...] = Field(min_length=2, max_length=60)

    @model_validator(mode="after")
    def _route_makes_packs(self) -> "Product":
        if [step.kind == "batch" for step in self.route] != [True] + [False] * (len(self.route) - 1):
            raise ValueError("route: allowed: one batch step, and that one first")
        stations = [step.station for step in self.route]
        for station in stations:
            if stations.count(station) > 1:
                raise ValueError(f"route: passes {station} twice; allowed: each station once")
        conversions = [step.conversion for step in self.piece_steps]
        tails = {prod(conversions[i:], start=Fraction(1)) for i in range(len(conversions) + 1)}
        if self.pieces_per_pack not in tails:
            raise ValueError(
                f"pieces_per_pack is {self.pieces_per_pack}, but the route packs "
                f"{max(tails)} to one; allowed: what the last steps of the route take for one pack"
            )
        late = [line.ingredient for line in self.formula if line.at_min > self.mixing.mix_min]
        if late:
            raise ValueError(
                f"formula: {late[0]} goes in after mixing has ended; allowed: at_min 0 to {self.mixing.mix_min:g}"
            )
        names = [line.ingredient for line in self.formula]
        for name in names:
            if names.count(name) > 1:
                raise ValueError(f"formula: {name} stands twice; allowed: each ingredient once")
        return self

    @cached_property
    def mixing(self) -> BatchStep:
        """The first step."""
        first = self.route[0]
        assert isinstance(first, BatchStep)  # noqa: S101  (the validator has made sure)
        return first

    @cached_property
    def piece_steps(self) -> tuple[PieceStep, ...]:
        """All steps after mixing, in order."""
        return tuple(step for step in self.route if not isinstance(step, BatchStep))

    @cached_property
    def scaling_g(self) -> float:
        """Scaling weight, g: baked / (1 − bake loss)."""
        return self.baked_g / (1 - self.bake_loss)

    @cached_property
    def scaled_per_pack(self) -> Fraction:
        """Pieces to scale for one good pack, exactly: conversions over yields, all steps."""
        return prod((step.taken_for_one for step in self.piece_steps), start=Fraction(1))
