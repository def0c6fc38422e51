"""A window that goes on, by hand: loaves at 3,000 an hour through an oven of 20 minutes and a slicer."""

from math import floor

import pytest

from families import strokes
from plants import belt, mixers, on_belt, product, scenario
from rundgang.core.conditions import Conditions, HourlyConditions, RoomCourse
from rundgang.core.kinds.parts import Changeover, WearingTool
from rundgang.core.kinds.rate import RateStation
from rundgang.core.opening import Opening, WornTool
from rundgang.core.order_changes import OrderChange, order_changes
from rundgang.core.orders import Block, FinishedStock, Order, Wave
from rundgang.core.planning.check.plans import check_plant
from rundgang.core.planning.model import PlantPlan, Run
from rundgang.core.planning.packs import Served, kept_orders, packs_by_now
from rundgang.core.planning.past import opened
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.rolling.carried import begins_min, carried_runs, ends_min, felt_min
from rundgang.core.rolling.roll import Rolled, roll
from rundgang.core.rolling.shifting import later_conditions, shifted
from rundgang.core.rolling.state import blocks_at
from rundgang.core.scenario import Delivery, Scenario, Stock

FEW = after_evaluations(20, 20)
BLADES = WearingTool(id="blades", name="Blades", counted="hours", life=100, renew_min=30)
FLOUR_SHARE = 100 / 150
"""Flour 100, water 50: of every dough two thirds are flour."""

LOAF_KG = 0.1
LATER = (Wave(id="after", name="After", departs_min=6_000),)


def bakery(*orders: tuple[str, float, int], minutes: int = 4_320) -> Scenario:
    """Loaves of 100 g, good out of each piece in."""
    loaf = product("loaf", [on_belt("oven", 20, heat=210), strokes("slicer", 100)], target=3_000)
    slicer = RateStation(id="slicer", name="Slicer", tools=(BLADES,))
    found = scenario(
        (belt("oven", ramp=2), slicer), (loaf,), orders, mixing=mixers(3), minutes=minutes, hot={"oven": 210}
    )
    fields = {name: getattr(found, name) for name in Scenario.model_fields}
    stock = Stock(
        item="flour",
        on_hand=1_000,
        deliveries=(Delivery(at_min=30, amount=50, lot="one"), Delivery(at_min=3_000, amount=70)),
    )
    worn = WornTool(line="line", station="slicer", tool="blades", used=10)
    return Scenario(**fields | {"stocks": (stock,), "opening": Opening(heated=found.opening.heated, worn=(worn,))})


def planned(day: Scenario) -> PlantPlan:
    return plan_plant(day, stop=FEW)


def rolled_at(day: Scenario, plan: PlantPlan, now: float, **parts: object) -> Rolled:
    """The window gone on from at a minute, a day longer."""
    present = opened(day, plan.plans, now)
    until = day.window.minutes + 1_440
    given = {"waves": (*day.waves, *LATER), "blocks": day.blocks} | parts
    return roll(present, plan.plans, day.orders, until_min=until, **given)  # type: ignore[arg-type]


def only_run(plan: PlantPlan) -> Run:
    (run,) = plan.plans[0].runs
    return run


def test_what_is_over_leaves_packs_age_flour_and_wear_behind() -> None:
    """1,000 loaves, seven hours after the last: sent, and nothing of the run in the next window but its traces."""
    day = bakery(("loaf", 300, 1_000))
    plan = planned(day)
    run = only_run(plan)
    now = ends_min(day, run) + felt_min(day) + 60
    found = rolled_at(day, plan, now)
    assert found.scenario.opening.begun == ()
    assert found.begin_min == floor(now / 60) * 60
    assert [(one.sent, one.short, one.kept) for one in found.settled.served] == [(1_000, 0, 0)]
    assert found.book == ()
    over = run.packs - 1_000
    assert sum(lot.packs for lot in found.scenario.finished) == over
    (stock,) = found.scenario.stocks
    flour = sum(batch.dough_g for batch in run.mixed) / 1_000 * FLOUR_SHARE
    assert flour == pytest.approx(run.pieces * LOAF_KG * FLOUR_SHARE, rel=1e-3)
    assert stock.on_hand == pytest.approx(1_000 + 50 - flour)
    assert found.settled.drawn["flour"] == pytest.approx(flour)
    assert [(come.at_min, come.amount) for come in stock.deliveries] == [(3_000 - found.begin_min, 70)]
    (tool,) = found.scenario.opening.worn
    assert tool.used == pytest.approx(10 + run.pieces / 3_000, abs=0.02), "an hour for 3,000 loaves"
    (oven,) = found.scenario.opening.heated
    assert oven.temperature_c == 210
    (last,) = found.scenario.opening.last
    assert last.product == "loaf"
    assert last.left_min == pytest.approx(run.last_pack_min - found.begin_min)


def test_stock_has_the_age_of_the_hour_in_which_it_was_made() -> None:
    """Nobody wants what lay there: it goes on lying there, as old as it is."""
    day = bakery(("loaf", 4_000, 100)).changed(
        finished=(FinishedStock(product="loaf", packs=300, made_min=-90), FinishedStock(product="loaf", packs=40))
    )
    found = rolled_at(day, planned(day), 600)
    assert sorted((lot.made_min, lot.packs) for lot in found.scenario.finished) == [(-690, 300), (-600, 40)]


def test_a_run_that_is_on_the_line_comes_along_to_the_minute() -> None:
    """Half of its packs are made: none of it is settled, what a lorry took of it comes along with that lorry."""
    day = bakery(("loaf", 150, 300), ("loaf", 2_000, 5_000))
    plan = planned(day)
    first = min(plan.plans[0].runs, key=lambda run: run.start_min)
    now = (first.first_pack_min + first.last_pack_min) / 2
    now = max(now, 151.0)
    found = rolled_at(day, plan, now)
    kept = {run.product: run for run in found.scenario.opening.begun}
    assert kept["loaf"].start_min + found.begin_min == pytest.approx(first.start_min)
    assert [batch.start_min + found.begin_min for batch in kept["loaf"].batches] == pytest.approx(
        [batch.start_min for batch in first.batches]
    )
    assert found.scenario.opening.now_min + found.begin_min == pytest.approx(now)
    assert found.settled.sent == 0
    assert sum(order.packs for order in found.book) == 5_300
    again = plan_plant(found.scenario, stop=FEW, begin_from=found.plans, published=found.plans)
    assert check_plant(found.scenario, again.plans) == ()


def test_a_lorry_is_owed_what_the_plan_makes_late_and_short_of_what_it_never_makes() -> None:
    """It left at 20 minutes, before the first loaf: what is on the line for it comes late, and is owed."""
    day = bakery(("loaf", 20, 200))
    plan = planned(day)
    run = only_run(plan)
    present = opened(day, plan.plans, run.first_pack_min + 1)
    packs = packs_by_now(present, (), carried_runs(present))
    (served,) = packs.served
    assert (served.sent, served.short, served.kept) == (0, 0, 200)
    nothing = packs_by_now(present.opened(Opening(now_min=run.first_pack_min)), (), ())
    assert [(one.sent, one.short, one.kept) for one in nothing.served] == [(0, 200, 0)]


@pytest.mark.parametrize("cleaned_min", [20, 600])
def test_a_run_is_felt_for_six_hours_or_as_long_as_its_traces(cleaned_min: float) -> None:
    """A cleaning of ten hours is not over after six: the run that it follows comes along for as long."""
    day = bakery(("loaf", 600, 500))
    line = day.plant.lines[0]
    change = Changeover(allergen_clean_min=cleaned_min)
    stations = tuple(one.model_copy(update={"changeover": change}) for one in line.stations)
    plant = day.plant.model_copy(update={"lines": (line.model_copy(update={"stations": stations}),)})
    day = day.changed(plant=plant)
    assert felt_min(day) >= max(360, cleaned_min)
    plan = planned(day)
    ends = ends_min(day, only_run(plan))
    felt = [bool(carried_runs(opened(day, plan.plans, ends + felt_min(day) + off))) for off in (-1, 1)]
    assert felt == [True, False]


def test_the_next_window_counts_from_a_whole_hour_before_all_that_comes_along() -> None:
    day = bakery(("loaf", 2_000, 3_000))
    plan = planned(day)
    present = opened(day, plan.plans, only_run(plan).start_min + 10)
    begin = begins_min(present, carried_runs(present))
    assert begin % 60 == 0
    assert begin <= only_run(plan).first_mixed_min < begin + 60 or begin == 0


def test_moments_are_shifted_and_lengths_are_not() -> None:
    run = only_run(planned(bakery(("loaf", 600, 500))))
    later = shifted(run, 120)
    assert later.start_min == run.start_min - 120
    assert later.first_pack_min == run.first_pack_min - 120
    assert later.feed_min == run.feed_min
    assert [batch.divided_min for batch in later.batches] == [batch.divided_min - 120 for batch in run.batches]
    assert shifted(later, -120) == run


def test_what_went_went_for_the_first_of_a_lorrys_orders() -> None:
    """Two orders of 100 and 50 for one lorry; 120 settled: the first is over, of the second 30 are left."""
    orders = tuple(
        Order(id=name, product="loaf", wave=wave, packs=packs)
        for name, wave, packs in (("a", "one", 100), ("b", "one", 50), ("c", "two", 70))
    )
    served = (Served(wave="one", product="loaf", sent=110, short=10, kept=30),)
    assert [(order.id, order.packs) for order in kept_orders(orders, served)] == [("b", 30), ("c", 70)]


def test_closings_that_have_not_ended_go_on() -> None:
    blocks = tuple(
        Block(id=name, line="line", station="oven", kind="cleaning", from_min=low, to_min=high, reason="washed")
        for name, low, high in (("over", 10, 60), ("now", 100, 160), ("later", 300, 360))
    )
    assert [(block.id, block.from_min, block.to_min) for block in blocks_at(blocks, 120)] == [
        ("now", 0, 40),
        ("later", 180, 240),
    ]


def test_the_hours_of_the_room_go_on() -> None:
    """Two hours later the third hour is the first; a day's two figures are drawn on for the longer window."""
    read = Conditions(
        room_c=20, flour_c=20, tap_c=12, by_hour=tuple(HourlyConditions(room_c=20 + hour) for hour in range(5))
    )
    assert [hour.room_c for hour in later_conditions(read, 120, 600).by_hour] == [22, 23, 24]
    course = RoomCourse(low_c=18, high_c=24, warmest_min=900)
    drawn = read.model_copy(update={"room_course": course, "by_hour": course.hours(600)})
    later = later_conditions(drawn, 180, 900)
    assert len(later.by_hour) == 15
    assert later.room_course is not None
    assert later.room_course.warmest_min == 720
    assert later.by_hour == RoomCourse(low_c=18, high_c=24, warmest_min=720).hours(900)


def test_what_differs_between_two_books() -> None:
    before = tuple(Order(id=name, product="loaf", wave="one", packs=packs) for name, packs in (("a", 5), ("b", 6)))
    after = tuple(Order(id=name, product="loaf", wave="one", packs=packs) for name, packs in (("b", 7), ("c", 8)))
    assert order_changes(before, before) == ()
    assert order_changes(before, after) == (
        OrderChange(order="b", product="loaf", wave="one", was=6, now=7),
        OrderChange(order="c", product="loaf", wave="one", was=None, now=8),
        OrderChange(order="a", product="loaf", wave="one", was=5, now=None),
    )
    fresher = (before[0].model_copy(update={"fresh_for_h": 6.0}), before[1])
    assert order_changes(before, fresher) == (
        OrderChange(order="a", product="loaf", wave="one", was=5, now=5, fresh_now_h=6),
    )
