"""Windows that go on: random plants rolled day after day; every pack, dough and kilogram is somewhere, and once."""

import os
from collections import Counter
from collections.abc import Iterable, Iterator, Sequence
from datetime import timedelta
from random import Random
from typing import NamedTuple

import pytest

from random_plants import ASKED_H, random_plant
from rundgang.core.orders import FinishedStock, Order, Wave
from rundgang.core.planning.check.materials import taken_by
from rundgang.core.planning.check.plans import check_plant
from rundgang.core.planning.cut_runs import cut_runs
from rundgang.core.planning.model import CutRun, LinePlan, PlantPlan, Run
from rundgang.core.planning.past import opened
from rundgang.core.planning.search.plant import plan_plant
from rundgang.core.planning.search.stopping import after_evaluations
from rundgang.core.rolling.roll import Rolled, roll
from rundgang.core.scenario import Delivery, Scenario

SOAKED = "SOAK_PLANTS" in os.environ
PLANTS, DAYS = (200, 30) if SOAKED else (10, 6)
SAME_MIN, SAME_KG = 1e-6, 1e-6
A_DAY, HALF_A_DAY = 1_440.0, 720.0


class Day(NamedTuple):
    """A roll: the window before it at that moment, the plan that it had, all orders, the next window and its plan."""

    before: Scenario
    floor: tuple[LinePlan, ...]
    book: tuple[Order, ...]
    rolled: Rolled
    plan: PlantPlan
    since_min: float


def days(seed: int, count: int) -> Iterator[Day]:
    """A random plant rolled so many times, at any moment of a day, with orders and flour for every day."""
    rng, first = Random(seed), random_plant(seed)
    products = [product.id for product in first.products]
    scenario, since, number = _with_lorries(first, 0.0), 0.0, 0
    book = tuple(order for order in scenario.orders)
    plan = plan_plant(scenario, stop=after_evaluations(30, 30))
    for _ in range(count):
        now = scenario.opening.now_min + rng.uniform(200, 1_600)
        longer = min(scenario.window.minutes + rng.choice([A_DAY, HALF_A_DAY]), now + 3 * A_DAY)
        until = max(scenario.window.minutes, now + A_DAY, longer)
        before = opened(scenario, plan.plans, now)
        waves = {wave.id: wave for wave in (*_lorries(since, until), *scenario.waves)}
        free = [wave for wave in waves.values() if wave.departs_min > now + HALF_A_DAY]
        for _ in range(rng.randint(0, 3) if free else 0):
            number += 1
            made, wave, packs = rng.choice(products), rng.choice(free).id, rng.randint(20, 500)
            fresh = ASKED_H[number % len(ASKED_H)]
            book = (*book, Order(id=f"later-{number}", product=made, wave=wave, packs=packs, fresh_for_h=fresh))
        rolled = roll(before, plan.plans, book, until_min=until, waves=tuple(waves.values()), blocks=scenario.blocks)
        found = plan_plant(
            rolled.scenario, stop=after_evaluations(20, 20), begin_from=rolled.plans, published=rolled.plans
        )
        yield Day(before, plan.plans, book, rolled, found, since)
        scenario, plan, book, since = _supplied(rolled.scenario), found, rolled.book, since + rolled.begin_min


def _lorries(since: float, until: float) -> tuple[Wave, ...]:
    """Two a day, from a window's view."""
    first, last = int(since // HALF_A_DAY), int((since + until) // HALF_A_DAY)
    waves = (
        Wave(id=f"lorry-{n}", name=f"Lorry {n}", departs_min=n * HALF_A_DAY + 600 - since) for n in range(first, last)
    )
    return tuple(wave for wave in waves if 0 <= wave.departs_min <= until)


def _with_lorries(plant: Scenario, since: float) -> Scenario:
    """The plant with lorries that have a name on the time line."""
    waves = _lorries(since, plant.window.minutes)
    orders = (order.model_copy(update={"wave": waves[n % len(waves)].id}) for n, order in enumerate(plant.orders))
    lots = (FinishedStock(product=plant.products[0].id, packs=60, made_min=-200 * n) for n in (0, 1))
    return plant.changed(waves=waves, orders=tuple(orders), finished=tuple(lots))


def _supplied(scenario: Scenario) -> Scenario:
    """Every material comes again behind the moment of the roll."""
    later = Delivery(at_min=scenario.opening.now_min + 300, amount=20)
    stocks = (stock.model_copy(update={"deliveries": (*stock.deliveries, later)}) for stock in scenario.stocks)
    return scenario.changed(stocks=tuple(stocks))


def _given(scenario: Scenario, runs: Iterable[Run]) -> Counter[str]:
    """Packs that runs give, by product, what is cut out of them too."""
    found = Counter[str]()
    listed = tuple(runs)
    for product, packs in (*_packs(listed), *_packs(cut_runs(scenario, listed))):
        found[product] += packs
    return found


def _packs(giving: Iterable[Run | CutRun]) -> Iterator[tuple[str, int]]:
    for one in giving:
        yield one.product, one.packs


def _gone(day: Day) -> list[Run]:
    """The runs that had begun and do not come along."""
    along = {(run.line, run.id) for run in _along(day)}
    return [run for run in day.before.opening.begun if (run.line, run.id) not in along]


def _along(day: Day) -> list[Run]:
    """The runs that come along, as the old window has them: found by what they are, not by their names."""
    begin = day.rolled.begin_min
    known = {(run.line, run.product, round(run.start_min + begin, 6)) for run in day.rolled.scenario.opening.begun}
    return [run for run in day.before.opening.begun if (run.line, run.product, round(run.start_min, 6)) in known]


def _plans_of(scenario: Scenario, plans: Sequence[LinePlan], runs: Sequence[Run]) -> list[LinePlan]:
    """The plans with some runs alone."""
    kept = {(run.line, run.id) for run in runs}
    found = []
    for plan in plans:
        own = tuple(run for run in plan.runs if (run.line, run.id) in kept)
        found.append(plan.model_copy(update={"runs": own, "cut_runs": cut_runs(scenario, own)}))
    return found


@pytest.mark.parametrize("seed", range(PLANTS))
def test_rolling_loses_nothing_and_doubles_nothing(seed: int) -> None:
    """Packs, orders, doughs and materials at every roll; and every plan of a rolled window passes the check."""
    sent, short, ordered, rolls = 0, 0, 0, 0
    for day in days(seed, DAYS):
        before, rolled, rolls = day.before, day.rolled, rolls + 1
        after = rolled.scenario
        assert len(_along(day)) == len(after.opening.begun)
        _assert_packs_balance(day)
        _assert_orders_balance(day)
        _assert_names_stay(day)
        _assert_doughs_come_along(day)
        _assert_materials_balance(day)
        assert check_plant(after, day.plan.plans) == ()
        assert after.window.starts_at == before.window.starts_at + timedelta(minutes=rolled.begin_min)
        sent, short = sent + rolled.settled.sent, short + rolled.settled.short
        ordered = sum(order.packs for order in rolled.book)
    assert rolls == DAYS
    assert sent + short + ordered > 0


def _assert_packs_balance(day: Day) -> None:
    """All packs of old stock and of what is over went, were thrown away, or lie in stock now."""
    lying, lie = Counter[str](), Counter[str]()
    for lot in day.before.finished:
        lying[lot.product] += lot.packs
    for lot in day.rolled.scenario.finished:
        lie[lot.product] += lot.packs
    sent = Counter[str]()
    for one in day.rolled.settled.served:
        sent[one.product] += one.sent
    made = _given(day.before, _gone(day))
    for product in (product.id for product in day.before.products):
        there = lying[product] + made[product]
        assert there == sent[product] + day.rolled.settled.thrown.get(product, 0) + lie[product], product


def _assert_orders_balance(day: Day) -> None:
    """What was ordered went, will never, or is still in the book; what is for a later lorry is as it was."""
    kept, settled = Counter[tuple[str, str]](), Counter[tuple[str, str]]()
    for order in day.rolled.book:
        kept[order.wave, order.product] += order.packs
    for one in day.rolled.settled.served:
        settled[one.wave, one.product] += one.sent + one.short
    wanted = Counter[tuple[str, str]]()
    for order in day.book:
        wanted[order.wave, order.product] += order.packs
    assert wanted == kept + settled
    departs = {wave.id: wave.loaded_by_min for wave in day.before.waves}
    now = day.before.opening.now_min
    assert all(departs[wave] <= now for wave, _ in settled), "a lorry that has not left was settled"


def _assert_names_stay(day: Day) -> None:
    """What comes along is called as it was, and nothing else of its line is."""
    now = [(run.line, run.id, run.product) for run in day.rolled.scenario.opening.begun]
    assert sorted(now) == sorted((run.line, run.id, run.product) for run in _along(day))
    for plan in day.rolled.plans:
        assert len({run.id for run in plan.runs}) == len(plan.runs)


def _assert_doughs_come_along(day: Day) -> None:
    """What is on the line, or waits in a trough, is the same in the next window, to the minute; all else is over."""
    begin, now = day.rolled.begin_min, day.before.opening.now_min
    after = {
        (batch.mixer, round(batch.start_min + begin, 6), round(batch.divided_min + begin, 6), batch.dough_g)
        for run in day.rolled.scenario.opening.begun
        for batch in run.mixed
    }
    before = [
        (run, (batch.mixer, round(batch.start_min, 6), round(batch.divided_min, 6), batch.dough_g))
        for run in day.before.opening.begun
        for batch in run.mixed
    ]
    assert after <= {dough for _, dough in before}
    over = {dough for run, dough in before if dough not in after}
    late = [run for run, dough in before if dough in over and run.last_pack_min > now + SAME_MIN]
    assert not late, "a run that is on the line does not come along"


def _assert_materials_balance(day: Day) -> None:
    """What was there and what came, less what the check counts as taken by the runs that are over, is there now."""
    begin, gone = day.rolled.begin_min, _gone(day)
    plans = _plans_of(day.before, day.floor, gone)
    drawn = taken_by(day.before, plans, tuple(stock.item for stock in day.before.stocks))
    for old, new in zip(day.before.stocks, day.rolled.scenario.stocks, strict=True):
        came = sum(come.amount for come in old.deliveries if come.at_min < begin)
        taken = sum(draw.amount for draw in drawn[old.item])
        assert new.on_hand == pytest.approx(old.on_hand + came - taken, abs=1e-3)
        assert len(new.deliveries) == sum(come.at_min >= begin for come in old.deliveries)
