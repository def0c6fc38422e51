"""What if: a line and a product with a few settings changed, for the sliders of the line's screen.

The scenario that comes back is not checked again: a setting's own range keeps it possible.
"""

from pydantic import Field

from rundgang.core.errors import OutOfRangeError, UnknownItemError
from rundgang.core.heat import LONGEST_COOLING_MIN, cooled_in, in_room
from rundgang.core.kinds.batch import BatchStep
from rundgang.core.kinds.conveyor import ConveyorStep
from rundgang.core.kinds.every import Step
from rundgang.core.model import Id, Model
from rundgang.core.plant import Line
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario


class Setting(Model):
    """What is set otherwise than the plant and the product say; what is not named stays.

    Attributes
    ----------
    count : dict of str to int
        Machines, mixers, people or positions, by station or carrier.
    dwell_min : dict of str to float
        Time on a belt, in a room or a store, by station, min.
    room_c : float or None
        Temperature of the air: a cooler with a known run takes the time it needs in it, °C.
    """

    count: dict[Id, int] = Field(default_factory=dict, max_length=60)
    dwell_min: dict[Id, float] = Field(default_factory=dict, max_length=60)
    room_c: float | None = Field(default=None, ge=-10, le=50)


MOST_OF_ANYTHING = 100_000


def with_setting(scenario: Scenario, product_id: str, setting: Setting) -> Scenario:
    """The scenario with a line, a product and what is cut out of it set otherwise.

    Raises
    ------
    UnknownItemError
        A station that the product's way does not pass.
    OutOfRangeError
        A count or a time that cannot be.
    InfeasibleError
        The room is too warm ever to cool the product.
    """
    chosen = scenario.product(product_id)
    line = scenario.line_of(chosen)
    cut = scenario.cut_from(chosen)
    asked = (scenario.whole(chosen), *((cut,) if cut else ()))
    _check(setting, line, asked)
    fresh = {product.id: _set_product(product, setting) for product in asked}
    stations = tuple(
        station.with_count(setting.count[station.id]) if station.id in setting.count else station
        for station in line.stations
    )
    carriers = tuple(
        carrier.model_copy(update={"count": setting.count.get(carrier.id, carrier.count)}) for carrier in line.carriers
    )
    changed = line.model_copy(update={"stations": stations, "carriers": carriers})
    lines = tuple(changed if other.id == line.id else other for other in scenario.plant.lines)
    conditions = scenario.conditions
    if setting.room_c is not None:
        conditions = conditions.model_copy(
            update={"room_c": setting.room_c, "by_hour": (), "room_course": None, "by_weather": False}
        )
    return scenario.model_copy(
        update={
            "plant": scenario.plant.model_copy(update={"lines": lines}),
            "products": tuple(fresh.get(other.id, other) for other in scenario.products),
            "conditions": conditions,
        }
    )


def _set_product(product: Product, setting: Setting) -> Product:
    """The product with its steps set otherwise."""
    return product.model_copy(update={"route": tuple(_set_step(step, setting) for step in product.route)})


def _check(setting: Setting, line: Line, products: tuple[Product, ...]) -> None:
    places = [station.id for station in line.stations] + [carrier.id for carrier in line.carriers]
    for where, count in setting.count.items():
        if where not in places:
            raise UnknownItemError("station or carrier", where, places)
        if not 1 <= count <= MOST_OF_ANYTHING:
            raise OutOfRangeError(f"The number at {where}", count, f"1 to {MOST_OF_ANYTHING:,}")
    passed = [step.station for product in products for step in product.piece_steps]
    passed += [product.trough.station for product in products if product.trough]
    dwelling = [station for station in passed if line.station(station).dwells]
    for where, minutes in setting.dwell_min.items():
        if where not in dwelling:
            raise UnknownItemError("belt, room or store", where, dwelling)
        if not 0.01 <= minutes <= LONGEST_COOLING_MIN:
            raise OutOfRangeError(f"The time at {where}", f"{minutes:g} min", "0.01 to 10,080 min")


def _set_step(step: Step, setting: Setting) -> Step:
    if isinstance(step, BatchStep):
        return step
    if step.station in setting.dwell_min:
        return step.with_dwell(setting.dwell_min[step.station])
    if setting.room_c is not None and isinstance(step, ConveyorStep) and step.cooling and in_room(step):
        return step.model_copy(update={"dwell_min": cooled_in(step, setting.room_c)})
    return step
