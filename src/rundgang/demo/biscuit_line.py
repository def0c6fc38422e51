"""Ostermere's biscuit line: sandwich biscuits, enrobed mallow biscuits, and fermented, laminated crackers."""

from rundgang.core.kinds.batch import BatchStation
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep, KnownCooling, PieceGeometry, Zone
from rundgang.core.kinds.held import HeldStation, HeldStep
from rundgang.core.kinds.parts import Addition, Changeover
from rundgang.core.kinds.rate import RateStep
from rundgang.core.kinds.ripening import Ripening
from rundgang.core.plant import Line
from rundgang.core.products import FormulaLine, PackingUse, Preparation, Product
from rundgang.demo.parts import formula, machine, mix

LINE_ID = "biscuit-line"
BAND_M = 1.0

LINE = Line(
    id=LINE_ID,
    name="Biscuit line",
    stations=(
        BatchStation(id="slurry-tank", name="Slurry tank", mixers=("Slurry tank",), min_fill_kg=10, max_fill_kg=120),
        BatchStation(
            id="dough-mixers",
            name="Dough mixers",
            mixers=("Mixer Larch", "Mixer Pine"),
            min_fill_kg=70,
            max_fill_kg=180,
            room_m3=1_350,
            air_changes_per_h=4,
            changeover=Changeover(allergen_clean_min=15, trait_clean_min=8),
            hazards=("lifting",),
        ),
        BatchStation(id="cream-mixer", name="Cream mixer", mixers=("Cream mixer",), min_fill_kg=40, max_fill_kg=220),
        BatchStation(id="whippers", name="Whippers", mixers=("Whip One", "Whip Two"), min_fill_kg=20, max_fill_kg=90),
        HeldStation(id="warm-room", name="Warm room", positions=16, capacity_kg=300, turn_round_min=20),
        HeldStation(
            id="cream-tanks", name="Cream tanks", positions=2, position="tank", capacity_kg=320, turn_round_min=20
        ),
        machine("laminator", "Laminator", tool=0),
        machine("cutter", "Cutter and docker", tool=10, hazards=("blades", "rollers")),
        machine("moulder", "Rotary moulder", lanes=19, tool=18, hazards=("rollers",)),
        ConveyorStation(
            id="oven",
            name="Band oven",
            length_m=24,
            width_m=BAND_M,
            zones=(Zone(name="Zone 1", length_m=6), Zone(name="Zone 2", length_m=10), Zone(name="Zone 3", length_m=8)),
            setup_min=3,
            heating_c_per_min=4,
            cooling_c_per_min=2,
            transfer_min=0.5,
            changeover=Changeover(separation_min=1),
            hazards=("hot-oven", "dark-bake"),
        ),
        machine("oil-spray", "Oil spray", hazards=()),
        ConveyorStation(
            id="cooler",
            name="Cooling belt",
            length_m=42,
            width_m=BAND_M,
            transfer_min=0.5,
            changeover=Changeover(separation_min=1),
        ),
        machine("creamer", "Cream sandwicher", lanes=12, efficiency=0.95, tool=12),
        machine("depositor", "Mallow depositor", lanes=16, efficiency=0.95, tool=8),
        machine("enrober", "Enrober", lanes=16, efficiency=0.96, tool=6, hazards=("rollers",)),
        ConveyorStation(
            id="tunnel",
            name="Cooling tunnel",
            length_m=32,
            width_m=BAND_M,
            transfer_min=0.5,
            changeover=Changeover(separation_min=1),
        ),
        machine("packer", "Packers", machines=3, efficiency=0.94, tool=5, hazards=("foreign-bodies",), packers=6),
        machine("cartoner", "Cartoner", efficiency=0.97, hazards=("foreign-bodies",)),
    ),
)

SLURRY = Preparation(
    id="cracker-slurry",
    name="Cracker slurry",
    line=LINE_ID,
    formula=formula(water=88, yeast=10, enzyme=0.4, sugar=1.6),
    mixing=mix("slurry-tank", ("stir", 5), friction=2, rest=10, age=60),
    temperature_c=24,
    used_c=24,
)
VANILLA_CREAM = Preparation(
    id="biscuit-cream",
    name="Biscuit cream",
    line=LINE_ID,
    formula=formula(icing=66, palm=33, vanilla=1),
    mixing=mix("cream-mixer", ("beat", 12), friction=5, charge=5, discharge=5, age=240),
    held=HeldStep(station="cream-tanks", least_min=5, most_min=230),
    temperature_c=26,
    used_c=26,
)
MALLOW = Preparation(
    id="mallow",
    name="Mallow",
    line=LINE_ID,
    formula=formula(sugar=46, glucose=34, water=17.5, gelatine=2.5),
    mixing=mix("whippers", ("whip", 7), friction=4, charge=3, discharge=3, age=45),
    temperature_c=48,
    used_c=46,
)
PREPARATIONS = (SLURRY, VANILLA_CREAM, MALLOW)

ROUND = PieceGeometry(across_mm=44, gap_mm=8, pitch_mm=52)
BASE = PieceGeometry(across_mm=50, gap_mm=12, pitch_mm=62)
SQUARE = PieceGeometry(across_mm=52, gap_mm=1, pitch_mm=53)
SHEET_OF = 90
"""Crackers cut from one lap of laminated sheet."""


def _sandwich(product: str, name: str, parts: tuple[FormulaLine, ...], trait: str, allergen_roll: str) -> Product:
    return Product(
        id=product,
        name=name,
        line=LINE_ID,
        family="sandwich biscuits",
        piece="biscuit",
        pieces_per_pack=12,
        baked_g=6.2,
        bake_loss=0.09,
        dough_temperature_c=19,
        target_per_hour=30_000,
        traits=frozenset({trait}),
        formula=parts,
        route=(
            mix(
                "dough-mixers",
                ("cream", 6),
                ("slow", 4),
                friction=12,
                work=1.8,
                charge=6,
                discharge=5,
                rest=12,
                age=75,
                dry_ice=1.6,
            ),
            RateStep(station="moulder", strokes_per_min=62, tool=allergen_roll, yield_=0.985, rework=1),
            ConveyorStep(
                station="oven",
                bakes=True,
                grace_min=0.5,
                dwell_min=6.5,
                temperature_c=232,
                geometry=ROUND,
                yield_=0.985,
            ),
            ConveyorStep(station="cooler", dwell_min=10, geometry=ROUND),
            RateStep(
                station="creamer",
                strokes_per_min=46,
                takes=2,
                tool="cream stencil",
                adds=(Addition(item=VANILLA_CREAM.id, grams=4.6),),
                yield_=0.985,
            ),
            RateStep(station="packer", strokes_per_min=17, takes=12, tool="stack wrap", yield_=0.995),
            RateStep(station="cartoner", strokes_per_min=60),
        ),
        packing=(
            PackingUse(item="film", per_pack=1),
            PackingUse(item="label", per_pack=1),
            PackingUse(item="carton", per_pack=0.0625),
        ),
    )


def _mallow(product: str, name: str, chocolate: str, trait: str) -> Product:
    return Product(
        id=product,
        name=name,
        line=LINE_ID,
        family="enrobed mallow biscuits",
        piece="biscuit",
        pieces_per_pack=9,
        baked_g=9,
        bake_loss=0.1,
        dough_temperature_c=22,
        target_per_hour=21_000,
        traits=frozenset({trait}),
        formula=formula(flour_soft=100, water=16, sugar=30, palm=22, soda=0.6, salt=0.6, glucose=4),
        route=(
            mix(
                "dough-mixers", ("cream", 5), ("slow", 4), friction=14, work=1.6, charge=5, discharge=5, rest=10, age=90
            ),
            RateStep(station="moulder", strokes_per_min=30, tool="base roller", yield_=0.985, rework=1),
            ConveyorStep(
                station="oven", bakes=True, grace_min=0.5, dwell_min=7, temperature_c=214, geometry=BASE, yield_=0.985
            ),
            ConveyorStep(
                station="cooler",
                dwell_min=14,
                geometry=BASE,
                cooling=KnownCooling(from_c=92, to_c=26, air_c=21, minutes=14),
            ),
            RateStep(station="depositor", strokes_per_min=26, adds=(Addition(item=MALLOW.id, grams=8),), yield_=0.99),
            RateStep(
                station="enrober",
                strokes_per_min=26,
                tool=chocolate,
                adds=(Addition(item=chocolate, grams=9),),
                yield_=0.995,
            ),
            ConveyorStep(station="tunnel", dwell_min=9, temperature_c=12, geometry=BASE),
            RateStep(station="packer", strokes_per_min=15, takes=9, tool="tray wrap", yield_=0.995),
            RateStep(station="cartoner", strokes_per_min=60),
        ),
        packing=(
            PackingUse(item="film", per_pack=1),
            PackingUse(item="label", per_pack=1),
            PackingUse(item="carton", per_pack=0.08),
        ),
    )


def _cracker(product: str, name: str, parts: tuple[FormulaLine, ...], trait: str) -> Product:
    return Product(
        id=product,
        name=name,
        line=LINE_ID,
        family="fermented crackers",
        piece="cracker",
        pieces_per_pack=36,
        baked_g=3.6,
        bake_loss=0.2,
        dough_temperature_c=24,
        target_per_hour=62_000,
        traits=frozenset({trait}),
        formula=parts,
        route=(
            mix("dough-mixers", ("slow", 5), ("fast", 5), friction=18, work=3.2, charge=6, discharge=5, age=520),
            HeldStep(
                station="warm-room",
                least_min=330,
                most_min=500,
                ripens=Ripening(air_c=29, k_per_min=0.008, least_done_min=225, most_done_min=355),
            ),
            RateStep(station="laminator", strokes_per_min=15, yield_=0.98, rework=1),
            RateStep(
                station="cutter", strokes_per_min=15, makes=SHEET_OF, tool="cracker cutter", yield_=0.97, rework=1
            ),
            ConveyorStep(
                station="oven",
                bakes=True,
                grace_min=0.5,
                dwell_min=4.2,
                zone_c=(285, 270, 235),
                geometry=SQUARE,
                yield_=0.985,
            ),
            RateStep(station="oil-spray", strokes_per_min=1_400, adds=(Addition(item="oil", grams=0.3),)),
            ConveyorStep(station="cooler", dwell_min=7, geometry=SQUARE),
            RateStep(station="packer", strokes_per_min=13, takes=36, tool="stack wrap", yield_=0.995),
            RateStep(station="cartoner", strokes_per_min=60),
        ),
        packing=(
            PackingUse(item="film", per_pack=1),
            PackingUse(item="label", per_pack=1),
            PackingUse(item="carton", per_pack=0.05),
        ),
    )


SLURRY_LINE = FormulaLine(ingredient=SLURRY.id, percent=14)

PRODUCTS = (
    _sandwich(
        "signal-cocoa",
        "Signal Cocoa",
        formula(flour_soft=100, water=17, sugar=42, palm=27, cocoa=13, soda=(0.9, 8), salt=0.6),
        "cocoa",
        "star roller",
    ),
    _sandwich(
        "signal-oat",
        "Signal Oat",
        formula(flour_soft=80, flour_whole=20, water=19, sugar=36, palm=28, oats=(14, 6), soda=(0.8, 8), salt=0.7),
        "oats",
        "sheaf roller",
    ),
    _mallow("dune-cloud", "Dune Cloud", "chocolate", "milk chocolate"),
    _mallow("dune-dark", "Dune Cloud Dark", "dark-chocolate", "dark chocolate"),
    _cracker(
        "reed-salt",
        "Reed Cracker Salt",
        (*formula(flour_soft=100, water=18, palm=9, salt=1.6, soda=0.5), SLURRY_LINE),
        "plain cracker",
    ),
    _cracker(
        "reed-rye",
        "Reed Cracker Rye",
        (*formula(flour_soft=70, flour_rye=30, water=20, palm=9, salt=1.6, soda=0.5), SLURRY_LINE),
        "rye",
    ),
)
