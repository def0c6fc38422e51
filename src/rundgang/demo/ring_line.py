"""Ostermere Rings: one continuous line for proofed, steam-baked rings, three products, a day of orders."""

from datetime import date

from rundgang.core.conditions import Conditions
from rundgang.core.kinds.batch import BatchStation, BatchStep, MixPhase
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep, KnownCooling
from rundgang.core.kinds.parts import Changeover, CrewUse
from rundgang.core.kinds.rate import RateStation, RateStep
from rundgang.core.orders import Order, Wave, Window
from rundgang.core.plant import Line, Plant
from rundgang.core.products import FormulaLine, Product
from rundgang.core.scenario import Scenario
from rundgang.demo.lorries import LORRIES, TIME_ZONE, TOWN, departs_min, opening
from rundgang.demo.materials import RING_STORES
from rundgang.demo.parts import CREWS, PACKERS

WINDOW_MIN = 18 * 60

LINE = Line(
    id="ring-line",
    name="Ring line",
    stations=(
        BatchStation(
            id="mixers",
            name="Mixers",
            mixers=("Mixer Alder", "Mixer Birch"),
            min_fill_kg=70,
            max_fill_kg=175,
            changeover=Changeover(allergen_clean_min=14, trait_clean_min=6),
        ),
        RateStation(
            id="divider",
            hazards=("rollers",),
            name="Divider",
            lanes=5,
            efficiency=0.97,
            pass_min=0.5,
            transfer_min=0.5,
            changeover=Changeover(separation_min=1, allergen_clean_min=12, trait_clean_min=5),
        ),
        RateStation(
            id="former",
            hazards=("rollers",),
            name="Ring former",
            lanes=5,
            efficiency=0.97,
            pass_min=0.5,
            transfer_min=1.5,
            changeover=Changeover(separation_min=1, tool_change_min=8, allergen_clean_min=12, trait_clean_min=5),
        ),
        ConveyorStation(
            id="proofer",
            name="Proofer",
            places=9_900,
            length_m=310,
            setup_min=6,
            transfer_min=1,
            changeover=Changeover(separation_min=1),
        ),
        ConveyorStation(
            id="oven",
            hazards=("hot-oven", "dark-bake"),
            name="Steam oven",
            places=2_480,
            length_m=34,
            setup_min=3,
            heating_c_per_min=2.5,
            cooling_c_per_min=1.5,
            transfer_min=0.5,
            changeover=Changeover(separation_min=1),
        ),
        ConveyorStation(
            id="cooler",
            name="Cooling spiral",
            places=7_300,
            length_m=260,
            transfer_min=1,
            changeover=Changeover(separation_min=1),
        ),
        RateStation(
            id="slicer",
            hazards=("blades", "foreign-bodies"),
            name="Slicer",
            machines=2,
            lanes=2,
            efficiency=0.95,
            pass_min=0.25,
            transfer_min=0.5,
            changeover=Changeover(separation_min=1, allergen_clean_min=10, trait_clean_min=4),
        ),
        RateStation(
            id="bagger",
            hazards=("foreign-bodies", "warm-bagging"),
            name="Bagger",
            machines=2,
            efficiency=0.94,
            staffed=CrewUse(crew=PACKERS.id, people=4),
            pass_min=0.5,
            changeover=Changeover(separation_min=1, tool_change_min=7, allergen_clean_min=6, trait_clean_min=3),
        ),
    ),
)


def _mix(*phases: tuple[str, float], friction_c: float, work_wh_per_kg: float) -> BatchStep:
    return BatchStep(
        station="mixers",
        charge_min=3,
        phases=tuple(MixPhase(speed=speed, minutes=minutes) for speed, minutes in phases),
        discharge_min=2,
        friction_c=friction_c,
        work_wh_per_kg=work_wh_per_kg,
        rest_min=4,
        max_age_min=32,
    )


def _make_up(strokes: float, die: str) -> tuple[RateStep, RateStep]:
    return (
        RateStep(station="divider", strokes_per_min=strokes, yield_=0.995),
        RateStep(station="former", strokes_per_min=strokes, tool=die, yield_=0.99, next_within_s=90),
    )


def _bag(strokes: float, film: str, pieces: int) -> RateStep:
    return RateStep(station="bagger", strokes_per_min=strokes, tool=film, takes=pieces, yield_=0.998)


COOLED = KnownCooling(from_c=94, to_c=35, air_c=21, minutes=44)

PRODUCTS = (
    Product(
        id="lantern-plain",
        name="Lantern Plain",
        line="ring-line",
        family="ring rolls",
        piece="ring",
        pieces_per_pack=5,
        baked_g=84,
        bake_loss=0.125,
        fresh_for_h=18,
        dough_temperature_c=25.0,
        target_per_hour=9_000,
        formula=(
            FormulaLine(ingredient="flour-mill", percent=100),
            FormulaLine(ingredient="water", percent=53),
            FormulaLine(ingredient="malt", percent=3.2),
            FormulaLine(ingredient="yeast", percent=2.1),
            FormulaLine(ingredient="salt", percent=1.8, at_min=4),
            FormulaLine(ingredient="oil", percent=1.5),
        ),
        route=(
            _mix(("slow", 4), ("fast", 6), friction_c=21.5, work_wh_per_kg=7.1),
            *_make_up(34, "die 62"),
            ConveyorStep(station="proofer", grace_min=15, dwell_min=62, temperature_c=38, humidity_pct=78),
            ConveyorStep(station="oven", bakes=True, grace_min=1, dwell_min=14, temperature_c=236, yield_=0.995),
            ConveyorStep(station="cooler", dwell_min=45, cooling=COOLED),
            RateStep(station="slicer", strokes_per_min=50, yield_=0.998),
            _bag(19, "film clear 5", 5),
        ),
    ),
    Product(
        id="harvest-sesame",
        name="Harvest Sesame",
        line="ring-line",
        family="ring rolls",
        piece="ring",
        pieces_per_pack=5,
        baked_g=88,
        bake_loss=0.12,
        fresh_for_h=18,
        dough_temperature_c=25.5,
        target_per_hour=9_000,
        traits=frozenset({"seeds"}),
        formula=(
            FormulaLine(ingredient="flour-mill", percent=78),
            FormulaLine(ingredient="flour-spelt", percent=22),
            FormulaLine(ingredient="water", percent=55),
            FormulaLine(ingredient="malt", percent=2.4),
            FormulaLine(ingredient="yeast", percent=2.3),
            FormulaLine(ingredient="salt", percent=1.9, at_min=4),
            FormulaLine(ingredient="sesame", percent=7.5, at_min=9),
        ),
        route=(
            _mix(("slow", 4), ("fast", 5), ("slow", 2), friction_c=19.0, work_wh_per_kg=6.0),
            *_make_up(34, "die 62"),
            ConveyorStep(station="proofer", grace_min=15, dwell_min=62, temperature_c=38, humidity_pct=78),
            ConveyorStep(station="oven", bakes=True, grace_min=1, dwell_min=15, temperature_c=232, yield_=0.995),
            ConveyorStep(station="cooler", dwell_min=45, cooling=COOLED),
            RateStep(station="slicer", strokes_per_min=50, yield_=0.998),
            _bag(19, "film gold 5", 5),
        ),
    ),
    Product(
        id="pear-cardamom",
        name="Pear & Cardamom",
        line="ring-line",
        family="ring rolls",
        piece="ring",
        pieces_per_pack=4,
        baked_g=92,
        bake_loss=0.11,
        fresh_for_h=18,
        dough_temperature_c=26.0,
        target_per_hour=8_200,
        traits=frozenset({"cardamom"}),
        formula=(
            FormulaLine(ingredient="flour-mill", percent=100),
            FormulaLine(ingredient="water", percent=50),
            FormulaLine(ingredient="malt", percent=6),
            FormulaLine(ingredient="yeast", percent=2.9),
            FormulaLine(ingredient="salt", percent=1.5, at_min=4),
            FormulaLine(ingredient="oil", percent=3),
            FormulaLine(ingredient="cardamom", percent=0.6),
            FormulaLine(ingredient="pear", percent=11, at_min=8.5),
        ),
        route=(
            _mix(("slow", 4), ("fast", 4.5), ("slow", 2.5), friction_c=18.0, work_wh_per_kg=5.0),
            *_make_up(31, "die 70"),
            ConveyorStep(station="proofer", grace_min=15, dwell_min=70, temperature_c=38, humidity_pct=74),
            ConveyorStep(station="oven", bakes=True, grace_min=1, dwell_min=16, temperature_c=218, yield_=0.993),
            ConveyorStep(station="cooler", dwell_min=48, cooling=COOLED),
            _bag(21, "film rust 4", 4),
        ),
    ),
)

ORDERS = (
    ("4101", "harbour", "lantern-plain", 2_280),
    ("4102", "harbour", "lantern-plain", 940),
    ("4103", "harbour", "harvest-sesame", 1_360),
    ("4104", "hill", "lantern-plain", 1_640),
    ("4105", "hill", "harvest-sesame", 620),
    ("4106", "hill", "harvest-sesame", 480),
    ("4107", "hill", "pear-cardamom", 1_240),
    ("4108", "market", "lantern-plain", 1_180),
    ("4109", "market", "pear-cardamom", 1_450),
    ("4110", "market", "harvest-sesame", 890),
    ("4111", "depot", "lantern-plain", 2_700),
    ("4112", "depot", "harvest-sesame", 1_760),
    ("4113", "depot", "pear-cardamom", 1_020),
    ("4114", "depot", "pear-cardamom", 540),
)


def ring_line(day: date) -> Scenario:
    """The ring line's day by itself; the shift opens the evening before.

    Parameters
    ----------
    day : date
        The day the lorries leave, in the plant's time zone.
    """
    opens = opening(day)
    return Scenario(
        plant=Plant(
            name="Ostermere Rings",
            town=TOWN,
            time_zone=TIME_ZONE,
            ingredients=RING_STORES,
            crews=CREWS,
            lines=(LINE,),
        ),
        products=PRODUCTS,
        window=Window(starts_at=opens, minutes=WINDOW_MIN),
        waves=tuple(
            Wave(id=wave, name=name, departs_min=departs_min(opens, day, leaves)) for wave, name, leaves in LORRIES
        ),
        orders=tuple(
            Order(id=number, wave=wave, product=product, packs=packs) for number, wave, product, packs in ORDERS
        ),
        conditions=Conditions(room_c=23.5, flour_c=21.0, tap_c=14.5),
    )
