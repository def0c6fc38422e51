"""The application under load, as `rundgang serve` serves it: many clients over loopback, each on its own connection.

Server, database and clients share this machine. Prints, for one client and for many, requests a second and the 95th
percentile of the time to an answer; a browser asks again with the name of what it has (`ETag`), a first visitor
without. With `--orders` an import of 2,000 orders, by one and by ten at once, each trying again while it is told to.
"""

import argparse
import asyncio
import http.client
import json
import os
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from itertools import count
from pathlib import Path
from tempfile import TemporaryDirectory

READS = {
    "GET day": "/api/window",
    "newest version, one line": "/api/versions/newest?line=ring-line",
    "newest version, all lines": "/api/versions/newest",
    "cards": "/api/plans/1/cards",
    "materials": "/api/materials",
}
MANY = 50
PLANNERS = 10
ORDERS = 2_000
FIRST_MINUTE = "2026-03-10T12:00:00+01:00"


@contextmanager
def served() -> Iterator[int]:
    """The port of the demo, served by a process of its own."""
    with TemporaryDirectory() as home:
        Path(home).chmod(0o755)
        environment = {**os.environ, "RUNDGANG_HOME": f"{home}/rundgang", "RUNDGANG_CLOCK_SHOWS": FIRST_MINUTE}
        command = [sys.executable, "-m", "rundgang.cli", "serve", "--demo", "--day", "2026-03-11", "--port", "8761"]
        process = subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, text=True)
        try:
            assert process.stdout
            while "is ready" not in process.stdout.readline():
                pass
            yield 8761
        finally:
            process.terminate()
            process.wait(timeout=30)


async def client(port: int, path: str, until: float, names: bool, took: list[float]) -> None:
    """Ask again and again on one connection, after a first answer that is not counted."""
    reader, writer = await asyncio.open_connection("127.0.0.1", port)
    tag = ""
    for number in count():
        known = f"If-None-Match: {tag}\r\n" if names and tag else ""
        begin = time.perf_counter()
        writer.write(f"GET {path} HTTP/1.1\r\nHost: localhost\r\nAccept-Encoding: gzip\r\n{known}\r\n".encode())
        head = (await reader.readuntil(b"\r\n\r\n")).decode("latin-1")
        headers = dict(line.lower().split(": ", 1) for line in head.split("\r\n")[1:] if line)
        tag = headers.get("etag", "")
        await reader.readexactly(int(headers.get("content-length", 0)))
        status = int(head.split()[1])
        if status not in {200, 304}:
            raise RuntimeError(f"{path} was answered {status}")
        if number:
            took.append(time.perf_counter() - begin)
        if time.perf_counter() > until:
            break
    writer.close()


def asked(port: int, path: str, clients: int, seconds: float, names: bool) -> tuple[float, float]:
    """Requests a second, and the 95th percentile of what they took, s."""

    async def run() -> tuple[float, float]:
        took = list[float]()
        begin = time.perf_counter()
        await asyncio.gather(*(client(port, path, begin + seconds, names, took) for _ in range(clients)))
        took.sort()
        return len(took) / (time.perf_counter() - begin), took[int(0.95 * (len(took) - 1))]

    return asyncio.run(run())


def sent(port: int, path: str, body: bytes, kind: str) -> tuple[int, bytes]:
    """A change, by a connection of its own."""
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=120)
    connection.request("POST", path, body, {"Content-Type": kind, "Host": "localhost"})
    answer = connection.getresponse()
    found = answer.status, answer.read()
    connection.close()
    return found


def until_taken(port: int, path: str, body: bytes, kind: str) -> float:
    """How long it takes until a change is taken, trying again while it is told to, s."""
    begin = time.perf_counter()
    while True:
        status, answer = sent(port, path, body, kind)
        if status < 300:
            return time.perf_counter() - begin
        if status not in {409, 503}:
            raise RuntimeError(f"{path} was answered {status}: {answer[:200]!r}")
        time.sleep(0.05)


def percentile(clients: int, rounds: int, once: Callable[[int], float]) -> float:
    """The 95th percentile over so many rounds of so many at once."""
    with ThreadPoolExecutor(clients) as together:
        took = sorted(
            seconds for at in range(rounds) for seconds in together.map(once, range(at * 100, at * 100 + clients))
        )
    return took[int(0.95 * (len(took) - 1))]


def main() -> None:
    """Print the table."""
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--seconds", type=float, default=5)
    seconds = options.parse_args().seconds
    with served() as port:
        print(f"{'':<28}{'1 client, p95':>16}{f'{MANY}: a second':>16}{'p95':>10}{'with its name':>16}{'p95':>10}")
        for name, path in READS.items():
            _, alone = asked(port, path, 1, seconds, names=False)
            rate, many = asked(port, path, MANY, seconds, names=False)
            again, brief = asked(port, path, MANY, seconds, names=True)
            _, told = asked(port, path, 1, 1, names=True)
            print(
                f"{name:<28}{alone * 1000:>13.1f} ms{rate:>16,.0f}{many * 1000:>7.0f} ms{again:>16,.0f}"
                f"{brief * 1000:>7.0f} ms   304 alone {told * 1000:.1f} ms",
                flush=True,
            )
        drags(port)
        imports(port)


def drags(port: int) -> None:
    """A drag tried, by one and by ten."""
    connection = http.client.HTTPConnection("127.0.0.1", port)
    connection.request("GET", "/api/versions/newest?line=ring-line")
    version = json.loads(connection.getresponse().read())
    run = version["plans"][0]["plan"]["runs"][-1]
    path = f"/api/versions/{version['note']['number']}/tries"

    def once(number: int) -> float:
        change = {
            "kind": "move",
            "line": "ring-line",
            "run": run["id"],
            "start_min": run["start_min"] + 10 + number % 47,
        }
        return until_taken(port, path, json.dumps({"change": change}).encode(), "application/json")

    once(0)
    alone, together = percentile(1, 20, once), percentile(PLANNERS, 8, once)
    print(f"a drag tried: {alone * 1000:.0f} ms, by {PLANNERS} {together * 1000:.0f} ms")


def imports(port: int) -> None:
    """An import of many orders, by one and by ten at once."""

    def once(number: int) -> float:
        rows = "".join(f"L{number}-{row},harbour-260311,lantern-plain,12\n" for row in range(ORDERS))
        body = f"order,dispatch,product,packs\n{rows}".encode()
        return until_taken(port, "/api/orders/import?mode=replace", body, "text/csv")

    print(f"an import of {ORDERS:,} orders: {percentile(1, 8, once) * 1000:.0f} ms, ", end="", flush=True)
    print(f"by {PLANNERS} {percentile(PLANNERS, 3, once) * 1000:.0f} ms")


if __name__ == "__main__":
    main()
