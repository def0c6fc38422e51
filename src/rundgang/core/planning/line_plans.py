"""Line plans: from decoded items, and from runs that stay, to what a plan says of a line."""

from collections import Counter
from collections.abc import Iterable, Sequence

from rundgang.core.batching import packs_from_pieces
from rundgang.core.heat import why_never
from rundgang.core.planning.binding import binding_of
from rundgang.core.planning.decode.reading import Decoded, read_run
from rundgang.core.planning.legs import passings
from rundgang.core.planning.lorries import OrderItem, dues_of
from rundgang.core.planning.model import CutRun, LeftOut, LinePlan, Run
from rundgang.core.planning.score import outcomes, score_of
from rundgang.core.scenario import Scenario


def line_plan(decoded: Decoded, line_id: str, fixed: Sequence[Run], rule: str, evaluated: int) -> LinePlan:
    """The plan of a line.

    Parameters
    ----------
    fixed : sequence of Run
        The runs of the shop that no order moves, as they were given to the decoder; those of the line stand first.
    """
    scenario = decoded.shop.scenario
    begun = {place: run for place, run in enumerate(fixed) if run.line == line_id}
    own = [run for run in range(decoded.fixed, decoded.all_runs) if decoded.line_of(run) == line_id]
    starts = {place: run.start_min for place, run in begun.items()} | {
        run: float(decoded.runs.times[run, 0]["start"]) for run in own
    }
    order = sorted(starts, key=lambda run: (starts[run], run))
    names = {run: f"R{number}" for number, run in enumerate(order, start=1)}
    runs = tuple(
        _renamed(begun[run], names[run])
        if run in begun
        else read_run(decoded, run, number, binding_of(decoded, run, names))
        for number, run in enumerate(order, start=1)
    )
    cuts = cut_runs(scenario, runs)
    moved = sum(
        abs(starts[run] - item.was_min) for run in own for item in decoded.items_of(run)[:1] if item.was_min is not None
    )
    return LinePlan(
        line=line_id,
        rule=rule,
        evaluated=evaluated,
        runs=runs,
        cut_runs=cuts,
        waves=outcomes(scenario, dues_of(scenario, line_id), (*runs, *cuts)),
        score=score_of(scenario, line_id, runs, cuts, moved),
        left_out=_left_out(scenario, (o for o in decoded.left_out if scenario.product(o.product).line == line_id)),
    )


def _left_out(scenario: Scenario, items: Iterable[OrderItem]) -> tuple[LeftOut, ...]:
    """What is left out of each lorry's products, the items of one together."""
    packs = Counter[tuple[str, str]]()
    for item in items:
        packs[item.product, item.wave] += item.packs
    return tuple(
        LeftOut(product=product, wave=wave, packs=count, because=why_never(scenario, scenario.product(product)))
        for (product, wave), count in packs.items()
    )


def _renamed(run: Run, name: str) -> Run:
    return run if run.id == name else run.model_copy(update={"id": name})


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
                packs=packs_from_pieces(scenario.whole(cut), run.pieces),
                first_pack_min=last.first_out,
                last_pack_min=last.last_out,
            )
        )
    return tuple(found)
