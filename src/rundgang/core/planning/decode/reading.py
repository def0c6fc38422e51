"""From the decoder's arrays to a plan's own models: runs with their batches, and what binds each start."""

from collections.abc import Iterator, Mapping, Sequence
from itertools import accumulate, pairwise
from typing import NamedTuple

import numpy as np

from rundgang.core.batching import dough_grams, split
from rundgang.core.compiled import Ints, Records
from rundgang.core.doughs import POLICIES, BatchSplit
from rundgang.core.planning.decode.arrays import WORN, Fixed, Runs
from rundgang.core.planning.decode.room import make_runs, make_state
from rundgang.core.planning.decode.runs import LEFT_OUT, decode
from rundgang.core.planning.decode.shop import Shop
from rundgang.core.planning.decode.tools import begin_tools, wear_tool
from rundgang.core.planning.decode.units import own_batches, slots_of
from rundgang.core.planning.lorries import OrderItem
from rundgang.core.planning.model import Batch, Binding, FillingBatch, PreparationSlot, Renewal, Run, RunItem, RunLeg
from rundgang.core.planning.needs import Stream
from rundgang.core.products import Product
from rundgang.core.tools import COUNTED_IN
from rundgang.core.units import GRAMS_PER_KG, MINUTES_PER_HOUR


class Decoded(NamedTuple):
    """An order of items with its runs, the first `fixed` of them as they were, `all_runs` in all."""

    shop: Shop
    listed: tuple[OrderItem, ...]
    runs: Runs
    fixed: int
    all_runs: int

    @property
    def left_out(self) -> tuple[tuple[OrderItem, str | None], ...]:
        """The items that are not made, each with the material that it was left out for want of, if it was."""
        joins, stocks = self.runs.joins.tolist(), self.shop.materials.stocks
        return tuple(
            (item, stocks[LEFT_OUT - 1 - run].item if run < LEFT_OUT else None)
            for item, run in zip(self.listed, joins, strict=True)
            if run <= LEFT_OUT
        )

    def items_of(self, run: int) -> tuple[OrderItem, ...]:
        """The items that a run is for, its head first."""
        found = [place for place, joined in enumerate(self.runs.joins.tolist()) if joined == run]
        found.sort(key=lambda place: place != self.runs.of[run]["item"])
        return tuple(self.listed[place] for place in found)

    def line_of(self, run: int) -> str:
        """The line of a run."""
        return self.shop.products[int(self.runs.of[run]["product"])].line


def lay_out(shop: Shop, fixed: Fixed, listed: Sequence[OrderItem], items: Records | None = None) -> Decoded:
    """Decode items in the order in which they are listed."""
    items = shop.items(listed) if items is None else items
    order = np.arange(len(listed), dtype=np.int64)
    alone = np.array([int(item.alone) for item in listed], dtype=np.int64)
    runs = make_runs(shop.arrays, fixed, items)
    state = make_state(shop.arrays, fixed, items)
    count, _ = decode(shop.arrays, fixed, items, order, alone, state, runs)
    return Decoded(shop, tuple(listed), runs, len(fixed.runs), int(count))


def read_run(decoded: Decoded, run: int, name: str, binding: Binding, before: Mapping[int, Run]) -> Run:
    """A run as the plan says it.

    Parameters
    ----------
    before : mapping of int to Run
        The runs before it on its line, by their place among the decoded.
    """
    shop, runs = decoded.shop, decoded.runs
    place = int(runs.of[run]["product"])
    product, way = shop.products[place], shop.ways[place]
    items = decoded.items_of(run)
    starts, feeds = runs.times[run, : way.legs]["start"].tolist(), runs.times[run, : way.legs]["feed"].tolist()
    of = runs.of[run]
    limits, policy, rest = shop.limits[product.id], POLICIES[int(of["policy"])], int(of["shared"])
    cut = split(product, int(of["wanted"]), limits, policy, rest)
    first = starts[-1] + way.tail_min
    streams = _Streams(decoded, run, place)
    shared = before[int(of["shared_of"])].batches[-1] if rest else None
    left = {number: _left_by(before, runs, run, number, streams) for number in range(1, len(streams.streams))}
    batches = _batches(shop, product, cut, streams.take(0), starts[0], float(of["pace"]), shared)
    return Run(
        id=name,
        product=product.listed_id,
        line=product.line,
        start_min=starts[0],
        feed_min=feeds[0],
        scaled_per_h=float(of["pace"]),
        pieces=sum(cut.pieces),
        packs=cut.packs,
        packs_wanted=int(of["wanted"]),
        first_pack_min=first,
        last_pack_min=first + feeds[-1],
        batches=tuple(batches),
        split=cut,
        binding=binding,
        items=_run_items(items),
        later_legs=tuple(RunLeg(start_min=s, feed_min=f) for s, f in zip(starts[1:], feeds[1:], strict=True)),
        fillings=tuple(_fillings(shop, streams, starts, feeds, sum(cut.pieces), left)),
        changeover_min=float(of["idle"]),
        pinned_min=items[0].pinned_min,
        pace_share=items[0].pace_share,
        odd_batch=items[0].odd_batch,
        alone=items[0].alone,
        dwell_min=shop.made[place].dwell_min,
    )


def renewals(decoded: Decoded, names: Mapping[int, str]) -> Iterator[Renewal]:
    """When tools are renewed before runs: the decoder's own count of their wear, run by run.

    Parameters
    ----------
    names : mapping of int to str
        What the runs of a line are called, by their place among the decoded.
    """
    arrays, runs = decoded.shop.arrays, decoded.runs
    worn = np.zeros(len(arrays.tools), WORN)
    begin_tools(arrays, worn)
    for run in range(decoded.all_runs if len(worn) else 0):
        product = arrays.products[runs.of[run]["product"]]
        for use in range(product["first_tool"], product["end_tool"]):
            had = float(wear_tool(arrays, runs, run, use, worn))
            of = arrays.tool_uses[use]
            _, station, tool = decoded.shop.tools.tools[of["tool"]]
            if had < 0 or run not in names:
                continue
            enters = float(runs.times[run, of["leg"]]["start"] + of["offset"])
            yield Renewal(
                station=station,
                tool=tool.name,
                counted=tool.counted,
                used=had / COUNTED_IN[tool.counted],
                life=tool.life,
                before=names[run],
                from_min=enters - tool.renew_min,
                to_min=enters,
            )


def _run_items(items: Sequence[OrderItem]) -> tuple[RunItem, ...]:
    """The lorries that a run is for, items of one lorry together."""
    packs: dict[str, int] = {}
    for item in items:
        packs[item.wave] = packs.get(item.wave, 0) + item.packs
    return tuple(RunItem(wave=wave, packs=many) for wave, many in packs.items())


class _Streams:
    """The units of a run's streams, read off one after the other."""

    def __init__(self, decoded: Decoded, run: int, place: int) -> None:
        self.run, self.runs, self.arrays = run, decoded.runs, decoded.shop.arrays
        runs = self.runs
        self.first = int(self.arrays.products[place]["first_stream"])
        self.streams: tuple[Stream, ...] = decoded.shop.streams[place]
        self.units: Ints = runs.slot_unit[runs.of[run]["first_slot"] : runs.of[run]["end_slot"]]
        self.doughs = self._doughs(len(self.units))

    def _doughs(self, slots: int) -> int:
        rest = sum(slots_of(self.arrays, self.first + n, self.batches(n)[0]) for n in range(1, len(self.streams)))
        return (slots - rest) // len(self.streams[0].needs)

    def batches(self, number: int) -> tuple[int, float]:
        """How many batches of a filling are made for the run, and their size, kg."""
        count, size = own_batches(self.arrays, self.runs, self.run, self.first + number)
        return int(count), float(size)

    def take(self, number: int) -> Ints:
        """The units of one stream."""
        counts = [self.doughs, *(self.batches(n)[0] for n in range(1, len(self.streams)))]
        ends = [slots_of(self.arrays, self.first + n, many) for n, many in enumerate(counts)]
        begin = sum(ends[:number])
        return self.units[begin : begin + ends[number]]


def _batches(
    shop: Shop, product: Product, cut: BatchSplit, units: Ints, start: float, pace: float, shared: Batch | None
) -> Iterator[Batch]:  # fmt: skip
    """The doughs of a run, the rest of another's first."""
    divided = list(accumulate((MINUTES_PER_HOUR * pieces / pace for pieces in cut.pieces), initial=start))
    times, ahead = list(pairwise(divided)), 1 if shared else 0
    if shared:
        yield _rest_of(shop, product, shared, cut.pieces[0], times[0])
    own = cut.pieces[ahead:]
    rows = units.reshape(len(own), len(units) // max(1, len(own)))
    for number, (row, pieces, (first, last)) in enumerate(zip(rows, own, times[ahead:], strict=True), 1 + ahead):
        names = iter([shop.unit_name(int(unit)) for unit in row])
        grams = dough_grams(product, pieces)
        begin = first - product.rest_min - product.mixing.cycle_min
        mixer, trough = next(names), next(names) if product.trough else None
        yield Batch(
            number=number,
            mixer=mixer,
            start_min=begin,
            discharged_min=begin + product.mixing.cycle_min,
            divided_min=first,
            last_piece_min=last,
            pieces=pieces,
            dough_g=grams,
            trough=trough,
            preparations=tuple(_prepared(shop, product, names, begin, grams)),
        )


def _rest_of(shop: Shop, product: Product, dough: Batch, pieces: int, divided: tuple[float, float]) -> Batch:
    """The rest of a dough that is divided into another product."""
    grams = dough_grams(product, pieces)
    shares = {made.id: share for made, share in shop.scenario.preparations_in(product)}
    slots = tuple(
        slot.model_copy(update={"grams": round(grams * shares[slot.preparation])}) for slot in dough.preparations
    )
    first, last = divided
    rest = {"number": 1, "pieces": pieces, "dough_g": grams, "divided_min": first, "last_piece_min": last}
    return dough.model_copy(update={**rest, "preparations": slots, "shared": True})


def _prepared(
    shop: Shop, product: Product, names: Iterator[str], used: float, grams: int
) -> Iterator[PreparationSlot]:  # fmt: skip
    for made, share in shop.scenario.preparations_in(product):
        discharged = used - made.least_hold_min
        yield PreparationSlot(
            preparation=made.id,
            mixer=next(names),
            start_min=discharged - made.mixing.cycle_min,
            discharged_min=discharged,
            used_min=used,
            position=next(names) if made.held else None,
            grams=round(grams * share),
        )


def _left_by(before: Mapping[int, Run], runs: Runs, run: int, number: int, streams: _Streams) -> FillingBatch | None:
    """The batch of a filling that a run before has left something of, where the run uses that."""
    made = streams.streams[number].preparation
    if made is None or runs.kept[run, number] == 0:
        return None
    own = [b for b in before[int(runs.kept_by[run, number])].fillings if b.preparation == made.id and not b.kept]
    return own[-1]


def _fillings(
    shop: Shop,
    streams: _Streams,
    starts: Sequence[float],
    feeds: Sequence[float],
    pieces: int,
    left: Mapping[int, FillingBatch | None],
) -> Iterator[FillingBatch]:
    for number, stream in enumerate(streams.streams[1:], start=1):
        made = stream.preparation
        assert made is not None  # noqa: S101  (only doughs have none)
        count, size = streams.batches(number)
        units, total = streams.take(number), pieces * stream.kg_per_scaled
        begin, feed = starts[stream.leg] + stream.offset_min, feeds[stream.leg]
        per_min, kept_kg = total / feed, float(streams.runs.kept[streams.run, number])
        known = left[number]
        if known:
            grams = round(kept_kg * GRAMS_PER_KG)
            use = {"grams": grams, "used_g": grams, "kept": True, "number": 1}
            times = {"used_from_min": begin, "used_until_min": begin + kept_kg / per_min, "ready_min": begin}
            yield known.model_copy(update=use | times)
        tank = shop.unit_name(int(units[0])) if made.held else None
        kettles = units[1:] if made.held else units
        for batch in range(count):
            used_from = begin + (kept_kg + batch * size) / per_min
            used_until = begin + min((kept_kg + (batch + 1) * size) / per_min, feed)
            mixed = used_from - made.least_hold_min
            used_kg = min(size, total - kept_kg - batch * size)
            yield FillingBatch(
                preparation=made.id,
                number=batch + 1 + (1 if known else 0),
                kettle=shop.unit_name(int(kettles[batch])),
                start_min=mixed - made.mixing.cycle_min,
                mixed_min=mixed,
                emptied_min=max(mixed, used_from - (stream.keeps_kg - size) / per_min),
                ready_min=used_from,
                used_from_min=used_from,
                used_until_min=used_until,
                grams=round(size * GRAMS_PER_KG),
                used_g=round(used_kg * GRAMS_PER_KG),
                tank=tank,
            )
