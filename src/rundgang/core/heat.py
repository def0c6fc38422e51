"""Heat: how long a product must cool in the air of the hours that it passes, and the classes a plan makes of it.

A cooler's step that knows a measured run asks for that run's core temperature at its exit. In warmer air that
takes longer, by Newton's law; a run keeps one dwell, the longest that any of its pieces needs in the hours it
passes. So that headways stay a matter of two products, the plan knows a few classes of each: the air for
which a class is good, and the dwells it takes for it.
"""

from collections.abc import Iterator
from math import ceil, exp, inf
from typing import NamedTuple

from rundgang.core.errors import InfeasibleError
from rundgang.core.kinds.conveyor import ConveyorStep, KnownCooling
from rundgang.core.kinds.parts import ROUNDING
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario
from rundgang.core.thermal.cooling import rate_from_run, time_to

LONGEST_COOLING_MIN = 10_080.0
"""A week: longer than anything cools, min."""

BELT_STEPS_PER_MIN = 10
"""Belts are set to tenths of a minute (common practice, no published source)."""

CLASS_K = 2.0
"""Air this much warmer makes another class, K."""


class HeatClass(NamedTuple):
    """A product as it is made in air up to a temperature.

    Attributes
    ----------
    product : Product
        With the dwells that it needs there.
    dwell_min : dict of str to float
        These dwells, by station, where they are not the route's own, min.
    most_c : float
        Air up to which it cools enough, °C; inf where the room does not matter, -inf where no air here is cold enough.
    """

    product: Product
    dwell_min: dict[str, float]
    most_c: float


def cooled_in(step: ConveyorStep, air_c: float) -> float:
    """Minutes a cooler needs in air of a temperature, from the run that was measured.

    Raises
    ------
    InfeasibleError
        The air is not below the core wanted, or so close to it that it would take more than a week.
    """
    known = step.cooling
    assert known is not None  # noqa: S101  (the caller has looked)
    needed = time_to(known.to_c, known.from_c, air_c, _rate(known))
    if needed > LONGEST_COOLING_MIN:
        raise InfeasibleError(f"{known.to_c:g} °C would take more than a week in air of {air_c:g} °C.")
    return needed


def warmest_air(step: ConveyorStep) -> float:
    """The warmest air in which a step's own dwell is enough, °C: (T - T0 e^(-k d)) / (1 - e^(-k d))."""
    known = step.cooling
    assert known is not None  # noqa: S101  (the caller has looked)
    left = exp(-_rate(known) * step.dwell_min)
    return (known.to_c - known.from_c * left) / (1 - left)


def _rate(known: KnownCooling) -> float:
    return rate_from_run(known.from_c, known.to_c, known.air_c, known.minutes)


def cooling_steps(scenario: Scenario, product: Product) -> Iterator[ConveyorStep]:
    """The steps of a product, and of what is cut out of it, that ask for a temperature at their exit."""
    cut = scenario.cut_from(product)
    for step in (*product.piece_steps, *(cut.piece_steps if cut else ())):
        if isinstance(step, ConveyorStep) and step.cooling:
            yield step


def in_room(step: ConveyorStep) -> bool:
    """Whether a step's air is the room's; a tunnel has its own."""
    return step.temperature_c is None


def heat_classes(scenario: Scenario, product: Product) -> tuple[HeatClass, ...]:
    """The classes of a product for the window's air, the coolest first; worked out once."""
    if product.id not in scenario.of_the_air:
        scenario.of_the_air[product.id] = tuple(_heat_classes(scenario, product))
    found: tuple[HeatClass, ...] = scenario.of_the_air[product.id]
    return found


def _heat_classes(scenario: Scenario, product: Product) -> Iterator[HeatClass]:
    steps = tuple(cooling_steps(scenario, product))
    possible = [level for level in _levels(scenario, steps) if _reached(steps, level)]
    if not possible:
        yield HeatClass(product, {}, -inf)
    found = {made.product.id: made for level in possible for made in (_class(scenario, product, steps, level),)}
    yield from found.values()


def _levels(scenario: Scenario, steps: tuple[ConveyorStep, ...]) -> list[float]:
    """Air for which classes are made, °C: that of the route's own dwells, and from the warmest hour down."""
    own = [warmest_air(step) for step in steps if in_room(step)]
    if not own:
        return [inf]
    rooms = scenario.conditions.room_by_hour
    coolest, level = min(rooms), max(rooms)
    levels = [min(own)] if min(own) >= coolest else []
    while level > min(own):
        levels.append(level)
        if level <= coolest:
            break
        level = max(level - CLASS_K, coolest)
    return sorted(levels)


def _reached(steps: tuple[ConveyorStep, ...], room_c: float) -> bool:
    """Whether every step can cool enough in air of a temperature."""
    try:
        return all(cooled_in(step, _air(step, room_c)) > 0 for step in steps)
    except InfeasibleError:
        return False


def _air(step: ConveyorStep, room_c: float) -> float:
    return room_c if step.temperature_c is None else step.temperature_c


def _class(scenario: Scenario, product: Product, steps: tuple[ConveyorStep, ...], most_c: float) -> HeatClass:
    needed = {step.station: belt_time(cooled_in(step, _air(step, most_c))) for step in steps}
    longer = {step.station: needed[step.station] for step in steps if needed[step.station] > step.dwell_min}
    return HeatClass(scenario.dwelling(product.id, longer), longer, most_c)


def why_never(scenario: Scenario, product: Product) -> str | None:
    """Why no hour of the window is cool enough for a product; None where one is."""
    if any(made.most_c > -inf for made in heat_classes(scenario, product)):
        return None
    coolest = min(scenario.conditions.room_by_hour)
    for step in cooling_steps(scenario, product):
        air_c = _air(step, coolest)
        if step.cooling and not _reached((step,), coolest):
            name = scenario.line_of(product).station(step.station).name
            return f"{name}: {step.cooling.to_c:g} °C is never reached in air of {air_c:.1f} °C"
    return None


def belt_time(minutes: float) -> float:
    """A time as a belt is set to it, no shorter, min."""
    return ceil(minutes * BELT_STEPS_PER_MIN * (1 - ROUNDING)) / BELT_STEPS_PER_MIN
