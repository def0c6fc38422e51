"""What cannot be foreseen in the simulated plant: stops, delays of people, drift and spread, all from a seed.

Each is drawn by the name of what it happens to, so that it is the same however often and in whichever order it is
asked for. All figures are invented.
"""

from collections.abc import Iterator
from math import exp
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
    """

    def __init__(self, seed: int, stops: bool = True) -> None:
        self.seed, self.has_stops = seed, stops

    def of(self, *names: object) -> Random:
        """Numbers for something by its names."""
        return Random("/".join(map(str, (self.seed, *names))))  # noqa: S311  (chance, no secret)

    def stops(self, line: str, station: str, heated: bool, until_min: float) -> Iterator[Stop]:
        """The stops of a station from the beginning up to a moment."""
        numbers, at = self.of("stops", line, station), 0.0
        while self.has_stops:
            at += LEAST_BETWEEN_MIN + numbers.expovariate(1 / BETWEEN_STOPS_MIN)
            lasts = STANDS_MEDIAN_MIN * exp(numbers.gauss(0, STANDS_SPREAD))
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
