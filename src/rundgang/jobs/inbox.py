"""The inbox: a folder that stands in for a customer's system. Files dropped there are taken when clean, held when not.

What has the headings of readings is taken as such, all else as orders.

A file in a folder of the inbox that is called as a mapping of headings is read by that. What was taken moves to
`taken`; what has faults moves to `held`, its faults beside it, and waits for the planner.
"""

import time
from collections.abc import Iterator
from itertools import chain, count
from pathlib import Path

from rundgang.clock import Clock
from rundgang.core.errors import RundgangError
from rundgang.core.model import Model
from rundgang.formats import readings_files
from rundgang.formats.orders_csv import MAX_BYTES, TooLargeError
from rundgang.formats.readings_files import is_readings
from rundgang.jobs.order_files import read_file, take_file
from rundgang.jobs.readings import take_readings
from rundgang.store.repository import Repository

TAKEN, HELD, FAULTS = "taken", "held", ".faults.txt"
SUFFIXES = {".csv", ".xlsx"}

SETTLED_S = 2.0
"""A file that was written to so lately may not be whole yet."""

MOST_HELD = 100

LONGEST_HEADINGS = 500


class HeldFile(Model):
    """A file that was not taken, and why."""

    name: str
    faults: tuple[str, ...]


def take_all(store: Repository, folder: Path, now: Clock) -> list[str]:
    """Take what lies in the inbox; the names of what was taken or held."""
    if not folder.is_dir() or store.windows.is_empty():
        return []
    return [_take(store, folder, path, columns, now) for path, columns in _dropped(folder)]


def held_files(folder: Path) -> tuple[HeldFile, ...]:
    """The files that wait for the planner, by name."""
    found = sorted((folder / HELD).glob(f"*{FAULTS}"))[:MOST_HELD]
    return tuple(
        HeldFile(name=path.name.removesuffix(FAULTS), faults=tuple(path.read_text(encoding="utf-8").splitlines()))
        for path in found
    )


def _dropped(folder: Path) -> Iterator[tuple[Path, str | None]]:
    """Files that are whole, each with the name of its headings, where it lies in a folder of them."""
    for place in (folder, *(sub for sub in sorted(folder.iterdir()) if sub.is_dir() and sub.name not in {TAKEN, HELD})):
        for path in sorted(place.iterdir()):
            whole = path.is_file() and not path.is_symlink() and time.time() - path.stat().st_mtime >= SETTLED_S
            if whole and path.suffix.lower() in SUFFIXES:
                yield path, None if place == folder else place.name


def _take(store: Repository, folder: Path, path: Path, columns: str | None, now: Clock) -> str:
    try:
        faults = _faults_of(store, path, columns, now)
    except RundgangError as error:
        store.session.rollback()
        faults = str(error).splitlines()
    target = folder / (HELD if faults else TAKEN)
    target.mkdir(exist_ok=True)
    put_away = _free(target / path.name)
    if faults:
        put_away.with_name(put_away.name + FAULTS).write_text("\n".join(faults) + "\n", encoding="utf-8")
    path.replace(put_away)
    return f"{path.name} {'held' if faults else 'taken'}"


def _faults_of(store: Repository, path: Path, columns: str | None, now: Clock) -> list[str]:
    """Take a file's readings, or its orders, if all of it is clean; what is wrong in it."""
    with path.open("rb") as file:
        of_readings = is_readings(file.read(LONGEST_HEADINGS))
    size = path.stat().st_size
    if size > (readings_files.MAX_BYTES if of_readings else MAX_BYTES):
        raise TooLargeError(size)
    if of_readings:
        take_readings(store, now, path.read_bytes())
        return []
    orders = read_file(store, path.read_bytes(), "add", columns)
    faults = list(orders.named_faults) or ([] if orders.orders else ["it has no row"])
    if not faults:
        take_file(store, orders, "add", f"inbox: {path.name}")
    return faults


def _free(path: Path) -> Path:
    """The path, numbered where a file of that name has been put away before."""
    names = chain((path,), (path.with_stem(f"{path.stem}-{number}") for number in count(2)))
    return next(name for name in names if not name.exists())
