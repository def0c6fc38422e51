"""An answer to trouble, over HTTP, on the demo at work: how long limits take, and options, at every station.

Every station that pieces pass is told to stand for 5, 20 and 60 min at a moment when the lines are at work.
"""

import argparse
import json
import time
from datetime import UTC, datetime
from typing import Any
from urllib.request import Request, urlopen

from readings import served

AT = datetime(2026, 3, 11, 1, 57, tzinfo=UTC)
"""When the lines of the demo's first day are at work."""

MINUTES = {"low_min": 5, "likely_min": 20, "high_min": 60}


def posted(port: int, path: str, body: dict[str, Any]) -> Any:
    """The stream of an answer."""
    request = Request(f"http://127.0.0.1:{port}{path}", json.dumps(body).encode(), {"Content-Type": "application/json"})
    return urlopen(request, timeout=120)


def stations(port: int) -> list[tuple[str, str]]:
    """The stations that pieces of a line pass, line by line."""
    with urlopen(f"http://127.0.0.1:{port}/api/library") as answer:
        library = json.load(answer)["library"]
    found = dict[tuple[str, str], None]()
    for made in library["products"]:
        for step in made["route"]:
            if step["kind"] not in {"batch"}:
                found[made["line"], step["station"]] = None
    return list(found)


def told(name: str, took: list[float]) -> None:
    """Print the middle, the 95th percentile and the worst."""
    took.sort()
    median, near = took[len(took) // 2], took[int(0.95 * (len(took) - 1))]
    print(
        f"{name:<28}{median * 1000:>8.0f} ms{near * 1000:>8.0f} at 95 %{took[-1] * 1000:>8.0f} at most, of {len(took)}"
    )


def main() -> None:
    """Print the figures."""
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--every", type=int, default=1, help="only every so many stations")
    every = options.parse_args().every
    limits, first, last = list[float](), list[float](), list[float]()
    clock = {"RUNDGANG_CLOCK_SHOWS": AT.isoformat(), "RUNDGANG_SIMULATED": "false"}
    with served(clock, "--day", "2026-03-11") as (_, port, _pid):
        for line, station in stations(port)[::every]:
            body = {"line": line, "station": station, **MINUTES}
            begin = time.perf_counter()
            try:
                with posted(port, "/api/trouble/effect", body) as answer:
                    answer.read()
            except OSError:
                continue
            limits.append(time.perf_counter() - begin)
            begin, came = time.perf_counter(), list[float]()
            with posted(port, "/api/trouble/options", body) as answer:
                came.extend(time.perf_counter() - begin for _ in answer)
            first.append(came[0])
            last.append(came[-1])
    told("what stands, and limits", limits)
    told("the first option", first)
    told("the last option", last)


if __name__ == "__main__":
    main()
