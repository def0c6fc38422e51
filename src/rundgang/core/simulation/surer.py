"""Plans that are surer: what is wanted earlier and what is made more, so that lorries are complete oftener.

Of what a lorry misses, some comes soon after it was to be loaded: that is wanted earlier. The rest does not come, for
it was spoiled where the line stood: some more is made, as much as was missed on the days that are to be complete. For
lorries that are loaded so much earlier and take so much more, the search finds a plan. That is then judged by what is
really ordered: by the check, by its cost, and by the same days with the same dice.
"""

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from math import ceil
from typing import NamedTuple

import numpy as np
from pydantic import Field

from rundgang.core.compiled import Floats
from rundgang.core.errors import InfeasibleError, UnknownItemError
from rundgang.core.model import Id, Model
from rundgang.core.orders import Order
from rundgang.core.planning.lorries import dues_of
from rundgang.core.planning.model import LinePlan, PlantPlan
from rundgang.core.planning.standing import standing
from rundgang.core.scenario import Scenario
from rundgang.core.simulation.line_odds import DAYS, SURE, run_through
from rundgang.core.simulation.odds import sure

SOON_MIN = 60.0
"""What comes so long after a lorry was to be loaded at most would have been there, had it been begun earlier."""

EARLIER_MIN = 10.0
"""At each step what comes too late is wanted so much earlier."""

STEPS = 8
"""In so many steps the odds are to rise to those that are wished."""

DOES_NOT_HOLD = (
    "The plan breaks a rule as things are now. Allowed: one that is fitted to the newest orders and downtime."
)

MORE = "more"
"""The number of the order for what is made more."""


class Wish(Model):
    """Lorries that are to be surer of what a line owes them.

    Attributes
    ----------
    waves : tuple of str
        The lorries; none means all that the line owes something.
    odds : float
        How sure: on which share of the days they are to miss no more than by the plan that is begun from.
    """

    line: Id
    waves: tuple[Id, ...] = Field(default=(), max_length=500)
    odds: float = Field(default=SURE, ge=0.01, le=0.99)


class Eased(Model):
    """What is asked for beyond the orders: a lorry loaded so much earlier, min, that takes so many packs more."""

    wave: Id
    earlier_min: float = 0.0
    more: Mapping[Id, int] = {}


class Surer(NamedTuple):
    """A plan, what was asked for so that it came about, and the odds of the least sure of the lorries by it."""

    plan: PlantPlan
    eased: tuple[Eased, ...]
    odds: float


Search = Callable[[Scenario, PlantPlan], PlantPlan]
"""Finds a plan for a scenario, beginning from another."""


class _Missed(NamedTuple):
    """Packs that a lorry misses of a product beyond what it was to, day by day: when it is loaded, and soon after."""

    now: Floats
    soon: Floats


_Missing = Mapping[tuple[str, str], _Missed]
"""By lorry and product."""


def refuse_unknown(scenario: Scenario, wish: Wish) -> None:
    """Raise UnknownItemError where there is no such line, or the line owes a lorry nothing."""
    owed = tuple(dict.fromkeys(due.wave for due in dues_of(scenario, scenario.line(wish.line).id)))
    for wave in wish.waves:
        if wave not in owed:
            raise UnknownItemError("lorry that the line owes something", wave, owed)


def surer(
    scenario: Scenario, begin: PlantPlan, published: Sequence[LinePlan], wish: Wish, search: Search
) -> Iterator[Surer]:  # fmt: skip
    """Plans that are surer, one after the other, from the one that is begun from until one is as sure as is wished.

    Raises
    ------
    UnknownItemError
        No such line, or no such lorry.
    InfeasibleError
        The plan that is begun from breaks a rule by now.
    """
    refuse_unknown(scenario, wish)
    plan = standing(scenario, begin.plans, published, begin.weights)
    if plan is None:
        raise InfeasibleError(DOES_NOT_HOLD)
    planned = {(one.wave, one.product): one.short for one in plan.of(wish.line).waves}
    missing = _missing(scenario, plan.of(wish.line), planned, wish)
    if not missing:
        return
    eased = {wave: Eased(wave=wave) for wave, _ in missing}
    odds = first = min(_odds(missing).values())
    yield Surer(plan, (), odds)
    for step in range(1, STEPS + 1):
        if odds >= wish.odds:
            return
        eased = _ease(scenario, eased, missing, first + (wish.odds - first) * step / STEPS)
        found = search(_asking(scenario, eased.values()), plan)
        stands = standing(scenario, found.plans, published, found.weights)
        if stands is None:
            continue
        plan, missing = stands, _missing(scenario, stands.of(wish.line), planned, wish)
        odds = min(_odds(missing).values())
        yield Surer(plan, tuple(one for one in eased.values() if one.earlier_min or one.more), odds)


def frontier(found: Iterable[tuple[float, float]]) -> tuple[int, ...]:
    """Of plans by cost and odds the places of those than which none is as cheap and surer, the cheapest first."""
    places, surest = list[int](), -1.0
    for place, (_, odds) in sorted(enumerate(found), key=lambda one: (one[1][0], -one[1][1])):
        if odds > surest:
            places.append(place)
            surest = odds
    return tuple(places)


def _missing(scenario: Scenario, plan: LinePlan, planned: Mapping[tuple[str, str], int], wish: Wish) -> _Missing:
    """What the lorries of a wish miss beyond what they were to."""
    model, days = run_through(scenario, plan)
    found = dict[tuple[str, str], _Missed]()
    for now, soon in zip(sure(scenario, model, days), sure(scenario, model, days, SOON_MIN), strict=True):
        due = now.due.wave, now.due.product
        if not wish.waves or due[0] in wish.waves:
            short = planned.get(due, 0)
            found[due] = _Missed(np.maximum(0.0, now.short - short), np.maximum(0.0, soon.short - short))
    return found


def _odds(missing: _Missing) -> dict[str, float]:
    """By lorry, on which share of the days it missed nothing."""
    enough = dict[str, list[Floats]]()
    for (wave, _), missed in missing.items():
        enough.setdefault(wave, []).append(missed.now)
    return {wave: float(np.mean(np.sum(there, axis=0) == 0)) for wave, there in enough.items()}


def _ease(scenario: Scenario, eased: Mapping[str, Eased], missing: _Missing, goal: float) -> dict[str, Eased]:
    """Ask for more, for each lorry that is not sure enough.

    What a lorry misses includes what those before it took: what is made more for these is there for it, too.
    """
    odds, after, made = _odds(missing), dict(eased), dict[str, int]()
    for wave in (one.id for one in sorted(scenario.waves, key=lambda one: one.loaded_by_min) if one.id in odds):
        if odds[wave] >= goal:
            continue
        of_it = {product: missed for (lorry, product), missed in missing.items() if lorry == wave}
        late = float(np.mean(np.any([missed.now > missed.soon for missed in of_it.values()], axis=0))) > 1 - goal
        more = dict(eased[wave].more)
        for product, packs in _enough(of_it, goal).items():
            wanted = packs - made.get(product, 0)
            if wanted > 0:
                more[product] = more.get(product, 0) + wanted
                made[product] = packs
        earlier = eased[wave].earlier_min + (EARLIER_MIN if late else 0.0)
        after[wave] = Eased(wave=wave, earlier_min=earlier, more=more)
    return after


def _enough(of_it: Mapping[str, _Missed], goal: float) -> dict[str, int]:
    """Packs of each product that make good what a lorry misses on so many of the days: those on which it is least."""
    days = np.argsort(sum((missed.soon for missed in of_it.values()), np.zeros(DAYS)), kind="stable")
    chosen = days[: ceil(goal * DAYS)]
    return {product: ceil(float(missed.soon[chosen].max())) for product, missed in of_it.items()}


def _asking(scenario: Scenario, eased: Iterable[Eased]) -> Scenario:
    """The scenario with lorries that are loaded earlier and take more."""
    by_wave = {one.wave: one for one in eased}
    earlier = {wave: one.earlier_min for wave, one in by_wave.items()}
    return scenario.changed(
        waves=tuple(
            wave.model_copy(update={"loading_min": wave.loading_min + earlier.get(wave.id, 0.0)})
            for wave in scenario.waves
        ),
        orders=(
            *scenario.orders,
            *(
                Order(id=MORE, product=product, wave=one.wave, packs=packs)
                for one in by_wave.values()
                for product, packs in one.more.items()
            ),
        ),
    )
