"""Repair: whatever is changed, a legal plan comes back that keeps what is mixed; and explanations that are true."""

from datetime import date
from functools import cache

import pytest
from hypothesis import event, given, reject, settings
from hypothesis import strategies as st

from rundgang.core.errors import OutOfRangeError, RundgangError, UnknownItemError
from rundgang.core.orders import Block, Order
from rundgang.core.planning.check.plans import check_plant
from rundgang.core.planning.model import PlantPlan
from rundgang.core.planning.past import opened
from rundgang.core.planning.reline import NotTheSameArticleError, relined
from rundgang.core.planning.repair import (
    Change,
    Fit,
    Merge,
    Move,
    Odd,
    Pace,
    Pin,
    Place,
    RefusedChangeError,
    Repaired,
    Split,
    repair,
)
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario
from rundgang.demo.ostermere import ostermere

DAY = ostermere(date(2026, 3, 11))
LINES = tuple(line.id for line in DAY.plant.lines)


@cache
def planned() -> PlantPlan:
    return plan_plant(DAY, stop=after_evaluations(3_000, 3_000))


def wanted(plan: PlantPlan, line: str) -> dict[tuple[str, str], int]:
    """Packs of each product for each lorry that the runs are for, or that are left out."""
    found: dict[tuple[str, str], int] = {}
    for run in plan.of(line).runs:
        for lot in run.items:
            found[run.product, lot.wave] = found.get((run.product, lot.wave), 0) + lot.packs
    for left in plan.of(line).left_out:
        found[left.product, left.wave] = found.get((left.product, left.wave), 0) + left.packs
    return found


def changed(day: Scenario, change: Change, now: float | None = None) -> Repaired:
    """A repaired plan, which has passed the check and makes what the plan before made."""
    there = opened(day, planned().plans, now) if now else day
    found = repair(there, planned(), change)
    assert check_plant(there, found.plan.plans) == ()
    assert found.plan.cost == pytest.approx(found.plan.score.cost(found.plan.weights))
    return found


@st.composite
def changes(draw: st.DrawFn) -> Change:
    line = draw(st.sampled_from(LINES))
    runs = planned().of(line).runs
    run = draw(st.sampled_from(runs))
    packs = sum(lot.packs for lot in run.items)
    kinds: list[Change] = [
        Move(line=line, run=run.id, start_min=draw(st.floats(0, 3_000))),
        Place(line=line, run=run.id, before=draw(st.sampled_from([None, *(other.id for other in runs)]))),
        Pin(line=line, run=run.id, pinned=draw(st.booleans())),
        Split(line=line, run=run.id, packs=draw(st.integers(1, packs - 1))),
        Pace(line=line, run=run.id, share=draw(st.sampled_from([0.9, 0.95, 1.0]))),
        Odd(line=line, run=run.id, odd_batch=draw(st.sampled_from(["equal", "short-last", "round-up"]))),
        Fit(line=line),
    ]
    found: Change = draw(st.sampled_from(kinds))
    return found


@settings(max_examples=60, deadline=None)
@given(change=changes())
def test_every_change_gives_a_legal_plan_of_the_same_demand(change: Change) -> None:
    try:
        found = changed(DAY, change)
    except RundgangError as error:
        assert "allowed: " in str(error).lower()
        event("refused")
        reject()
    assert wanted(found.plan, change.line) == wanted(planned(), change.line)
    for line in LINES:
        if line != change.line:
            assert found.plan.of(line) == planned().of(line), "other lines stay as they are"


@settings(max_examples=25, deadline=None)
@given(change=changes(), now=st.sampled_from([60.0, 300.0, 900.0]))
def test_what_is_mixed_stays_where_it_is(change: Change, now: float) -> None:
    begun = [run for run in planned().of(change.line).runs if run.first_mixed_min < now]
    try:
        found = changed(DAY, change, now)
    except RundgangError as error:
        assert "allowed: " in str(error).lower()
        event("refused")
        reject()
    after = found.plan.of(change.line).runs
    for was in begun:
        assert any(run.product == was.product and abs(run.start_min - was.start_min) < 1e-6 for run in after)
    later = [run for run in after if not any(run.start_min == pytest.approx(was.start_min) for was in begun)]
    assert all(run.first_mixed_min >= now - 1e-6 for run in later)


def test_a_begun_run_is_not_moved() -> None:
    with pytest.raises(RefusedChangeError, match="has been mixed since minute"):
        repair(opened(DAY, planned().plans, 200), planned(), Place(line="ring-line", run="R1"))


def test_pinning_alone_moves_nothing() -> None:
    found = changed(DAY, Pin(line="bread-line", run="R4"))
    assert found.moved == ()
    assert found.plan.of("bread-line").runs[3].pinned_min == pytest.approx(
        found.plan.of("bread-line").runs[3].start_min
    )


def test_a_run_dragged_later_starts_there_and_says_so() -> None:
    last = planned().of("pastry-line").runs[-1]
    found = changed(DAY, Move(line="pastry-line", run=last.id, start_min=last.start_min + 45))
    assert [move.run for move in found.moved] == [last.id]
    assert found.moved[0].was_min == pytest.approx(last.start_min)
    assert found.moved[0].start_min == pytest.approx(last.start_min + 45)
    assert found.plan.of("pastry-line").runs[-1].binding.kind == "pin"


def test_a_run_dragged_onto_another_waits_for_its_headway() -> None:
    first, second = planned().of("ring-line").runs[:2]
    found = changed(DAY, Move(line="ring-line", run=second.id, start_min=first.start_min + 5))
    runs = found.plan.of("ring-line").runs
    assert {runs[0].product, runs[1].product} == {first.product, second.product}
    assert runs[1].binding.kind in {"headway", "pin"}


def test_a_split_and_its_merge_give_the_same_demand_and_doughs_again() -> None:
    run = max(planned().of("ring-line").runs, key=lambda run: run.packs)
    half = sum(lot.packs for lot in run.items) // 2
    split = repair(DAY, planned(), Split(line="ring-line", run=run.id, packs=half))
    assert check_plant(DAY, split.plan.plans) == ()
    parts = [other for other in split.plan.of("ring-line").runs if other.product == run.product]
    assert len(parts) == 1 + sum(other.product == run.product for other in planned().of("ring-line").runs)
    first = next(other for other in parts if sum(lot.packs for lot in other.items) == half)
    merged = repair(DAY, split.plan, Merge(line="ring-line", run=first.id)).plan
    assert check_plant(DAY, merged.plans) == ()
    assert len(merged.of("ring-line").runs) == len(planned().of("ring-line").runs)
    assert wanted(merged, "ring-line") == wanted(planned(), "ring-line")


def test_a_slower_pace_feeds_longer() -> None:
    run = planned().of("doughnut-line").runs[0]
    found = changed(DAY, Pace(line="doughnut-line", run=run.id, share=0.9)).plan.of("doughnut-line").runs[0]
    assert found.scaled_per_h <= run.scaled_per_h
    assert found.feed_min >= run.feed_min


def test_a_blocked_station_is_kept_clear() -> None:
    run = planned().of("ring-line").runs[2]
    block = Block(
        id="repair-1",
        line="ring-line",
        station=DAY.product(run.product).piece_steps[1].station,
        kind="repair",
        from_min=run.start_min + 10,
        to_min=run.start_min + 100,
        reason="chain broken",
    )
    day = DAY.model_copy(update={"blocks": (block,)})
    assert any("closed: chain broken" in fault.text for fault in check_plant(day, planned().plans))
    found = changed(day, Fit(line="ring-line"))
    assert found.moved
    assert any(move.binding and move.binding.kind in {"closing", "crew"} for move in found.moved)


def test_an_urgent_order_is_taken_in() -> None:
    order = Order(id="urgent", product="lantern-plain", wave="depot-260311", packs=700)
    day = DAY.model_copy(update={"orders": (*DAY.orders, order)})
    assert any("leaves out" in fault.text for fault in check_plant(day, planned().plans))
    found = changed(day, Fit(line="ring-line"))
    assert wanted(found.plan, "ring-line")["lantern-plain", "depot-260311"] == 700 + sum(
        o.packs for o in DAY.orders if (o.product, o.wave) == ("lantern-plain", "depot-260311")
    )


def test_an_order_taken_back_is_no_longer_made() -> None:
    day = DAY.model_copy(update={"orders": tuple(o for o in DAY.orders if o.product != "pear-cardamom")})
    found = changed(day, Fit(line="ring-line"))
    assert all(run.product != "pear-cardamom" for run in found.plan.of("ring-line").runs)
    assert any(move.start_min is None for move in found.moved)


def test_what_does_not_exist_is_named() -> None:
    with pytest.raises(UnknownItemError, match="no run “R99”"):
        repair(DAY, planned(), Pin(line="ring-line", run="R99"))
    with pytest.raises(UnknownItemError, match="no planned line “moon”"):
        repair(DAY, planned(), Fit(line="moon"))
    with pytest.raises(OutOfRangeError, match="the packs of the first part is 1000000"):
        repair(DAY, planned(), Split(line="ring-line", run="R1", packs=1_000_000))


def test_a_run_is_made_on_another_line_as_the_same_article() -> None:
    run = next(run for run in planned().of("bread-line").runs if run.product == "long-milk")
    day = DAY.model_copy(update={"orders": relined(DAY, run, "long-milk-pastry")})
    assert ordered(day, "long-milk") + ordered(day, "long-milk-pastry") == ordered(DAY, "long-milk")
    assert ordered(day, "long-milk-pastry") == sum(lot.packs for lot in run.items)
    there = repair(day, repair(day, planned(), Fit(line="bread-line")).plan, Fit(line="pastry-line")).plan
    assert check_plant(day, there.plans) == ()
    assert any(made.product == "long-milk-pastry" for made in there.of("pastry-line").runs)
    with pytest.raises(NotTheSameArticleError, match="allowed: long-milk-pastry"):
        relined(DAY, run, "kestrel-plain")


def test_an_order_is_parted_between_two_lines_to_the_pack() -> None:
    run = next(run for run in planned().of("bread-line").runs if run.product == "long-milk")
    few = run.model_copy(update={"items": (run.items[0].model_copy(update={"packs": 100}),)})
    day = DAY.model_copy(update={"orders": relined(DAY, few, "long-milk-pastry")})
    assert ordered(day, "long-milk-pastry") == 100
    assert ordered(day, "long-milk") == ordered(DAY, "long-milk") - 100
    assert len({order.id for order in day.orders}) == len(day.orders) == len(DAY.orders) + 1


def test_an_order_that_has_the_other_article_already_is_given_another_number() -> None:
    """Number, product and lorry tell a line of an order from all others: two would be one."""
    run = next(run for run in planned().of("bread-line").runs if run.product == "long-milk")
    wave = run.items[0].wave
    own = next(order for order in DAY.orders if (order.product, order.wave) == ("long-milk", wave))
    other = own.model_copy(update={"product": "long-milk-pastry", "packs": 30})
    whole = run.model_copy(update={"items": (run.items[0].model_copy(update={"packs": own.packs}),)})
    found = relined(DAY.model_copy(update={"orders": (*DAY.orders, other)}), whole, "long-milk-pastry")
    assert len({order.line for order in found}) == len(found) == len(DAY.orders) + 1
    assert sum(order.packs for order in found if order.product == "long-milk-pastry") == own.packs + 30


def ordered(day: Scenario, product_id: str) -> int:
    return sum(order.packs for order in day.orders if order.product == product_id)
