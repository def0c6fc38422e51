"""From the instrument to the database: the simulated plant served over OPC UA, listened to and stored."""

import asyncio
from collections.abc import Awaitable, Callable
from contextlib import suppress
from datetime import UTC, datetime, timedelta
from typing import Any

import psycopg
import pytest
from sqlalchemy import Engine, event
from sqlmodel import Session

from rundgang.clock import Clock
from rundgang.core.floor.instruments import MappedNode, Signal, signals_of, suggested
from rundgang.demo.instruments import simulated_instruments
from rundgang.instruments.collector import Collector
from rundgang.instruments.opcua import InstrumentError, asked, browsed
from rundgang.instruments.simulated.chance import Chance
from rundgang.instruments.simulated.server import Follower, endpoint, serve_plant
from rundgang.store.cluster import Urls, free_port
from rundgang.store.database import connect
from rundgang.store.repository import Repository

SHOWS = datetime(2026, 3, 11, 2, tzinfo=UTC)
"""When the line is at work."""


async def beside(
    floor: Callable[[], list[Awaitable[None]]], while_they: Callable[[], Awaitable[None]]
) -> None:  # fmt: skip
    """Do something while others are at work."""
    tasks = [asyncio.ensure_future(work) for work in floor()]
    try:
        await while_they()
    finally:
        for task in tasks:
            task.cancel()
            with suppress(asyncio.CancelledError):
                await task


async def until(holds: Callable[[], Any], seconds: float = 30) -> None:
    ends = asyncio.get_running_loop().time() + seconds
    while not await asyncio.to_thread(holds):
        assert asyncio.get_running_loop().time() < ends, "it does not come to hold"
        await asyncio.sleep(0.1)


@pytest.fixture
def engine(urls: Urls) -> Any:
    made = connect(urls.app)
    with Session(made) as session:
        store = Repository(session)
        store.instruments.write(simulated_instruments(store.windows.scenario()), "test")
        session.commit()
    yield made
    made.dispose()


def in_store(engine: Engine, ask: Callable[[Repository], Any]) -> Any:
    with Session(engine) as session:
        return ask(Repository(session))


def test_counts_in_the_database_are_the_simulated_plants_own_to_the_piece(engine: Engine) -> None:
    """At thirty times the clock, each count as it was at the very moment it was read."""
    clock, port = Clock(SHOWS, datetime.now(UTC), 30), free_port()
    collector = Collector(engine, clock, port, ["127.0.0.1"])

    def newest() -> Any:
        return in_store(engine, lambda store: store.readings.newest(SHOWS + timedelta(days=1)))

    async def watch() -> None:
        await until(lambda: len(newest()) == len(in_store(engine, lambda s: signals_of(s.windows.scenario()))))
        await asyncio.sleep(2)
        beat = in_store(engine, lambda store: store.instruments.beats())["Simulated plant"]
        assert (beat.says, beat.missing) == ("", ())

    asyncio.run(beside(lambda: [serve_plant(engine, clock, port, Chance(3)), collector.run()], watch))
    truth = Follower(engine, clock, Chance(3))
    truth.follow()
    assert truth.plant
    counts = {signal: reading for signal, reading in newest().items() if signal.quantity == "count"}
    assert any(reading.value > 0 for reading in counts.values())
    for signal, reading in counts.items():
        assert reading.value == truth.plant.count(signal.line, signal.station, truth.plant.minute(reading.at)), signal


def test_what_is_read_while_the_database_is_away_waits(engine: Engine) -> None:
    clock, port, away = Clock(SHOWS, datetime.now(UTC), 30), free_port(), [False]
    bagger = Signal(line="ring-line", station="divider", quantity="count")

    @event.listens_for(engine, "do_connect")
    def refuse(*_: object) -> None:
        if away[0]:
            raise psycopg.OperationalError("the database is away")

    def read() -> int:
        return int(
            in_store(engine, lambda store: len(list(store.readings.each((bagger,), SHOWS, SHOWS + timedelta(1)))))
        )

    counted = list[int]()

    async def watch() -> None:
        await until(lambda: read() > 2)
        away[0] = True
        await asyncio.to_thread(engine.dispose)
        await asyncio.sleep(4)
        away[0] = False
        counted.append(await asyncio.to_thread(read))
        await until(lambda: read() > counted[0] + 8, 10)

    asyncio.run(
        beside(
            lambda: [serve_plant(engine, clock, port, Chance(3)), Collector(engine, clock, port, ["127.0.0.1"]).run()],
            watch,
        )
    )


def test_a_source_that_is_not_there_is_said_and_sought_again(engine: Engine) -> None:
    clock, port = Clock(SHOWS, datetime.now(UTC), 1), free_port()

    def beat() -> Any:
        return in_store(engine, lambda store: store.instruments.beats()).get("Simulated plant")

    async def watch() -> None:
        await until(lambda: beat() and "does not answer" in beat().says)
        assert len(beat().missing) == len(in_store(engine, lambda s: signals_of(s.windows.scenario())))
        server = asyncio.ensure_future(serve_plant(engine, clock, port, Chance(3)))
        await until(lambda: beat().says == "" and not beat().missing)
        server.cancel()
        with suppress(asyncio.CancelledError):
            await server
        await until(lambda: beat().says != "")

    asyncio.run(beside(lambda: [Collector(engine, clock, port, ["127.0.0.1"]).run()], watch))


def test_nodes_are_found_suggested_by_name_and_asked(engine: Engine) -> None:
    clock, port = Clock(SHOWS, datetime.now(UTC), 1), free_port()
    scenario = in_store(engine, lambda store: store.windows.scenario())
    signals = signals_of(scenario)

    async def watch() -> None:
        found: dict[str, str] = {}
        while len(found) < len(signals):
            with suppress(InstrumentError):
                found = await browsed(endpoint(port))
            await asyncio.sleep(0.2)
        names = {s: f"{s.line} {s.station} {s.quantity} {s.zone or ''}" for s in signals}
        nodes = suggested(signals, names, found)
        assert nodes == {s: MappedNode(signal=s, node=f"ns=2;s={s.path}").node for s in signals}
        said = await asked(endpoint(port), nodes[signals[0]])
        assert said.value is not None
        assert abs((said.at or SHOWS) - clock.now()) < timedelta(minutes=1)
        missing = await asked(endpoint(port), "ns=2;s=no-such")
        assert (missing.value, missing.why) == (None, "BadNodeIdUnknown")

    asyncio.run(beside(lambda: [serve_plant(engine, clock, port, Chance(3))], watch))


def test_a_server_that_is_none_is_refused_in_words() -> None:
    with pytest.raises(InstrumentError, match="does not answer as an OPC UA server"):
        asyncio.run(asked(f"opc.tcp://127.0.0.1:{free_port()}", "ns=2;s=a"))
