"""The plant: its lines, the stations of a line in walking order, its carriers, and its materials.

A station is described once, by what it is (`kinds` has one module for each kind); what a product asks of it
stands in the product's route.
"""

from collections.abc import Iterator
from functools import cached_property
from typing import Annotated, Any, Literal

from pydantic import Field, StringConstraints, model_validator

from rundgang.core.cautions import Hazard
from rundgang.core.conditions import RoomModel
from rundgang.core.kinds.batch import BatchStation
from rundgang.core.kinds.every import AnyStation, PieceStation, PieceStep, Station, operation
from rundgang.core.kinds.held import HeldStation
from rundgang.core.kinds.operation import Operation
from rundgang.core.model import Id, Minutes, Model, Name, Names, Text


class Carrier(Model):
    """What goes round with the pieces: tins, straps, trays, boards, racks.

    Attributes
    ----------
    count : int
        How many there are.
    return_min : float
        From when it is emptied until it stands ready again, min.
    """

    id: Id
    name: Name
    count: int = Field(ge=1, le=10_000_000)
    return_min: Minutes


class Line(Model):
    """A continuous line: its stations in the order one walks past them, the dough room's first."""

    id: Id
    name: Name
    stations: tuple[Station, ...] = Field(min_length=2, max_length=60)
    carriers: tuple[Carrier, ...] = Field(default=(), max_length=50)

    @model_validator(mode="after")
    def _dough_room_first(self) -> "Line":
        for what, ids in (
            ("stations", [station.id for station in self.stations]),
            ("carriers", [carrier.id for carrier in self.carriers]),
        ):
            if len(set(ids)) != len(ids):
                raise ValueError(f"{what}: two have the same id; allowed: each id once")
        kinds = [station.kind for station in self.stations]
        after = next((place for place, kind in enumerate(kinds) if kind not in {"batch", "held"}), len(kinds))
        if kinds[0] != "batch" or "batch" in kinds[after:]:
            raise ValueError(
                "stations: allowed: a batch station first, and all batch stations before the first machine or belt"
            )
        mixers = [mixer for station in self.batch_stations for mixer in station.mixers]
        if len(set(mixers)) != len(mixers):
            raise ValueError("stations: two mixers of the line have the same name; allowed: each name once")
        return self

    def station(self, station_id: str) -> AnyStation:
        """The station of that id."""
        return self._stations[station_id]

    @cached_property
    def _stations(self) -> dict[str, AnyStation]:
        return {station.id: station for station in self.stations}

    def piece_station(self, station_id: str) -> PieceStation:
        """The station of that id, which is not the mixers."""
        station = self.station(station_id)
        assert not isinstance(station, BatchStation)  # noqa: S101  (the scenario has matched steps and stations)
        return station

    def operation(self, step: PieceStep) -> Operation[Any, Any]:
        """A step of a route, done at its station of this line."""
        return operation(step, self.piece_station(step.station))

    def mixers(self, station_id: str) -> BatchStation:
        """The batch station of that id."""
        station = self.station(station_id)
        assert isinstance(station, BatchStation)  # noqa: S101  (the scenario has matched steps and stations)
        return station

    def holder(self, station_id: str) -> HeldStation:
        """The station of that id, which holds doughs or pieces."""
        station = self.station(station_id)
        assert isinstance(station, HeldStation)  # noqa: S101  (the scenario has matched steps and stations)
        return station

    def unit_station(self, station_id: str) -> BatchStation | HeldStation:
        """The station of that id, whose units take one batch each."""
        station = self.station(station_id)
        assert isinstance(station, (BatchStation, HeldStation))  # noqa: S101  (the scenario has matched them)
        return station

    def carrier(self, carrier_id: str) -> Carrier:
        """The carrier of that id."""
        return next(carrier for carrier in self.carriers if carrier.id == carrier_id)

    @property
    def batch_stations(self) -> tuple[BatchStation, ...]:
        """The dough room's mixers, kettles and whippers."""
        return tuple(station for station in self.stations if isinstance(station, BatchStation))

    @property
    def piece_stations(self) -> tuple[PieceStation, ...]:
        """The stations that pieces pass, in walking order."""
        return tuple(station for station in self.stations if not isinstance(station, BatchStation))


class Ingredient(Model):
    """A material: weighed into a dough, put on a piece, or packed around it.

    Attributes
    ----------
    role : {"flour", "water", "other", "packing"}
        Flour is the 100 % of a formula; water is what corrects the dough's temperature; packing is counted
        in pieces, all else in kilograms.
    allergens : frozenset of str
        What must be declared and cleaned away.
    scale_step_g : int
        Resolution of the scale or meter it is weighed on, g.
    tolerance_pct : float
        What is weighed may be off by so much of it without a reason, %.
    blends_kg : float
        Of two lots in its silo or tank so much on either side of where they meet is a blend of both; 0 where each lot
        stands by itself.
    hazards : tuple of str
        What can hurt someone who handles it; flour's dust is known.
    price : float or None
        Of a kilogram, or of a piece of packing, in the plant's currency.
    """

    id: Id
    name: Name
    role: Literal["flour", "water", "other", "packing"] = "other"
    allergens: Names = frozenset()
    scale_step_g: int = Field(default=10, ge=1, le=10_000)
    tolerance_pct: float = Field(default=1.0, ge=0, le=20)
    blends_kg: float = Field(default=0.0, ge=0, le=100_000)
    hazards: tuple[Hazard, ...] = Field(default=(), max_length=12)
    price: float | None = Field(default=None, ge=0, le=1_000_000)


class HumidityRule(Model):
    """The plant's rule of thumb: so many per cent less water for every 10 points of room humidity above its reference.

    Attributes
    ----------
    reference_pct : float
        Relative humidity at which the formulas are right, %.
    percent_per_ten : float
        Water to leave out for 10 points more, %.
    """

    reference_pct: float = Field(ge=0, le=100)
    percent_per_ten: float = Field(ge=0, le=20)


class Crew(Model):
    """People who go where they are needed, counted over all lines; what an hour of one costs, where that is known."""

    id: Id
    name: Name
    people: int = Field(ge=1, le=5_000)
    per_h: float | None = Field(default=None, ge=0, le=1_000_000)


class StationRef(Model):
    """A station of a line."""

    line: Id
    station: Id


class Shared(Model):
    """One and the same station, named in the walking order of several lines.

    Mixers and troughs are counted together; a machine, belt or bench takes one run at a time, whichever line it
    comes from.
    """

    id: Id
    name: Name
    stations: tuple[StationRef, ...] = Field(min_length=2, max_length=50)


class IceMachine(Model):
    """What makes the dough room's ice.

    Attributes
    ----------
    kg_per_h : float
    bin_kg : float
        What its bin holds; it is full when the window starts.
    """

    kg_per_h: float = Field(ge=0, le=100_000)
    bin_kg: float = Field(ge=0, le=1_000_000)


class Plant(Model):
    """A plant: where it is, its materials, its lines, and the rules it keeps for itself.

    Attributes
    ----------
    room : RoomModel or None
        How the dough room follows the weather; None where it does not.
    weights_by : {"average quantity", "maximum variation"}
        The legal system that its packs' weights are under; local law decides.
    clears_packs : bool
        Whether packs are loaded only once quality control has cleared them.
    currency : str or None
        Of all prices, for instance EUR; None where no money is shown.
    energy_per_kwh : float or None
        What a kilowatt-hour of heat costs.
    """

    name: Name
    town: Name
    time_zone: Name = Field(description="IANA name, for instance Europe/Vienna")
    ingredients: tuple[Ingredient, ...] = Field(min_length=1, max_length=2_000)
    lines: tuple[Line, ...] = Field(min_length=1, max_length=50)
    crews: tuple[Crew, ...] = Field(default=(), max_length=50)
    shared: tuple[Shared, ...] = Field(default=(), max_length=200)
    humidity_rule: HumidityRule | None = None
    ice_machine: IceMachine | None = None
    room: RoomModel | None = None
    weights_by: Literal["average quantity", "maximum variation"] = "average quantity"
    clears_packs: bool = False
    currency: Annotated[Text, StringConstraints(min_length=1, max_length=8)] | None = None
    energy_per_kwh: float | None = Field(default=None, ge=0, le=1_000)

    def shared_as(self, line_id: str, station_id: str) -> Shared | None:
        """What a line's station is shared as, if it is."""
        return self._shared_by.get((line_id, station_id))

    def called_on(self, line_id: str, station: StationRef) -> str | None:
        """What a line calls a station of any line; None where it does not have it."""
        if station.line == line_id:
            return station.station
        shared = self.shared_as(station.line, station.station)
        return next((ref.station for ref in shared.stations if ref.line == line_id), None) if shared else None

    @cached_property
    def _shared_by(self) -> dict[tuple[str, str], Shared]:
        return {(ref.line, ref.station): shared for shared in self.shared for ref in shared.stations}

    @model_validator(mode="after")
    def _shared_agree(self) -> "Plant":
        faults = (*_crew_faults(self), *_shared_faults(self))
        if faults:
            raise ValueError("\n".join(faults))
        return self


def _crew_faults(plant: Plant) -> Iterator[str]:
    """Every crew is there once, and has the people that a station needs."""
    sizes = {crew.id: crew.people for crew in plant.crews}
    if len(sizes) < len(plant.crews):
        yield "crews: two have the same id; allowed: each id once"
    for line in plant.lines:
        for station in line.stations:
            use = station.staffed
            if use is None:
                continue
            where = f"{line.name}, {station.name}: staffed"
            if isinstance(station, BatchStation):
                yield f"{where} by {use.crew}; allowed: at stations that pieces pass"
            elif use.crew not in sizes:
                yield f"{where} by {use.crew}; allowed: {', '.join(sizes) or 'none, the plant has no crews'}"
            elif use.people > sizes[use.crew]:
                yield f"{where} by {use.people} of {use.crew}; allowed: at most {sizes[use.crew]}"


def _shared_faults(plant: Plant) -> Iterator[str]:
    """Every shared station stands on other lines than itself, once, and is the same on all of them."""
    stations = {(line.id, station.id): station for line in plant.lines for station in line.stations}
    seen: set[StationRef] = set()
    for shared in plant.shared:
        where = f"shared.{shared.id}"
        unknown = [ref for ref in shared.stations if (ref.line, ref.station) not in stations]
        if unknown:
            yield f"{where} names {unknown[0].station} of {unknown[0].line}; allowed: stations of the plant's lines"
            continue
        if len({ref.line for ref in shared.stations}) < len(shared.stations) or seen & {*shared.stations}:
            yield f"{where}: a line or a station stands twice; allowed: one station of each line, shared once"
        seen |= {*shared.stations}
        members = [stations[ref.line, ref.station] for ref in shared.stations]
        alike = [member.model_copy(update={"id": "", "name": "", "transfer_min": 0}) for member in members]
        if any(member != alike[0] for member in alike):
            yield f"{where}: its stations differ; allowed: the same kind, units and changeover on every line"
