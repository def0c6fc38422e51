"""Lots: first in, first out; which packs are of which dough; and what may be weighed in."""

from datetime import date
from itertools import pairwise
from math import isclose

import pytest
from hypothesis import given
from hypothesis import strategies as st

from rundgang.core.dough.card import batch_cards
from rundgang.core.floor.absent import PacksThere, held_back, put_back
from rundgang.core.floor.fifo import Layer, first_in_first_out
from rundgang.core.floor.loading import Loadable, Refusal, oldest_first, refusal
from rundgang.core.floor.lots import Lot, Use
from rundgang.core.floor.packed import packed_parts
from rundgang.core.floor.recall import PacksOf, packs_balance, traced
from rundgang.core.floor.record import made_batches, made_packs
from rundgang.core.floor.weighing import (
    LeftOf,
    LotRefusedError,
    OffWeightError,
    Weighed,
    refuse_weighed,
    weighing_steps,
)
from rundgang.core.opening import Loaded
from rundgang.core.orders import Order
from rundgang.core.planning.check.plans import check
from rundgang.core.planning.cut_runs import cut_runs
from rundgang.core.planning.model import LinePlan
from rundgang.core.planning.packs import Served, as_loaded, with_loaded
from rundgang.core.planning.past import opened
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.scenario import Scenario
from rundgang.demo.ostermere import SOME_DAY, ostermere

TODAY = date(2026, 3, 11)


def test_the_oldest_goes_first_and_a_draw_over_a_border_has_both() -> None:
    """First in, first out, as inventory is valued: 10 at the first, 5 at the second; 12 take 10 and 2 (textbook)."""
    first, second = first_in_first_out([Layer(1, 10), Layer(2, 5)], [12, 3])
    assert first == ((1, 10), (2, 2))
    assert second == ((2, 3),)


def test_more_than_is_known_to_be_there_is_of_nobody_knows_which_lot() -> None:
    ((whole, rest),) = first_in_first_out([Layer(7, 4)], [6])
    assert (whole.lot, whole.amount) == (7, 4)
    assert (rest.lot, rest.amount) == (None, 2)


def test_in_a_silo_two_lots_blend_where_they_meet() -> None:
    """What is drawn near a border may hold some of both, and both are named; far from it only its own."""
    draws = first_in_first_out([Layer(1, 100), Layer(2, 100)], [80, 15, 15, 80], blends=10)
    assert [[share.lot for share in draw] for draw in draws] == [[1], [1, 2], [1, 2], [2]]
    assert [sum(share.amount for share in draw) for draw in draws] == [80, 15, 15, 80]


amounts = st.lists(st.floats(0.01, 1_000), min_size=1, max_size=8)


@given(amounts, amounts, st.floats(0, 50))
def test_nothing_is_lost_and_nothing_is_there_twice(there: list[float], wanted: list[float], blends: float) -> None:
    layers = [Layer(number, amount) for number, amount in enumerate(there)]
    draws = first_in_first_out(layers, wanted, blends)
    for amount, draw in zip(wanted, draws, strict=True):
        assert isclose(sum(share.amount for share in draw), amount, abs_tol=1e-6)
    given_out = dict.fromkeys(range(len(there)), 0.0)
    for share in (share for draw in draws for share in draw):
        if share.lot is not None:
            given_out[share.lot] += share.amount
    for number, amount in enumerate(there):
        assert given_out[number] <= amount + 1e-6
    order = [share.lot for draw in draws for share in draw if share.amount and share.lot is not None]
    assert all(one <= other for one, other in pairwise(order))


@pytest.fixture(scope="module")
def demo() -> Scenario:
    return ostermere(SOME_DAY)


@pytest.fixture(scope="module")
def plans(demo: Scenario) -> tuple[LinePlan, ...]:
    return plan_plant(demo, stop=after_evaluations(50, 50)).plans


def test_every_pack_is_of_one_dough_and_every_dough_is_in_packs(plans: tuple[LinePlan, ...]) -> None:
    for plan in plans:
        for run in plan.runs:
            parts = list(packed_parts(run, run))
            assert sum(part.packs for part in parts) == run.packs
            in_packs = sum(grams for part in parts for _, grams in part.doughs)
            assert isclose(in_packs, sum(batch.dough_g for batch in run.batches), rel_tol=1e-9)
            assert parts[-1].to_min == pytest.approx(run.last_pack_min)
            for part in parts:
                assert part.doughs[-1][0] == part.batch, "a pack is of the dough of its last piece"
                assert len(part.doughs) <= 2 or part.packs == 1


def test_what_was_made_by_a_moment_is_what_the_plan_drew_by_then(demo: Scenario, plans: tuple[LinePlan, ...]) -> None:
    """Against a count of its own: flour in all batches, by the cards of the dough room."""
    for plan in plans:
        made = list(made_batches(demo, plan, float("inf")))
        cards = batch_cards(demo, plan)
        assert {(one.name.run, one.name.key) for one in made} == {(card.run, card.key) for card in cards}
        weighed = {(card.run, card.key): card for card in cards}
        for one in made:
            card = weighed[one.name]
            own = {line.ingredient: line.grams for line in card.ingredients if line.role != "preparation"}
            assert {drawn.item: round(drawn.amount * 1000) for drawn in one.drawn} == own
        packs = list(made_packs(demo, plan, float("inf")))
        for run in plan.giving:
            name = run.id if hasattr(run, "id") else run.run
            assert sum(p.packs for p in packs if (p.run, p.product) == (name, run.product)) == run.packs
        half = plan.runs[0].first_pack_min + 1
        assert all(one.to_min <= half for one in made_packs(demo, plan, half))


def test_pieces_with_a_filling_name_the_batch_of_it(demo: Scenario, plans: tuple[LinePlan, ...]) -> None:
    """Kilograms put on are those that the run uses of each batch."""
    seen = 0
    for plan in plans:
        packs = list(made_packs(demo, plan, float("inf")))
        for run in plan.runs:
            used = sum(filling.used_g for filling in run.fillings) / 1000
            put_on = sum(part.kg for p in packs if p.run == run.id and not p.is_cut for part in p.put_on)
            assert isclose(used, put_on, abs_tol=1e-6)
            seen += bool(used)
    assert seen


def material(number: int, item: str, **more: object) -> Lot:
    known = {"number": number, "code": f"L{number}", "kind": "material", "item": item, "amount": 500.0}
    return Lot.model_validate({**known, **more})


def test_a_lot_that_is_expired_held_or_brings_an_allergen_is_refused(
    demo: Scenario, plans: tuple[LinePlan, ...]
) -> None:
    card = next(card for card in batch_cards(demo, plans[0]) if card.product == "lantern-plain")
    item = "flour-mill"
    lots = [
        LeftOf(lot=material(1, item, best_before=date(2026, 3, 10)), left=400),
        LeftOf(lot=material(2, item), left=400, held="smells"),
        LeftOf(lot=material(3, item, allergens={"sesame"}), left=400),
        LeftOf(lot=material(4, item, best_before=TODAY), left=400),
    ]
    (step,) = (s for s in weighing_steps(demo, card, {item: lots}, (), TODAY) if s.ingredient == item)
    assert step.lots[0].lot == 4
    refused = {lot.lot: lot.refused for lot in step.lots}
    assert refused == {
        1: "expired on 2026-03-10",
        2: "held: smells",
        3: "brings sesame, which the product does not declare",
        4: None,
    }
    for lot, word in ((1, "expired"), (2, "held"), (3, "sesame"), (9, "something else"), (None, "no lot")):
        with pytest.raises(LotRefusedError, match=word):
            refuse_weighed(step, Weighed(ingredient=item, lot=lot, grams=step.grams))
    refuse_weighed(step, Weighed(ingredient=item, lot=4, grams=step.grams))


def test_what_is_off_needs_a_reason(demo: Scenario, plans: tuple[LinePlan, ...]) -> None:
    """One per cent either way, and no less than a step of the scale (common practice, no published source)."""
    card = next(card for card in batch_cards(demo, plans[0]) if card.product == "lantern-plain")
    there = {
        line.ingredient: [LeftOf(lot=material(n, line.ingredient), left=900)] for n, line in enumerate(card.ingredients)
    }
    steps = {step.ingredient: step for step in weighing_steps(demo, card, there, (), TODAY)}
    flour = steps["flour-mill"]
    assert flour.high_g - flour.grams == flour.grams - flour.low_g == max(100, round(flour.grams / 100))
    too_much = Weighed(ingredient="flour-mill", lot=flour.lots[0].lot, grams=flour.high_g + 1)
    with pytest.raises(OffWeightError, match="with a reason"):
        refuse_weighed(flour, too_much)
    refuse_weighed(flour, too_much.model_copy(update={"reason": "the last of the bag"}))
    part = Weighed(ingredient="flour-mill", lot=flour.lots[0].lot, grams=flour.grams // 2)
    (half,) = (s for s in weighing_steps(demo, card, there, (part,), TODAY) if s.ingredient == "flour-mill")
    assert (half.weighed_g, half.done) == (part.grams, False)
    both = (part, part.model_copy(update={"grams": flour.grams - part.grams}))
    (whole,) = (s for s in weighing_steps(demo, card, there, both, TODAY) if s.ingredient == "flour-mill")
    assert whole.done
    assert steps["water"].lots == ()


def test_both_ways_of_a_trace_by_hand() -> None:
    """Two flours, a sponge of the first, a dough of the sponge and the second, packs of that, and a dough beside it."""
    lots = {
        1: material(1, "flour-mill"),
        2: material(2, "flour-strong"),
        3: material(3, "sponge", kind="batch"),
        4: material(4, "tarn-white", kind="batch"),
        5: material(5, "tarn-white", kind="packs", amount=90),
        6: material(6, "swift-white", kind="batch"),
    }
    uses = [
        Use(1, 3, 10, "mixed in"),
        Use(3, 4, 20, "mixed in"),
        Use(2, 4, 30, "weighed"),
        Use(4, 5, 50, "divided"),
        Use(2, 6, 5, "mixed in"),
    ]
    of_packs = traced(lots, uses, 5)
    assert [(one.lot.number, one.steps) for one in of_packs.made_of] == [(4, 1), (2, 2), (3, 2), (1, 3)]
    assert of_packs.went_into == ()
    assert {(use.lot, use.into) for use in of_packs.uses} == {(1, 3), (3, 4), (2, 4), (4, 5)}
    of_flour = traced(lots, uses, 1)
    assert [(one.lot.number, one.steps) for one in of_flour.went_into] == [(3, 1), (4, 2), (5, 3)]
    assert 6 in {one.lot.number for one in traced(lots, uses, 2).went_into}


def test_packs_balance_to_the_pack() -> None:
    lots = [material(1, "tarn-white", kind="packs", amount=90), material(2, "tarn-white", kind="packs", amount=60)]
    found = packs_balance(lots, {1: PacksOf(sent=40, scrap=3, held=47), 2: PacksOf(sent=20, scrap=0, held=0)})
    assert found.model_dump() == {"made": 150, "sent": 60, "held": 47, "scrap": 3, "in_stock": 40}


def there(lot: int, packs: int, made_min: float, **more: object) -> Loadable:
    return Loadable(lot=lot, product="lantern-plain", packs=packs, made_min=made_min)._replace(**more)  # type: ignore[arg-type]


def test_what_may_not_go_is_refused_and_the_oldest_of_the_rest_goes_first(demo: Scenario) -> None:
    """Worked by hand: 100 are due; of 60 held, 50 too old, 70 and 80 that may go, the older gives 70, the other 30."""
    wave = max(demo.waves, key=lambda wave: wave.departs_min)
    fresh = demo.product("lantern-plain").fresh_for_h
    assert fresh is not None
    old = wave.departs_min - fresh * 60
    lots = [
        there(1, 50, old - 90),
        there(2, 60, old + 10, held="smells"),
        there(3, 70, old + 20),
        there(4, 80, old + 30),
    ]
    said = {one.lot: why.says if (why := refusal(demo, wave, one)) else None for one in lots}
    assert said == {1: "too old by 1.5 h when it leaves", 2: "held: smells", 3: None, 4: None}
    assert oldest_first(demo, wave, lots, 100) == ((3, 70), (4, 30))
    assert oldest_first(demo, wave, lots, 0) == ()
    asks = demo.changed(plant=demo.plant.model_copy(update={"clears_packs": True}))
    assert refusal(asks, wave, there(5, 10, old + 30, cleared=False)) == Refusal(
        kind="not cleared", says="quality control has not cleared it to load"
    )
    assert refusal(asks, wave, there(5, 10, old + 30)) is None


def test_a_customer_who_wants_fresher_packs_gets_them(demo: Scenario) -> None:
    order = next(order for order in demo.orders if order.product == "lantern-plain")
    wave = next(wave for wave in demo.waves if wave.id == order.wave)
    asked = demo.changed(orders=(order.model_copy(update={"fresh_for_h": 2.0}),))
    lot = there(1, 10, wave.departs_min - 180)
    assert refusal(demo, wave, lot) is None
    why = refusal(asked, wave, lot)
    assert why is not None
    assert why.says == "too old by 1.0 h when it leaves"


def test_a_lorry_that_has_left_has_what_it_got(demo: Scenario) -> None:
    """Two orders of a product for a lorry, 60 and 40 packs: 70 went, then 120, then none (worked by hand)."""
    orders = tuple(
        Order(id=number, product="lantern-plain", wave="w", packs=packs) for number, packs in (("a", 60), ("b", 40))
    )

    def left(packs: int) -> list[int]:
        told = [Loaded(wave="w", product="lantern-plain", packs=packs)]
        return [order.packs for order in as_loaded(orders, told)]

    assert (left(70), left(120), left(0)) == ([60, 10], [60, 60], [])
    planned = Served(wave="w", product="lantern-plain", sent=100, short=0, kept=0)
    (served,) = with_loaded(orders, [planned], [Loaded(wave="w", product="lantern-plain", packs=70)])
    assert (served.sent, served.short, served.kept) == (70, 30, 0)
    assert with_loaded(orders, [planned], []) == (planned,)


def test_packs_held_back_are_absent_and_come_back_whatever_they_are(
    demo: Scenario, plans: tuple[LinePlan, ...]
) -> None:  # fmt: skip
    """Of begun runs, of stock, of both at random: held back and put back, all is as it was; and the check sees it."""
    now = opened(demo, plans, 600.0)
    begun = [run for run in now.opening.begun if run.packs]
    assert begun
    for run in begun:
        packs = PacksThere(run.product, min(30, run.packs), run.last_pack_min, run.line, run.id)
        after, taken = held_back(now, packs)
        assert taken == packs.packs
        fact = next(one for one in after.opening.begun if (one.line, one.id) == (run.line, run.id))
        assert fact.packs == run.packs - taken
        plan = next(plan for plan in plans if plan.line == run.line)
        assert any("may be loaded" in one.text for one in check(after, plan)), "a plan that counts them still"
        back = put_back(after, packs)
        assert [one.packs for one in back.opening.begun] == [one.packs for one in now.opening.begun]
    lot = demo.finished[0]
    after, taken = held_back(now, PacksThere(lot.product, lot.packs + 50, lot.made_min))
    assert taken == sum(one.packs for one in demo.finished if one.product == lot.product), "no more than there were"
    assert all(one.product != lot.product for one in after.finished)
    cut = next(run for run in begun if demo.cut_from(demo.product(run.product)))
    name = demo.cut_from(demo.product(cut.product))
    assert name is not None
    holes = PacksThere(name.id, 9, cut.last_pack_min, cut.line, cut.id)
    (before,) = cut_runs(now, (cut,))
    after, taken = held_back(now, holes)
    assert taken == min(9, before.packs)
    assert cut_runs(after, (cut,))[0].packs == before.packs - taken
    assert [one.packs for one in after.opening.begun] == [one.packs for one in now.opening.begun], "its own packs stay"
    plan = next(plan for plan in plans if plan.line == cut.line)
    assert any("are cut out of it" in one.text for one in check(after, plan)), "a plan that counts them still"
    fits = plan.model_copy(update={"cut_runs": cut_runs(after, plan.runs)})
    assert not any("are cut out of it" in one.text for one in check(after, fits))
    assert cut_runs(put_back(after, holes), (cut,)) == (before,)
