"""What cannot be foreseen in the simulated plant: stops, delays of people, drift and spread, all from a seed.

Each is drawn by the name of what it happens to, so that it is the same however often and in whichever order it is
asked for. All figures are invented.

A plant may stray: its machines are then a little otherwise than its library says, as those of every plant are, and what
it loses it loses piece by piece, by chance.
"""

from collections.abc import Iterator
from math import exp, log, log1p
from random import Random
from typing import Literal, NamedTuple

BETWEEN_STOPS_MIN = 720.0
"""A station's mean time between two stops, min."""

LEAST_BETWEEN_MIN = 20.0
"""Behind a stop, a station runs at least so long, min."""

STANDS_MEDIAN_MIN, STANDS_SPREAD = 5.0, 0.9
"""How long a stop lasts: the median, min, and the spread of its logarithm."""

HEAT_SHARE = 0.3
"""Of an oven's stops, so many are of its heat, not of its drive."""

LATE_MEDIAN_MIN, LATE_SPREAD = 0.6, 0.8
"""How late people begin a run: the median, min, and the spread of its logarithm."""

DRIFT_G_PER_H = 0.25
"""How a divider drifts, by one standard deviation, for a piece of 100 g, g/h."""

SPREAD_SHARE = 0.008
"""A piece's weight, by one standard deviation, of what it should be."""

SET_RIGHT_MIN = 150.0
"""A divider is set right again after so long, min."""

LOSSES, PACE, CHANGES, STOPS = 0.3, 0.03, 0.25, 0.3
"""How far a plant strays, by one standard deviation of the logarithm."""

PACE_SPREAD, CHANGE_SPREAD = 0.006, 0.1
"""How far apart quarters of an hour and changes are, by one standard deviation."""

Fails = Literal["drive", "heat"]


class Stop(NamedTuple):
    """A stop of a station, min, and what fails."""

    from_min: float
    until_min: float
    fails: Fails


class Chance:
    """What happens by chance.

    Parameters
    ----------
    seed : int
    stops : bool
        Whether stations stop at all.
    strays : bool
        Whether the plant is a little otherwise than its library says.
    """

    def __init__(self, seed: int, stops: bool = True, strays: bool = False) -> None:
        self.seed, self.has_stops, self.strays = seed, stops, strays

    def of(self, *names: object) -> Random:
        """Numbers for something by its names."""
        return Random("/".join(map(str, (self.seed, *names))))  # noqa: S311  (chance, no secret)

    def stops(self, line: str, station: str, heated: bool, until_min: float) -> Iterator[Stop]:
        """The stops of a station from the beginning up to a moment."""
        numbers, at = self.of("stops", line, station), 0.0
        while self.has_stops:
            at += LEAST_BETWEEN_MIN + numbers.expovariate(1 / self.between_min(line, station))
            lasts = self.stands_min(line, station) * exp(numbers.gauss(0, STANDS_SPREAD))
            fails: Fails = "heat" if numbers.random() < HEAT_SHARE and heated else "drive"
            if at > until_min:
                return
            yield Stop(at, at + lasts, fails)
            at += lasts

    def late_min(self, line: str, run: str) -> float:
        """How late people begin a run, min."""
        return LATE_MEDIAN_MIN * exp(self.of("late", line, run).gauss(0, LATE_SPREAD))

    def off_g(self, line: str, grams: float, minute: float) -> float:
        """How far a divider's pieces are from what they should weigh, in the mean, g."""
        period, into = divmod(minute, SET_RIGHT_MIN)
        per_h = self.of("drift", line, int(period)).gauss(0, DRIFT_G_PER_H) * grams / 100
        return per_h * into / 60

    def noise(self, minute: float, *names: object) -> float:
        """A standard normal number of a moment, one of a tenth of a minute."""
        return self.of("noise", *names, int(minute * 10)).gauss(0, 1)

    def between_min(self, line: str, station: str) -> float:
        """A station's mean time between two stops, beyond the least, min."""
        return BETWEEN_STOPS_MIN * self.strayed(STOPS, "between", line, station)

    def stands_min(self, line: str, station: str) -> float:
        """How long its stops last in the median, min."""
        return STANDS_MEDIAN_MIN * self.strayed(STOPS, "stands", line, station)

    def good_share(self, station: str, product: str, said: float) -> float:
        """Of what comes to a station, the share that leaves it good."""
        return 1 - (1 - said) * self.strayed(LOSSES, "losses", station, product)

    def pace(self, product: str, minute: float) -> float:
        """How fast a product is fed in a quarter of an hour, of what its plan says."""
        if not self.strays:
            return 1.0
        spread = self.of("pace", product, int(minute // 15)).gauss(0, PACE_SPREAD)
        return self.pace_of(product) * (1 + spread)

    def pace_of(self, product: str) -> float:
        """How fast a product is fed in the mean, of what its plan says."""
        return self.strayed(PACE, "pace", product)

    def change_of(self, station: str, said_min: float) -> float:
        """How long it takes to set a station anew, in the median, min."""
        return said_min * self.strayed(CHANGES, "change", station)

    def change_min(self, station: str, run: str, said_min: float) -> float:
        """How long it takes to set a station anew for a run, min."""
        spread = exp(self.of("change", station, run).gauss(0, CHANGE_SPREAD)) if self.strays else 1.0
        return self.change_of(station, said_min) * spread

    def lost(self, good_share: float, *names: object) -> Iterator[float]:
        """Which pieces of those that come are lost, each by itself: how many have come with each that is."""
        numbers, come = self.of("lost", *names), 0.0
        while good_share < 1:
            come += 1 + int(log(1 - numbers.random()) / log1p(good_share - 1))
            yield come

    def strayed(self, spread: float, *names: object) -> float:
        """By which factor a plant is otherwise than its library says, whatever happens in it."""
        own = Random("/".join(map(str, ("strays", self.seed, *names))))  # noqa: S311  (chance, no secret)
        return exp(own.gauss(0, spread)) if self.strays else 1.0
