"""Carried runs: of what has begun, what the next window must still know as it was, and since when that is."""

from collections.abc import Iterable
from math import floor

from rundgang.core.planning.cut_runs import cut_runs
from rundgang.core.planning.model import Run
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR

FELT_MIN = 6 * MINUTES_PER_HOUR
"""So long a run is felt after its last pack: no bowl or tank is cleaned, no oven ramped and no filling kept for longer
than that."""


def carried_runs(scenario: Scenario) -> tuple[Run, ...]:
    """The runs that come along: on the line now or felt there, all that their line began after them, and what they use.

    Parameters
    ----------
    scenario : Scenario
        At the moment of the roll, with all that has begun.
    """
    begun, now = scenario.opening.begun, scenario.opening.now_min
    found = {(run.line, run.id) for run in begun if ends_min(scenario, run) > now - FELT_MIN}
    while True:
        kept = [run for run in begun if (run.line, run.id) in found]
        since: dict[str, float] = {}
        for run in kept:
            since[run.line] = min(run.start_min, since.get(run.line, run.start_min))
        more = {(run.line, run.id) for run in begun if run.start_min >= since.get(run.line, float("inf"))}
        more |= {(run.line, run.id) for run in begun for user in kept if _is_used_by(run, user)}
        if more <= found:
            return tuple(kept)
        found |= more


def begins_min(scenario: Scenario, carried: Iterable[Run]) -> float:
    """The whole hour from which the next window counts: before all that comes along, min."""
    first = min((run.first_mixed_min for run in carried), default=scenario.opening.now_min)
    first = min(first, scenario.opening.now_min)
    return float(floor(max(0.0, first) / MINUTES_PER_HOUR) * MINUTES_PER_HOUR)


def ends_min(scenario: Scenario, run: Run) -> float:
    """When the last of a run is made, min."""
    legs = (leg.start_min + leg.feed_min for leg in run.legs)
    cut = (cut.last_pack_min for cut in cut_runs(scenario, (run,)))
    return max(run.last_pack_min, *legs, *cut, *(filling.used_until_min for filling in run.fillings))


def _is_used_by(maker: Run, user: Run) -> bool:
    """Whether a run takes the rest of another's dough, or of its filling."""
    if maker.line != user.line or maker is user:
        return False
    doughs = {(batch.mixer, batch.start_min) for batch in maker.mixed}
    if any(batch.shared and (batch.mixer, batch.start_min) in doughs for batch in user.batches):
        return True
    return any(filling.kept and any(filling.is_of(made) for made in maker.made_fillings) for filling in user.fillings)
