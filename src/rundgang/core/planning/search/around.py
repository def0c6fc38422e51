"""Around the others: one line of a group searched anew while the runs of the others stay where they are.

An order of one line is tried several times as fast as one of the whole group, and here it knows what the others take of
what they share. What is found goes back into the group's list, in which everything may move again.
"""

from collections.abc import Iterator

import numpy as np

from rundgang.core.compiled import Ints
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.line_plans import line_plan
from rundgang.core.planning.search.groups import Group, Island


def line_around(group: Group, apart: Group, islands: int) -> tuple[Group, Ints]:
    """A line of a group around the best runs of the others; and where its items stand in the group's list.

    One of its islands begins with the best order of the line apart from the others. It is as warm as one line's share
    of the group: most of what its plan costs is the others'.
    """
    (line,) = apart.lines
    decoded, best = group.decoded(), group.best
    fixed = [run for run in group.fixed if run.line == line or run.line not in group.lines]
    for other in group.lines:
        if other != line:
            fixed += line_plan(decoded, other, group.fixed, "", 0).runs
    mine = np.array([item for item in best.order.tolist() if group.item_lines[item] == line], dtype=np.int64)
    listed = [group.listed[item].model_copy(update={"alone": bool(best.alone[item])}) for item in mine.tolist()]
    shop = Shop(group.shop.scenario, [one.id for one in group.shop.lines], fixed, group.shop.odd_batch)
    own = Group((line,), shop, fixed, listed, group.wanted, islands)
    own.quick_bound = own.cost - (group.cost - group.quick_bound) / len(group.lines)
    order = np.argsort(mine)[apart.best.order]
    alone = apart.best.alone[np.argsort(np.argsort(mine))]
    own.islands[-1] = Island(order, alone, own.cost_of(order, alone))
    return own, mine


def laid_back(group: Group, own: Group, mine: Ints) -> Iterator[tuple[Ints, Ints]]:
    """Orders of a group with a line's items as they were found around the others, and what is set apart.

    In the places that the line has in the list; or before all others; or behind them.
    """
    order, alone = group.best.order, group.best.alone.copy()
    found, its = mine[own.best.order], np.isin(order, mine)
    alone[mine] = own.best.alone
    same, others = order.copy(), order[~its]
    same[its] = found
    for laid in (same, np.concatenate([found, others]), np.concatenate([others, found])):
        yield laid, alone
