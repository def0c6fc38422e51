"""Runs that are on a line and in no plan: entered, they are what a plan would have made them, and the rest fits."""

from random import Random

import pytest

from plants import belt, mixers, on_belt, product, scenario
from random_plants import random_plant
from rundgang.core.errors import OutOfRangeError, UnknownItemError
from rundgang.core.floor.entered import Entered, NotOnLineError, OnLine, as_entered
from rundgang.core.opening import Opening
from rundgang.core.planning.check.plans import check_plant
from rundgang.core.planning.model import PlantPlan, Run
from rundgang.core.planning.past import has_begun, opened
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.rolling.earlier import begun_earlier
from rundgang.core.rolling.shifting import shifted
from rundgang.core.scenario import Delivery, Scenario, Stock

FEW = after_evaluations(5, 5)
FLOUR_SHARE, BUN_KG = 100 / 150, 0.1


def plant(*orders: tuple[str, float, int], now: float = 0) -> Scenario:
    """Mixed 10 min, rested 5, baked 25; 6,000 pieces an hour, eight mixers, a tonne of flour."""
    bun = product("bun", [on_belt("oven", 25)], cycle=10, rest=5, age=120, target=6_000)
    roll = product("roll", [on_belt("oven", 25)], cycle=10, rest=5, age=120, target=6_000)
    made = scenario([belt("oven")], [bun, roll], orders, mixing=mixers(8), minutes=1_600)
    stock = Stock(item="flour", on_hand=1_000, deliveries=(Delivery(at_min=100, amount=50),))
    return made.changed(opening=Opening(now_min=now), stocks=(stock,))


def planned(asked: Scenario) -> PlantPlan:
    return plan_plant(asked, stop=FEW)


def entered(asked: Scenario, packs: int, start: float, *discharged: float, name: str = "bun") -> Entered:
    found = as_entered(
        asked,
        planned(asked),
        OnLine(line="line", product=name, packs=packs, start_min=start, discharged_min=discharged),
    )
    assert check_plant(found.scenario, found.plan.plans) == ()
    return found


def moments(run: Run) -> list[float]:
    return [run.start_min, run.first_pack_min, run.last_pack_min, *(dough.start_min for dough in run.batches)]


def test_a_run_that_was_planned_is_the_same_when_it_is_entered() -> None:
    """What a plan had begun by minute 40, entered in a plant that knows of no plan."""
    asked = plant(("bun", 900.0, 3_000))
    run = planned(asked).plans[0].runs[0]
    found = entered(plant(now=40), run.packs, run.start_min)
    (fact,) = found.scenario.opening.begun
    assert found.earlier_min == 0
    assert moments(fact) == pytest.approx(moments(run))
    assert [dough.mixer for dough in fact.batches] == [dough.mixer for dough in run.batches]
    assert (fact.pieces, fact.packs) == (run.pieces, run.packs)


def test_what_began_before_the_window_makes_it_begin_earlier_and_moves_nothing() -> None:
    """First piece 90 min before, first dough 15 before that: two hours. 3,000 buns take 30 min, and 30 more to bake."""
    asked = plant(("bun", 900.0, 3_000), ("roll", 1_200.0, 1_000), now=10)
    found = entered(asked, 12_000, -90)
    assert found.earlier_min == 120
    assert found.scenario.window.minutes == asked.window.minutes + 120
    assert found.scenario.window.starts_at.timestamp() == asked.window.starts_at.timestamp() - 7_200
    assert [wave.departs_min - 120 for wave in found.scenario.waves] == [wave.departs_min for wave in asked.waves]
    assert found.scenario.opening.now_min == 130
    (fact,) = found.scenario.opening.begun
    assert [fact.start_min, fact.first_pack_min] == pytest.approx([30, 55])
    assert fact.last_pack_min == pytest.approx(30 + 120 + 25)
    assert [(item.wave, item.packs) for item in fact.items] == [(asked.orders[0].wave, 3_000)], "the rest is for stock"
    later = [run for run in found.plan.plans[0].runs if run.product == "roll"]
    assert later, "what was planned is planned still"
    assert all(run.product != "bun" for run in found.plan.plans[0].runs if run.start_min > fact.start_min)


def test_what_it_had_drawn_when_the_stock_was_counted_is_put_back() -> None:
    """The flour of doughs begun before the old window is in no count; that of the later ones is."""
    found = entered(plant(now=10), 18_000, -90)
    (fact,) = found.scenario.opening.begun
    before = sum(dough.pieces for dough in fact.batches if dough.start_min < 120)
    assert 0 < before < fact.pieces
    (flour,) = found.scenario.stocks
    assert flour.on_hand == pytest.approx(1_000 + before * BUN_KG * FLOUR_SHARE, rel=1e-3)
    assert [delivery.at_min for delivery in flour.deliveries] == [220]


def test_no_window_begins_so_early_that_a_delivery_is_more_than_a_week_from_there() -> None:
    """A delivery 200 min short of a week: three whole hours at most, or what is stored could not be read again."""
    asked = plant(now=10)
    late = Delivery(at_min=10_080 - 200, amount=50)
    far = asked.changed(stocks=(Stock(item="flour", on_hand=1_000, deliveries=(late,)),))
    found = entered(far, 12_000, -90)
    assert found.earlier_min == 120
    assert Scenario.model_validate(found.scenario.model_dump()).stocks == found.scenario.stocks
    with pytest.raises(OutOfRangeError, match="240 min before the window; allowed: at most 180 min"):
        entered(far, 30_000, -240)


def test_flour_that_was_counted_after_it_had_drawn_it_keeps_no_run_off_the_line() -> None:
    """None left that binds: what is on the line had what it needed."""
    empty = plant(now=40)
    none = empty.changed(stocks=(Stock(item="flour", on_hand=0, binds=True),))
    (fact,) = entered(none, 3_000, 30).scenario.opening.begun
    assert fact.start_min == pytest.approx(30)


def test_doughs_that_stand_in_troughs_are_as_they_are() -> None:
    """Emptied at 20 and 24, divided from 60 on: 35 min old at most, and no mixer works for them any more."""
    found = entered(plant(now=30), 1_000, 60, 20.0)
    (fact,) = found.scenario.opening.begun
    assert [(dough.start_min, dough.discharged_min) for dough in fact.batches] == [(10, 20)]
    assert fact.batches[0].divided_min == 60
    assert found.plan.plans[0].runs[0].start_min == 60


@pytest.mark.parametrize(
    ("packs", "start", "discharged", "said"),
    [
        (1_000, 600, (), "Nothing of it has begun by now"),
        (1_000, 20, (), "It would be over by now"),
        (1_000, 105, (110.0,), "10 min from now"),
        (1_000, 102, (99.0,), "2 min too late to have rested 5 min"),
        (1_000, 130, (9.0,), "11 min too early: its last piece would be older than 120 min"),
        (12_000, 60, (40.0,), "had to be begun 15 min ago"),
        (1_000, 105, (60.0, 70.0), "take 1 doughs"),
    ],
)
def test_what_cannot_be_so_is_said_with_what_is_allowed(
    packs: int, start: float, discharged: tuple[float, ...], said: str
) -> None:
    with pytest.raises(NotOnLineError, match=said) as refused:
        entered(plant(now=100), packs, start, *discharged)
    assert "Allowed: " in str(refused.value)


def test_two_runs_cannot_be_where_one_is() -> None:
    """Fed from 60 to 90 already; one more from 70 on: twenty minutes later at the earliest."""
    asked = plant(("bun", 900.0, 3_000), now=100)
    first = entered(asked, 3_000, 60)
    with pytest.raises(NotOnLineError, match=r"Oven was not free of .*Allowed: from 2[01] min later"):
        as_entered(first.scenario, first.plan, OnLine(line="line", product="bun", packs=3_000, start_min=70))
    with pytest.raises(UnknownItemError):
        as_entered(first.scenario, first.plan, OnLine(line="line", product="cake", packs=3_000, start_min=70))
    with pytest.raises(OutOfRangeError, match="before the window"):
        as_entered(first.scenario, first.plan, OnLine(line="line", product="bun", packs=3_000, start_min=-9_900))


@pytest.mark.parametrize("seed", range(12))
def test_a_plan_is_as_legal_from_an_earlier_beginning(seed: int) -> None:
    """Random plants with every rule, some runs begun: nothing moves, and the check finds no more and no less."""
    asked = random_plant(seed)
    plan = plan_plant(asked, stop=FEW)
    present = opened(asked, plan.plans, Random(seed).uniform(200, 1_500))
    earlier = begun_earlier(present, 180)
    was, now = check_plant(present, plan.plans), check_plant(earlier, [shifted(line, -180) for line in plan.plans])
    assert [(one.run, one.text, round(one.minutes, 3)) for one in now] == [
        (one.run, one.text, round(one.minutes, 3)) for one in was
    ]


@pytest.mark.parametrize("seed", range(12))
def test_what_a_random_plant_has_begun_can_be_entered_again(seed: int) -> None:
    """The first run of its plan, taken out of it and entered: as it was, and the rest of the plan is legal."""
    asked = random_plant(seed)
    plan = plan_plant(asked, stop=FEW)
    first = next((run for line in plan.plans for run in line.runs if not run.dwell_min), None)
    if first is None:
        return
    now = first.first_mixed_min + 1
    nothing = plan_plant(asked.changed(orders=()), stop=FEW)
    present = opened(asked.changed(orders=()), nothing.plans, now)
    try:
        found = as_entered(
            present,
            nothing,
            OnLine(line=first.line, product=first.product, packs=first.packs, start_min=first.start_min),
        )
    except NotOnLineError:
        assert first.binding.kind != "opening", "the very first run can always have been there"
        return
    assert check_plant(found.scenario, found.plan.plans) == ()
    (fact,) = found.scenario.opening.begun_on(first.line)
    assert has_begun(fact, found.scenario.opening.now_min)
    assert fact.start_min - found.earlier_min == pytest.approx(first.start_min, abs=1)
