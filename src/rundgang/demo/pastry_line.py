"""Ostermere's pastry line: laminated crescents, whose night in the cold store splits the route into two legs."""

from rundgang.core.kinds.batch import BatchStation
from rundgang.core.kinds.bench import BenchStation, BenchStep
from rundgang.core.kinds.chamber import ChamberStation, ChamberStep
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep, KnownCooling
from rundgang.core.kinds.held import HeldStation, HeldStep
from rundgang.core.kinds.parts import Addition, Bands, Changeover, Lamination, SetUpCheck, WearingTool
from rundgang.core.kinds.rate import RateStep
from rundgang.core.plant import Line
from rundgang.core.products import FormulaLine, PackingUse, Product
from rundgang.demo.parts import formula, machine, mix

LINE_ID = "pastry-line"
TRIANGLES = 110
"""Cut from one laminated pad."""

LINE = Line(
    id=LINE_ID,
    name="Pastry line",
    stations=(
        BatchStation(
            id="dough-mixers",
            name="Dough mixers",
            mixers=("Mixer Maple", "Mixer Plane"),
            min_fill_kg=40,
            max_fill_kg=105,
            jacket_kw=0.8,
            changeover=Changeover(allergen_clean_min=12, trait_clean_min=6),
        ),
        machine("fat-pump", "Fat sheeter", hazards=("rollers", "lifting")),
        machine("folder", "Folding table", transfer=1),
        HeldStation(
            id="cold-store",
            name="Cold store",
            positions=96,
            position="rack place",
            turn_round_min=15,
            changeover=Changeover(separation_min=1),
        ),
        machine(
            "triangle-cutter",
            "Triangle cutter",
            tool=5,
            hazards=("blades", "rollers"),
            tools=(WearingTool(id="knives", name="Cutting knives", counted="strokes", life=9_000, renew_min=25),),
        ),
        machine("roller", "Roller", lanes=6),
        ChamberStation(
            id="proof-room",
            name="Proof room",
            racks=40,
            trays_per_rack=18,
            setup_min=10,
            transfer_min=1,
            changeover=Changeover(separation_min=1),
        ),
        ConveyorStation(
            id="oven",
            name="Tunnel oven",
            places=2_250,
            length_m=22,
            width_m=2.4,
            setup_min=3,
            heating_c_per_min=3,
            cooling_c_per_min=1.5,
            transfer_min=0.5,
            changeover=Changeover(separation_min=1),
            hazards=("hot-oven", "dark-bake"),
        ),
        ConveyorStation(
            id="cooler",
            name="Cooling spiral",
            places=4_300,
            length_m=120,
            transfer_min=0.5,
            changeover=Changeover(separation_min=1),
        ),
        BenchStation(
            id="inspection",
            name="Inspection",
            people=7,
            pass_min=0.1,
            transfer_min=0.3,
            changeover=Changeover(separation_min=1, allergen_clean_min=8),
        ),
        machine(
            "packer",
            "Packers",
            machines=2,
            efficiency=0.95,
            tool=4,
            hazards=("foreign-bodies", "warm-bagging"),
            packers=3,
        ),
    ),
)


FOLDED = RateStep(
    station="folder",
    strokes_per_min=1.6,
    laminates=Lamination(folds=(3, 3, 3), passes_mm=(16, 10, 6.5, 4), fat="butter-sheet", block_kg=2),
    set_up=(
        SetUpCheck(what="Butter sheet, out of the chill", wanted="12 to 15 °C"),
        SetUpCheck(what="Last rollers, gap", wanted="4.0 mm"),
    ),
)
"""Three single turns, then rolled down pass by pass."""


def _crescent(
    product: str,
    name: str,
    parts: tuple[FormulaLine, ...],
    *,
    traits: tuple[str, ...] = (),
    filled: Addition | None = None,
) -> Product:
    return Product(
        id=product,
        name=name,
        line=LINE_ID,
        family="laminated crescents",
        piece="crescent",
        pieces_per_pack=5,
        baked_g=50,
        bake_loss=0.14,
        fresh_for_h=12,
        dough_temperature_c=17,
        target_per_hour=7_200,
        traits=frozenset(traits),
        formula=parts,
        route=(
            mix("dough-mixers", ("slow", 4), ("fast", 3), friction=2, work=3.2, rest=8, age=70),
            RateStep(
                station="fat-pump",
                strokes_per_min=1.6,
                adds=(Addition(item="butter-sheet", grams=1_400),),
                yield_=0.995,
            ),
            FOLDED,
            HeldStep(station="cold-store", least_min=480, most_min=1_200, pieces_per_position=7),
            RateStep(
                station="triangle-cutter",
                strokes_per_min=1.5,
                makes=TRIANGLES,
                tool="crescent knife",
                yield_=0.98,
                rework=0.5,
                bands=Bands(count=6, sheet_mm=900),
                set_up=(SetUpCheck(what="Knife bar, gap to the drum", wanted="no light through"),),
            ),
            RateStep(station="roller", strokes_per_min=27, adds=(filled,) if filled else (), yield_=0.99),
            ChamberStep(
                station="proof-room", grace_min=15, dwell_min=80, temperature_c=28, humidity_pct=78, pieces_per_tray=20
            ),
            ConveyorStep(station="oven", bakes=True, grace_min=1, dwell_min=15, temperature_c=196, yield_=0.99),
            ConveyorStep(
                station="cooler", dwell_min=30, cooling=KnownCooling(from_c=94, to_c=30, air_c=21, minutes=30)
            ),
            BenchStep(station="inspection", pieces_per_person_min=21, yield_=0.99),
            RateStep(station="packer", strokes_per_min=15, takes=5, tool="crescent film", yield_=0.998),
        ),
        packing=(PackingUse(item="bag-clear", per_pack=1), PackingUse(item="label", per_pack=1)),
    )


BASE = formula(flour_mill=100, water=50, sugar=9, butter=5, milk_powder=3, yeast=4, salt=1.9)

PRODUCTS = (
    _crescent("kestrel-plain", "Kestrel Crescent", BASE),
    _crescent(
        "kestrel-almond",
        "Kestrel Almond",
        BASE,
        traits=("almond",),
        filled=Addition(item="almond", grams=9),
    ),
    _crescent(
        "kestrel-rye",
        "Kestrel Rye",
        formula(flour_mill=80, flour_rye=20, water=52, sugar=7, butter=5, milk_powder=3, yeast=4.2, salt=1.9),
        traits=("rye",),
    ),
    Product(
        id="long-milk-pastry",
        name="Long Milk Roll, pastry oven",
        line=LINE_ID,
        family="long soft rolls",
        piece="roll",
        pieces_per_pack=6,
        baked_g=68,
        bake_loss=0.1,
        fresh_for_h=14,
        dough_temperature_c=26,
        target_per_hour=5_400,
        same_as="long-milk",
        formula=formula(flour_mill=100, water=56, sugar=5, butter=6, milk_powder=4, yeast=3.2, salt=1.8),
        route=(
            mix("dough-mixers", ("slow", 4), ("fast", 5), friction=6, work=4.1, rest=10, age=70),
            RateStep(station="roller", strokes_per_min=18, yield_=0.99, rework=1),
            ChamberStep(
                station="proof-room", grace_min=15, dwell_min=70, temperature_c=34, humidity_pct=78, pieces_per_tray=24
            ),
            ConveyorStep(station="oven", bakes=True, grace_min=1, dwell_min=14, temperature_c=214, yield_=0.995),
            ConveyorStep(station="cooler", dwell_min=30),
            BenchStep(station="inspection", pieces_per_person_min=24, yield_=0.995),
            RateStep(station="packer", strokes_per_min=16, takes=6, tool="milk roll film", yield_=0.998),
        ),
        packing=(PackingUse(item="bag-clear", per_pack=1), PackingUse(item="label", per_pack=1)),
    ),
)
