"""A product: its formula in baker's percent, its route along a line, its piece and its pack."""

from collections.abc import Mapping
from fractions import Fraction
from functools import cached_property
from math import prod
from typing import Literal

from pydantic import Field, PrivateAttr, model_validator

from rundgang.core.errors import InfeasibleError
from rundgang.core.kinds.batch import BatchStep
from rundgang.core.kinds.every import PieceStep, Step
from rundgang.core.kinds.held import HeldStep
from rundgang.core.kinds.parts import DwellStep, bakes
from rundgang.core.kinds.rate import CutOut, cut_out_of
from rundgang.core.model import Celsius, FreshFor, Id, Minutes, Model, Name, Names


class FormulaLine(Model):
    """One ingredient of a dough.

    Attributes
    ----------
    ingredient : str
        An ingredient, or a preparation.
    percent : float
        Baker's percent: mass per 100 of flour, the flour inside preparations counted.
    at_min : float
        Minute of mixing at which it goes in; inclusions go in late, or they are crushed.
    """

    ingredient: Id
    percent: float = Field(ge=0.001, le=1_000)
    at_min: Minutes = 0


def _formula_fault(formula: tuple[FormulaLine, ...], mix_min: float) -> str | None:
    late = [line.ingredient for line in formula if line.at_min > mix_min]
    if late:
        return f"formula: {late[0]} goes in after mixing has ended; allowed: at_min 0 to {mix_min:g}"
    names = [line.ingredient for line in formula]
    twice = [name for name in names if names.count(name) > 1]
    return f"formula: {twice[0]} stands twice; allowed: each ingredient once" if twice else None


class Preparation(Model):
    """A pre-ferment, slurry, cream or filling: a formula of its own, mixed apart and held until it is used.

    Attributes
    ----------
    line : str
        In whose dough room it is made.
    formula : tuple of FormulaLine
        Per 100 of its own flour, or, without flour, parts by mass.
    mixing : BatchStep
        At a batch station of its own. The rest and the age count from discharge to use.
    held : HeldStep or None
        Where it stands meanwhile, one batch a position.
    temperature_c : float
        Wanted at the end of mixing, °C.
    used_c : float
        When it goes into the dough, °C.
    """

    id: Id
    name: Name
    line: Id
    formula: tuple[FormulaLine, ...] = Field(min_length=1, max_length=60)
    mixing: BatchStep
    held: HeldStep | None = None
    temperature_c: Celsius
    used_c: Celsius

    @model_validator(mode="after")
    def _can_be_mixed(self) -> "Preparation":
        fault = _formula_fault(self.formula, self.mixing.mix_min)
        if fault:
            raise ValueError(fault)
        return self

    @property
    def least_hold_min(self) -> float:
        """From discharge until it may be used, min."""
        return self.mixing.rest_min + (self.held.least_min if self.held else 0)

    @property
    def most_hold_min(self) -> float:
        """From discharge until it must be used, min."""
        most = self.mixing.rest_min + self.held.most_min if self.held else self.mixing.max_age_min
        return min(self.mixing.max_age_min, most)


OddBatch = Literal["equal", "short-last", "round-up"]


class PackingUse(Model):
    """What one pack is packed in: so many of an ingredient whose role is packing."""

    item: Id
    per_pack: float = Field(ge=0.001, le=1_000)


class CarrierUse(Model):
    """Pieces that ride on a carrier from the entry of one station to the exit of another.

    Attributes
    ----------
    pieces : float
        On one carrier, counted as they enter the first station.
    """

    carrier: Id
    first: Id
    last: Id
    pieces: float = Field(ge=0.01, le=100_000)


class Product(Model):
    """What is sold, and how it is made.

    A product without a formula is cut out of another's dough: its route begins where that one's cutter is.

    Attributes
    ----------
    piece : str
        What one piece is called, for instance "ring".
    family : str
        The kind of bake it is, for instance "ring rolls"; products of a family share a kind of route.
    baked_g : float
        Mass of one piece out of the oven or fryer, without the oil it took up and what is put on it later, g.
    bake_loss : float
        Share of its mass that the piece loses in the oven or fryer.
    target_per_hour : float
        Pieces an hour wanted from the line.
    fresh_for_h : float or None
        Most hours from pack to lorry; None where its age does not matter.
    traits : frozenset of str
        Flavours, colours and seeds it leaves behind on the line.
    odd_batch : {"equal", "short-last", "round-up"}
        What to do with the last batch when demand does not fill it.
    same_as : str or None
        The product of another line that this one is sold as: the same article, made another way.
    price : float or None
        Of a pack, in the plant's currency.
    nominal_g : float or None
        What a pack weighs by its label, g; None where nothing stands there.
    best_before_days : int or None
        Days from the day a pack is made to the date on its label; None where it has none.
    """

    id: Id
    name: Name
    line: Id
    family: Name = "other"
    piece: Name = "piece"
    pieces_per_pack: int = Field(ge=1, le=10_000)
    baked_g: float = Field(ge=0.1, le=20_000)
    bake_loss: float = Field(ge=0, lt=0.6)
    dough_temperature_c: float = Field(ge=-5, le=45)
    target_per_hour: float = Field(ge=1, le=1_000_000)
    fresh_for_h: FreshFor | None = None
    traits: Names = frozenset()
    odd_batch: OddBatch = "equal"
    same_as: Id | None = None
    price: float | None = Field(default=None, ge=0, le=1_000_000)
    nominal_g: float | None = Field(default=None, ge=1, le=100_000)
    best_before_days: int | None = Field(default=None, ge=1, le=2_000)
    formula: tuple[FormulaLine, ...] = Field(default=(), max_length=60)
    route: tuple[Step, ...] = Field(min_length=1, max_length=60)
    packing: tuple[PackingUse, ...] = Field(default=(), max_length=20)
    carriers: tuple[CarrierUse, ...] = Field(default=(), max_length=10)
    _listed_id: str | None = PrivateAttr(default=None)

    @property
    def listed_id(self) -> str:
        """Its id in the library; that of the product it is made as, where it only dwells otherwise."""
        return self._listed_id or self.id

    def dwelling(self, dwell_min: Mapping[str, float]) -> "Product":
        """The product with other times at some stations, by an id of its own, and so what is cut out of it.

        Parameters
        ----------
        dwell_min : mapping of str to float
            By station, min.
        """
        mark = "".join(f" {station} {minutes:g}" for station, minutes in sorted(dwell_min.items()))
        route = tuple(_dwelling(step, dwell_min, mark) for step in self.route)
        made = self.model_copy(update={"id": self.id + mark, "route": route})
        made._listed_id = self.listed_id
        return made

    @model_validator(mode="after")
    def _ripens(self) -> "Product":
        try:
            _ = self.trough, self.piece_steps
        except InfeasibleError as error:
            raise ValueError(f"route: {error}") from None
        return self

    @model_validator(mode="after")
    def _route_makes_packs(self) -> "Product":
        kinds = [step.kind == "batch" for step in self.route]
        wanted = [bool(self.formula)] + [False] * (len(self.route) - 1)
        if kinds != wanted:
            raise ValueError(
                "route: allowed: one batch step, and that one first; a product without a formula, cut out of another's "
                "dough, has none"
            )
        if self.formula and len(self.route) == 1:
            raise ValueError("route: has only the mixing; allowed: at least one step after it")
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
        fault = _formula_fault(self.formula, self.mixing.mix_min) if self.formula else None
        if fault:
            raise ValueError(fault)
        for use in self.carriers:
            if use.first not in stations or use.last not in stations[stations.index(use.first) :]:
                raise ValueError(
                    f"carriers: {use.carrier} rides from {use.first} to {use.last}; allowed: two stations of the "
                    "route, in walking order"
                )
        bakers = [step.station for step in self.piece_steps if bakes(step)]
        if len(bakers) > 1 or (self.bake_loss and not bakers):
            raise ValueError(
                f"route: {len(bakers)} steps bake, with a bake_loss of {self.bake_loss:g}; allowed: exactly 1, or none "
                "where nothing is lost"
            )
        late = [step.station for step in self.piece_steps[self.bake_place :] if step.rework]
        if late:
            raise ValueError(
                f"route: {late[0]} gives back rework after the bake; allowed: before it, while it is dough"
            )
        cutters = [i for i, step in enumerate(self.piece_steps) if cut_out_of(step)]
        if len(cutters) > 1 or any(place >= self.bake_place for place in cutters):
            raise ValueError(
                f"route: {self.piece_steps[cutters[-1]].station} has a cut_out; allowed: at one step, before the bake"
            )
        if self.scaling_g <= 0:
            raise ValueError(f"baked_g is {self.baked_g:g}; allowed: more than what is added before baking")
        return self

    @cached_property
    def is_cut_out(self) -> bool:
        """Whether it is cut out of another product's dough."""
        return not self.formula

    @cached_property
    def mixing(self) -> BatchStep:
        """The first step."""
        first = self.route[0]
        assert isinstance(first, BatchStep)  # noqa: S101  (the validator has made sure)
        return first

    @cached_property
    def trough(self) -> HeldStep | None:
        """The hold right after mixing, where the dough ferments or rests in a trough."""
        second = self.route[1] if self.formula else None
        return second.ripened(self.dough_temperature_c) if isinstance(second, HeldStep) else None

    @cached_property
    def dough(self) -> tuple[tuple[FormulaLine, ...], BatchStep, HeldStep | None, float]:
        """All that makes its dough what it is: products for which this is the same are divided from one dough."""
        return self.formula, self.mixing, self.trough, self.dough_temperature_c

    @cached_property
    def rest_min(self) -> float:
        """Least time from discharge to the divider, min."""
        return self.mixing.rest_min + (self.trough.least_min if self.trough else 0)

    @cached_property
    def max_age_min(self) -> float:
        """Most time from discharge until the last of a dough is divided, min."""
        if self.trough is None:
            return self.mixing.max_age_min
        return min(self.mixing.max_age_min, self.mixing.rest_min + self.trough.most_min)

    @cached_property
    def piece_steps(self) -> tuple[PieceStep, ...]:
        """All steps after mixing and its trough, in order; with the limits that this dough's temperature gives them."""
        ahead = (1 if self.formula else 0) + (1 if self.trough else 0)
        later = (step for step in self.route[ahead:] if not isinstance(step, BatchStep))
        return tuple(_ripened(step, self.dough_temperature_c) for step in later)

    @cached_property
    def store_place(self) -> int | None:
        """Place among the piece steps of the store that splits the route into two legs; None where there is none."""
        return next((place for place, step in enumerate(self.piece_steps) if isinstance(step, HeldStep)), None)

    @cached_property
    def bake_place(self) -> int:
        """Place among the piece steps of the oven or fryer; the last step's where nothing is baked."""
        return next((place for place, step in enumerate(self.piece_steps) if bakes(step)), len(self.piece_steps) - 1)

    @cached_property
    def entering_g(self) -> tuple[float, ...]:
        """Mass of what each piece step takes in, one piece, g, in route order.

        Backwards from the bake: a piece enters the oven at baked / (1 − bake loss); before that, a step that
        takes n and makes m takes in m/n of what it gives out, less what it adds, more what it cuts out.
        """
        masses = [0.0] * len(self.piece_steps)
        mass = self.baked_g / (1 - self.bake_loss)
        masses[self.bake_place] = mass
        for place in range(self.bake_place - 1, -1, -1):
            step = self.piece_steps[place]
            found = cut_out_of(step)
            cut_g = found.grams if found else 0.0
            mass = (mass - step.added_g + cut_g) / float(step.conversion)
            masses[place] = mass
        mass = self.baked_g
        for place in range(self.bake_place, len(self.piece_steps)):
            step = self.piece_steps[place]
            if place > self.bake_place:
                masses[place] = mass
                mass *= float(step.conversion)
            mass += step.added_g
        return tuple(masses)

    @cached_property
    def finished_g(self) -> float:
        """Mass of what the last step gives out, g: one pack without its packing."""
        last = self.piece_steps[-1]
        if self.bake_place == len(self.piece_steps) - 1:
            return self.baked_g + last.added_g
        return self.entering_g[-1] * float(last.conversion) + last.added_g

    @cached_property
    def scaling_g(self) -> float:
        """Scaling weight, g: dough in one piece as it enters the first step after mixing."""
        return self.entering_g[0]

    @cached_property
    def scaled_per_pack(self) -> Fraction:
        """Pieces to scale for one good pack, exactly: conversions over yields, all steps."""
        return prod((step.taken_for_one for step in self.piece_steps), start=Fraction(1))

    @cached_property
    def taken_per_finished(self) -> tuple[Fraction, ...]:
        """What each piece step takes in for one finished piece, exactly, in route order."""
        needs: list[Fraction] = []
        need = Fraction(1, self.pieces_per_pack)
        for step in reversed(self.piece_steps):
            need *= step.taken_for_one
            needs.append(need)
        return tuple(reversed(needs))

    @cached_property
    def per_scaled(self) -> dict[str, float]:
        """What enters each station for one piece scaled, by station."""
        needs = self.taken_per_finished
        return {step.station: float(need / needs[0]) for step, need in zip(self.piece_steps, needs, strict=True)}

    @property
    def pieces(self) -> str:
        """What several pieces are called: loaves, boxes, rings."""
        if self.piece.endswith("f"):
            return f"{self.piece[:-1]}ves"
        return f"{self.piece}es" if self.piece.endswith(("s", "x", "ch", "sh")) else f"{self.piece}s"

    @cached_property
    def cut_out(self) -> tuple[int, CutOut] | None:
        """What is cut out, and at which of the piece steps."""
        for place, step in enumerate(self.piece_steps):
            found = cut_out_of(step)
            if found:
                return place, found
        return None

    @cached_property
    def reworked_g(self) -> float:
        """Dough that goes back for one piece scaled, g: rejects before baking, and what is cut out and not sold."""
        back, flow = 0.0, 1.0
        for place, step in enumerate(self.piece_steps[: self.bake_place]):
            made = flow / float(step.conversion)
            found = cut_out_of(step)
            if found and found.product is None:
                back += made * found.grams
            rejected = made * (1 - step.yield_)
            back += rejected * step.rework * self.entering_g[place + 1]
            flow = made * step.yield_
        return back


def _ripened(step: PieceStep, dough_c: float) -> PieceStep:
    """A step with the limits on the clock that its ripening gives."""
    return step.ripened(dough_c) if isinstance(step, (HeldStep, DwellStep)) else step


def _dwelling(step: Step, dwell_min: Mapping[str, float], mark: str) -> Step:
    """A step with another time, what it cuts out marked."""
    if isinstance(step, BatchStep):
        return step
    found = cut_out_of(step)
    if found and found.product:
        return step.model_copy(update={"cut_out": found.model_copy(update={"product": found.product + mark})})
    return step.with_dwell(dwell_min[step.station]) if step.station in dwell_min else step
