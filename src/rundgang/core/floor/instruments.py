"""Instruments: what of a station is measured, and which node of which server tells it.

A signal is one quantity of one station. Where an instrument gives it in another unit, or counts in dozens, its figure
is multiplied and moved: value = factor · raw + offset.
"""

import re
from collections.abc import Iterable, Iterator, Sequence
from datetime import datetime
from difflib import SequenceMatcher
from typing import Annotated, Literal, NamedTuple
from urllib.parse import urlsplit

from pydantic import AfterValidator, Field, StringConstraints, model_validator

from rundgang.core.errors import RundgangError
from rundgang.core.kinds.batch import BatchStation
from rundgang.core.kinds.conveyor import ConveyorStation, ConveyorStep
from rundgang.core.kinds.every import PieceStep, Station
from rundgang.core.kinds.held import HeldStation
from rundgang.core.kinds.parts import DwellStep
from rundgang.core.model import Id, Model, Name
from rundgang.core.plant import Line
from rundgang.core.scenario import Scenario

Quantity = Literal["count", "state", "speed", "temperature", "humidity", "weight"]

UNITS: dict[Quantity, str] = {
    "count": "out",
    "state": "",
    "speed": "m/min",
    "temperature": "°C",
    "humidity": "%",
    "weight": "g",
}
"""A count is a total of what is out, which only rises; a state is 1 where the station runs and 0 where it stands."""

POSSIBLE: dict[Quantity, tuple[float, float]] = {
    "count": (0, 1e12),
    "state": (0, 1),
    "speed": (0, 1_000),
    "temperature": (-60, 600),
    "humidity": (0, 100),
    "weight": (0, 5_000_000),
}
"""From the least to the most that an instrument can have measured; beyond it is broken."""

ALIKE = 0.6
"""Names so alike, from 0 to 1, are taken for the same thing's."""

SIMULATED = "simulated"
"""The endpoint of the simulated plant that ships with the application."""


class Signal(Model):
    """One quantity of one station.

    Attributes
    ----------
    zone : int
        Of an oven, counted from 1; of mixers, which one, where there are several; 0 where the station is all one.
    """

    line: Id
    station: Id
    quantity: Quantity
    zone: int = Field(default=0, ge=0, le=30)

    @property
    def path(self) -> str:
        """What it is called among all of a plant's."""
        return "/".join((self.line, self.station, self.quantity, *([str(self.zone)] if self.zone else [])))


class Reading(NamedTuple):
    """What an instrument read at a moment."""

    signal: Signal
    at: datetime
    value: float


def _is_endpoint(text: str) -> str:
    if text == SIMULATED:
        return text
    try:
        parts = urlsplit(text)
        valid = parts.scheme == "opc.tcp" and parts.hostname and not (parts.username or parts.password)
        _ = parts.port
    except ValueError:
        valid = None
    if not valid:
        raise ValueError("allowed: opc.tcp://host:port, perhaps with a path, and without a name or password in it")
    return text


Endpoint = Annotated[str, StringConstraints(strip_whitespace=True, max_length=200), AfterValidator(_is_endpoint)]


def _is_node_id(text: str) -> str:
    if not NODE_ID.fullmatch(text):
        raise ValueError("allowed: a node as ns=2;s=Oven.Temperature, or with i=, g= or b= for other identifiers")
    return text


NODE_ID = re.compile(
    r"(ns=\d{1,5};)?(s=.+|i=\d{1,10}|g=[0-9A-Fa-f]{8}(-[0-9A-Fa-f]{4}){3}-[0-9A-Fa-f]{12}|b=[\w+/]+=*)"
)
NodeId = Annotated[str, StringConstraints(strip_whitespace=True, max_length=200), AfterValidator(_is_node_id)]
"""A node's, as OPC UA part 6 writes it (section 5.3.1.10, from memory)."""


class MappedNode(Model):
    """The node that tells a signal, and how its figure is turned into the signal's unit."""

    signal: Signal
    node: NodeId
    factor: float = Field(default=1, ge=-1e6, le=1e6)
    offset: float = Field(default=0, ge=-1e6, le=1e6)

    def value(self, raw: float) -> float:
        """What a figure of the node means in the signal's unit."""
        return self.factor * raw + self.offset


def is_possible(quantity: Quantity, value: float) -> bool:
    """Whether an instrument can have read a value."""
    least, most = POSSIBLE[quantity]
    return least <= value <= most


def possible(quantity: Quantity) -> str:
    """What an instrument can have read, in words."""
    least, most = POSSIBLE[quantity]
    return f"{least:g} to {most:g} {UNITS[quantity]}".rstrip()


class HostNotAllowedError(RundgangError):
    """A source on a machine that is not listened to."""

    def __init__(self, host: str, allowed: Sequence[str]) -> None:
        super().__init__(
            f"{host} is not listened to. Allowed: {', '.join(allowed)}; RUNDGANG_INSTRUMENT_HOSTS names others."
        )


class Source(Model):
    """A server of instruments, and what of it is taken."""

    name: Name
    endpoint: Endpoint
    nodes: tuple[MappedNode, ...] = Field(default=(), max_length=2_000)

    @property
    def is_simulated(self) -> bool:
        """Whether it is the plant that is simulated."""
        return self.endpoint == SIMULATED

    def refuse_host(self, allowed: Sequence[str]) -> None:
        """HostNotAllowedError where it is on a machine that is not listened to."""
        host = urlsplit(self.endpoint).hostname or ""
        if not self.is_simulated and host not in allowed:
            raise HostNotAllowedError(host, allowed)


class Instruments(Model):
    """All of a plant's instruments.

    Attributes
    ----------
    keep_days : int
        So many days every reading is kept; of older ones each minute's mean, least, most, first and last.
    """

    sources: tuple[Source, ...] = Field(default=(), max_length=20)
    keep_days: int = Field(default=7, ge=1, le=400)

    @model_validator(mode="after")
    def _each_once(self) -> "Instruments":
        names = [source.name for source in self.sources]
        if len({*names}) < len(names):
            raise ValueError("sources: two have the same name; allowed: each name once")
        told = [mapped.signal.path for source in self.sources for mapped in source.nodes]
        twice = sorted({path for path in told if told.count(path) > 1})
        if twice:
            raise ValueError(f"sources: {twice[0]} is told by two nodes; allowed: each quantity of a station by one")
        return self

    def unknown(self, signals: Iterable[Signal]) -> tuple[Signal, ...]:
        """The mapped signals that a plant does not have."""
        known = {*signals}
        told = (mapped.signal for source in self.sources for mapped in source.nodes)
        return tuple(signal for signal in told if signal not in known)


def signals_of(scenario: Scenario) -> tuple[Signal, ...]:
    """What can be measured in a plant, line by line in walking order."""
    steps: dict[tuple[str, str], list[PieceStep]] = {}
    for product in scenario.products:
        for step in product.piece_steps:
            steps.setdefault((product.line, step.station), []).append(step)
    return tuple(
        Signal(line=line.id, station=station.id, quantity=quantity, zone=zone)
        for line in scenario.plant.lines
        for station in line.stations
        for quantity, zone in _measured(line, station, steps.get((line.id, station.id), []))
    )


def state_of_mixer(line: str, station: BatchStation, mixer: str) -> Signal:
    """What tells whether a mixer runs."""
    zone = station.mixers.index(mixer) + 1 if len(station.mixers) > 1 else 0
    return Signal(line=line, station=station.id, quantity="state", zone=zone)


def _measured(line: Line, station: Station, steps: list[PieceStep]) -> Iterator[tuple[Quantity, int]]:
    yield "state", 0
    if not isinstance(station, HeldStation):
        yield "count", 0
    if isinstance(station, BatchStation):
        if len(station.mixers) > 1:
            yield from (("state", number) for number in range(1, len(station.mixers) + 1))
        yield "weight", 0
        yield "temperature", 0
        return
    if isinstance(station, ConveyorStation):
        yield "speed", 0
    dwells = [step for step in steps if isinstance(step, DwellStep)]
    zones = max((len(step.zone_c) for step in dwells if isinstance(step, ConveyorStep)), default=0)
    if zones:
        yield from (("temperature", zone) for zone in range(1, zones + 1))
    elif any(step.temperature_c is not None for step in dwells):
        yield "temperature", 0
    if any(step.humidity_pct is not None for step in dwells):
        yield "humidity", 0
    if station.id == next((each.id for each in line.stations if each.kind not in {"batch", "held"}), None):
        yield "weight", 0


def suggested(
    signals: Iterable[Signal], names: dict[Signal, str], found: dict[str, str]
) -> dict[Signal, str]:  # fmt: skip
    """For signals, the nodes whose names are most like theirs; each node for one signal at most.

    Parameters
    ----------
    names : dict
        What people call the place of a signal, and what is measured there.
    found : dict
        The nodes of a server: by id, the names on the way to it.
    """
    pairs = [
        (-_likeness(_words(names[signal]), _words(browsed)), signal.path, node, signal)
        for signal in signals
        for node, browsed in found.items()
    ]
    nodes, taken = dict[Signal, str](), set[str]()
    for unlike, _, node, signal in sorted(pairs, key=lambda pair: pair[:3]):
        if -unlike >= ALIKE and signal not in nodes and node not in taken:
            nodes[signal] = node
            taken.add(node)
    return nodes


def _words(text: str) -> tuple[str, ...]:
    spaced = "".join(sign if sign.isalnum() else " " for sign in text.casefold())
    return tuple(spaced.split())


def _likeness(wanted: tuple[str, ...], given: tuple[str, ...]) -> float:
    """How much of the words wanted is among those given, each by its likest, and how little else there is."""
    if not wanted or not given:
        return 0.0
    best = [max(SequenceMatcher(None, word, other).ratio() for other in given) for word in wanted]
    return min(best) * (0.9 + 0.1 * min(1.0, len(wanted) / len(given)))
