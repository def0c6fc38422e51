"""What a line can carry of a product after its mixers, and the limits of a dough.

Capacities are pieces an hour at the station's own entry. What a line makes of them stands in `balance`.
"""

from collections.abc import Iterator, Sequence
from math import ceil, floor
from typing import NamedTuple

from rundgang.core.errors import InfeasibleError
from rundgang.core.kinds.every import PieceStep
from rundgang.core.kinds.held import HeldStep, held_capacity
from rundgang.core.kinds.parts import ROUNDING
from rundgang.core.plant import Line
from rundgang.core.products import CarrierUse, Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import GRAMS_PER_KG, MINUTES_PER_HOUR


def pieces_inside(flow_per_h: float, dwell_min: float) -> float:
    """Little's law: pieces inside = flow x dwell."""
    return flow_per_h * dwell_min / MINUTES_PER_HOUR


def whole_machines(wanted: float, one_carries: float) -> int:
    """Machines, mixers or people needed: wanted / one, rounded up."""
    return max(1, ceil(wanted / one_carries * (1 - ROUNDING)))


class Ridden(NamedTuple):
    """A stretch of a route: its time for a piece alone, min, and the pieces, counted at its entry, it waits for."""

    minutes: float
    waits_for: float

    def at(self, flow_per_h: float) -> float:
        """How long a piece takes at so many pieces an hour at its entry, min."""
        return self.minutes + MINUTES_PER_HOUR * self.waits_for / flow_per_h


def ridden(line: Line, steps: Sequence[PieceStep]) -> Ridden:
    """From entering the first of some steps to leaving the last."""
    minutes, waits_for, made = 0.0, 0.0, 1.0
    for place, step in enumerate(steps):
        done = line.operation(step)
        minutes += done.dwell_min + (done.station.transfer_min if place < len(steps) - 1 else 0.0)
        waits_for += done.waits_for / made
        made /= float(step.taken_for_one)
    return Ridden(minutes, waits_for)


def transit_min(line: Line, product: Product, scaled_per_h: float) -> float:
    """From entering the divider to leaving the last station at so many pieces scaled an hour, min."""
    return ridden(line, product.piece_steps).at(scaled_per_h)


def carried(line: Line, product: Product, use: CarrierUse) -> Ridden:
    """From a carrier's first station's entry to its last one's exit."""
    stations = [step.station for step in product.piece_steps]
    return ridden(line, product.piece_steps[stations.index(use.first) : stations.index(use.last) + 1])


def carrier_capacity(line: Line, product: Product, use: CarrierUse) -> float:
    """What the carriers allow at the first station they pass, pieces/h: 60 (count n - waiting) / (ride + return)."""
    carrier, ride = line.carrier(use.carrier), carried(line, product, use)
    free = carrier.count * use.pieces - ride.waits_for
    return held_capacity(1, max(free, 0.0), ride.minutes, carrier.return_min)


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


def leg_paces(scenario: Scenario, product: Product) -> tuple[float, ...]:
    """What each leg of a route carries, as `_leg_paces` works it out, once for a scenario."""
    key = "leg paces", product.id
    if key not in scenario.known:
        scenario.known[key] = _leg_paces(scenario, product)
    found: tuple[float, ...] = scenario.known[key]
    return found


def _leg_paces(scenario: Scenario, product: Product) -> tuple[float, ...]:
    """What each leg of a route carries after the mixers, at most the target, scaled pieces/h.

    Behind a store a leg has its own pace; behind a load, where pieces only wait for each other, that of the leg
    before. What is cut out goes at its parent's, from the cutter on at that of the cutter's leg.
    """
    mixed = scenario.parent(product) or product
    free = _free_legs(scenario.line_of(mixed), mixed)
    paces = [mixed.target_per_hour * float(mixed.taken_per_finished[0])] * len(free)
    for legs, pace in _leg_limits(scenario, mixed):
        for within in legs:
            paces[within] = min(paces[within], pace)
    for place in (*range(1, len(free)), *range(len(free) - 1, 0, -1)):
        if not free[place]:
            paces[place] = paces[place - 1] = min(paces[place - 1], paces[place])
    if mixed.id == product.id:
        return tuple(paces)
    cutter, count = cut_leg(scenario, mixed), len(_free_legs(scenario.line_of(mixed), scenario.whole(product)))
    return (*paces[: cutter + 1], *([paces[cutter]] * (count - cutter - 1)))


def _free_legs(line: Line, product: Product) -> tuple[bool, ...]:
    """For each leg of a route, whether it is free of the pace of the one before."""
    splits = [done for step in product.piece_steps if (done := line.operation(step)).splits]
    return (True, *(done.waits_for == 0 for done in splits))


def cut_leg(scenario: Scenario, product: Product) -> int:
    """The leg in which a product's cutter stands; 0 where it has none."""
    line, place = scenario.line_of(product), product.cut_out[0] if product.cut_out else 0
    return sum(line.operation(step).splits for step in product.piece_steps[:place])


def _leg_limits(scenario: Scenario, mixed: Product) -> Iterator[tuple[range, float]]:
    """Every limit after the mixers, in scaled pieces/h, and the legs that it holds for: stations and carriers."""
    line, cutter, own = scenario.line_of(mixed), cut_leg(scenario, mixed), 0
    cut = scenario.cut_from(mixed)
    legs = dict.fromkeys([step.station for step in cut.piece_steps] if cut else (), cutter)
    for step in mixed.piece_steps:
        legs[step.station] = own
        own += line.operation(step).splits
    entries = {step.station: per_scaled for step, per_scaled in passed(scenario, mixed)}
    for step, per_scaled in passed(scenario, mixed):
        at = legs[step.station]
        yield range(at, at + 1), line.operation(step).capacity_per_h / per_scaled
    for owner in (mixed, cut) if cut else (mixed,):
        for use in owner.carriers:
            if use.first in entries:
                pace = carrier_capacity(line, owner, use) / entries[use.first]
                yield range(legs[use.first], legs[use.last] + 1), pace


def scaled_pace(scenario: Scenario, product: Product) -> float:
    """What the divider can feed of a product, at most the target, scaled pieces/h; of what is cut out, its parent's."""
    return leg_paces(scenario, product)[0]


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
