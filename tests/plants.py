"""Small plants for tests: a line from a few stations, a product from a few steps; and a plan of one line."""

from collections.abc import Mapping, Sequence
from datetime import UTC, datetime

from rundgang.core.conditions import Conditions
from rundgang.core.kinds.batch import BatchStation, BatchStep, MixPhase
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep
from rundgang.core.kinds.every import PieceStation, PieceStep
from rundgang.core.kinds.parts import Changeover
from rundgang.core.opening import HeatedOven, Opening
from rundgang.core.orders import Order, Wave, Window
from rundgang.core.planning.decode.fixed import fixed_arrays
from rundgang.core.planning.decode.reading import lay_out
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.headway import PairHeadway, leg_headways
from rundgang.core.planning.line_plans import line_plan
from rundgang.core.planning.lorries import OrderItem, order_items
from rundgang.core.planning.model import LinePlan
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import StopCriterion
from rundgang.core.plant import Ingredient, Line, Plant
from rundgang.core.products import FormulaLine, OddBatch, Product
from rundgang.core.scenario import Scenario

FLOUR = Ingredient(id="flour", name="Flour", role="flour", scale_step_g=100)
WATER = Ingredient(id="water", name="Water", role="water", scale_step_g=1)
NUTS = Ingredient(id="nuts", name="Nuts", allergens=frozenset({"nuts"}), scale_step_g=10)
STARTS = datetime(2026, 3, 10, 20, tzinfo=UTC)

AnyStation = PieceStation


def mixers(count: int = 2, *, least: float = 1, most: float = 500, clean: float = 0) -> BatchStation:
    """Mixers named A, B, C … with room for every dough."""
    return BatchStation(
        id="mixers",
        name="Mixers",
        mixers=tuple("ABCDEFGH"[:count]),
        min_fill_kg=least,
        max_fill_kg=most,
        changeover=Changeover(allergen_clean_min=clean),
    )


def belt(
    name: str, places: int = 100_000, *, setup: float = 0, ramp: float | None = None, transfer: float = 0
) -> ConveyorStation:
    """A belt; with `ramp` an oven that heats and cools at so many °C a minute."""
    return ConveyorStation(
        id=name,
        name=name.title(),
        places=places,
        length_m=100,
        setup_min=setup,
        heating_c_per_min=ramp,
        cooling_c_per_min=ramp,
        transfer_min=transfer,
    )


def product(
    name: str,
    steps: Sequence[PieceStep],
    *,
    cycle: float = 10,
    pack: int = 1,
    grams: float = 100,
    target: float = 10_000,
    rest: float = 5,
    age: float = 60,
    nuts: bool = False,
) -> Product:
    """A product of flour, water and perhaps nuts that passes the given steps after mixing."""
    formula = [FormulaLine(ingredient="flour", percent=100), FormulaLine(ingredient="water", percent=50)]
    if nuts:
        formula.append(FormulaLine(ingredient="nuts", percent=10))
    return Product(
        id=name,
        name=name.title(),
        line="line",
        pieces_per_pack=pack,
        baked_g=grams,
        bake_loss=0,
        dough_temperature_c=25,
        target_per_hour=target,
        formula=tuple(formula),
        route=(
            BatchStep(
                station="mixers",
                charge_min=1,
                phases=(MixPhase(speed="slow", minutes=cycle - 2),),
                discharge_min=1,
                friction_c=20,
                rest_min=rest,
                max_age_min=age,
            ),
            *steps,
        ),
    )


def on_belt(
    station: str, dwell: float, *, heat: float | None = None, good: float = 1, grace: float | None = None
) -> ConveyorStep:
    """A dwell on a belt, perhaps at a temperature, with a yield; pieces bear to stand for `grace` minutes."""
    return ConveyorStep(station=station, dwell_min=dwell, temperature_c=heat, yield_=good, grace_min=grace)


def scenario(
    stations: Sequence[AnyStation],
    products: Sequence[Product],
    orders: Sequence[tuple[str, float, int]] = (),
    *,
    mixing: BatchStation | None = None,
    minutes: int = 10_080,
    hot: Mapping[str, float] | None = None,
) -> Scenario:
    """A plant of one line; orders as product, departure in minutes, packs; `hot` ovens are on, by station, °C."""
    departures = sorted({departs for _, departs, _ in orders} | {float(minutes)})
    wave = {departs: f"w{number}" for number, departs in enumerate(departures)}
    line = Line(id="line", name="Line", stations=(mixing or mixers(), *stations))
    return Scenario(
        plant=Plant(
            name="Test plant", town="Nowhere", time_zone="UTC", ingredients=(FLOUR, WATER, NUTS), lines=(line,)
        ),
        products=tuple(products),
        window=Window(starts_at=STARTS, minutes=minutes),
        waves=tuple(Wave(id=wave[d], name=f"Lorry {wave[d]}", departs_min=d) for d in departures),
        orders=tuple(
            Order(id=f"o{number}", product=name, wave=wave[departs], packs=packs)
            for number, (name, departs, packs) in enumerate(orders)
        ),
        conditions=Conditions(room_c=22, flour_c=20, tap_c=15),
        opening=Opening(
            heated=tuple(
                HeatedOven(line="line", station=name, temperature_c=celsius) for name, celsius in (hot or {}).items()
            )
        ),
    )


def make_plan(
    plant: Scenario,
    line_id: str,
    *,
    seed: int = 0,
    stop: StopCriterion | None = None,
    odd_batch: Mapping[str, OddBatch] | None = None,
) -> LinePlan:
    """The plan of one line, which has the plant to itself."""
    return plan_plant(plant, lines=(line_id,), seed=seed, stop=stop, odd_batch=odd_batch).of(line_id)


def items_on(plant: Scenario, line_id: str = "line") -> tuple[OrderItem, ...]:
    """What a line has to make, in the order of the lorries."""
    return tuple(order_items(plant, line_id, (), Shop(plant, [line_id]).most_packs))


def laid_out(plant: Scenario, items: Sequence[OrderItem], line_id: str = "line") -> LinePlan:
    """The plan of a line with its items in this very order."""
    shop = Shop(plant, [line_id])
    return line_plan(lay_out(shop, fixed_arrays(shop, ()), items), line_id, (), "by hand", 0)


def pair_headway(plant: Scenario, first: Product, then: Product) -> PairHeadway | None:
    """The headway of two products held no longer than they must be; None where they share no station."""
    found = leg_headways(plant, first, then).values()
    return max(found, key=lambda pair: pair.beyond_feed_min, default=None)
