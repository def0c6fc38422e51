"""Cut runs: what runs give beside their own packs, cut out of their pieces."""

from collections.abc import Sequence

from rundgang.core.batching import packs_from_pieces
from rundgang.core.planning.legs import passings
from rundgang.core.planning.model import CutRun, Run
from rundgang.core.scenario import Scenario


def cut_runs(scenario: Scenario, runs: Sequence[Run]) -> tuple[CutRun, ...]:
    """What runs give beside their own packs."""
    found = []
    for run in runs:
        cut = scenario.cut_from(scenario.dwelling(run.product, run.dwell_min))
        if cut is None:
            continue
        last = next(p for p in passings(scenario, run) if p.station == cut.piece_steps[-1].station)
        found.append(
            CutRun(
                run=run.id,
                product=cut.listed_id,
                packs=scenario.opening.given_of(run, cut.listed_id, packs_from_pieces(scenario.whole(cut), run.pieces)),
                first_pack_min=last.first_out,
                last_pack_min=last.last_out,
            )
        )
    return tuple(found)
