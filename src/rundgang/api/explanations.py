"""The routes of explanations: why a run starts when it does, what changeovers cost, why a lorry misses packs."""

from fastapi import APIRouter

from rundgang.api.deps import Now, Number, Store, at_present, made_for
from rundgang.api.versions import line_in
from rundgang.core.kinds.parts import SetUpCheck
from rundgang.core.model import Model
from rundgang.core.planning.explain import ChangeCost, Lateness, Link, chain, change_costs, lateness
from rundgang.core.planning.fit_in import WayIn, ways_in

router = APIRouter(prefix="/api/versions/{number}/lines/{line}")


class SetUp(Model):
    """What is looked at before a run begins at a station."""

    station: str
    checks: tuple[SetUpCheck, ...]


class Why(Model):
    """Why a run starts when it does: the runs that bind each other down to it; and what is looked at before it."""

    run: str
    chain: tuple[Link, ...]
    set_up: tuple[SetUp, ...] = ()


@router.get("/runs/{run}/why")
def why(store: Store, number: Number, line: str, run: str) -> Why:
    """Why a run starts when it does, and what is looked at before it does."""
    version = store.plans.version(number)
    plan, scenario = line_in(version, line), made_for(store, version.note)
    found = chain(plan, run)
    product = scenario.product(found[-1].product)
    stations = ((scenario.line(line).station(step.station).name, step.set_up) for step in product.piece_steps)
    set_up = tuple(SetUp(station=name, checks=checks) for name, checks in stations if checks)
    return Why(run=run, chain=found, set_up=set_up)


@router.get("/changes")
def changes(store: Store, number: Number, line: str) -> tuple[ChangeCost, ...]:
    """What the changes between the runs of a line cost."""
    version = store.plans.version(number)
    return change_costs(made_for(store, version.note), line_in(version, line), version.plan.weights)


@router.get("/late/{wave}/{product}")
def late(store: Store, now: Now, number: Number, line: str, wave: str, product: str) -> Lateness:
    """Why a lorry misses packs of a product, and the cheapest single change that would cure it."""
    version = store.plans.version(number)
    line_in(version, line)
    scenario = at_present(store, now, made_for(store, version.note))
    return lateness(scenario, version.plan, line, wave, product)


@router.get("/late/{wave}/{product}/ways-in")
def late_ways_in(store: Store, now: Now, number: Number, line: str, wave: str, product: str) -> tuple[WayIn, ...]:
    """What outside the plan would bring a lorry the packs it misses: each change tried."""
    version = store.plans.version(number)
    line_in(version, line)
    scenario = at_present(store, now, made_for(store, version.note))
    return ways_in(scenario, version.plan, line, wave, product)
