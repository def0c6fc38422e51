"""Batch: mixers, kettles and whippers, each making one dough, or one preparation, at a time."""

from functools import cached_property
from typing import Literal, Self

from pydantic import Field, model_validator

from rundgang.core.kinds.parts import StationBase
from rundgang.core.model import Id, Minutes, Model, Name, PositiveMinutes
from rundgang.core.units import MINUTES_PER_HOUR


class BatchStation(StationBase):
    """Mixers of one size working side by side.

    Attributes
    ----------
    mixers : tuple of str
        Their names, as painted on them.
    min_fill_kg, max_fill_kg : float
        The smallest and the largest dough that mixes properly, kg.
    jacket_kw : float
        Heat that a cooling jacket takes from one bowl while it mixes, kW.
    room_m3, air_changes_per_h : float or None
        The room they stand in, for the check of CO2 where dry ice is used.
    """

    kind: Literal["batch"] = "batch"
    mixers: tuple[Name, ...] = Field(min_length=1, max_length=26)
    min_fill_kg: float = Field(ge=0.001, le=5_000)
    max_fill_kg: float = Field(ge=0.001, le=5_000)
    jacket_kw: float = Field(default=0, ge=0, le=500)
    room_m3: float | None = Field(default=None, ge=1, le=1_000_000)
    air_changes_per_h: float | None = Field(default=None, ge=0.01, le=200)

    @model_validator(mode="after")
    def _fills_in_order(self) -> "BatchStation":
        if self.min_fill_kg > self.max_fill_kg:
            raise ValueError(f"min_fill_kg is {self.min_fill_kg:g}; allowed: at most max_fill_kg, {self.max_fill_kg:g}")
        if len(set(self.mixers)) != len(self.mixers):
            raise ValueError("mixers: two have the same name; allowed: each name once")
        return self

    @property
    def units(self) -> tuple[str, ...]:
        """What its mixers are called."""
        return self.mixers

    def with_count(self, wanted: int) -> Self:
        """The station with so many mixers."""
        names = (*self.mixers, *(f"{self.name} {n}" for n in range(len(self.mixers) + 1, wanted + 1)))
        return self.model_copy(update={"mixers": names[:wanted]})


class MixPhase(Model):
    """A stretch of mixing at one speed."""

    speed: Name
    minutes: PositiveMinutes


class MixerFriction(Model):
    """The friction factor of a dough in one mixer, °C."""

    mixer: Name
    friction_c: float = Field(ge=-50, le=100)


class BatchStep(Model):
    """Mixing one dough.

    Attributes
    ----------
    charge_min, discharge_min : float
        Filling and emptying the bowl, min.
    friction_c : float
        Friction factor of the factor rule for the water's temperature, °C.
    frictions : tuple of MixerFriction
        The same of mixers in which it is another.
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
    frictions: tuple[MixerFriction, ...] = Field(default=(), max_length=26)
    work_wh_per_kg: float | None = Field(default=None, ge=0, le=40)
    dry_ice_pct: float = Field(default=0, ge=0, le=50)
    rest_min: Minutes
    max_age_min: PositiveMinutes

    @model_validator(mode="after")
    def _ages_in_order(self) -> "BatchStep":
        if self.max_age_min <= self.rest_min:
            raise ValueError(f"max_age_min is {self.max_age_min:g}; allowed: above rest_min, {self.rest_min:g}")
        return self

    def friction_in(self, mixer: str) -> float:
        """The friction factor in a mixer, °C."""
        return next((own.friction_c for own in self.frictions if own.mixer == mixer), self.friction_c)

    @cached_property
    def mix_min(self) -> float:
        """Minutes from the first turn of the arm to the last."""
        return sum(phase.minutes for phase in self.phases)

    @cached_property
    def cycle_min(self) -> float:
        """Minutes one dough occupies its mixer: charge + mix + discharge."""
        return self.charge_min + self.mix_min + self.discharge_min


def batch_capacity(mixers: int, pieces: float, cycle_min: float) -> float:
    """Capacity of mixers, pieces/h: 60 m n / c."""
    return MINUTES_PER_HOUR * mixers * pieces / cycle_min
