"""Starting, stopping and being killed: `rundgang serve` as the demo script runs it."""

import contextlib
import json
import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from urllib.error import HTTPError
from urllib.request import Request, urlopen

import pytest

from rundgang.serve import listen

COMMAND = [sys.executable, "-m", "rundgang.cli", "serve", "--demo", "--day", "2026-03-11", "--port"]
CSV = b"order,dispatch,product,packs\nk1,harbour-260311,lantern-plain,77\n"


def environment(home: Path) -> dict[str, str]:
    kept = {name: value for name, value in os.environ.items() if name not in {"DATABASE_URL"}}
    return {**kept, "RUNDGANG_HOME": str(home)}


@contextmanager
def serving(home: Path) -> Iterator[tuple[subprocess.Popen[str], str]]:
    """A server; a hang-up means to it what it usually does, also where whoever runs the tests is told to ignore it."""
    command = ["env", "--default-signal=HUP", *COMMAND, "0"]
    server = subprocess.Popen(command, env=environment(home), stdout=subprocess.PIPE, text=True)
    try:
        assert server.stdout
        ready = server.stdout.readline()
        assert ready.startswith("Rundgang is ready: http://127.0.0.1:"), ready
        yield server, ready.split()[3]
    finally:
        if server.poll() is None:
            server.send_signal(signal.SIGINT)
        server.wait(60)


def get(url: str) -> dict[str, object]:
    with urlopen(url, timeout=20) as answer:
        return dict(json.load(answer))


def postmaster(home: Path) -> Path:
    return next(home.rglob("postmaster.pid"), home / "none")


def until_beside(home: Path, before: int | None) -> int:
    """The process that serves beside the first one, once there is one and it is another than before."""
    until = time.monotonic() + 60
    while True:
        found = [number for number, command in numbered(home) if " server --socket " in command and number != before]
        if found:
            return found[0]
        assert time.monotonic() < until
        time.sleep(0.2)


def processes(home: Path) -> list[str]:
    """The commands that run of a server with its data there: PostgreSQL, its guardian, a worker."""
    return [command for _, command in numbered(home)]


def numbered(home: Path) -> list[tuple[int, str]]:
    """They with their numbers."""
    found = []
    for folder in Path("/proc").glob("[0-9]*"):
        with contextlib.suppress(OSError):
            told = (folder / "cmdline").read_bytes() + (folder / "environ").read_bytes()
            if str(home).encode() in told and int(folder.name) != os.getpid():
                found.append((int(folder.name), (folder / "cmdline").read_text().replace("\0", " ")))
    return found


def process_of(file: Path) -> int | None:
    """The server's process by its file, where that is written."""
    lines = file.read_text().splitlines() if file.exists() else []
    return int(lines[0]) if lines else None


def until_gone(home: Path) -> None:
    """Wait until nothing of a server is left: a worker that is only starting ends once it has."""
    until = time.monotonic() + 60
    while left := processes(home):
        assert time.monotonic() < until, left
        time.sleep(0.2)


def until_there(url: str) -> dict[str, object]:
    """What is at an address, once it answers."""
    until = time.monotonic() + 30
    while True:
        try:
            return get(url)
        except HTTPError as error:
            assert error.code == 503
            assert time.monotonic() < until
            time.sleep(0.2)


@pytest.fixture
def own_home(home: Path) -> Path:
    """A folder of the test's own that the database server's account can reach."""
    own = home / "serve"
    own.mkdir(exist_ok=True)
    return own


def test_what_was_saved_survives_kill_9_and_a_second_start_is_clean(own_home: Path) -> None:
    with serving(own_home) as (server, address):
        assert get(f"{address}/api/window")["orders"] == 96
        import_request = Request(f"{address}/api/orders/import", data=CSV, headers={"Content-Type": "text/csv"})
        with urlopen(import_request, timeout=20) as answer:
            assert answer.status == 201
        server.kill()
        server.wait(10)
    until_gone(own_home)

    with serving(own_home) as (_, address):
        assert get(f"{address}/api/window")["orders"] == 97, "the order is there, the demo is not seeded again"
        second = subprocess.run(
            [*COMMAND, "0"], env=environment(own_home), capture_output=True, text=True, timeout=60, check=False
        )
        assert second.returncode == 2
        assert "Another Rundgang is running with the data in" in second.stderr
        assert "Traceback" not in second.stderr
    assert not postmaster(own_home).exists(), "Ctrl-C stops all that was started"

    reset = subprocess.Popen([*COMMAND, "0", "--reset"], env=environment(own_home), stdout=subprocess.PIPE, text=True)
    assert reset.stdout
    address = reset.stdout.readline().split()[3]
    assert get(f"{address}/api/window")["orders"] == 96
    reset.send_signal(signal.SIGINT)
    reset.wait(60)


@pytest.mark.parametrize("told", [signal.SIGKILL, signal.SIGTERM, signal.SIGHUP])
def test_nothing_is_left_of_a_server_however_it_ends(own_home: Path, told: signal.Signals) -> None:
    with serving(own_home) as (server, _):
        assert any("worker" in command for command in processes(own_home))
        server.send_signal(told)
        server.wait(10)
    until_gone(own_home)


def test_a_database_that_dies_is_started_again(own_home: Path) -> None:
    """Its postmaster is killed: another is there soon, with all that was, and a search is taken up by the worker."""
    with serving(own_home) as (_, address):
        killed = process_of(postmaster(own_home))
        assert killed is not None
        os.kill(killed, signal.SIGKILL)
        until = time.monotonic() + 30
        while process_of(postmaster(own_home)) in {killed, None}:
            assert time.monotonic() < until
            time.sleep(0.2)
        assert until_there(f"{address}/api/window")["orders"] == 96
        asked = json.dumps({"seconds": 1, "seed": 1}).encode()
        with urlopen(
            Request(f"{address}/api/searches", data=asked, headers={"Content-Type": "application/json"})
        ) as made:
            job = json.load(made)["job"]
        until = time.monotonic() + 60
        while get(f"{address}/api/searches/{job}")["state"] != "done":
            assert time.monotonic() < until
            time.sleep(0.5)


def test_two_processes_answer_and_one_that_is_killed_is_started_again(own_home: Path) -> None:
    with serving(own_home) as (server, address):
        beside = until_beside(own_home, None)
        os.kill(server.pid, signal.SIGSTOP)
        assert get(f"{address}/api/window")["orders"] == 96, "the other one answers while the first stands still"
        os.kill(server.pid, signal.SIGCONT)
        os.kill(beside, signal.SIGKILL)
        assert get(f"{address}/api/window")["orders"] == 96
        until_beside(own_home, beside)
    until_gone(own_home)


def test_small_answers_are_sent_at_once() -> None:
    """TCP_NODELAY is set by asyncio only where the listening socket's protocol is named."""
    with listen(0) as bound:
        assert bound.proto == socket.IPPROTO_TCP


def test_a_taken_port_is_a_clear_message(own_home: Path) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        refused = subprocess.run(
            [*COMMAND, str(port)], env=environment(own_home), capture_output=True, text=True, timeout=60, check=False
        )
    assert refused.returncode == 2
    assert f"Port {port} cannot be used: another program listens there" in refused.stderr
    assert "Traceback" not in refused.stderr
    assert not postmaster(own_home).exists(), "nothing was started"
