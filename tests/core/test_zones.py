"""Zones of an oven, and the step that bakes: the slowest ramp, duty by zone, the loss where the route says."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from plants import items_on, laid_out, on_belt, pair_headway, product, scenario
from rundgang.core.flow import mass_flow
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep, Zone
from rundgang.core.opening import HeatedOven, Opening
from rundgang.core.planning.check.plans import check
from rundgang.core.planning.past import opened
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario
from rundgang.core.thermal.oven import ZoneOf, oven_duty, zone_duties

UP, DOWN = 3.0, 1.5
"""How fast the oven of these tests heats and cools, °C/min."""

OVEN = ConveyorStation(
    id="oven",
    name="Oven",
    places=100_000,
    length_m=30,
    heating_c_per_min=UP,
    cooling_c_per_min=DOWN,
    zones=(Zone(name="first", length_m=10), Zone(name="second", length_m=15), Zone(name="last", length_m=5)),
)


def baked(name: str, zones: tuple[float, ...], dwell: float = 15) -> Product:
    """A product of an oven set zone by zone."""
    return product(name, [ConveyorStep(station="oven", dwell_min=dwell, zone_c=zones, bakes=True)], grams=50)


def line(*products: Product, hot: tuple[float, ...] = (), now: float = 0) -> Scenario:
    """A line of mixers and that oven, hot from the start where it is said."""
    made = scenario([OVEN], products, [(one.id, 1_400.0, 3_000) for one in products], minutes=1_440)
    heated = (HeatedOven(line="line", station="oven", temperature_c=0, zone_c=hot),) if hot else ()
    return made.model_copy(update={"opening": Opening(now_min=now, heated=heated)})


def test_the_slowest_zone_sets_the_change_of_bakes() -> None:
    """200/240/220 to 230/210/220: 30 up at 3 is 10 min, 30 down at 1.5 is 20; the oven empties 15 min, then 20."""
    first, then = baked("a", (200, 240, 220)), baked("b", (230, 210, 220))
    plant = line(first, then)
    found = pair_headway(plant, first, then)
    assert found is not None
    assert found.gap.minutes == pytest.approx(15 + 20)
    assert "200/240/220 to 230/210/220 °C" in found.gap.reasons[1].what
    back = pair_headway(plant, then, first)
    assert back is not None
    assert back.gap.minutes == pytest.approx(15 + 20), "30 down in the first zone, 30 up in the second"


@settings(deadline=None)
@given(
    before=st.tuples(*[st.integers(150, 300)] * 3),
    after=st.tuples(*[st.integers(150, 300)] * 3),
)
def test_plan_and_check_ramp_alike(before: tuple[int, ...], after: tuple[int, ...]) -> None:
    """Of any two bakes the plan is legal as it is, and a minute earlier it is not, unless nothing changes."""
    first, then = baked("a", tuple(map(float, before))), baked("b", tuple(map(float, after)))
    plant = line(first, then, hot=tuple(map(float, before)))
    plan = laid_out(plant, items_on(plant))
    assert check(plant, plan) == ()
    by_hand = max(
        (b - a) / UP if b > a else (a - b) / DOWN for a, b in zip(before, after, strict=True)
    )  # fmt: skip
    one, two = plan.runs
    free = two.start_min - one.start_min - one.feed_min
    assert free == pytest.approx(0 if before == after else 15 + by_hand, abs=1e-6)


def test_a_cold_oven_takes_as_long_as_its_hottest_zone() -> None:
    """From 20 °C to 290 in the second zone at 3 °C/min: 90 min, whatever the others take."""
    plant = line(baked("a", (200, 290, 230)))
    plan = laid_out(plant, items_on(plant))
    assert plan.runs[0].start_min == pytest.approx(90)
    assert check(plant, plan) == ()
    warm = line(baked("a", (200, 290, 230)), hot=(200, 260, 250))
    assert laid_out(warm, items_on(warm)).runs[0].start_min == pytest.approx(max(15, 30 / UP, 20 / DOWN))
    other = line(baked("a", (200, 290, 230)), hot=(200, 260))
    assert laid_out(other, items_on(other)).runs[0].start_min > 90, "of other zones than there are nothing is known"
    found = check(line(baked("a", (200, 290, 230))), laid_out(warm, items_on(warm)))
    assert any("before it is heated up" in fault.text for fault in found)


def test_an_oven_is_hot_behind_what_has_begun() -> None:
    """It took 90 min from cold for the first run; what comes behind that waits for no second heating up."""
    plant = line(baked("a", (200, 290, 230)), baked("b", (200, 290, 230)))
    plan = plan_plant(plant, stop=after_evaluations(5, 5))
    first, then = plan.plans[0].runs
    at = first.start_min - 1
    now = opened(plant, (plan.plans[0].model_copy(update={"runs": (first,)}),), at)
    again = plan_plant(now, stop=after_evaluations(5, 5))
    assert again.plans[0].runs[1].start_min == pytest.approx(then.start_min)
    assert then.start_min - at < 90
    assert check(now, again.plans[0]) == ()


def test_heat_by_zone() -> None:
    """Each zone has its share of the time and dough; heat goes as time x difference (I. Newton 1701)."""
    duty = oven_duty(6_000, 0.05, 0.1, 15, 25, 96, 230, 30)
    zones = [ZoneOf(10 / 30, 140.0), ZoneOf(15 / 30, 180.0), ZoneOf(5 / 30, 160.0)]
    found = zone_duties(duty, duty.pieces_inside * 0.05, 15, zones)
    assert [zone.minutes for zone in found] == pytest.approx([5, 7.5, 2.5])
    assert sum(zone.dough_kg for zone in found) == pytest.approx(6_000 * 0.05 * 15 / 60)
    assert sum(zone.kw for zone in found) == pytest.approx(duty.total_kw)
    assert found[1].kw / found[0].kw == pytest.approx(15 * 180 / (10 * 140))


def test_the_loss_is_where_the_route_bakes() -> None:
    """An oven without a temperature behind a proofer of 40 °C: the proofer takes nothing off, the oven all."""
    steps = [on_belt("proofer", 50, heat=40), ConveyorStep(station="oven", dwell_min=20, bakes=True)]
    loaf = product("loaf", steps).model_copy(update={"bake_loss": 0.12})
    whole = Product.model_validate(loaf.model_dump(by_alias=True))
    assert whole.entering_g == pytest.approx((100 / 0.88, 100 / 0.88))
    flows = mass_flow(whole, 1_000)
    assert [flow.evaporated_kg > 0 for flow in flows] == [False, True]


@pytest.mark.parametrize(
    ("baking", "loss", "because"),
    [((True, True), 0.1, "2 steps bake"), ((False, False), 0.1, "0 steps bake"), ((False, False), 0.0, None)],
)
def test_exactly_one_step_bakes(baking: tuple[bool, bool], loss: float, because: str | None) -> None:
    steps = [
        ConveyorStep(station=name, dwell_min=20, bakes=here)
        for name, here in zip(("oven", "second-oven"), baking, strict=True)
    ]
    made = product("loaf", [*steps[:1]]).model_copy(update={"bake_loss": loss})
    data = made.model_dump(by_alias=True) | {"route": [made.route[0], *steps]}
    if because is None:
        assert Product.model_validate(data).bake_place == 1
        return
    with pytest.raises(ValidationError, match=because):
        Product.model_validate(data)


def test_zones_must_fit() -> None:
    with pytest.raises(ValidationError, match="zones are 20 m together; allowed: the belt's length, 30 m"):
        ConveyorStation(id="oven", name="Oven", length_m=30, zones=(Zone(name="one", length_m=20),))
    with pytest.raises(ValidationError, match="one or the other"):
        ConveyorStep(station="oven", dwell_min=5, temperature_c=200, zone_c=(200,))
    with pytest.raises(ValidationError, match="one for each of the 3 zones"):
        Scenario.model_validate(line(baked("a", (200, 210))).model_dump(by_alias=True))
