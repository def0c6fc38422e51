"""Workbooks that come in: opened where they can be, and neither larger, slower nor other than they say."""

import io
import json
import subprocess
import sys
import zipfile
from collections.abc import Callable, Iterable, Mapping
from datetime import date, datetime, time, timedelta
from pathlib import Path

from rundgang.core.errors import RundgangError
from rundgang.formats.workbook_reader import TAKES_TOO_MUCH

MOST_UNPACKED = 40 * 1024 * 1024
"""A workbook that unpacks to more is not read, bytes."""

MOST_MEMORY = 1024 * 1024 * 1024
"""Reading a workbook takes so much at most, bytes."""

MOST_S, MOST_WAIT_S = 5, 30
"""So much processor time, and so long by the clock where others need it too."""

READER = Path(__file__).with_name("workbook_reader.py")

OF_KIND: Mapping[str, Callable[..., datetime | date | time | timedelta]] = {
    "datetime": datetime.fromisoformat,
    "date": date.fromisoformat,
    "time": time.fromisoformat,
    "timedelta": lambda seconds: timedelta(seconds=seconds),
}
"""By its name in what the reader writes, how a cell of time is read again."""

Cell = str | int | float | bool | datetime | date | time | timedelta | None
Rows = list[tuple[int, list[Cell]]]
"""The rows of a sheet that hold something, each with its number, counted from 1."""


class NotAWorkbookError(RundgangError):
    """A file that is no workbook, or not one that is read here."""


def read_sheets(data: bytes, most_rows: int, names: Iterable[str] | None = None) -> dict[str, Rows]:
    """The rows of those of the sheets that a workbook has, or of its first, in its order.

    Parameters
    ----------
    most_rows : int
        Of a sheet; those after them are not read.

    Raises
    ------
    NotAWorkbookError
        It cannot be opened, or takes more room or time than is given.
    """
    _refuse_too_large(data)
    wanted = None if names is None else list(names)
    limits = (MOST_S, MOST_MEMORY, most_rows, wanted)
    try:
        read = subprocess.run(  # noqa: S603  (this program's own file)
            [sys.executable, "-I", str(READER), *map(json.dumps, limits)],
            input=data,
            capture_output=True,
            check=False,
            timeout=MOST_WAIT_S,
        )
    except subprocess.TimeoutExpired:
        raise NotAWorkbookError(f"The workbook was not read within {MOST_WAIT_S} s. Try again in a moment.") from None
    if read.returncode < 0 or read.returncode == TAKES_TOO_MUCH:
        raise NotAWorkbookError(
            f"Reading the workbook takes more than {MOST_S} s or {MOST_MEMORY // 1048576:,} MB; allowed: less. "
            "Does something stand far outside its rows?"
        )
    if read.returncode:
        why = read.stderr.decode(errors="replace").strip()
        raise NotAWorkbookError(f"The file cannot be opened as a workbook (xlsx): {why}.")
    found = json.loads(read.stdout)
    return {name: [(number, [_cell(cell) for cell in row]) for number, row in rows] for name, rows in found.items()}


def _refuse_too_large(data: bytes) -> None:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            unpacked = sum(part.file_size for part in packed.infolist())
    except (zipfile.BadZipFile, ValueError, OSError) as error:
        raise NotAWorkbookError(f"The file cannot be opened as a workbook (xlsx): {error}.") from None
    if unpacked > MOST_UNPACKED:
        raise NotAWorkbookError(
            f"The workbook unpacks to {unpacked / 1048576:.0f} MB; allowed: at most {MOST_UNPACKED // 1048576} MB."
        )


def _cell(found: Cell | list[str]) -> Cell:
    if isinstance(found, list):
        kind, written = found
        return OF_KIND[kind](written)
    return found
