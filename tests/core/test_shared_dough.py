"""One dough divided into two products: loaves, and long rolls from what the last of their doughs has over.

Tin loaves and long rolls are often made of one dough (common practice, no published source).
"""

from math import ceil

import pytest

from bakeries import LOAVES, ROLLS, loaves_first, roll_bakery, rolled
from families import strokes
from plants import belt, laid_out, on_belt
from rundgang.core.batching import saving_pieces
from rundgang.core.dough.card import batch_cards
from rundgang.core.dough.mixed import Dough, doughs, find_dough
from rundgang.core.errors import UnknownItemError
from rundgang.core.kinds.rate import RateStation
from rundgang.core.materials import ItemShares, run_draws
from rundgang.core.planning.check.plans import check_plant
from rundgang.core.planning.lorries import OrderItem
from rundgang.core.planning.model import LinePlan, Run
from rundgang.core.planning.past import opened
from rundgang.core.planning.repair import Fit, repair
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario


def mixed(plan: LinePlan) -> int:
    """Doughs in all."""
    return sum(len(run.mixed) for run in plan.runs)


def test_the_odd_dough_is_divided_into_both() -> None:
    """3.4 doughs and 2.6 make six: 400 loaves and 600 rolls of one, which is full."""
    day = roll_bakery()
    plan = rolled(day)
    loaves, rolls = plan.runs
    assert mixed(plan) == 6 == ceil((LOAVES + ROLLS) / 1_000)
    assert [batch.pieces for batch in rolls.batches] == [600, 1_000, 1_000]
    rest, whole = rolls.batches[0], loaves.batches[-1]
    assert rest.shared
    assert (rest.mixer, rest.start_min, rest.discharged_min) == (whole.mixer, whole.start_min, whole.discharged_min)
    assert whole.dough_g + rest.dough_g == pytest.approx(100_000)
    assert rolls.packs == ROLLS, "nothing is made beyond what is wanted"
    assert check_plant(day, (plan,)) == ()


def test_another_dough_is_not_divided() -> None:
    """Rolls with nuts have doughs of their own: seven in all."""
    plan = rolled(roll_bakery(nuts=True))
    assert mixed(plan) == 7
    assert not any(batch.shared for run in plan.runs for batch in run.batches)


def test_a_dough_too_old_for_it_is_not_divided() -> None:
    """The 400 loaves and the 600 rolls take 10 min together at 100 a minute; a dough good for 14 min has rested 5."""
    assert mixed(rolled(roll_bakery(age=15.1))) == 6
    assert mixed(rolled(roll_bakery(age=14.9))) == 7


def test_its_trough_is_kept_for_the_rest() -> None:
    """The dough stands in its trough until the last roll of it is divided; nothing else comes into that before."""
    day = roll_bakery(trough=True)
    plan = rolled(day)
    rest = plan.runs[1].batches[0]
    assert rest.shared
    assert rest.trough == plan.runs[0].batches[-1].trough
    others = [batch for run in plan.runs for batch in run.mixed if batch.trough == rest.trough]
    assert all(b.discharged_min + 5 >= rest.last_piece_min - 1e-6 for b in others if b.start_min > rest.start_min)
    assert check_plant(day, (plan,)) == ()


@pytest.mark.parametrize(("need", "most", "saves"), [(2_600, 1_000, 600), (300, 1_000, 300), (2_000, 1_000, 1_000)])
def test_what_saves_a_dough(need: int, most: int, saves: int) -> None:
    """What is left when the full doughs are made; a small run can be all of another's dough."""
    assert saving_pieces(need, most) == saves
    assert ceil((need - saves) / most) == ceil(need / most) - 1


def test_a_small_run_has_no_dough_of_its_own() -> None:
    """500 rolls are all of the loaves' last dough."""
    day = roll_bakery()
    small = day.changed(
        orders=(day.orders[0], day.orders[1].model_copy(update={"packs": 500})),
    )
    items = [loaves_first(small)[0], loaves_first(small)[1].model_copy(update={"packs": 500})]
    plan = laid_out(small, items)
    assert plan.runs[1].mixed == ()
    assert [batch.pieces for batch in plan.runs[1].batches] == [500]
    assert check_plant(small, (plan,)) == ()


def test_cards_say_what_is_mixed() -> None:
    """Six cards; the divided dough's is of 100 kg and says for whom the rest is. The flour is that of all six."""
    day = roll_bakery()
    plan = rolled(day)
    cards = batch_cards(day, plan)
    assert len(cards) == 6
    card = next(card for card in cards if card.rest)
    assert (card.dough_g, card.pieces) == (100_000, 400)
    assert card.rest is not None
    assert (card.rest.run, card.rest.pieces, card.rest.grams) == ("R2", 600, 60_000)
    flour = sum(line.grams for card in cards for line in card.ingredients if line.ingredient == "flour")
    assert flour == pytest.approx(600_000 / 1.5, abs=600), "scaled in steps of 100 g"
    assert find_dough(plan, "R1", 4).whole.dough_g == 100_000
    with pytest.raises(UnknownItemError):
        find_dough(plan, "R2", 1)


def test_what_is_prepared_is_together_too() -> None:
    """A dough and its rest, as they are mixed, are the sum of both."""
    plan = rolled(roll_bakery())
    whole = [dough.whole.dough_g for dough in doughs(plan)]
    assert sum(whole) == sum(batch.dough_g for run in plan.runs for batch in run.batches)
    assert Dough(plan.runs[0], plan.runs[0].batches[0]).whole == plan.runs[0].batches[0]


def _spoiled(plan: LinePlan, **rest: object) -> LinePlan:
    loaves, rolls = plan.runs
    first = rolls.batches[0].model_copy(update=rest)
    return plan.model_copy(update={"runs": (loaves, rolls.model_copy(update={"batches": (first, *rolls.batches[1:])}))})


@pytest.mark.parametrize(
    ("rest", "says"),
    [
        ({"dough_g": 90_000}, "is 130.0 kg; allowed 20 to 100"),
        ({"dough_g": 30_000}, "too little for its pieces"),
        ({"mixer": "Z"}, "that is mixed for no other run"),
        ({"start_min": 1.0}, "that is mixed for no other run"),
        ({"discharged_min": 1.0}, "other times than R1 has it mixed"),
        ({"shared": False}, "is still in use"),
    ],
)
def test_the_check_sees_a_wrong_rest(rest: dict[str, object], says: str) -> None:
    """A rest that is too much, too little, elsewhere, or a dough of its own in a mixer that is taken."""
    day = roll_bakery()
    assert any(says in str(fault) for fault in check_plant(day, (_spoiled(rolled(day), **rest),)))


def test_the_check_sees_a_rest_of_nothing() -> None:
    """The rolls alone cannot have the rest of a dough that nobody mixes."""
    day = roll_bakery()
    plan = rolled(day)
    alone = plan.model_copy(update={"runs": plan.runs[1:]})
    assert any("that is mixed for no other run" in str(fault) for fault in check_plant(day, (alone,)))


def _begun(day: Scenario, plan: LinePlan, now: float) -> Scenario:
    return opened(day, [plan], now)


def test_what_has_begun_still_shares() -> None:
    """The loaves are on the line; their last dough is not yet begun: the rolls, laid out anew, still share it."""
    day = roll_bakery()
    plan = plan_plant(day, stop=after_evaluations(50, 50))
    first, last = plan.of("line").runs
    now = (first.first_mixed_min + first.batches[-1].start_min) / 2
    later = _begun(day, plan.of("line"), now)
    assert len(later.opening.begun) == 1
    again = repair(later, plan, Fit(line="line")).plan.of("line")
    assert mixed(again) == 6
    assert check_plant(later, (again,)) == ()
    both = _begun(day, plan.of("line"), last.batches[0].start_min + 1)
    assert len(both.opening.begun) == 2, "who has the rest of a dough that is begun has begun"


def test_materials_are_those_of_six_doughs() -> None:
    """The flour that the plan draws is two thirds of 600 kg."""
    day = roll_bakery()
    draws = [draw for run in rolled(day).runs for draw in run_draws(ItemShares(day), run, None)]
    assert sum(draw.amount for draw in draws if draw.item == "flour") == pytest.approx(400)


def test_products_are_of_one_dough_by_what_makes_it() -> None:
    """Formula, mixing, trough and temperature; not what is done with it."""
    loaf, roll = roll_bakery().products
    assert loaf.dough == roll.dough
    warmer: Product = roll.model_copy(update={"dough_temperature_c": 27})
    assert loaf.dough != warmer.dough


def test_a_dough_is_divided_once() -> None:
    """The rolls have all that the loaves' last dough has room for; who comes behind them finds no dough to share.

    3.4 doughs of loaves, 0.3 of rolls, 2.2 of loaves: the rolls are of the fourth dough, and the loaves behind them
    need three of their own, though 0.3 of that dough's room is left.
    """
    day = roll_bakery()
    wave = day.orders[0].wave
    items = [
        OrderItem(product=name, wave=wave, packs=packs, alone=True)
        for name, packs in (("loaf", 3_400), ("roll", 300), ("loaf", 2_200))
    ]
    orders = tuple(
        order.model_copy(update={"packs": packs}) for order, packs in zip(day.orders, (5_600, 300), strict=True)
    )
    asked = day.changed(orders=orders)
    plan = laid_out(asked, items)
    assert [len(run.mixed) for run in plan.runs] == [4, 0, 3]
    assert [run.batches[0].shared for run in plan.runs] == [False, True, False]
    assert check_plant(asked, (plan,)) == ()


def test_rolls_with_a_divider_of_their_own_wait_for_the_dough_to_rest() -> None:
    """They could start while the loaves are divided, before the last of their doughs is: then it is not theirs.

    Rolls rest 20 min on a belt behind their divider, so they may begin 20 min before the last loaf comes to the oven,
    minute 29 of 49; the last dough of loaves has rested at minute 45.
    """
    day = roll_bakery(age=200)
    loaf, roll = day.products
    own = (strokes("roll-divider", 100), on_belt("rest", 20))
    rested = roll.model_copy(update={"route": (roll.route[0], *own, *roll.route[2:])})
    line = day.plant.lines[0]
    stations = (
        *line.stations[:-1],
        belt("rest"),
        RateStation(id="roll-divider", name="Roll divider"),
        line.stations[-1],
    )
    plant = day.plant.model_copy(update={"lines": (line.model_copy(update={"stations": stations}),)})
    two = day.model_copy(update={"plant": plant, "products": (loaf, rested)})
    plan = laid_out(two, loaves_first(two))
    loaves, rolls = plan.runs
    assert rolls.start_min < loaves.batches[-1].divided_min
    assert not rolls.batches[0].shared
    assert check_plant(two, (plan,)) == ()
    taken = rolls.batches[0].model_copy(update={"shared": True, **_when(loaves)})
    early = rolls.model_copy(update={"batches": (taken, *rolls.batches[1:])})
    faults = check_plant(two, (plan.model_copy(update={"runs": (loaves, early)}),))
    assert any("before it has rested" in str(fault) for fault in faults)


def _when(run: Run) -> dict[str, object]:
    last = run.batches[-1]
    return {"mixer": last.mixer, "start_min": last.start_min, "discharged_min": last.discharged_min}
