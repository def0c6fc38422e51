"""A mock recall: a bag that a customer has sent back, found to its source and to everything else of that source.

A recall is practised against the clock, at least once a year (common practice, no published source).
"""

from collections.abc import Mapping, Sequence
from random import Random

from rundgang.core.floor.lots import Lot
from rundgang.core.floor.recall import Trace
from rundgang.core.model import Model, Text


class Task(Model):
    """The bag that came back, and the ingredient whose lot is asked for."""

    bag: int
    item: str


class RecallAnswer(Model):
    """What somebody has found: a lot of the ingredient in the bag; of all that holds some of it, packs and lorries.

    Attributes
    ----------
    source : str
        The code on that lot's label.
    packs, lorries : int
        Packs that were loaded, and on how many lorries.
    """

    source: Text
    packs: int
    lorries: int


class RecallJudgement(Model):
    """What of an answer is right, and what it should have been; of a wrong source nothing else can be right.

    Attributes
    ----------
    right : bool
        Whether all of it is.
    sources : tuple of str
        Each is right.
    """

    right: bool
    source: bool
    packs: bool
    lorries: bool
    sources: tuple[str, ...]
    right_packs: int | None
    right_lorries: int | None


def task_of(bags: Sequence[Trace], chance: Random) -> Task | None:
    """One of some bags, and one of the ingredients in it of which a lot is known; None where there is none."""
    known = {trace.lot.number: items for trace in bags if (items := sorted(_materials(trace)))}
    if not known:
        return None
    bag = chance.choice(sorted(known))
    return Task(bag=bag, item=chance.choice(known[bag]))


def _materials(trace: Trace) -> dict[str, list[Lot]]:
    found: dict[str, list[Lot]] = {}
    for one in trace.made_of:
        if one.lot.kind == "material":
            found.setdefault(one.lot.item, []).append(one.lot)
    return found


def sources_of(trace: Trace, item: str) -> tuple[Lot, ...]:
    """The lots of an ingredient that a bag holds some of."""
    return tuple(_materials(trace).get(item, ()))


def judge_recall(
    answer: RecallAnswer, sources: Sequence[Lot], went: Mapping[int, Mapping[str, int]]
) -> RecallJudgement:  # fmt: skip
    """What of an answer is right.

    Parameters
    ----------
    sources : sequence of Lot
        That the bag holds some of.
    went : mapping of int to mapping of str to int
        By source, the packs that hold some of it, by the lorry that they went with.
    """
    named = next((lot for lot in sources if lot.code == answer.source.strip()), None)
    by_lorry = {lorry: packs for lorry, packs in went[named.number].items() if packs > 0} if named else None
    packs = by_lorry is not None and sum(by_lorry.values()) == answer.packs
    lorries = by_lorry is not None and len(by_lorry) == answer.lorries
    return RecallJudgement(
        right=packs and lorries,
        source=named is not None,
        packs=packs,
        lorries=lorries,
        sources=tuple(lot.code for lot in sources),
        right_packs=None if by_lorry is None else sum(by_lorry.values()),
        right_lorries=None if by_lorry is None else len(by_lorry),
    )
