"""Two small bakeries: one whose runs can share a dough, one whose runs can go on with each other's filling."""

from dataclasses import dataclass

from families import mixing, strokes
from plants import belt, laid_out, mixers, on_belt, product, scenario
from rundgang.core.kinds.batch import BatchStation
from rundgang.core.kinds.held import HeldStation, HeldStep
from rundgang.core.kinds.parts import Addition
from rundgang.core.kinds.rate import RateStation
from rundgang.core.planning.lorries import OrderItem
from rundgang.core.planning.model import LinePlan
from rundgang.core.products import FormulaLine, Preparation
from rundgang.core.scenario import Scenario

LOAVES, ROLLS = 3_400, 2_600
"""Pieces of 100 g, 1,000 to a dough of 100 kg: 3.4 doughs and 2.6, six in all where the odd one is divided."""


def roll_bakery(*, age: float = 60, trough: bool = False, nuts: bool = False, most_kg: float = 100) -> Scenario:
    """A line that makes loaves and rolls of one dough; with `nuts` the rolls are of another."""
    stations = (
        HeldStation(id="troughs", name="Troughs", positions=6, capacity_kg=most_kg, turn_round_min=2),
        RateStation(id="divider", name="Divider"),
        belt("oven"),
    )
    made = []
    for name in ("loaf", "roll"):
        found = product(name, (strokes("divider", 100), on_belt("oven", 20)), age=age, nuts=nuts and name == "roll")
        route = found.route
        if trough:
            route = (route[0], HeldStep(station="troughs", least_min=10, most_min=age), *route[1:])
        made.append(found.model_copy(update={"odd_batch": "short-last", "route": route}))
    orders = [("loaf", 600.0, LOAVES), ("roll", 600.0, ROLLS)]
    return scenario(stations, made, orders, mixing=mixers(4, least=20, most=most_kg), minutes=900)


def loaves_first(day: Scenario) -> list[OrderItem]:
    """Loaves first."""
    wave = day.orders[0].wave
    return [OrderItem(product=name, wave=wave, packs=packs) for name, packs in (("loaf", LOAVES), ("roll", ROLLS))]


def rolled(day: Scenario) -> LinePlan:
    """The loaves, then the rolls."""
    return laid_out(day, loaves_first(day))


PIECES = 1_000
"""Of each of three products: 5 kg of cream at 5 g a piece."""


@dataclass
class Kettle:
    """Cream is made in batches of at least 8 kg, and the tank holds 20."""

    age_min: float = 300
    tank_kg: float = 20
    turn_min: float = 5
    ripens_min: float = 0


def creamery(kettle: Kettle | None = None) -> Scenario:
    """A line that makes three products with the same cream."""
    of = kettle or Kettle()
    kettles = BatchStation(id="kettles", name="Kettles", mixers=("Kettle 1", "Kettle 2"), min_fill_kg=8, max_fill_kg=20)
    stations = (
        HeldStation(
            id="tanks", name="Tanks", positions=1, position="tank", capacity_kg=of.tank_kg, turn_round_min=of.turn_min
        ),
        RateStation(id="divider", name="Divider"),
        belt("oven"),
        RateStation(id="topper", name="Topper"),
    )
    cream = Preparation(
        id="cream",
        name="Cream",
        line="line",
        formula=(FormulaLine(ingredient="flour", percent=100),),
        mixing=mixing(6, rest=0, age=of.age_min, station="kettles"),
        held=HeldStep(station="tanks", least_min=of.ripens_min, most_min=of.age_min),
        temperature_c=20,
        used_c=20,
    )
    topped = strokes("topper", 100, adds=(Addition(item="cream", grams=5),))
    plain = [product(name, (strokes("divider", 100), on_belt("oven", 20), strokes("topper", 100))) for name in "abc"]
    made = [one.model_copy(update={"route": (*one.route[:-1], topped)}) for one in plain]
    orders = [(name, 900.0, PIECES) for name in "abc"]
    day = scenario(stations, plain, orders, mixing=mixers(4, least=1, most=150), minutes=1_200)
    line = day.plant.lines[0]
    with_kettles = line.model_copy(update={"stations": (kettles, *line.stations)})
    plant = day.plant.model_copy(update={"lines": (with_kettles,)})
    return day.model_copy(update={"preparations": (cream,), "plant": plant, "products": tuple(made)})


def creamed(day: Scenario, apart_min: float = 0) -> LinePlan:
    """The three products in turn, each so long behind the one before."""
    wave = day.orders[0].wave
    items = [
        OrderItem(product=name, wave=wave, packs=PIECES, not_before_min=100 + turn * apart_min)
        for turn, name in enumerate("abc")
    ]
    return laid_out(day, items)
