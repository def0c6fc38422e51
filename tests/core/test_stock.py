"""Stock: a count against what should be there, and deliveries; first in, first out (common practice, no source)."""

from collections.abc import Iterable
from datetime import date
from math import floor

import pytest

from plants import items_on
from rundgang.core.materials import draws
from rundgang.core.orders import FinishedStock
from rundgang.core.planning.demand import demand
from rundgang.core.planning.model import LinePlan
from rundgang.core.planning.past import opened
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Delivery, Stock
from rundgang.core.stock import (
    MadeSinceError,
    TooFewCountedError,
    counted_packs,
    counted_stock,
    level_at,
    with_delivery,
)
from rundgang.demo.ostermere import ostermere

DAY = ostermere(date(2026, 3, 11))
OLD, NEW = (
    FinishedStock(product="dune-cloud", packs=640, made_min=-600),
    FinishedStock(product="dune-cloud", packs=200, made_min=-60),
)
LYING = DAY.changed(finished=(OLD, NEW))


def made_by(plans: Iterable[LinePlan], product: str, now: float) -> int:
    """Packs of a product that leave the line by a minute, each run's spread evenly from its first to its last."""
    runs = [run for plan in plans for run in plan.runs if run.product == product and run.first_pack_min < now]
    parts = [(now - run.first_pack_min) / (run.last_pack_min - run.first_pack_min) for run in runs]
    return sum(floor(run.packs * min(1.0, part) + 1e-6) for run, part in zip(runs, parts, strict=True))


@pytest.mark.parametrize(
    ("counted", "lots"),
    [
        (840, [(640, -600), (200, -60)]),
        (500, [(300, -600), (200, -60)]),
        (150, [(150, -60)]),
        (0, []),
        (900, [(700, -600), (200, -60)]),
    ],
)
def test_what_is_missing_was_the_oldest_and_what_is_more_is_as_old(counted: int, lots: list[tuple[int, float]]) -> None:
    found = counted_packs(LYING, "dune-cloud", counted, 0)
    assert [(lot.packs, lot.made_min) for lot in found] == lots


def test_packs_that_nobody_knew_of_are_as_old_as_one_says() -> None:
    """60 more than the 840 that are known, made between the two lots: a lot of their own; made since, a run's."""
    found = counted_packs(LYING, "dune-cloud", 900, 0, made_min=-300)
    assert [(lot.packs, lot.made_min) for lot in found] == [(640, -600), (60, -300), (200, -60)]
    assert [lot.packs for lot in counted_packs(LYING, "dune-cloud", 500, 0, made_min=-300)] == [300, 200]
    with pytest.raises(MadeSinceError, match="enter at the run what it made"):
        counted_packs(LYING, "dune-cloud", 900, 0, made_min=1)


def test_stock_says_how_old_its_oldest_is() -> None:
    """Made ten hours and one hour before the start: the age that freshness is counted against."""
    (first,) = (one for one in demand(LYING, ()) if one.product == "dune-cloud")
    assert (first.lying, first.oldest_h) == (840, 10)
    (later,) = (one for one in demand(DAY.changed(finished=(NEW,)), ()) if one.product == "dune-cloud")
    assert (later.lying, later.oldest_h) == (200, 1)
    assert {one.oldest_h for one in demand(DAY.changed(finished=()), ())} == {None}


def test_a_count_of_one_product_leaves_the_others() -> None:
    other = FinishedStock(product="signal-cocoa", packs=12)
    found = counted_packs(DAY.changed(finished=(OLD, other)), "dune-cloud", 1, 0)
    assert other in found


def test_packs_of_the_plans_runs_count_as_what_they_are() -> None:
    """Midway: what runs have made and no lorry has taken is lying there too; fewer than that is no count of stock."""
    plan = plan_plant(DAY, lines=["ring-line"], stop=after_evaluations(200, 200))
    run = plan.plans[0].runs[0]
    now = run.last_pack_min
    left = [wave for wave in DAY.waves if wave.loaded_by_min <= now]
    assert not left, "no lorry has left, so all packs lie there"
    present = opened(DAY.changed(finished=()), plan.plans, now)
    made = made_by(plan.plans, run.product, now)
    assert made >= run.packs
    assert counted_packs(present, run.product, made + 5, 0)[0].packs == 5
    with pytest.raises(TooFewCountedError, match="enter at the run"):
        counted_packs(present, run.product, made - 1, 0)


def test_what_a_run_has_not_made_yet_is_not_lying_there() -> None:
    """Halfway through its packs half of them are there: one more is one found, one fewer is the run's."""
    plan = plan_plant(DAY, lines=["ring-line"], stop=after_evaluations(200, 200))
    run = plan.plans[0].runs[0]
    now = (run.first_pack_min + run.last_pack_min) / 2
    present = opened(DAY.changed(finished=()), plan.plans, now)
    made = made_by(plan.plans, run.product, now)
    assert 0 < made < run.packs
    assert sum(one.lying for one in demand(present, plan.plans) if one.product == run.product) == made
    assert counted_packs(present, run.product, made, 0) == ()
    assert [(lot.packs, lot.made_min) for lot in counted_packs(present, run.product, made + 1, 0)] == [(1, 0)]
    with pytest.raises(TooFewCountedError):
        counted_packs(present, run.product, made - 1, 0)


def test_a_material_that_is_counted_is_there_from_then_on() -> None:
    """Level = on hand + come − drawn; a count moves it by what was off, before and after."""
    plan = plan_plant(DAY, lines=["ring-line"], stop=after_evaluations(200, 200))
    drawn = [*draws(DAY, plan.plans[0])]
    item = drawn[0].item
    stock = Stock(item=item, on_hand=4_000, deliveries=(Delivery(at_min=100, amount=500),))
    assert items_on(DAY, "ring-line")
    found = counted_stock(stock, drawn, 300, 1_234.5)
    assert level_at(found, drawn, 300) == pytest.approx(1_234.5)
    later = level_at(stock, drawn, 900) - level_at(stock, drawn, 300)
    assert level_at(found, drawn, 900) - 1_234.5 == pytest.approx(later)
    more = with_delivery(found, Delivery(at_min=50, amount=10, lot="L-7", best_before=date(2026, 9, 1)))
    assert [come.at_min for come in more.deliveries] == [50, 100]
    assert level_at(more, drawn, 300) == pytest.approx(1_244.5)
