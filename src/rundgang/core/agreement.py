"""Agreement: what the parts of a scenario must be to each other, so that calculations need not ask."""

from collections.abc import Iterable, Iterator
from typing import TYPE_CHECKING

from rundgang.core.kinds.batch import BatchStation, BatchStep
from rundgang.core.kinds.every import Step
from rundgang.core.kinds.held import HeldStep
from rundgang.core.kinds.parts import SECONDS_PER_MINUTE
from rundgang.core.plant import Line, Plant
from rundgang.core.products import Preparation, Product
from rundgang.core.tools import tool_faults, tools_of

if TYPE_CHECKING:
    from rundgang.core.scenario import Scenario

FLOUR_PERCENT = 100.0
"""The flours of a formula add up to this: what baker's percent means."""

PERCENT_SLACK = 0.01
"""Rounding allowed in the sum of the flours, percent points."""

CUT_SLACK = 0.02
"""So far a cut-out piece's own mass may be off what is cut out for it, as a share: rounding of weights."""


def faults_of(scenario: "Scenario") -> Iterator[str]:
    """Everything in which the parts of a scenario do not agree: where, what it is, and what is allowed."""
    plant = scenario.plant
    for what, ids in (
        ("plant.lines", [line.id for line in plant.lines]),
        (
            "ingredients and preparations",
            [item.id for item in plant.ingredients] + [made.id for made in scenario.preparations],
        ),
        ("products", [product.id for product in scenario.products]),
        ("waves", [wave.id for wave in scenario.waves]),
        ("orders", [f"{order.id}, {order.product} for {order.wave}" for order in scenario.orders]),
        ("stocks", [stock.item for stock in scenario.stocks]),
        ("blocks", [block.id for block in scenario.blocks]),
    ):
        for twice in sorted({i for i in ids if ids.count(i) > 1} if len(set(ids)) < len(ids) else ()):
            yield f"{what}: “{twice}” stands twice; allowed: each id once"
    lines = {line.id: line for line in plant.lines}
    items = _Items(scenario)
    for place, preparation in enumerate(scenario.preparations):
        yield from _preparation_faults(f"preparations.{place} ({preparation.id})", preparation, lines, items)
    for place, product in enumerate(scenario.products):
        where = f"products.{place} ({product.id})"
        if product.line not in lines:
            yield f"{where}.line is {product.line}; allowed: {', '.join(lines)}"
        else:
            yield from _route_faults(where, product.route, lines[product.line])
            yield from _carrier_faults(where, product, lines[product.line])
            yield from _store_faults(where, product, plant)
        yield from _article_faults(where, product, scenario)
        yield from items.faults(where, product)
        yield from _cut_out_faults(where, product, scenario)
    yield from _order_faults(scenario)
    yield from _opening_faults(scenario)
    yield from _tool_faults(scenario)
    for place, stock in enumerate(scenario.stocks):
        if stock.item not in items.ingredients:
            yield f"stocks.{place}.item is {stock.item}; allowed: the plant's ingredients"


def _order_faults(scenario: "Scenario") -> Iterator[str]:
    waves = {wave.id: wave for wave in scenario.waves}
    for place, wave in enumerate(scenario.waves):
        if wave.departs_min > scenario.window.minutes:
            yield (
                f"waves.{place} ({wave.id}).departs_min is {wave.departs_min:g}; "
                f"allowed: within the window, 0 to {scenario.window.minutes}"
            )
    products = {product.id for product in scenario.products}
    for place, order in enumerate(scenario.orders):
        if order.product not in products:
            yield f"orders.{place} ({order.id}).product is {order.product}; allowed: {', '.join(sorted(products))}"
        if order.wave not in waves:
            yield f"orders.{place} ({order.id}).wave is {order.wave}; allowed: {', '.join(waves)}"
    for place, stock in enumerate(scenario.finished):
        if stock.product not in products:
            yield f"finished.{place}.product is {stock.product}; allowed: {', '.join(sorted(products))}"
        if stock.made_min > scenario.opening.now_min:
            yield f"finished.{place}.made_min is {stock.made_min:g}; allowed: at most {scenario.opening.now_min:g}, now"
    stations = {(line.id, station.id) for line in scenario.plant.lines for station in line.stations}
    crews = {crew.id for crew in scenario.plant.crews}
    for place, absence in enumerate(scenario.absences):
        if absence.crew not in crews:
            known = ", ".join(sorted(crews)) or "none, the plant has no crews"
            yield f"absences.{place}.crew is {absence.crew}; allowed: {known}"
    for place, block in enumerate(scenario.blocks):
        if (block.line, block.station) not in stations:
            yield (
                f"blocks.{place} ({block.id}) is at {block.station} of {block.line}; "
                "allowed: a station of one of the plant's lines"
            )


def _opening_faults(scenario: "Scenario") -> Iterator[str]:
    """What has begun, and what was made last, is what its line mixes."""
    formulas = {product.id: product.line for product in scenario.products if product.formula}
    for place, run in enumerate(scenario.opening.begun):
        if formulas.get(run.product) != run.line:
            yield f"opening.begun.{place} ({run.id}) makes {run.product} on {run.line}; allowed: a product of that line"
    for place, last in enumerate(scenario.opening.last):
        if formulas.get(last.product) != last.line:
            yield f"opening.last.{place} is {last.product} on {last.line}; allowed: a product that the line mixes"
        if last.left_min > scenario.opening.now_min:
            yield f"opening.last.{place}.left_min is {last.left_min:g}; allowed: at most {scenario.opening.now_min:g}"


def _tool_faults(scenario: "Scenario") -> Iterator[str]:
    """Tools stand at stations that wear them; what is worn, and what a closing renews, is one of them."""
    shared = {(ref.line, ref.station) for found in scenario.plant.shared for ref in found.stations}
    known = set[tuple[str, str, str]]()
    for line in scenario.plant.lines:
        yield from tool_faults(line, {station for at, station in shared if at == line.id})
        known |= {(line.id, station.id, tool.id) for station, tool in tools_of(line)}
    for place, tool in enumerate(scenario.opening.worn):
        if (tool.line, tool.station, tool.tool) not in known:
            yield f"opening.worn.{place} is {tool.tool} at {tool.station} of {tool.line}; allowed: tools of a station"
    for place, block in enumerate(scenario.blocks):
        if block.renews is not None and (block.line, block.station, block.renews) not in known:
            yield f"blocks.{place} ({block.id}).renews is {block.renews}; allowed: a tool of its station"


def _route_faults(where: str, route: Iterable[Step], line: Line) -> Iterator[str]:
    order = {station.id: place for place, station in enumerate(line.stations)}
    last, previous = -1, None
    for place, step in enumerate(route):
        here = f"{where}.route.{place}"
        if step.station not in order:
            yield f"{here}.station is {step.station}, which {line.name} does not have; allowed: {', '.join(order)}"
            continue
        station = line.stations[order[step.station]]
        if station.kind != step.kind:
            yield f"{here}.kind is {step.kind}; allowed at {station.name}: {station.kind}"
        if order[step.station] <= last:
            yield f"{here}.station is {step.station}; allowed: only stations further down the line than the one before"
        last = max(last, order[step.station])
        trough = step.kind == "held" and previous == "batch"
        if station.kind == step.kind and not isinstance(step, BatchStep) and not trough:
            yield from (f"{here}.{fault}" for fault in line.operation(step).faults())
            carried_s = station.transfer_min * SECONDS_PER_MINUTE
            if step.next_within_s is not None and carried_s > step.next_within_s:
                yield (
                    f"{here}.next_within_s is {step.next_within_s:g}, and {station.name} carries {carried_s:g} s to "
                    "the next station; allowed: a longest wait that its transfer keeps"
                )
        if isinstance(station, BatchStation) and isinstance(step, BatchStep):
            for strange in (own.mixer for own in step.frictions if own.mixer not in station.mixers):
                yield f"{here}.frictions has {strange}; allowed: a mixer of {station.name}: {', '.join(station.mixers)}"
        previous = step.kind


def _carrier_faults(where: str, product: Product, line: Line) -> Iterator[str]:
    there = [carrier.id for carrier in line.carriers]
    for use in product.carriers:
        if use.carrier not in there:
            yield f"{where}.carriers has {use.carrier}; allowed on {line.name}: {', '.join(there) or 'none'}"


def _article_faults(where: str, product: Product, scenario: "Scenario") -> Iterator[str]:
    """What is sold as another product is packed like it, made on another line, and itself what others name."""
    if product.same_as is None:
        return
    other = next((p for p in scenario.products if p.id == product.same_as), None)
    if other is None or other.line == product.line or other.same_as or other.is_cut_out or product.is_cut_out:
        yield f"{where}.same_as is {product.same_as}; allowed: a product with a formula, on another line"
    elif other.pieces_per_pack != product.pieces_per_pack:
        yield f"{where} packs {product.pieces_per_pack}, {other.name} {other.pieces_per_pack}; allowed: the same"


def _store_faults(where: str, product: Product, plant: Plant) -> Iterator[str]:
    """Of a route with several stores only the first may be shared: the pieces in it are counted over all lines."""
    for place, step in enumerate(product.piece_steps):
        if isinstance(step, HeldStep) and place != product.store_place and plant.shared_as(product.line, step.station):
            yield f"{where} stores pieces at {step.station}, which lines share; allowed: as its route's first store"


def _cut_out_faults(where: str, product: Product, scenario: "Scenario") -> Iterator[str]:
    """What is cut out and sold is a product of the same line without a formula, as heavy as what is cut out."""
    parents = [p for p in scenario.products if p.cut_out and p.cut_out[1].product == product.id]
    if product.is_cut_out and len(parents) != 1:
        yield f"{where}.formula is empty, and {len(parents)} products cut it out; allowed: a formula, or exactly 1"
    found = product.cut_out
    if found is None or found[1].product is None:
        return
    sold = next((p for p in scenario.products if p.id == found[1].product), None)
    if sold is None or not sold.is_cut_out or sold.line != product.line:
        yield f"{where} cuts out {found[1].product}; allowed: a product of its line without a formula"
    elif {step.station for step in sold.route} & {step.station for step in product.route}:
        both = sorted({step.station for step in sold.route} & {step.station for step in product.route})
        yield f"{where} and {sold.name}, cut out of it, both pass {', '.join(both)}; allowed: ways of their own"
    elif abs(sold.scaling_g - found[1].grams) > CUT_SLACK * found[1].grams:
        yield (
            f"{where} cuts out {found[1].grams:g} g, but {sold.name} needs {sold.scaling_g:.2f} g; "
            f"allowed: the same to {CUT_SLACK:.0%}"
        )


def _preparation_faults(where: str, made: Preparation, lines: dict[str, Line], items: "_Items") -> Iterator[str]:
    if made.line not in lines:
        yield f"{where}.line is {made.line}; allowed: {', '.join(lines)}"
        return
    held: tuple[Step, ...] = (made.held,) if made.held else ()
    yield from _route_faults(where, (made.mixing, *held), lines[made.line])
    for line in made.formula:
        if line.ingredient not in items.ingredients or items.ingredients[line.ingredient].role == "packing":
            yield f"{where}.formula has {line.ingredient}; allowed: the plant's ingredients"
    flour = sum(
        line.percent
        for line in made.formula
        if line.ingredient in items.ingredients and items.ingredients[line.ingredient].role == "flour"
    )
    if flour and abs(flour - FLOUR_PERCENT) > PERCENT_SLACK:
        yield f"{where}.formula has flour adding up to {flour:g} %; allowed: 100 %, or none at all"


class _Items:
    """What formulas and steps may name."""

    def __init__(self, scenario: "Scenario") -> None:
        self.ingredients = {item.id: item for item in scenario.plant.ingredients}
        self.preparations = {made.id: made for made in scenario.preparations}
        self.lines = {line.id: line for line in scenario.plant.lines}

    def faults(self, where: str, product: Product) -> Iterator[str]:
        """What is wrong with a product's formula, additions and packing."""
        used = [line.ingredient for line in product.formula]
        added = [addition.item for step in product.piece_steps for addition in step.adds]
        unknown = [name for name in (*used, *added) if not self._usable(name)]
        for name in unknown:
            yield f"{where}.formula has {name}; allowed: the plant's ingredients and preparations"
        laid_in = set[str]()
        for step in product.piece_steps:
            laid_in |= {addition.item for addition in step.adds}
            found = getattr(step, "laminates", None)
            if found and found.fat not in laid_in:
                yield f"{where}: {step.station} folds in {found.fat}; allowed: what a step has added by then"
        for use in product.packing:
            if use.item not in self.ingredients or self.ingredients[use.item].role != "packing":
                yield f"{where}.packing has {use.item}; allowed: ingredients whose role is packing"
        if unknown:
            return
        if product.formula:
            yield from self._dough_faults(where, product)
        yield from self._station_faults(where, product, {n for n in (*used, *added) if n in self.preparations})

    def _usable(self, name: str) -> bool:
        return name in self.preparations or (name in self.ingredients and self.ingredients[name].role != "packing")

    def _dough_faults(self, where: str, product: Product) -> Iterator[str]:
        flour = sum(line.percent * self._flour_share(line.ingredient) for line in product.formula)
        if abs(flour - FLOUR_PERCENT) > PERCENT_SLACK:
            inside = ", that inside its preparations included" if self._has_preparation(product) else ""
            yield f"{where}.formula has flour adding up to {flour:.4g} %{inside}; allowed: 100 %"
        waters = [line for line in product.formula if self._is_water(line.ingredient)]
        if len(waters) > 1:
            yield f"{where}.formula has {len(waters)} lines of water; allowed: at most 1"

    def _flour_share(self, name: str) -> float:
        """How much of an item is flour, by mass."""
        if name in self.ingredients:
            return 1.0 if self.ingredients[name].role == "flour" else 0.0
        lines = self.preparations[name].formula
        known = [line for line in lines if line.ingredient in self.ingredients]
        flour = sum(line.percent for line in known if self.ingredients[line.ingredient].role == "flour")
        return flour / sum(line.percent for line in lines)

    def _is_water(self, name: str) -> bool:
        return name in self.ingredients and self.ingredients[name].role == "water"

    def _has_preparation(self, product: Product) -> bool:
        return any(line.ingredient in self.preparations for line in product.formula)

    def _station_faults(self, where: str, product: Product, used: set[str]) -> Iterator[str]:
        """Preparations are made in their product's dough room, each at stations that nothing else of it uses."""
        taken = [step.station for step in product.route]
        for name in sorted(used):
            made = self.preparations[name]
            if made.line != product.line:
                yield f"{where} uses {name} of line {made.line}; allowed: preparations of {product.line}"
            for station in (made.mixing.station, *((made.held.station,) if made.held else ())):
                if station in taken:
                    yield f"{where} uses {name}, made at {station}, twice; allowed: a station of its own"
                taken.append(station)
        line = self.lines.get(product.line)
        first = next((s for s in line.stations if s.id == product.route[0].station), None) if line else None
        if product.formula and first is not None and not isinstance(first, BatchStation):
            yield f"{where}.route begins at {first.name}; allowed: a batch station"
