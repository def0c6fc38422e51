"""Paper as PDF: a page of HTML with its styles; its font ships with the application, and nothing is fetched."""

import base64
import io
from functools import cache
from pathlib import Path

FONTS = Path(__file__).with_name("fonts")
FAMILY = "Atkinson Hyperlegible Next"

MM_PER_POINT = 25.4 / 72


def pdf_of(page: str) -> bytes:
    """A page as PDF; what it names is in it, or is left out."""
    from weasyprint import CSS, HTML  # noqa: PLC0415  (a second to load, and only for paper)
    from weasyprint.text.fonts import FontConfiguration  # noqa: PLC0415
    from weasyprint.urls import URLFetcher  # noqa: PLC0415

    own, fonts = URLFetcher(allowed_protocols={"data"}), FontConfiguration()
    styles = CSS(string=_faces(), url_fetcher=own, font_config=fonts)
    data: bytes = HTML(string=page, url_fetcher=own).write_pdf(stylesheets=[styles], font_config=fonts)
    return data


def png_of(pdf: bytes, dots_per_mm: int = 8) -> bytes:
    """The first page of a PDF as a picture; printers of labels have 8 dots a millimetre."""
    import pypdfium2  # noqa: PLC0415  (only for pictures)

    document = pypdfium2.PdfDocument(pdf)
    try:
        drawn, data = document[0].render(scale=dots_per_mm * MM_PER_POINT).to_pil(), io.BytesIO()
        drawn.save(data, format="PNG")
        return data.getvalue()
    finally:
        document.close()


@cache
def _faces() -> str:
    """The font, as a style that has it inside."""
    files = sorted(FONTS.glob("*.woff2"))
    return "".join(
        f'@font-face {{ font-family: "{FAMILY}"; '
        f"src: url(data:font/woff2;base64,{base64.b64encode(file.read_bytes()).decode()}) }}"
        for file in files
    )
