"""The routes of instruments: which node tells what, found, suggested and tried; and which of them are silent."""

from datetime import datetime

from fastapi import APIRouter, Request
from pydantic import Field

from rundgang.api.deps import Author, ChangedSinceError, Planned, Store
from rundgang.core.errors import MalformedError, RundgangError
from rundgang.core.floor.instruments import (
    UNITS,
    Endpoint,
    Instruments,
    MappedNode,
    Signal,
    Source,
    signals_of,
    suggested,
)
from rundgang.core.model import Model, Name
from rundgang.core.scenario import Scenario
from rundgang.instruments.opcua import asked, browsed
from rundgang.instruments.simulated.server import endpoint as simulated_endpoint
from rundgang.settings import Settings
from rundgang.store.instruments import Beat

router = APIRouter(prefix="/api/instruments")

SILENT_AFTER_S = 6.0
"""A source that the collector has not said anything of for so long is silent, s."""


class SignalView(Model):
    """What can be measured, as people call it."""

    signal: Signal
    line: Name
    station: Name
    quantity: str
    unit: str


class SourceState(Model):
    """How a source is doing: what is wrong with it, nothing where it is well; and what it does not tell."""

    name: Name
    is_simulated: bool
    says: str
    missing: tuple[str, ...]


class InstrumentsView(Model):
    """The instruments there are, and what could be measured."""

    number: int
    instruments: Instruments
    signals: tuple[SignalView, ...]
    sources: tuple[SourceState, ...]
    hosts: tuple[str, ...]


class InstrumentsRequest(Model):
    """Instruments that count from now on."""

    instruments: Instruments
    seen: int = Field(ge=0, le=2_000_000_000, description="number of the instruments this is a change of")
    author: Author = "planner"


class FoundNode(Model):
    """A variable of a server, and the names on the way to it."""

    node: str
    names: str


class Found(Model):
    """What a server has, and which of it seems to tell what."""

    nodes: tuple[FoundNode, ...]
    suggested: tuple[MappedNode, ...]


class BrowseRequest(Model):
    """A server to look through."""

    endpoint: Endpoint


class AskRequest(Model):
    """A node to ask."""

    endpoint: Endpoint
    mapped: MappedNode


class NodeSays(Model):
    """What a node says now, in the signal's unit; None where it says no number, and why."""

    value: float | None
    at: datetime | None
    why: str


@router.get("")
def instruments(http: Request, store: Store) -> InstrumentsView:
    """The newest instruments, and how their sources are doing."""
    newest, settings = store.instruments.newest(), _settings(http)
    beats = store.instruments.beats()
    return InstrumentsView(
        number=newest.number,
        instruments=newest.instruments,
        signals=signal_views(store.windows.scenario()),
        sources=states(newest.instruments, beats),
        hosts=tuple(settings.instrument_hosts),
    )


@router.post("", status_code=201)
def set_instruments(http: Request, store: Planned, request: InstrumentsRequest) -> InstrumentsView:
    """Store other instruments; the collector listens to them at once."""
    store.windows.locked_window()
    current = store.instruments.newest().number
    if request.seen != current:
        raise ChangedSinceError("the instruments", request.seen, current)
    for source in request.instruments.sources:
        source.refuse_host(_settings(http).instrument_hosts)
    unknown = request.instruments.unknown(signals_of(store.windows.scenario()))
    if unknown:
        said = tuple(f"{signal.path} is not measured in this plant; allowed: what the page lists" for signal in unknown)
        raise MalformedError("The instruments", said[:20])
    store.instruments.write(request.instruments, request.author)
    store.session.commit()
    return instruments(http, store)


@router.post("/browse")
async def browse(http: Request, store: Store, request: BrowseRequest) -> Found:
    """Look through a server, and suggest which of its variables tells what."""
    found = await browsed(_address(http, request.endpoint))
    views = signal_views(store.windows.scenario())
    names = {view.signal: _called(view) for view in views}
    nodes = suggested(names, names, found)
    return Found(
        nodes=tuple(FoundNode(node=node, names=way) for node, way in found.items()),
        suggested=tuple(MappedNode(signal=signal, node=node) for signal, node in nodes.items()),
    )


@router.post("/ask")
async def ask(http: Request, request: AskRequest) -> NodeSays:
    """Ask a node what it says now."""
    said = await asked(_address(http, request.endpoint), request.mapped.node)
    value = None if said.value is None else request.mapped.value(said.value)
    return NodeSays(value=value, at=said.at, why=said.why)


def signal_views(scenario: Scenario) -> tuple[SignalView, ...]:
    """What can be measured in a plant, as people call it."""
    names = {(line.id, station.id): station.name for line in scenario.plant.lines for station in line.stations}
    return tuple(
        SignalView(
            signal=signal,
            line=scenario.line(signal.line).name,
            station=names[signal.line, signal.station],
            quantity=signal.quantity + (f", zone {signal.zone}" if signal.zone else ""),
            unit=UNITS[signal.quantity],
        )
        for signal in signals_of(scenario)
    )


def states(instruments: Instruments, beats: dict[str, Beat]) -> tuple[SourceState, ...]:
    """How the sources are doing, by what was last heard of each."""
    return tuple(_state(source, beats.get(source.name)) for source in instruments.sources)


def _state(source: Source, beat: Beat | None) -> SourceState:
    if beat and beat.age_s <= SILENT_AFTER_S:
        says, missing = beat.says, beat.missing
    else:
        says = "nobody listens to it: the collector does not run"
        missing = tuple(mapped.signal.path for mapped in source.nodes)
    return SourceState(name=source.name, is_simulated=source.is_simulated, says=says, missing=missing)


def _called(view: SignalView) -> str:
    return f"{view.line} {view.station} {view.quantity}"


def _settings(http: Request) -> Settings:
    found: Settings = http.app.state.settings
    return found


def _address(http: Request, endpoint: str) -> str:
    """Where a source is, if it may be listened to."""
    settings, source = _settings(http), Source(name="asked", endpoint=endpoint)
    source.refuse_host(settings.instrument_hosts)
    if not source.is_simulated:
        return endpoint
    if settings.simulated_port is None:
        raise RundgangError("No simulated plant runs here. Allowed: another source; RUNDGANG_SIMULATED starts it.")
    return simulated_endpoint(settings.simulated_port)
