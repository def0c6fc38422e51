"""What a plan draws from the stores, hour by hour, against stock, deliveries and the ice machine.

Doughs and preparations draw when they are charged; what a step adds and what a pack is packed in is drawn
when a batch's first piece gets there. Water from the tap is not counted.
"""

from collections.abc import Iterable, Iterator
from math import floor
from typing import NamedTuple

from rundgang.core.conditions import Conditions
from rundgang.core.dough.adjust import adjusted
from rundgang.core.dough.bowl_water import bowl_temperatures, temperatures
from rundgang.core.dough.water import Counts, water_for
from rundgang.core.model import Model
from rundgang.core.planning.legs import passings
from rundgang.core.planning.model import Batch, CutRun, LinePlan, Run
from rundgang.core.plant import IceMachine
from rundgang.core.products import FormulaLine, Preparation, Product
from rundgang.core.scenario import Scenario, Stock
from rundgang.core.units import GRAMS_PER_KG, MINUTES_PER_HOUR

ICE = "ice"
"""Stands for the ice machine's ice among the items; no ingredient has this id."""

NOMINAL_WATER_G = 1_000_000
"""Ice goes with the water it stands in; its share is read off a tonne, g."""

CRUMB = 1e-6
"""A level this far below nothing comes from adding floats, kg or pieces."""


class Draw(NamedTuple):
    """So much of an item at a minute, for a batch of a run: kg, or pieces of packing."""

    at_min: float
    item: str
    amount: float
    line: str
    run: str
    batch: int


class RunsOut(Model):
    """The batch for which an item is not enough any more, and how much is missing for it."""

    at_min: float
    line: str
    run: str
    batch: int
    missing: float


class Level(Model):
    """What is left at a minute, after the draws and deliveries of that minute."""

    minute: float
    amount: float


class ItemSupply(Model):
    """An item over the window.

    Attributes
    ----------
    unit : {"kg", "pieces"}
    on_hand : float or None
        At the start; None where no stock is known, and then nothing is said of running out.
    binds : bool
        Whether a plan may draw only what is there.
    delivered, used : float
        Over the window.
    by_hour : tuple of float
        Drawn in every hour of the window.
    levels : tuple of Level
        Where a stock is known.
    """

    item: str
    name: str
    unit: str
    on_hand: float | None
    binds: bool = False
    delivered: float
    used: float
    by_hour: tuple[float, ...]
    levels: tuple[Level, ...]
    runs_out: RunsOut | None


def supply(scenario: Scenario, plans: Iterable[LinePlan]) -> tuple[ItemSupply, ...]:
    """Every item that the plans draw, those that run out first, then by name."""
    drawn: dict[str, list[Draw]] = {}
    for plan in plans:
        for draw in draws(scenario, plan):
            drawn.setdefault(draw.item, []).append(draw)
    stocks = {stock.item: stock for stock in scenario.stocks}
    found = [
        _ice(scenario, scenario.plant.ice_machine, of_item)
        if item == ICE
        else _item(scenario, item, stocks.get(item), of_item)
        for item, of_item in drawn.items()
    ]
    return tuple(
        sorted(found, key=lambda one: (one.runs_out.at_min if one.runs_out else float("inf"), one.name.lower()))
    )


def draws(scenario: Scenario, plan: LinePlan) -> Iterator[Draw]:
    """Everything one plan draws, run by run."""
    cut_runs = {cut.run: cut for cut in plan.cut_runs}
    shares = ItemShares(scenario)
    for run in plan.runs:
        yield from run_draws(shares, run, cut_runs.get(run.id))


def run_draws(shares: "ItemShares", run: Run, cut: CutRun | None) -> Iterator[Draw]:
    """Everything one run draws, and what is packed of what is cut out of it."""
    scenario = shares.scenario
    product = scenario.product(run.product)
    yield from step_draws(scenario, run)
    for filling in run.made_fillings:
        of_filling = shares.of(scenario.preparation(filling.preparation), filling.start_min)
        yield from _mixed(of_filling, filling.start_min, filling.grams, run, filling.number)
    for batch in run.batches:
        yield from _mixed(shares.of(product, batch.start_min), batch.start_min, batch.dough_g, run, batch.number)
        for slot in batch.preparations:
            of_slot = shares.of(scenario.preparation(slot.preparation), slot.start_min)
            yield from _mixed(of_slot, slot.start_min, slot.grams, run, batch.number)
        yield from packing_draws(run, batch, product, run)
        if cut:
            yield from packing_draws(run, batch, scenario.product(cut.product), cut)


Shares = dict[str, float]
"""What of a batch's mass is drawn from the stores, by item; ice among them."""


class ItemShares:
    """What doughs and preparations draw, each worked out once for the conditions of an hour."""

    def __init__(self, scenario: Scenario) -> None:
        self.scenario = scenario
        self.known: dict[tuple[str, Conditions], Shares] = {}

    def of(self, made: Product | Preparation, minute: float) -> Shares:
        """What a batch that is charged at a minute draws."""
        then = self.scenario.during(minute)
        key = made.id, then.conditions
        if key not in self.known:
            self.known[key] = _of_dough(then, made) if isinstance(made, Product) else _of_preparation(then, made)
        return self.known[key]

    def most(self, made: Product | Preparation, item: str) -> float:
        """The most that a batch draws of an item in any hour of the window, by mass of the batch."""
        if item not in {line.ingredient for line in made.formula}:
            return 0.0
        hours = max(1, len(self.scenario.conditions.by_hour))
        return max(self.of(made, hour * MINUTES_PER_HOUR).get(item, 0.0) for hour in range(hours))


def _of_dough(scenario: Scenario, product: Product) -> Shares:
    friction = product.mixing.friction_c
    return _shares(scenario, product.formula, product.dough_temperature_c, temperatures(scenario, product), friction)


def _of_preparation(scenario: Scenario, made: Preparation) -> Shares:
    counts = bowl_temperatures(scenario, made)
    return _shares(scenario, made.formula, made.temperature_c, counts, made.mixing.friction_c)


def _shares(
    scenario: Scenario, formula: tuple[FormulaLine, ...], wanted_c: float, counts: tuple[Counts, ...], friction_c: float
) -> Shares:
    """Shares of today's formula, the product's own friction taken; ice stands for its part of the water."""
    today = adjusted(scenario, formula).formula
    total = sum(line.percent for line in today)
    found: Shares = {}
    for line in today:
        if scenario.is_preparation(line.ingredient):
            continue
        if scenario.ingredient(line.ingredient).role != "water":
            found[line.ingredient] = line.percent / total
            continue
        water = water_for(wanted_c, counts, scenario.conditions, NOMINAL_WATER_G, friction_c)
        if water.ice_g:
            found[ICE] = line.percent / total * water.ice_g / NOMINAL_WATER_G
    return found


def _mixed(shares: Shares, at_min: float, grams: int, run: Run, batch: int) -> Iterator[Draw]:
    for item, share in shares.items():
        yield Draw(at_min, item, share * grams / GRAMS_PER_KG, run.line, run.id, batch)


def step_draws(scenario: Scenario, run: Run) -> Iterator[Draw]:
    """What the steps add to a run's pieces from the materials, those cut out of them included, dough by dough."""
    for passing in passings(scenario, run):
        step = next(step for step in passing.product.piece_steps if step.station == passing.station)
        bought = [addition for addition in step.adds if not scenario.is_preparation(addition.item)]
        per_scaled = passing.flow_per_h / (MINUTES_PER_HOUR * run.pieces / (passing.last_in - passing.first_in))
        for addition in bought:
            a_piece = per_scaled / float(step.conversion) * addition.grams / GRAMS_PER_KG
            for batch in run.batches:
                share = (batch.divided_min - run.start_min) / run.feed_min
                at_min = passing.first_in + share * (passing.last_in - passing.first_in)
                yield Draw(at_min, addition.item, batch.pieces * a_piece, run.line, run.id, batch.number)


def packing_draws(run: Run, batch: Batch, product: Product, packed: Run | CutRun) -> Iterator[Draw]:
    """What the packs of a dough are packed in: the run's own, or of what is cut out of its pieces."""
    of_batch = packed.packs * batch.pieces / run.pieces
    share = (batch.divided_min - run.start_min) / run.feed_min
    at_min = packed.first_pack_min + share * (packed.last_pack_min - packed.first_pack_min)
    for use in product.packing:
        yield Draw(at_min, use.item, of_batch * use.per_pack, run.line, run.id, batch.number)


def _by_hour(scenario: Scenario, drawn: list[Draw]) -> tuple[float, ...]:
    hours = [0.0] * (scenario.window.minutes // MINUTES_PER_HOUR + 1)
    for draw in drawn:
        hours[min(floor(draw.at_min / MINUTES_PER_HOUR), len(hours) - 1)] += draw.amount
    return tuple(hours)


def _item(scenario: Scenario, item: str, stock: Stock | None, drawn: list[Draw]) -> ItemSupply:
    known = scenario.ingredient(item)
    levels, runs_out = _levels(stock, drawn) if stock else ((), None)
    return ItemSupply(
        item=item,
        name=known.name,
        unit="pieces" if known.role == "packing" else "kg",
        on_hand=stock.on_hand if stock else None,
        binds=stock is not None and stock.binds,
        delivered=sum(delivery.amount for delivery in stock.deliveries) if stock else 0,
        used=sum(draw.amount for draw in drawn),
        by_hour=_by_hour(scenario, drawn),
        levels=levels,
        runs_out=runs_out,
    )


def _levels(stock: Stock, drawn: list[Draw]) -> tuple[tuple[Level, ...], RunsOut | None]:
    """The level after each draw and delivery; a delivery comes before the draws of its minute."""
    level, runs_out = stock.on_hand, None
    levels = [Level(minute=0, amount=level)]
    coming = sorted(stock.deliveries, key=lambda delivery: delivery.at_min)
    for draw in sorted(drawn):
        while coming and coming[0].at_min <= draw.at_min:
            delivery = coming.pop(0)
            level += delivery.amount
            levels.append(Level(minute=delivery.at_min, amount=level))
        level -= draw.amount
        levels.append(Level(minute=draw.at_min, amount=level))
        if level < -CRUMB and runs_out is None:
            runs_out = _out(draw, level)
    return tuple(levels), runs_out


def _out(draw: Draw, level: float) -> RunsOut:
    return RunsOut(at_min=draw.at_min, line=draw.line, run=draw.run, batch=draw.batch, missing=-level)


def _ice(scenario: Scenario, machine: IceMachine | None, drawn: list[Draw]) -> ItemSupply:
    """The bin fills at the machine's rate up to its size; a draw beyond what lies in it runs out."""
    levels: list[Level] = []
    runs_out, now = None, 0.0
    level = machine.bin_kg if machine else 0.0
    for draw in sorted(drawn):
        if machine is None:
            break
        level = min(machine.bin_kg, level + machine.kg_per_h * (draw.at_min - now) / MINUTES_PER_HOUR)
        now = draw.at_min
        level -= draw.amount
        if level < -CRUMB and runs_out is None:
            runs_out = _out(draw, level)
        levels.append(Level(minute=draw.at_min, amount=level))
    made = machine.kg_per_h * scenario.window.minutes / MINUTES_PER_HOUR if machine else 0
    return ItemSupply(
        item=ICE,
        name="Ice from the ice machine" if machine else "Ice",
        unit="kg",
        on_hand=machine.bin_kg if machine else None,
        delivered=made,
        used=sum(draw.amount for draw in drawn),
        by_hour=_by_hour(scenario, drawn),
        levels=tuple(levels),
        runs_out=runs_out,
    )
