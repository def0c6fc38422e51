"""A mock recall judged by hand: two lots of flour, three bags of them, on two lorries."""

from random import Random

import pytest

from rundgang.core.floor.lots import Lot, LotKind, Use
from rundgang.core.floor.mock_recall import RecallAnswer, judge_recall, sources_of, task_of
from rundgang.core.floor.recall import Trace, traced


def lot(number: int, kind: LotKind, item: str, code: str) -> Lot:
    return Lot(number=number, code=code, kind=kind, item=item, amount=100)


LOTS = {
    one.number: one
    for one in (
        lot(1, "material", "flour", "F1"),
        lot(2, "material", "flour", "F2"),
        lot(3, "material", "salt", "S1"),
        lot(11, "batch", "rye", "B1"),
        lot(12, "batch", "rye", "B2"),
        lot(21, "packs", "rye", "P1"),
        lot(22, "packs", "rye", "P2"),
        lot(23, "packs", "rye", "P3"),
    )
}
USES = (
    Use(1, 11, 50, "weighed"), Use(1, 12, 20, "weighed"), Use(2, 12, 30, "weighed"), Use(3, 12, 1, "weighed"),
    Use(11, 21, 60, "divided"), Use(11, 22, 10, "divided"), Use(12, 22, 20, "divided"), Use(12, 23, 40, "divided"),
)  # fmt: skip
"""F1 is in both doughs, F2 and the salt only in the second; the second bag's lot has pieces of both doughs."""

WENT = {1: {"harbour": 70, "hills": 30}, 2: {"hills": 30, "coast": 0}}
"""Packs that hold some of each flour, by lorry; what was taken off again counts for nothing."""


def trace(number: int) -> Trace:
    return traced(LOTS, USES, number)


@pytest.mark.parametrize(
    ("bag", "flours", "salts"), [(21, ["F1"], []), (22, ["F1", "F2"], ["S1"]), (23, ["F1", "F2"], ["S1"])]
)
def test_the_sources_of_a_bag_are_the_lots_it_holds_some_of(bag: int, flours: list[str], salts: list[str]) -> None:
    assert [one.code for one in sources_of(trace(bag), "flour")] == flours
    assert [one.code for one in sources_of(trace(bag), "salt")] == salts
    assert sources_of(trace(bag), "rye") == (), "a dough is no ingredient"


@pytest.mark.parametrize(
    ("source", "packs", "lorries", "right"),
    [
        ("F1", 100, 2, (True, True, True, True)),
        (" F1 ", 100, 2, (True, True, True, True)),
        ("F2", 30, 1, (True, True, True, True)),
        ("F2", 30, 2, (False, True, True, False)),
        ("F2", 100, 1, (False, True, False, True)),
        ("S1", 30, 1, (False, False, False, False)),
        ("f1", 100, 2, (False, False, False, False)),
    ],
)
def test_an_answer_is_judged_by_the_lot_that_it_names(
    source: str, packs: int, lorries: int, right: tuple[bool, bool, bool, bool]
) -> None:
    answer = RecallAnswer(source=source, packs=packs, lorries=lorries)
    found = judge_recall(answer, sources_of(trace(23), "flour"), WENT)
    assert (found.right, found.source, found.packs, found.lorries) == right
    assert found.sources == ("F1", "F2")
    known = {"F1": (100, 2), "F2": (30, 1)}.get(source.strip(), (None, None))
    assert (found.right_packs, found.right_lorries) == known


def test_a_task_is_of_a_bag_in_which_a_lot_of_an_ingredient_is_known() -> None:
    bags, seen = [trace(number) for number in (21, 22, 23)], set[tuple[int, str]]()
    for seed in range(60):
        task = task_of(bags, Random(seed))
        assert task
        assert sources_of(trace(task.bag), task.item)
        seen.add((task.bag, task.item))
    assert seen == {(21, "flour"), (22, "flour"), (22, "salt"), (23, "flour"), (23, "salt")}
    assert task_of([trace(1), trace(3)], Random(1)) is None, "nothing is in them"
    assert task_of([], Random(1)) is None
