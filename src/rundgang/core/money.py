"""Money: what a plan, and what a stop throws away, come to, where the plant has entered prices.

Nothing is guessed: what has no price is named, and left out of the sum.
"""

from collections.abc import Iterable

from rundgang.core.figure import Figure
from rundgang.core.gate_figures import baking_duty
from rundgang.core.kinds.conveyor import ConveyorStep
from rundgang.core.materials import ICE, supply
from rundgang.core.model import Model
from rundgang.core.planning.legs import Passing, passings
from rundgang.core.planning.model import LinePlan, Run
from rundgang.core.products import Preparation, Product
from rundgang.core.scenario import Scenario
from rundgang.core.units import MINUTES_PER_HOUR


class PlanMoney(Model):
    """What a plan comes to, in the plant's currency.

    Attributes
    ----------
    materials, people, energy : float
        What is drawn; people of the crews from the first piece in to the last out; heat into what is baked or fried.
    sold, missed : float
        Packs that their lorries get in time, and those that miss them.
    unpriced : tuple of str
        What is drawn, made or asked for and has no price.
    """

    currency: str
    materials: float
    people: float
    energy: float
    sold: float
    missed: float
    unpriced: tuple[str, ...]

    @property
    def spent(self) -> float:
        """Materials, people and energy."""
        return self.materials + self.people + self.energy


def plan_money(scenario: Scenario, plans: Iterable[LinePlan]) -> PlanMoney | None:
    """What plans of lines come to together; None where the plant has no currency."""
    currency, listed = scenario.plant.currency, tuple(plans)
    if currency is None:
        return None
    unpriced, materials = list[str](), 0.0
    for item in supply(scenario, listed):
        price = None if item.item == ICE else scenario.ingredient(item.item).price
        if price is None and item.item != ICE:
            unpriced.append(item.name)
        materials += item.used * (price or 0.0)
    sold = missed = 0.0
    for wave in (wave for plan in listed for wave in plan.waves):
        product = scenario.product(wave.product)
        if product.price is None:
            unpriced.append(product.name)
        sold += (wave.packs - wave.short) * (product.price or 0.0)
        missed += wave.short * (product.price or 0.0)
    runs = [run for plan in listed for run in plan.runs]
    per_kwh = scenario.plant.energy_per_kwh
    unpriced += [crew.name for crew in scenario.plant.crews if crew.per_h is None]
    return PlanMoney(
        currency=currency,
        materials=materials,
        people=sum(_people(scenario, run) for run in runs),
        energy=sum(baking_kwh(scenario, run) for run in runs) * (per_kwh or 0.0),
        sold=sold,
        missed=missed,
        unpriced=(*dict.fromkeys(unpriced), *(() if per_kwh is not None else ("Energy",))),
    )


def figures_of(money: PlanMoney) -> tuple[Figure, ...]:
    """The sums with their names."""
    named = (
        ("Materials", money.materials),
        ("People of the crews", money.people),
        ("Heat into the product", money.energy),
        ("All three", money.spent),
        ("Packs on time", money.sold),
        ("Packs that miss their lorry", money.missed),
    )
    return tuple(Figure(name=name, value=value, unit=money.currency, decimals=0) for name, value in named)


def _people(scenario: Scenario, run: Run) -> float:
    """What the people at a run's stations cost."""
    rates, line, cost = {crew.id: crew.per_h or 0.0 for crew in scenario.plant.crews}, scenario.line(run.line), 0.0
    for passing in passings(scenario, run):
        use = line.station(passing.station).staffed
        if use:
            hours = (passing.last_out - passing.first_in) / MINUTES_PER_HOUR
            cost += use.people * hours * rates[use.crew]
    return cost


def baking_kwh(scenario: Scenario, run: Run) -> float:
    """Heat that goes into a run's pieces in its oven or fryer, and into what is cut out of them, kWh."""
    return sum(_baking_kwh(scenario, passing) for passing in passings(scenario, run))


def _baking_kwh(scenario: Scenario, passing: Passing) -> float:
    product = passing.product
    step = product.piece_steps[product.bake_place]
    if step.station != passing.station or not isinstance(step, ConveyorStep) or not step.bakes:
        return 0.0
    station = scenario.line(product.line).operation(step).station
    duty = baking_duty(product, step, station, passing.flow_per_h)
    return duty.total_kw * (passing.last_in - passing.first_in) / MINUTES_PER_HOUR


def kilogram_price(scenario: Scenario, made: Product | Preparation) -> float | None:
    """What the materials of a kilogram of a dough or filling cost; None where one of them has no price.

    A piece that has got more on its way is priced as its dough by its mass.
    """
    if scenario.plant.currency is None:
        return None
    total = sum(line.percent for line in made.formula)
    cost = 0.0
    for line in made.formula:
        if scenario.is_preparation(line.ingredient):
            price = kilogram_price(scenario, scenario.preparation(line.ingredient))
        else:
            ingredient = scenario.ingredient(line.ingredient)
            price = 0.0 if ingredient.role == "water" else ingredient.price
        if price is None:
            return None
        cost += line.percent / total * price
    return cost
