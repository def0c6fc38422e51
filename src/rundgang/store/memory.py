"""What was read from rows that are never changed, kept for the next request: libraries, days and plans."""

from collections import OrderedDict
from collections.abc import Callable, Hashable
from threading import Lock
from typing import Any, TypeVar
from weakref import WeakKeyDictionary

from sqlalchemy import Connection, Engine

Kept = TypeVar("Kept")

MOST_KEPT = 256
"""So many things are kept; the one not asked for longest goes first."""


class Memory:
    """A few things by key, made when they are first asked for."""

    def __init__(self) -> None:
        self._kept: OrderedDict[Hashable, Any] = OrderedDict()
        self._lock = Lock()

    def keep(self, key: Hashable, made: object) -> None:
        """Keep a thing under a key, in place of what was there."""
        with self._lock:
            self._kept[key] = made
            self._kept.move_to_end(key)
            while len(self._kept) > MOST_KEPT:
                self._kept.popitem(last=False)

    def recall(self, key: Hashable, make: Callable[[], Kept]) -> Kept:
        """What is kept under a key, or what `make` gives, kept from now on."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                found: Kept = self._kept[key]
                return found
        made = make()
        self.keep(key, made)
        return made

    def fresh(self, key: Hashable, stamp: Hashable, make: Callable[[], Kept]) -> Kept:
        """What is kept under a key with the same stamp, or what `make` gives, in place of what was there."""
        with self._lock:
            known = self._kept.get(key)
        if known is not None and known[0] == stamp:
            found: Kept = known[1]
            return found
        made = make()
        self.keep(key, (stamp, made))
        return made


_MEMORIES: "WeakKeyDictionary[Engine, Memory]" = WeakKeyDictionary()


def memory_of(bind: Engine | Connection) -> Memory:
    """The memory of a database, as long as its engine lives."""
    engine = bind.engine
    if engine not in _MEMORIES:
        _MEMORIES[engine] = Memory()
    return _MEMORIES[engine]
