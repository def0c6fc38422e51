"""Moments as people write them in files: by ISO 8601, and as spreadsheets do in German, British or American order."""

import re
from collections.abc import Iterable
from datetime import datetime
from typing import Literal

DateOrder = Literal["day first", "month first"]
"""Of what stands before the year between slashes."""

POINTED = ("%d.%m.%Y %H:%M", "%d.%m.%Y, %H:%M", "%d.%m.%Y %H:%M:%S")
SLASHED = re.compile(
    r"(\d{1,2})[/-](\d{1,2})[/-](\d{4}|\d{2}),? +(\d{1,2}):(\d{2})(?::\d{2})?(?: *([AaPp])\.?[Mm]\.?)?"
)
DAY_ALONE = len("2026-01-01")
NOON = 12
CENTURY = 2_000


def moments(found: str) -> dict[DateOrder, datetime] | datetime | None:
    """The moment that is written; where day and month can be told apart by their order only, both; None where none."""
    slashed = SLASHED.fullmatch(found)
    if slashed:
        return _both(slashed)
    try:
        moment = datetime.fromisoformat(found)
    except ValueError:
        return next(filter(None, (_pointed(found, pattern) for pattern in POINTED)), None)
    return moment if len(found) > DAY_ALONE else None


def order_of(written: Iterable[str]) -> DateOrder | None:
    """The order of day and month that the dates of a file can only have; None where they do not say, or say both."""
    said = set[DateOrder]()
    for found in written:
        read = moments(found)
        if isinstance(read, dict) and len(read) == 1:
            said.update(read)
    return said.pop() if len(said) == 1 else None


def _both(slashed: re.Match[str]) -> dict[DateOrder, datetime] | None:
    first, second, year, hour, minute = (int(slashed[place]) for place in range(1, 6))
    if slashed[6]:
        if not 1 <= hour <= NOON:
            return None
        hour = hour % NOON + (NOON if slashed[6] in "Pp" else 0)
    year += CENTURY if len(slashed[3]) == len("26") else 0
    found = dict[DateOrder, datetime]()
    readings: tuple[tuple[DateOrder, int, int], ...] = (("day first", second, first), ("month first", first, second))
    for order, month, day in readings:
        try:
            found[order] = datetime(year, month, day, hour, minute)
        except ValueError:
            continue
    return found or None


def _pointed(found: str, pattern: str) -> datetime | None:
    try:
        return datetime.strptime(found, pattern)
    except ValueError:
        return None
