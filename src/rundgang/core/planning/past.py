"""The past of a plan: what of it has begun by a moment is fact from then on."""

from collections.abc import Iterable

from rundgang.core.planning.model import LinePlan, Run
from rundgang.core.scenario import Scenario


def has_begun(run: Run, now_min: float) -> bool:
    """Whether something has been mixed for a run before a moment."""
    return run.first_mixed_min < now_min


def opened(scenario: Scenario, published: Iterable[LinePlan], now_min: float) -> Scenario:
    """The scenario at a moment: what the published plans have begun by then goes on as they say."""
    now, made = max(0.0, now_min), {product.id: product.line for product in scenario.products if product.formula}
    runs = (run for plan in published for run in plan.runs if made.get(run.product) == run.line)
    begun = tuple(run for run in runs if has_begun(run, now))
    return scenario.opened(scenario.opening.model_copy(update={"now_min": now, "begun": begun}))
