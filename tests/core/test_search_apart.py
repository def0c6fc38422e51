"""Lines searched apart, then together; and how a search cools."""

from datetime import date
from itertools import groupby, islice, pairwise

import pytest

from rundgang.core.planning.decode.pools import coupled
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.lorries import order_items
from rundgang.core.planning.objective import Weights
from rundgang.core.planning.search.apart import laid_together, lines_apart
from rundgang.core.planning.search.around import laid_back, line_around
from rundgang.core.planning.search.cooling import COOLED, FEW_ITEMS, HOT, LONGEST_ROUND, WARM, rounds
from rundgang.core.planning.search.groups import Group, first_order
from rundgang.demo.ostermere import ostermere

DAY = ostermere(date(2026, 3, 11))


@pytest.fixture(scope="module")
def group() -> Group:
    (lines,) = coupled(DAY)
    shop = Shop(DAY, lines)
    items = [item for line in lines for item in order_items(DAY, line, (), shop.most_packs)]
    return Group(lines, shop, (), first_order(shop, items), Weights())


def test_every_item_is_searched_on_its_own_line(group: Group) -> None:
    apart = lines_apart(group)
    assert [own.lines for own in apart] == [(line,) for line in group.lines]
    assert sorted(str(item) for own in apart for item in own.listed) == sorted(map(str, group.listed))
    assert lines_apart(apart[0]) == ()


def test_laid_together_each_line_keeps_its_own_order(group: Group) -> None:
    apart = lines_apart(group)
    for own in apart:
        for now in islice(rounds(2), 3):
            own.round(0, 7, now)
    order, alone = laid_together(group, apart)
    assert sorted(order.tolist()) == list(range(len(group.listed)))
    for own in apart:
        mine = [item for item in order.tolist() if group.item_lines[item] == own.lines[0]]
        assert [group.listed[item] for item in mine] == [own.listed[item] for item in own.best.order.tolist()]
        assert [bool(alone[item]) for item in mine] == [item.alone for item in own.ordered]


def test_lines_that_share_nothing_lose_nothing_when_laid_together(group: Group) -> None:
    """People enough for all, mixers and troughs of each line its own: the plan costs what the lines cost apart.

    All but the peak of the crew, which is counted over all lines.
    """
    plenty = [crew.model_copy(update={"people": 1_000}) for crew in DAY.plant.crews]
    free = DAY.model_copy(update={"plant": DAY.plant.model_copy(update={"crews": plenty, "shared": ()})})
    unpriced = Weights(crew_peak=0)
    shop = Shop(free, group.lines)
    together = Group(group.lines, shop, (), group.listed, unpriced)
    apart = lines_apart(together)
    for own in apart:
        for now in islice(rounds(2), 3):
            own.round(0, 7, now)
    together.try_from(*laid_together(together, apart))
    assert together.cost == pytest.approx(sum(own.cost for own in apart))


@pytest.mark.parametrize("by_itself", [True, False])
def test_each_epoch_cools_as_far_and_is_longer(by_itself: bool) -> None:
    """Twice as long as the one before; behind the first long one, of a line by itself, a quarter longer."""
    found = list(islice(rounds(hot_epochs=0, by_itself=by_itself), 60))
    assert [now.number for now in found] == list(range(60))
    assert all(now.tries <= LONGEST_ROUND for now in found)
    epochs = [list(epoch) for _, epoch in groupby(found, key=lambda now: now.epoch)][:-1]
    for number, epoch in enumerate(epochs):
        warm = HOT if by_itself and number % 2 else WARM
        assert epoch[0].begins
        assert epoch[-1].ends
        assert sum(now.begins or now.ends for now in epoch[1:-1]) == 0
        assert epoch[0].warm == warm
        assert epoch[-1].cold == pytest.approx(warm * COOLED)
        assert all(now.cold == pytest.approx(then.warm) for now, then in pairwise(epoch))
    lengths = [epoch[0].of_epoch for epoch in epochs[1:]]
    assert lengths == (
        [500, 1_000, 2_000, 4_000, 5_000, 6_250, 7_812, 9_765, 12_207]
        if by_itself
        else [500, 1_000, 2_000, 4_000, 8_000, 16_000]
    )
    for epoch, length in zip(epochs[1:], lengths, strict=True):
        assert sum(now.tries for now in epoch) == pytest.approx(length, abs=len(epoch))


def test_the_epochs_of_a_line_with_many_items_go_on_doubling() -> None:
    def lengths(items: int) -> list[int]:
        found = islice(rounds(hot_epochs=0, by_itself=True, items=items), 60)
        return list(dict.fromkeys(now.of_epoch for now in found))[1:6]

    assert lengths(FEW_ITEMS) == [500, 1_000, 2_000, 4_000, 5_000]
    assert lengths(FEW_ITEMS + 1) == [500, 1_000, 2_000, 4_000, 8_000]


def test_a_line_around_the_others_begins_as_it_is_in_the_groups_plan(group: Group) -> None:
    """Its items in the group's order; laid back unchanged, the group's plan costs what it did."""
    apart = lines_apart(group)
    together = Group(group.lines, group.shop, (), group.listed, group.wanted)
    for now in islice(rounds(2), 2):
        together.round(0, 7, now)
    for line in apart:
        own, mine = line_around(together, line, 2)
        assert [own.listed[item].due for item in range(len(mine))] == [together.listed[item].due for item in mine]
        own.islands[:] = [own.islands[0]]
        assert own.best.order.tolist() == list(range(len(mine)))
        order, alone = next(laid_back(together, own, mine))
        assert together.cost_of(order, alone) == pytest.approx(together.cost)
