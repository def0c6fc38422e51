"""Killed with -9 while somebody weighs, holds and loads: what was acknowledged is there, once, and no lot is half-made.

A sample of what `script/soak` does fifty times.
"""

import json
import os
import threading
import time
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from urllib.error import HTTPError, URLError
from urllib.request import Request, urlopen
from uuid import uuid4

import pytest
from sqlmodel import Session, text

from rundgang.settings import Settings
from rundgang.store.cluster import PrivateCluster
from rundgang.store.database import connect
from test_serve import serving, until_gone

KILLS = int(os.environ.get("SOAK_RECORD_KILLS", "2"))
SHOWS = datetime(2026, 3, 11, 1, 30, tzinfo=UTC)


def get(url: str) -> Any:
    with urlopen(url, timeout=10) as answer:
        return json.load(answer)


class Hands(threading.Thread):
    """Somebody who weighs, holds, releases and loads in turn; each is sent again until it is answered."""

    def __init__(self, clock: Settings) -> None:
        super().__init__(daemon=True)
        self.clock, self.address, self.ends = clock.clock(), "", False
        self.acknowledged = dict[str, str]()
        self.refused = list[str]()

    def run(self) -> None:
        number = 0
        while not self.ends:
            number += 1
            try:
                self._do((self._weigh, self._hold, self._release, self._load)[number % 4])
            except (HTTPError, URLError, OSError, ValueError, LookupError, StopIteration):
                time.sleep(0.05)

    def _do(self, make: Any) -> None:
        """One thing, as often as it takes to hear that it was done, or refused."""
        made = make()
        if made is None:
            return
        path, body = made
        entry = {"uuid": str(uuid4()), "author": "Ida", **body}
        while not self.ends:
            request = Request(
                f"{self.address}{path}", data=json.dumps(entry).encode(), headers={"Content-Type": "application/json"}
            )
            try:
                with urlopen(request, timeout=10):
                    self.acknowledged[entry["uuid"]] = path
                    return
            except HTTPError as error:
                if error.code < 500:
                    self.refused.append(path)
                    return
            except (URLError, OSError):
                time.sleep(0.05)

    def _lots(self, words: str) -> list[dict[str, Any]]:
        found = get(f"{self.address}/api/lots?words={words}&most=50")
        return list(found)

    def _weigh(self) -> tuple[str, dict[str, Any]]:
        plan = get(f"{self.address}/api/plans/newest?line=bread-line&floor=true")
        day = get(f"{self.address}/api/window")
        run, batch = next(
            (run["id"], batch["number"])
            for run in plan["plan"]["runs"]
            for batch in run["batches"]
            if batch["start_min"] > day["now_min"] + 30
        )
        ref = {"line": "bread-line", "run": run, "key": str(batch)}
        guide = get(f"{self.address}/api/weighing?line=bread-line&run={run}&key={batch}")
        step = next(step for step in guide["steps"] if step["role"] == "flour")
        weighed = {"ingredient": step["ingredient"], "lot": step["lots"][0]["lot"], "grams": 10, "reason": "a test"}
        return "/api/weighing/weighed", {**ref, **weighed, "at": self.clock.now().isoformat()}

    def _hold(self) -> tuple[str, dict[str, Any]] | None:
        lot = next(line["lot"] for line in self._lots("packs") if line["held"] is None)
        return f"/api/lots/{lot['number']}/hold", {"reason": "a test", "onward": False}

    def _release(self) -> tuple[str, dict[str, Any]] | None:
        lot = next(line["lot"] for line in self._lots("packs") if line["held"] is not None)
        return f"/api/lots/{lot['number']}/release", {"reason": "a test", "onward": False}

    def _load(self) -> tuple[str, dict[str, Any]] | None:
        lorries = get(f"{self.address}/api/dispatch")
        lorry, lot = next(
            (lorry["lorry"], lot["lot"])
            for lorry in lorries
            if lorry["left_at"] is None
            for product in lorry["products"]
            for lot in product["there"]
            if lot["refused"] is None
        )
        return "/api/dispatch/loads", {"lorry": lorry, "lot": lot, "packs": 1}


def test_nothing_acknowledged_is_lost_or_there_twice(home: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    own = home / "record-kills"
    own.mkdir()
    for name, value in {
        "RUNDGANG_CLOCK_SHOWS": SHOWS.isoformat(),
        "RUNDGANG_CLOCK_AT": datetime.now(UTC).isoformat(),
        "RUNDGANG_SIMULATED": "false",
    }.items():
        monkeypatch.setenv(name, value)
    monkeypatch.delenv("DATABASE_URL", raising=False)
    hands = Hands(Settings())
    for round_ in range(KILLS):
        with serving(own) as (server, address):
            hands.address = address
            if not round_:
                hands.start()
            done, until = len(hands.acknowledged), time.monotonic() + 120
            while len(hands.acknowledged) < done + 8:
                assert time.monotonic() < until, (hands.acknowledged, hands.refused)
                time.sleep(0.05)
            server.kill()
            server.wait(10)
        until_gone(own)
    hands.ends = True
    hands.join(30)
    assert {path.rsplit("/", 1)[-1] for path in hands.acknowledged.values()} == {"weighed", "hold", "release", "loads"}
    with PrivateCluster(own) as urls:
        engine = connect(urls.app)
        with Session(engine) as session:
            stored = [
                str(row[0])
                for table in ("lot_use", "lot_event", "lot_load")
                for row in session.connection().execute(text(f"SELECT uuid FROM {table} WHERE uuid IS NOT NULL"))
            ]
            half = session.connection().execute(
                text(
                    "SELECT code FROM lot WHERE kind = 'packs' AND run IS NOT NULL AND NOT EXISTS "
                    "(SELECT 1 FROM lot_use WHERE into_id = lot.id AND kind = 'divided')"
                )
            )
            assert half.all() == [], "packs without a dough"
            unmade = session.connection().execute(
                text(
                    "SELECT code FROM lot WHERE kind = 'batch' AND EXISTS (SELECT 1 FROM lot_event "
                    "WHERE lot_id = lot.id AND kind = 'discharged') "
                    "AND NOT EXISTS (SELECT 1 FROM lot_use WHERE into_id = lot.id)"
                )
            )
            assert unmade.all() == [], "a batch of nothing"
        engine.dispose()
    assert len(stored) == len({*stored}), "none is there twice"
    missing = {*hands.acknowledged} - {*stored}
    assert missing == set(), "what was acknowledged is there"
    assert len({*stored} - {*hands.acknowledged}) <= 1, "at most the one whose answer was never heard"
