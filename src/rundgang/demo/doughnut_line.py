"""Ostermere's doughnut line: yeast rings and their centres, cake rings from batter, and filled doughnuts."""

from rundgang.core.kinds.batch import BatchStation, BatchStep
from rundgang.core.kinds.bench import BenchStation, BenchStep
from rundgang.core.kinds.chamber import ChamberStation, ChamberStep
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep, FriedSides
from rundgang.core.kinds.every import Step
from rundgang.core.kinds.held import HeldStation, HeldStep
from rundgang.core.kinds.parts import Addition, Changeover
from rundgang.core.kinds.rate import CutOut, RateStep
from rundgang.core.plant import Line
from rundgang.core.products import FormulaLine, PackingUse, Preparation, Product
from rundgang.demo.parts import formula, machine, mix

LINE_ID = "doughnut-line"
OIL_C = 188.0

LINE = Line(
    id=LINE_ID,
    name="Doughnut line",
    stations=(
        BatchStation(
            id="dough-mixers",
            name="Dough mixers",
            mixers=("Mixer Hazel", "Mixer Rowan"),
            min_fill_kg=50,
            max_fill_kg=112,
            changeover=Changeover(allergen_clean_min=12, trait_clean_min=6),
        ),
        BatchStation(
            id="batter-mixers",
            name="Batter mixers",
            mixers=("Batter One", "Batter Two"),
            min_fill_kg=25,
            max_fill_kg=85,
            changeover=Changeover(allergen_clean_min=10, trait_clean_min=6),
        ),
        BatchStation(id="glaze-kettle", name="Glaze kettle", mixers=("Glaze kettle",), min_fill_kg=20, max_fill_kg=120),
        BatchStation(
            id="cream-kettle",
            name="Cream kettle",
            mixers=("Cream kettle",),
            min_fill_kg=20,
            max_fill_kg=110,
            hazards=("cream-filling",),
        ),
        HeldStation(
            id="glaze-tanks", name="Glaze tanks", positions=2, position="tank", capacity_kg=170, turn_round_min=12
        ),
        HeldStation(
            id="cream-tank", name="Cream tank", positions=1, position="tank", capacity_kg=150, turn_round_min=15
        ),
        machine("sheeter", "Sheeter", lanes=8),
        machine("cutter", "Ring cutter", lanes=8, tool=6, hazards=("blades",)),
        machine("divider", "Divider", lanes=6),
        machine("flattener", "Rounder press", lanes=6),
        ChamberStation(
            id="proof-room",
            name="Proof room",
            racks=18,
            trays_per_rack=16,
            setup_min=8,
            transfer_min=1,
            changeover=Changeover(separation_min=1),
        ),
        machine("depositor", "Depositor", lanes=8, tool=6),
        ConveyorStation(
            id="fryer",
            name="Fryer",
            places=300,
            length_m=7.5,
            oil_kg=950,
            setup_min=2,
            heating_c_per_min=3,
            cooling_c_per_min=0.6,
            transfer_min=0.3,
            changeover=Changeover(separation_min=1, allergen_clean_min=15),
            hazards=("hot-oil", "dark-bake"),
        ),
        machine("glazer", "Glaze curtain", lanes=8, tool=5, hazards=()),
        ConveyorStation(
            id="cooler",
            name="Cooling belt",
            places=2_100,
            length_m=46,
            transfer_min=0.5,
            changeover=Changeover(separation_min=1),
        ),
        machine("sugar-drum", "Sugar drum", lanes=6, hazards=("rollers",)),
        BenchStation(
            id="injectors",
            name="Injectors",
            people=11,
            pass_min=0.2,
            transfer_min=0.5,
            changeover=Changeover(separation_min=1, allergen_clean_min=12, trait_clean_min=6),
            hazards=("cream-filling",),
        ),
        machine("packer", "Packers", machines=2, efficiency=0.95, hazards=("foreign-bodies",), packers=5),
        ConveyorStation(
            id="bite-fryer",
            name="Bite fryer",
            places=260,
            length_m=3.4,
            oil_kg=240,
            changeover=Changeover(separation_min=1),
            hazards=("hot-oil",),
        ),
        machine("bite-drum", "Bite drum", lanes=4, hazards=("rollers",)),
        machine("bite-packer", "Tub filler", hazards=("foreign-bodies",)),
    ),
)

GLAZE = Preparation(
    id="white-glaze",
    name="White glaze",
    line=LINE_ID,
    formula=formula(icing=80, water=18, glucose=2),
    mixing=mix("glaze-kettle", ("stir", 9), friction=3, charge=4, discharge=4, age=240),
    held=HeldStep(station="glaze-tanks", least_min=2, most_min=230),
    temperature_c=44,
    used_c=42,
)
COCOA_GLAZE = Preparation(
    id="cocoa-glaze",
    name="Cocoa glaze",
    line=LINE_ID,
    formula=formula(icing=70, water=19, cocoa=9, palm=2),
    mixing=mix("glaze-kettle", ("stir", 10), friction=3, charge=4, discharge=4, age=240),
    held=HeldStep(station="glaze-tanks", least_min=2, most_min=230),
    temperature_c=44,
    used_c=42,
)
VANILLA_CREAM = Preparation(
    id="vanilla-cream",
    name="Vanilla cream",
    line=LINE_ID,
    formula=formula(water=62, vanilla=24, sugar=14),
    mixing=mix("cream-kettle", ("whisk", 8), friction=4, charge=4, discharge=4, age=120),
    held=HeldStep(station="cream-tank", least_min=5, most_min=110),
    temperature_c=14,
    used_c=14,
)
PREPARATIONS = (GLAZE, COCOA_GLAZE, VANILLA_CREAM)

YEAST_DOUGH = formula(flour_mill=100, water=46, egg=9, sugar=10, palm=9, yeast=4.5, salt=1.4, milk_powder=3, soda=0.4)
FRYING_OIL = "frying-oil"


def _yeast_mix() -> BatchStep:
    return mix("dough-mixers", ("slow", 4), ("fast", 9), friction=26.5, work=6.5, rest=10, age=36)


def _tray_of_six(label: bool = True) -> tuple[PackingUse, ...]:
    labels = (PackingUse(item="label", per_pack=1),) if label else ()
    return (PackingUse(item="tray-six", per_pack=1), *labels)


def _ring(product: str, name: str, finish: Addition, sold: str | None, trait: str = "") -> Product:
    return Product(
        id=product,
        name=name,
        line=LINE_ID,
        family="yeast ring doughnuts",
        piece="ring",
        pieces_per_pack=6,
        baked_g=42,
        bake_loss=0.08,
        fresh_for_h=11,
        dough_temperature_c=29.5,
        target_per_hour=8_200,
        traits=frozenset({trait} if trait else ()),
        formula=YEAST_DOUGH,
        route=(
            _yeast_mix(),
            RateStep(station="sheeter", strokes_per_min=20),
            RateStep(
                station="cutter",
                strokes_per_min=20,
                tool="ring cutter",
                cut_out=CutOut(grams=14, product=sold),
                yield_=0.985,
                rework=1,
            ),
            ChamberStep(
                station="proof-room", grace_min=15, dwell_min=32, temperature_c=38, humidity_pct=72, pieces_per_tray=24
            ),
            ConveyorStep(
                station="fryer",
                bakes=True,
                dwell_min=2,
                temperature_c=OIL_C,
                sides=FriedSides(first_s=60, second_s=60),
                adds=(Addition(item=FRYING_OIL, grams=5),),
                yield_=0.99,
            ),
            RateStep(station="glazer", strokes_per_min=20, tool=finish.item, adds=(finish,)),
            ConveyorStep(station="cooler", dwell_min=14, yield_=0.997),
            RateStep(station="packer", strokes_per_min=13.5, takes=6, yield_=0.998),
        ),
        packing=_tray_of_six(),
    )


def _cake(product: str, name: str, parts: tuple[FormulaLine, ...], trait: str = "") -> Product:
    return Product(
        id=product,
        name=name,
        line=LINE_ID,
        family="cake doughnuts",
        piece="ring",
        pieces_per_pack=6,
        baked_g=46,
        bake_loss=0.1,
        fresh_for_h=11,
        dough_temperature_c=24,
        target_per_hour=7_800,
        traits=frozenset({trait} if trait else ()),
        formula=parts,
        route=(
            mix("batter-mixers", ("slow", 2), ("medium", 4), friction=9, work=2.4, rest=6, age=28),
            RateStep(station="depositor", strokes_per_min=17.5, tool="ring plungers", yield_=0.99),
            ConveyorStep(
                station="fryer",
                bakes=True,
                dwell_min=1.7,
                temperature_c=OIL_C,
                sides=FriedSides(first_s=51, second_s=51),
                adds=(Addition(item=FRYING_OIL, grams=7),),
                yield_=0.99,
            ),
            ConveyorStep(station="cooler", dwell_min=14, yield_=0.997),
            RateStep(station="sugar-drum", strokes_per_min=26, adds=(Addition(item="icing", grams=3),)),
            RateStep(station="packer", strokes_per_min=13.5, takes=6, yield_=0.998),
        ),
        packing=_tray_of_six(),
    )


def _filled(product: str, name: str, filling: Addition, trait: str) -> Product:
    steps: tuple[Step, ...] = (
        RateStep(station="divider", strokes_per_min=21, yield_=0.99, rework=1),
        RateStep(station="flattener", strokes_per_min=21),
        ChamberStep(
            station="proof-room", grace_min=15, dwell_min=42, temperature_c=38, humidity_pct=72, pieces_per_tray=20
        ),
        ConveyorStep(
            station="fryer",
            bakes=True,
            dwell_min=2.6,
            temperature_c=OIL_C,
            sides=FriedSides(first_s=78, second_s=78),
            adds=(Addition(item=FRYING_OIL, grams=6),),
            yield_=0.99,
        ),
        ConveyorStep(station="cooler", dwell_min=16),
        RateStep(station="sugar-drum", strokes_per_min=22, adds=(Addition(item="sugar", grams=4),)),
        BenchStep(station="injectors", pieces_per_person_min=9.5, adds=(filling,), yield_=0.99),
        RateStep(station="packer", strokes_per_min=13.5, takes=6, yield_=0.998),
    )
    return Product(
        id=product,
        name=name,
        line=LINE_ID,
        family="filled doughnuts",
        piece="doughnut",
        pieces_per_pack=6,
        baked_g=52,
        bake_loss=0.09,
        fresh_for_h=11,
        dough_temperature_c=29,
        target_per_hour=5_900,
        traits=frozenset({trait}),
        formula=YEAST_DOUGH,
        route=(_yeast_mix(), *steps),
        packing=_tray_of_six(),
    )


BITES = Product(
    id="gull-bites",
    name="Gull Bites",
    line=LINE_ID,
    family="doughnut centres",
    piece="bite",
    pieces_per_pack=20,
    baked_g=12.6,
    bake_loss=0.1,
    fresh_for_h=46,
    dough_temperature_c=29.5,
    target_per_hour=8_000,
    route=(
        ConveyorStep(
            station="bite-fryer",
            bakes=True,
            dwell_min=1.5,
            temperature_c=OIL_C,
            sides=FriedSides(first_s=45, second_s=45),
            adds=(Addition(item=FRYING_OIL, grams=2),),
            yield_=0.985,
        ),
        RateStep(station="bite-drum", strokes_per_min=45, adds=(Addition(item="cinnamon", grams=1),)),
        RateStep(station="bite-packer", strokes_per_min=9, takes=20, yield_=0.997),
    ),
    packing=(PackingUse(item="tub", per_pack=1), PackingUse(item="label", per_pack=1)),
)

CAKE_BATTER = formula(flour_soft=100, water=56, sugar=38, egg=14, palm=8, soda=2.2, salt=1, milk_powder=4)

PRODUCTS = (
    _ring("gull-glazed", "Gull Ring Glazed", Addition(item=GLAZE.id, grams=9), BITES.id),
    _ring("gull-cocoa", "Gull Ring Cocoa", Addition(item=COCOA_GLAZE.id, grams=10), None, "cocoa"),
    _ring("gull-cinnamon", "Gull Ring Cinnamon", Addition(item="cinnamon", grams=5), None, "cinnamon"),
    _cake("pier-plain", "Pier Cake Ring", CAKE_BATTER),
    _cake("pier-lemon", "Pier Cake Lemon", (*CAKE_BATTER, *formula(lemon=(0.8, 4))), "lemon"),
    _filled("buoy-plum", "Buoy Plum", Addition(item="plum", grams=15), "plum"),
    _filled("buoy-vanilla", "Buoy Vanilla", Addition(item=VANILLA_CREAM.id, grams=14), "vanilla"),
    _filled("buoy-hazel", "Buoy Hazel", Addition(item="hazel", grams=13), "hazelnut"),
    BITES,
)
