"""The simulated plant's instruments: an OPC UA server in a process of its own, on loopback, that says what it is.

It works by what is published, on the deployment's clock, and begins anew from the first publication whenever it is
started, so that its counters are the same.
"""

import asyncio
from dataclasses import dataclass, field
from datetime import datetime
from math import nan

import structlog
from asyncua import Node, Server, ua
from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError
from sqlmodel import Session

from rundgang.clock import Clock
from rundgang.core.floor.instruments import Signal
from rundgang.instruments.simulated.chance import Chance
from rundgang.instruments.simulated.hand import Hand
from rundgang.instruments.simulated.plant import SimulatedPlant
from rundgang.store.plans import PublishedAt
from rundgang.store.repository import Repository

APPLICATION, URI = "urn:rundgang:simulated", "urn:rundgang:simulated-plant"

TICK_S = 0.25
"""So often counts and states are read, s."""

SLOW_TICKS = 16
"""All else is read every so many ticks."""

LOOKS_EVERY_S = 1.0
"""So often what is published is looked for, s."""

OFTEN = frozenset({"count", "state"})

log = structlog.get_logger()


def endpoint(port: int) -> str:
    """Where it listens."""
    return f"opc.tcp://127.0.0.1:{port}/rundgang/simulated"


@dataclass
class Follower:
    """Keeps a simulated plant at work by what is published."""

    engine: Engine
    clock: Clock
    chance: Chance
    plant: SimulatedPlant | None = None
    name: str = ""
    hand: Hand | None = None
    _known: int = 0

    def follow(self) -> None:
        """Let people work by what has been published since; anew where what was published before is gone."""
        with Session(self.engine) as session:
            plans = Repository(session).plans
            known = [one.number for one in plans.publications(self._known - 1)[:1]]
            if self._known and known != [self._known]:
                self.plant, self.hand, self._known = None, None, 0
            for publication in plans.publications(self._known):
                self._take(Repository(session, publication.window), publication)
            if self.plant and self.hand:
                self.plant.on_scales = self.hand.on_scales(Repository(session), self.clock)

    def _take(self, store: Repository, publication: PublishedAt) -> None:
        version = store.plans.version(publication.version)
        note = version.note
        scenario = store.windows.scenario(note.book, note.library, note.opening)
        at = self.clock.shown_at(publication.created_at)
        if self.plant is None:
            self.plant = SimulatedPlant(scenario.window.starts_at, self.chance)
        self.name = scenario.plant.name
        self.plant.publish(scenario, version.plan.plans, at)
        self.hand = Hand(scenario, version.plan.plans, self.chance)
        self._known = publication.number


@dataclass
class PlantServer:
    """Serves what a plant's instruments read."""

    server: Server
    index: int
    nodes: dict[Signal, ua.NodeId] = field(default_factory=dict)
    folders: dict[ua.NodeId, Node] = field(default_factory=dict)
    told: dict[Signal, float] = field(default_factory=dict)

    async def tell(self, plant: SimulatedPlant, now: datetime, name: str, often: bool) -> None:
        """Write what has changed: of counts and states only, or of all."""
        for signal, value in list(plant.readings(plant.minute(now))):
            if (often and signal.quantity not in OFTEN) or self.told.get(signal) == value:
                continue
            if signal not in self.nodes:
                await self._add(signal, name)
            said = ua.DataValue(ua.Variant(value, ua.VariantType.Double), SourceTimestamp=now.replace(tzinfo=None))
            await self.server.write_attribute_value(self.nodes[signal], said)
            self.told[signal] = value

    async def _add(self, signal: Signal, name: str) -> None:
        """A node for a signal, under its plant, line and station."""
        parent = self.server.nodes.objects
        for step in (f"{name} (simulated)", signal.line, signal.station):
            parent = await self._folder(parent, step)
        known = ua.NodeId(signal.path, self.index)
        shown = ua.QualifiedName(signal.quantity + (f" {signal.zone}" if signal.zone else ""), self.index)
        variable = await parent.add_variable(known, shown, nan, ua.VariantType.Double)
        self.nodes[signal] = variable.nodeid

    async def _folder(self, parent: Node, name: str) -> Node:
        key = ua.NodeId(f"{parent.nodeid.Identifier}/{name}", self.index)
        if key not in self.folders:
            self.folders[key] = await parent.add_folder(key, ua.QualifiedName(name, self.index))
        return self.folders[key]


async def serve_plant(engine: Engine, clock: Clock, port: int, chance: Chance) -> None:
    """Serve on a loopback port until told to stop."""
    server = Server()
    await server.init()
    server.set_endpoint(endpoint(port))
    server.set_server_name("Rundgang, simulated plant")
    await server.set_application_uri(APPLICATION)
    server.set_security_policy([ua.SecurityPolicyType.NoSecurity])
    follower, served = Follower(engine, clock, chance), PlantServer(server, await server.register_namespace(URI))
    async with server:
        looked, tick, loop = 0.0, 0, asyncio.get_running_loop()
        while True:
            if loop.time() - looked >= LOOKS_EVERY_S:
                looked = loop.time()
                try:
                    await asyncio.to_thread(follower.follow)
                except SQLAlchemyError as error:
                    log.error("the simulated plant does not see what is published", error=str(error))
            if follower.plant:
                await served.tell(follower.plant, clock.now(), follower.name, often=tick % SLOW_TICKS != 0)
            tick += 1
            await asyncio.sleep(TICK_S)
