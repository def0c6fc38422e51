"""Fit in: what would bring a lorry the packs that a plan does not make in time, each change tried and priced.

A later lorry, an earlier opening, one more person, enough of a material, the same article on another line, a smaller
order: the scenario with that one change, the plan repaired for it, and what both come to.
"""

from collections.abc import Iterator
from typing import NamedTuple

from rundgang.core.errors import UnknownItemError
from rundgang.core.model import Model
from rundgang.core.orders import Order
from rundgang.core.planning.checked import fitted
from rundgang.core.planning.lines_in_place import planned_line
from rundgang.core.planning.model import PlantPlan
from rundgang.core.planning.reline import articles, given_to
from rundgang.core.plant import Crew
from rundgang.core.scenario import Scenario, Stock

STEPS_MIN = (30, 60, 120)
"""By so much a lorry could load later, or the plant open earlier, min."""


class WayIn(Model):
    """One change that is not the plan's to make, and what it would bring.

    Attributes
    ----------
    what : str
        In words.
    short : int
        Packs that the lorry still misses with it.
    points : float
        By how much the plan's cost falls with it, what the change itself costs not counted.
    """

    what: str
    short: int
    points: float


class _Change(NamedTuple):
    """A change of a kind; once one of a kind is enough, more of the same is not tried."""

    kind: str
    what: str
    scenario: Scenario
    product: str


def ways_in(scenario: Scenario, plan: PlantPlan, line_id: str, wave: str, product: str) -> tuple[WayIn, ...]:
    """The changes that would bring a lorry more of a product, the most packs first, of equals what saves most.

    Raises
    ------
    UnknownItemError
        The line's plan has no such lorry and product.
    """
    known = [
        outcome for outcome in planned_line(plan, line_id).waves if (outcome.wave, outcome.product) == (wave, product)
    ]
    if not known:
        raise UnknownItemError("lorry with that product", f"{wave}, {product}")
    short, found = known[0].short, []
    if not short:
        return ()
    before = fitted(scenario, plan, (line_id,)).plan.cost
    enough: set[str] = set()
    for kind, what, after, made in _changes(scenario, line_id, wave, product, short):
        if kind in enough:
            continue
        line = scenario.product(made).line
        repaired = fitted(after, plan, (line_id,) if line == line_id else (line_id, line)).plan
        left = sum(
            outcome.short
            for each in repaired.plans
            for outcome in each.waves
            if outcome.wave == wave and outcome.product in {product, made}
        )
        if left == 0:
            enough.add(kind)
        if left < short:
            found.append(WayIn(what=what, short=left, points=before - repaired.cost))
    return tuple(sorted(found, key=lambda way: (way.short, -way.points)))


def _changes(scenario: Scenario, line_id: str, wave: str, product: str, short: int) -> Iterator[_Change]:
    lorry = next(entry for entry in scenario.waves if entry.id == wave)
    for minutes in STEPS_MIN:
        yield _Change("later", f"{lorry.name} leaves {minutes} min later", _later(scenario, wave, minutes), product)
    if scenario.opening.now_min == 0 and not scenario.opening.begun:
        for minutes in STEPS_MIN:
            yield _Change(
                "earlier", f"the plant opens {minutes} min earlier", _opening_earlier(scenario, minutes), product
            )
    for crew in _crews(scenario, line_id):
        yield _Change(crew.id, f"one person more in {crew.name}", _with_one_more(scenario, crew), product)
    for stock in scenario.stocks:
        if stock.binds and stock.item in scenario.drawn_by(scenario.product(product)):
            name = scenario.ingredient(stock.item).name
            yield _Change(stock.item, f"enough {name} in store", _with_enough(scenario, stock), product)
    for other in articles(scenario, scenario.product(product)):
        name = scenario.line_of(other).name
        after = scenario.changed(orders=given_to(scenario, product, {wave: short}, other.id))
        yield _Change(other.id, f"{short:,} packs made on the {name}", after, other.id)
    yield _Change("fewer", f"{short:,} packs fewer ordered", _smaller(scenario, wave, product, short), product)


def _later(scenario: Scenario, wave: str, minutes: int) -> Scenario:
    waves = tuple(
        entry.model_copy(update={"departs_min": entry.departs_min + minutes}) if entry.id == wave else entry
        for entry in scenario.waves
    )
    return scenario.changed(waves=waves)


def _opening_earlier(scenario: Scenario, minutes: int) -> Scenario:
    """Doughs may be begun before the window starts."""
    return scenario.changed(opening=scenario.opening.model_copy(update={"now_min": -float(minutes)}))


def _crews(scenario: Scenario, line_id: str) -> tuple[Crew, ...]:
    """The crews whose people stand at a line."""
    used = {station.staffed.crew for station in scenario.line(line_id).stations if station.staffed}
    return tuple(crew for crew in scenario.plant.crews if crew.id in used)


def _with_one_more(scenario: Scenario, crew: Crew) -> Scenario:
    """One person more, who is away when all others of the crew are: nobody works alone outside every shift."""
    away = tuple(
        each.model_copy(update={"people": each.people + 1})
        if each.crew == crew.id and each.people == crew.people
        else each
        for each in scenario.absences
    )
    more = crew.model_copy(update={"people": crew.people + 1})
    crews = tuple(more if each.id == crew.id else each for each in scenario.plant.crews)
    return scenario.changed(plant=scenario.plant.model_copy(update={"crews": crews}), absences=away)


def _with_enough(scenario: Scenario, enough: Stock) -> Scenario:
    return scenario.changed(
        stocks=tuple(
            stock.model_copy(update={"binds": False}) if stock.item == enough.item else stock
            for stock in scenario.stocks
        )
    )


def _smaller(scenario: Scenario, wave: str, product: str, packs: int) -> Scenario:
    """So many packs fewer of the lorry's orders, from the last on."""
    kept: list[Order] = []
    for order in reversed(scenario.orders):
        less = min(packs, order.packs) if (order.wave, order.product) == (wave, product) else 0
        packs -= less
        if order.packs > less:
            kept.append(order.model_copy(update={"packs": order.packs - less}) if less else order)
    return scenario.changed(orders=tuple(reversed(kept)))
