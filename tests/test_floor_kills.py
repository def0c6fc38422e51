"""Killed with -9, again and again, while the simulated plant works and somebody writes: nothing acknowledged is lost.

A sample of what `script/soak` does twenty times each. Counts are totals: whatever was missed while something was down,
each count that is stored is the simulated plant's own at its moment, to the piece.
"""

import json
import os
import signal
import threading
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from urllib.error import HTTPError, URLError
from urllib.request import Request, urlopen
from uuid import UUID, uuid4

import pytest
from sqlmodel import Session

from rundgang.core.floor.instruments import Signal
from rundgang.instruments.simulated.chance import Chance
from rundgang.instruments.simulated.server import Follower
from rundgang.settings import Settings
from rundgang.store.cluster import PrivateCluster
from rundgang.store.database import connect
from rundgang.store.repository import Repository
from test_serve import get, numbered, postmaster, process_of, serving, until_gone

KILLS = int(os.environ.get("SOAK_KILLS", "1"))
PATIENCE_S = 300
"""So long a slow machine may take until a start has found its plans and readings come in."""

SHOWS = datetime(2026, 3, 11, 1, tzinfo=UTC)
TYPED = Signal(line="ring-line", station="proofer", quantity="humidity")
OVEN = "/api/readings?line=ring-line&station=oven&quantity=temperature&most=2000"
"""It is never quite the same."""

CHILDREN = {"collector": " collect ", "worker": " worker ", "server beside": " server "}


class Writer(threading.Thread):
    """Somebody who writes, and notes what was acknowledged."""

    def __init__(self, clock: Settings) -> None:
        super().__init__(daemon=True)
        self.clock, self.address, self.ends = clock.clock(), "", False
        self.acknowledged = dict[datetime, float]()

    def run(self) -> None:
        number = 0
        while not self.ends:
            number += 1
            at, value = self.clock.now(), 20 + number % 60 + number / 1e6
            sent = {"line": TYPED.line, "station": TYPED.station, "quantity": TYPED.quantity}
            body = json.dumps({"readings": [{**sent, "at": at.isoformat(), "value": value}]}).encode()
            request = Request(f"{self.address}/api/readings", data=body, headers={"Content-Type": "application/json"})
            try:
                with urlopen(request, timeout=5) as answer:
                    if answer.status == 201:
                        self.acknowledged[at] = value
            except (HTTPError, URLError, OSError):
                time.sleep(0.05)
            time.sleep(0.02)


class Tablet(threading.Thread):
    """Somebody who walks: each entry is sent again until it is acknowledged, then the next."""

    def __init__(self, clock: Settings) -> None:
        super().__init__(daemon=True)
        self.clock, self.address, self.ends = clock.clock(), "", False
        self.acknowledged = list[UUID]()

    def run(self) -> None:
        while not self.ends and not (asked := self._asked()):
            time.sleep(0.1)
        while not self.ends:
            number = len(self.acknowledged)
            entry = {**asked, "uuid": str(uuid4()), "occasion": f"entry/{number}", "at": self.clock.now().isoformat()}
            while not self.ends and not self._is_taken(entry):
                time.sleep(0.05)
            time.sleep(0.02)

    def _asked(self) -> dict[str, object]:
        try:
            found: Any = get(f"{self.address}/api/inspections")
        except (HTTPError, URLError, OSError):
            return {}
        one = next(one for one in found["inspections"]["all"] if one["asks"]["kind"] == "chosen")
        known = {"window": 1, "version": found["number"], "inspection": one["id"], "author": "Jonte"}
        return {**known, "word": one["asks"]["good"]}

    def _is_taken(self, entry: dict[str, object]) -> bool:
        body = json.dumps({"entries": [entry]}).encode()
        headers = {"Content-Type": "application/json"}
        try:
            with urlopen(
                Request(f"{self.address}/api/rounds/entries", data=body, headers=headers), timeout=5
            ) as answer:
                said = json.load(answer)
        except (HTTPError, URLError, OSError, ValueError):
            return False
        assert said["refused"] == [], said
        self.acknowledged += [UUID(one) for one in said["taken"]]
        return True


def read_last(address: str) -> str:
    """When the oven was read last."""
    try:
        points = get(f"{address}{OVEN}")["points"]
    except (HTTPError, URLError, OSError):
        return ""
    assert isinstance(points, list)
    return str(points[-1]["at"]) if points else ""


def until_it_goes_on(address: str) -> None:
    """Wait until readings come in again."""
    until, before = time.monotonic() + PATIENCE_S, ""
    while not before or read_last(address) <= before:
        assert time.monotonic() < until, "no reading comes in"
        before = before or read_last(address)
        time.sleep(0.2)


def kill(home: Path, what: str) -> None:
    if what == "database":
        number = process_of(postmaster(home))
        assert number is not None
        os.kill(number, signal.SIGKILL)
        return
    until = time.monotonic() + PATIENCE_S
    while time.monotonic() < until:
        for number, command in numbered(home):
            if "rundgang.cli" in command and CHILDREN[what] in command:
                os.kill(number, signal.SIGKILL)
                return
        time.sleep(0.2)
    raise AssertionError(f"no {what} runs")


def test_nothing_acknowledged_is_lost_and_counts_agree(home: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    own = home / "kills"
    own.mkdir()
    for name, value in {
        "RUNDGANG_CLOCK_SHOWS": SHOWS.isoformat(),
        "RUNDGANG_CLOCK_AT": datetime.now(UTC).isoformat(),
        "RUNDGANG_CLOCK_SPEED": "20",
        "RUNDGANG_SIMULATED_SEED": "5",
    }.items():
        monkeypatch.setenv(name, value)
    monkeypatch.delenv("DATABASE_URL", raising=False)
    settings = Settings()
    writer, tablet = Writer(settings), Tablet(settings)
    for round_ in range(KILLS):
        with serving(own) as (server, address):
            writer.address = tablet.address = address
            if not round_:
                writer.start()
                tablet.start()
            until_it_goes_on(address)
            for what in (*CHILDREN, "database"):
                kill(own, what)
                until_it_goes_on(address)
            server.kill()
            server.wait(10)
        until_gone(own)
    writer.ends = tablet.ends = True
    writer.join(10)
    tablet.join(10)
    with PrivateCluster(own) as urls:
        engine = connect(urls.app)
        with Session(engine) as session:
            readings = Repository(session).readings
            walked = Repository(session).inspections
            until = settings.clock().now() + timedelta(days=1)
            stored = [(one.at, one.value) for one in readings.each((TYPED,), SHOWS, until)]
            lines = {line.id for line in Repository(session).windows.scenario().plant.lines}
            entries = [one for line in lines for one in walked.found(line, SHOWS, until)]
            truth = Follower(engine, settings.clock(), Chance(5))
            truth.follow()
            assert truth.plant
            counted = [one for one in truth.plant.signals if one.quantity == "count"]
            counts = list(readings.each(counted, SHOWS, until))
        engine.dispose()
    assert len(tablet.acknowledged) > 20
    arrived = [one.uuid for one in sorted(entries, key=lambda one: one.created_at)]
    last = arrived[len(tablet.acknowledged) :]
    assert arrived[: len(tablet.acknowledged)] == tablet.acknowledged, "once each, in order"
    assert len(last) <= 1, "at most the one whose answer was never heard"
    kept = dict(stored)
    assert len(writer.acknowledged) > 20
    assert {at: kept.get(at) for at in writer.acknowledged} == writer.acknowledged
    assert len(counts) > 50
    for reading in counts:
        minute = truth.plant.minute(reading.at)
        assert reading.value == truth.plant.count(reading.signal.line, reading.signal.station, minute), reading
