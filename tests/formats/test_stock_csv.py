"""Stock as a file: what is written is read, and every wrong cell is named with its line and what is allowed."""

from datetime import date

import pytest

from rundgang.demo.ostermere import ostermere
from rundgang.formats.stock_csv import read_stock, write_stock

DEMO = ostermere(date(2026, 3, 11))
HEAD = "entry,name,amount,at,lot,best_before\n"


def test_what_is_written_is_read() -> None:
    found = read_stock(write_stock(DEMO).encode(), DEMO)
    assert found.faults == ()
    assert found.materials == {stock.item: stock.on_hand for stock in DEMO.stocks}
    lots = [(product, packs) for product, own in found.lots.items() for _, packs in own]
    assert lots == [(lot.product, lot.packs) for lot in DEMO.finished]
    made = [made_min for own in found.lots.values() for made_min, _ in own]
    assert made == pytest.approx([lot.made_min for lot in DEMO.finished], abs=1)
    coming = [(stock.item, come.amount) for stock in DEMO.stocks for come in stock.deliveries]
    assert [(one.item, one.amount) for one in found.deliveries] == coming


def test_a_spreadsheets_own_way_of_writing_is_read() -> None:
    text = "\ufeffEntry;Name;Amount\nmaterial;mill flour 700;1 250,5\npacks;Lantern Plain;40\n\n"
    found = read_stock(text.encode(), DEMO)
    assert found.materials == {"flour-mill": 1250.5}
    assert found.counted == (("lantern-plain", 40),)
    assert found.rows == 2


@pytest.mark.parametrize(
    ("row", "said"),
    [
        ("flour,Mill flour 700,1", "line 2, entry: found “flour”; allowed: packs or material or delivery"),
        ("packs,Moon Loaf,1", "line 2, name: found “Moon Loaf”; allowed: a product or material"),
        ("packs,Lantern Plain,2.5", "line 2, amount: found “2.5”; allowed: whole packs"),
        ("packs,Lantern Plain,-3", "line 2, amount: found “-3”; allowed: 0 to 1,000,000"),
        ("material,Mill flour 700,lots", "line 2, amount: found “lots”; allowed: a number"),
        ("delivery,Mill flour 700,0,2026-03-11 10:00", "allowed: more than 0"),
        ("delivery,Mill flour 700,5,tomorrow", "line 2, at: found “tomorrow”; allowed: a moment"),
        ("delivery,Mill flour 700,5,2026-03-11 10:00,L7,soon", "line 2, best_before: found “soon”; allowed: a date"),
        ("packs,Lantern Plain,5,2027-01-01 10:00", "allowed: a moment before the window began"),
        ("packs,Lantern Plain,5\npacks,lantern-plain,6", "line 3, name: found “lantern-plain”; allowed: each product"),
    ],
)
def test_a_wrong_cell_is_named(row: str, said: str) -> None:
    faults = [str(fault) for fault in read_stock((HEAD + row).encode(), DEMO).faults]
    assert len(faults) == 1
    assert said in faults[0]


@pytest.mark.parametrize("data", [b"", b"a,b,c\n1,2,3\n", b"\xff\xfe\x00", b"x" * 2_000_000])
def test_what_is_no_file_of_stock_is_said(data: bytes) -> None:
    assert len(read_stock(data, DEMO).faults) == 1
