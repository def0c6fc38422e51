"""The simulated plant as a whole: all lines, by all plans that were ever published, and what its instruments read.

When a plan is published, what has begun goes on, perhaps to another end, and all else is forgotten for what the plan
says. Time is counted in minutes from the moment that the plant began.
"""

from collections.abc import Iterable, Iterator
from datetime import datetime
from math import exp

from rundgang.core.floor.instruments import Signal, signals_of
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep
from rundgang.core.kinds.parts import DwellStep
from rundgang.core.kinds.rate import cut_out_of
from rundgang.core.planning.model import LinePlan
from rundgang.core.products import Product
from rundgang.core.scenario import Scenario
from rundgang.instruments.simulated.chance import SPREAD_SHARE, Chance
from rundgang.instruments.simulated.line import Feed, Passed, Worked, worked, zones_of

ROOM_C, ROOM_PCT = 22.0, 55.0
"""What is neither heated nor cooled is as warm as the hall, °C, and what is not kept humid as humid, %."""

COOLS_IN_MIN = 45.0
"""An oven without heat is nearer to the hall's temperature by a factor e after so long, min."""

HEATS_IN_MIN = 12.0
"""And nearer to what it is set to, once it is heated again, min."""

DOUGH_SPREAD_C = 0.6
"""A dough is off its temperature by so much, by one standard deviation, °C."""

SPREAD_C, SPREAD_PCT = 0.5, 1.2
"""What an instrument reads is off by so much, by one standard deviation."""


class SimulatedPlant:
    """A plant at work.

    Parameters
    ----------
    began : datetime
        When its counters stood at nothing.
    chance : Chance

    Attributes
    ----------
    on_scales : dict of (str, str) to float
        What lies on the scale of each mixing station, by line and station, g; whoever weighs puts it there.
    """

    def __init__(self, began: datetime, chance: Chance) -> None:
        self.began, self.chance = began, chance
        self.signals: tuple[Signal, ...] = ()
        self.on_scales = dict[tuple[str, str], float]()
        self._scenario: Scenario | None = None
        self._feeds = dict[str, list[Feed]]()
        self._lines = dict[str, Worked]()

    def minute(self, at: datetime) -> float:
        """A moment by the plant's own count, min."""
        return (at - self.began).total_seconds() / 60

    def publish(self, scenario: Scenario, plans: Iterable[LinePlan], at: datetime) -> None:
        """Let people work by plans from a moment on."""
        self._scenario, self.signals = scenario, signals_of(scenario)
        shift, now = self.minute(scenario.window.starts_at), self.minute(at)
        for plan in plans:
            feeds = [*self._kept(plan, now), *self._new(scenario, plan, shift, now)]
            self._feeds[plan.line] = feeds
            self._lines[plan.line] = worked(scenario.line(plan.line), feeds, self.chance)

    def _kept(self, plan: LinePlan, now: float) -> Iterator[Feed]:
        """What has begun on a line by now, to the end that its plan says; no less than what has been fed."""
        begun = self._begun(plan.line, now)
        planned = {run.id: run for run in plan.runs}
        for feed in self._feeds.get(plan.line, []):
            if feed.run.id not in begun:
                continue
            from_min, until_min = begun[feed.run.id]
            run, fed = planned.get(feed.run.id), (now - from_min) / (until_min - from_min) * feed.pieces
            same = run is not None and run.product == feed.run.product and until_min > now
            yield feed._replace(pieces=max(run.pieces, int(fed))) if run and same else feed

    def _new(self, scenario: Scenario, plan: LinePlan, shift: float, now: float) -> Iterator[Feed]:
        begun = self._begun(plan.line, now)
        for run in sorted(plan.runs, key=lambda run: run.start_min):
            if run.id not in begun:
                product = scenario.dwelling(run.product, run.dwell_min)
                yield Feed(run, product, shift, run.pieces, _cut_of(scenario, product))

    def _begun(self, line: str, now: float) -> dict[str, tuple[float, float]]:
        """The runs that a line has begun, each with when it began and is fed to its end."""
        at_work = self._lines.get(line)
        return {name: times for name, times in at_work.begun.items() if times[0] <= now} if at_work else {}

    def work_of(self, line: str) -> Worked:
        """A line at work."""
        return self._lines[line]

    def count(self, line: str, station: str, minute: float) -> int:
        """How many pieces, or doughs, have left a station by a moment."""
        at_work = self._lines[line]
        if station in at_work.passed:
            return at_work.passed[station].count_at(minute)
        return sum(dough.until_min <= minute for dough in at_work.doughs if dough.mixer in self._mixers(line, station))

    def readings(self, minute: float) -> Iterator[tuple[Signal, float]]:
        """What every instrument reads at a moment; nothing where it has nothing to read."""
        for signal in self.signals:
            value = self._reading(signal, minute)
            if value is not None:
                yield signal, value

    def _reading(self, signal: Signal, minute: float) -> float | None:
        if signal.line not in self._lines:
            return None
        passed = self._lines[signal.line].passed.get(signal.station)
        if passed:
            return self._read(signal, passed, minute)
        match signal.quantity:
            case "count":
                return float(self.count(signal.line, signal.station, minute))
            case "weight":
                return self.on_scales.get((signal.line, signal.station), 0.0)
            case "temperature":
                return self._dough_c(signal, minute)
            case _:
                return float(self._is_mixing(signal, minute))

    def _read(self, signal: Signal, passed: Passed, minute: float) -> float:
        match signal.quantity:
            case "count":
                return float(passed.count_at(minute))
            case "state":
                return float(not passed.standing.stands_at(minute))
            case "speed":
                return _speed(passed, minute)
            case "temperature":
                return self._temperature(signal, passed, minute)
            case "humidity":
                return self._humidity(signal, passed, minute)
            case "weight":
                return self._weight(signal, passed, minute)

    def _mixers(self, line: str, station: str) -> tuple[str, ...]:
        assert self._scenario  # noqa: S101  (there are no lines before a plan is published)
        return self._scenario.line(line).mixers(station).mixers

    def _is_mixing(self, signal: Signal, minute: float) -> bool:
        """Whether a mixer of a station runs, or the one of several that is meant."""
        mixers = self._mixers(signal.line, signal.station)
        meant = mixers[signal.zone - 1 : signal.zone] if signal.zone else mixers
        at_work = self._lines[signal.line].doughs
        return any(dough.from_min <= minute < dough.until_min for dough in at_work if dough.mixer in meant)

    def _dough_c(self, signal: Signal, minute: float) -> float:
        """What the probe at the mixers reads: the dough that has come out last; in the hall before the first."""
        mixers, out = self._mixers(signal.line, signal.station), self._lines[signal.line].doughs
        done = [dough for dough in out if dough.until_min <= minute and dough.mixer in mixers]
        last = max(done, key=lambda dough: dough.until_min, default=None)
        if last is None:
            return ROOM_C
        return last.wanted_c + DOUGH_SPREAD_C * self.chance.noise(last.until_min, signal.path)

    def _temperature(self, signal: Signal, passed: Passed, minute: float) -> float:
        wanted = _wanted_c(passed, signal.zone, minute)
        off = SPREAD_C * self.chance.noise(minute, signal.path)
        for stop in reversed(passed.stops):
            if stop.fails == "heat" and stop.from_min <= minute:
                cold = ROOM_C + (wanted - ROOM_C) * exp(-(min(minute, stop.until_min) - stop.from_min) / COOLS_IN_MIN)
                warm = max(0.0, minute - stop.until_min) / HEATS_IN_MIN
                return wanted + (cold - wanted) * exp(-warm) + off
        return wanted + off

    def _humidity(self, signal: Signal, passed: Passed, minute: float) -> float:
        found = passed.set_at(minute) or (passed.sets[0] if passed.sets else None)
        set_to = found.step.humidity_pct if found and isinstance(found.step, DwellStep) else None
        wanted = ROOM_PCT if set_to is None else set_to
        return min(100.0, max(0.0, wanted + SPREAD_PCT * self.chance.noise(minute, signal.path)))

    def _weight(self, signal: Signal, passed: Passed, minute: float) -> float:
        """What the scale behind the divider shows: nothing before the first run."""
        found = passed.set_at(minute)
        if found is None:
            return 0.0
        grams = found.product.scaling_g
        off = self.chance.off_g(signal.line, grams, minute)
        return max(0.0, grams + off + SPREAD_SHARE * grams * self.chance.noise(minute, signal.path))


def _wanted_c(passed: Passed, zone: int, minute: float) -> float:
    """What a station, or one of its zones, is set to; before its first run to what that needs."""
    found = passed.set_at(minute) or (passed.sets[0] if passed.sets else None)
    if found and isinstance(found.step, ConveyorStep):
        zones = zones_of(found.step)
        return zones[min(max(zone, 1), len(zones)) - 1] if zones else ROOM_C
    wanted = found.step.temperature_c if found and isinstance(found.step, DwellStep) else None
    return ROOM_C if wanted is None else wanted


def _speed(passed: Passed, minute: float) -> float:
    found, station = passed.set_at(minute), passed.station
    if passed.standing.stands_at(minute) or not found:
        return 0.0
    if isinstance(station, ConveyorStation) and isinstance(found.step, ConveyorStep):
        return station.length_m / found.step.dwell_min
    return 0.0


def _cut_of(scenario: Scenario, product: Product) -> Product | None:
    """What is cut out of a product's pieces and sold."""
    sold = [cut.product for step in product.piece_steps if (cut := cut_out_of(step)) and cut.product]
    return scenario.product(sold[0]) if sold else None
