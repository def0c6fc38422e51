"""Starting, stopping and being killed: `rundgang serve` as the demo script runs it."""

import json
import os
import signal
import socket
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from urllib.request import Request, urlopen

import pytest

COMMAND = [sys.executable, "-m", "rundgang.cli", "serve", "--demo", "--day", "2026-03-11", "--port"]
CSV = b"order,dispatch,product,packs\nk1,harbour-260311,lantern-plain,77\n"


def environment(home: Path) -> dict[str, str]:
    kept = {name: value for name, value in os.environ.items() if name not in {"DATABASE_URL"}}
    return {**kept, "RUNDGANG_HOME": str(home)}


@contextmanager
def serving(home: Path) -> Iterator[tuple[subprocess.Popen[str], str]]:
    server = subprocess.Popen([*COMMAND, "0"], env=environment(home), stdout=subprocess.PIPE, text=True)
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
    assert postmaster(own_home).exists(), "the database outlives the killed application"

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
