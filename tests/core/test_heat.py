"""Heat by the hour: the time a cooler needs, the class a run takes, and pieces bagged too warm found by the check."""

from math import inf

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from scipy.integrate import solve_ivp

from plants import belt, items_on, laid_out, make_plan, product, scenario
from rundgang.core.conditions import Conditions, HourlyConditions, day_course
from rundgang.core.heat import cooled_in, heat_classes, warmest_air
from rundgang.core.kinds.conveyor import ConveyorStep, KnownCooling
from rundgang.core.kinds.rate import CutOut, RateStation, RateStep
from rundgang.core.planning.check.heat import _leaves_at
from rundgang.core.planning.check.plans import check
from rundgang.core.planning.model import LinePlan
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario

RING = KnownCooling(from_c=96, to_c=37, air_c=20, minutes=50)
"""50 min on the conveyor in a 20 °C room down to about 37 °C (common practice, no published source)."""

PLACES = 15_000
"""Places on that conveyor (common practice, no published source)."""


def cooled(name: str = "ring", dwell: float = 50, known: KnownCooling = RING, air: float | None = None) -> Product:
    """A product that bakes and cools; `air` is a tunnel's own, °C."""
    steps = [
        ConveyorStep(station="oven", dwell_min=12),
        ConveyorStep(station="cooler", dwell_min=dwell, cooling=known, temperature_c=air),
    ]
    return product(name, steps, grams=50, target=18_000)


def plant(rooms: tuple[float, ...], *products: Product, lorries: tuple[float, ...] = (1_400.0,)) -> Scenario:
    """A line with a cooler in a room that goes so by the hour."""
    orders = [(made.id, leaves, 6_000) for leaves in lorries for made in products]
    made = scenario([belt("oven"), belt("cooler", PLACES)], products, orders, minutes=1_440)
    hours = tuple(HourlyConditions(room_c=room) for room in rooms)
    return made.model_copy(update={"conditions": Conditions(room_c=rooms[0], flour_c=20, tap_c=15, by_hour=hours)})


def on_cooler(plan: LinePlan) -> list[float]:
    """How long each run is on the cooler, min."""
    return [run.dwell_min.get("cooler", 50.0) for run in plan.runs]


@pytest.mark.parametrize(("room", "minutes"), [(26, 61.8), (16, 44.7), (20, 50.0)])
def test_newtons_law_by_hand(room: float, minutes: float) -> None:
    """k = ln(76/17)/50 = 0.02995/min: 61.8 min at 26 °C, 44.7 at 16 °C (worked by hand from I. Newton's law, 1701)."""
    step = ConveyorStep(station="cooler", dwell_min=50, cooling=RING)
    assert cooled_in(step, room) == pytest.approx(minutes, abs=0.05)
    again = step.model_copy(update={"dwell_min": cooled_in(step, room)})
    assert warmest_air(again) == pytest.approx(room)


def test_a_summer_room_slows_the_cooler_and_with_it_the_line() -> None:
    """At 26 °C the run takes 61.8 min and the line's pace falls from 18,000 to 60 × 15,000 / 61.8 an hour."""
    summer = plant((26.0,), cooled())
    plan = make_plan(summer, "line")
    assert on_cooler(plan) == [61.8]
    assert plan.runs[0].scaled_per_h == pytest.approx(60 * PLACES / 61.8)
    assert check(summer, plan) == ()


def test_a_plan_for_a_cool_room_bags_too_warm_in_summer() -> None:
    """The plan for 20 °C in a room of 26: 26 + 70 e^(-k 50) = 41.7 °C instead of 37, 11.8 min too short."""
    plan = make_plan(plant((20.0,), cooled()), "line")
    assert on_cooler(plan) == [50.0]
    found = [fault for fault in check(plant((26.0,), cooled()), plan) if fault.station == "Cooler"]
    assert len(found) == 1
    assert "41.7 °C, allowed 37" in found[0].text
    assert found[0].minutes == pytest.approx(11.8, abs=0.05)


def test_what_can_never_cool_is_left_out_with_the_reason() -> None:
    """Biscuits asked at 22 °C in air of 28 °C are never cold enough; the others are made all the same."""
    biscuit = cooled("biscuit", 12, KnownCooling(from_c=92, to_c=22, air_c=19, minutes=12))
    warm = plant((28.0,), biscuit, cooled())
    plan = make_plan(warm, "line")
    assert [run.product for run in plan.runs] == ["ring"]
    assert [out.because for out in plan.left_out] == ["Cooler: 22 °C is never reached in air of 28.0 °C"]
    assert check(warm, plan) == ()
    cold = plant((20.0,), biscuit)
    faults = check(plant((28.0,), biscuit), make_plan(cold, "line"))
    assert any("never cools it so far" in fault.text for fault in faults)


def test_a_tunnel_keeps_its_own_air() -> None:
    """What cools in a tunnel at 10 °C asks nothing of the room, and its dwell follows from the tunnel's air."""
    step = cooled("ring", 30, RING, air=10.0)
    hot = plant((38.0,), step)
    (made,) = heat_classes(hot, hot.product("ring"))
    assert made.most_c == inf
    assert made.dwell_min["cooler"] == pytest.approx(cooled_in(step.piece_steps[1], 10), abs=0.1)  # type: ignore[arg-type]
    plan = make_plan(hot, "line")
    assert check(hot, plan) == ()


def test_a_run_keeps_one_dwell_for_the_warmest_hour_it_passes() -> None:
    """A cool night and a warm day: a run by night takes the route's time, one by day the longer one."""
    rooms = (*[19.0] * 12, *[25.0] * 12)
    day = plant(rooms, cooled(), lorries=(500.0,))
    assert on_cooler(make_plan(day, "line")) == [50.0]
    items = [item.model_copy(update={"pinned_min": 700.0}) for item in items_on(day)]
    late = laid_out(day, items)
    assert late.runs[0].start_min == 700.0
    assert late.runs[0].dwell_min["cooler"] == pytest.approx(cooled_in(cooled().piece_steps[1], 25), abs=0.1)  # type: ignore[arg-type]
    assert check(day, late) == ()


def _cooling(_: float, core: NDArray[np.float64], air: float) -> NDArray[np.float64]:
    return 0.0299538 * (air - core)


@settings(max_examples=40, deadline=None)
@given(
    rooms=st.lists(st.floats(5, 34), min_size=1, max_size=8),
    enters=st.floats(0, 500),
    stays=st.floats(5, 200),
)
def test_the_check_integrates_as_a_reference_library_does(rooms: list[float], enters: float, stays: float) -> None:
    """SciPy's `solve_ivp` (Runge-Kutta 4(5), Dormand and Prince 1980) on dT/dt = k (air(t) - T), hour by hour."""
    core, now = RING.from_c, enters
    while now < enters + stays:
        until = min(enters + stays, 60 * (now // 60 + 1))
        air = rooms[min(int(now // 60), len(rooms) - 1)]
        solved = solve_ivp(_cooling, (now, until), [core], args=(air,), rtol=1e-9, atol=1e-9)
        core, now = float(solved.y[0, -1]), until
    assert _leaves_at(RING, rooms, enters, stays) == pytest.approx(core, abs=0.01)


@settings(max_examples=25, deadline=None)
@given(
    rooms=st.lists(st.floats(14, 36), min_size=1, max_size=24),
    asked=st.lists(st.tuples(st.floats(26, 45), st.floats(15, 60)), min_size=1, max_size=3),
    lorries=st.sets(st.sampled_from([300.0, 700.0, 1_100.0, 1_400.0]), min_size=1),
)
def test_no_plan_bags_too_warm(rooms: list[float], asked: list[tuple[float, float]], lorries: set[float]) -> None:
    """Random air, temperatures asked and times: the check, with its own integral, finds nothing in any plan."""
    made = [
        cooled(f"p{number}", minutes, KnownCooling(from_c=96, to_c=celsius, air_c=20, minutes=minutes))
        for number, (celsius, minutes) in enumerate(asked)
    ]
    day = plant(tuple(rooms), *made, lorries=tuple(sorted(lorries)))
    plan = make_plan(day, "line")
    assert check(day, plan) == ()
    for one in made:
        reached = any(heat.most_c > -inf for heat in heat_classes(day, one))
        assert reached == (min(rooms) < one.piece_steps[1].cooling.to_c - 0.02), one  # type: ignore[union-attr]


@settings(max_examples=15, deadline=None)
@given(warm=st.integers(20, 30), rooms=st.lists(st.sampled_from([18.0, 21.0, 24.0, 27.0]), min_size=24, max_size=24))
def test_each_run_takes_the_class_that_ends_it_first(warm: int, rooms: list[float]) -> None:
    """Brute force: the second run as each of its classes behind the first; none that cools enough ends it earlier."""
    first, then = cooled("a"), cooled("b", 40, KnownCooling(from_c=96, to_c=warm + 9, air_c=20, minutes=40))
    day = plant(tuple(rooms), first, then)
    cold = day.conditions.model_copy(update={"by_hour": (), "room_c": -30.0})
    made = laid_out(day, items_on(day))
    as_made = day.dwelling("a", made.runs[0].dwell_min)
    ends = []
    for heat in heat_classes(day, then):
        routes = (as_made.route, heat.product.route)
        fixed = tuple(one.model_copy(update={"route": route}) for one, route in zip((first, then), routes, strict=True))
        alike = day.model_copy(update={"products": fixed})
        plan = laid_out(alike.model_copy(update={"conditions": cold}), items_on(day))
        run = plan.runs[1]
        hours = range(int((run.start_min + 12) // 60), min(int(run.last_pack_min // 60), 23) + 1)
        if max(rooms[hour] for hour in hours) <= heat.most_c:
            ends.append(run.last_pack_min)
    assert made.runs[1].last_pack_min == pytest.approx(min(ends))


def test_a_day_from_its_two_figures() -> None:
    """A sine: warmest at the hour given, coolest half a day from it, the mean between, and the same again next day."""
    course = day_course(18, 26, 15 * 60, 48)
    assert course[14:16] == pytest.approx([max(course)] * 2)
    assert course[2] == pytest.approx(min(course))
    assert max(course) == pytest.approx(26, abs=0.05)
    assert sum(course[:24]) / 24 == pytest.approx(22)
    assert course[:24] == pytest.approx(course[24:])


def test_conditions_of_an_hour() -> None:
    """What an hour names holds then; what it does not is as at the start; after the last hour it stays."""
    hours = (HourlyConditions(room_c=19), HourlyConditions(room_c=24, flour_c=22))
    day = Conditions(room_c=20, flour_c=20, tap_c=12, by_hour=hours)
    assert (day.at(30).room_c, day.at(30).flour_c) == (19, 20)
    assert (day.at(60).room_c, day.at(5_000).flour_c, day.at(5_000).tap_c) == (24, 22, 12)


def with_centres(rooms: tuple[float, ...]) -> Scenario:
    """Rings that cool in the room, and the centres cut out of them, which are baked and sold by themselves."""
    ring = cooled().model_copy(
        update={
            "route": (
                cooled().mixing,
                RateStep(station="cutter", strokes_per_min=300, cut_out=CutOut(grams=10, product="centre")),
                *cooled().piece_steps,
            )
        }
    )
    centre = ring.model_copy(
        update={
            "id": "centre",
            "name": "Centre",
            "formula": (),
            "baked_g": 10.0,
            "route": (ConveyorStep(station="small-oven", dwell_min=6),),
        }
    )
    day = plant(rooms, cooled())
    line = day.plant.lines[0]
    more = (RateStation(id="cutter", name="Cutter"), *line.stations, belt("small-oven"))
    lines = (line.model_copy(update={"stations": (line.stations[0], *more[:1], *line.stations[1:], more[-1])}),)
    orders = (*day.orders, day.orders[0].model_copy(update={"id": "centres", "product": "centre", "packs": 5_000}))
    return day.model_copy(
        update={
            "plant": day.plant.model_copy(update={"lines": lines}),
            "products": (ring, centre),
            "orders": orders,
        }
    )


@pytest.mark.parametrize("rooms", [(20.0,), (26.0,), (18.0, 24.0, 30.0, 22.0)])
def test_what_is_cut_out_comes_with_rings_of_every_heat_class(rooms: tuple[float, ...]) -> None:
    """Rings that cool longer in warm hours are other products to the plan; their centres are the same everywhere."""
    day = with_centres(rooms)
    plan = make_plan(day, "line")
    assert sum(cut.packs for cut in plan.cut_runs) == sum(run.pieces for run in plan.runs) >= 6_000
    assert {cut.product for cut in plan.cut_runs} == {"centre"}
    assert {run.product for run in plan.runs} == {"ring"}
    served = {outcome.product: outcome for outcome in plan.waves}
    assert served["centre"].short == 0
    assert check(day, plan) == ()


def test_centres_do_not_wait_for_the_cooler() -> None:
    """They go their own way behind the cutter: as early in a warm room as in a cool one, from their run's start."""
    behind = []
    for rooms in ((20.0,), (26.0,)):
        plan = make_plan(with_centres(rooms), "line")
        behind.append(plan.cut_runs[0].first_pack_min - plan.runs[0].start_min)
    assert behind[0] == pytest.approx(behind[1])
    assert behind[0] == pytest.approx(6.0)
