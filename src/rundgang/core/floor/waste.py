"""Waste: what is pulled off the line or scrapped, each time with its cause (common practice, no published source)."""

from collections import Counter
from collections.abc import Iterable
from math import inf
from typing import Literal

from rundgang.core.model import Model
from rundgang.core.planning.legs import passings_at
from rundgang.core.planning.model import LinePlan, Run
from rundgang.core.scenario import Scenario

WasteCause = Literal[
    "shape",
    "size or weight",
    "colour or bake",
    "damaged",
    "stuck or doubled",
    "filling or coating",
    "seal or pack",
    "label or date",
    "foreign body",
    "on the floor",
    "start or end of a run",
    "sample",
    "past its life",
    "other",
]
"""Why pieces are pulled, or packs scrapped."""

BESIDE_MIN = 15.0
"""Pieces are pulled so long before or after their run is planned at a station, min."""


def run_there(scenario: Scenario, plan: LinePlan, station: str, minute: float) -> Run | None:
    """The run that is at a station at a moment, or is nearest to it there; None where none is near."""
    away = [
        (max(0.0, passing.first_in - minute, minute - passing.last_out), run)
        for run in plan.runs
        for passing in passings_at(scenario, run, {station})
    ]
    least, run = min(away, key=lambda one: one[0], default=(inf, None))
    return run if least <= BESIDE_MIN else None


class Off(Model):
    """What was taken off for a cause: packs that were scrapped, and pieces that were pulled."""

    cause: WasteCause
    packs: int
    pieces: int


def off_by_cause(
    scrapped: Iterable[tuple[WasteCause, int]], pulled: Iterable[tuple[WasteCause, int]]
) -> tuple[Off, ...]:  # fmt: skip
    """What was taken off by cause, most packs first, then most pieces.

    Parameters
    ----------
    scrapped, pulled : iterable of (str, int)
        A cause, and how many packs, or pieces, for it.
    """
    packs, pieces = Counter[WasteCause](), Counter[WasteCause]()
    for cause, count in scrapped:
        packs[cause] += count
    for cause, count in pulled:
        pieces[cause] += count
    found = (Off(cause=cause, packs=packs[cause], pieces=pieces[cause]) for cause in {**packs, **pieces})
    return tuple(sorted(found, key=lambda off: (-off.packs, -off.pieces)))
