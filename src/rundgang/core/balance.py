"""Line balance: what every gate can carry, which one is the narrowest, and what stands inside at a pace.

All gates are brought to one measure, *finished pieces an hour*: a gate's own capacity, divided by what it
must take in for one finished piece. Gates are the stations of the product's route, the mixers and troughs
of its preparations, and the carriers that go round. The line's pace is the least of them, and that gate is
the bottleneck (W. J. Hopp and M. L. Spearman, Factory Physics). What stands inside at a pace follows from
Little's law, pieces inside = flow x dwell (J. D. C. Little, Operations Research 9, 1961).
"""

from collections.abc import Iterator
from fractions import Fraction
from typing import Literal, NamedTuple

from rundgang.core.capacity import (
    DoughBounds,
    batch_capacity,
    carried_min,
    carrier_capacity,
    dough_bounds,
    dwell_of,
    held_capacity,
    passed,
    piece_capacity,
    pieces_inside,
    pieces_of,
    places_for,
    transit_min,
    whole_machines,
)
from rundgang.core.cautions import Caution, Hazard, cautions_for
from rundgang.core.errors import OutOfRangeError
from rundgang.core.figure import Figure
from rundgang.core.gates import figures_of
from rundgang.core.model import Model
from rundgang.core.plant import (
    BatchStation,
    BenchStation,
    ConveyorStation,
    HeldStation,
    Line,
    PieceStation,
    RateStation,
)
from rundgang.core.products import Preparation, Product
from rundgang.core.scenario import Scenario
from rundgang.core.steps import BenchStep, HeldStep, PieceStep, RateStep
from rundgang.core.units import GRAMS_PER_KG, MINUTES_PER_HOUR

MOST_PACE = 1_000_000

Counted = Literal["pieces", "kg", "carriers"]


class Stage(Model):
    """One gate of a line, balanced for a product.

    Attributes
    ----------
    station : str
        The station, or the carrier.
    counted : {"pieces", "kg", "carriers"}
        What is counted at its entry.
    taken_per_piece : float
        What comes in here for one finished piece.
    capacity_in_per_h : float
        Most it can take in at its own entry, an hour.
    capacity_per_h : float
        The same in finished pieces/h.
    utilisation : float
        Pace / capacity.
    dwell_min : float
        Time inside, min.
    inside : float
        Inside at the pace, of what is counted.
    machines, machines_needed : int
        There are, and are needed for the pace; a belt or a room counts as one.
    machines_are : str
        What is counted: mixers, machines, belts, rooms, troughs or people.
    belt_m_per_min : float or None
        Belt speed, where there is a belt.
    arithmetic : str
        The capacity's equation with its figures.
    figures : tuple of Figure
        What else there is to know of it at the pace: oven loading and heat, oil, cooling.
    """

    station: str
    name: str
    kind: str
    counted: Counted
    taken_per_piece: float
    capacity_in_per_h: float
    capacity_per_h: float
    utilisation: float
    dwell_min: float
    inside: float
    machines: int
    machines_needed: int
    machines_are: str
    belt_m_per_min: float | None
    arithmetic: str
    figures: tuple[Figure, ...] = ()
    cautions: tuple[Caution, ...] = ()


class Lift(Model):
    """What one change at a gate would do for the pace, and which gate is the narrowest then."""

    station: str
    change: str
    pace_per_h: float
    then_station: str


class LineBalance(Model):
    """A line balanced for one product.

    Attributes
    ----------
    most_per_h : float
        The most the line can carry, finished pieces/h.
    least_per_h : float
        The slowest pace at which the smallest dough is still divided in time, finished pieces/h.
    pace_per_h : float
        The pace all stages are shown at, finished pieces/h.
    bottleneck : str
        Station that sets `most_per_h`.
    batch_kg : float
        The largest dough.
    batch_because : str
        What keeps it from being larger.
    batch_pieces : int
        Pieces scaled from one batch.
    batch_interval_min : float
        Minutes from one dough to the next at the pace.
    flour_to_pack_min, flour_to_last_pack_min : float
        From charging a dough to the pack of its first and of its last piece, min.
    rework_kg_per_h : float
        Dough that goes back at the pace, kg/h.
    """

    line: str
    product: str
    most_per_h: float
    least_per_h: float
    pace_per_h: float
    packs_per_h: float
    bottleneck: str
    stages: tuple[Stage, ...]
    batch_kg: float
    batch_because: str
    batch_pieces: int
    batch_interval_min: float
    mixers_needed: int
    flour_to_pack_min: float
    flour_to_last_pack_min: float
    rework_kg_per_h: float
    lifts: tuple[Lift, ...]


class _Gate(NamedTuple):
    """A gate before a pace is chosen."""

    place: float
    station: str
    name: str
    kind: str
    counted: Counted
    taken: float
    capacity: float
    dwell_min: float
    machines: int
    machines_are: str
    arithmetic: str
    hazards: tuple[Hazard, ...]
    step: PieceStep | None = None

    @property
    def finished(self) -> float:
        """Capacity in finished pieces/h."""
        return self.capacity / self.taken


def balance(scenario: Scenario, product_id: str, pace_per_h: float | None = None) -> LineBalance:
    """Balance a line for a product.

    Parameters
    ----------
    scenario : Scenario
        The plant and its products.
    product_id : str
        Whose route is balanced.
    pace_per_h : float, optional
        Pace to show the stages at, finished pieces/h; by default the product's target, as far as the
        line can carry it. A pace above what the line carries is answered too: the stages then say how
        many machines it would need.

    Raises
    ------
    UnknownItemError
        No such product.
    OutOfRangeError
        The pace is not above 0 and at most 1,000,000 pieces/h.
    InfeasibleError
        No dough of even one piece can be mixed, held and divided in time.
    """
    product = scenario.whole(scenario.product(product_id))
    line = scenario.line_of(product)
    if pace_per_h is not None and not 0 < pace_per_h <= MOST_PACE:
        raise OutOfRangeError("The pace", f"{pace_per_h:g} pieces/h", f"above 0, at most {MOST_PACE:,}")
    bounds = dough_bounds(scenario, product)
    batch_pieces = pieces_of(product, bounds.most.kg)
    gates = _gates(scenario, line, product, batch_pieces)
    narrowest = min(gates, key=lambda gate: gate.finished)
    pace = pace_per_h if pace_per_h is not None else min(narrowest.finished, product.target_per_hour)
    scaled = float(product.taken_per_finished[0])
    interval = MINUTES_PER_HOUR * batch_pieces / (pace * scaled)
    first_pack = product.mixing.cycle_min + product.rest_min + transit_min(line, product)
    return LineBalance(
        line=line.id,
        product=product.id,
        most_per_h=narrowest.finished,
        least_per_h=_least_pace(product, bounds, scaled),
        pace_per_h=pace,
        packs_per_h=pace / product.pieces_per_pack,
        bottleneck=narrowest.station,
        stages=tuple(_stage(scenario, line, product, gate, pace) for gate in gates),
        batch_kg=bounds.most.kg,
        batch_because=bounds.most.because,
        batch_pieces=batch_pieces,
        batch_interval_min=interval,
        mixers_needed=whole_machines(product.mixing.cycle_min, interval),
        flour_to_pack_min=first_pack,
        flour_to_last_pack_min=first_pack + interval,
        rework_kg_per_h=pace * scaled * product.reworked_g / GRAMS_PER_KG,
        lifts=_lifts(gates),
    )


def _least_pace(product: Product, bounds: DoughBounds, scaled_per_finished: float) -> float:
    """Pace at which the smallest dough just passes the divider within its age, finished pieces/h."""
    window_h = (product.max_age_min - product.rest_min) / MINUTES_PER_HOUR
    return bounds.least.kg * GRAMS_PER_KG / product.scaling_g / window_h / scaled_per_finished


def _gates(scenario: Scenario, line: Line, product: Product, batch_pieces: int) -> tuple[_Gate, ...]:
    """Every gate, in the order one walks past them."""
    needs = product.taken_per_finished
    places = {station.id: place for place, station in enumerate(line.stations)}
    scaled = float(needs[0])
    found = [_mixing_gate(line, product, batch_pieces, scaled, places)]
    if product.trough:
        found.append(_trough_gate(line, product, batch_pieces, scaled, places))
    for made, share in scenario.preparations_in(product):
        dough_kg = product.scaling_g / GRAMS_PER_KG
        batch_kg = share * batch_pieces * dough_kg
        found += _preparation_gates(line, made, batch_kg, share * dough_kg * scaled, places)
    for step, per_scaled in passed(scenario, product):
        found.append(_piece_gate(line, step, per_scaled * scaled, places))
    for step, need in zip(product.piece_steps, needs, strict=True):
        for addition in step.adds:
            if scenario.is_preparation(addition.item):
                made = scenario.preparation(addition.item)
                per_finished = float(need / step.conversion) * addition.grams / GRAMS_PER_KG
                batch_kg = line.mixers(made.mixing.station).max_fill_kg
                found += _preparation_gates(line, made, batch_kg, per_finished, places)
    found += _carrier_gates(line, product, needs, places)
    return tuple(sorted(found, key=lambda gate: gate.place))


def _mixing_gate(line: Line, product: Product, pieces: int, scaled: float, places: dict[str, int]) -> _Gate:
    station, cycle = line.mixers(product.mixing.station), product.mixing.cycle_min
    count = len(station.mixers)
    return _Gate(
        place=places[station.id],
        station=station.id,
        name=station.name,
        kind="batch",
        counted="pieces",
        taken=scaled,
        capacity=batch_capacity(count, pieces, cycle),
        dwell_min=cycle,
        machines=count,
        machines_are="mixers",
        arithmetic=f"60 × {count} mixers × {pieces:,} pieces ÷ {cycle:g} min",
        hazards=_mixing_hazards(station, product.mixing.dry_ice_pct),
    )


def _mixing_hazards(station: BatchStation, dry_ice_pct: float) -> tuple[Hazard, ...]:
    always: tuple[Hazard, ...] = ("mixer",)
    return (*always, *(("dry-ice",) if dry_ice_pct else ()), *station.hazards)


def _trough_gate(line: Line, product: Product, pieces: int, scaled: float, places: dict[str, int]) -> _Gate:
    assert product.trough is not None  # noqa: S101  (the caller has looked)
    station, hold = line.holder(product.trough.station), product.trough.least_min
    return _held_gate(station, hold, float(pieces), "pieces", scaled, places)


def _held_gate(
    station: HeldStation, hold_min: float, each: float, counted: Counted, taken: float, places: dict[str, int]
) -> _Gate:
    positions = f"{station.position}s"
    return _Gate(
        place=places[station.id],
        station=station.id,
        name=station.name,
        kind="held",
        counted=counted,
        taken=taken,
        capacity=held_capacity(station.positions, each, hold_min, station.turn_round_min),
        dwell_min=hold_min,
        machines=station.positions,
        machines_are=positions,
        arithmetic=(
            f"60 × {station.positions} {positions} × {each:,.0f} {counted} ÷ ({hold_min:g} + "
            f"{station.turn_round_min:g} min)"
        ),
        hazards=station.hazards,
    )


def _preparation_gates(
    line: Line, made: Preparation, batch_kg: float, kg_per_finished: float, places: dict[str, int]
) -> Iterator[_Gate]:
    """The mixing of a preparation and where it is held, in kilograms."""
    kettle, cycle = line.mixers(made.mixing.station), made.mixing.cycle_min
    count = len(kettle.mixers)
    yield _Gate(
        place=places[kettle.id],
        station=kettle.id,
        name=f"{kettle.name}: {made.name}",
        kind="batch",
        counted="kg",
        taken=kg_per_finished,
        capacity=batch_capacity(count, batch_kg, cycle),
        dwell_min=cycle,
        machines=count,
        machines_are="mixers",
        arithmetic=f"60 × {count} mixers × {batch_kg:,.0f} kg ÷ {cycle:g} min",
        hazards=_mixing_hazards(kettle, made.mixing.dry_ice_pct),
    )
    if made.held:
        holder = line.holder(made.held.station)
        yield _held_gate(holder, made.held.least_min, batch_kg, "kg", kg_per_finished, places)


def _piece_gate(line: Line, step: PieceStep, taken: float, places: dict[str, int]) -> _Gate:
    station = line.piece_station(step.station)
    machines, unit = _machines(station)
    return _Gate(
        place=places[station.id],
        station=station.id,
        name=station.name,
        kind=station.kind,
        counted="pieces",
        taken=taken,
        capacity=piece_capacity(step, station),
        dwell_min=dwell_of(step, station),
        machines=machines,
        machines_are=unit,
        arithmetic=_arithmetic(step, station),
        hazards=station.hazards,
        step=step,
    )


def _carrier_gates(
    line: Line, product: Product, needs: tuple[Fraction, ...], places: dict[str, int]
) -> Iterator[_Gate]:
    """Carriers in circulation: needed = pace x (time on it + return) / pieces on one."""
    needed_by = {step.station: float(need) for step, need in zip(product.piece_steps, needs, strict=True)}
    for use in product.carriers:
        if use.first not in needed_by:
            continue
        carrier, ridden = line.carrier(use.carrier), carried_min(line, product, use)
        yield _Gate(
            place=places[use.first] - 0.5,
            station=carrier.id,
            name=carrier.name,
            kind="carriers",
            counted="pieces",
            taken=needed_by[use.first],
            capacity=carrier_capacity(line, product, use),
            dwell_min=ridden + carrier.return_min,
            machines=carrier.count,
            machines_are="carriers",
            arithmetic=(
                f"60 × {carrier.count:,} × {use.pieces:g} pieces ÷ ({ridden:g} min ridden + {carrier.return_min:g} "
                "min back)"
            ),
            hazards=(),
        )


def _stage(scenario: Scenario, line: Line, product: Product, gate: _Gate, pace: float) -> Stage:
    flow = pace * gate.taken
    station = None if gate.kind == "carriers" else line.station(gate.station)
    belt = station.length_m / gate.dwell_min if isinstance(station, ConveyorStation) else None
    return Stage(
        station=gate.station,
        name=gate.name,
        kind=gate.kind,
        counted=gate.counted,
        taken_per_piece=gate.taken,
        capacity_in_per_h=gate.capacity,
        capacity_per_h=gate.finished,
        utilisation=flow / gate.capacity,
        dwell_min=gate.dwell_min,
        inside=pieces_inside(flow, gate.dwell_min),
        machines=gate.machines,
        machines_needed=whole_machines(flow, gate.capacity / gate.machines),
        machines_are=gate.machines_are,
        belt_m_per_min=belt,
        arithmetic=f"{gate.arithmetic} = {gate.capacity:,.0f} {gate.counted} an hour at its entry",
        figures=figures_of(scenario, product, gate.step, flow) if gate.step else (),
        cautions=cautions_for(gate.hazards),
    )


def _arithmetic(step: PieceStep, station: PieceStation) -> str:
    if isinstance(step, RateStep) and isinstance(station, RateStation):
        return (
            f"60 × {station.machines} × {station.lanes} lanes × {step.strokes_per_min:g} strokes/min "
            f"× {station.efficiency:g} efficiency"
        ) + (f" × {step.takes} pieces" if step.takes > 1 else "")
    if isinstance(step, BenchStep) and isinstance(station, BenchStation):
        return f"60 × {station.people} people × {step.pieces_per_person_min:g} pieces a minute"
    if isinstance(step, HeldStep) and isinstance(station, HeldStation):
        return (
            f"60 × {station.positions} {station.position}s × {step.pieces_per_position:g} pieces ÷ "
            f"({step.least_min:g} + {station.turn_round_min:g} min)"
        )
    return f"60 × {places_for(step, station):,.0f} places ÷ {dwell_of(step, station):.4g} min"


def _machines(station: PieceStation) -> tuple[int, str]:
    """How many of what work side by side at a station; a belt or a chamber counts as one."""
    if isinstance(station, RateStation):
        return station.machines, "machines"
    if isinstance(station, BenchStation):
        return station.people, "people"
    if isinstance(station, HeldStation):
        return station.positions, f"{station.position}s"
    return 1, "belts" if isinstance(station, ConveyorStation) else "rooms"


TENTH = 0.1
"""A belt is rarely doubled, and a cycle never halved; the question asked is what a tenth would give."""

NARROWEST_ASKED = 3


def _lifts(gates: tuple[_Gate, ...]) -> tuple[Lift, ...]:
    """What single changes at the three narrowest gates would lift the pace to, best first."""
    lifts = []
    for gate in sorted(gates, key=lambda gate: gate.finished)[:NARROWEST_ASKED]:
        for change, factor in _changes(gate):
            paces = [(g.finished * (factor if g is gate else 1), g.station) for g in gates]
            pace, then = min(paces, key=lambda pair: pair[0])
            lifts.append(Lift(station=gate.station, change=change, pace_per_h=pace, then_station=then))
    return tuple(sorted(lifts, key=lambda lift: -lift.pace_per_h))


def _changes(gate: _Gate) -> Iterator[tuple[str, float]]:
    """Changes that one could make at a gate, and what each multiplies its capacity by."""
    if gate.kind in {"conveyor", "chamber"}:
        yield f"{gate.name} a tenth larger", 1 + TENTH
        return
    if gate.kind == "carriers":
        yield f"a tenth more of {gate.name}", 1 + TENTH
        return
    more = (gate.machines + 1) / gate.machines
    yield f"{gate.machines + 1} {gate.machines_are} at {gate.name} instead of {gate.machines}", more
    if gate.kind == "batch":
        yield f"a cycle one tenth shorter at {gate.name}", 1 / (1 - TENTH)
