"""Labels to a printer: a simulated one as files, a real one by IPP, whose requests are read here by RFC 8010 alone."""

import struct
import threading
from collections.abc import Iterator
from datetime import UTC, datetime
from http.server import BaseHTTPRequestHandler, HTTPServer
from pathlib import Path

import pytest
from PIL import Image

from rundgang.formats.paper import label_page
from rundgang.formats.recalled import Label
from rundgang.jobs.printing import PrinterError, print_label
from rundgang.settings import Settings

AT = datetime(2026, 3, 11, 3, tzinfo=UTC)

PRINT_JOB, OK, NOT_ACCEPTING = 0x0002, 0x0000, 0x0506
"""Operation and status codes (RFC 8011, sections 5.4.15 and B.1; from memory)."""

OPERATION_ATTRIBUTES, END_OF_ATTRIBUTES, CHARSET, LANGUAGE = 0x01, 0x03, 0x47, 0x48


class Printer(HTTPServer):
    """A printer that keeps its jobs."""

    def __init__(self) -> None:
        super().__init__(("127.0.0.1", 0), Answering)
        self.jobs: list[tuple[int, dict[str, str], bytes]] = []
        self.status = OK


class Answering(BaseHTTPRequestHandler):
    """Reads a request by RFC 8010, section 3.1: version, operation, request, groups of attributes, data."""

    server: Printer

    def do_POST(self) -> None:
        assert self.headers["Content-Type"] == "application/ipp"
        if self.headers.get("Transfer-Encoding") == "chunked":
            data = b"".join(iter(self._chunk, b""))
        else:
            data = self.rfile.read(int(self.headers["Content-Length"]))
        _, _, operation, request = struct.unpack(">bbhi", data[:8])
        at, found, name = 8, dict[str, str](), ""
        while data[at] != END_OF_ATTRIBUTES:
            if data[at] < 0x10:
                at += 1
                continue
            (named,) = struct.unpack(">h", data[at + 1 : at + 3])
            name = data[at + 3 : at + 3 + named].decode() or name
            (size,) = struct.unpack(">h", data[at + 3 + named : at + 5 + named])
            value = data[at + 5 + named : at + 5 + named + size]
            found[name] = value.decode("utf-8", "replace")
            at += 5 + named + size
        self.server.jobs.append((operation, found, data[at + 1 :]))
        answer = struct.pack(">bbhi", 2, 0, self.server.status, request) + bytes([OPERATION_ATTRIBUTES])
        for tag, key, text in (
            (CHARSET, b"attributes-charset", b"utf-8"), (LANGUAGE, b"attributes-natural-language", b"en"),
        ):  # fmt: skip
            answer += struct.pack(">bh", tag, len(key)) + key + struct.pack(">h", len(text)) + text
        answer += bytes([END_OF_ATTRIBUTES])
        self.send_response(200)
        self.send_header("Content-Type", "application/ipp")
        self.send_header("Content-Length", str(len(answer)))
        self.end_headers()
        self.wfile.write(answer)

    def _chunk(self) -> bytes:
        size = int(self.rfile.readline(), 16)
        data = self.rfile.read(size)
        self.rfile.readline()
        return data

    def log_message(self, *_: object) -> None:
        """Nothing."""


@pytest.fixture
def printer() -> Iterator[Printer]:
    server = Printer()
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    yield server
    server.shutdown()
    server.server_close()


def page() -> str:
    label = Label(
        plant="Ostermere Bakehouse", code="260311-ring-line-R1-1-packs", what="Lantern <Plain>", amount=420,
        unit="packs", made_at=AT, best_before=AT.date(), allergens=("wheat",), held=None,
        address="http://127.0.0.1:8000/lots/7",
    )  # fmt: skip
    return label_page(label)


def test_the_simulated_printer_leaves_a_pdf_and_a_picture_of_each_copy(tmp_path: Path) -> None:
    """100 by 60 mm at 8 dots a millimetre, as most printers of labels have (common practice, no published source)."""
    printed = print_label(Settings(home=tmp_path), page(), "lot-7", 2, AT)
    assert (printed.simulated, printed.printer, printed.copies) == (True, "labels", 2)
    files = sorted(path.name for path in (tmp_path / "labels").iterdir())
    assert files == [f"20260311-030000-lot-7-{copy}.{kind}" for copy in (1, 2) for kind in ("pdf", "png")]
    assert (tmp_path / "labels" / files[0]).read_bytes().startswith(b"%PDF-")
    picture = Image.open(tmp_path / "labels" / files[1])
    assert picture.size == pytest.approx((800, 480), abs=2)
    dark = sum(picture.convert("L").histogram()[:128])
    assert 0.02 < dark / (800 * 480) < 0.5, "a code and words are on it"


def test_a_printer_gets_one_job_for_each_copy_by_ipp(printer: Printer) -> None:
    address = f"ipp://127.0.0.1:{printer.server_port}/ipp/print"
    printed = print_label(Settings(label_printer=address), page(), "lot-7", 3, AT)
    assert (printed.simulated, printed.printer) == (False, address)
    assert len(printer.jobs) == 3
    for operation, attributes, data in printer.jobs:
        assert operation == PRINT_JOB
        assert attributes["printer-uri"] == address
        assert (attributes["document-format"], attributes["job-name"]) == ("application/pdf", "lot-7")
        assert list(attributes)[:2] == ["attributes-charset", "attributes-natural-language"], "RFC 8011, section 4.1.4"
        assert data.startswith(b"%PDF-")


def test_a_printer_that_does_not_take_it_or_does_not_answer_is_said_in_words(printer: Printer, tmp_path: Path) -> None:
    address = f"ipp://127.0.0.1:{printer.server_port}/ipp/print"
    printer.status = NOT_ACCEPTING
    with pytest.raises(PrinterError, match="did not take it"):
        print_label(Settings(label_printer=address), page(), "lot-7", 1, AT)
    with pytest.raises(PrinterError, match="RUNDGANG_LABEL_PRINTER"):
        print_label(Settings(label_printer="ipp://127.0.0.1:9/ipp/print"), page(), "lot-7", 1, AT)
    blocked = tmp_path / "file"
    blocked.write_text("")
    with pytest.raises(PrinterError, match="simulated"):
        print_label(Settings(label_printer=str(blocked)), page(), "lot-7", 1, AT)
