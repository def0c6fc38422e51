"""Tables of what runs wear and draw: the tools of a shop's lines, and the materials that bind."""

from collections.abc import Iterator, Sequence
from math import inf
from typing import NamedTuple

import numpy as np

from rundgang.core.compiled import Records
from rundgang.core.errors import InfeasibleError
from rundgang.core.materials import ItemShares
from rundgang.core.planning.decode.arrays import DRAWN, RENEWAL, SUPPLY, TOOL
from rundgang.core.planning.legs import Passage, Way, cut_tail_min
from rundgang.core.planning.needs import Stream
from rundgang.core.plant import Line
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario, Stock
from rundgang.core.tools import COUNTED_IN, tools_of, wear_of
from rundgang.core.units import GRAMS_PER_KG, MINUTES_PER_HOUR

GRAM_KG = 1 / GRAMS_PER_KG
"""Rounding to grams adds no more to a batch, kg."""

ALWAYS_MIN = -1e9
"""What is in store has always been there, min."""


class ToolUse(NamedTuple):
    """A product's passage of a station where a tool wears: as `TOOL_USE` has it."""

    tool: int
    wears: int
    leg: int
    offset_min: float
    stay_min: float
    per_piece: float
    per_min: float


class Tools:
    """The tools of some lines that wear, each with its place."""

    def __init__(self, scenario: Scenario, lines: Sequence[Line]) -> None:
        self.scenario, self.lines = scenario, lines
        found = [(line.id, station.id, tool) for line in lines for station, tool in tools_of(line)]
        self.tools = tuple(found)
        self.places = {(line, station, tool.id): place for place, (line, station, tool) in enumerate(found)}

    @property
    def table(self) -> Records:
        """Every tool, as it is when the window starts."""
        rows = []
        for line, station, tool in self.tools:
            counted, used = COUNTED_IN[tool.counted], self.scenario.opening.used(line, station, tool.id)
            rows.append((int(tool.counted == "days"), tool.life * counted, tool.renew_min, used * counted))
        return np.array(rows, dtype=TOOL)

    @property
    def renewals(self) -> Records:
        """The closings that renew a tool, by when they end."""
        keys = [(block.line, block.station, block.renews or "") for block in self.scenario.blocks]
        rows = [
            (self.places[key], block.to_min)
            for key, block in zip(keys, self.scenario.blocks, strict=True)
            if key in self.places
        ]
        return np.array(sorted(rows, key=lambda row: row[1]), dtype=RENEWAL)

    def uses(self, passages: Sequence[Passage]) -> list[ToolUse]:
        """What the passages of a product wear; strokes by the piece scaled."""
        found = []
        for stop, owner in passages:
            station, whole = self.scenario.line_of(owner).station(stop.station), self.scenario.whole(owner)
            step = next(step for step in owner.piece_steps if step.station == stop.station)
            entering = whole.taken_per_finished[whole.piece_steps.index(step)] / whole.taken_per_finished[0]
            for tool in station.tools:
                wear, place = wear_of(tool, step, station), self.places[owner.line, station.id, tool.id]
                by_piece, by_min = (wear.per_piece * float(entering), wear.per_min) if wear else (0.0, 0.0)
                at = stop.leg, stop.offset_min, stop.dwell_min
                found.append(ToolUse(place, int(wear is not None), *at, by_piece, by_min))
        return found

    def most_pieces(self, product: Product, passages: Sequence[Passage], paces: Sequence[float]) -> float:
        """The most pieces scaled before a run would wear out a new tool, each leg at its pace; inf where none wears.

        Raises
        ------
        InfeasibleError
            One pack would.
        """
        most = inf
        for use in (use for use in self.uses(passages) if use.wears):
            tool = self.tools[use.tool][2]
            life = tool.life * COUNTED_IN[tool.counted]
            wears = use.per_piece or MINUTES_PER_HOUR / paces[use.leg]
            most = min(most, (life if use.per_piece else life - use.stay_min) / wears)
            if most < product.scaled_per_pack:
                raise InfeasibleError(
                    f"{product.name}: one pack wears out {tool.name}. Allowed: a tool that bears more."
                )
        return most


class DrawRow(NamedTuple):
    """What a run draws of a material: as `DRAW` has it."""

    stock: int
    stream: int
    leg: int
    offset_min: float
    per_unit: float
    per_batch: float


class Materials:
    """The materials that bind, each with its place, and what products draw of them."""

    def __init__(self, scenario: Scenario) -> None:
        self.scenario = scenario
        self.stocks: tuple[Stock, ...] = tuple(stock for stock in scenario.stocks if stock.binds)
        self.places = {stock.item: place for place, stock in enumerate(self.stocks)}
        self.shares = ItemShares(scenario)
        self._binding: dict[str, bool] = {}

    def binds(self, product_id: str) -> bool:
        """Whether a product, or what is cut out of it, takes any of them."""
        if product_id not in self._binding:
            product = self.scenario.product(product_id)
            cut = self.scenario.cut_from(product)
            taken = self.scenario.drawn_by(product) | (self.scenario.drawn_by(cut) if cut else frozenset())
            self._binding[product_id] = not taken.isdisjoint(self.places)
        return self._binding[product_id]

    @property
    def supplies(self) -> Records:
        """What is there and what comes, by time."""
        rows = [(ALWAYS_MIN, place, stock.on_hand) for place, stock in enumerate(self.stocks)]
        for place, stock in enumerate(self.stocks):
            rows += [(delivery.at_min, place, delivery.amount) for delivery in stock.deliveries]
        return np.array([(place, at, amount) for at, place, amount in sorted(rows)], dtype=SUPPLY)

    def drawn(self, draws: Sequence[tuple[str, float, float]]) -> Records:
        """What runs that stay have drawn: item, when, and how much."""
        rows = [(self.places[item], at, amount) for item, at, amount in draws if item in self.places]
        return np.array(rows, dtype=DRAWN)

    def rows(
        self, product: Product, way: Way, passages: Sequence[Passage], streams: Sequence[Stream], first_stream: int
    ) -> list[DrawRow]:
        """Everything that a run of a product draws, dough by dough and batch by batch."""
        if not self.stocks:
            return []
        cut = self.scenario.cut_from(product)
        found = [*self._doughs(product), *self._fillings(streams, first_stream), *self._added(passages)]
        found += self._packing(product, way.legs - 1, way.tail_min, product)
        if cut:
            leg = next(stop.leg for stop, owner in passages if owner is cut)
            found += self._packing(cut, leg, cut_tail_min(self.scenario, product, cut), self.scenario.whole(cut))
        return found

    def _doughs(self, product: Product) -> Iterator[DrawRow]:
        """Each dough as it is charged, and what is prepared for it."""
        kg, charged = product.scaling_g / GRAMS_PER_KG, -product.rest_min - product.mixing.cycle_min
        for item, place in self.places.items():
            share = self.shares.most(product, item)
            if share:
                yield DrawRow(place, -1, 0, charged, kg * share, GRAM_KG * share)
            for made, of_dough in self.scenario.preparations_in(product):
                share = self.shares.most(made, item)
                begun = charged - made.least_hold_min - made.mixing.cycle_min
                if share:
                    yield DrawRow(place, -1, 0, begun, kg * of_dough * share, GRAM_KG * share)

    def _fillings(self, streams: Sequence[Stream], first_stream: int) -> Iterator[DrawRow]:
        for stream, of in enumerate(streams[1:], start=first_stream + 1):
            assert of.preparation is not None  # noqa: S101  (only doughs have none)
            begun = -of.preparation.least_hold_min - of.preparation.mixing.cycle_min
            for item, place in self.places.items():
                share = self.shares.most(of.preparation, item)
                if share:
                    yield DrawRow(place, stream, of.leg, begun, share, GRAM_KG * share)

    def _added(self, passages: Sequence[Passage]) -> Iterator[DrawRow]:
        for stop, owner in passages:
            whole = self.scenario.whole(owner)
            step = next(step for step in owner.piece_steps if step.station == stop.station)
            entering = whole.taken_per_finished[whole.piece_steps.index(step)] / whole.taken_per_finished[0]
            for addition in step.adds:
                if addition.item in self.places:
                    kg = float(entering / step.conversion) * addition.grams / GRAMS_PER_KG
                    yield DrawRow(self.places[addition.item], -1, stop.leg, stop.offset_min, kg, 0.0)

    def _packing(self, packed: Product, leg: int, tail_min: float, whole: Product) -> Iterator[DrawRow]:
        for use in packed.packing:
            if use.item in self.places:
                each = use.per_pack / float(whole.scaled_per_pack)
                yield DrawRow(self.places[use.item], -1, leg, tail_min, each, 0.0)
