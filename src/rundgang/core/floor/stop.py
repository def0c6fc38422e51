"""A stop: a station that stands, from when, and for how long; times in minutes from the window's start."""

from typing import Literal

from pydantic import Field, model_validator

from rundgang.core.kinds.parts import Standstill
from rundgang.core.model import Id, Model, PositiveMinutes

A_MOMENT_MIN = 1e-6
"""A limit passed by less than this is kept: moments are sums of floats, min."""

LONGEST_STOOD_MIN = 720.0
"""A stop may have begun so long ago, min."""


class Guess(Model):
    """How long a stop may still last: at least, as it seems, and at most, min."""

    low_min: PositiveMinutes
    likely_min: PositiveMinutes
    high_min: PositiveMinutes


GUESSES = (
    Guess(low_min=2, likely_min=8, high_min=20),
    Guess(low_min=8, likely_min=20, high_min=55),
    Guess(low_min=20, likely_min=55, high_min=120),
)
"""Where nobody knows: a jam cleared, a part changed, a repair (common practice, no published source)."""

FIRST_GUESS = 1
"""Which of the guesses a stop is taken for at first."""

OF_STOPS = ((0.1, 0.25, 0.5), (0.25, 0.5, 0.8), (0.5, 0.9, 0.97))
"""Where it is known how long a station stands: of its stops so many are no longer, for a guess's three durations."""


def guesses_of(stands: Standstill | None) -> tuple[Guess, ...]:
    """For how long a station may stand, whole minutes: by its own stops where these are known, or as is usual."""
    if stands is None:
        return GUESSES
    found, least = [], 0
    for low, likely, high in OF_STOPS:
        least = max(least + 1, round(stands.shorter_than_min(likely)))
        found.append(
            Guess(
                low_min=min(least, max(1, round(stands.shorter_than_min(low)))),
                likely_min=least,
                high_min=max(least, round(stands.shorter_than_min(high))),
            )
        )
    return tuple(found)


class Stop(Model):
    """A station that stands, from when, and for how long: at least, as it seems, and at most.

    Attributes
    ----------
    fails : {"drive", "heat"}
        What has failed: without drive an oven bakes on what is in it; without heat it lets through what is pale.
    told_min : float or None
        When the dough room gets to know it: what it has begun by then is mixed; None: as it begins.
    """

    line: Id
    station: Id
    from_min: float = Field(ge=0, le=10_080)
    low_min: PositiveMinutes
    likely_min: PositiveMinutes
    high_min: PositiveMinutes
    fails: Literal["drive", "heat"] = "drive"
    told_min: float | None = Field(default=None, ge=0, le=10_080)

    @model_validator(mode="after")
    def _in_order(self) -> "Stop":
        if not self.low_min <= self.likely_min <= self.high_min:
            raise ValueError(
                f"low_min, likely_min and high_min are {self.low_min:g}, {self.likely_min:g} and {self.high_min:g}; "
                "allowed: each at least the one before"
            )
        return self

    @property
    def known_min(self) -> float:
        """When it is known, min."""
        return max(self.from_min, self.told_min or 0)

    @property
    def durations(self) -> tuple[float, float, float]:
        """Low, likely and high, min."""
        return self.low_min, self.likely_min, self.high_min
