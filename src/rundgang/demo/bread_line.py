"""Ostermere's bread line: tin bread from a sponge, from a long trough, and without time; and long soft rolls."""

from rundgang.core.kinds.batch import BatchStation, BatchStep
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep, KnownCooling
from rundgang.core.kinds.every import Step
from rundgang.core.kinds.held import HeldStation, HeldStep, HoldTask
from rundgang.core.kinds.parts import Addition, Changeover, WearingTool
from rundgang.core.kinds.rate import RateStep
from rundgang.core.kinds.ripening import Bears
from rundgang.core.plant import Carrier, Line
from rundgang.core.products import CarrierUse, FormulaLine, PackingUse, Preparation, Product
from rundgang.demo.parts import formula, machine, mix

LINE_ID = "bread-line"

LINE = Line(
    id=LINE_ID,
    name="Bread line",
    stations=(
        BatchStation(
            id="sponge-mixers",
            name="Sponge mixers",
            mixers=("Sponge Oak", "Sponge Yew"),
            min_fill_kg=60,
            max_fill_kg=260,
            changeover=Changeover(allergen_clean_min=12),
        ),
        HeldStation(id="sponge-troughs", name="Sponge troughs", positions=20, capacity_kg=280, turn_round_min=20),
        BatchStation(
            id="dough-mixers",
            name="Dough mixers",
            mixers=("Mixer Lime", "Mixer Elm"),
            min_fill_kg=150,
            max_fill_kg=430,
            changeover=Changeover(allergen_clean_min=14, trait_clean_min=6),
        ),
        BatchStation(
            id="fast-mixer",
            name="Fast mixer",
            mixers=("Fast Ash",),
            min_fill_kg=90,
            max_fill_kg=230,
            jacket_kw=5,
            changeover=Changeover(allergen_clean_min=10, trait_clean_min=5),
        ),
        HeldStation(id="dough-troughs", name="Dough troughs", positions=12, capacity_kg=540, turn_round_min=25),
        machine("divider", "Divider", lanes=4, transfer=0.5, tool=6),
        ConveyorStation(
            id="resting-belt", name="Resting belt", places=480, length_m=42, changeover=Changeover(separation_min=1)
        ),
        machine("moulder", "Moulder", lanes=2, transfer=0.7, tool=5),
        machine("roll-divider", "Roll divider", lanes=8, transfer=0.5),
        machine("roll-moulder", "Roll moulder", lanes=8, transfer=0.7),
        ConveyorStation(
            id="proofer",
            name="Proofer",
            places=2_700,
            length_m=280,
            setup_min=5,
            transfer_min=1,
            changeover=Changeover(separation_min=1),
        ),
        ConveyorStation(
            id="oven",
            name="Tunnel oven",
            places=1_260,
            length_m=38,
            width_m=3.2,
            setup_min=3,
            heating_c_per_min=2.5,
            cooling_c_per_min=1.5,
            transfer_min=0.5,
            changeover=Changeover(separation_min=1),
            hazards=("hot-oven", "dark-bake"),
        ),
        machine("depanner", "De-panner", lanes=2, hazards=("hot-oven",)),
        ConveyorStation(
            id="cooler",
            name="Cooling tower",
            places=4_700,
            length_m=310,
            transfer_min=1,
            changeover=Changeover(separation_min=1),
        ),
        machine(
            "slicer",
            "Slicers",
            machines=2,
            efficiency=0.95,
            hazards=("blades", "foreign-bodies"),
            tools=(WearingTool(id="blades", name="Slicer blades", counted="hours", life=160, renew_min=40),),
        ),
        machine(
            "bagger",
            "Baggers",
            machines=2,
            efficiency=0.95,
            tool=4,
            hazards=("foreign-bodies", "warm-bagging"),
            packers=4,
        ),
    ),
    carriers=(Carrier(id="straps", name="Straps of four tins", count=1_180, return_min=12),),
)

SPONGE = Preparation(
    id="night-sponge",
    name="Night sponge",
    line=LINE_ID,
    formula=formula(flour_strong=100, water=60, yeast=1.2),
    mixing=mix("sponge-mixers", ("slow", 7), ("fast", 1), friction=9, work=2.2, age=300),
    held=HeldStep(
        station="sponge-troughs",
        least_min=180,
        most_min=250,
        tasks=(HoldTask(at_min=100, what="break the crust and let the gas out"),),
    ),
    temperature_c=24.5,
    used_c=27.5,
)
SPONGE_SHARE = 45.0
"""Flour in the sponge, % of all flour."""

SPONGE_LINE = FormulaLine(ingredient=SPONGE.id, percent=SPONGE_SHARE * 1.612)


def _tin(proof: float, climate: tuple[float, float], bake: float, heat: float, cool: float) -> tuple[Step, ...]:
    temperature, humidity = climate
    return (
        RateStep(station="divider", strokes_per_min=14.2, tool="tin pistons", yield_=0.995, rework=1),
        ConveyorStep(station="resting-belt", dwell_min=8),
        RateStep(station="moulder", strokes_per_min=28.5, tool="tin plates", yield_=0.995, rework=1),
        ConveyorStep(
            station="proofer",
            bears=Bears(most_pct=125, k_per_min=0.05),
            dwell_min=proof,
            temperature_c=temperature,
            humidity_pct=humidity,
        ),
        ConveyorStep(station="oven", bakes=True, grace_min=1, dwell_min=bake, temperature_c=heat, yield_=0.996),
        RateStep(station="depanner", strokes_per_min=29, yield_=0.998),
        ConveyorStep(
            station="cooler", dwell_min=cool, cooling=KnownCooling(from_c=95, to_c=33, air_c=22, minutes=cool)
        ),
        RateStep(station="slicer", strokes_per_min=25.5, yield_=0.995),
        RateStep(station="bagger", strokes_per_min=25.5, tool="loaf film", yield_=0.998),
    )


def _loaf(
    product: str,
    name: str,
    family: str,
    parts: tuple[FormulaLine, ...],
    mixing: tuple[Step, ...],
    makeup: tuple[Step, ...],
    *,
    baked: float = 750,
    dough_c: float = 27,
    target: float = 2_400,
    traits: tuple[str, ...] = (),
) -> Product:
    return Product(
        id=product,
        name=name,
        line=LINE_ID,
        family=family,
        piece="loaf",
        pieces_per_pack=1,
        baked_g=baked,
        bake_loss=0.12,
        fresh_for_h=14,
        dough_temperature_c=dough_c,
        target_per_hour=target,
        traits=frozenset(traits),
        formula=parts,
        route=(*mixing, *makeup),
        packing=(PackingUse(item="bag-print", per_pack=1), PackingUse(item="label", per_pack=1)),
        carriers=(CarrierUse(carrier="straps", first="proofer", last="depanner", pieces=4),),
    )


def _sponge_mix() -> BatchStep:
    return mix("dough-mixers", ("slow", 3), ("fast", 6), friction=25.5, work=5.0, rest=6, age=42)


def _fast_mix(work: float = 10.5, friction: float = 29.5) -> BatchStep:
    return mix("fast-mixer", ("high", 3.2), charge=1.2, discharge=0.8, friction=friction, work=work, rest=1, age=16)


BULK = _tin(56, (37, 76), 26, 232, 98)
NO_TIME = _tin(48, (40, 80), 24, 228, 104)


def _roll(
    product: str,
    name: str,
    parts: tuple[FormulaLine, ...],
    traits: tuple[str, ...] = (),
    film: str = "roll film",
    strewn: tuple[Addition, ...] = (),
) -> Product:
    return Product(
        id=product,
        name=name,
        line=LINE_ID,
        family="long soft rolls",
        piece="roll",
        pieces_per_pack=6,
        baked_g=68,
        bake_loss=0.1,
        fresh_for_h=14,
        dough_temperature_c=27,
        target_per_hour=13_000,
        odd_batch="short-last",
        traits=frozenset(traits),
        formula=parts,
        route=(
            _sponge_mix(),
            RateStep(station="roll-divider", strokes_per_min=32, yield_=0.995, rework=1),
            RateStep(station="roll-moulder", strokes_per_min=32, yield_=0.995, rework=1, adds=strewn),
            ConveyorStep(
                station="proofer", grace_min=15, dwell_min=56, temperature_c=37, humidity_pct=76, pieces_per_place=6
            ),
            ConveyorStep(
                station="oven",
                bakes=True,
                grace_min=1,
                dwell_min=14,
                temperature_c=226,
                pieces_per_place=5,
                yield_=0.996,
            ),
            ConveyorStep(station="cooler", dwell_min=38, pieces_per_place=5),
            RateStep(station="bagger", strokes_per_min=21, takes=6, tool=film, yield_=0.998),
        ),
        packing=(PackingUse(item="bag-clear", per_pack=1), PackingUse(item="label", per_pack=1)),
    )


WHITE = formula(flour_strong=55, water=35, yeast=1, salt=1.9, palm=2, sugar=1.5)
MILK = formula(flour_strong=55, water=30, yeast=1.6, salt=1.8, butter=5, sugar=4, milk_powder=4)

PRODUCTS = (
    _loaf("tarn-white", "Tarn White", "tin bread, sponge", (*WHITE, SPONGE_LINE), (_sponge_mix(),), BULK),
    _loaf(
        "tarn-whole",
        "Tarn Wholemeal",
        "tin bread, sponge",
        (*formula(flour_whole=55, water=39, yeast=1.2, salt=1.9, palm=2), SPONGE_LINE),
        (_sponge_mix(),),
        BULK,
        traits=("bran",),
    ),
    _loaf(
        "seven-fields",
        "Seven Fields",
        "tin bread, sponge",
        (*formula(flour_strong=40, flour_rye=15, water=38, yeast=1.2, salt=2, seeds=(9, 7)), SPONGE_LINE),
        (_sponge_mix(),),
        BULK,
        baked=800,
        target=2_300,
        traits=("seeds", "bran"),
    ),
    _loaf(
        "quarry-loaf",
        "Quarry Loaf",
        "tin bread, long trough",
        formula(flour_strong=80, flour_rye=20, water=64, yeast=0.8, salt=2),
        (
            mix("dough-mixers", ("slow", 5), ("fast", 4), friction=13, work=4.2, age=150),
            HeldStep(station="dough-troughs", least_min=90, most_min=140),
        ),
        BULK,
        baked=800,
        dough_c=25,
        target=2_300,
        traits=("rye",),
    ),
    _loaf(
        "swift-white",
        "Swift White",
        "tin bread, no-time",
        formula(flour_strong=100, water=61, yeast=2.6, salt=1.8, palm=1, gluten_meal=1),
        (_fast_mix(),),
        NO_TIME,
        dough_c=29,
    ),
    _loaf(
        "swift-malt",
        "Swift Malt",
        "tin bread, no-time",
        formula(flour_strong=70, flour_whole=30, water=62, yeast=2.6, salt=1.8, malt=4, palm=1, gluten_meal=2),
        (_fast_mix(),),
        NO_TIME,
        dough_c=29,
        traits=("malt", "bran"),
    ),
    _loaf(
        "swift-oat",
        "Swift Oat",
        "tin bread, no-time",
        formula(flour_strong=100, water=66, yeast=2.8, salt=1.9, oats=(8, 2.4), palm=1, gluten_meal=2),
        (_fast_mix(9.5, 27),),
        NO_TIME,
        dough_c=29,
        traits=("oats",),
    ),
    _roll("long-roll", "Long Roll", (*WHITE, SPONGE_LINE)),
    _roll("long-milk", "Long Milk Roll", (*MILK, SPONGE_LINE), film="milk roll film"),
    _roll(
        "long-poppy",
        "Long Poppy Roll",
        (*WHITE, SPONGE_LINE),
        traits=("seeds",),
        film="poppy roll film",
        strewn=(Addition(item="poppy", grams=1.5),),
    ),
)
