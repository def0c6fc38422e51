"""What the record of a line lets one observe: losses, paces, changes and stops in its counts, the rest in its checks.

Each is found where it can be told apart. Of a run's pieces, what left a station is counted from the middle of the white
time before it to the middle of that behind it; where there is none, nothing is said. A station stood for itself where
none behind it stood, or was being set anew, when it began to: else it may have been held up.
"""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from datetime import datetime, timedelta
from itertools import pairwise
from math import floor, inf
from statistics import fmean
from typing import Literal, NamedTuple

from rundgang.core.dough.friction import ProbeReading, factor_of
from rundgang.core.floor.followed import OVER_MIN, Counted, Stoppage
from rundgang.core.floor.inspections import Subject
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep
from rundgang.core.kinds.every import PieceStep
from rundgang.core.kinds.held import HeldStep
from rundgang.core.kinds.load import LoadStep
from rundgang.core.kinds.rate import RateStep, cut_out_of
from rundgang.core.planning.legs import Passing, passings
from rundgang.core.planning.model import LinePlan, Run
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario
from rundgang.core.thermal.cooling import LEAST_STEP_K, rate_from_run
from rundgang.core.units import MINUTES_PER_HOUR

Kind = Literal["friction", "cooling", "yield", "bake loss", "pace", "tool change", "belt set", "stops", "stands"]

SLICE_MIN = 15.0
"""A pace is told by what is fed in so long, min."""

WHITE_MIN = 1.0
"""Nothing is counted for so long before and behind the middle of white time, min."""

SAME_MIN = 30.0
"""Two checks are of the same pieces, or as good as that, when these passed no further apart, min."""


EARLY_MIN = 2.0
"""What is held up may seem to stand so much earlier than what holds it up: both are read now and then, min."""


class Observed(NamedTuple):
    """One thing that was observed of a product, a station, a product at a station, or a dough in a mixer.

    Attributes
    ----------
    value : float
        A friction factor, °C; a rate of cooling, 1/min; a share; a pace, finished pieces/h; a time, min.
    good, lost : int
        Of pieces, how many.
    """

    kind: Kind
    product: str | None
    station: str | None
    at: datetime
    value: float
    good: int = 0
    lost: int = 0
    mixer: str | None = None


class Find(NamedTuple):
    """A check as it was found: of which run and product, what it measures, in metric units, and what it was.

    Attributes
    ----------
    at_start : bool
        Whether it is a look at what was set up for a run.
    """

    at_min: float
    station: str
    run: str | None
    product: str | None
    subject: Subject | None
    values: tuple[float, ...]
    good: bool | None
    at_start: bool = False


class LineRecord(NamedTuple):
    """What the record holds of a line in a window.

    Attributes
    ----------
    plan : LinePlan
        As it went.
    counts : mapping of str to Counted
        By station, what has left it.
    stood : tuple of Stoppage
        When stations stood, whether for themselves or held up.
    watched : (float, float) or None
        From when until when their states are known, min.
    """

    scenario: Scenario
    plan: LinePlan
    counts: Mapping[str, Counted]
    stood: tuple[Stoppage, ...]
    watched: tuple[float, float] | None
    finds: tuple[Find, ...]

    def moment(self, minute: float) -> datetime:
        """A minute of the window, on the clock."""
        return self.scenario.window.starts_at + timedelta(minutes=minute)


def frictions(product: str, mixer: str, probes: Iterable[tuple[datetime, ProbeReading]]) -> Iterator[Observed]:
    """The friction factors of a product's doughs in a mixer."""
    for at, reading in probes:
        yield Observed("friction", product, None, at, factor_of(reading), mixer=mixer)


Passed = Mapping[str, Sequence[tuple[Run, Passing]]]
"""By station, the runs that pass it, in their order."""


def all_observed(record: LineRecord) -> Iterator[Observed]:
    """All that the record of a line says but its doughs."""
    passed = _by_station(record)
    yield from coolings(record)
    yield from bake_losses(record)
    yield from yields(record, passed)
    yield from paces(record)
    yield from changes(record, passed)
    yield from stands(record, passed)


def _figures(record: LineRecord, subject: Subject) -> list[tuple[Find, float]]:
    """The checks of a subject that have figures, each with their mean."""
    found = (find for find in record.finds if find.subject == subject and find.product and find.values)
    return [(find, fmean(find.values)) for find in found]


def _earlier(
    record: LineRecord, find: Find, others: Sequence[tuple[Find, float]], step: PieceStep
) -> float | None:  # fmt: skip
    """What was found of the same pieces, or of those nearest to them, when they left a station before."""
    product = record.scenario.product(str(find.product))
    then = find.at_min - _way_min(record.scenario, product, step.station, find.station)
    near = [
        (abs(other.at_min - then), figure)
        for other, figure in others
        if (other.station, other.product) == (step.station, find.product) and abs(other.at_min - then) <= SAME_MIN
    ]
    return min(near)[1] if near else None


def _way_min(scenario: Scenario, product: Product, one: str, then: str) -> float:
    """How long a piece takes from the end of a station to that of another, min."""
    line, places = scenario.line_of(product), [step.station for step in product.piece_steps]
    way = product.piece_steps[places.index(one) + 1 : places.index(then) + 1]
    carried = sum(
        line.piece_station(station).transfer_min for station in places[places.index(one) : places.index(then)]
    )
    return carried + sum(line.operation(step).dwell_min for step in way)


def coolings(record: LineRecord) -> Iterator[Observed]:
    """How fast cores cooled: probed out of the oven or fryer, and behind the cooler, in the air of that hour."""
    cores = _figures(record, "core temperature")
    for find, cold in cores:
        product = record.scenario.product(str(find.product))
        step = _step_at(product, find.station)
        if not isinstance(step, ConveyorStep) or step.cooling is None:
            continue
        hot = _earlier(record, find, cores, product.piece_steps[product.bake_place])
        air = record.scenario.during(find.at_min).conditions.room_c
        if hot is not None and cold - air > LEAST_STEP_K and hot - cold > LEAST_STEP_K:
            rate = rate_from_run(hot, cold, air, step.dwell_min)
            yield Observed("cooling", product.id, find.station, record.moment(find.at_min), rate)


def _step_at(product: Product, station: str) -> PieceStep | None:
    return next((step for step in product.piece_steps if step.station == station), None)


def bake_losses(record: LineRecord) -> Iterator[Observed]:
    """What pieces lost in the oven: baked ones on the scale, and what they had been scaled at."""
    scaled = _figures(record, "scaled weight")
    for find, baked in _figures(record, "baked weight"):
        product = record.scenario.product(str(find.product))
        if not product.formula:
            continue
        weighed = _earlier(record, find, scaled, product.piece_steps[0])
        came = product.scaling_g if weighed is None else weighed
        entering = product.entering_g[product.bake_place] + (came - product.scaling_g) * _pieces_in_one(product)
        if 0 < baked < entering:
            yield Observed("bake loss", product.id, None, record.moment(find.at_min), 1 - baked / entering)


def _pieces_in_one(product: Product) -> float:
    """Scaled pieces in one that is baked."""
    found = 1.0
    for step in product.piece_steps[: product.bake_place]:
        found *= float(step.conversion)
    return found


def yields(record: LineRecord, passed: Passed) -> Iterator[Observed]:
    """What left each station good of what left the one before it, run by run."""
    for run in record.plan.runs:
        product = record.scenario.dwelling(run.product, run.dwell_min)
        if any(cut_out_of(step) for step in product.piece_steps):
            continue
        for before, step in pairwise(product.piece_steps):
            if isinstance(before, HeldStep | LoadStep) or isinstance(step, HeldStep | LoadStep):
                continue
            came, left = (_left(record, passed, run, station) for station in (before.station, step.station))
            if came and left and not _may_spoil(record, passed, run, step):
                lost = max(0, floor(came / step.conversion) - left)
                when, share = record.moment(run.last_pack_min), left / (left + lost)
                yield Observed("yield", product.listed_id, step.station, when, share, left, lost)


def _may_spoil(record: LineRecord, passed: Passed, run: Run, step: PieceStep) -> bool:
    """Whether a station stood longer than its pieces bear, so that what is lost is lost to a stop."""
    passing = next(passing for other, passing in passed[step.station] if other.id == run.id)
    inside = passing.first_in - OVER_MIN, passing.last_out + OVER_MIN
    return any(
        end - begin > step.stands_min and _shared(inside, (begin, end)) > 0
        for begin, end in _stretches(record, step.station)
    )


def _by_station(record: LineRecord) -> dict[str, list[tuple[Run, Passing]]]:
    """The runs that pass each station, in their order."""
    found: dict[str, list[tuple[Run, Passing]]] = {}
    for run in record.plan.runs:
        for passing in passings(record.scenario, run):
            found.setdefault(passing.station, []).append((run, passing))
    return {station: sorted(there, key=lambda one: one[1].first_out) for station, there in found.items()}


def _left(record: LineRecord, passed: Passed, run: Run, station: str) -> int | None:
    """How many pieces of a run have left a station; None where they cannot be told from others."""
    counted, there = record.counts.get(station), passed[station]
    place = next(place for place, (other, _) in enumerate(there) if other.id == run.id)
    passing = there[place][1]
    begin, until = passing.first_out - OVER_MIN, passing.last_out + OVER_MIN
    if place:
        begin = max(begin, (there[place - 1][1].last_out + passing.first_out) / 2)
    if place + 1 < len(there):
        until = min(until, (passing.last_out + there[place + 1][1].first_out) / 2)
    if counted is None or counted.since_min > begin - WHITE_MIN or counted.at_min[-1] < passing.last_out:
        return None
    if any(counted.between(edge - WHITE_MIN, edge + WHITE_MIN) > 0 for edge in (begin, until)):
        return None
    return round(counted.between(begin, until))


def paces(record: LineRecord) -> Iterator[Observed]:
    """How fast a line at its full pace was fed while its first station ran, quarter of an hour by quarter."""
    for run in record.plan.runs:
        product = record.scenario.product(run.product)
        first = product.piece_steps[0]
        counted = record.counts.get(first.station)
        if not product.formula or counted is None:
            continue
        finished = float(first.conversion) / first.yield_ / float(product.taken_per_finished[0]) / run.pace_share
        begin = (run.start_min // SLICE_MIN + 1) * SLICE_MIN
        until = min(run.start_min + run.feed_min, counted.at_min[-1])
        while begin + SLICE_MIN <= until:
            ends = begin + SLICE_MIN
            stood = sum(_shared((begin, ends), stretch) for stretch in _stretches(record, first.station))
            if begin >= counted.since_min and stood < SLICE_MIN / 2:
                per_h = MINUTES_PER_HOUR * counted.between(begin, ends) / (SLICE_MIN - stood)
                yield Observed("pace", run.product, None, record.moment(begin), per_h * finished)
            begin = ends


def _stretches(record: LineRecord, station: str) -> list[tuple[float, float]]:
    """When a station stood."""
    ends = record.watched[1] if record.watched else inf
    return [
        (one.from_min, ends if one.until_min is None else one.until_min)
        for one in record.stood
        if one.station == station
    ]


def _shared(one: tuple[float, float], other: tuple[float, float]) -> float:
    return max(0.0, min(one[1], other[1]) - max(one[0], other[0]))


def changes(record: LineRecord, passed: Passed) -> Iterator[Observed]:
    """How long stations took to be set anew: from when the run before had left them until they were found set up."""
    for find in record.finds:
        counted = record.counts.get(find.station)
        if not find.at_start or not find.good or counted is None:
            continue
        there = passed.get(find.station, ())
        pairs = [(one, then) for (one, _), (then, _) in pairwise(there) if then.id == find.run]
        kind = _what_changed(record.scenario, *pairs[0], find.station) if pairs else None
        since = counted.last_rise(find.at_min)
        if kind and since is not None and find.at_min > since:
            yield Observed(kind, None, find.station, record.moment(find.at_min), find.at_min - since)


def _what_changed(scenario: Scenario, one: Run, then: Run, station: str) -> Kind | None:
    """What is set anew between two runs where it is one thing alone: a tool, or a belt's speed and climate."""
    was = _step_at(scenario.dwelling(one.product, one.dwell_min), station)
    wanted = _step_at(scenario.dwelling(then.product, then.dwell_min), station)
    if isinstance(was, RateStep) and isinstance(wanted, RateStep):
        return "tool change" if wanted.tool not in {None, was.tool} else None
    if not isinstance(was, ConveyorStep) or not isinstance(wanted, ConveyorStep):
        return None
    warm = (was.temperature_c, was.zone_c) == (wanted.temperature_c, wanted.zone_c)
    set_anew = (was.dwell_min, was.humidity_pct) != (wanted.dwell_min, wanted.humidity_pct)
    return "belt set" if warm and set_anew else None


def stands(record: LineRecord, passed: Passed) -> Iterator[Observed]:
    """How long each station ran for itself, and how long each of its own stops lasted.

    Of the first kind `value` is the time that it was watched, and `lost` how often it stopped in it.
    """
    if record.watched is None:
        return
    line = record.scenario.line(record.plan.line)
    pieces = [station for station in line.stations if station.kind not in {"batch", "held"}]
    setting = _being_set(record, passed)
    for place, station in enumerate(pieces):
        behind = [other.id for other in pieces[place + 1 :]]
        hidden = _merged(
            (begin - EARLY_MIN, end)
            for other in behind
            for begin, end in (*_stretches(record, other), *setting.get(other, ()))
        )
        own = [
            (begin, end)
            for begin, end in _merged(_stretches(record, station.id))
            if begin > record.watched[0] and not any(since <= begin < until for since, until in hidden)
        ]
        begin, end = record.watched
        covered = _merged([*hidden, *_stretches(record, station.id)])
        ran = end - begin - sum(_shared((begin, end), stretch) for stretch in covered)
        yield Observed("stops", None, station.id, record.moment(end), ran, lost=len(own))
        for since, until in own:
            if until < end and not any(begins <= until < ends for begins, ends in hidden):
                yield Observed("stands", None, station.id, record.moment(since), until - since)


def _being_set(record: LineRecord, passed: Passed) -> dict[str, list[tuple[float, float]]]:
    """When stations may have been set anew between two runs, or waited for what comes to them first."""
    return {
        station: [
            (one.last_out, then.first_out)
            for (first, one), (second, then) in pairwise(there)
            if one.last_out < then.first_out and _is_set_anew(record.scenario, first, second, station)
        ]
        for station, there in passed.items()
    }


def _is_set_anew(scenario: Scenario, one: Run, then: Run, station: str) -> bool:
    was = _step_at(scenario.dwelling(one.product, one.dwell_min), station)
    wanted = _step_at(scenario.dwelling(then.product, then.dwell_min), station)
    known = isinstance(scenario.line(one.line).piece_station(station), ConveyorStation) or isinstance(was, RateStep)
    return known and was != wanted


def _merged(stretches: Iterable[tuple[float, float]]) -> list[tuple[float, float]]:
    """Stretches in order, those that touch as one."""
    found: list[tuple[float, float]] = []
    for begin, end in sorted(stretches):
        if found and begin <= found[-1][1]:
            found[-1] = found[-1][0], max(found[-1][1], end)
        else:
            found.append((begin, end))
    return found
