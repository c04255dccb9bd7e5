"""Tables as files: what is in them comes back, and a spreadsheet runs nothing of it."""

import csv
import io
import unicodedata
from datetime import UTC, datetime
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st
from openpyxl import load_workbook

from vokari.formats import tables

any_text = st.text(st.characters(exclude_categories=("Cs",)), max_size=20) | st.builds(
    "{}{}{}".format,
    st.text("\x00\x01\t\r\x0b \u200b\ufeff\xa0", max_size=3),
    st.sampled_from("=+-@＝＠"),
    st.text("1A(+=", max_size=4),
)
plain = st.text(st.characters(exclude_categories=("Cs", "Cc", "Cf", "Z")), max_size=20).filter(
    lambda text: not unicodedata.normalize("NFKC", text).startswith(("=", "+", "-", "@", "'"))
)
rows = st.lists(st.tuples(plain, st.integers(-(10**9), 10**9), plain), max_size=8)


@given(rows)
def test_csv_is_read_back_by_the_standard_reader(table: list[tuple[str, int, str]]) -> None:
    text = tables.to_csv(("One", "Two", "Three"), table)
    assert text.endswith("\r\n")
    read = list(csv.reader(io.StringIO(text, newline="")))
    assert read == [["One", "Two", "Three"], *[[a, str(n), b] for a, n, b in table]]


@given(rows)
def test_a_workbook_is_read_back_by_another_reader(table: list[tuple[str, int, str]]) -> None:
    content = tables.to_xlsx("A table: of [things]", ("One", "Two", "Three"), table)
    sheet = load_workbook(io.BytesIO(content)).active
    assert sheet is not None
    assert sheet.title == "A table of things"
    assert next([cell.value or "" for cell in row] for row in sheet) == ["One", "Two", "Three"]
    read = [(row[0].value or "", row[1].value, row[2].value or "") for row in sheet.iter_rows(min_row=2)]
    assert read == table


FORMULAS = [
    "=1+1",
    "+cmd|x",
    "-2+3",
    "@SUM(A1)",
    "=HYPERLINK(1)",
    "\x01=1+1",
    "\t=1",
    "\x00\x0b@A",
    " =1",
    "\u200b=1",
    "＝1",
    "+²",
]


@pytest.mark.parametrize("bad", FORMULAS)
def test_formulas_are_texts(bad: str) -> None:
    assert in_csv(bad).startswith("'")
    value, kind = in_workbook(bad)
    assert kind == "s"
    assert value.startswith("'")


@given(any_text)
def test_no_text_is_ever_run(text: str) -> None:
    for cell, kind in ((in_csv(text), "s"), in_workbook(text)):
        assert kind != "f"
        shown = "".join(one for one in cell if unicodedata.category(one) not in ("Cc", "Cf", "Zs", "Zl", "Zp"))
        assert not shown.startswith(("=", "+", "-", "@")) or tables.E164.fullmatch(cell)


def in_csv(text: str) -> str:
    return list(csv.reader(io.StringIO(tables.to_csv(("A", "B"), [(text, "x")]), newline="")))[1][0]


def in_workbook(text: str) -> tuple[str, str]:
    sheet = load_workbook(io.BytesIO(tables.to_xlsx("T", ("A",), [(text,)]))).active
    assert sheet is not None
    return str(sheet["A2"].value or ""), str(sheet["A2"].data_type)


def test_phone_numbers_moments_and_money_keep_their_form() -> None:
    at = datetime(2026, 11, 24, 14, 5, tzinfo=UTC)
    content, media = tables.to_file("xlsx", "T", ("A", "B", "C"), [("+14105550142", at, Decimal("3.50"))])
    sheet = load_workbook(io.BytesIO(content)).active
    assert sheet is not None
    assert media == tables.XLSX
    assert [cell.value for cell in sheet[2]] == ["+14105550142", at.replace(tzinfo=None), 3.5]
    content, media = tables.to_file("csv", "T", ("A",), [("+14105550142",)])
    assert (content, media) == (b"A\r\n+14105550142\r\n", tables.CSV)
