"""A night that the counters saw: the application after it, heard from the simulated plant."""

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta

from fastapi import FastAPI
from sqlmodel import Session

from rundgang.api.app import create_app
from rundgang.clock import Clock
from rundgang.core.floor.instruments import Reading
from rundgang.instruments.simulated.chance import Chance
from rundgang.instruments.simulated.server import Follower
from rundgang.settings import Settings
from rundgang.store.cluster import Urls
from rundgang.store.database import connect
from rundgang.store.repository import Repository

BEGAN, NOW = datetime(2026, 3, 10, 20, tzinfo=UTC), datetime(2026, 3, 11, 6, 20, tzinfo=UTC)


@contextmanager
def after_a_night(urls: Urls, every_min: int) -> Iterator[FastAPI]:
    """The application, after a night in which the simulated plant was heard so often, with its stops."""
    made = create_app(urls.app, Settings(hosts=["testserver", "127.0.0.1"], clock_shows=NOW))
    engine = connect(urls.app)
    follower = Follower(engine, Clock(BEGAN, datetime.now(UTC), 0.0), Chance(3))
    follower.follow()
    assert follower.plant
    with Session(engine) as session:
        at, readings = BEGAN, list[Reading]()
        while at <= NOW:
            read = follower.plant.readings(follower.plant.minute(at))
            readings += [
                Reading(signal, at, value) for signal, value in read if signal.quantity in {"count", "state", "weight"}
            ]
            at += timedelta(minutes=every_min)
        Repository(session).readings.append(readings)
    engine.dispose()
    yield made
    made.state.engine.dispose()
