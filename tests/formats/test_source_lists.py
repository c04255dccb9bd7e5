"""Lists of lead sources in every form people have them."""

import csv
import io

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vokari.formats import lists, source_lists
from vokari.formats.lists import Table


def table(text: str) -> Table:
    read = source_lists.read(text)
    assert isinstance(read, Table), read
    return read


def names(text: str) -> list[tuple[int, str, str]]:
    read = table(text)
    return [
        (one.line, one.fields.get("name", ""), one.problem)
        for one in source_lists.lines(read, source_lists.guess(read))
    ]


@pytest.mark.parametrize("separator", [",", ";", "\t", "|"])
@pytest.mark.parametrize("end", ["\n", "\r\n", "\r"])
def test_separators_and_line_ends_are_found(separator: str, end: str) -> None:
    rows = [["Name", "Medium", "Where"], ["Search advert", "cpc", "results"], ["Van", "sign", "both vans"]]
    read = table(end.join(separator.join(row) for row in rows))
    assert read.heading == ("Name", "Medium", "Where")
    assert source_lists.guess(read) == ("name", "medium", "placement")
    assert [cells for _, cells in read.rows] == [tuple(row) for row in rows[1:]]


def test_typed_lines_need_no_heading() -> None:
    assert names("Search advert, cpc, spring\n\nVan signs") == [(1, "Search advert", ""), (3, "Van signs", "")]
    assert table("a\n\n  \nb").blank == 2


def test_each_bad_line_has_its_own_words_and_the_good_ones_stay() -> None:
    text = "Search advert,cpc\n,sign\nVan," + "x" * 121 + "\n" + "y" * 81 + "\nsearch ADVERT,print\nKnown,\nLeaflet"
    read = table(text)
    found = source_lists.lines(read, source_lists.guess(read), {"known": "the client has this lead source already"})
    assert [(one.line, one.problem) for one in found] == [
        (1, ""),
        (2, "this line has no name"),
        (3, "the medium has more than 120 letters"),
        (4, "the name has more than 80 letters"),
        (5, "the same name stands on line 1"),
        (6, "the client has this lead source already"),
        (7, ""),
    ]


def test_five_thousand_lines_are_read_and_one_more_is_told() -> None:
    assert len(table("\n".join(f"Source {n}" for n in range(5000))).rows) == 5000
    assert source_lists.read("\n".join(f"Source {n}" for n in range(5001))) == (
        "A list has at most 5,000 lines; this one has 5,001."
    )
    assert source_lists.read("a;" * 61) == "A list has at most 60 columns; this one has 62."
    assert "empty" in str(source_lists.read(" \n \n"))
    assert "no lines" in str(source_lists.read("name,medium\n"))


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
def test_encodings_are_found(encoding: str) -> None:
    text = "Name;Medium\nCafé window;sign\nMünster radio;audio"
    assert [name for _, name, _ in names(lists.decode(text.encode(encoding)) or "")] == [
        "Café window",
        "Münster radio",
    ]
    assert lists.decode(b"\x89PNG\0\0") is None


@pytest.mark.parametrize(
    ("fields", "online"),
    [
        ({"online": "Online"}, True),
        ({"online": "offline", "medium": "cpc"}, False),
        ({"medium": "CPC"}, True),
        ({}, False),
    ],
)
def test_online_is_said_or_follows_from_the_medium(fields: dict[str, str], online: bool) -> None:
    assert source_lists.is_online(fields) == online


@given(st.lists(st.lists(st.text("ab ,;\"'\t\n|", max_size=6), min_size=1, max_size=4), min_size=1, max_size=8))
def test_what_a_spreadsheet_writes_is_read_back(rows: list[list[str]]) -> None:
    out = io.StringIO()
    csv.writer(out).writerows([["name", "medium", "campaign", "placement"], *rows])
    read = source_lists.read(out.getvalue())
    wanted = [tuple(" ".join(cell.split()) for cell in row) for row in rows if any(cell.strip() for cell in row)]
    if isinstance(read, str):
        assert not wanted
    else:
        assert [cells for _, cells in read.rows] == wanted


@given(st.text(max_size=200), st.binary(max_size=60))
def test_nothing_pasted_or_uploaded_makes_it_fail(text: str, content: bytes) -> None:
    for given_text in (text, lists.decode(content) or ""):
        read = source_lists.read(given_text)
        if isinstance(read, Table):
            source_lists.lines(read, source_lists.guess(read))
