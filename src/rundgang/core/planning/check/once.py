"""What the check works out of a run by itself, kept for as long as the run is the very same: a hand drags one line's.

Only what a run, the plant and the conditions alone decide may be kept so.
"""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import TypeVar

from rundgang.core.planning.model import Run
from rundgang.core.scenario import Scenario

Found = TypeVar("Found")

MOST_KEPT = 2_000
"""So much is kept for a scenario; what was not asked for longest goes first."""


def once(scenario: Scenario, what: Hashable, run: Run, work_out: Callable[[], Found]) -> Found:
    """What `work_out` gives for a run, from before where it is known."""
    kept: OrderedDict[Hashable, tuple[Run, Found]] = scenario.memo.setdefault("of runs", OrderedDict())
    key = what, id(run)
    known = kept.pop(key, None)
    if known is None or known[0] is not run:
        known = run, work_out()
    kept[key] = known
    while len(kept) > MOST_KEPT:
        kept.popitem(last=False)
    return known[1]
