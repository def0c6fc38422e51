"""A page that listens to what happens."""

import socket
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from queue import Queue

import httpx2 as httpx

PATIENCE_S = 30

Told = Queue[tuple[str, str]]


@contextmanager
def listening(address: str) -> Iterator[Told]:
    """What a page is told, as kind and data, once it listens."""
    told: Told = Queue()
    with httpx.stream("GET", f"{address}/api/events", timeout=PATIENCE_S) as stream:
        assert stream.headers["content-type"].startswith("text/event-stream")

        def take() -> None:
            kind = ""
            try:
                for line in stream.iter_lines():
                    name, _, value = line.partition(": ")
                    if name == "event":
                        kind = value
                    elif name.startswith("data"):
                        told.put((kind, value))
            except httpx.HTTPError:
                told.put(("closed", ""))
            else:
                told.put(("ended", ""))

        threading.Thread(target=take, daemon=True).start()
        assert told.get(timeout=PATIENCE_S)[0] == "listening"
        try:
            yield told
        finally:
            with suppress(OSError):
                stream.extensions["network_stream"].get_extra_info("socket").shutdown(socket.SHUT_RDWR)
