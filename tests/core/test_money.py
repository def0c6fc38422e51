"""Money by hand: what a plan comes to where prices are entered, and what a stop throws away."""

import pytest

from families import strokes
from plants import belt, make_plan, mixers, on_belt, product, scenario
from rundgang.core.balance import balance
from rundgang.core.floor.effect import effect_of
from rundgang.core.floor.options import outcomes_of
from rundgang.core.floor.stop import Stop
from rundgang.core.kinds.parts import CrewUse
from rundgang.core.kinds.rate import RateStation
from rundgang.core.money import figures_of, kilogram_price, plan_money
from rundgang.core.planning.checked import checked
from rundgang.core.planning.model import PlantPlan
from rundgang.core.planning.past import opened
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.plant import Crew
from rundgang.core.scenario import Scenario

FEW = after_evaluations(20, 20)


def priced(
    *,
    flour: float | None = 0.5,
    pack: float | None = 2.0,
    currency: str | None = "EUR",
    machines: int = 2,
    late: float = 0,
) -> Scenario:
    """3,000 loaves of 100 g, 3,000/h, two people at the packers; 150 kg of dough for 100 of flour."""
    loaf = product("loaf", [on_belt("oven", 20), strokes("packer", 50)], target=3_000, age=120)
    packer = RateStation(id="packer", name="Packers", machines=machines)
    plain = scenario((belt("oven"), packer), (loaf,), mixing=mixers(3, most=30))
    fields = {name: getattr(plain, name) for name in Scenario.model_fields}
    items = tuple(
        item.model_copy(update={"price": flour if item.id == "flour" else None}) for item in plain.plant.ingredients
    )
    crews = (Crew(id="packers", name="Packers", people=4, per_h=24),)
    staffed = packer.model_copy(update={"staffed": CrewUse(crew="packers", people=2)})
    line = plain.plant.lines[0]
    lines = (line.model_copy(update={"stations": (*line.stations[:-1], staffed)}),)
    given = plain.plant.model_dump() | {"lines": lines} | {"crews": crews, "ingredients": items, "currency": currency}
    sold = tuple(found.model_copy(update={"price": pack}) for found in plain.products)
    waves = (plain.waves[0].model_copy(update={"id": "w", "departs_min": 600.0 - late}),)
    orders = ({"id": "1", "product": "loaf", "wave": "w", "packs": 3_000},)
    return Scenario.model_validate(fields | {"plant": given, "products": sold, "waves": waves, "orders": orders})


def test_a_plan_by_hand() -> None:
    """200 kg of flour at 0.50 are 100; two people for the hour of feeding are 48; 3,000 packs at 2.00 are 6,000.

    3,000 pieces of 100 g at 150 parts of dough on 100 of flour take 200 kg of it.
    """
    plant = priced()
    plan = make_plan(plant, "line", stop=FEW)
    money = plan_money(plant, (plan,))
    assert money is not None
    assert money.materials == pytest.approx(100, rel=1e-3)
    assert money.people == pytest.approx(48, rel=1e-6)
    assert money.sold == pytest.approx(6_000)
    assert money.missed == 0
    assert money.energy == 0
    assert money.spent == pytest.approx(148, rel=1e-3)
    assert money.unpriced == ("Energy",), "water costs nothing, and is not counted"
    shown = {figure.name: figure.value for figure in figures_of(money)}
    assert shown["All three"] == shown["Materials"] + shown["People of the crews"] + shown["Heat into the product"]


def test_heat_is_what_the_oven_gives_for_as_long_as_it_is_fed() -> None:
    """An hour's run costs the kilowatts that the Line screen shows, one hour long, at 0.10 a kWh.

    By hand: 3,000 pieces of 111.1 g, a tenth of it boiled off: 300 kg of water and dough, warmed from 25 to 96 °C at
    2.8 kJ/kgK, and 33.3 kg of water at 2,257 kJ/kg and on as steam; 66 MJ and 75 MJ, so some 40 kWh.
    """
    baked = product("loaf", [on_belt("oven", 20, heat=230).model_copy(update={"bakes": True})], target=3_000, age=120)
    baked = baked.model_copy(update={"bake_loss": 0.1})
    plain = scenario((belt("oven"),), (baked,), (("loaf", 900, 3_000),), mixing=mixers(3, most=30), hot={"oven": 230})
    fields = {name: getattr(plain, name) for name in Scenario.model_fields}
    plant = Scenario(**fields | {"plant": plain.plant.model_copy(update={"currency": "EUR", "energy_per_kwh": 0.1})})
    plan = make_plan(plant, "line", stop=FEW)
    money = plan_money(plant, (plan,))
    assert money is not None
    run = plan.runs[0]
    stage = next(stage for stage in balance(plant, "loaf", 3_000).stages if stage.station == "oven")
    kilowatts = next(figure.value for figure in stage.figures if figure.name == "Heat into the product")
    assert money.energy == pytest.approx(0.1 * kilowatts * run.feed_min / 60 * run.scaled_per_h / 3_000)
    assert money.energy == pytest.approx(4.0, rel=0.15)


def test_what_misses_its_lorry_is_not_sold() -> None:
    plant = priced(late=560)
    plan = make_plan(plant, "line", stop=FEW)
    short = sum(wave.short for wave in plan.waves)
    money = plan_money(plant, (plan,))
    assert money is not None
    assert short > 0
    assert money.missed == pytest.approx(2 * short)
    assert money.sold == pytest.approx(6_000 - 2 * short)


def test_nothing_is_said_without_a_currency_and_what_has_no_price_is_named() -> None:
    plant = priced(currency=None)
    assert plan_money(plant, (make_plan(plant, "line", stop=FEW),)) is None
    assert kilogram_price(plant, plant.products[0]) is None
    bare = priced(flour=None, pack=None)
    money = plan_money(bare, (make_plan(bare, "line", stop=FEW),))
    assert money is not None
    assert money.unpriced == ("Flour", "Loaf", "Energy")
    assert kilogram_price(bare, bare.products[0]) is None


def planned(plant: Scenario) -> PlantPlan:
    return plan_plant(plant, stop=FEW)


def test_a_stop_says_what_its_scrap_costs() -> None:
    """A kilogram of dough is two thirds of flour at 0.50: a third of a euro; and each stretch costs by its mass."""
    plant = priced()
    assert kilogram_price(plant, plant.products[0]) == pytest.approx(1 / 3)
    plan = planned(plant)
    at = plan.plans[0].runs[0].start_min + 30
    stop = Stop(line="line", station="packer", from_min=at, low_min=30, likely_min=300, high_min=600)
    effect = effect_of(opened(plant, plan.plans, at), plan.plans[0], stop)
    lost = effect.losses[1]
    assert lost.kg > 0
    assert lost.money == pytest.approx(lost.kg / 3)
    unpriced = priced(flour=None)
    effect = effect_of(opened(unpriced, plan.plans, at), plan.plans[0], stop)
    assert effect.losses[1].money is None


@pytest.mark.parametrize(("machines", "share"), [(2, 1.0), (1, None), (3, 1.0)])
def test_one_of_several_machines_out_slows_the_line(machines: int, share: float | None) -> None:
    """Two packers of 3,000/h each on a line of 3,000: one is enough, and nothing comes later. A single one is not."""
    plant = priced(machines=machines)
    plan = planned(plant)
    at = plan.plans[0].runs[0].start_min + 30
    stop = Stop(line="line", station="packer", from_min=at, low_min=10, likely_min=20, high_min=40)
    slow = [one for one in outcomes_of(plant, plan, stop) if one.option.kind == "slow"]
    assert [one.option.share for one in slow] == ([] if share is None else [share])
    for one in slow:
        assert checked(one.scenario, one.plan).sound
        assert one.plan.plans[0].runs[0].last_pack_min == pytest.approx(plan.plans[0].runs[0].last_pack_min)


def test_a_line_goes_on_as_fast_as_the_others_let_it() -> None:
    """One of two packers of 1,800/h is out for 20 min on a line of 3,000: at 60 % of the pace it is 8 min later."""
    loaf = product("loaf", [on_belt("oven", 20), strokes("packer", 30)], target=3_000, age=120)
    packer = RateStation(id="packer", name="Packers", machines=2)
    plant = scenario((belt("oven"), packer), (loaf,), (("loaf", 900, 3_000),), mixing=mixers(3, most=30))
    plan = planned(plant)
    run = plan.plans[0].runs[0]
    stop = Stop(line="line", station="packer", from_min=run.start_min + 30, low_min=10, likely_min=20, high_min=40)
    slow = next(one for one in outcomes_of(plant, plan, stop) if one.option.kind == "slow")
    assert slow.option.share == pytest.approx(0.6)
    assert checked(slow.scenario, slow.plan).sound
    assert slow.plan.plans[0].runs[0].last_pack_min == pytest.approx(run.last_pack_min + 8)
