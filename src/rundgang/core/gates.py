"""The gates of a line for one product: all that a piece, its dough and its carriers must pass.

Gates are the stations of the product's way, the mixers and troughs of its preparations, what is cut out of
it, and the carriers that go round; each with what it takes in for one finished piece and the most it can take.
"""

from collections.abc import Iterator
from fractions import Fraction
from typing import Literal, NamedTuple

from rundgang.core.capacity import carried, carrier_capacity, passed
from rundgang.core.cautions import Hazard
from rundgang.core.kinds.batch import BatchStation, batch_capacity
from rundgang.core.kinds.every import PieceStep
from rundgang.core.kinds.held import HeldStation, held_capacity
from rundgang.core.plant import Line
from rundgang.core.products import Preparation, Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import GRAMS_PER_KG

Counted = Literal["pieces", "kg"]


class Gate(NamedTuple):
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
    time_is: str = "Time inside"
    adjustable: bool = True
    settable: bool = False
    has_calculator: bool = False
    waits_for: float = 0
    belt_m: float | None = None
    step: PieceStep | None = None

    @property
    def finished(self) -> float:
        """Capacity in finished pieces/h."""
        return self.capacity / self.taken


def gates_of(scenario: Scenario, line: Line, product: Product, batch_pieces: int) -> tuple[Gate, ...]:
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


def _mixing_gate(line: Line, product: Product, pieces: int, scaled: float, places: dict[str, int]) -> Gate:
    station, cycle = line.mixers(product.mixing.station), product.mixing.cycle_min
    count = len(station.mixers)
    return Gate(
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
        time_is="A dough takes",
        has_calculator=True,
        hazards=_mixing_hazards(station, product.mixing.dry_ice_pct),
    )


def _mixing_hazards(station: BatchStation, dry_ice_pct: float) -> tuple[Hazard, ...]:
    always: tuple[Hazard, ...] = ("mixer",)
    return (*always, *(("dry-ice",) if dry_ice_pct else ()), *station.hazards)


def _trough_gate(line: Line, product: Product, pieces: int, scaled: float, places: dict[str, int]) -> Gate:
    assert product.trough is not None  # noqa: S101  (the caller has looked)
    station, hold = line.holder(product.trough.station), product.trough.least_min
    return _held_gate(station, hold, float(pieces), "pieces", scaled, places)._replace(step=product.trough)


def _held_gate(
    station: HeldStation, hold_min: float, each: float, counted: Counted, taken: float, places: dict[str, int]
) -> Gate:
    positions = f"{station.position}s"
    return Gate(
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
) -> Iterator[Gate]:
    """The mixing of a preparation and where it is held, in kilograms."""
    kettle, cycle = line.mixers(made.mixing.station), made.mixing.cycle_min
    count = len(kettle.mixers)
    yield Gate(
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
        time_is="A batch takes",
        hazards=_mixing_hazards(kettle, made.mixing.dry_ice_pct),
    )
    if made.held:
        holder = line.holder(made.held.station)
        yield _held_gate(holder, made.held.least_min, batch_kg, "kg", kg_per_finished, places)


def _piece_gate(line: Line, step: PieceStep, taken: float, places: dict[str, int]) -> Gate:
    done = line.operation(step)
    return Gate(
        place=places[step.station],
        station=step.station,
        name=done.station.name,
        kind=step.kind,
        counted="pieces",
        taken=taken,
        capacity=done.capacity_per_h,
        dwell_min=done.dwell_min,
        machines=done.counted.number,
        machines_are=done.counted.what,
        adjustable=done.counted.adjustable,
        settable=done.station.dwells,
        has_calculator=done.has_calculator,
        waits_for=done.waits_for,
        belt_m=done.belt_m,
        arithmetic=done.arithmetic,
        hazards=done.station.hazards,
        step=step,
    )


def _carrier_gates(line: Line, product: Product, needs: tuple[Fraction, ...], places: dict[str, int]) -> Iterator[Gate]:
    """Carriers in circulation: needed = pace x (time on it + return) / pieces on one."""
    needed_by = {step.station: float(need) for step, need in zip(product.piece_steps, needs, strict=True)}
    for use in product.carriers:
        if use.first not in needed_by:
            continue
        carrier, ride = line.carrier(use.carrier), carried(line, product, use)
        yield Gate(
            place=places[use.first] - 0.5,
            station=carrier.id,
            name=carrier.name,
            kind="carriers",
            counted="pieces",
            taken=needed_by[use.first],
            capacity=carrier_capacity(line, product, use),
            dwell_min=ride.minutes + carrier.return_min,
            time_is="Once round",
            machines=carrier.count,
            machines_are="carriers",
            arithmetic=(
                f"60 × {carrier.count:,} × {use.pieces:g} pieces ÷ ({ride.minutes:g} min ridden + "
                f"{carrier.return_min:g} min back)"
            ),
            hazards=(),
        )
