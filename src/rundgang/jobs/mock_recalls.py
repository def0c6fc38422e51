"""Mock recalls as people practise them: a bag that went out is named, and what they find is held against the record."""

from datetime import datetime, timedelta
from random import Random
from uuid import UUID

from rundgang.clock import Clock
from rundgang.core.errors import RundgangError
from rundgang.core.floor.mock_recall import RecallAnswer, judge_recall, sources_of, task_of
from rundgang.core.model import Model
from rundgang.jobs.tracing import name_of
from rundgang.store.mock_recalls import StoredMockRecall
from rundgang.store.repository import Repository

BACK = timedelta(days=14)
"""Bags that went out longer ago are in nobody's hands any more."""

MOST_BAGS = 12
"""Of so many bags one is taken."""

MOST_SHOWN = 20


class NothingWentError(RundgangError):
    """Nothing has gone out of which a lot of an ingredient is known."""

    def __init__(self) -> None:
        super().__init__("Nothing that is in the record has gone out yet. Allowed: once a lorry has left.")


class MockRecallView(Model):
    """A mock recall with what its bag and ingredient are called; the moment is the real one."""

    recall: StoredMockRecall
    code: str
    what: str
    ingredient: str
    now: datetime


def begin(store: Repository, clock: Clock, uuid: UUID, author: str) -> MockRecallView:
    """Name a bag that went out, and start the stop-watch.

    Raises
    ------
    NothingWentError
    """
    chance = Random(str(uuid))  # noqa: S311  (chance, no secret)
    gone = store.lots.gone_since(clock.now() - BACK)
    bags = [store.lots.trace(lot) for lot in chance.sample(gone, min(MOST_BAGS, len(gone)))]
    task = task_of(bags, chance)
    if task is None:
        raise NothingWentError
    number = store.mock_recalls.begin(uuid, task, author)
    store.session.commit()
    return view_of(store, store.mock_recalls.one(number))


def answer(store: Repository, number: int, found: RecallAnswer) -> MockRecallView:
    """Stop the stop-watch, and say what of the answer is right; the first one counts."""
    recall = store.mock_recalls.one(number)
    sources = sources_of(store.lots.trace(recall.task.bag), recall.task.item)
    went = {lot.number: _went(store, lot.number) for lot in sources}
    store.mock_recalls.answer(number, found, judge_recall(found, sources, went))
    store.session.commit()
    return view_of(store, store.mock_recalls.one(number))


def _went(store: Repository, source: int) -> dict[str, int]:
    """The packs that hold some of a lot, by the lorry that they were loaded on."""
    packs = [one.lot.number for one in store.lots.trace(source).went_into if one.lot.kind == "packs"]
    found = dict[str, int]()
    for load in store.lots.loads_of(packs):
        found[load.lorry] = found.get(load.lorry, 0) + load.packs
    return found


def view_of(store: Repository, recall: StoredMockRecall) -> MockRecallView:
    """A mock recall as it is shown."""
    scenario, bag = store.windows.scenario(), store.lots.lot(recall.task.bag)
    return MockRecallView(
        recall=recall,
        code=bag.code,
        what=name_of(scenario, bag.item),
        ingredient=name_of(scenario, recall.task.item),
        now=store.lots.moment(),
    )


def newest(store: Repository) -> tuple[MockRecallView, ...]:
    """The last ones."""
    return tuple(view_of(store, one) for one in store.mock_recalls.newest(MOST_SHOWN))
