"""What is wrong in the rows of a file: the first faults by name, and how many there are."""

from rundgang.core.errors import RundgangError
from rundgang.core.model import Model
from rundgang.formats.fault_words import shortened

MOST_FAULTS = 200
"""So many faults of a file are named; the others are counted."""


class RowFault(Model):
    """What is wrong in a file: line (counted from 1), column, what was found, what is allowed."""

    line: int
    column: str
    found: str
    allowed: str

    def __str__(self) -> str:
        return f"line {self.line}, {self.column}: found “{self.found}”; allowed: {self.allowed}"


class ReadRows(Model):
    """What a file says of its rows, beside what they hold.

    Attributes
    ----------
    faults : tuple of RowFault
        The first of them.
    fault_count, wrong_rows : int
        How many there are, and in how many rows.
    """

    faults: tuple[RowFault, ...] = ()
    fault_count: int = 0
    wrong_rows: int = 0

    @property
    def named_faults(self) -> tuple[str, ...]:
        """The faults as lines of a message; the last says how many more there are."""
        more = self.fault_count - len(self.faults)
        return (*map(str, self.faults), *((f"and {more:,} more",) if more else ()))


class CellError(RundgangError):
    """What is wrong with a cell."""

    def __init__(self, column: str, found: str, allowed: str) -> None:
        self.column, self.found, self.allowed = column, found, allowed
        super().__init__(allowed)


class RowFaults:
    """The faults of a file as they are found."""

    def __init__(self) -> None:
        self.first: list[RowFault] = []
        self.count = self.rows = self._line = 0

    @property
    def are_counted_only(self) -> bool:
        """Whether no more are named."""
        return len(self.first) == MOST_FAULTS

    def add(self, line: int, column: str, found: str, allowed: str) -> None:
        """Note what is wrong in a column of a line."""
        self.count += 1
        self.rows += line != self._line
        self._line = line
        if not self.are_counted_only:
            self.first.append(RowFault(line=line, column=column, found=shortened(found), allowed=allowed))
