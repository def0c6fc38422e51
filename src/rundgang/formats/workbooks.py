"""Workbooks that come in: opened where they can be, and neither larger nor other than they say."""

import io
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager

from openpyxl import Workbook, load_workbook
from openpyxl.utils.exceptions import InvalidFileException

from rundgang.core.errors import RundgangError

MOST_UNPACKED = 40 * 1024 * 1024
"""A workbook that unpacks to more is not read, bytes."""


class NotAWorkbookError(RundgangError):
    """A file that is no workbook, or not one that is read here."""


@contextmanager
def opened(data: bytes) -> Iterator[Workbook]:
    """A workbook to read row by row, or NotAWorkbookError, also where it breaks off while it is read."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            unpacked = sum(part.file_size for part in packed.infolist())
        if unpacked > MOST_UNPACKED:
            raise NotAWorkbookError(
                f"The workbook unpacks to {unpacked / 1048576:.0f} MB; allowed: at most {MOST_UNPACKED // 1048576} MB."
            )
        yield load_workbook(io.BytesIO(data), read_only=True, data_only=True)
    except RundgangError:
        raise
    except (zipfile.BadZipFile, InvalidFileException, KeyError, ValueError, OSError, SyntaxError) as error:
        raise NotAWorkbookError(f"The file cannot be opened as a workbook (xlsx): {error}.") from None
