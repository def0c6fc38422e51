"""Readings that can be: what a thermometer or hygrometer of a bakery usually says, and what it can say at all.

Common practice, no published source. Between the two a reading is asked about once; outside it is refused. Nothing is
calculated from one that was not confirmed.
"""

from collections.abc import Iterable, Mapping
from typing import NamedTuple

from rundgang.core.errors import RundgangError
from rundgang.core.units import System, to_metric, to_us


class Range(NamedTuple):
    """What a reading is usually between, and between what it can be at all; °C or %."""

    what: str
    usual: tuple[float, float]
    possible: tuple[float, float]
    unit: str = "°C"


RANGES: Mapping[str, Range] = {
    "dough_c": Range("The dough", (8, 40), (-2, 55)),
    "room_c": Range("The room", (8, 45), (-10, 60)),
    "flour_c": Range("The flour", (3, 40), (-20, 60)),
    "tap_c": Range("The tap water", (2, 32), (0.1, 60)),
    "chilled_c": Range("The water from the chiller", (0.5, 12), (0.1, 25)),
    "humidity_pct": Range("The humidity of the room", (15, 95), (1, 100), "%"),
    "flour_moisture_pct": Range("The moisture of the flour", (9, 16.5), (5, 20), "%"),
}
"""By the name of the field."""


MOST_SAID = 6
"""So many readings a message names."""


class ImpossibleError(RundgangError):
    """A reading that cannot be."""


class DoubtfulError(RundgangError):
    """A reading that can be, but hardly is: taken once it is confirmed."""


def refuse_implausible(reads: Iterable[Mapping[str, float | None]], system: System, *, confirmed: bool) -> None:
    """ImpossibleError where a reading cannot be, DoubtfulError where it is not `confirmed` and hardly can be.

    Parameters
    ----------
    reads : iterable of mapping of str to float or None
        Readings, of a moment or an hour each, by the names of `RANGES`, °C or %; those of other names are left.
    system : {"metric", "us"}
        In whose units they were typed.
    """
    found = [(name, value) for read in reads for name, value in read.items() if name in RANGES and value is not None]
    known = [(RANGES[name], value) for name, value in dict.fromkeys(found)]
    impossible = [_says(of, value, of.possible, system) for of, value in known if not _is_within(value, of.possible)]
    if impossible:
        raise ImpossibleError(" ".join(impossible[:MOST_SAID]))
    doubtful = [_says(of, value, of.usual, system) for of, value in known if not _is_within(value, of.usual)]
    if doubtful and not confirmed:
        question = "Is it so?" if len(doubtful) == 1 else "Are they so?"
        raise DoubtfulError(" ".join((*doubtful[:MOST_SAID], question)))


def _is_within(value: float, between: tuple[float, float]) -> bool:
    return between[0] <= value <= between[1]


def _says(of: Range, value: float, between: tuple[float, float], system: System) -> str:
    least, most = (_written(end, of.unit, system) for end in between)
    word = "usual" if between == of.usual else "allowed"
    hint = _mistaken(of, value, system)
    return f"{of.what} reads {_written(value, of.unit, system)}; {word}: {least} to {most}.{hint}"


def _mistaken(of: Range, value: float, system: System) -> str:
    """A hint where the same figure in the other scale is a usual reading."""
    if of.unit != "°C":
        return ""
    other = to_metric("temperature", value) if system == "metric" else to_us("temperature", value)
    if not _is_within(other, of.usual):
        return ""
    typed, scale = (value, "°F") if system == "metric" else (other, "°C")
    return f" {typed:.4g} {scale} would be usual."


def _written(value: float, unit: str, system: System) -> str:
    if unit == "°C" and system == "us":
        return f"{to_us('temperature', value):.4g} °F"
    return f"{value:.4g} {unit}"
