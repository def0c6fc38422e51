"""The record kept by itself: what the plan made by now is there once, balances, and what is held stays held."""

from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from uuid import uuid4
from zoneinfo import ZoneInfo

import pytest
from sqlalchemy import Engine
from sqlmodel import Session

from rundgang.clock import Clock
from rundgang.core.floor.lots import Use
from rundgang.core.floor.recall import mass_balance, packs_balance
from rundgang.core.planning.checked import checked, fitted
from rundgang.core.planning.past import opened
from rundgang.core.scenario import Scenario
from rundgang.formats.stock_csv import Coming
from rundgang.jobs.holding import hold, release
from rundgang.jobs.keeping import keep
from rundgang.jobs.stocktaking import deliver
from rundgang.store.cluster import Urls
from rundgang.store.database import connect
from rundgang.store.repository import Repository

pytestmark = pytest.mark.whole

NIGHT, LATE = datetime(2026, 3, 11, 1, tzinfo=UTC), datetime(2026, 3, 11, 14, tzinfo=UTC)
"""When doughs are on the lines; and when the first lorries have left."""

EVER = LATE - timedelta(days=30)


@pytest.fixture
def engine(urls: Urls) -> Iterator[Engine]:
    made = connect(urls.app)
    yield made
    made.dispose()


def present(store: Repository, at: datetime) -> Scenario:
    scenario = store.windows.scenario()
    return opened(scenario, store.plans.floor_plans(), Clock(at).minute_of(scenario.window.starts_at))


def counted(scenario: Scenario) -> dict[str, int]:
    """Packs that the plan counts, in stock and of begun runs, by product."""
    found: dict[str, int] = {}
    for product, packs in (
        *((lot.product, lot.packs) for lot in scenario.finished),
        *((run.product, run.packs) for run in scenario.opening.begun),
    ):
        found[product] = found.get(product, 0) + packs
    return {product: packs for product, packs in found.items() if packs}


def test_all_that_is_made_is_there_once_and_balances(engine: Engine) -> None:
    with Session(engine) as session:
        store = Repository(session)
        keep(store, Clock(LATE))
        kept = {kind: len(store.lots.since(kind, EVER)) for kind in ("packs", "batch", "material")}
        assert all(kept.values())
        keep(store, Clock(LATE))
        assert kept == {kind: len(store.lots.since(kind, EVER)) for kind in ("packs", "batch", "material")}
        scenario, now = store.windows.scenario(), present(store, LATE)
        packs = store.lots.since("packs", EVER)
        for run in now.opening.begun:
            made = sum(lot.amount for lot in packs if (lot.line, lot.run, lot.item) == (run.line, run.id, run.product))
            assert made <= run.packs
            if run.last_pack_min <= now.opening.now_min:
                assert made == run.packs, "all of a run that is over"
        numbers = [lot.number for lot in packs]
        uses = store.lots.uses_into(numbers)
        made_of = {use.into for use in uses if use.kind == "divided" and use.lot is not None}
        assert made_of == {lot.number for lot in packs if lot.run}, "every pack is of a dough that is known"
        balance = packs_balance([lot.lot for lot in packs], store.lots.became(numbers))
        assert balance.made == balance.sent + balance.held + balance.scrap + balance.in_stock
        assert balance.sent > 0
        used = [Use(use.lot or 0, use.into, use.amount, use.kind) for use in uses]
        for lot in (lot for lot in packs if lot.run and lot.item == "lantern-plain"):
            mass, product = mass_balance(scenario, [lot.lot], used), scenario.product(lot.item)
            pieces = lot.amount * product.pieces_per_pack
            assert mass.packs == pytest.approx(pieces * product.baked_g / 1000)
            share = product.bake_loss
            assert mass.bake_loss == pytest.approx(pieces * product.baked_g * share / (1 - share) / 1000)
            assert 0 <= mass.other_loss < 0.2 * mass.dough


def test_a_material_is_drawn_once_and_no_more_than_there_was(engine: Engine) -> None:
    with Session(engine) as session:
        store = Repository(session)
        keep(store, Clock(LATE))
        materials = store.lots.since("material", EVER)
        used = store.lots.used_of([lot.number for lot in materials])
        assert used
        for lot in materials:
            assert used.get(lot.number, 0.0) <= lot.amount + 1e-3, lot.code
        batches = store.lots.since("batch", EVER)
        of = store.lots.uses_into([lot.number for lot in batches])
        for batch in batches:
            parts = [use.amount for use in of if use.into == batch.number and use.kind in {"mixed in", "weighed"}]
            assert sum(parts) == pytest.approx(batch.amount, abs=0.002), batch.code


def test_what_is_made_of_a_held_dough_is_held_and_comes_back_as_it_was(engine: Engine) -> None:
    """A dough goes on though it is held: so do its packs, and the plan does not count them until it is released."""
    with Session(engine) as session:
        store = Repository(session)
        keep(store, Clock(NIGHT))
        waiting = [
            lot
            for lot in store.lots.since("batch", EVER, "bread-line")
            if not store.lots.trace(lot.number).went_into and lot.batch and lot.batch.isdigit()
        ]
        dough = waiting[-1]
        hold(store, Clock(NIGHT), dough.number, True, "smells", "Ida", uuid4())
        later = NIGHT + timedelta(hours=7)
        before = counted(present(store, later))
        keep(store, Clock(later))
        made = [one.lot for one in store.lots.trace(dough.number).went_into if one.lot.kind == "packs"]
        assert made
        held = store.lots.holds([lot.number for lot in made])
        assert {*held} == {lot.number for lot in made}
        assert held[made[0].number][0].said["reason"] == "smells"
        now = present(store, later)
        lost = sum(round(lot.amount) for lot in made)
        assert sum(before.values()) - sum(counted(now).values()) == lost
        plan = store.plans.live().plan
        assert not checked(now, plan).sound, "the plan that counts them still is not sound any more"
        anew = fitted(now, plan, [line.line for line in plan.plans])
        assert checked(now, anew.plan).sound
        release(store, Clock(later), dough.number, True, "tasted", "Ida", uuid4())
        assert counted(present(store, later)) == before, "to the pack"
        keep(store, Clock(later))
        assert store.lots.holds([lot.number for lot in made]) == {}, "what was released stays so"


def test_what_is_held_twice_is_counted_once(engine: Engine) -> None:
    """Held by a flour and by itself, released together: the plan counts as many packs as before."""
    with Session(engine) as session:
        store = Repository(session)
        at = NIGHT + timedelta(hours=2)
        keep(store, Clock(at))
        before = counted(present(store, at))
        bag = next(lot for lot in store.lots.since("packs", EVER, "ring-line") if lot.run)
        flour = next(one.lot for one in store.lots.trace(bag.number).made_of if one.lot.item == "flour-mill")
        hold(store, Clock(at), bag.number, False, "seal", "Ida", uuid4())
        hold(store, Clock(at), flour.number, True, "moths", "Ida", uuid4())
        assert sum(counted(present(store, at)).values()) < sum(before.values())
        release(store, Clock(at), flour.number, True, "none found", "Ida", uuid4())
        assert counted(present(store, at)) == before


def test_two_deliveries_of_a_minute_are_two_lots(engine: Engine) -> None:
    """Without a supplier's lot their labels would be the same; kept again, they are there once each."""
    with Session(engine) as session:
        store = Repository(session)
        at = NIGHT.astimezone(ZoneInfo("Europe/Vienna")).replace(tzinfo=None) - timedelta(hours=1)
        for amount in (300.0, 450.0):
            deliver(store, Coming(item="salt", amount=amount, at=at), "Ida")
        for _ in range(2):
            keep(store, Clock(NIGHT))
        came = [lot for lot in store.lots.since("material", EVER) if lot.item == "salt" and lot.amount in {300, 450}]
        assert len({lot.code for lot in came}) == len(came) == 2
