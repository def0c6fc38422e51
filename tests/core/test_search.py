"""The rule for the order, and when a search stops."""

from datetime import date
from itertools import combinations, groupby, pairwise
from random import Random

import numba
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plants import belt, items_on, laid_out, make_plan, on_belt, pair_headway, product, scenario
from rundgang.core.planning.check.plans import check
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.lorries import OrderItem, dues_of
from rundgang.core.planning.objective import Weights
from rundgang.core.planning.search.groups import first_order
from rundgang.core.planning.search.stopping import Progress, after_evaluations
from rundgang.demo.ring_line import ring_line

DAY = ring_line(date(2026, 3, 11))


def departs(item: OrderItem) -> float:
    return next(wave.departs_min for wave in DAY.waves if wave.id == item.wave)


def test_orders_of_a_lorry_and_a_product_are_due_together() -> None:
    dues = dues_of(DAY, "ring-line")
    assert sum(due.packs for due in dues) == sum(order.packs for order in DAY.orders)
    assert len({(due.wave, due.product) for due in dues}) == len(dues) == 11
    assert [due.loaded_by_min for due in dues] == sorted(due.loaded_by_min for due in dues)
    harbour = next(due for due in dues if (due.wave, due.product) == ("harbour", "lantern-plain"))
    assert harbour.packs == 2_280 + 940


def test_a_stored_scenario_has_the_types_that_setup_compiles() -> None:
    """Else the first search of a new plant would compile for a minute before it tries an order."""
    stored = type(DAY).model_validate_json(DAY.model_dump_json())
    compiled, wanted = (
        numba.typeof(Shop(day, ["ring-line"]).arrays)  # type: ignore[no-untyped-call]  # Numba has no types of its own
        for day in (DAY, stored)
    )
    assert wanted == compiled


def test_the_rule_serves_the_earliest_lorry_first() -> None:
    items = items_on(DAY, "ring-line")
    order = first_order(Shop(DAY, ["ring-line"]), items)
    assert sorted(map(str, order)) == sorted(map(str, items))
    assert [departs(item) for item in order] == sorted(departs(item) for item in items)


def test_the_rule_keeps_the_product_that_is_on_the_line() -> None:
    """Whatever ends one lorry begins the next, where that lorry wants it."""
    order = first_order(Shop(DAY, ["ring-line"]), items_on(DAY, "ring-line"))
    for before, after in pairwise(order):
        if departs(before) < departs(after):
            wanted = {item.product for item in order if item.wave == after.wave}
            assert before.product not in wanted or after.product == before.product


def test_neighbours_of_one_product_are_merged() -> None:
    together = sorted(items_on(DAY, "ring-line"), key=lambda item: item.product)
    runs = laid_out(DAY, together, "ring-line").runs
    assert [run.product for run in runs] == ["harvest-sesame", "lantern-plain", "pear-cardamom"]
    assert sum(run.packs_wanted for run in runs) == sum(item.packs for item in together)


def test_stop_criteria() -> None:
    stop = after_evaluations(most=100, idle=10)
    assert not stop(Progress(50, 9, 0, 0))
    assert stop(Progress(50, 10, 0, 0))
    assert stop(Progress(100, 0, 0, 0))


def test_more_tries_are_never_worse() -> None:
    plans = [make_plan(DAY, "ring-line", stop=after_evaluations(most, most)) for most in (1, 50, 200, 800)]
    costs = [plan.score.cost(Weights()) for plan in plans]
    assert costs == sorted(costs, reverse=True)


def test_what_does_not_fit_the_window_is_left_out_and_said() -> None:
    """An hour less than the plan takes: a plan comes all the same, and says what it never makes."""
    at_once = after_evaluations(1, 1)
    first = make_plan(DAY, "ring-line", stop=at_once)
    shorter = DAY.window.model_copy(update={"minutes": int(first.score.last_pack_min) - 60})
    tight = DAY.model_copy(update={"window": shorter})
    plan = make_plan(tight, "ring-line", stop=at_once)
    assert plan.score.last_pack_min <= shorter.minutes < first.score.last_pack_min
    assert check(tight, plan) == ()
    assert sum(left.packs for left in plan.left_out) > 0
    assert sum(wave.never for wave in plan.waves) > 0


def test_the_demo_day_is_planned_better_than_by_the_rule_alone() -> None:
    """What the search is for: fewer packs miss their lorry, with less white between the runs."""
    rule = make_plan(DAY, "ring-line", stop=after_evaluations(1, 1)).score
    found = make_plan(DAY, "ring-line").score
    assert found.packs_short < rule.packs_short
    assert found.changeover_min < rule.changeover_min


@settings(max_examples=40, deadline=None)
@given(seed=st.integers(0, 10_000))
def test_any_order_of_lots_decodes_to_a_legal_plan_in_that_order(seed: int) -> None:
    """No overlap for headways between all pairs, checked between every two runs at every station."""
    longer = DAY.model_copy(update={"window": DAY.window.model_copy(update={"minutes": 4_000})})
    items = list(items_on(longer, "ring-line"))
    Random(seed).shuffle(items)
    runs = laid_out(longer, items, "ring-line").runs
    assert [run.product for run in runs] == [name for name, _ in groupby(item.product for item in items)]
    assert [run.start_min for run in runs] == sorted(run.start_min for run in runs)
    for run, other in combinations(runs, 2):
        pair = pair_headway(DAY, DAY.product(run.product), DAY.product(other.product))
        assert pair is not None
        assert other.start_min >= run.start_min + run.feed_min + pair.beyond_feed_min - 1e-9
    for mixer in ("A", "B"):
        mixed = [batch for run in runs for batch in run.batches if batch.mixer == mixer]
        used = sorted((batch.start_min, batch.discharged_min) for batch in mixed)
        assert all(end <= begin + 1e-9 for (_, end), (begin, _) in pairwise(used))


def test_doughs_are_no_older_than_they_must_be() -> None:
    """Mixed as late as the rest allows: every dough is divided exactly when it has rested."""
    plan = make_plan(DAY, "ring-line")
    for run in plan.runs:
        rest = DAY.product(run.product).mixing.rest_min
        for batch in run.batches:
            assert batch.divided_min - batch.discharged_min == pytest.approx(rest)


def test_products_that_share_no_station_do_not_wait_for_each_other() -> None:
    stations = [belt("left"), belt("right")]
    plant = scenario(
        stations,
        [product("one", [on_belt("left", 30)]), product("two", [on_belt("right", 30)])],
        [("one", 200.0, 1_000), ("two", 200.0, 1_000)],
    )
    plan = make_plan(plant, "line")
    assert check(plant, plan) == ()
    first, second = plan.runs
    assert second.start_min < first.start_min + first.feed_min, "only the mixers are shared"
