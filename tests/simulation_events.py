"""The same line as a simulation of events, by SimPy: belts that stand and run, parcels that wait, stay and go on."""

from collections.abc import Generator
from math import exp, inf
from random import Random
from typing import Any

import simpy

from rundgang.core.simulation.days import LEAST_BETWEEN_MIN
from rundgang.core.simulation.model import LineModel

Process = Generator[Any, Any, Any]
TINY = 1e-9


class Station:
    """It runs but for the reasons there are to stand."""

    def __init__(self, env: simpy.Environment) -> None:
        self.env, self.reasons, self.changed = env, 0, env.event()

    def because(self, more: int) -> None:
        """One reason more, or less, to stand."""
        before = self.reasons > 0
        self.reasons += more
        if (self.reasons > 0) != before:
            self.changed.succeed()
            self.changed = self.env.event()

    def stops(self, numbers: Random, every: float, median: float, spread: float) -> Process:
        """It stops now and then."""
        while every < inf:
            yield self.env.timeout(LEAST_BETWEEN_MIN + numbers.expovariate(1 / every))
            self.because(1)
            yield self.env.timeout(median * exp(spread * numbers.gauss(0, 1)))
            self.because(-1)

    def runs(self) -> Process:
        """Until it runs."""
        while self.reasons:
            yield self.changed

    def stays(self, minutes: float) -> Process:
        """Until it has run for so long."""
        while minutes > TINY:
            yield from self.runs()
            since = self.env.now
            yield self.env.timeout(minutes) | self.changed
            minutes -= self.env.now - since


class Day:
    """A day of a line without stores, on which nothing is carried."""

    def __init__(self, model: LineModel, numbers: Random) -> None:
        self.model, self.numbers, self.env = model, numbers, simpy.Environment()
        self.stations = [Station(self.env) for _ in model.stations]
        self.last_in = [self.env.event() for _ in model.passes]
        self.last_out = [self.env.event() for _ in model.passes]
        self.tails = [self.env.event() for _ in model.passes]
        self.ends_min, self.lost = [0.0] * len(model.legs), [0] * len(model.legs)

    def run(self) -> "Day":
        """All of it."""
        for station, (every, median, spread) in zip(self.stations, self.model.chances, strict=True):
            self.env.process(station.stops(self.numbers, every, median, spread))
        legs = [self.env.process(self._leg(leg)) for leg in range(len(self.model.legs))]
        self.env.run(until=simpy.AllOf(self.env, legs))
        return self

    def _leg(self, leg: int) -> Process:
        _, __, ___, ____, first, count, parcels = self.model.legs[leg]
        begins, fed, white = self.model.leg_times[leg]
        late, late_spread, pace_spread, _ = self.model.spreads
        lasts = fed / parcels / exp(pace_spread * self.numbers.gauss(0, 1))
        late_min = late * exp(late_spread * self.numbers.gauss(0, 1))
        if self.model.passes[first, 1] >= 0:
            yield self.last_in[self.model.passes[first, 1]]
            yield self.env.timeout(white)
        yield self.env.timeout(max(0.0, begins + late_min - self.env.now))
        ways, divider = [], self.stations[self.model.passes[first, 0]]
        for parcel in range(parcels):
            fed_in = self.env.event()
            ways.append(self.env.process(self._parcel(leg, first, count, parcel, parcels, lasts, fed_in)))
            yield fed_in
            yield from divider.stays(lasts)
        yield simpy.AllOf(self.env, ways)

    def _parcel(
        self, leg: int, first: int, count: int, parcel: int, parcels: int, lasts: float, fed_in: simpy.Event
    ) -> Process:  # fmt: skip
        behind, is_lost = None, False
        for one in range(first, first + count):
            number, before, empties = self.model.passes[one]
            stays, _, white, bears = self.model.pass_times[one]
            station = self.stations[number]
            if behind:
                behind.because(1)
            if parcel == 0 and before >= 0:
                since = yield (self.last_out if empties else self.last_in)[before]
                spread = exp(self.model.spreads[3] * self.numbers.gauss(0, 1)) if empties else 1.0
                yield self.env.timeout(max(0.0, since + white * spread - self.env.now))
            if parcel > 0:
                yield self.tails[one]
            self.tails[one] = self.env.event()
            yield from station.runs()
            if behind:
                behind.because(-1)
            if one == first:
                fed_in.succeed()
            into = self.env.now
            self.env.process(self._told(station, lasts, self.tails[one]))
            if parcel == parcels - 1:
                self.env.process(self._told(station, lasts, self.last_in[one]))
            yield from station.stays(stays)
            is_lost = is_lost or self.env.now - into > stays + bears + 1e-6
            if parcel == parcels - 1:
                self.env.process(self._told(station, lasts, self.last_out[one]))
            behind = station
        self.lost[leg] += is_lost
        if parcel == parcels - 1:
            yield from station.stays(lasts)
            self.ends_min[leg] = self.env.now

    def _told(self, station: Station, lasts: float, passed: simpy.Event) -> Process:
        yield from station.stays(lasts)
        passed.succeed(self.env.now)
