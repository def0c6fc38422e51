"""Line plans: from decoded items, and from runs that stay, to what a plan says of a line."""

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from itertools import count

from rundgang.core.heat import why_never
from rundgang.core.planning.binding import binding_of
from rundgang.core.planning.cut_runs import cut_runs
from rundgang.core.planning.decode.reading import Decoded, read_run, renewals
from rundgang.core.planning.lorries import OrderItem, dues_of
from rundgang.core.planning.model import LeftOut, LinePlan, Run
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
    names = _names(order, begun)
    made: dict[int, Run] = {}
    for run in order:
        if run in begun:
            made[run] = begun[run]
        else:
            made[run] = read_run(decoded, run, names[run], binding_of(decoded, run, names), made)
    runs = tuple(made.values())
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
        left_out=_left_out(
            scenario, (left for left in decoded.left_out if scenario.product(left[0].product).line == line_id)
        ),
        renewals=tuple(renewals(decoded, names)),
    )


def _left_out(scenario: Scenario, items: Iterable[tuple[OrderItem, str | None]]) -> tuple[LeftOut, ...]:
    """What is left out of each lorry's products and for want of what, the items of one together."""
    packs, wanting = Counter[tuple[str, str]](), dict[tuple[str, str], str]()
    for item, material in items:
        packs[item.due] += item.packs
        if material:
            wanting[item.due] = f"not enough {scenario.ingredient(material).name}, and none that comes in time"
    return tuple(
        LeftOut(
            product=due[0],
            wave=due[1],
            packs=count,
            because=why_never(scenario, scenario.product(due[0])) or wanting.get(due),
        )
        for due, count in packs.items()
    )


def _names(order: Sequence[int], begun: Mapping[int, Run]) -> dict[int, str]:
    """What has begun is called as it is, the others by their order, with the numbers that are left."""
    taken = {run.id for run in begun.values()}
    free = (name for number in count(1) if (name := f"R{number}") not in taken)
    return {run: begun[run].id if run in begun else next(free) for run in order}
