"""The past of a plan: what of it has begun by a moment is fact from then on."""

from collections.abc import Iterable

from rundgang.core.planning.model import LinePlan, Run
from rundgang.core.scenario import Scenario


def has_begun(run: Run, now_min: float) -> bool:
    """Whether something has been mixed for a run before a moment."""
    return run.first_mixed_min < now_min


def opened(scenario: Scenario, published: Iterable[LinePlan], now_min: float) -> Scenario:
    """The scenario at a moment: what the published plans have begun by then goes on as they say.

    A plan has what had begun before its window as it was; on a line without one that goes on by itself. Of what is
    told to give fewer packs, so many.
    """
    listed = tuple(published)
    now, made = max(scenario.opening.now_min, now_min), {p.id: p.line for p in scenario.products if p.formula}
    runs = (run for plan in listed for run in plan.runs if made.get(run.product) == run.line)
    planned = {plan.line for plan in listed}
    begun = (
        *(run for run in scenario.opening.begun if run.line not in planned),
        *(scenario.opening.given(run) for run in runs if has_begun(run, now)),
    )
    return scenario.opened(scenario.opening.model_copy(update={"now_min": now, "begun": begun}))
