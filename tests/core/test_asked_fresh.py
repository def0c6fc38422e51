"""Customers who ask for fresher packs than the product: by hand, on a line of one oven and packs in stock."""

import pytest

from plants import belt, make_plan, mixers, on_belt, product, scenario
from rundgang.core.orders import FinishedStock, Order
from rundgang.core.planning.check.plans import check
from rundgang.core.planning.lorries import dues_of
from rundgang.core.planning.model import LinePlan
from rundgang.core.planning.packs import packs_by_now
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario

FIRST, LATER = 1_200.0, 1_500.0
STOCK = 400


def plant(asked_h: float | None, good_for_h: float | None = 48) -> Scenario:
    """Buns: 400 in stock, ten hours old at minute 0; a lorry takes 300 at 1,200, as asked, and one 400 later."""
    bun = product("bun", [on_belt("oven", 25)], cycle=10, rest=5, age=120, target=6_000)
    made = scenario(
        [belt("oven")],
        [bun.model_copy(update={"fresh_for_h": good_for_h})],
        [("bun", FIRST, 300), ("bun", LATER, STOCK)],
        mixing=mixers(8),
        minutes=1_600,
    )
    first, later = made.orders
    return made.changed(
        orders=(first.model_copy(update={"fresh_for_h": asked_h}), later),
        finished=(FinishedStock(product="bun", packs=STOCK, made_min=-600),),
    )


def planned(asked: Scenario) -> LinePlan:
    plan = make_plan(asked, "line", stop=after_evaluations(5, 5))
    assert check(asked, plan) == ()
    return plan


def test_without_asking_the_oldest_goes_first() -> None:
    """The first lorry takes 300 of the stock, and only 300 are made."""
    plan = planned(plant(None))
    assert sum(run.packs_wanted for run in plan.runs) == 300
    assert [wave.fresh_for_h for wave in plan.waves] == [None, None]


def test_what_is_too_old_for_one_customer_stays_for_the_next() -> None:
    """Asked for at most four hours old, the first lorry's are made for it; the stock goes with the second whole."""
    plan = planned(plant(4))
    (run,) = plan.runs
    assert run.packs_wanted == 300
    assert run.first_pack_min >= FIRST - 4 * 60
    assert run.binding.kind == "freshness"
    assert [(wave.short, wave.stale, wave.fresh_for_h) for wave in plan.waves] == [(0, 0, 4), (0, 0, None)]
    assert plan.score.packs_stale == 0
    assert plan.score.surplus_packs == run.packs - 300


def test_what_the_products_own_age_rules_out_is_thrown_away_as_ever() -> None:
    """Good for 24 h at most: at minute 1,200 the stock is 30 h old, so all is made, and 400 packs are thrown away."""
    plan = planned(plant(4, good_for_h=24))
    assert sum(run.packs_wanted for run in plan.runs) == 300 + STOCK
    assert plan.score.packs_stale == STOCK


def test_the_check_finds_a_plan_that_forgot_what_was_asked() -> None:
    """Its run is early enough for the lorry and too old for the customer: none of its packs may go with it."""
    hasty = planned(plant(None, good_for_h=None))
    (run,) = hasty.runs
    assert run.last_pack_min < FIRST - 4 * 60
    found = [fault.text for fault in check(plant(4, good_for_h=None), hasty)]
    assert any("says 0 packs of Bun are never made; it is 300" in text for text in found)


def test_a_customer_who_asks_for_less_than_the_product_gives_asks_for_nothing() -> None:
    first, later = dues_of(plant(50), "line")
    assert first.fresh_from_min == first.good_from_min == FIRST - 48 * 60
    assert (first.asked_h, later.asked_h) == (None, None)


def test_the_strictest_of_a_lorrys_customers_counts() -> None:
    asked = plant(4)
    other = Order(id="strict", product="bun", wave=asked.orders[0].wave, packs=50, fresh_for_h=2)
    first, _ = dues_of(asked.changed(orders=(*asked.orders, other)), "line")
    assert first.packs == 350
    assert (first.fresh_from_min, first.asked_h) == (FIRST - 120, 2)


@pytest.mark.parametrize(("asked_h", "sent", "lying"), [(None, 300, 100), (4.0, 0, 400)])
def test_what_was_passed_over_lies_in_stock_when_the_lorry_has_left(
    asked_h: float | None, sent: int, lying: int
) -> None:
    """Nothing made beside the stock: the first lorry takes 300 of it, or none; the rest is there for the next."""
    asked = plant(asked_h)
    left = packs_by_now(asked.changed(opening=asked.opening.model_copy(update={"now_min": FIRST + 1})), (), ())
    assert [(one.sent, one.short) for one in left.served] == [(sent, 300 - sent)]
    assert [lot.packs for lot in left.lots] == [lying]
    assert left.thrown == {}
