"""What the check works out of a run, or a line's plan, kept while that is the very same: a hand drags one line's.

Only what that, the plant and the conditions alone decide may be kept so; or what the moment decides too, by that.
"""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import TypeVar

from rundgang.core.planning.model import LinePlan, Run
from rundgang.core.scenario import Scenario

Found = TypeVar("Found")

MOST_KEPT = 2_000
"""So much is kept for a scenario; what was not asked for longest goes first."""


def once(
    scenario: Scenario, what: Hashable, of: Run | LinePlan, work_out: Callable[[], Found], by: object = None
) -> Found:  # fmt: skip
    """What `work_out` gives for a run or a plan, from before where it is known.

    Parameters
    ----------
    by : object, optional
        What else decides it: it must be the very same too.
    """
    kept: OrderedDict[Hashable, tuple[Run | LinePlan, object, Found]] = scenario.memo.setdefault("once", OrderedDict())
    key = what, id(of)
    known = kept.pop(key, None)
    if known is None or known[0] is not of or known[1] is not by:
        known = of, by, work_out()
    kept[key] = known
    while len(kept) > MOST_KEPT:
        kept.popitem(last=False)
    return known[2]
