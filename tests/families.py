"""The trade's families as plants of one line, with the figures people say of them (common practice)."""

from collections.abc import Sequence
from typing import NamedTuple

from plants import FLOUR, STARTS, WATER, belt, mixers
from rundgang.core.conditions import Conditions
from rundgang.core.kinds.batch import BatchStation, BatchStep, MixPhase
from rundgang.core.kinds.bench import BenchStation, BenchStep
from rundgang.core.kinds.chamber import ChamberStation, ChamberStep
from rundgang.core.kinds.conveyor import ConveyorStep, FriedSides
from rundgang.core.kinds.every import AnyStation, Step
from rundgang.core.kinds.held import HeldStation, HeldStep
from rundgang.core.kinds.parts import Addition
from rundgang.core.kinds.rate import CutOut, RateStation, RateStep
from rundgang.core.orders import Order, Wave, Window
from rundgang.core.plant import Carrier, Ingredient, Line, Plant
from rundgang.core.products import CarrierUse, FormulaLine, PackingUse, Preparation, Product
from rundgang.core.scenario import Scenario, Stock

YEAST = Ingredient(id="yeast", name="Yeast")
FAT = Ingredient(id="fat", name="Fat", allergens=frozenset({"milk"}))
JAM = Ingredient(id="jam", name="Jam")
CHOCOLATE = Ingredient(id="chocolate", name="Chocolate", allergens=frozenset({"milk"}))
BAG = Ingredient(id="bag", name="Bag", role="packing")
STORES = (FLOUR, WATER, YEAST, FAT, JAM, CHOCOLATE, BAG)

WINDOW_MIN = 2_880


def rate(station: str, machines: int = 1, lanes: int = 1) -> RateStation:
    """Machines that lose no stroke and take no time."""
    return RateStation(id=station, name=station.title(), machines=machines, lanes=lanes)


def strokes(station: str, per_min: float, **more: object) -> RateStep:
    """Passing such a machine."""
    return RateStep.model_validate({"station": station, "strokes_per_min": per_min} | more)


def mixing(minutes: float, rest: float = 1, age: float = 60, station: str = "mixers") -> BatchStep:
    """So many minutes of mixing, half a minute to fill and to empty the bowl."""
    return BatchStep(
        station=station,
        charge_min=0.5,
        phases=(MixPhase(speed="fast", minutes=minutes),),
        discharge_min=0.5,
        friction_c=20,
        rest_min=rest,
        max_age_min=age,
    )


class Family(NamedTuple):
    """A family: its line, what is made on it, what is prepared, and which product is looked at."""

    stations: Sequence[AnyStation]
    products: Sequence[Product]
    look_at: str
    preparations: Sequence[Preparation] = ()
    carriers: Sequence[Carrier] = ()


def made(product: str, route: Sequence[Step], **more: object) -> Product:
    """A product of flour and water, 100 g out of the oven, unless said otherwise."""
    plain = {
        "id": product,
        "name": product.title(),
        "line": "line",
        "pieces_per_pack": 1,
        "baked_g": 100,
        "bake_loss": 0,
        "dough_temperature_c": 26,
        "target_per_hour": 2_000,
        "formula": DOUGH,
        "route": tuple(route),
    }
    return Product.model_validate(plain | more)


DOUGH = (FormulaLine(ingredient="flour", percent=100), FormulaLine(ingredient="water", percent=60))

SPONGE = Preparation(
    id="sponge",
    name="Sponge",
    line="line",
    formula=(*DOUGH, FormulaLine(ingredient="yeast", percent=2)),
    mixing=mixing(6, rest=0, age=400, station="sponge-mixers"),
    held=HeldStep(station="troughs", least_min=180, most_min=240),
    temperature_c=24,
    used_c=27,
)
"""Troughs ferment 3 h."""

CREAM = Preparation(
    id="cream",
    name="Cream",
    line="line",
    formula=(FormulaLine(ingredient="fat", percent=40), FormulaLine(ingredient="jam", percent=60)),
    mixing=mixing(9, rest=0, age=300, station="kettle"),
    temperature_c=24,
    used_c=24,
)


def kettle(station: str, count: int = 1, most: float = 200) -> BatchStation:
    """Mixers for preparations."""
    names = tuple(f"{station} {number}" for number in range(1, count + 1))
    return BatchStation(id=station, name=station.title(), mixers=names, min_fill_kg=0.5, max_fill_kg=most)


def bulk_bread() -> Family:
    """600 kg of flour a dough; sponge 3 h in troughs, mixed 8 min, 192 a minute, proof 60, bake 20; slicers of 65."""
    half = FormulaLine(ingredient="sponge", percent=50 * 1.62)
    formula = (
        FormulaLine(ingredient="flour", percent=50),
        FormulaLine(ingredient="water", percent=35),
        half,
    )
    steps = (
        strokes("divider", 192),
        strokes("moulder", 11_500 / 60),
        ConveyorStep(station="proofer", dwell_min=60, temperature_c=42, humidity_pct=70),
        ConveyorStep(station="oven", bakes=True, dwell_min=20, temperature_c=255),
        ConveyorStep(station="cooler", dwell_min=50),
        strokes("slicer", 65),
    )
    loaf = made(
        "loaf",
        (mixing(8, rest=4, age=40), *steps),
        formula=formula,
        baked_g=800,
        bake_loss=0.12,
        target_per_hour=10_000,
        packing=(PackingUse(item="bag", per_pack=1),),
        carriers=(CarrierUse(carrier="tins", first="proofer", last="oven", pieces=4),),
    )
    stations: tuple[AnyStation, ...] = (
        kettle("sponge-mixers", 4, most=600),
        HeldStation(id="troughs", name="Troughs", positions=60, turn_round_min=15),
        mixers(4, most=1_010),
        rate("divider"),
        rate("moulder"),
        belt("proofer"),
        belt("oven"),
        belt("cooler"),
        rate("slicer", machines=3),
    )
    tins = Carrier(id="tins", name="Tins", count=4_000, return_min=15)
    return Family(stations, (loaf,), "loaf", (SPONGE,), (tins,))


def no_time_bread() -> Family:
    """Mixed 3 min, rests 5 to 8, proofs 45 to 50, bakes 17 to 25, cools about 2 h."""
    steps = (
        strokes("divider", 60),
        ConveyorStep(station="rest", dwell_min=6.5),
        ConveyorStep(station="proofer", dwell_min=47.5, temperature_c=40, humidity_pct=80),
        ConveyorStep(station="oven", bakes=True, dwell_min=21, temperature_c=230),
        ConveyorStep(station="cooler", dwell_min=120),
    )
    loaf = made("loaf", (mixing(3), *steps), baked_g=800, bake_loss=0.12)
    belts = (belt("rest"), belt("proofer"), belt("oven"), belt("cooler"))
    return Family((mixers(2, most=250), rate("divider"), *belts), (loaf,), "loaf")


def soft_rolls() -> Family:
    """The bread's own dough, rolled lengthwise by eight lanes."""
    steps = (
        strokes("divider", 25),
        strokes("moulder", 25),
        ConveyorStep(station="proofer", dwell_min=60, temperature_c=42, humidity_pct=70, pieces_per_place=6),
        ConveyorStep(station="oven", bakes=True, dwell_min=14, temperature_c=235, pieces_per_place=6),
        ConveyorStep(station="cooler", dwell_min=40, pieces_per_place=6),
        strokes("bagger", 30, takes=6),
    )
    roll = made("roll", (mixing(8), *steps), pieces_per_pack=6, baked_g=70, bake_loss=0.1, target_per_hour=9_000)
    machines = (rate("divider", lanes=8), rate("moulder", lanes=8))
    return Family(
        (mixers(2, most=500), *machines, belt("proofer"), belt("oven"), belt("cooler"), rate("bagger")), (roll,), "roll"
    )


def yeast_rings() -> Family:
    """Mixed 14 min to 30 °C, hopper rest 10, proof 30, fried 2 min in all and turned halfway; centres sold."""
    ring = made(
        "ring",
        (
            mixing(14, rest=10, age=40),
            strokes("cutter", 120, cut_out=CutOut(grams=15, product="centre"), yield_=0.98),
            ChamberStep(station="room", dwell_min=30, temperature_c=38, pieces_per_tray=24),
            ConveyorStep(
                station="fryer",
                bakes=True,
                dwell_min=2,
                temperature_c=190,
                sides=FriedSides(first_s=60, second_s=60),
                adds=(Addition(item="fat", grams=5),),
            ),
            strokes("packer", 25, takes=6),
        ),
        pieces_per_pack=6,
        baked_g=45,
        bake_loss=0.1,
        dough_temperature_c=30,
        target_per_hour=6_000,
    )
    centre = made(
        "centre",
        (
            ConveyorStep(station="small-fryer", bakes=True, dwell_min=1.5, temperature_c=190),
            strokes("tubs", 20, takes=10),
        ),
        pieces_per_pack=10,
        baked_g=13.5,
        bake_loss=0.1,
        target_per_hour=6_000,
        formula=(),
    )
    room = ChamberStation(id="room", name="Room", racks=20, trays_per_rack=20)
    fryers = (belt("fryer", 400), rate("packer"), belt("small-fryer", 400), rate("tubs"))
    return Family((mixers(2, most=160), rate("cutter"), room, *fryers), (ring, centre), "ring")


def centres() -> Family:
    """The centres of the same rings."""
    return yeast_rings()._replace(look_at="centre")


def cake_rings() -> Family:
    """Batter into the fryer, no proof; fried about 1.5 min."""
    ring = made(
        "cake",
        (
            mixing(6),
            strokes("depositor", 100),
            ConveyorStep(station="fryer", bakes=True, dwell_min=1.5, temperature_c=190),
        ),
        baked_g=45,
        target_per_hour=5_000,
    )
    return Family((mixers(2, most=90), rate("depositor"), belt("fryer", 150)), (ring,), "cake")


def filled() -> Family:
    """Fillings per minute per person: headcount is the capacity. Twelve people at eight a minute."""
    doughnut = made(
        "filled",
        (
            mixing(14, rest=10, age=40),
            strokes("divider", 120),
            ConveyorStep(station="fryer", bakes=True, dwell_min=3, temperature_c=190),
            BenchStep(station="nozzles", pieces_per_person_min=8, adds=(Addition(item="cream", grams=14),)),
        ),
        baked_g=50,
        bake_loss=0.1,
        dough_temperature_c=30,
        target_per_hour=6_000,
    )
    bench = BenchStation(id="nozzles", name="Nozzles", people=12)
    stations = (mixers(2, most=160), kettle("kettle"), rate("divider"), belt("fryer", 400), bench)
    return Family(stations, (doughnut,), "filled", (CREAM,))


def sandwich() -> Family:
    """5,000 moulded shells an hour, two to a biscuit, packed in stacks of 11."""
    biscuit = made(
        "sandwich",
        (
            mixing(10, rest=5, age=240),
            strokes("moulder", 5_000 / 60),
            ConveyorStep(station="oven", bakes=True, dwell_min=7, temperature_c=230),
            ConveyorStep(station="cooler", dwell_min=10),
            strokes("creamer", 60, takes=2, adds=(Addition(item="cream", grams=5),)),
            strokes("stacker", 10, takes=11),
        ),
        pieces_per_pack=11,
        baked_g=6,
        bake_loss=0.08,
        target_per_hour=2_500,
        packing=(PackingUse(item="bag", per_pack=1),),
    )
    stations = (mixers(1, most=60), kettle("kettle"), rate("moulder"), belt("oven"), belt("cooler"), rate("creamer"))
    return Family((*stations, rate("stacker")), (biscuit,), "sandwich", (CREAM,))


def enrobed() -> Family:
    """Base, deposit, chocolate: three masses in one piece."""
    biscuit = made(
        "enrobed",
        (
            mixing(8),
            strokes("moulder", 60),
            ConveyorStep(station="oven", bakes=True, dwell_min=7, temperature_c=210),
            ConveyorStep(station="cooler", dwell_min=15),
            strokes("depositor", 60, adds=(Addition(item="cream", grams=8),)),
            strokes("enrober", 60, adds=(Addition(item="chocolate", grams=9),)),
            ConveyorStep(station="tunnel", dwell_min=10, temperature_c=12),
        ),
        baked_g=9,
        bake_loss=0.1,
        target_per_hour=3_000,
    )
    machines = (rate("moulder"), belt("oven"), belt("cooler"), rate("depositor"), rate("enrober"), belt("tunnel"))
    return Family((mixers(1, most=60, least=0.1), kettle("kettle"), *machines), (biscuit,), "enrobed", (CREAM,))


def cracker() -> Family:
    """A slurry, a dough of many hours in a warm room with a ceiling, a sheet cut into many."""
    slurry = SPONGE.model_copy(
        update={
            "id": "slurry",
            "name": "Slurry",
            "held": None,
            "formula": (FormulaLine(ingredient="yeast", percent=5), FormulaLine(ingredient="water", percent=95)),
        }
    )
    formula = (*DOUGH, FormulaLine(ingredient="slurry", percent=10))
    biscuit = made(
        "cracker",
        (
            mixing(8, rest=0, age=1_200),
            HeldStep(station="warm-room", least_min=960, most_min=1_140),
            strokes("cutter", 2, makes=100),
            ConveyorStep(station="oven", bakes=True, dwell_min=4, temperature_c=260),
            strokes("stacker", 20, takes=40),
        ),
        formula=formula,
        pieces_per_pack=40,
        baked_g=4,
        bake_loss=0.2,
        target_per_hour=10_000,
    )
    warm = HeldStation(id="warm-room", name="Warm room", positions=30, turn_round_min=30)
    stations = (kettle("sponge-mixers"), mixers(1, most=100), warm, rate("cutter"), belt("oven"), rate("stacker"))
    return Family(stations, (biscuit,), "cracker", (slurry,))


def laminated() -> Family:
    """A sheet with fat, refrigerated 8 h: two legs; then cut into triangles."""
    pastry = made(
        "pastry",
        (
            mixing(6),
            strokes("fat-sheeter", 1, adds=(Addition(item="fat", grams=1_500),)),
            HeldStep(station="cold-store", least_min=480, most_min=1_080, pieces_per_position=4),
            strokes("cutter", 1, makes=100),
            ConveyorStep(station="oven", bakes=True, dwell_min=16, temperature_c=195),
        ),
        baked_g=52,
        bake_loss=0.15,
        target_per_hour=4_000,
    )
    store = HeldStation(id="cold-store", name="Cold store", positions=120, turn_round_min=10)
    return Family((mixers(1, most=150), rate("fat-sheeter"), store, rate("cutter"), belt("oven")), (pastry,), "pastry")


def rings() -> Family:
    """Proofed 90 min, baked 13, 50 on the cooler; bags of six."""
    ring = made(
        "ring",
        (
            mixing(10, rest=4),
            strokes("divider", 75),
            ConveyorStep(station="proofer", dwell_min=90, temperature_c=43, humidity_pct=80),
            ConveyorStep(station="oven", bakes=True, dwell_min=13, temperature_c=232),
            ConveyorStep(station="cooler", dwell_min=50),
            strokes("bagger", 50, takes=6),
        ),
        pieces_per_pack=6,
        baked_g=90,
        bake_loss=1 - 90 / 105,
        target_per_hour=18_000,
    )
    belts = (belt("proofer"), belt("oven"), belt("cooler"))
    return Family((mixers(2, most=340), rate("divider", lanes=4), *belts, rate("bagger")), (ring,), "ring")


FAMILIES = {
    "rings": rings,
    "yeast rings": yeast_rings,
    "cake rings": cake_rings,
    "filled": filled,
    "centres": centres,
    "bulk bread": bulk_bread,
    "soft rolls": soft_rolls,
    "no-time bread": no_time_bread,
    "sandwich": sandwich,
    "enrobed": enrobed,
    "cracker": cracker,
    "laminated": laminated,
}


def plant_of(family: Family, packs: int = 1_000, stocks: Sequence[Stock] = ()) -> Scenario:
    """A plant of one line that makes a family, with one order for each of its products at the end of two days."""
    line = Line(id="line", name="Line", stations=tuple(family.stations), carriers=tuple(family.carriers))
    return Scenario(
        plant=Plant(name="Test plant", town="Nowhere", time_zone="UTC", ingredients=STORES, lines=(line,)),
        preparations=tuple(family.preparations),
        products=tuple(family.products),
        window=Window(starts_at=STARTS, minutes=WINDOW_MIN),
        waves=(Wave(id="lorry", name="Lorry", departs_min=WINDOW_MIN),),
        orders=tuple(
            Order(id=f"o{number}", product=product.id, wave="lorry", packs=packs)
            for number, product in enumerate(family.products)
        ),
        conditions=Conditions(room_c=22, flour_c=20, tap_c=15),
        stocks=tuple(stocks),
    )
