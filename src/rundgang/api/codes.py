"""Codes on paper: whoever has a sheet in the hand opens its page by them."""

import io
from typing import Annotated

import segno
from fastapi import APIRouter, Query, Request, Response

router = APIRouter(prefix="/api")

Page = Annotated[
    str,
    Query(
        max_length=200,
        pattern=r"^(/[A-Za-z0-9_.?&=~-]+)+$",
        description="A page of this Rundgang, for instance /dough/3/R2/1.",
    ),
]


@router.get("/code.svg", response_class=Response)
def code(http: Request, path: Page) -> Response:
    """A QR code (ISO/IEC 18004) that opens a page here, as it is reached by whoever asks."""
    drawn = io.BytesIO()
    segno.make_qr(f"{str(http.base_url).rstrip('/')}{path}", error="m").save(
        drawn, kind="svg", border=2, xmldecl=False, svgns=True, omitsize=True
    )
    return Response(drawn.getvalue(), media_type="image/svg+xml")
