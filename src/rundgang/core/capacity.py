"""What a station can carry: one equation for each kind, and the limits of a dough.

Capacities are pieces an hour at the station's own entry. What a line makes of them stands in `balance`.
"""

from math import ceil, floor, inf
from typing import NamedTuple

from rundgang.core.errors import InfeasibleError
from rundgang.core.plant import (
    BenchStation,
    ChamberStation,
    ConveyorStation,
    HeldStation,
    Line,
    PieceStation,
    RateStation,
)
from rundgang.core.products import CarrierUse, Product
from rundgang.core.scenario import Scenario
from rundgang.core.steps import BenchStep, ChamberStep, ConveyorStep, DwellStep, HeldStep, PieceStep, RateStep
from rundgang.core.units import GRAMS_PER_KG, MINUTES_PER_HOUR

MM_PER_M = 1_000

ROUNDING = 1e-9
"""Relative slack when a float ratio is rounded up to whole machines."""


def rate_capacity(machines: int, lanes: int, strokes_per_min: float, efficiency: float, taken: int = 1) -> float:
    """Capacity of machines with lanes and strokes, each taking so many pieces, pieces/h: 60 m L s e n."""
    return MINUTES_PER_HOUR * machines * lanes * strokes_per_min * efficiency * taken


def dwell_capacity(pieces: float, dwell_min: float) -> float:
    """Capacity of a belt that holds so many pieces for so many minutes, pieces/h: 60 C / d."""
    return MINUTES_PER_HOUR * pieces / dwell_min


def batch_capacity(mixers: int, pieces: float, cycle_min: float) -> float:
    """Capacity of mixers, pieces/h: 60 m n / c."""
    return MINUTES_PER_HOUR * mixers * pieces / cycle_min


def held_capacity(positions: int, pieces: float, hold_min: float, turn_round_min: float) -> float:
    """Capacity of troughs or store places, pieces/h: 60 N n / (d + t); endless where neither takes time."""
    round_min = hold_min + turn_round_min
    return MINUTES_PER_HOUR * positions * pieces / round_min if round_min else inf


def bench_capacity(people: int, pieces_per_person_min: float) -> float:
    """Capacity of people working by hand, pieces/h: 60 w p."""
    return MINUTES_PER_HOUR * people * pieces_per_person_min


def pieces_inside(flow_per_h: float, dwell_min: float) -> float:
    """Little's law: pieces inside = flow x dwell."""
    return flow_per_h * dwell_min / MINUTES_PER_HOUR


def whole_machines(wanted: float, one_carries: float) -> int:
    """Machines, mixers or people needed: wanted / one, rounded up."""
    return max(1, ceil(wanted / one_carries * (1 - ROUNDING)))


def rows_on(length_mm: float, piece_mm: float, gap_mm: float) -> int:
    """Rows that fit side by side: floor((width + gap) / (piece + gap))."""
    return floor((length_mm + gap_mm) / (piece_mm + gap_mm) * (1 + ROUNDING))


def places_for(step: PieceStep, station: PieceStation) -> float:
    """Pieces of a product that a belt, a chamber or a store holds; infinite where nothing dwells."""
    if isinstance(step, ConveyorStep) and isinstance(station, ConveyorStation):
        lie = step.geometry
        if lie and station.width_m:
            across = rows_on(station.width_m * MM_PER_M, lie.across_mm, lie.gap_mm)
            return across * floor(station.length_m * MM_PER_M / lie.pitch_mm)
        assert station.places is not None  # noqa: S101  (the scenario has made sure)
        return station.places * step.pieces_per_place
    if isinstance(step, ChamberStep) and isinstance(station, ChamberStation):
        return station.trays * step.pieces_per_tray
    if isinstance(step, HeldStep) and isinstance(station, HeldStation) and step.pieces_per_position:
        return station.positions * step.pieces_per_position
    return inf


def piece_capacity(step: PieceStep, station: PieceStation) -> float:
    """What a station can take in of a product, pieces/h at its entry."""
    if isinstance(step, RateStep) and isinstance(station, RateStation):
        return rate_capacity(station.machines, station.lanes, step.strokes_per_min, station.efficiency, step.takes)
    if isinstance(step, BenchStep) and isinstance(station, BenchStation):
        return bench_capacity(station.people, step.pieces_per_person_min)
    if isinstance(step, HeldStep) and isinstance(station, HeldStation):
        return held_capacity(1, places_for(step, station), step.least_min, station.turn_round_min)
    assert isinstance(step, DwellStep)  # noqa: S101  (the scenario has matched steps and stations)
    return dwell_capacity(places_for(step, station), step.dwell_min)


def dwell_of(step: PieceStep, station: PieceStation) -> float:
    """How long a piece is inside a station, min; in a store, as short as it may be."""
    if isinstance(step, DwellStep):
        return step.dwell_min
    if isinstance(step, HeldStep):
        return step.least_min
    assert isinstance(station, (RateStation, BenchStation))  # noqa: S101
    return station.pass_min


def transit_min(line: Line, product: Product) -> float:
    """From entering the divider to leaving the last station, min."""
    steps = product.piece_steps
    dwells = sum(dwell_of(step, line.piece_station(step.station)) for step in steps)
    return dwells + sum(line.station(step.station).transfer_min for step in steps[:-1])


def carried_min(line: Line, product: Product, use: CarrierUse) -> float:
    """How long a piece rides on a carrier, min: from the first station's entry to the last one's exit."""
    stations = [step.station for step in product.piece_steps]
    ridden = product.piece_steps[stations.index(use.first) : stations.index(use.last) + 1]
    dwells = sum(dwell_of(step, line.piece_station(step.station)) for step in ridden)
    return dwells + sum(line.station(step.station).transfer_min for step in ridden[:-1])


def carrier_capacity(line: Line, product: Product, use: CarrierUse) -> float:
    """What the carriers allow at the first station they pass, pieces/h: 60 count n / (time on it + return)."""
    carrier = line.carrier(use.carrier)
    return held_capacity(carrier.count, use.pieces, carried_min(line, product, use), carrier.return_min)


class Passed(NamedTuple):
    """A step that what is scaled for a product passes, and what comes into it for one piece scaled."""

    step: PieceStep
    per_scaled: float


def passed(scenario: Scenario, product: Product) -> tuple[Passed, ...]:
    """Every step after the mixers: the product's own, and those of what is cut out of it."""
    cut = scenario.cut_from(product)
    own = _per_scaled(product)
    return (*own, *_per_scaled(scenario.whole(cut))[-len(cut.piece_steps) :]) if cut else own


def _per_scaled(product: Product) -> tuple[Passed, ...]:
    needs = product.taken_per_finished
    return tuple(Passed(step, float(n / needs[0])) for step, n in zip(product.piece_steps, needs, strict=True))


def make_up_capacity(scenario: Scenario, product: Product) -> tuple[float, str]:
    """Most the line can carry after the mixers, scaled pieces/h, and the station or carrier that sets it."""
    line = scenario.line_of(product)
    carried = [
        (piece_capacity(step, line.piece_station(step.station)) / per_scaled, step.station)
        for step, per_scaled in passed(scenario, product)
    ]
    entries = {step.station: per_scaled for step, per_scaled in _per_scaled(product)}
    carried += [
        (carrier_capacity(line, product, use) / entries[use.first], use.carrier)
        for use in product.carriers
        if use.first in entries
    ]
    return min(carried, key=lambda pair: pair[0])


def scaled_pace(scenario: Scenario, product: Product) -> float:
    """Target, as far as everything after the mixers carries it, scaled pieces/h; of what is cut out, its parent's."""
    mixed = scenario.parent(product) or product
    carried, _ = make_up_capacity(scenario, mixed)
    return min(carried, mixed.target_per_hour * float(mixed.taken_per_finished[0]))


def largest_batch_by_age_kg(product: Product, scaled_per_h: float) -> float:
    """Largest dough whose last piece is divided in time, kg: (max age − min rest) x pace x scaling weight."""
    window_h = (product.max_age_min - product.rest_min) / MINUTES_PER_HOUR
    return window_h * scaled_per_h * product.scaling_g / GRAMS_PER_KG


class Bound(NamedTuple):
    """A limit of a dough's mass, kg, and what sets it."""

    kg: float
    because: str


class DoughBounds(NamedTuple):
    """The smallest and the largest dough of a product."""

    least: Bound
    most: Bound


def dough_bounds(scenario: Scenario, product: Product) -> DoughBounds:
    """The smallest and the largest dough: by the mixers' fill, the trough's size, the dough's age, its preparations.

    Raises
    ------
    InfeasibleError
        The smallest that can be mixed is larger than the largest that can be held and divided in time, or not even
        one piece fits.
    """
    line = scenario.line_of(product)
    mixers = line.mixers(product.mixing.station)
    by_age = largest_batch_by_age_kg(product, scaled_pace(scenario, product))
    most = [Bound(mixers.max_fill_kg, f"the fill of {mixers.name}"), Bound(by_age, "its age at the divider")]
    least = [Bound(mixers.min_fill_kg, f"the fill of {mixers.name}")]
    if product.trough:
        most += _held_bound(line, product.trough, 1.0)
    for made, share in scenario.preparations_in(product):
        kettle = line.mixers(made.mixing.station)
        most.append(Bound(kettle.max_fill_kg / share, f"the {made.name} from {kettle.name}"))
        least.append(Bound(kettle.min_fill_kg / share, f"the {made.name} from {kettle.name}"))
        most += _held_bound(line, made.held, share) if made.held else []
    found = DoughBounds(max(least), min(most))
    if found.most.kg * GRAMS_PER_KG < product.scaling_g:
        raise InfeasibleError(
            f"{product.name}: not even one piece of {product.scaling_g:g} g fits a dough of at most "
            f"{found.most.kg:.3f} kg by {found.most.because}. Allowed: a faster pace, a larger mixer or trough, or a "
            "longer maximum age."
        )
    return found


def _held_bound(line: Line, held: HeldStep, share: float) -> list[Bound]:
    station = line.holder(held.station)
    if station.capacity_kg is None:
        return []
    return [Bound(station.capacity_kg / share, f"the size of a {station.position} of {station.name}")]


def pieces_of(product: Product, dough_kg: float) -> int:
    """Whole pieces scaled from a dough."""
    return floor(dough_kg * GRAMS_PER_KG / product.scaling_g * (1 + ROUNDING))
