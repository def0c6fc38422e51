"""The demo's clock: it begins in the first night, so that lines are at work, and goes on from start to start."""

import json
from datetime import UTC, datetime, timedelta
from pathlib import Path

from rundgang.clock import Clock

INTO_WINDOW = timedelta(hours=4, minutes=40)
"""So far into the demo's first window its clock begins: all lines are at work then, or about to be."""

FILE = "demo-clock.json"


def demo_clock(home: Path, starts_at: datetime, reset: bool) -> Clock:
    """The demo's clock, as it was begun at the first start.

    Parameters
    ----------
    home : Path
        Where it is kept.
    starts_at : datetime
        Of the window that the demo would begin with today.
    reset : bool
        Whether the demo begins anew.
    """
    file = home / FILE
    if reset or not file.is_file():
        file.parent.mkdir(parents=True, exist_ok=True)
        begun = {"shows": (starts_at + INTO_WINDOW).isoformat(), "at": datetime.now(UTC).isoformat()}
        file.write_text(json.dumps(begun) + "\n")
    said = json.loads(file.read_text())
    return Clock(datetime.fromisoformat(said["shows"]), datetime.fromisoformat(said["at"]))
