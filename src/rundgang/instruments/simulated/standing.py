"""When a station stands: stretches of time, and the clock of a belt that stops in them."""

from bisect import bisect_left, bisect_right
from collections.abc import Iterable

ROUNDING_MIN = 1e-6
"""So little is no time at all."""


class Standing:
    """Stretches in which a station stands, in order and apart, min.

    Parameters
    ----------
    stretches : iterable of (float, float)
        From and until, in order.
    """

    def __init__(self, stretches: Iterable[tuple[float, float]] = ()) -> None:
        self.begins, self.ends = list[float](), list[float]()
        for begin, end in stretches:
            self.add(begin, end)

    def add(self, begin: float, end: float) -> None:
        """It stands there too."""
        if end - begin <= ROUNDING_MIN:
            return
        first, behind = bisect_left(self.ends, begin), bisect_right(self.begins, end)
        if first < behind:
            begin, end = min(begin, self.begins[first]), max(end, self.ends[behind - 1])
        self.begins[first:behind], self.ends[first:behind] = [begin], [end]

    def stands_at(self, minute: float) -> bool:
        """Whether it stands at a moment."""
        place = bisect_right(self.begins, minute) - 1
        return place >= 0 and minute < self.ends[place]

    def runs_from(self, minute: float) -> float:
        """The first moment from one on at which it runs."""
        place = bisect_right(self.begins, minute) - 1
        return max(minute, self.ends[place]) if place >= 0 else minute

    def ran(self, begin: float, until: float) -> float:
        """How long it runs from a moment until another, min."""
        place, stood = bisect_right(self.ends, begin), 0.0
        while place < len(self.begins) and self.begins[place] < until:
            stood += min(until, self.ends[place]) - max(begin, self.begins[place])
            place += 1
        return until - begin - stood

    def after(self, minute: float, running_min: float) -> float:
        """When it has run for so long from a moment on."""
        at = self.runs_from(minute)
        place = bisect_left(self.begins, at)
        while place < len(self.begins) and self.begins[place] < at + running_min:
            running_min -= self.begins[place] - at
            at = self.ends[place]
            place += 1
        return at + running_min
