"""The plant: its lines, the stations of a line in walking order, and the ingredients in its stores.

A station is described once, by what it is; what a product asks of it stands in the product's route.
The mixers work in *batches*, a machine with lanes and strokes works at a *rate*, a belt on which pieces
dwell is a *conveyor*, a room of racks is a *chamber*, and a *bench* is people working by hand.
"""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from rundgang.core.model import Id, Minutes, Model, Name, Share


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


class _Station(Model):
    id: Id
    name: Name
    changeover: Changeover = Changeover()
    transfer_min: Minutes = Field(default=0, description="carried from here to the next station, min")


class BatchStation(_Station):
    """Mixers of one size working side by side.

    Attributes
    ----------
    mixers : tuple of str
        Their names, as painted on them.
    min_fill_kg, max_fill_kg : float
        The smallest and the largest dough that mixes properly, kg.
    """

    kind: Literal["batch"] = "batch"
    mixers: tuple[Name, ...] = Field(min_length=1, max_length=26)
    min_fill_kg: float = Field(ge=0.001, le=5_000)
    max_fill_kg: float = Field(ge=0.001, le=5_000)

    @model_validator(mode="after")
    def _fills_in_order(self) -> "BatchStation":
        if self.min_fill_kg > self.max_fill_kg:
            raise ValueError(f"min_fill_kg is {self.min_fill_kg:g}; allowed: at most max_fill_kg, {self.max_fill_kg:g}")
        if len(set(self.mixers)) != len(self.mixers):
            raise ValueError("mixers: two have the same name; allowed: each name once")
        return self


class RateStation(_Station):
    """Machines that take pieces in lanes, stroke by stroke.

    Attributes
    ----------
    machines, lanes : int
        Side by side.
    efficiency : float
        Share of the strokes that make a good piece, 0 to 1.
    pass_min : float
        How long one piece is inside, min.
    """

    kind: Literal["rate"] = "rate"
    machines: int = Field(default=1, ge=1, le=100)
    lanes: int = Field(default=1, ge=1, le=200)
    efficiency: Share = 1
    pass_min: Minutes = 0


class ConveyorStation(_Station):
    """A belt of fixed length and one speed: proofer, oven, cooling conveyor.

    Attributes
    ----------
    places : int
        Pieces the belt holds, at one piece a place.
    length_m : float
        Belt length, m.
    setup_min : float
        To set a new belt speed or climate once the belt is empty, min.
    heating_c_per_min, cooling_c_per_min : float or None
        How fast an oven's temperature can be raised and lowered; None where nothing is heated.
    """

    kind: Literal["conveyor"] = "conveyor"
    places: int = Field(ge=1, le=1_000_000)
    length_m: float = Field(ge=0.01, le=5_000)
    setup_min: Minutes = 0
    heating_c_per_min: float | None = Field(default=None, ge=0.01, le=100)
    cooling_c_per_min: float | None = Field(default=None, ge=0.01, le=100)


class ChamberStation(_Station):
    """A room of racks in which pieces dwell on trays: each rack comes and goes by itself.

    Attributes
    ----------
    racks, trays_per_rack : int
        How many trays the room holds.
    setup_min : float
        To set another climate once the room is empty, min.
    """

    kind: Literal["chamber"] = "chamber"
    racks: int = Field(ge=1, le=10_000)
    trays_per_rack: int = Field(ge=1, le=1_000)
    setup_min: Minutes = 0

    @property
    def trays(self) -> int:
        """Trays the room holds."""
        return self.racks * self.trays_per_rack


class BenchStation(_Station):
    """People side by side: headcount is the capacity.

    Attributes
    ----------
    people : int
        At the bench.
    pass_min : float
        How long one piece is in hand, min.
    """

    kind: Literal["bench"] = "bench"
    people: int = Field(ge=1, le=500)
    pass_min: Minutes = 0


PieceStation = RateStation | ConveyorStation | ChamberStation | BenchStation
AnyStation = BatchStation | PieceStation
Station = Annotated[AnyStation, Field(discriminator="kind")]


class Line(Model):
    """A continuous line: its stations in the order one walks past them, mixers first."""

    id: Id
    name: Name
    stations: tuple[Station, ...] = Field(min_length=2, max_length=60)

    @model_validator(mode="after")
    def _mixers_first(self) -> "Line":
        ids = [station.id for station in self.stations]
        if len(set(ids)) != len(ids):
            raise ValueError("stations: two have the same id; allowed: each id once")
        if [station.kind == "batch" for station in self.stations] != [True] + [False] * (len(ids) - 1):
            raise ValueError("stations: allowed: one batch station, and that one first")
        return self

    def station(self, station_id: str) -> AnyStation:
        """The station of that id."""
        return next(station for station in self.stations if station.id == station_id)

    def piece_station(self, station_id: str) -> PieceStation:
        """The station of that id, which is not the mixers."""
        station = self.station(station_id)
        assert not isinstance(station, BatchStation)  # noqa: S101  (a route passes the mixers only first)
        return station

    @property
    def mixers(self) -> BatchStation:
        """The batch station every route on this line begins with."""
        first = self.stations[0]
        assert isinstance(first, BatchStation)  # noqa: S101  (the validator has made sure)
        return first


class Ingredient(Model):
    """Something weighed into a dough.

    Attributes
    ----------
    role : {"flour", "water", "other"}
        Flour is the 100 % of a formula; water is what corrects the dough's temperature.
    allergens : frozenset of str
        What must be declared and cleaned away.
    scale_step_g : int
        Resolution of the scale or meter it is weighed on, g.
    """

    id: Id
    name: Name
    role: Literal["flour", "water", "other"] = "other"
    allergens: frozenset[Name] = frozenset()
    scale_step_g: int = Field(default=10, ge=1, le=10_000)


class Plant(Model):
    """A plant: where it is, what it stores, and its lines."""

    name: Name
    town: Name
    time_zone: Name = Field(description="IANA name, for instance Europe/Vienna")
    ingredients: tuple[Ingredient, ...] = Field(min_length=1, max_length=2_000)
    lines: tuple[Line, ...] = Field(min_length=1, max_length=50)
