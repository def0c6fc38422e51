"""What commands have in common: refusals on the error stream, and files that are written whole."""

import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import typer

from rundgang.core.errors import RundgangError


@contextmanager
def errors_to_stderr() -> Iterator[None]:
    """Say what is refused, or which file cannot be read, and exit with 2."""
    try:
        yield
    except RundgangError as error:
        typer.echo(f"rundgang: {error}", err=True)
        raise typer.Exit(2) from None
    except BrokenPipeError:
        raise
    except OSError as error:
        typer.echo(f"rundgang: {error.filename or ''}: {error.strerror or error}", err=True)
        raise typer.Exit(2) from None


def save(path: Path, contents: str | bytes) -> None:
    """Write a file whole or not at all."""
    with tempfile.NamedTemporaryFile("wb", dir=path.parent, delete=False) as file:
        file.write(contents.encode() if isinstance(contents, str) else contents)
        file.flush()
        os.fsync(file.fileno())
    Path(file.name).chmod(0o644)
    Path(file.name).replace(path)
