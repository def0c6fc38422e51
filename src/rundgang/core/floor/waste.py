"""Waste: what is pulled off the line or scrapped, each time with its cause (common practice, no published source)."""

from collections.abc import Mapping
from typing import Literal

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
    near: Mapping[float, Run] = {
        max(0.0, passing.first_in - minute, minute - passing.last_out): run
        for run in plan.runs
        for passing in passings_at(scenario, run, {station})
    }
    least = min(near, default=BESIDE_MIN + 1)
    return near[least] if least <= BESIDE_MIN else None
