"""Plants at random for the second simulator: a line with every rule a plan keeps, small enough to follow each piece."""

from random import Random

from families import STORES, kettle, mixing, strokes
from families import made as product_of
from plants import STARTS, mixers
from rundgang.core.conditions import Conditions, HourlyConditions
from rundgang.core.dough.proof import BAKERS, Piece, proof_done
from rundgang.core.kinds.batch import BatchStation, BatchStep
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep, KnownCooling, Zone
from rundgang.core.kinds.every import Step
from rundgang.core.kinds.held import HeldStation, HeldStep
from rundgang.core.kinds.load import LoadStation, LoadStep
from rundgang.core.kinds.parts import Addition, Changeover, WearingTool
from rundgang.core.kinds.rate import CutOut, RateStation
from rundgang.core.kinds.ripening import Ripening
from rundgang.core.opening import HeatedOven, LastRun, Opening, WornTool
from rundgang.core.orders import Block, Order, Wave, Window
from rundgang.core.plant import Carrier, Line, Plant, Shared, StationRef
from rundgang.core.products import CarrierUse, FormulaLine, Preparation, Product
from rundgang.core.scenario import Delivery, Scenario, Stock

WINDOW_MIN = 2_160
LATER_RULES = 1_000_000
"""Seeds of the rules that came later, so that the plants before them stay as they were."""
ASKED_H = (None, None, 6.0, None, 2.0)
"""How fresh customers want their packs, in turn, h."""
LORRIES = (600.0, 1_100.0, 1_700.0, 2_150.0)
CHANGE = Changeover(separation_min=1, tool_change_min=7, allergen_clean_min=12, trait_clean_min=5)
ZONES = (Zone(name="one", length_m=12), Zone(name="two", length_m=8))


def random_plant(seed: int) -> Scenario:
    """A line of up to three products, at most 3,000 pieces each; a fifth have another beside it, with its mixers."""
    plant = _one_line(seed)
    rng = Random(seed + 3 * LATER_RULES)
    return _with_another_line(rng, plant) if rng.random() < 0.2 else plant


def _with_another_line(rng: Random, plant: Scenario) -> Scenario:
    """A second line that mixes in the mixers of the first, and perhaps lets its doughs stand in the same troughs."""
    first = plant.plant.lines[0]
    other = first.model_copy(
        update={"id": "other", "name": "Other line",
                "stations": tuple(s.model_copy(update={"tools": ()}) for s in first.stations)}
    )  # fmt: skip
    products = tuple(_alone(_product(rng, f"q{number}", bool(first.station("oven").zones))) for number in range(2))  # type: ignore[union-attr]
    shared = tuple(
        Shared(id=f"both-{name}", name=name.title(), stations=tuple(
            StationRef(line=line.id, station=name) for line in (first, other)
        ))
        for name in (("mixers", "troughs") if rng.random() < 0.5 else ("mixers",))
    )  # fmt: skip
    orders = tuple(
        Order(id=f"q{number}", product=rng.choice(products).id, wave=f"w{rng.randrange(4)}", packs=rng.randint(20, 500))
        for number in range(rng.randint(1, 3))
    )
    whole = plant.plant.model_copy(update={"lines": (first, other), "shared": shared})
    return plant.model_copy(
        update={"plant": whole, "products": (*plant.products, *products), "orders": (*plant.orders, *orders)}
    )


def _alone(product: Product) -> Product:
    """A product of the other line: without what only the first line prepares."""
    own = [line for line in product.formula if line.ingredient != "sponge"]
    flour = next(line.percent for line in own if line.ingredient == "flour")
    plain = tuple(line.model_copy(update={"percent": line.percent * 100 / flour}) for line in own)
    route = tuple(
        step if isinstance(step, BatchStep) else step.model_copy(update={"adds": ()}) for step in product.route
    )
    return product.model_copy(update={"line": "other", "formula": plain, "route": route})


def _one_line(seed: int) -> Scenario:
    rng, more, last = Random(seed), Random(seed + LATER_RULES), Random(seed + 2 * LATER_RULES)
    stations = (
        kettle("sponge-mixers", rng.randint(1, 3), most=500),
        HeldStation(id="sponge-troughs", name="Sponge troughs", positions=30, turn_round_min=10),
        mixers(rng.randint(1, 3), least=5, most=rng.choice([40, 80]), clean=rng.choice([0, 10])),
        HeldStation(id="troughs", name="Troughs", positions=rng.randint(3, 12), turn_round_min=rng.choice([0, 8])),
        BatchStation(
            id="kettles", name="Kettles", mixers=("Kettle",), min_fill_kg=last.choice([0.2, 1.5, 2.8]),
            max_fill_kg=rng.choice([3, 8]),
        ),
        HeldStation(
            id="tanks", name="Tanks", positions=1, position="tank", capacity_kg=rng.choice([4, 12]), turn_round_min=5
        ),
        RateStation(id="divider", name="Divider", changeover=CHANGE),
        HeldStation(id="store", name="Store", positions=60, turn_round_min=5, changeover=CHANGE),
        ConveyorStation(
            id="oven", name="Oven", places=rng.choice([400, 1_500]), length_m=20, setup_min=3, heating_c_per_min=2.0,
            cooling_c_per_min=1.5, changeover=CHANGE, zones=ZONES if rng.random() < 0.5 else (),
        ),
        ConveyorStation(id="cooler", name="Cooler", places=rng.choice([500, 2_000]), length_m=40, setup_min=2),
        LoadStation(
            id="vacuum", name="Vacuum cooler", chambers=last.choice([1, 2]), racks=1,
            trays_per_rack=last.choice([10, 40]), load_min=1, unload_min=1, setup_min=4, changeover=CHANGE,
        ),
        RateStation(id="topper", name="Topper", changeover=CHANGE),
        RateStation(id="packer", name="Packer", changeover=CHANGE, tools=_tools(more)),
        ConveyorStation(id="small-oven", name="Small oven", places=last.choice([60, 600]), length_m=5),
        RateStation(id="tubs", name="Tubs", changeover=CHANGE),
    )  # fmt: skip
    packer = stations[11]
    zoned = bool(stations[8].zones)
    products = tuple(_ripening(more, _product(rng, f"p{number}", zoned)) for number in range(rng.randint(1, 3)))
    if len(products) > 1 and last.random() < 0.5:
        first = products[0].model_copy(update={"odd_batch": "short-last"})
        products = (first, *(_of_one_dough(first, other) for other in products[1:]))
    products = (*(_in_loads(last, made) for made in products),)
    centre, cut = _centre(last), last.random() < 0.3
    if cut:
        products = (_with_centres(products[0]), *products[1:], centre)
    orders = [
        Order(
            id=f"o{number}",
            product=rng.choice(products).id,
            wave=f"w{rng.randrange(4)}",
            packs=rng.randint(20, 700),
            fresh_for_h=ASKED_H[(seed + number) % len(ASKED_H)],
        )
        for number in range(rng.randint(1, 5))
    ]
    cool = rng.choice([16.0, 20.0, 24.0])
    hours = tuple(HourlyConditions(room_c=cool + rng.uniform(0, 8)) for _ in range(36)) if rng.random() < 0.6 else ()
    blocks = tuple(
        Block(id=f"b{number}", line="line", station=rng.choice(["oven", "packer", "divider", "store", "mixers"]),
              kind="cleaning", from_min=(begin := rng.uniform(0, 1_500)), to_min=begin + rng.uniform(10, 90),
              reason="washed")
        for number in range(rng.choice([0, 0, 1, 2]))
    )  # fmt: skip
    if blocks and packer.tools:
        renewing = {"station": "packer", "renews": packer.tools[0].id}
        blocks = (blocks[0].model_copy(update=renewing), *blocks[1:])
    hot = (HeatedOven(line="line", station="oven", temperature_c=210),) if rng.random() < 0.5 else ()
    return Scenario(
        plant=Plant(
            name="Random plant", town="Nowhere", time_zone="UTC", ingredients=STORES,
            lines=(Line(
                id="line", name="Line", stations=stations,
                carriers=(Carrier(id="boards", name="Boards", count=last.choice([12, 40]), return_min=3),),
            ),),
        ),
        preparations=(_sponge(rng), _jam(rng)),
        products=products,
        window=Window(starts_at=STARTS, minutes=WINDOW_MIN),
        waves=tuple(
            Wave(id=f"w{number}", name=f"Lorry {number}", departs_min=at, loading_min=rng.choice([0, 20]))
            for number, at in enumerate(LORRIES)
        ),
        orders=tuple(orders),
        conditions=Conditions(room_c=cool, flour_c=20, tap_c=15, by_hour=hours),
        blocks=blocks,
        opening=Opening(
            heated=hot,
            worn=tuple(
                WornTool(line="line", station="packer", tool=tool.id, used=tool.life * more.uniform(0, 0.9))
                for tool in packer.tools
            ),
            last=tuple(
                LastRun(line="line", product=found.id, left_min=-more.uniform(0, 60))
                for found in products
                if found.formula and more.random() < 0.25
            ),
        ),
        stocks=_stocks(more),
    )  # fmt: skip


def _in_loads(rng: Random, product: Product) -> Product:
    """A fifth are cooled load by load in vacuum, those that no belt cools."""
    stations = [step.station for step in product.route]
    if rng.random() < 0.8 or "cooler" in stations:
        return product
    at = stations.index("oven") + 1
    load = LoadStep(
        station="vacuum", dwell_min=rng.randint(2, 5), temperature_c=rng.choice([8, 12]),
        pieces_per_tray=rng.choice([4, 6]),
    )  # fmt: skip
    return product.model_copy(update={"route": (*product.route[:at], load, *product.route[at:])})


def _with_centres(product: Product) -> Product:
    """A product of which something is cut out at the divider, and sold."""
    route = tuple(
        step.model_copy(update={"cut_out": CutOut(grams=6, product="centre")}) if step.station == "divider" else step
        for step in product.route
    )
    return product.model_copy(update={"route": route})


def _centre(rng: Random) -> Product:
    """What is cut out: baked by itself on boards that go round, and packed by the ten."""
    return product_of(
        "centre",
        (
            ConveyorStep(station="small-oven", dwell_min=rng.randint(3, 6), temperature_c=190, bakes=True),
            strokes("tubs", rng.choice([6, 20]), takes=10),
        ),
        pieces_per_pack=10,
        baked_g=5.4,
        bake_loss=0.1,
        target_per_hour=3_000,
        formula=(),
        carriers=(CarrierUse(carrier="boards", first="small-oven", last="small-oven", pieces=10),),
    )


def _of_one_dough(first: Product, other: Product) -> Product:
    """Another product with the first one's dough."""
    ahead = 2 if isinstance(first.route[1], HeldStep) and first.route[1].station == "troughs" else 1
    own = 2 if isinstance(other.route[1], HeldStep) and other.route[1].station == "troughs" else 1
    return other.model_copy(
        update={"formula": first.formula, "route": (*first.route[:ahead], *other.route[own:]),
                "dough_temperature_c": first.dough_temperature_c}
    )  # fmt: skip


def _ripening(rng: Random, product: Product) -> Product:
    """Half of the doughs in troughs ripen by the yeast's work too, within what the clock leaves them."""
    trough = product.route[1]
    if not isinstance(trough, HeldStep) or trough.station != "troughs" or rng.random() < 0.5:
        return product
    air_c, k = rng.uniform(24, 34), rng.uniform(0.005, 0.05)
    piece = Piece(dough_c=product.dough_temperature_c, air_c=air_c, k_per_min=k)
    span = trough.most_min - trough.least_min
    least = proof_done(BAKERS, piece, trough.least_min + rng.uniform(0, 0.2) * span)
    most = proof_done(BAKERS, piece, trough.most_min - rng.uniform(0, 0.2) * span)
    ripens = Ripening(air_c=air_c, k_per_min=k, least_done_min=least, most_done_min=most)
    held = trough.model_copy(update={"ripens": ripens})
    return product.model_copy(update={"route": (product.route[0], held, *product.route[2:])})


def _tools(rng: Random) -> tuple[WearingTool, ...]:
    """At most one tool of each sort that is worn out within the window."""
    lives = {"strokes": rng.choice([300, 900, 2_000]), "hours": rng.uniform(2, 9), "days": rng.uniform(0.3, 1.2)}
    return tuple(
        WearingTool(id=counted, name=f"Tool by {counted}", counted=counted, life=life, renew_min=rng.uniform(5, 40),
                    fits=rng.choice([None, "a"]))
        for counted, life in lives.items() if rng.random() < 0.25
    )  # fmt: skip


def _stocks(rng: Random) -> tuple[Stock, ...]:
    """Flour and jam that may not be there, and may not come in time."""
    return tuple(
        Stock(item=item, on_hand=rng.uniform(0.1, 1) * plenty, binds=True, deliveries=tuple(
            Delivery(at_min=rng.uniform(0, 1_800), amount=rng.uniform(0.1, 0.6) * plenty)
            for _ in range(rng.randint(0, 3))
        ))
        for item, plenty in (("flour", 60.0), ("jam", 4.0)) if rng.random() < 0.3
    )  # fmt: skip


def _sponge(rng: Random) -> Preparation:
    least = rng.randint(20, 120)
    return Preparation(
        id="sponge", name="Sponge", line="line",
        formula=(FormulaLine(ingredient="flour", percent=100), FormulaLine(ingredient="water", percent=60)),
        mixing=mixing(rng.randint(3, 9), rest=rng.randint(0, 10), age=2_000, station="sponge-mixers"),
        held=HeldStep(station="sponge-troughs", least_min=least, most_min=least + rng.randint(20, 200)),
        temperature_c=24, used_c=26,
    )  # fmt: skip


def _jam(rng: Random) -> Preparation:
    return Preparation(
        id="filling", name="Filling", line="line",
        formula=(FormulaLine(ingredient="jam", percent=90), FormulaLine(ingredient="fat", percent=10)),
        mixing=mixing(rng.randint(2, 8), rest=0, age=rng.choice([60, 240]), station="kettles"),
        held=HeldStep(station="tanks", least_min=rng.choice([0.0, 5.0]), most_min=300),
        temperature_c=24, used_c=24,
    )  # fmt: skip


def _product(rng: Random, name: str, zoned: bool) -> Product:
    rest, window = rng.randint(0, 10), rng.randint(25, 60)
    route: list[Step] = []
    age = float(rest + window)
    if rng.random() < 0.4:
        hold = rng.randint(10, 60)
        route.append(HeldStep(station="troughs", least_min=hold, most_min=hold + window))
        age += hold
    plain = {"flour": 100.0, "water": 60.0}
    if rng.random() < 0.3:
        plain = {"flour": 60.0, "water": 36.0, "sponge": 64.0}
    if rng.random() < 0.3:
        plain["fat"] = 8.0
    route.append(strokes("divider", rng.randint(40, 80)))
    if rng.random() < 0.4:
        hold = rng.randint(20, 120)
        route.append(HeldStep(station="store", least_min=hold, most_min=hold + 240, pieces_per_position=40))
    bake = ConveyorStep(station="oven", dwell_min=rng.randint(6, 20), bakes=True, yield_=rng.choice([1, 0.99]))
    heat = rng.choice([200.0, 230.0])
    if zoned and rng.random() < 0.5:
        route.append(bake.model_copy(update={"zone_c": (heat, heat + rng.choice([-20, 15]))}))
    else:
        route.append(bake.model_copy(update={"temperature_c": heat}))
    if rng.random() < 0.5:
        minutes = rng.randint(10, 25)
        known = KnownCooling(from_c=95, to_c=rng.choice([34, 40]), air_c=20, minutes=minutes)
        route.append(ConveyorStep(station="cooler", dwell_min=minutes, cooling=known))
    if rng.random() < 0.4:
        route.append(strokes("topper", 90, adds=(Addition(item="filling", grams=rng.choice([2, 5])),)))
    pack = rng.choice([1, 1, 4])
    route.append(strokes("packer", 90 / pack, takes=pack, tool=rng.choice([None, "a", "b"])))
    return product_of(
        name,
        (mixing(rng.randint(4, 10), rest=rest, age=age), *route),
        pieces_per_pack=pack,
        baked_g=50,
        bake_loss=0.1,
        formula=tuple(FormulaLine(ingredient=item, percent=percent) for item, percent in plain.items()),
        target_per_hour=rng.randint(1_200, 3_500),
        fresh_for_h=rng.choice([None, 8.0, 20.0]),
        odd_batch=rng.choice(["equal", "short-last", "round-up"]),
        traits=frozenset(rng.sample(["seeds", "dark"], rng.randint(0, 2))),
    )
