"""The floor's processes: the simulated plant, and the collector of what instruments read."""

import asyncio
import logging
import signal
from collections.abc import Coroutine
from typing import Any

from rundgang.core.errors import RundgangError
from rundgang.instruments.collector import Collector
from rundgang.instruments.simulated.chance import Chance
from rundgang.instruments.simulated.server import serve_plant
from rundgang.settings import Settings
from rundgang.store.database import connect


def simulate(settings: Settings) -> None:
    """Run the simulated plant until told to stop."""
    if settings.simulated_port is None:
        raise RundgangError("RUNDGANG_SIMULATED_PORT is not set. Allowed: a free loopback port.")
    _quiet()
    chance = Chance(settings.simulated_seed, settings.simulated_stops, settings.simulated_strays)
    asyncio.run(_until_told(serve_plant(_engine(settings), settings.clock(), settings.simulated_port, chance)))


def collect(settings: Settings) -> None:
    """Collect what instruments read until told to stop."""
    _quiet()
    collector = Collector(_engine(settings), settings.clock(), settings.simulated_port, settings.instrument_hosts)
    asyncio.run(_until_told(collector.run()))


def _quiet() -> None:
    """The library tells what is meant to be, no signing on loopback, and what the collector says itself."""
    logging.getLogger("asyncua").setLevel(logging.CRITICAL)


def _engine(settings: Settings) -> Any:
    assert settings.database_url  # noqa: S101  (the command has made sure)
    return connect(settings.database_url)


async def _until_told(work: Coroutine[Any, Any, None]) -> None:
    """Run something until SIGTERM or Ctrl-C, and let it end properly."""
    task = asyncio.create_task(work)
    for number in (signal.SIGTERM, signal.SIGINT):
        asyncio.get_running_loop().add_signal_handler(number, task.cancel)
    try:
        await task
    except asyncio.CancelledError:
        return
