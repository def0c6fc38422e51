"""Orders from files as spreadsheets and order systems write them."""

import io
import zipfile
from datetime import date, datetime, timedelta
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from openpyxl import Workbook
from pydantic import ValidationError

from rundgang.core.scenario import Scenario
from rundgang.demo.ring_line import ring_line
from rundgang.formats.clock import local_time, minute_of
from rundgang.formats.order_columns import OrderColumns
from rundgang.formats.orders_csv import (
    MAX_BYTES,
    TooLargeError,
    read_orders,
    whole_number,
)
from rundgang.formats.orders_written import template, write_orders

DAY = ring_line(date(2026, 3, 11))
HEAD = "order,dispatch,product,packs\n"


def faults(text: str) -> list[str]:
    return [str(fault) for fault in read_orders(text.encode(), DAY).faults]


def test_what_is_written_is_read_again() -> None:
    assert read_orders(write_orders(DAY).encode(), DAY).orders == DAY.orders


def test_template_is_a_file_that_can_be_read() -> None:
    read = read_orders(template(DAY).encode(), DAY)
    assert read.faults == ()
    assert len(read.orders) == len(DAY.waves)


def test_wrong_rows_are_named_with_line_column_found_and_allowed() -> None:
    text = HEAD + (
        "a1,2026-03-11 03:30,Lantern Plain,120\n"
        "a2,2026-03-11 04:30,lantern-plain,120\n"
        "a3,2026-03-11 03:30,Anvil,120\n"
        "a4,2026-03-11 03:30,lantern-plain,-5\n"
        "a1,2026-03-11 03:30,lantern-plain,5\n"
        "a6,2027-03-11 03:30,lantern-plain,5\n"
        "a7,tomorrow,lantern-plain,5\n"
        ",2026-03-11 03:30,lantern-plain,5\n"
        "a9,2026-03-11 03:30\n"
    )
    found = faults(text)
    for expected in (
        "line 3, dispatch: found “2026-03-11 04:30”; allowed: a time a lorry leaves: 2026-03-11 03:30 (Harbour lorry)",
        "line 4, product: found “Anvil”; allowed: a product: Lantern Plain, Harvest Sesame, Pear & Cardamom",
        "line 5, packs: found “-5”; allowed: a whole number from 1 to 100,000",
        "line 6, order: found “a1”; allowed: each number once for a product and a lorry; it stands in line 2",
        "line 7, dispatch: found “2027-03-11 03:30”; allowed: within the planned day, 2026-03-10 20:00 to",
        "line 8, dispatch: found “tomorrow”; allowed: a date and time such as",
        "line 9, order: found “”; allowed: 1 to 40",
        "line 10, product: found “”",
        "line 10, packs: found “”",
    ):
        assert any(line.startswith(expected) for line in found), expected
    assert [order.id for order in read_orders(text.encode(), DAY).orders] == ["a1"]


@pytest.mark.parametrize(
    ("data", "encoding", "delimiter"),
    [
        ("order;dispatch;product;packs\nb1;11.03.2026 03:30;Lantern Plain;1.200\n".encode("cp1252"), "UTF-8", ";"),
        ("órder,dispatch,product,packs,order\nx,11.03.2026 03:30,Lantern Plain,1200,b1\n".encode("cp1252"),
         "Windows-1252", ","),
        ("order\tdispatch\tproduct\tpacks\r\nb1\tharbour\tLANTERN PLAIN\t1 200\r\n".encode("utf-16"), "UTF-16", "\t"),
        ("\ufefforder,dispatch,product,packs\nb1,2026-03-11T03:30+01:00,lantern-plain,\"1,200\"\n".encode(),
         "UTF-8", ","),
        (b'packs;ORDER; Dispatch ;product\n"1200,00";b1;Harbour lorry;lantern-plain\n', "UTF-8", ";"),
    ],
)  # fmt: skip
def test_other_encodings_delimiters_and_figures(data: bytes, encoding: str, delimiter: str) -> None:
    read = read_orders(data, DAY)
    assert (read.encoding, read.delimiter, read.faults) == (encoding, delimiter, ())
    assert [(o.id, o.wave, o.product, o.packs) for o in read.orders] == [("b1", "harbour", "lantern-plain", 1_200)]


@pytest.mark.parametrize(
    ("found", "decimal", "value"),
    [("1200", ".", 1_200), ("1,200", ".", 1_200), ("1.200", ",", 1_200), ("1 200", ",", 1_200), ("12.0", ".", 12),
     ("1'200", ".", 1_200), ("1.200,00", ",", 1_200), ("+7", ".", 7), ("-7", ".", -7)],
)  # fmt: skip
def test_whole_numbers_as_people_write_them(found: str, decimal: str, value: int) -> None:
    assert whole_number(found, decimal) == value


@pytest.mark.parametrize(("found", "decimal"), [("1.200", "."), ("1,200", ",")])
def test_a_number_with_two_readings_is_refused(found: str, decimal: str) -> None:
    with pytest.raises(ValueError, match="two ways: write 1200"):
        whole_number(found, decimal)


@pytest.mark.parametrize("found", ["", "twelve", "12.5", "1e3", "0x10", "12..0"])
def test_what_is_no_whole_number_is_refused(found: str) -> None:
    with pytest.raises(ValueError, match=r"^$"):
        whole_number(found, ".")


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("", "line 1, header: found “an empty file”; allowed: order, dispatch, product, packs"),
        ("order,product,packs\n", "line 1, dispatch: found “order, product, packs”; allowed: a column named dispatch"),
        ("\n\nhello\n", "a column named order"),
    ],
)
def test_a_file_without_its_columns_is_refused(text: str, expected: str) -> None:
    assert any(expected in fault for fault in faults(text))


def test_columns_that_are_not_needed_are_listed() -> None:
    read = read_orders(b"order,remark,dispatch,product,packs\nc1,Inn,harbour,lantern-plain,5\n", DAY)
    assert (read.ignored_columns, len(read.orders)) == (("remark",), 1)


def test_numbers_that_are_in_the_day_already_are_named() -> None:
    taken = frozenset({("4101", "lantern-plain", DAY.waves[0].id)})
    read = read_orders((HEAD + "4101,harbour,lantern-plain,5\n").encode(), DAY, taken)
    assert "not in the day yet" in read.faults[0].allowed


def test_a_file_too_large_is_refused() -> None:
    with pytest.raises(TooLargeError, match="at most 2 MB or"):
        read_orders(b"x" * (MAX_BYTES + 1), DAY)


@given(data=st.binary(max_size=400))
def test_no_bytes_bring_it_down(data: bytes) -> None:
    read = read_orders(data, DAY)
    assert read.faults, "random bytes are no orders"


@given(cells=st.lists(st.text(max_size=30), min_size=4, max_size=4))
def test_no_row_brings_it_down(cells: list[str]) -> None:
    row = ",".join('"' + cell.replace('"', '""') + '"' for cell in cells)
    read_orders((HEAD + row + "\n").encode("utf-8", "surrogatepass"), DAY)


@pytest.mark.parametrize("number", ["=1+1", "+49", "-3", "@sum"])
def test_order_numbers_that_a_spreadsheet_would_run_are_refused(number: str) -> None:
    """Formula injection (OWASP, "CSV Injection")."""
    assert "the first not = + - @" in faults(f"{HEAD}{number},harbour,lantern-plain,5\n")[0]


def test_a_priority_is_read_written_and_refused_where_it_cannot_be() -> None:
    """A column that need not be there: empty counts 1; out again only where an order has one."""
    product, wave = DAY.products[0].id, DAY.waves[0].id
    head = "order,dispatch,product,packs,priority\n"
    found = read_orders(f"{head}1,{wave},{product},10,2.5\n2,{wave},{product},10,\n".encode(), DAY)
    assert not found.faults
    assert [order.priority for order in found.orders] == [2.5, 1]
    again = read_orders(write_orders(DAY.changed(orders=found.orders)).encode(), DAY)
    assert again.orders == found.orders
    assert "priority" not in write_orders(DAY)
    wrong = read_orders(f"{head}1,{wave},{product},10,20\n2,{wave},{product},10,soon\n".encode(), DAY)
    assert [fault.column for fault in wrong.faults] == ["priority", "priority"]


def test_how_fresh_a_customer_wants_them_is_read_written_and_refused_where_it_cannot_be() -> None:
    """Hours at the lorry; empty is as old as the product may be."""
    product, wave = DAY.products[0].id, DAY.waves[0].id
    head = "order,dispatch,product,packs,fresh_h\n"
    found = read_orders(f"{head}1,{wave},{product},10,6.5\n2,{wave},{product},10,\n".encode(), DAY)
    assert not found.faults
    assert [order.fresh_for_h for order in found.orders] == [6.5, None]
    assert read_orders(write_orders(DAY.changed(orders=found.orders)).encode(), DAY).orders == found.orders
    assert "fresh_h" not in write_orders(DAY)
    wrong = read_orders(f"{head}1,{wave},{product},10,0.2\n2,{wave},{product},10,soon\n".encode(), DAY)
    assert [str(fault) for fault in wrong.faults] == [
        "line 2, fresh_h: found “0.2”; allowed: empty, or 0.5 to 10000 hours",
        "line 3, fresh_h: found “soon”; allowed: empty, or 0.5 to 10000 hours",
    ]


def test_a_number_may_have_several_lines_and_says_who_wants_them() -> None:
    text = (
        "order,dispatch,product,packs,customer,reference\n"
        "7,harbour,lantern-plain,5,Harbour Inn,PO 12\n"
        "7,harbour,harvest-sesame,6,Harbour Inn,PO 12\n"
    )
    read = read_orders(text.encode(), DAY)
    assert read.faults == ()
    assert [(one.id, one.product, one.customer, one.reference) for one in read.orders] == [
        ("7", "lantern-plain", "Harbour Inn", "PO 12"),
        ("7", "harvest-sesame", "Harbour Inn", "PO 12"),
    ]


def test_a_customers_own_headings_are_read_by_a_mapping() -> None:
    columns = OrderColumns(
        name="Inn",
        headings={"order": "Auftrag", "dispatch": "Abfahrt", "product": "Artikel", "packs": "Menge"},
    )
    text = "Auftrag;Artikel;Menge;Abfahrt;Bemerkung\n8;Lantern Plain;1.200;11.03.2026 03:30;eilig\n"
    plain = read_orders(text.encode(), DAY)
    assert plain.headings == ("Auftrag", "Artikel", "Menge", "Abfahrt", "Bemerkung")
    assert "a column named order" in plain.faults[0].allowed
    read = read_orders(text.encode(), DAY, columns=columns)
    assert [(one.id, one.product, one.packs) for one in read.orders] == [("8", "lantern-plain", 1_200)]
    assert read.ignored_columns == ("bemerkung",)


def test_a_file_without_a_header_is_read_by_the_numbers_of_its_columns() -> None:
    headings = {"order": "3", "dispatch": "1", "product": "2", "packs": "4"}
    columns = OrderColumns(name="Inn", headings=headings, has_header=False)
    text = "11.03.2026 03:30;Lantern Plain;8;1.200\n11.03.2026 03:30;Lantern Plain;9;5\n"
    read = read_orders(text.encode(), DAY, columns=columns)
    assert [(one.id, one.product, one.packs) for one in read.orders] == [
        ("8", "lantern-plain", 1_200),
        ("9", "lantern-plain", 5),
    ]
    assert read.first_row == ("11.03.2026 03:30", "Lantern Plain", "8", "1.200")
    narrow = read_orders(b"11.03.2026 03:30;Lantern Plain\n", DAY, columns=columns)
    assert [str(fault) for fault in narrow.faults] == [
        "line 1, order: found “2 columns”; allowed: at least 3",
        "line 1, packs: found “2 columns”; allowed: at least 4",
    ]
    with pytest.raises(ValidationError, match="the number of each column"):
        OrderColumns(name="Inn", headings=headings | {"order": "Auftrag"}, has_header=False)


@pytest.mark.parametrize(
    ("written", "moment"),
    [
        ("11/03/2026 03:30", "2026-03-11T03:30"),
        ("3/11/2026 3:30 AM", "2026-03-11T03:30"),
        ("03/11/26, 3:30 am", "2026-03-11T03:30"),
        ("11-03-2026 03:30", "2026-03-11T03:30"),
    ],
)
def test_british_and_american_dates_are_read_where_only_one_of_both_is_a_lorrys(written: str, moment: str) -> None:
    """Day first or month first (common practice; Unicode CLDR, en-GB and en-US short dates)."""
    read = read_orders(f'{HEAD}1,"{written}",lantern-plain,5\n'.encode(), DAY)
    assert read.faults == ()
    (lorry,) = (wave for wave in DAY.waves if wave.id == read.orders[0].wave)
    assert local_time(DAY, lorry.departs_min).isoformat(timespec="minutes").startswith(moment)


def weeks_of_lorries() -> Scenario:
    """The day with a lorry at 03:30 on each of 60 days from 11 March on."""
    (first,) = (wave for wave in DAY.waves if local_time(DAY, wave.departs_min).strftime("%d %H:%M") == "11 03:30")
    moment = datetime(2026, 3, 11, 3, 30)
    waves = tuple(
        first.model_copy(
            update={"id": f"day-{n}", "departs_min": minute_of(DAY, moment + timedelta(days=n)), "name": f"Day {n}"}
        )
        for n in range(60)
    )
    window = DAY.window.model_copy(update={"minutes": round(waves[-1].departs_min)})
    return DAY.changed(waves=waves, window=window, orders=())


def test_a_date_that_can_be_read_in_two_ways_is_refused_until_another_row_tells_them_apart() -> None:
    """Lorries leave on 4 May and on 5 April: only a row that has no month 13 or more says which is meant."""
    day = weeks_of_lorries()
    two = f"{HEAD}1,05/04/2026 03:30,lantern-plain,5\n"
    assert read_orders(two.encode(), day).faults[0].allowed == (
        "a date that cannot be read in two ways: write 2026-04-05 03:30 or 2026-05-04 03:30"
    )
    for other, ordered in (("30/04/2026 03:30", 25), ("04/30/2026 03:30", 54)):
        read = read_orders(f"{two}2,{other},lantern-plain,5\n".encode(), day)
        assert read.faults == ()
        assert [order.wave for order in read.orders] == [f"day-{ordered}", "day-50"]
    mixed = read_orders(f"{two}2,30/04/2026 03:30,lantern-plain,5\n3,04/30/2026 03:30,lantern-plain,5\n".encode(), day)
    assert [fault.line for fault in mixed.faults] == [2]


@pytest.mark.parametrize(
    "written", ["13/13/2026 03:30", "11/03/2026 13:30 PM", "11/03/2026", "0/3/2026 03:30", "11/3/26"]
)
def test_what_is_no_moment_is_refused(written: str) -> None:
    assert "a date and time such as" in faults(f"{HEAD}1,{written},lantern-plain,5\n")[0]


def test_a_workbook_is_read_as_its_rows() -> None:
    """Figures and moments as a spreadsheet keeps them."""
    book = Workbook()
    book.active.append(["order", "dispatch", "product", "packs"])
    book.active.append([9, datetime(2026, 3, 11, 3, 30), "Lantern Plain", 800.0])
    book.active.append([10, datetime(2026, 3, 11, 4, 30), "Lantern Plain", 1])
    file = io.BytesIO()
    book.save(file)
    read = read_orders(file.getvalue(), DAY)
    assert [(one.id, one.packs) for one in read.orders] == [("9", 800)]
    assert [(fault.line, fault.column) for fault in read.faults] == [(3, "dispatch")]
    broken = read_orders(file.getvalue()[:700], DAY)
    assert "cannot be opened as a workbook" in broken.faults[0].found


def test_a_misspelt_product_gets_the_nearest_names() -> None:
    (fault,) = faults(f"{HEAD}a1,2026-03-11 03:30,Lantrn Plain,5\n")
    assert fault.endswith("found “Lantrn Plain”; allowed: a product; the nearest is Lantern Plain")


def test_of_many_faults_the_first_are_named_and_all_are_counted() -> None:
    row = "a,b,c,d\n"
    read = read_orders((HEAD + row * 3_000).encode(), DAY)
    assert (len(read.faults), read.fault_count, read.wrong_rows) == (200, 9_000, 3_000)
    assert read.faults[-1].line == 68
    assert read.named_faults[-1] == "and 8,800 more"


def workbook_with(rows: str) -> bytes:
    """A workbook whose first sheet holds these rows, as XML, whatever a spreadsheet would write."""
    plain, packed = io.BytesIO(), io.BytesIO()
    Workbook().save(plain)
    with zipfile.ZipFile(plain) as archive, zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as written:
        for part in archive.namelist():
            data = archive.read(part)
            if part.endswith("sheet1.xml"):
                empty = b"<sheetData></sheetData>"
                assert empty in data
                data = data.replace(empty, f"<sheetData>{rows}</sheetData>".encode())
            written.writestr(part, data)
    return packed.getvalue()


def test_a_small_workbook_that_asks_for_much_is_refused() -> None:
    far = workbook_with('<row r="1"><c r="A1"><v>1</v></c></row><row r="1048576"><c r="XFD1048576"><v>1</v></c></row>')
    assert len(far) < 6_000
    assert "takes more than 5 s or 1,024 MB" in read_orders(far, DAY).faults[0].found


def test_a_workbook_counts_its_rows_from_the_first_cell_of_the_sheet() -> None:
    book = Workbook()
    sheet: Any = book.active
    for column, head in enumerate(("order", "dispatch", "product", "packs"), start=2):
        sheet.cell(4, column).value = head
    for column, value in enumerate(("a1", datetime(2026, 3, 11, 3, 30), "Lantern Plain", 2.5), start=2):
        sheet.cell(6, column).value = value
    saved = io.BytesIO()
    book.save(saved)
    (fault,) = read_orders(saved.getvalue(), DAY).faults
    assert (fault.line, fault.column, fault.found) == (6, "packs", "2.5")
