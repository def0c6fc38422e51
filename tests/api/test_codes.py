"""Codes on paper, read by a reader of others (zxing-cpp, from the package registry) as a camera would see them."""

import re

import numpy as np
import pytest
import zxingcpp
from fastapi.testclient import TestClient

SVG_ROW = re.compile(r"M(\d+) (\d+\.?\d*)|m(-?\d+) (-?\d+)|h(\d+)")
PIXELS = 8


def seen(svg: str) -> "np.ndarray[tuple[int, int], np.dtype[np.uint8]]":
    """The modules of a code's path as a picture, black on white; each so many pixels wide and high."""
    size = int(re.search(r'viewBox="0 0 (\d+) \d+"', svg).group(1))  # type: ignore[union-attr]
    picture = np.full((size, size), 255, dtype=np.uint8)
    x = y = 0
    for at_x, at_y, by_x, by_y, along in SVG_ROW.findall(svg):
        if at_x:
            x, y = int(at_x), int(float(at_y))
        elif by_x:
            x, y = x + int(by_x), y + int(by_y)
        else:
            picture[y, x : x + int(along)] = 0
            x += int(along)
    return picture.repeat(PIXELS, axis=0).repeat(PIXELS, axis=1)


@pytest.mark.parametrize("path", ["/dough/3/R12/1", "/print/7", "/windows/4/dough/31/R2/s1"])
def test_a_code_opens_its_page_where_it_was_asked_for(client: TestClient, path: str) -> None:
    answer = client.get("/api/code.svg", params={"path": path})
    assert (answer.status_code, answer.headers["content-type"]) == (200, "image/svg+xml")
    (found,) = zxingcpp.read_barcodes(seen(answer.text))
    assert (found.format, found.text) == (zxingcpp.BarcodeFormat.QRCode, f"http://testserver{path}")


@pytest.mark.parametrize(
    "path", ["//elsewhere.example", "javascript:1", "/a b", "", "/" + "x" * 200, "/\u00fc", "/a//b"]
)
def test_a_code_opens_nothing_else(client: TestClient, path: str) -> None:
    assert client.get("/api/code.svg", params={"path": path}).status_code == 422
