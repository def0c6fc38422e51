"""Tables of records, made from their columns or rows."""

from collections.abc import Sequence

import numpy as np

from rundgang.core.compiled import Ints, Records


def table(record: np.dtype[np.void], **columns: Sequence[float] | Ints) -> Records:
    """A table from its columns."""
    found = np.zeros(len(next(iter(columns.values()))), record)
    for name, values in columns.items():
        found[name] = values
    return found


def rows_of(record: np.dtype[np.void], rows: Sequence[tuple[float, ...]]) -> Records:
    """A table from its rows."""
    return np.array(rows, dtype=record) if rows else np.zeros(0, record)


def ends_of(lengths: Sequence[int]) -> Ints:
    """Where each of some parts laid end to end begins, and where the last ends."""
    return np.concatenate(([0], np.cumsum(np.array(lengths, dtype=np.int64)))).astype(np.int64)
