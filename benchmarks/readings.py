"""Readings, beside the running application: how fast they come in over OPC UA, and how long a chart of a million takes.

A server of instruments in this process changes so many values a second; the application's collector listens to it and
stores them. Then the table is filled to a million, and charts of single stations and hours
are asked for over HTTP. Application, instruments, collector and database share this machine.
"""

import argparse
import asyncio
import os
import subprocess
import sys
import time
from collections.abc import AsyncIterator, Iterator, Mapping
from contextlib import asynccontextmanager, contextmanager, suppress
from datetime import UTC, datetime, timedelta
from pathlib import Path
from random import Random
from tempfile import TemporaryDirectory
from typing import NamedTuple
from urllib.parse import urlencode
from urllib.request import urlopen

from asyncua import Server, ua
from sqlmodel import Session

from rundgang.core.floor.instruments import Instruments, MappedNode, Reading, Signal, Source, signals_of
from rundgang.store.cluster import PrivateCluster, Urls, free_port
from rundgang.store.database import connect
from rundgang.store.repository import Repository

PER_S, TICK_S = 2_000, 0.1
MILLION = 1_000_000
BATCH = 5_000
WITHOUT_PLANT = {"RUNDGANG_SIMULATED": "false"}


class Served(NamedTuple):
    """The demo as it is served: its database, its port and its process."""

    urls: Urls
    port: int
    pid: int


@contextmanager
def served(settings: Mapping[str, str], *options: str) -> Iterator[Served]:
    """The demo, with settings of its environment and options of its command."""
    port = free_port()
    with TemporaryDirectory() as home:
        Path(home).chmod(0o755)
        with PrivateCluster(Path(home)) as urls:
            environment = {
                **os.environ,
                "DATABASE_URL": urls.app,
                "MIGRATION_DATABASE_URL": urls.owner,
                **settings,
            }
            command = [sys.executable, "-m", "rundgang.cli", "serve", "--demo", "--port", str(port), *options]
            process = subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, text=True)
            try:
                assert process.stdout
                while "is ready" not in process.stdout.readline():
                    pass
                yield Served(urls, port, process.pid)
            finally:
                process.terminate()
                process.wait(timeout=60)


@asynccontextmanager
async def instruments(urls: Urls) -> AsyncIterator[tuple[Server, dict[Signal, ua.NodeId]]]:
    """A server of instruments at all stations, to which the application's collector listens."""
    engine, port = connect(urls.app), free_port()
    with Session(engine) as session:
        store = Repository(session)
        signals = [
            s for s in signals_of(store.windows.scenario()) if s.quantity in {"temperature", "count", "humidity"}
        ]
    server = Server()
    await server.init()
    server.set_endpoint(f"opc.tcp://127.0.0.1:{port}")
    server.set_security_policy([ua.SecurityPolicyType.NoSecurity])
    index = await server.register_namespace("urn:rundgang:benchmark")
    nodes = {
        s: (
            await server.nodes.objects.add_variable(ua.NodeId(s.path, index), s.path, 0.0, ua.VariantType.Double)
        ).nodeid
        for s in signals
    }
    mapped = tuple(MappedNode(signal=s, node=node.to_string()) for s, node in nodes.items())
    with Session(engine) as session:
        source = Source(name="benchmark", endpoint=f"opc.tcp://127.0.0.1:{port}", nodes=mapped)
        Repository(session).instruments.write(Instruments(sources=(source,)), "benchmark")
        session.commit()
    async with server:
        while stored(urls) < len(nodes):
            await asyncio.sleep(0.5)
        yield server, nodes


async def tell(server: Server, node: ua.NodeId, value: float) -> None:
    """Let an instrument read a value now."""
    moment = datetime.now(UTC).replace(tzinfo=None)
    said = ua.DataValue(ua.Variant(value, ua.VariantType.Double), SourceTimestamp=moment)
    await server.write_attribute_value(node, said)


async def come_in(urls: Urls, seconds: float) -> tuple[int, int, float]:
    """Let instruments change for so long: how many values they told, how many are stored, the collector's CPU, s."""
    numbers, told = Random(1), 0
    async with instruments(urls) as (server, by_signal):
        nodes = list(by_signal.values())
        began, cpu, before = time.perf_counter(), collector_s(), stored(urls)
        while time.perf_counter() - began < seconds:
            due = int((time.perf_counter() - began) * PER_S)
            for number in range(told, due):
                await tell(server, nodes[number % len(nodes)], numbers.random() * 100)
            told = due
            await asyncio.sleep(TICK_S)
        await asyncio.sleep(2)
        spent = collector_s() - cpu
    return told, stored(urls) - before, spent


def collector_s() -> float:
    """The processor's time that the application's collector has taken, s."""
    for folder in Path("/proc").glob("[0-9]*"):
        with suppress(OSError):
            if b"rundgang.cli\0collect" in (folder / "cmdline").read_bytes():
                ticks = (folder / "stat").read_text().rpartition(")")[2].split()[11:13]
                return sum(map(int, ticks)) / os.sysconf("SC_CLK_TCK")
    raise RuntimeError("no collector runs")


def stored(urls: Urls) -> int:
    """How many readings there are."""
    engine = connect(urls.app)
    with engine.connect() as connection:
        found = connection.exec_driver_sql("SELECT count(*) FROM reading").scalar_one()
    engine.dispose()
    return int(found)


def fill(urls: Urls, count: int) -> float:
    """Store so many readings of the last days as files would; readings a second."""
    engine, numbers, now = connect(urls.app), Random(2), datetime.now(UTC)
    with Session(engine) as session:
        store = Repository(session)
        signals = signals_of(store.windows.scenario())
        every = timedelta(days=3) / (count / len(signals))
        begin = time.perf_counter()
        for first in range(0, count, BATCH):
            batch = range(first, min(count, first + BATCH))
            store.readings.append(
                [
                    Reading(signals[n % len(signals)], now - every * (n // len(signals)), numbers.random() * 100)
                    for n in batch
                ]
            )
        return count / (time.perf_counter() - begin)


def charts(urls: Urls, port: int, count: int) -> list[float]:
    """How long charts of any station and hour take, s, sorted."""
    engine, numbers, took = connect(urls.app), Random(3), list[float]()
    with Session(engine) as session:
        signals = signals_of(Repository(session).windows.scenario())
    for _ in range(count):
        signal, until = numbers.choice(signals), datetime.now(UTC) - timedelta(hours=numbers.random() * 70)
        asked = urlencode(
            {
                "line": signal.line, "station": signal.station, "quantity": signal.quantity, "zone": signal.zone,
                "from": (until - timedelta(hours=1)).isoformat(), "until": until.isoformat(),
            }
        )  # fmt: skip
        begin = time.perf_counter()
        with urlopen(f"http://127.0.0.1:{port}/api/readings?{asked}") as answer:
            answer.read()
        took.append(time.perf_counter() - begin)
    return sorted(took)


def main() -> None:
    """Print the figures."""
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--seconds", type=float, default=20)
    seconds = options.parse_args().seconds
    with served(WITHOUT_PLANT) as (urls, port, _):
        told, arrived, spent = asyncio.run(come_in(urls, seconds))
        print(f"told {told / seconds:,.0f} a second for {seconds:.0f} s: {arrived:,} of {told:,} are stored")
        print(f"the collector takes {spent / seconds * 100:.0f} % of a core")
        print(f"stored in batches: {fill(urls, MILLION - stored(urls)):,.0f} a second, up to a million")
        took = charts(urls, port, 200)
        print(f"a chart of a station and hour: median {took[100] * 1000:.0f} ms, 95 % {took[190] * 1000:.0f} ms")


if __name__ == "__main__":
    main()
