"""The routes of line plans: each with all that its chart draws, and the choices for a run's odd last batch."""

from collections.abc import Iterable
from functools import cache
from typing import Annotated

from fastapi import APIRouter, Query

from rundgang.api.deps import LineQuery, Number, Store, made_for
from rundgang.api.views import OptionsView, PlanView
from rundgang.core.batching import batch_limits, options
from rundgang.core.capacity import dough_bounds
from rundgang.core.errors import UnknownItemError
from rundgang.core.planning.timeline import timeline
from rundgang.store.plans import StoredPlan
from rundgang.store.repository import Repository

router = APIRouter(prefix="/api/plans")


@router.get("/newest")
def newest_plan(
    store: Store,
    line: LineQuery = None,
    floor: Annotated[bool, Query(description="That of the published version, if there is one.")] = False,
) -> PlanView:
    """The newest plan, of a line or of any; or the one that the floor works by."""
    return plan_views(store, (store.plans.floor_plan(line) if floor else store.plans.line(line=line),))[0]


@router.get("/{number}")
def one_plan(store: Store, number: Number) -> PlanView:
    """A plan by its number."""
    return plan_views(store, (store.plans.line(number),))[0]


def plan_views(store: Repository, plans: Iterable[StoredPlan]) -> tuple[PlanView, ...]:
    """Plans of lines, each with all that its chart draws."""
    basis, scenario_of = store.basis(), cache(store.windows.scenario)
    return tuple(
        PlanView(
            number=stored.number,
            created_at=stored.created_at,
            book=stored.book,
            library=stored.library,
            stale=basis.outdates(stored),
            plan=stored.plan,
            timeline=timeline(scenario_of(stored.book, stored.library, stored.opening), stored.plan),
            violations=stored.violations,
        )
        for stored in plans
    )


@router.get("/{number}/runs/{run}/batching")
def batching(store: Store, number: Number, run: str) -> OptionsView:
    """Every choice for the odd last batch of a run."""
    stored = store.plans.line(number)
    scenario = made_for(store, stored)
    for planned in stored.plan.runs:
        if planned.id == run:
            product = scenario.product(planned.product)
            limits = batch_limits(product, dough_bounds(scenario, product))
            return OptionsView(
                run=run,
                product=product.id,
                chosen=planned.split.policy,
                options=options(product, planned.packs_wanted, limits),
            )
    raise UnknownItemError("run", run, tuple(planned.id for planned in stored.plan.runs))
