"""Labels to a printer: a real one by IPP (RFC 8010, RFC 8011), or one that is simulated, a folder of PDF and PNG."""

import asyncio
from concurrent.futures import ThreadPoolExecutor
from datetime import datetime
from pathlib import Path

from pyipp import IPP, IPPError
from pyipp.enums import IppOperation

from rundgang.core.errors import RundgangError
from rundgang.core.model import Model
from rundgang.formats.pdf import pdf_of, png_of
from rundgang.settings import Settings

IPP_SCHEMES = ("ipp://", "ipps://")

PATIENCE_S = 10


class PrinterError(RundgangError):
    """The printer did not take a label."""

    def __init__(self, printer: str, why: str) -> None:
        super().__init__(
            f"The printer {printer} did not take it: {why}. Allowed: a printer that is on and "
            "answers; RUNDGANG_LABEL_PRINTER says which."
        )


class Printed(Model):
    """What was printed.

    Attributes
    ----------
    printer : str
        Which did it: its address, or what the folder of the simulated one is called.
    """

    printer: str
    simulated: bool
    name: str
    copies: int


def print_label(settings: Settings, page: str, name: str, copies: int, at: datetime) -> Printed:
    """Print a label so many times.

    Parameters
    ----------
    page : str
        HTML for paper.

    Raises
    ------
    PrinterError
    """
    printer, data = settings.label_printer, pdf_of(page)
    if printer.startswith(IPP_SCHEMES):
        # A thread of its own has no other loop at work, wherever this is called.
        with ThreadPoolExecutor(max_workers=1) as thread:
            thread.submit(asyncio.run, _send(printer, data, name, copies)).result()
        return Printed(printer=printer, simulated=False, name=name, copies=copies)
    folder = Path(printer) if printer else settings.home / "labels"
    _put(folder, data, f"{at:%Y%m%d-%H%M%S}-{name}", copies)
    return Printed(printer=folder.name, simulated=True, name=name, copies=copies)


def _put(folder: Path, data: bytes, name: str, copies: int) -> None:
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for copy in range(1, copies + 1):
            (folder / f"{name}-{copy}.pdf").write_bytes(data)
            (folder / f"{name}-{copy}.png").write_bytes(png_of(data))
    except OSError as error:
        raise PrinterError(f"that is simulated in {folder.name}", error.strerror or "it cannot be written") from None


async def _send(printer: str, data: bytes, name: str, copies: int) -> None:
    """One job for each copy: not every printer of labels counts them itself."""
    asked = {"requesting-user-name": "Rundgang", "job-name": name, "document-format": "application/pdf"}
    try:
        async with IPP(printer, request_timeout=PATIENCE_S) as ipp:
            for _ in range(copies):
                await ipp.execute(IppOperation.PRINT_JOB, {"operation-attributes-tag": dict(asked), "data": data})
    except IPPError as error:
        raise PrinterError(printer, str(error.args[0]) if error.args else "it gave no reason") from None
