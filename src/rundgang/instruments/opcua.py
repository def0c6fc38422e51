"""OPC UA as a client: what a server has, what a node says now, and a subscription to many."""

from collections.abc import AsyncIterator, Callable, Iterable
from contextlib import asynccontextmanager
from datetime import UTC, datetime
from math import isfinite
from typing import Any, NamedTuple

from asyncua import Client, Node, ua
from asyncua.common.subscription import DataChangeNotif

from rundgang.core.errors import RundgangError
from rundgang.core.floor.instruments import MappedNode, Signal, is_possible

TIMEOUT_S = 4.0
"""A server has so long to answer."""

PERIOD_MS = 200
"""So often a server tells what has changed, ms."""

MOST_NODES = 5_000
MOST_DEEP = 8
"""So many of a server's nodes are looked at, and so far down."""

QUEUE = 100
"""A server keeps so many changes of a node for one telling."""


class InstrumentError(RundgangError):
    """A server that does not answer as one."""

    def __init__(self, endpoint: str, why: str) -> None:
        super().__init__(
            f"{endpoint} does not answer as an OPC UA server: {why}. Allowed: one that runs and lets this machine in."
        )


class Told(NamedTuple):
    """What a node says, and when it was so by its own clock; None where it says no number, with the reason."""

    value: float | None
    at: datetime | None
    why: str


@asynccontextmanager
async def connected(endpoint: str) -> AsyncIterator[Client]:
    """A connection while the context is open; InstrumentError where there is none to be had."""
    client = Client(endpoint, timeout=TIMEOUT_S)
    try:
        await client.connect()
    except (OSError, TimeoutError, ua.UaError) as error:
        raise InstrumentError(endpoint, str(error) or type(error).__name__) from None
    try:
        yield client
    finally:
        try:
            await client.disconnect()
        except (OSError, TimeoutError, ua.UaError):
            client.disconnect_socket()


async def browsed(endpoint: str) -> dict[str, str]:
    """The variables of a server: by node, the names on the way to each, those of the server itself left out."""
    async with connected(endpoint) as client:
        found: dict[str, str] = {}
        level: list[tuple[Node, tuple[str, ...]]] = [(client.nodes.objects, ())]
        for _ in range(MOST_DEEP):
            below: list[tuple[Node, tuple[str, ...]]] = []
            for node, way in level:
                for told in await node.get_children_descriptions():
                    name = (*way, told.DisplayName.Text or told.BrowseName.Name or "")
                    if told.NodeId.NamespaceIndex == 0 or len(found) >= MOST_NODES:
                        continue
                    if told.NodeClass == ua.NodeClass.Variable:
                        found[told.NodeId.to_string()] = " / ".join(name)
                    else:
                        below.append((client.get_node(told.NodeId), name))
            level = below
        return found


async def asked(endpoint: str, node: str) -> Told:
    """What a node of a server says now."""
    async with connected(endpoint) as client:
        try:
            return told(await client.get_node(node).read_data_value(raise_on_bad_status=False))
        except (ua.UaError, ValueError) as error:
            return Told(None, None, str(error))


def told(data: ua.DataValue) -> Told:
    """A node's answer as a number."""
    status, raw = data.StatusCode, data.Value.Value if data.Value else None
    if status and not status.is_good():
        return Told(None, None, status.name)
    if isinstance(raw, bool | int | float) and isfinite(raw):
        at = data.SourceTimestamp or data.ServerTimestamp
        return Told(float(raw), at.replace(tzinfo=UTC) if at else None, "")
    return Told(None, None, f"says {raw!r}, which is no number"[:120])


class Subscription:
    """What nodes say, handed on as it comes; a node may tell several signals.

    Parameters
    ----------
    take : callable
        Takes each reading.
    """

    def __init__(self, nodes: Iterable[MappedNode], take: Callable[[Signal, datetime | None, float], None]) -> None:
        self._mapped = dict[str, list[MappedNode]]()
        for mapped in nodes:
            self._mapped.setdefault(ua.NodeId.from_string(mapped.node).to_string(), []).append(mapped)
        self._take = take
        self._refused: list[str] = []
        self.missing = {mapped.signal for each in self._mapped.values() for mapped in each}

    async def open(self, client: Client) -> None:
        """Begin to listen."""
        self._client, self._refused = client, list(self._mapped)
        self._subscription = await client.create_subscription(PERIOD_MS, self)
        await self.seek()

    async def seek(self) -> None:
        """Ask for the nodes that the server did not have when it was asked before."""
        if not self._refused:
            return
        nodes = [self._client.get_node(node) for node in self._refused]
        answers = await self._subscription.subscribe_data_change(nodes, queuesize=QUEUE)
        found = zip(self._refused, answers if isinstance(answers, list) else [answers], strict=True)
        self._refused = [node for node, answer in found if isinstance(answer, ua.StatusCode)]

    def datachange_notification(self, node: Node, value: Any, data: DataChangeNotif) -> None:
        """Take what a node says, as the library calls it."""
        found = told(data.monitored_item.Value)
        for mapped in self._mapped.get(node.nodeid.to_string(), ()):
            read = None if found.value is None else mapped.value(found.value)
            if read is None or not is_possible(mapped.signal.quantity, read):
                self.missing.add(mapped.signal)
                continue
            self.missing.discard(mapped.signal)
            self._take(mapped.signal, found.at, read)

    def status_change_notification(self, status: Any) -> None:
        """A subscription that the server ends is sought again with the connection, which ends too."""

    def signals_missing(self) -> list[str]:
        """The signals whose nodes tell nothing, or what cannot be."""
        return sorted(signal.path for signal in self.missing)
