"""Clients who are slow, endless or speak no HTTP; over real sockets."""

import asyncio
import json
import socket
import threading
import time
from collections.abc import Iterator
from typing import Any

import pytest
import uvicorn

from rundgang.api import patient

SOON_S = 0.4
REQUEST = b"GET /%s HTTP/1.1\r\nHost: x\r\n\r\n"


async def bakery(scope: Any, _: Any, send: Any) -> None:
    """Answers at once; under /much with more than any buffer holds."""
    if scope["type"] != "http":
        return
    await send({"type": "http.response.start", "status": 200, "headers": [(b"transfer-encoding", b"chunked")]})
    for _ in range(2_000 if scope["path"] == "/much" else 1):
        await send({"type": "http.response.body", "body": b"loaf" * 16_384, "more_body": True})
        await asyncio.sleep(0)
    await send({"type": "http.response.body", "body": b""})


@pytest.fixture
def port(monkeypatch: pytest.MonkeyPatch) -> Iterator[int]:
    monkeypatch.setattr(patient, "REQUEST_S", SOON_S)
    monkeypatch.setattr(patient, "ANSWER_S", SOON_S)
    config = uvicorn.Config(bakery, http=patient.PatientProtocol, log_config=None, timeout_graceful_shutdown=1)
    server, listening = uvicorn.Server(config), socket.create_server(("127.0.0.1", 0))
    running = threading.Thread(target=server.run, kwargs={"sockets": [listening]})
    running.start()
    while not server.started:
        time.sleep(0.01)
    yield listening.getsockname()[1]
    server.should_exit = True
    running.join()


def all_of(connection: socket.socket) -> bytes:
    """What comes until the other side closes; TimeoutError where it does not."""
    connection.settimeout(20 * SOON_S)
    parts = []
    try:
        while part := connection.recv(65_536):
            parts.append(part)
    except ConnectionResetError:
        pass
    return b"".join(parts)


@pytest.mark.parametrize("sent", [b"", b"GET / HT", b"POST / HTTP/1.1\r\nHost: x\r\nContent-Length: 9\r\n\r\nloaf"])
def test_who_does_not_finish_a_request_is_cut_off(port: int, sent: bytes) -> None:
    """The connection is closed, or reading from it times out."""
    with socket.create_connection(("127.0.0.1", port)) as connection:
        connection.sendall(sent)
        all_of(connection)


def send_headers(port: int, count: int, value: bytes, pause_s: float) -> None:
    """Headers without an end, one after another."""
    with socket.create_connection(("127.0.0.1", port)) as connection:
        connection.settimeout(10)
        connection.sendall(b"GET / HTTP/1.1\r\n")
        for number in range(count):
            connection.sendall(b"X-%d: %s\r\n" % (number, value))
            time.sleep(pause_s)


CUT_OFF = (BrokenPipeError, ConnectionResetError)


def test_who_sends_a_little_at_a_time_is_cut_off_too(port: int) -> None:
    with pytest.raises(CUT_OFF):
        send_headers(port, 100, b"loaf", SOON_S / 4)


def test_headers_without_end_are_cut_off(port: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(patient, "REQUEST_S", 60)
    with pytest.raises(CUT_OFF):
        send_headers(port, 10_000, b"loaf" * 1_000, 0)


def test_who_takes_no_answer_is_cut_off(port: int) -> None:
    with socket.create_connection(("127.0.0.1", port)) as connection:
        connection.sendall(REQUEST % b"much")
        time.sleep(2 * SOON_S)
        taken = all_of(connection)
    assert b"loaf" in taken
    assert b"\r\n0\r\n\r\n" not in taken, "the answer did not end"


def test_who_takes_a_long_answer_slowly_but_surely_gets_it(port: int) -> None:
    with socket.create_connection(("127.0.0.1", port)) as connection:
        connection.sendall(REQUEST % b"much")
        taken = b""
        while not taken.endswith(b"\r\n0\r\n\r\n"):
            taken = taken[-16:] + connection.recv(4_194_304)
            time.sleep(SOON_S / 100)


def test_what_is_no_http_is_a_problem_in_strict_headers(port: int) -> None:
    with socket.create_connection(("127.0.0.1", port)) as connection:
        connection.sendall(b"\x16\x03\x01 loaf\r\n\r\n")
        head, _, body = all_of(connection).partition(b"\r\n\r\n")
    assert head.startswith(b"HTTP/1.1 400 ")
    assert b"content-type: application/problem+json" in head
    assert b"x-content-type-options: nosniff" in head.lower()
    assert b"content-security-policy: default-src 'none'" in head.lower()
    assert "HTTP" in json.loads(body)["title"]


def test_who_asks_and_asks_again_is_served_on_one_connection(port: int) -> None:
    with socket.create_connection(("127.0.0.1", port)) as connection:
        for _ in range(3):
            connection.sendall(REQUEST % b"")
            taken = b""
            while not taken.endswith(b"\r\n0\r\n\r\n"):
                taken += connection.recv(65_536)
            time.sleep(SOON_S * 1.2)
