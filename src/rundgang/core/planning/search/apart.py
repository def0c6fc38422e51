"""Lines apart: what a group's lines would do if they shared nothing, as a beginning for all of them together.

An order of one line is tried several times as fast as one of the whole group, and most of what makes a plan good is
within a line. Laid together by when their runs would start, the lines' best orders need only make room for each other.
"""

from collections.abc import Sequence

import numpy as np

from rundgang.core.compiled import Ints
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.search.groups import Group


def lines_apart(group: Group) -> tuple[Group, ...]:
    """Each line of a group by itself, with what is to be made on it; none where the group is one line."""
    if len(group.lines) < 2:
        return ()
    scenario, lines = group.shop.scenario, group.item_lines
    found = []
    for line in group.lines:
        fixed = [run for run in group.fixed if run.line == line]
        shop = Shop(scenario, (line,), fixed, group.shop.odd_batch)
        listed = [item for item, its in zip(group.listed, lines, strict=True) if its == line]
        found.append(Group((line,), shop, fixed, listed, group.wanted))
    return tuple(found)


def laid_together(group: Group, apart: Sequence[Group]) -> tuple[Ints, Ints]:
    """The order of a group by when each item's run starts on its line alone, and what is set apart."""
    starts, alone = np.empty(len(group.listed)), np.zeros(len(group.listed), dtype=np.int64)
    lines = np.array(group.item_lines)
    for own in apart:
        mine = np.flatnonzero(lines == own.lines[0])
        runs = own.decoded().runs
        for place, item in enumerate(own.best.order.tolist()):
            run = int(runs.joins[place])
            starts[mine[item]] = runs.times[run, 0]["start"] if run >= 0 else own.items[item]["leaves"]
        alone[mine] = own.best.alone
        for before, item in zip(own.best.order[:-1], own.best.order[1:], strict=True):
            starts[mine[item]] = max(starts[mine[item]], np.nextafter(starts[mine[before]], np.inf))
    return np.argsort(starts, kind="stable").astype(np.int64), alone
