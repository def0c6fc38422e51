"""Line balance: what every stage can carry, which one is the narrowest, and what stands inside at a pace.

All stages are brought to one measure, *finished pieces an hour*: a stage's own capacity, divided by
what it must take in for one finished piece. The line's pace is the least of them, and that stage is
the bottleneck (W. J. Hopp and M. L. Spearman, Factory Physics). What stands inside a stage at a pace
follows from Little's law, pieces inside = flow x dwell (J. D. C. Little, Operations Research 9, 1961).
"""

from fractions import Fraction
from math import ceil, inf

from rundgang.core.errors import InfeasibleError, OutOfRangeError
from rundgang.core.model import Model
from rundgang.core.plant import (
    AnyStation,
    BatchStation,
    BenchStation,
    ChamberStation,
    ConveyorStation,
    Line,
    PieceStation,
    RateStation,
)
from rundgang.core.products import BenchStep, ChamberStep, ConveyorStep, DwellStep, PieceStep, Product, RateStep
from rundgang.core.scenario import Scenario
from rundgang.core.units import GRAMS_PER_KG, MINUTES_PER_HOUR

ROUNDING = 1e-9
"""Relative slack when a float ratio is rounded up to whole machines."""


class Stage(Model):
    """One station of a line, balanced for a product.

    Attributes
    ----------
    taken_per_piece : float
        What comes in here for one finished piece.
    capacity_in_per_h : float
        Most the station can take in, pieces/h at its own entry.
    capacity_per_h : float
        The same in finished pieces/h.
    utilisation : float
        Pace / capacity.
    dwell_min : float
        Time a piece is inside, min.
    inside : float
        Pieces inside at the pace (doughs' worth of pieces for mixers).
    machines, machines_needed : int
        There are, and are needed for the pace; a belt or a room counts as one.
    machines_are : str
        What is counted: mixers, machines, belts, rooms or people.
    belt_m_per_min : float or None
        Belt speed, where there is a belt.
    arithmetic : str
        The capacity's equation with its figures.
    """

    station: str
    name: str
    kind: str
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


class Lift(Model):
    """What one more machine, or a belt one tenth longer, at a stage would do for the pace."""

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
    pace_per_h : float
        The pace all stages are shown at, finished pieces/h.
    bottleneck : str
        Station that sets `most_per_h`.
    batch_pieces : int
        Pieces scaled from one batch.
    batch_interval_min : float
        Minutes from one dough to the next at the pace.
    flour_to_pack_min : float
        From charging the first dough to the first pack, min.
    """

    line: str
    product: str
    most_per_h: float
    pace_per_h: float
    packs_per_h: float
    bottleneck: str
    stages: tuple[Stage, ...]
    batch_kg: float
    batch_pieces: int
    batch_interval_min: float
    mixers_needed: int
    flour_to_pack_min: float
    lifts: tuple[Lift, ...]


def rate_capacity(machines: int, lanes: int, strokes_per_min: float, efficiency: float, taken: int = 1) -> float:
    """Capacity of machines with lanes and strokes, each taking so many pieces, pieces/h: 60 m L s e n."""
    return MINUTES_PER_HOUR * machines * lanes * strokes_per_min * efficiency * taken


def dwell_capacity(pieces: float, dwell_min: float) -> float:
    """Capacity of a belt that holds so many pieces for so many minutes, pieces/h: 60 C / d."""
    return MINUTES_PER_HOUR * pieces / dwell_min


def batch_capacity(mixers: int, pieces: float, cycle_min: float) -> float:
    """Capacity of mixers, pieces/h: 60 m n / c."""
    return MINUTES_PER_HOUR * mixers * pieces / cycle_min


def pieces_inside(flow_per_h: float, dwell_min: float) -> float:
    """Little's law: pieces inside = flow x dwell."""
    return flow_per_h * dwell_min / MINUTES_PER_HOUR


def whole_machines(wanted: float, one_carries: float) -> int:
    """Machines, mixers or people needed: wanted / one, rounded up."""
    return max(1, ceil(wanted / one_carries * (1 - ROUNDING)))


def taken_per_finished_piece(product: Product) -> tuple[Fraction, ...]:
    """What each piece step takes in for one finished piece, exactly, in route order."""
    needs: list[Fraction] = []
    need = Fraction(1, product.pieces_per_pack)
    for step in reversed(product.piece_steps):
        need *= step.taken_for_one
        needs.append(need)
    return tuple(reversed(needs))


def largest_batch_by_age_kg(product: Product, scaled_per_h: float) -> float:
    """Largest dough whose last piece is divided in time, kg: (max age − min rest) x pace x scaling weight."""
    window_h = (product.mixing.max_age_min - product.mixing.rest_min) / MINUTES_PER_HOUR
    return window_h * scaled_per_h * product.scaling_g / GRAMS_PER_KG


def bench_capacity(people: int, pieces_per_person_min: float) -> float:
    """Capacity of people working by hand, pieces/h: 60 w p."""
    return MINUTES_PER_HOUR * people * pieces_per_person_min


def places_for(step: PieceStep, station: PieceStation) -> float:
    """Pieces of a product that a belt or a chamber holds; infinite where nothing dwells."""
    if isinstance(step, ConveyorStep) and isinstance(station, ConveyorStation):
        return station.places * step.pieces_per_place
    if isinstance(step, ChamberStep) and isinstance(station, ChamberStation):
        return station.trays * step.pieces_per_tray
    return inf


def piece_capacity(step: PieceStep, station: PieceStation) -> float:
    """What a station can take in of a product, pieces/h at its entry."""
    if isinstance(step, RateStep) and isinstance(station, RateStation):
        return rate_capacity(station.machines, station.lanes, step.strokes_per_min, station.efficiency, step.takes)
    if isinstance(step, BenchStep) and isinstance(station, BenchStation):
        return bench_capacity(station.people, step.pieces_per_person_min)
    assert isinstance(step, DwellStep)  # noqa: S101  (the scenario has matched steps and stations)
    return dwell_capacity(places_for(step, station), step.dwell_min)


def scaled_pace(line: Line, product: Product) -> float:
    """Target, as far as everything after the mixers carries it, scaled pieces/h."""
    carried, _ = make_up_capacity(line, product)
    return min(carried, product.target_per_hour) * float(taken_per_finished_piece(product)[0])


def make_up_capacity(line: Line, product: Product) -> tuple[float, str]:
    """Most the line can carry after the mixers, finished pieces/h, and the station that sets it."""
    carried = [
        (piece_capacity(step, line.piece_station(step.station)) / float(need), step.station)
        for step, need in zip(product.piece_steps, taken_per_finished_piece(product), strict=True)
    ]
    return min(carried, key=lambda pair: pair[0])


def dwell_of(step: PieceStep, station: PieceStation) -> float:
    """How long a piece is inside a station, min."""
    if isinstance(step, DwellStep):
        return step.dwell_min
    assert isinstance(station, (RateStation, BenchStation))  # noqa: S101
    return station.pass_min


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
        No dough of even one piece can be mixed and divided in time.
    """
    product = scenario.product(product_id)
    line = scenario.line_of(product)
    if pace_per_h is not None and not 0 < pace_per_h <= 1_000_000:
        raise OutOfRangeError("The pace", f"{pace_per_h:g} pieces/h", "above 0, at most 1,000,000")
    batch_kg = _batch_kg(line, product)
    capacities = _capacities(line, product, batch_kg)
    most, bottleneck = _least(capacities)
    pace = pace_per_h if pace_per_h is not None else min(most, product.target_per_hour)
    needs = (taken_per_finished_piece(product)[0], *taken_per_finished_piece(product))
    stages = tuple(_stage(line, product, index, float(need), pace, batch_kg) for index, need in enumerate(needs))
    batch_pieces = int(batch_kg * GRAMS_PER_KG / product.scaling_g)
    interval = MINUTES_PER_HOUR * batch_pieces / (pace * float(needs[0]))
    return LineBalance(
        line=line.id,
        product=product.id,
        most_per_h=most,
        pace_per_h=pace,
        packs_per_h=pace / product.pieces_per_pack,
        bottleneck=bottleneck,
        stages=stages,
        batch_kg=batch_kg,
        batch_pieces=batch_pieces,
        batch_interval_min=interval,
        mixers_needed=whole_machines(product.mixing.cycle_min, interval),
        flour_to_pack_min=product.mixing.cycle_min + product.mixing.rest_min + transit_min(line, product),
        lifts=_lifts(line, product, capacities),
    )


def transit_min(line: Line, product: Product) -> float:
    """From entering the divider to leaving the last station, min."""
    steps = product.piece_steps
    dwells = sum(dwell_of(step, line.piece_station(step.station)) for step in steps)
    return dwells + sum(line.station(step.station).transfer_min for step in steps[:-1])


def _batch_kg(line: Line, product: Product) -> float:
    by_age = largest_batch_by_age_kg(product, scaled_pace(line, product))
    kg = min(line.mixers.max_fill_kg, by_age)
    if kg * GRAMS_PER_KG < product.scaling_g:
        raise InfeasibleError(
            f"{product.name}: not even one piece fits a dough: the mixer takes {line.mixers.max_fill_kg:g} kg, and at "
            f"this pace {by_age:.3f} kg can be divided before it is too old. Allowed: a faster pace, a larger "
            "mixer, or a longer maximum age."
        )
    return kg


def _capacities(line: Line, product: Product, batch_kg: float) -> list[tuple[str, float]]:
    """Every stage's capacity in finished pieces/h, mixers first."""
    needs = taken_per_finished_piece(product)
    pieces = int(batch_kg * GRAMS_PER_KG / product.scaling_g)
    mixed = batch_capacity(len(line.mixers.mixers), pieces, product.mixing.cycle_min) / float(needs[0])
    rest = [
        (step.station, piece_capacity(step, line.piece_station(step.station)) / float(need))
        for step, need in zip(product.piece_steps, needs, strict=True)
    ]
    return [(line.mixers.id, mixed), *rest]


def _least(capacities: list[tuple[str, float]]) -> tuple[float, str]:
    station, least = min(capacities, key=lambda pair: pair[1])
    return least, station


def _stage(line: Line, product: Product, index: int, need: float, pace: float, batch_kg: float) -> Stage:
    station = line.station(product.route[index].station)
    flow = pace * need
    if isinstance(station, BatchStation):
        pieces = int(batch_kg * GRAMS_PER_KG / product.scaling_g)
        dwell = product.mixing.cycle_min
        capacity = batch_capacity(len(station.mixers), pieces, dwell)
        arithmetic = f"60 × {len(station.mixers)} mixers × {pieces:,} pieces ÷ {dwell:g} min"
    else:
        step = product.piece_steps[index - 1]
        dwell = dwell_of(step, station)
        capacity = piece_capacity(step, station)
        arithmetic = _arithmetic(step, station)
    machines, unit = _machines(station)
    return Stage(
        station=station.id,
        name=station.name,
        kind=station.kind,
        taken_per_piece=need,
        capacity_in_per_h=capacity,
        capacity_per_h=capacity / need,
        utilisation=flow / capacity,
        dwell_min=dwell,
        inside=pieces_inside(flow, dwell),
        machines=machines,
        machines_needed=whole_machines(flow, capacity / machines),
        machines_are=unit,
        belt_m_per_min=station.length_m / dwell if isinstance(station, ConveyorStation) else None,
        arithmetic=f"{arithmetic} = {capacity:,.0f} an hour at its entry",
    )


def _arithmetic(step: PieceStep, station: PieceStation) -> str:
    if isinstance(step, RateStep) and isinstance(station, RateStation):
        return (
            f"60 × {station.machines} × {station.lanes} lanes × {step.strokes_per_min:g} strokes/min "
            f"× {station.efficiency:g} efficiency"
        ) + (f" × {step.takes} pieces" if step.takes > 1 else "")
    if isinstance(step, BenchStep) and isinstance(station, BenchStation):
        return f"60 × {station.people} people × {step.pieces_per_person_min:g} pieces a minute"
    return f"60 × {places_for(step, station):,.0f} places ÷ {dwell_of(step, station):g} min"


def _machines(station: AnyStation) -> tuple[int, str]:
    """How many of what work side by side at a station; a belt or a chamber counts as one."""
    if isinstance(station, BatchStation):
        return len(station.mixers), "mixers"
    if isinstance(station, RateStation):
        return station.machines, "machines"
    if isinstance(station, BenchStation):
        return station.people, "people"
    return 1, "belts" if isinstance(station, ConveyorStation) else "rooms"


LENGTHENING = 1.1
"""A belt or a room is rarely doubled; the question asked is what a tenth more of it would give."""


def _lifts(line: Line, product: Product, capacities: list[tuple[str, float]]) -> tuple[Lift, ...]:
    """What a single change at each of the three narrowest stages would lift the pace to, best first."""
    lifts = []
    for station_id, capacity in sorted(capacities, key=lambda pair: pair[1])[:3]:
        station = line.station(station_id)
        machines, unit = _machines(station)
        if isinstance(station, (ConveyorStation, ChamberStation)):
            change, factor = f"{station.name} a tenth larger", LENGTHENING
        else:
            change, factor = f"{machines + 1} {unit} at {station.name} instead of {machines}", (machines + 1) / machines
        changed = [(s, capacity * factor if s == station_id else c) for s, c in capacities]
        pace, then = _least(changed)
        lifts.append(Lift(station=station_id, change=change, pace_per_h=pace, then_station=then))
    return tuple(sorted(lifts, key=lambda lift: -lift.pace_per_h))
