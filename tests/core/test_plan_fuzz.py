"""Random plants with troughs, sponges, stores, cut-outs, allergens and freshness: every plan passes the check."""

from typing import Any

import pytest
from hypothesis import HealthCheck, given, reject, settings
from hypothesis import strategies as st

from families import FAMILIES, STORES, WINDOW_MIN, kettle, made, mixing, plant_of, strokes
from plants import STARTS, belt, make_plan, mixers
from rundgang.core.conditions import Conditions
from rundgang.core.dough.card import batch_cards
from rundgang.core.errors import InfeasibleError
from rundgang.core.kinds.conveyor import ConveyorStep
from rundgang.core.kinds.every import Step
from rundgang.core.kinds.held import HeldStation, HeldStep
from rundgang.core.kinds.parts import Addition, Changeover
from rundgang.core.kinds.rate import RateStation
from rundgang.core.materials import supply
from rundgang.core.orders import Order, Wave, Window
from rundgang.core.planning.check.plans import check
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.planning.timeline import timeline
from rundgang.core.plant import Line, Plant
from rundgang.core.products import FormulaLine, Preparation, Product
from rundgang.core.scenario import Scenario

WAVES = (700.0, 1_300.0, 2_100.0, float(WINDOW_MIN))


def _sponge(draw: st.DrawFn) -> Preparation:
    least = draw(st.integers(20, 200))
    return Preparation(
        id="sponge",
        name="Sponge",
        line="line",
        formula=(FormulaLine(ingredient="flour", percent=100), FormulaLine(ingredient="water", percent=60)),
        mixing=mixing(draw(st.integers(3, 9)), rest=draw(st.integers(0, 10)), age=2_000, station="sponge-mixers"),
        held=HeldStep(station="sponge-troughs", least_min=least, most_min=least + draw(st.integers(10, 200))),
        temperature_c=24,
        used_c=26,
    )


def _product(draw: st.DrawFn, name: str) -> Product:
    rest, window = draw(st.integers(0, 12)), draw(st.integers(20, 60))
    route: list[Step] = []
    age = float(rest + window)
    if draw(st.booleans()):
        hold = draw(st.integers(10, 120))
        route.append(HeldStep(station="troughs", least_min=hold, most_min=hold + window))
        age += hold
    formula = [FormulaLine(ingredient="flour", percent=100), FormulaLine(ingredient="water", percent=60)]
    if draw(st.booleans()):
        formula = [
            FormulaLine(ingredient="flour", percent=60),
            FormulaLine(ingredient="water", percent=40),
            FormulaLine(ingredient="sponge", percent=64),
        ]
    if draw(st.booleans()):
        formula.append(FormulaLine(ingredient="fat", percent=8))
    route.append(strokes("divider", draw(st.integers(60, 120)), rework=draw(st.sampled_from([0, 1]))))
    if draw(st.booleans()):
        hold = draw(st.integers(30, 240))
        route.append(HeldStep(station="store", least_min=hold, most_min=hold + 300, pieces_per_position=120))
    bake = draw(st.integers(5, 25))
    heat = draw(st.sampled_from([200.0, 230.0]))
    route.append(ConveyorStep(station="oven", dwell_min=bake, temperature_c=heat, yield_=0.99))
    route.append(strokes("packer", 90, tool=draw(st.sampled_from([None, "a", "b"])), adds=_glaze(draw)))
    return made(
        name,
        (mixing(draw(st.integers(4, 10)), rest=rest, age=age), *route),
        formula=tuple(formula),
        target_per_hour=draw(st.integers(1_500, 5_000)),
        fresh_for_h=draw(st.sampled_from([None, 6.0, 20.0])),
        odd_batch=draw(st.sampled_from(["equal", "short-last", "round-up"])),
        traits=frozenset(draw(st.sets(st.sampled_from(["seeds", "dark"])))),
    )


def _glaze(draw: st.DrawFn) -> tuple[Addition, ...]:
    return (Addition(item="jam", grams=4),) if draw(st.booleans()) else ()


@st.composite
def plants(draw: st.DrawFn) -> Scenario:
    """A line with everything a dough room can have, three products, and up to eight orders."""
    changeover = Changeover(separation_min=1, tool_change_min=7, allergen_clean_min=12, trait_clean_min=5)
    line = Line(
        id="line",
        name="Line",
        stations=(
            kettle("sponge-mixers", draw(st.integers(1, 3)), most=500),
            HeldStation(id="sponge-troughs", name="Sponge troughs", positions=30, turn_round_min=10),
            mixers(draw(st.integers(1, 3)), least=20, most=draw(st.integers(120, 400)), clean=10),
            HeldStation(
                id="troughs",
                name="Troughs",
                positions=draw(st.integers(2, 12)),
                turn_round_min=draw(st.integers(0, 25)),
            ),
            RateStation(id="divider", name="Divider", changeover=changeover),
            HeldStation(id="store", name="Store", positions=400, turn_round_min=5, changeover=changeover),
            belt("oven", 3_000, setup=3, ramp=2.0),
            RateStation(id="packer", name="Packer", changeover=changeover),
        ),
    )
    products = tuple(_product(draw, name) for name in ("one", "two", "three"))
    orders = draw(
        st.lists(
            st.tuples(st.sampled_from(["one", "two", "three"]), st.integers(0, 3), st.integers(50, 2_500)),
            min_size=1,
            max_size=8,
        )
    )
    return Scenario(
        plant=Plant(name="Test plant", town="Nowhere", time_zone="UTC", ingredients=STORES, lines=(line,)),
        preparations=(_sponge(draw),),
        products=products,
        window=Window(starts_at=STARTS, minutes=WINDOW_MIN),
        waves=tuple(Wave(id=f"w{n}", name=f"Lorry {n}", departs_min=at) for n, at in enumerate(WAVES)),
        orders=tuple(
            Order(id=f"o{n}", product=product, wave=f"w{wave}", packs=packs, fresh_for_h=(None, None, 4.0)[n % 3])
            for n, (product, wave, packs) in enumerate(orders)
        ),
        conditions=Conditions(room_c=22, flour_c=20, tap_c=15),
    )


@settings(max_examples=200, deadline=None, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large])
@given(plant=plants(), seed=st.integers(0, 5))
def test_every_plan_of_a_random_plant_passes_the_check(plant: Scenario, seed: int) -> None:
    """Or there is none, and the error names the product or how far it is beyond the window."""
    try:
        plan = make_plan(plant, "line", seed=seed, stop=after_evaluations(25, 25))
    except InfeasibleError as error:
        said = str(error)
        assert any(product.name in said for product in plant.products)
        assert "Allowed: " in said
        reject()
    assert check(plant, plan) == ()
    left_out = sum(wave.never for wave in plan.waves)
    assert sum(run.packs for run in plan.runs) >= sum(order.packs for order in plant.orders) - left_out
    for card in batch_cards(plant, plan):
        assert sum(line.grams for line in card.ingredients) == card.dough_g
        assert card.divide_from_min <= card.divided_min + 1e-6
        assert card.divided_min <= card.divide_by_min + 1e-6
    laid = timeline(plant, plan)
    assert laid.made[-1].packs == sum(run.packs for run in plan.runs)
    for item in supply(plant, [plan]):
        assert sum(item.by_hour) == pytest.approx(item.used)


@settings(max_examples=30, deadline=None)
@given(packs=st.integers(1, 3_000), name=st.sampled_from(sorted(FAMILIES)), seed=st.integers(0, 3))
def test_the_same_seed_gives_the_same_plan_in_every_family(packs: int, name: str, seed: int) -> None:
    plant: Any = plant_of(FAMILIES[name](), packs)
    try:
        first, second = (make_plan(plant, "line", seed=seed, stop=after_evaluations(15, 15)) for _ in range(2))
    except InfeasibleError:
        reject()
    assert first == second
    assert check(plant, first) == ()
