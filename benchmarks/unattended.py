"""A day of the demo at sixty times the clock: forecasts beside what then happens, memory, and what is stale.

The application, its collector and the simulated plant run as `script/demo` starts them; every few seconds each line is
asked for as its page asks. At the end the plant, made again from its seed and from what was published, says when each
run's last pack came. With stops (`--stops`), the hours as they were counted are held beside the plant's own.
"""

import argparse
import json
import time
from bisect import bisect_left
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from math import inf
from pathlib import Path
from statistics import median
from typing import Any, NamedTuple
from urllib.request import urlopen

from readings import served

from rundgang.clock import Clock
from rundgang.instruments.simulated.chance import Chance
from rundgang.instruments.simulated.plant import SimulatedPlant
from rundgang.instruments.simulated.server import Follower
from rundgang.store.database import connect

SPEED, SEED, DAY = 60, 1, "2026-03-11"
BEGINS = datetime(2026, 3, 10, 23, 40, tzinfo=UTC)
"""When lines are at work on the demo's first day."""

EVERY_S = 10.0
STALE_MIN = 10.0
"""What has been read so long ago is old; counts of what stands still are not."""


LOOKS_A_MIN = 10
"""So often the plant is looked at for when a run's last pack came."""

ROUNDED_OFF = 1
"""So many packs all runs together may have lost by counting whole ones."""

HOUR_MIN = 60
SEEN_MIN = 2
"""A run is seen to begin so long after it does."""

HOUR_SHARE = 0.01
"""Packs on the edge of an hour may be counted in the next one."""


class Forecast(NamedTuple):
    """When a begun run's last pack was forecast to come, min from the beginning."""

    line: str
    run: str
    ends_min: float


def settings(stops: bool, at: datetime) -> dict[str, str]:
    """The simulated plant and the clock that it works by."""
    return {
        "RUNDGANG_SIMULATED_SEED": str(SEED),
        "RUNDGANG_SIMULATED_STOPS": str(stops).lower(),
        "RUNDGANG_CLOCK_SHOWS": BEGINS.isoformat(),
        "RUNDGANG_CLOCK_AT": at.isoformat(),
        "RUNDGANG_CLOCK_SPEED": str(SPEED),
    }


def asked(port: int, path: str) -> Any:
    """An answer of the application."""
    with urlopen(f"http://127.0.0.1:{port}{path}", timeout=60) as answer:
        return json.load(answer)


def memory_mb(pid: int) -> float:
    """What a process and all it has started hold, each page once, MB."""
    total = 0
    for line in Path(f"/proc/{pid}/smaps_rollup").read_text().splitlines():
        total += int(line.split()[1]) if line.startswith("Pss:") else 0
    children = Path(f"/proc/{pid}/task/{pid}/children").read_text().split()
    return total / 1024 + sum(memory_mb(int(child)) for child in children if Path(f"/proc/{child}").exists())


def stale(now: dict[str, Any], moment: datetime, mixers: set[str]) -> list[str]:
    """Instruments that read something long ago of which the page does not say that they are silent.

    The probe of a mixer reads one dough after another, however long that takes.
    """
    old = moment - timedelta(minutes=STALE_MIN)
    return [
        one["path"]
        for one in now["read"]
        if one["quantity"] in {"temperature", "humidity"}
        and one["station"] not in mixers
        and one["at"]
        and datetime.fromisoformat(one["at"]) < old
        and one["path"] not in now["silent"]
    ]


def ends_of(
    plant: SimulatedPlant, line: str, station: str, packs: list[tuple[str, int]], until: int
) -> dict[str, float]:
    """When the last pack of each run came, min: their packs leave the station one run after the other."""
    minutes = [step / LOOKS_A_MIN for step in range(until * LOOKS_A_MIN)]
    counts = [plant.count(line, station, minute) for minute in minutes]
    found, total = dict[str, float](), 0
    for run, own in packs:
        total += own
        place = bisect_left(counts, total - ROUNDED_OFF)
        found[run] = minutes[place] if place < len(minutes) else inf
    return found


@dataclass
class Watch:
    """What was seen of the demo while it ran; runs by line and name, hours by line and first minute.

    `heard` says from when on a line's packs were counted: what was on it then, nobody has seen begin.

    Minutes are counted from the beginning: the window goes on once a day, and its own minutes with it.
    """

    said: list[Forecast] = field(default_factory=list)
    runs: dict[str, dict[str, dict[str, Any]]] = field(default_factory=dict)
    heard: dict[str, float] = field(default_factory=dict)
    mixers: set[str] = field(default_factory=set)
    hours: dict[tuple[str, float], tuple[float, int]] = field(default_factory=dict)
    held_mb: list[float] = field(default_factory=list)
    took_s: list[float] = field(default_factory=list)
    silent: int = 0

    def look(self, port: int, line: str, moment: datetime) -> None:
        """Ask for a line now, as its page does."""
        window = asked(port, "/api/window")
        begin = time.perf_counter()
        now = asked(port, f"/api/now?line={line}")
        self.took_s.append(time.perf_counter() - begin)
        if asked(port, "/api/window")["number"] != window["number"]:
            return
        self.silent += len(stale(now, moment, self.mixers))
        shift = (datetime.fromisoformat(window["window"]["starts_at"]) - BEGINS).total_seconds() / 60
        if now["pace"]:
            self.heard.setdefault(line, now["pace"]["since_min"] + shift)
        for run in now["plan"]["runs"]:
            own = {name: run[name] + shift for name in ("start_min", "last_pack_min")}
            self.runs.setdefault(line, {})[run["id"]] = run | own
            if run["start_min"] + SEEN_MIN < now["now_min"] < run["last_pack_min"]:
                self.said.append(Forecast(line, run["id"], run["last_pack_min"] + shift))
        for hour in now["hours"]:
            if hour["made"] is not None and now["pace"]["since_min"] <= hour["from_min"] < now["now_min"] - HOUR_MIN:
                self.hours[line, hour["from_min"] + shift] = hour["until_min"] + shift, hour["made"]


class Happened(NamedTuple):
    """The plant as it was at work, the last station of each product, and the beginning by its count, min."""

    plant: SimulatedPlant
    last: dict[str, str]
    shift_min: float
    until_min: int


def watched(given: argparse.Namespace) -> tuple[Watch, Happened]:
    """Let the demo run for so many hours of its clock."""
    watch, at = Watch(), datetime.now(UTC)
    clock = Clock(BEGINS, at, SPEED)
    with served(settings(given.stops, at), "--day", DAY) as (urls, port, pid):
        library = asked(port, "/api/library")["library"]
        lines = [line["id"] for line in library["plant"]["lines"]]
        stations = (station for line in library["plant"]["lines"] for station in line["stations"])
        watch.mixers = {station["id"] for station in stations if station["kind"] == "batch"}
        ends = BEGINS + timedelta(hours=given.hours)
        while clock.now() < ends:
            for line in lines:
                watch.look(port, line, clock.now())
            watch.held_mb.append(memory_mb(pid))
            time.sleep(EVERY_S)
        engine = connect(urls.app)
        follower = Follower(engine, clock, Chance(SEED, given.stops))
        follower.follow()
        engine.dispose()
    assert follower.plant
    last = {made["id"]: made["route"][-1]["station"] for made in library["products"]}
    until = int(follower.plant.minute(ends + timedelta(hours=24)))
    return watch, Happened(follower.plant, last, follower.plant.minute(BEGINS), until)


def told_forecasts(watch: Watch, happened: Happened) -> None:
    """Print by how much forecasts were off."""
    seen, unseen = dict[str, list[float]](), dict[str, list[float]]()
    for line, made in watch.runs.items():
        for station in {happened.last[run["product"]] for run in made.values()}:
            own = [run for run in made.values() if happened.last[run["product"]] == station]
            packs = [(run["id"], run["packs"]) for run in sorted(own, key=lambda run: run["last_pack_min"])]
            ended = ends_of(happened.plant, line, station, packs, happened.until_min)
            for one in watch.said:
                if one.line == line and one.run in ended:
                    by = one.ends_min + happened.shift_min - ended[one.run]
                    off = unseen if made[one.run]["start_min"] < watch.heard.get(line, inf) else seen
                    off.setdefault(f"{line} {one.run}", []).append(by)
    told_off("runs that began while their line was heard", seen)
    told_off("runs that were on their line when it was first heard", unseen)


def told_off(what: str, off: dict[str, list[float]]) -> None:
    """Print by how much the forecasts of some runs were off, and which most."""
    every = sorted(abs(by) for run in off.values() for by in run)
    if not every:
        return
    near = every[int(0.95 * (len(every) - 1))]
    print(f"{len(every)} forecasts of {len(off)} {what}: off by {median(every):.2f} min in the median,", end=" ")
    print(f"{near:.2f} at 95 %, {every[-1]:.2f} at most")
    for name, apart in sorted(off.items(), key=lambda entry: -max(map(abs, entry[1])))[:8]:
        print(f"  {name}: {min(apart):+.2f} to {max(apart):+.2f} min in {len(apart)} forecasts")


def told_hours(watch: Watch, happened: Happened) -> None:
    """Print how many of the hours that were counted are not as the plant's own."""
    wrong = 0
    for (line, from_min), (until_min, packs) in watch.hours.items():
        stations = {happened.last[run["product"]] for run in watch.runs[line].values()}
        begin, end = from_min + happened.shift_min, until_min + happened.shift_min
        own = sum(happened.plant.count(line, of, end) - happened.plant.count(line, of, begin) for of in stations)
        wrong += abs(own - packs) > HOUR_SHARE * own + 2
    print(f"{len(watch.hours)} hours counted, {wrong} of them not within {HOUR_SHARE:.0%} of the plant's own")


def main() -> None:
    """Print what was forecast beside what happened."""
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--hours", type=float, default=24)
    options.add_argument("--stops", action="store_true")
    watch, happened = watched(options.parse_args())
    told_forecasts(watch, happened)
    told_hours(watch, happened)
    tenth, took = max(1, len(watch.held_mb) // 10), sorted(watch.took_s)
    after, end = median(watch.held_mb[tenth : 2 * tenth]), median(watch.held_mb[-tenth:])
    print(f"memory: {after:.0f} MB after a tenth of the time, {end:.0f} at the end")
    print(f"instruments stale and not said so: {watch.silent}")
    near = took[int(0.95 * (len(took) - 1))]
    print(f"a line now: {took[len(took) // 2] * 1000:.0f} ms in the median, {near * 1000:.0f} at 95 %")


if __name__ == "__main__":
    main()
