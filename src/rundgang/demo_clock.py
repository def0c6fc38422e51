"""The demo's clock: it begins in the first night, so that lines are at work, and goes on from start to start."""

import json
import os
from datetime import UTC, date, datetime, time
from pathlib import Path
from zoneinfo import ZoneInfo

from rundgang.demo.lorries import TIME_ZONE
from rundgang.settings import Settings

FIRST = time(0, 40)
"""What it shows when the demo is started for the first time: all lines are at work then, or about to be."""

FILE = "demo-clock.json"


def by_demo_clock(settings: Settings, first: date, reset: bool) -> Settings:
    """The settings with the demo's clock, for all processes; as they are where they name a clock or a database.

    Parameters
    ----------
    first : date
        Of the demo's first lorries.
    reset : bool
        Whether the demo begins anew.
    """
    if settings.clock_shows or settings.database_url:
        return settings
    file = settings.home / FILE
    if reset or not file.is_file():
        _begin(file, first)
    said = json.loads(file.read_text())
    os.environ.update({"RUNDGANG_CLOCK_SHOWS": said["shows"], "RUNDGANG_CLOCK_AT": said["at"]})
    return Settings()


def _begin(file: Path, first: date) -> None:
    shows = datetime.combine(first, FIRST, ZoneInfo(TIME_ZONE))
    file.parent.mkdir(parents=True, exist_ok=True)
    file.write_text(json.dumps({"shows": shows.isoformat(), "at": datetime.now(UTC).isoformat()}) + "\n")
