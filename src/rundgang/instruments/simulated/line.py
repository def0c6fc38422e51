"""How pieces go down a line: parcels of a minute's feed, one behind the other, through every station.

A parcel stays at a station as long as its step says, counted while the station runs. Where the next one does not take
it, the station holds all that is on it; so what stands holds up all that is before it, belt by belt, back to the
divider, and the mixers. What has stayed longer than it bears is taken out behind the station.
"""

from bisect import bisect_right
from collections.abc import Iterator, Sequence
from math import ceil, floor, inf
from typing import NamedTuple

from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep
from rundgang.core.kinds.every import PieceStation, PieceStep
from rundgang.core.kinds.held import HeldStation, HeldStep
from rundgang.core.kinds.load import LoadStep
from rundgang.core.kinds.parts import DwellStep
from rundgang.core.kinds.rate import RateStation, RateStep, cut_out_of
from rundgang.core.planning.model import Run
from rundgang.core.plant import Line
from rundgang.core.products import Product
from rundgang.instruments.simulated.chance import Chance, Stop
from rundgang.instruments.simulated.standing import Standing

PARCEL_MIN = 1.0
"""A parcel is what is fed in so long, min."""

ROUNDING = 1e-6
"""So many pieces may be lost by adding floats."""

FAR_MIN = 10_080.0
"""Stops are drawn so far behind what the plans say, min."""


class Feed(NamedTuple):
    """A run as people have it to make.

    Attributes
    ----------
    product, cut : Product, Product or None
        As it is made, with the times of its run; and what is cut out of it and sold.
    shift_min : float
        From the minutes of its plan to those of the simulated plant.
    pieces : int
        What is fed of it: less than planned where it is cut short.
    """

    run: Run
    product: Product
    shift_min: float
    pieces: int
    cut: Product | None = None

    @property
    def planned_min(self) -> float:
        """When it is to begin."""
        return self.run.start_min + self.shift_min


class Out(NamedTuple):
    """A parcel leaves a station: from when on, how long that takes while it runs, min, and how many are out then."""

    from_min: float
    lasts_min: float
    total: int


class Set(NamedTuple):
    """What a station is set to from a moment on, and what passes it."""

    from_min: float
    run: str
    product: Product
    step: PieceStep


class Passed:
    """What has passed a station, and will."""

    def __init__(self, station: PieceStation, stops: Sequence[Stop]) -> None:
        self.station, self.stops = station, tuple(stops)
        self.standing = Standing((stop.from_min, stop.until_min) for stop in stops)
        self.outs, self.sets = list[Out](), list[Set]()

    @property
    def total(self) -> int:
        """All that leaves it."""
        return self.outs[-1].total if self.outs else 0

    def count_at(self, minute: float) -> int:
        """How many have left it by a moment."""
        place = bisect_right(self.outs, minute, key=lambda out: out.from_min) - 1
        if place < 0:
            return 0
        out, before = self.outs[place], self.outs[place - 1].total if place else 0
        share = min(1.0, self.standing.ran(out.from_min, minute) / out.lasts_min)
        return before + floor((out.total - before) * share + ROUNDING)

    def set_at(self, minute: float) -> Set | None:
        """What it is set to at a moment; None before its first run."""
        place = bisect_right(self.sets, minute, key=lambda found: found.from_min) - 1
        return self.sets[place] if place >= 0 else None


class MixerWork(NamedTuple):
    """A dough: from when until when it is in which mixer, min, and how warm it should be then, °C."""

    mixer: str
    from_min: float
    until_min: float
    wanted_c: float


class Change(NamedTuple):
    """A station is set anew for a run, from when the run before has left it until it is set, min."""

    station: str
    run: str
    from_min: float
    until_min: float


class Worked(NamedTuple):
    """A line at work: what has passed each station, the doughs, and when each run was begun and fed to its end, min.

    And when its stations were set anew.
    """

    passed: dict[str, Passed]
    doughs: tuple[MixerWork, ...]
    begun: dict[str, tuple[float, float]]
    changes: tuple[Change, ...]


class _Parcel(NamedTuple):
    """Pieces together.

    Attributes
    ----------
    at_min, lasts_min : float
        When the first of them comes, and how long they take to pass, min.
    into : float
        Which share of their run has been fed before them.
    """

    at_min: float
    lasts_min: float
    pieces: float
    into: float


def worked(line: Line, feeds: Sequence[Feed], chance: Chance) -> Worked:
    """A line that works through runs, in their order."""
    until = max((feed.planned_min for feed in feeds), default=0.0) + FAR_MIN
    passed = {
        station.id: Passed(station, tuple(chance.stops(line.id, station.id, _is_heated(station), until)))
        for station in line.piece_stations
    }
    doughs, begun, free = list[MixerWork](), dict[str, tuple[float, float]](), dict[str, float]()
    changes = list[Change]()
    for feed in feeds:
        late = chance.late_min(line.id, feed.run.id)
        first = feed.product.piece_steps[0].station
        ready = free[first] + feed.run.changeover_min if first in free else 0.0
        changes += _changes(feed, passed, chance)
        set_anew = {change.station: change.until_min for change in changes if change.run == feed.run.id}
        parcels = _fed(feed, passed, chance, set_anew, max(feed.planned_min + late, ready))
        doughs.extend(_mixed(feed, parcels))
        free[first] = parcels[-1].at_min + parcels[-1].lasts_min
        begun[feed.run.id] = parcels[0].at_min, free[first]
    return Worked(passed, tuple(doughs), begun, tuple(changes))


def _changes(feed: Feed, passed: dict[str, Passed], chance: Chance) -> Iterator[Change]:
    """The stations that are set anew for a run, for what is cut out of it too."""
    for product in (feed.product, *((feed.cut,) if feed.cut else ())):
        for step in product.piece_steps:
            there = passed[step.station]
            needed = _needed_min(there, step)
            if needed:
                out = there.standing.after(there.outs[-1].from_min, there.outs[-1].lasts_min)
                yield Change(step.station, feed.run.id, out, out + chance.change_min(step.station, feed.run.id, needed))


def _is_heated(station: object) -> bool:
    return isinstance(station, ConveyorStation) and station.heating_c_per_min is not None


def _fed(
    feed: Feed, passed: dict[str, Passed], chance: Chance, set_anew: dict[str, float], start: float
) -> list[_Parcel]:  # fmt: skip
    """Feed a run from a moment on, at its pace while the first station runs, and send each parcel down the line."""
    minutes = 60 * feed.pieces / feed.run.scaled_per_h
    count = max(1, ceil(minutes / PARCEL_MIN))
    way = _Way(feed.product, feed, passed, chance, set_anew)
    first, at, parcels = passed[feed.product.piece_steps[0].station].standing, start, list[_Parcel]()
    for number in range(count):
        lasts = minutes / count / chance.pace(feed.product.listed_id, at)
        parcels.append(_Parcel(first.runs_from(at), lasts, feed.pieces / count, number / count))
        way.take(parcels[-1])
        at = first.after(parcels[-1].at_min, lasts)
    return parcels


class _Way:
    """The stations that a run's pieces, or those cut out of them, pass, and how many have passed each so far."""

    def __init__(
        self, product: Product, feed: Feed, passed: dict[str, Passed], chance: Chance, set_anew: dict[str, float]
    ) -> None:  # fmt: skip
        self.product, self.feed, self.steps = product, feed, product.piece_steps
        self.there = [passed[step.station] for step in self.steps]
        self.ready = [set_anew.get(step.station, 0.0) for step in self.steps]
        self.before = [there.total for there in self.there]
        self.made = [0.0] * len(self.steps)
        self.good = [Good(chance, feed.run.id, product.listed_id, step) for step in self.steps]
        self.cut = _Way(feed.cut, feed, passed, chance, set_anew) if feed.cut and product is feed.product else None
        legs = iter(feed.run.later_legs)
        self.legs = [next(legs, None) if _ends_leg(step) else None for step in self.steps]

    def take(self, parcel: _Parcel) -> None:
        """Send a parcel from the first station to the last; what does not take it holds up what it comes from."""
        first, last, at = not any(self.made), len(self.steps) - 1, parcel.at_min
        lasts, pieces = parcel.lasts_min, parcel.pieces
        for place, (step, there) in enumerate(zip(self.steps, self.there, strict=True)):
            into = there.standing.runs_from(max(at, self.ready[place]) if first else at)
            if place and not isinstance(self.steps[place - 1], HeldStep):
                left = self.there[place - 1].outs[-1].from_min
                self.there[place - 1].standing.add(left, left + into - at)
            if first:
                there.sets.append(Set(into, self.feed.run.id, self.product, step))
            stays = _stay_min(step, there.station)
            left = there.standing.after(into, stays)
            spoilt = left - into > stays + step.stands_min + PARCEL_MIN
            pieces = 0.0 if spoilt else self.good[place].of(pieces / float(step.conversion))
            self.made[place] += pieces
            total = self.before[place] + floor(self.made[place] + ROUNDING)
            there.outs.append(Out(left, lasts, total))
            at = left + there.station.transfer_min
            if self.cut and cut_out_of(step):
                self.cut.take(_Parcel(at, lasts, pieces, parcel.into))
            leg = self.legs[place]
            if leg and place < last:
                at = max(at, leg.start_min + self.feed.shift_min + parcel.into * leg.feed_min)
                lasts = parcel.lasts_min * leg.feed_min / self.feed.run.feed_min


class Good:
    """What leaves a step good of what comes to it: a share, evenly; of a plant that strays, all but single pieces."""

    def __init__(self, chance: Chance, run: str, product: str, step: PieceStep) -> None:
        self.share = chance.good_share(step.station, product, float(step.yield_))
        self.lost = chance.lost(self.share, run, step.station, product) if chance.strays and self.share < 1 else None
        self.come, self.next_lost = 0.0, next(self.lost) if self.lost else inf

    def of(self, pieces: float) -> float:
        """What is good of so many more."""
        if self.lost is None:
            return pieces * self.share
        self.come += pieces
        while self.next_lost <= self.come:
            pieces -= 1
            self.next_lost = next(self.lost)
        return pieces


def _ends_leg(step: PieceStep) -> bool:
    return isinstance(step, HeldStep | LoadStep)


def _stay_min(step: PieceStep, station: PieceStation) -> float:
    """How long a piece is there, min."""
    if isinstance(step, HeldStep):
        return step.least_min
    if isinstance(step, DwellStep):
        return step.dwell_min
    return station.pass_min if isinstance(station, RateStation) else 0.0


def _needed_min(there: Passed, step: PieceStep) -> float:
    """What a station needs to be set anew behind the run before, min; 0 where it need not be."""
    if not there.sets or not there.outs or isinstance(there.station, HeldStation):
        return 0.0
    last = there.sets[-1].step
    if last == step:
        return 0.0
    needed, station = 0.0, there.station
    if isinstance(last, RateStep) and isinstance(step, RateStep) and step.tool not in {None, last.tool}:
        needed = station.changeover.tool_change_min
    if isinstance(station, ConveyorStation) and isinstance(last, ConveyorStep) and isinstance(step, ConveyorStep):
        if (last.dwell_min, last.humidity_pct) != (step.dwell_min, step.humidity_pct):
            needed = max(needed, station.setup_min)
        for was, wanted in zip(zones_of(last), zones_of(step), strict=False):
            rate = station.heating_c_per_min if wanted > was else station.cooling_c_per_min
            needed = max(needed, abs(wanted - was) / rate if rate else 0.0)
    return needed


def zones_of(step: ConveyorStep) -> tuple[float, ...]:
    """The temperatures a belt is set to, °C; none where it is not heated or cooled."""
    return step.zone_c or (() if step.temperature_c is None else (step.temperature_c,))


def _mixed(feed: Feed, parcels: Sequence[_Parcel]) -> Iterator[MixerWork]:
    """The doughs of a run, each so much later than planned as its first piece is divided."""
    fed, pieces = 0.0, 0.0
    for batch in feed.run.batches:
        if pieces >= feed.pieces:
            return
        place = min(len(parcels) - 1, floor(fed * len(parcels) / feed.pieces))
        late = parcels[place].at_min - batch.divided_min
        if not batch.shared:
            wanted_c = feed.product.dough_temperature_c
            yield MixerWork(batch.mixer, batch.start_min + late, batch.discharged_min + late, wanted_c)
        fed, pieces = fed + batch.pieces, pieces + batch.pieces
