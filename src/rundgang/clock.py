"""The deployment's one clock: the real time, or a simulated one that runs from a moment on, perhaps faster."""

from datetime import UTC, datetime
from typing import NamedTuple


class Clock(NamedTuple):
    """What time it is.

    Attributes
    ----------
    shows, at : datetime or None
        A simulated clock shows the one at the other, real moment; None where the clock is the real one.
    speed : float
        So many times as fast as the real time it runs on from there.
    """

    shows: datetime | None = None
    at: datetime | None = None
    speed: float = 1.0

    @property
    def is_simulated(self) -> bool:
        """Whether it shows another time than the real one."""
        return self.shows is not None

    def in_environment(self) -> dict[str, str]:
        """It as the settings of another process read it."""
        moments = {"RUNDGANG_CLOCK_SHOWS": self.shows, "RUNDGANG_CLOCK_AT": self.at}
        told = {name: moment.isoformat() for name, moment in moments.items() if moment}
        return {**told, "RUNDGANG_CLOCK_SPEED": str(self.speed)}

    def now(self) -> datetime:
        """The moment it shows, in UTC."""
        return self.shown_at(datetime.now(UTC))

    def shown_at(self, real: datetime) -> datetime:
        """What it shows at a real moment."""
        if self.shows is None:
            return real
        return self.shows + (real - (self.at or real)) * self.speed

    def minute_of(self, starts_at: datetime) -> float:
        """Minutes from a window's start until now; below 0 before it."""
        return (self.now() - starts_at).total_seconds() / 60
