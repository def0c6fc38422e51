"""A shop: lines that share something, and all that does not change while orders of their items are tried."""

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from copy import copy
from math import inf, nan

import numpy as np

from rundgang.core.batching import batch_limits, packs_from_pieces
from rundgang.core.capacity import cut_leg, dough_bounds, leg_paces
from rundgang.core.compiled import Floats, Ints, Records
from rundgang.core.doughs import POLICIES, BatchLimits
from rundgang.core.errors import InfeasibleError
from rundgang.core.kinds.parts import ROUNDING
from rundgang.core.planning.decode.arrays import (
    AT_WORK,
    CLOSING,
    COOLER,
    CREW_USE,
    DRAW,
    DUE,
    ITEM,
    LEG,
    LOT,
    MEETING,
    NEED,
    POOL,
    PRODUCT,
    TOOL_USE,
    Rooms,
    ShopArrays,
)
from rundgang.core.planning.decode.classes import classes_in
from rundgang.core.planning.decode.cleaning import cleaning_min, leaves_behind
from rundgang.core.planning.decode.coolers import cooler_rows
from rundgang.core.planning.decode.crews import crew_uses
from rundgang.core.planning.decode.ovens import oven_ready_min, oven_table
from rundgang.core.planning.decode.pools import pool_key, pools_of
from rundgang.core.planning.decode.tables import ends_of, rows_of, table
from rundgang.core.planning.decode.units import dough_pace
from rundgang.core.planning.decode.wearing import Materials, Tools
from rundgang.core.planning.headway import gap, leg_headways, set_free
from rundgang.core.planning.legs import Passage, Way, cut_tail_min, passages, way_of
from rundgang.core.planning.lorries import OrderItem, dues_of
from rundgang.core.planning.model import Run
from rundgang.core.planning.needs import Stream, stream_table, streams_of
from rundgang.core.products import OddBatch
from rundgang.core.scenario import Scenario
from rundgang.core.units import GRAMS_PER_KG, MINUTES_PER_HOUR

LARGEST_RUN_PACKS = 1_000_000


class Shop:
    """Lines that share something, with their products, as the decoder takes them.

    Parameters
    ----------
    scenario : Scenario
    lines : iterable of str
    fixed : iterable of Run
        Whose products are known beside those that are ordered.
    odd_batch : mapping of str to OddBatch
        Choices for the odd last batch that differ from the products' own.

    Raises
    ------
    UnknownItemError
        No such line.
    InfeasibleError
        A product that is ordered cannot be made on its line, whatever the order.
    """

    def __init__(
        self,
        scenario: Scenario,
        lines: Iterable[str],
        fixed: Iterable[Run] = (),
        odd_batch: Mapping[str, OddBatch] | None = None,
    ) -> None:
        self.scenario, self.odd_batch = scenario, dict(odd_batch or {})
        self.lines = tuple(scenario.line(line) for line in lines)
        self.dues = tuple(due for line in self.lines for due in dues_of(scenario, line.id))
        self.made = tuple(classes_in(scenario, self.lines, {due.product for due in self.dues}, fixed))
        self.products = tuple(made.product for made in self.made)
        self.index: dict[str, int] = {}
        for place, product in enumerate(self.products):
            self.index.setdefault(product.listed_id, place)
        self._places = {product.id: place for place, product in enumerate(self.products)}
        self.policy = {p.id: self.odd_batch.get(p.listed_id, p.odd_batch) for p in self.products}
        self.ways: tuple[Way, ...] = tuple(way_of(scenario, product) for product in self.products)
        self.passages = tuple(passages(scenario, product) for product in self.products)
        self.streams: tuple[tuple[Stream, ...], ...] = tuple(streams_of(scenario, p) for p in self.products)
        self.limits = {p.id: batch_limits(p, dough_bounds(scenario, p)) for p in self.products}
        self.pools = pools_of(scenario, self.products, self.streams)
        self.tools, self.materials = Tools(scenario, self.lines), Materials(scenario)
        self.pool_at = {pool.key: place for place, pool in enumerate(self.pools)}
        self.arrays = self._arrays()
        self._units: dict[tuple[str, str, str], int] = {}
        self._names = tuple(name for pool in self.pools for name in pool.units)

    def at(self, now_min: float) -> "Shop":
        """The same shop at another moment."""
        if now_min == self.arrays.now:
            return self
        moved = copy(self)
        moved.arrays = self.arrays._replace(now=now_min)
        return moved

    @property
    def most_packs(self) -> dict[str, int]:
        """Packs that one run may give, by product."""
        return {name: int(self.arrays.products[place]["cap"]) for name, place in self.index.items()}

    def place_of(self, run: Run) -> int:
        """Where what a run makes stands, dwelling as it does."""
        return self._places[self.scenario.dwelling(run.product, run.dwell_min).id]

    def limits_of(self, run: Run) -> BatchLimits:
        """The fewest and most pieces in a dough of a run."""
        return self.limits[self.products[self.place_of(run)].id]

    def pool_of(self, line_id: str, station_id: str) -> int:
        """The pool of a station's units."""
        return self.pool_at[pool_key(self.scenario, line_id, station_id)]

    def key_of(self, line_id: str, station_id: str) -> str:
        """What counts the units of a station."""
        return pool_key(self.scenario, line_id, station_id)

    def class_of(self, preparation: str) -> int:
        """The class of a preparation, for the cleaning."""
        places = [made.id for made in self.scenario.preparations]
        return len(self.products) + places.index(preparation)

    def unit(self, line_id: str, station_id: str, name: str) -> int:
        """The unit of a station that is called so."""
        asked = line_id, station_id, name
        if asked not in self._units:
            pool = self.pool_of(line_id, station_id)
            self._units[asked] = int(self.arrays.rooms.pools[pool]["first"]) + self.pools[pool].units.index(name)
        return self._units[asked]

    def unit_name(self, unit: int) -> str:
        """What a unit is called."""
        return self._names[unit]

    def items(self, listed: Sequence[OrderItem]) -> Records:
        """The table of what is put in order, each by its coolest class."""
        waves = {wave.id: wave for wave in self.scenario.waves}
        fresh = {(due.product, due.wave): due.fresh_from_min for due in self.dues}
        return table(
            ITEM,
            product=[self.index[item.product] for item in listed],
            packs=[item.packs for item in listed],
            fresh=[fresh.get(item.due, -inf) for item in listed],
            leaves=[waves[item.wave].departs_min for item in listed],
            pin=[nan if item.pinned_min is None else item.pinned_min for item in listed],
            hold=[-inf if item.not_before_min is None else item.not_before_min for item in listed],
            share=[item.pace_share for item in listed],
            policy=[-1 if item.odd_batch is None else POLICIES.index(item.odd_batch) for item in listed],
            was=[nan if item.was_min is None else item.was_min for item in listed],
        )

    def _arrays(self) -> ShopArrays:
        classes = {made.id: place for place, made in enumerate(self.scenario.preparations, len(self.products))}
        closings = [self._closings(place) for place in range(len(self.products))]
        met = [self._meetings(place) for place in range(len(self.products))]
        uses = [crew_uses(self.scenario, passed) for passed in self.passages]
        coolers = [
            cooler_rows(self.scenario, product, passed)
            for product, passed in zip(self.products, self.passages, strict=True)
        ]
        worn = [self.tools.uses(passed) for passed in self.passages]
        streams = ends_of([len(streams) for streams in self.streams]).tolist()
        drawn = [
            self.materials.rows(*of)
            for of in zip(self.products, self.ways, self.passages, self.streams, streams[:-1], strict=True)
        ]
        ends = ends_of([len(pool.units) for pool in self.pools])
        found = ShopArrays(
            products=self._product_table(closings, met, uses, coolers, worn, drawn),
            legs=self._leg_table(),
            streams=stream_table(self.streams, [made.id for made in self.scenario.preparations]),
            rooms=Rooms(
                needs=self._need_table(classes),
                pools=table(POOL, first=ends[:-1], end=ends[1:]),
                leaves=leaves_behind(self.scenario, self.products),
                cleaning=cleaning_min(self.scenario, self.pools),
            ),
            closings=rows_of(CLOSING, [closing for product in closings for closing in product]),
            meetings=self._meeting_table([meeting for product in met for meeting in product]),
            ovens=oven_table(self.scenario, self.lines, self.products, self.ways),
            coolers=rows_of(COOLER, [cooler for product in coolers for cooler in product]),
            uses=rows_of(CREW_USE, [use for product in uses for use in product]),
            absences=self._absences(),
            tools=self.tools.table,
            tool_uses=rows_of(TOOL_USE, [use for product in worn for use in product]),
            renewals=self.tools.renewals,
            supplies=self.materials.supplies,
            draws=rows_of(DRAW, [draw for product in drawn for draw in product]),
            dues=self._due_table(),
            lots=self._lot_table(),
            headway=self._headways(),
            meet_gap=self._meet_gaps([meeting for product in met for meeting in product]),
            crew_size=np.array([float(crew.people) for crew in self.scenario.plant.crews]),
            set_free=self._set_free(),
            air=np.array(self.scenario.conditions.room_by_hour),
            lines=len(self.lines),
            stocks=len(self.materials.stocks),
            delivered=max(self._delivered().values(), default=-1) + 1,
            now=float(self.scenario.opening.now_min),
            window=float(self.scenario.window.minutes),
        )
        for place in self.index.values():
            end = place + int(found.products[place]["classes"])
            found.products[place]["cap"] = min(
                min(self._cap(found, each), self._packs_of_a_tool(found, each)) for each in range(place, end)
            )
        return found

    def _product_table(self, *parts: Sequence[Sequence[object]]) -> Records:
        scenario, line_at = self.scenario, {line.id: place for place, line in enumerate(self.lines)}
        delivered = self._delivered()
        cuts = [scenario.cut_from(product) for product in self.products]
        streams, closings, met, uses, coolers, worn, drawn = (
            ends_of([len(p) for p in part]) for part in (self.streams, *parts)
        )
        articles = [self.index[product.listed_id] for product in self.products]
        many = Counter(at for at, made in zip(articles, self.made, strict=True) if made.most_c > -inf)
        return table(
            PRODUCT,
            article=articles,
            classes=[max(1, many[at]) for at in articles],
            line=[line_at[product.line] for product in self.products],
            legs=[way.legs for way in self.ways],
            dough=self._doughs(),
            least=[self.limits[product.id].least_pieces for product in self.products],
            most=[self.limits[product.id].most_pieces for product in self.products],
            policy=[POLICIES.index(self.policy[product.id]) for product in self.products],
            first_stream=streams[:-1],
            end_stream=streams[1:],
            first_closing=closings[:-1],
            end_closing=closings[1:],
            first_meet=met[:-1],
            end_meet=met[1:],
            first_use=uses[:-1],
            end_use=uses[1:],
            first_cooler=coolers[:-1],
            end_cooler=coolers[1:],
            first_tool=worn[:-1],
            end_tool=worn[1:],
            first_draw=drawn[:-1],
            end_draw=drawn[1:],
            cut_of=[delivered[cut.listed_id] if cut else -1 for cut in cuts],
            cut_leg=[cut_leg(scenario, product) for product in self.products],
            lead=[self._lead_min(place) for place in range(len(self.products))],
            tail=[way.tail_min for way in self.ways],
            ratio=[float(product.scaled_per_pack) for product in self.products],
            kg=[product.scaling_g / GRAMS_PER_KG for product in self.products],
            age_span=[product.max_age_min - product.rest_min for product in self.products],
            cut_ratio=[float(scenario.whole(cut).scaled_per_pack) if cut else 1.0 for cut in cuts],
            cut_tail=[
                cut_tail_min(scenario, product, cut) if cut else 0.0
                for product, cut in zip(self.products, cuts, strict=True)
            ],
            most_c=[made.most_c for made in self.made],
        )

    def _doughs(self) -> list[int]:
        """Which dough each product is of, numbered."""
        known: list[object] = []
        for product in self.products:
            if product.dough not in known:
                known.append(product.dough)
        return [known.index(product.dough) for product in self.products]

    def _delivered(self) -> dict[str, int]:
        """Where each product stands among those delivered: the mixed ones, then those cut out of them."""
        cuts = dict.fromkeys(cut.listed_id for product in self.products if (cut := self.scenario.cut_from(product)))
        return self.index | {name: place for place, name in enumerate(cuts, start=len(self.products))}

    def _leg_table(self) -> Records:
        store_at = {key: place for place, key in enumerate(dict.fromkeys(self._store_keys()))}
        found = np.zeros((len(self.products), max((way.legs for way in self.ways), default=1)), LEG)
        found["store"], found["pace"] = -1, 1.0
        for place, (product, way) in enumerate(zip(self.products, self.ways, strict=True)):
            found["pace"][place, : way.legs] = leg_paces(self.scenario, product)
            for leg, boundary in enumerate(way.boundaries, start=1):
                row = found[place, leg]
                row["span"], row["entry"], row["slack"] = boundary.span_min, boundary.entry_min, boundary.slack_min
                row["hold"], row["waits"] = boundary.hold_min, boundary.waits_for * MINUTES_PER_HOUR
                if boundary.is_store:
                    station = product.piece_steps[boundary.place].station
                    row["store"] = store_at[pool_key(self.scenario, product.line, station)]
                    row["share"] = 1 / boundary.places
        return found

    def _store_keys(self) -> Iterable[str]:
        for product, way in zip(self.products, self.ways, strict=True):
            for boundary in way.boundaries:
                yield pool_key(self.scenario, product.line, product.piece_steps[boundary.place].station)

    def _lead_min(self, place: int) -> float:
        """From the first thing begun for a product, its oven's heating up included, to its first piece, min."""
        way = self.ways[place]
        behind = [sum(boundary.span_min for boundary in way.boundaries[:leg]) for leg in range(way.legs)]
        leads = [stream.lead_min - behind[stream.leg] for stream in self.streams[place]]
        for stop in way.stops:
            ready = oven_ready_min(self.scenario, self.products[place], stop.station)
            leads.append(ready - behind[stop.leg] - stop.offset_min)
        return max(leads)

    def _cap(self, arrays: ShopArrays, place: int) -> int:
        """The most packs that one run can give: as many doughs as can follow each other, each divided in time.

        With m units of which each is taken for L, one dough comes every L / m; where that is too late for the dough's
        age, a run is no longer than there are units.
        """
        product, needs = self.products[place], self.streams[place][0].needs
        pools = [self.pools[self.pool_of(product.line, need.station)] for need in needs]
        fewest = min(pools, key=lambda pool: len(pool.units))
        most, pace = self.limits[product.id].most_pieces, float(arrays.legs[place, 0]["pace"])
        doughs = np.full(max(len(pool.units) for pool in pools) + 2, most, dtype=np.int64)
        steady = float(dough_pace(arrays, place, pace, doughs))
        window = (product.max_age_min - product.rest_min) * (1 + ROUNDING)
        if steady > 0 and MINUTES_PER_HOUR * most / steady <= window:
            return LARGEST_RUN_PACKS
        packs = packs_from_pieces(product, len(fewest.units) * most)
        if packs < 1 or MINUTES_PER_HOUR * most / pace > window:
            raise InfeasibleError(
                f"{product.name}: {len(fewest.units)} {fewest.units[0]} alone cannot feed the divider for one pack in "
                "time. Allowed: more of them, or larger doughs."
            )
        return packs

    def _packs_of_a_tool(self, arrays: ShopArrays, place: int) -> int:
        """The most packs that one run can give before it would wear out a new tool."""
        product = self.products[place]
        most = self.tools.most_pieces(product, self.passages[place], arrays.legs[place]["pace"].tolist())
        return LARGEST_RUN_PACKS if most == inf else packs_from_pieces(product, int(most))

    def _need_table(self, classes: dict[str, int]) -> Records:
        needs = [
            (place, need) for place, product in enumerate(self.streams) for stream in product for need in stream.needs
        ]
        return table(
            NEED,
            pool=[self.pool_of(self.products[place].line, need.station) for place, need in needs],
            how=[need.how for _, need in needs],
            class_=[classes[need.preparation] if need.preparation else place for place, need in needs],
            before=[need.before_min for _, need in needs],
            length=[need.length_min for _, need in needs],
        )

    def _headways(self) -> Floats:
        count, legs = len(self.products), max((way.legs for way in self.ways), default=1)
        found = np.full((count, count, legs, legs), -inf)
        for one, first in enumerate(self.products):
            for other, then in enumerate(self.products):
                if first.line == then.line:
                    for (leaves, enters), pair in leg_headways(self.scenario, first, then).items():
                        found[one, other, leaves, enters] = pair.beyond_feed_min
        return found

    def _set_free(self) -> Floats:
        """By product and leg, when what passed its stations before the window has left them and they are set anew."""
        found = np.full((len(self.products), max((way.legs for way in self.ways), default=1)), -inf)
        for place, product in enumerate(self.products):
            for (leg, _), free in set_free(self.scenario, product).items():
                found[place, leg] = max(found[place, leg], free)
        return found

    def _closings(self, place: int) -> list[tuple[int, float, float]]:
        """Leg, low and high: the leg may not start between low less its feeding time and high."""
        scenario, found = self.scenario, []
        for block in scenario.blocks:
            called = scenario.plant.called_on(self.products[place].line, block.at)
            for stop, owner in self.passages[place] if called else ():
                if stop.station != called:
                    continue
                stay = 0.0 if stop.splits else stop.dwell_min
                found.append((stop.leg, block.from_min - stop.offset_min - stay, block.to_min - stop.offset_min))
                if stop.splits:
                    carried = scenario.line_of(owner).station(stop.station).transfer_min
                    found.append((stop.leg + 1, block.from_min + carried, block.to_min + carried))
        return found

    def _meetings(self, place: int) -> list[tuple[str, Passage]]:
        """Passages of machines that lines share; a store that splits the route is counted by its filling instead."""
        found = []
        for passage in self.passages[place]:
            shared = self.scenario.plant.shared_as(self.products[place].line, passage.stop.station)
            if shared and not passage.stop.splits:
                found.append((shared.id, passage))
        return found

    def _meet_gaps(self, met: list[tuple[str, Passage]]) -> Floats:
        found = np.full((len(met), len(met)), -1.0)
        for one, (key, first) in enumerate(met):
            for other, (key_then, then) in enumerate(met):
                if key == key_then and first.product.line != then.product.line:
                    needed = gap(
                        self.scenario, first.stop.station, first.product, then.product, then_at=then.stop.station
                    )
                    found[one, other] = needed.minutes
        return found

    def _meeting_table(self, met: list[tuple[str, Passage]]) -> Records:
        shared = {key: place for place, key in enumerate(dict.fromkeys(key for key, _ in met))}
        return rows_of(MEETING, [(shared[key], passage.stop.leg, passage.stop.offset_min) for key, passage in met])

    def _absences(self) -> Records:
        crews = [crew.id for crew in self.scenario.plant.crews]
        away = self.scenario.absences
        return rows_of(AT_WORK, [(crews.index(one.crew), one.from_min, one.to_min, one.people) for one in away])

    def _due_table(self) -> Records:
        delivered = self._delivered()
        dues = [due for due in self.dues if due.product in delivered]
        dues.sort(key=lambda due: (due.loaded_by_min, due.fresh_from_min))
        return table(
            DUE,
            product=[delivered[due.product] for due in dues],
            packs=[due.packs for due in dues],
            departs=[due.loaded_by_min for due in dues],
            fresh=[due.fresh_from_min for due in dues],
            good=[due.good_from_min for due in dues],
            weight=[due.weight for due in dues],
        )

    def _lot_table(self) -> Records:
        delivered = self._delivered()
        lots = [
            (delivered[lot.product], lot) for lot in self.scenario.finished if lot.product in delivered and lot.packs
        ]
        lots.sort(key=lambda one: (one[0], one[1].made_min))
        return table(
            LOT,
            product=[place for place, _ in lots],
            packs=[lot.packs for _, lot in lots],
            made=[lot.made_min for _, lot in lots],
        )

    def lots_of(self, place: int) -> tuple[Floats, Ints]:
        """When the packs of a product that are in stock were made, min, the oldest first; and how many."""
        own = self.arrays.lots[self.arrays.lots["product"] == place]
        return own["made"].astype(float), own["packs"].astype(np.int64)
