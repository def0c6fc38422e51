"""The collector: listens to all sources, and stores what they tell in batches, in a process of its own.

A source that is lost is sought again; what is read while the database is away waits here; what of a source tells
nothing is said. A reading is told to pages as it is stored.
"""

import asyncio
import contextlib
from collections import deque
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from threading import Lock

import structlog
from asyncua import Client
from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError
from sqlmodel import Session

from rundgang.clock import Clock
from rundgang.core.floor.instruments import Instruments, Reading, Signal, Source
from rundgang.instruments.opcua import InstrumentError, Subscription, connected
from rundgang.instruments.simulated.server import endpoint
from rundgang.store.instruments import StoredInstruments
from rundgang.store.repository import Repository

FLUSH_S = 0.2
"""What has been read is stored so often."""

BATCH = 5_000
"""So many readings are stored at once."""

MOST_WAITING = 1_000_000
"""So many wait while the database is away; of more, the oldest are lost."""

BEAT_S = 1.0
"""So often a source is heard of, and instruments are looked at for changes."""

AGAIN_S = 2.0
"""A source that is lost is sought again after so long, and a database."""

THINS_EVERY_S = 3_600.0

CLOCKS_APART = timedelta(minutes=5)
"""An instrument whose clock is further off than this is taken to read when it is heard."""

log = structlog.get_logger()


class Collector:
    """Collects what instruments read.

    Parameters
    ----------
    simulated_port : int or None
        Where the simulated plant listens; None where none runs.
    hosts : sequence of str
        Machines that may be listened to.
    """

    def __init__(
        self, engine: Engine, clock: Clock, simulated_port: int | None, hosts: Sequence[str] = ()
    ) -> None:  # fmt: skip
        self._engine, self._clock, self._simulated_port, self._hosts = engine, clock, simulated_port, hosts
        self._waiting, self._storing, self._flushes = deque[Reading](), list[Reading](), Lock()
        self._lost = 0

    async def run(self) -> None:
        """Collect until cancelled; what waits is stored before it ends, if the database takes it."""
        beside = [asyncio.create_task(self._store()), asyncio.create_task(self._thin())]
        try:
            await self._follow()
        finally:
            for task in beside:
                task.cancel()
            with contextlib.suppress(SQLAlchemyError):
                await asyncio.to_thread(self._flush)

    async def _follow(self) -> None:
        """Listen to the sources there are, and anew whenever the instruments are changed."""
        known, listening = -1, list[asyncio.Task[None]]()
        try:
            while True:
                with contextlib.suppress(SQLAlchemyError):
                    newest = await asyncio.to_thread(self._newest)
                    if newest.number != known:
                        known = newest.number
                        for task in listening:
                            task.cancel()
                        listening = [asyncio.create_task(self._listen(one)) for one in newest.instruments.sources]
                await asyncio.sleep(BEAT_S)
        finally:
            for task in listening:
                task.cancel()

    async def _listen(self, source: Source) -> None:
        """Listen to a source, and seek it again whenever it is lost."""
        while True:
            try:
                async with connected(self._endpoint(source)) as client:
                    await self._heard(source, client)
            except Exception as error:
                # Whatever a server makes the library raise, the source is sought again.
                said = str(error) or type(error).__name__
                await self._beat(source, said, [mapped.signal.path for mapped in source.nodes])
            await asyncio.sleep(AGAIN_S)

    async def _heard(self, source: Source, client: Client) -> None:
        subscription = Subscription(source.nodes, self._take)
        await subscription.open(client)
        while True:
            await client.check_connection()
            lost = f"{self._lost} readings were lost while the database was away" if self._lost else ""
            await self._beat(source, lost, subscription.signals_missing())
            await asyncio.sleep(BEAT_S)
            await subscription.seek()

    def _endpoint(self, source: Source) -> str:
        source.refuse_host(self._hosts)
        if not source.is_simulated:
            return source.endpoint
        if self._simulated_port is None:
            raise InstrumentError(source.name, "no simulated plant runs here")
        return endpoint(self._simulated_port)

    def _take(self, signal: Signal, at: datetime | None, value: float) -> None:
        now = self._clock.now()
        moment = at if at and abs(at - now) <= CLOCKS_APART else now
        if len(self._waiting) >= MOST_WAITING:
            self._waiting.popleft()
            self._lost += 1
        self._waiting.append(Reading(signal, moment, value))

    async def _store(self) -> None:
        while True:
            try:
                while await asyncio.to_thread(self._flush):
                    pass
                await asyncio.sleep(FLUSH_S)
            except SQLAlchemyError as error:
                log.error("readings wait for the database", waiting=len(self._waiting), error=str(error))
                await asyncio.sleep(AGAIN_S)

    def _flush(self) -> bool:
        """Store a batch of what waits, the one that was not taken before first; whether more does."""
        with self._flushes:
            while self._waiting and len(self._storing) < BATCH:
                self._storing.append(self._waiting.popleft())
            full = len(self._storing) == BATCH
            with Session(self._engine) as session:
                Repository(session).readings.append(self._storing)
            self._storing = []
            return full

    async def _thin(self) -> None:
        """Keep of older days what each minute was."""
        while True:
            try:
                newest = await asyncio.to_thread(self._newest)
                await asyncio.to_thread(self._thin_once, newest.instruments)
            except SQLAlchemyError as error:
                log.error("older readings are not thinned", error=str(error))
            await asyncio.sleep(THINS_EVERY_S)

    def _thin_once(self, instruments: Instruments) -> None:
        before = (self._clock.now() - timedelta(days=instruments.keep_days)).astimezone(UTC).date()
        with Session(self._engine) as session:
            Repository(session).readings.thin(before)

    def _newest(self) -> StoredInstruments:
        with Session(self._engine) as session:
            return Repository(session).instruments.newest()

    async def _beat(self, source: Source, says: str, missing: Sequence[str]) -> None:
        with contextlib.suppress(SQLAlchemyError):
            await asyncio.to_thread(self._beat_once, source.name, says, missing)

    def _beat_once(self, source: str, says: str, missing: Sequence[str]) -> None:
        with Session(self._engine) as session:
            Repository(session).instruments.beat(source, says, missing)
