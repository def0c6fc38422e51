"""What the check says of a plan: one broken rule, and the slack that rounding is allowed."""

from rundgang.core.model import Model

SLACK_MIN = 1e-3
"""Differences below this, 60 ms, come from rounding in a stored plan, min."""

SLACK_SHARE = 1e-6
"""Relative slack on rates and weights."""


class Violation(Model):
    """One broken rule.

    Attributes
    ----------
    run, station : str
        Where; the station may be a mixer, the divider, a lorry, or empty for the run as a whole.
    minutes : float
        By how much, min; 0 where the fault is not one of time.
    """

    run: str
    station: str
    minutes: float
    text: str

    def __str__(self) -> str:
        where = f"{self.run} at {self.station}" if self.station else self.run
        return f"{where}: {self.text}" + (f" ({self.minutes:.1f} min)" if self.minutes else "")


def fault(run: str, station: str, text: str, minutes: float = 0) -> Violation:
    """A broken rule of a run."""
    return Violation(run=run, station=station, minutes=minutes, text=text)
