"""A plan as it stands: its runs as they are, judged by what is ordered, and by the prices, of now."""

from collections.abc import Mapping, Sequence
from math import inf

from rundgang.core.planning.check.plans import check_plant
from rundgang.core.planning.cut_runs import cut_runs
from rundgang.core.planning.lorries import dues_of
from rundgang.core.planning.model import LinePlan, PlantPlan
from rundgang.core.planning.objective import Weights
from rundgang.core.planning.score import outcomes, plant_score, score_of
from rundgang.core.scenario import Scenario

Starts = Mapping[tuple[str, str], float]
"""When what a lorry is due of a product is begun, by product and wave, min."""


def starts_in(plans: Sequence[LinePlan]) -> Starts:
    """When each lorry's packs of a product are begun in some plans, the first of them."""
    return {
        (run.product, item.wave): run.start_min
        for plan in plans
        for run in reversed(plan.runs)
        for item in run.items
    }  # fmt: skip


def standing(
    scenario: Scenario,
    plans: Sequence[LinePlan],
    published: Sequence[LinePlan],
    weights: Weights,
    most: float = inf,
) -> PlantPlan | None:
    """A plan of the plant as it stands; None where it breaks a rule, for it is then no plan for what is ordered.

    Parameters
    ----------
    most : float
        It is of no use where it costs more, points: None then, too, and nothing is checked.
    """
    was = starts_in(published)
    judged = tuple(_judged(scenario, plan, was) for plan in plans)
    score = plant_score(scenario, judged)
    if score.cost(weights) > most or check_plant(scenario, judged):
        return None
    return PlantPlan(plans=judged, score=score, weights=weights, cost=score.cost(weights), bound=0, evaluated=0)


def _judged(scenario: Scenario, plan: LinePlan, was: Starts) -> LinePlan:
    cuts = cut_runs(scenario, plan.runs)
    begun = {run.id for run in scenario.opening.begun_on(plan.line)}
    own = [(run.start_min, (run.product, run.items[0].wave)) for run in plan.runs if run.items and run.id not in begun]
    moved = sum(abs(start - was[due]) for start, due in own if due in was)
    return plan.model_copy(
        update={
            "waves": outcomes(scenario, dues_of(scenario, plan.line), (*plan.runs, *cuts)),
            "score": score_of(scenario, plan.line, plan.runs, cuts, moved),
        }
    )
