"""A program of its own that reads a workbook from its input and writes the rows as JSON, within limits.

It is run for files that anyone may send: what they cost is bounded by the system, and what goes wrong ends here.

Arguments: seconds of processor time, bytes of memory, rows of a sheet at most, and the names of the sheets as JSON;
null means the first. A moment, date, time or span is a pair of its kind and its ISO 8601 text; a span, of its seconds.
"""

import io
import json
import resource
import sys
from datetime import date, datetime, time, timedelta
from typing import Any

CANNOT_BE_READ, TAKES_TOO_MUCH = 3, 4
"""The exit codes where the input is no workbook, why stands on the error stream; and where it is beyond the limits."""

MOST_WHOLE = 2.0**53
"""A whole figure below it is exact."""


def main() -> int:
    """Read, and write."""
    seconds, memory, most_rows, wanted = (json.loads(argument) for argument in sys.argv[1:])
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds))
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    from python_calamine import load_workbook  # noqa: PLC0415  (within the limits)

    try:
        book = load_workbook(io.BytesIO(sys.stdin.buffer.read()))
        names = book.sheet_names[:1] if wanted is None else [name for name in book.sheet_names if name in wanted]
        found = {name: _rows(book.get_sheet_by_name(name), most_rows) for name in names}
    except MemoryError:
        return TAKES_TOO_MUCH
    except Exception as error:
        sys.stderr.write(str(error))
        return CANNOT_BE_READ
    json.dump(found, sys.stdout)
    return 0


def _rows(sheet: Any, most: int) -> list[tuple[int, list[Any]]]:
    """The rows of a sheet that hold something, each with its number."""
    rows = enumerate(sheet.to_python(skip_empty_area=False, nrows=most), start=1)
    return [(number, [_cell(cell) for cell in row]) for number, row in rows if any(cell != "" for cell in row)]


def _cell(found: Any) -> Any:
    if isinstance(found, float) and found.is_integer() and abs(found) < MOST_WHOLE:
        return int(found)
    if isinstance(found, datetime | date | time):
        return type(found).__name__, found.isoformat()
    if isinstance(found, timedelta):
        return "timedelta", found.total_seconds()
    return None if found == "" else found


if __name__ == "__main__":
    sys.exit(main())
