"""The report and the plan by their addresses: order, periods, what is crossed, and what a client's own people see."""

import re
from collections.abc import Callable
from datetime import timedelta

import pytest

from tests.conftest import NOON, StandingClock
from tests.web.conftest import Browser
from tests.wire import Wire
from tests.world import World, main_line
from vokari.work.numbers import extensions


@pytest.fixture
def busy(world: World, clock: StandingClock) -> World:
    """Three answered calls of the search advert, one lost call of the van, on different days."""
    clock.move(days=-60)
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"})
    world.number("+14105550142", world.source("Search advert", medium="cpc", campaign="spring"), flow)
    world.number("+14105550143", world.source("Van signs", medium="sign"), flow)
    world.source("Zebra poster", medium="art")
    clock.move(days=60)
    for number, days in enumerate((0, 1, 40)):
        wire = Wire(world.house, f"a{number}", NOON - timedelta(days=days))
        wire.arrive("+14105550142")
        rung = wire("digit", 3, key="1")
        wire("leg", 9, command=rung[0]["id"], outcome="answered")
        wire("caller_gone", 9 + 60 * (number + 1))
    wire = Wire(world.house, "v", NOON - timedelta(days=2))
    wire.arrive("+14105550143")
    wire("caller_gone", 30)
    return world


def rows(html: str) -> list[list[str]]:
    body = re.search(r'<table class="plan report">.*?<tbody>(.*?)</tbody>', html, re.S)
    assert body
    return [
        [re.sub(r"<[^>]+>", "", cell).strip() for cell in re.findall(r"<t[hd][^>]*>(.*?)</t[hd]>", row, re.S)]
        for row in body.group(1).split("</tr>")
        if "<t" in row
    ]


def names(html: str) -> list[str]:
    return [row[0] for row in rows(html)]


def test_the_table_has_every_source_and_its_figures(busy: World, sign_in: Callable[..., Browser]) -> None:
    page = sign_in("specialist").get(f"/clients/{busy.client.id}/report?period=90").text
    assert rows(page)[0] == [
        "Search advert",
        "cpc",
        "spring",
        "3",
        "33 unconfirmed",
        "0",
        "0",
        "0",
        "0",
        "2:00",
        "1",
    ]
    assert rows(page)[1][:4] == ["Van signs", "sign", "", "1"]
    assert names(page)[2:] == ["Bus panel", "Zebra poster"]


@pytest.mark.parametrize(
    ("query", "order"),
    [
        ("sort=source&way=down", ["Zebra poster", "Van signs", "Search advert", "Bus panel"]),
        ("sort=source&way=up", ["Bus panel", "Search advert", "Van signs", "Zebra poster"]),
        ("sort=lost&way=down", ["Van signs"]),
        ("sort=answered&way=down", ["Search advert"]),
        ("sort=medium&way=up", ["Bus panel", "Zebra poster", "Search advert", "Van signs"]),
        ("sort=talk&way=down", ["Search advert"]),
    ],
)
def test_the_table_sorts(busy: World, sign_in: Callable[..., Browser], query: str, order: list[str]) -> None:
    page = sign_in("specialist").get(f"/clients/{busy.client.id}/report?period=90&{query}").text
    assert names(page)[: len(order)] == order
    column = query.split("&")[0].removeprefix("sort=")
    sorted_by = re.search(r'aria-sort="(\w+)"', page)
    assert sorted_by
    assert sorted_by.group(1) == ("descending" if query.endswith("down") else "ascending"), column


@pytest.mark.parametrize(
    ("period", "calls"),
    [
        ("period=today", 1),
        ("period=7", 3),
        ("period=30", 3),
        ("period=90", 4),
        ("period=own&first=2026-11-22&last=2026-11-23", 2),
        ("period=own&first=2026-10-01&last=2026-10-31", 1),
    ],
)
def test_periods_count_days_of_the_client(
    busy: World, sign_in: Callable[..., Browser], period: str, calls: int
) -> None:
    browser = sign_in("client_viewer")
    page = browser.get(f"/clients/{busy.client.id}/report?{period}").text
    assert f"<b>{calls} {'call' if calls == 1 else 'calls'}</b>" in page
    assert browser.get(f"/clients/{busy.client.id}/calls?{period}").text.count("/calls/0") == calls
    lines = browser.get(f"/clients/{busy.client.id}/report.csv?{period}").text.splitlines()
    assert sum(int(line.split(",")[4]) for line in lines[1:]) == calls


def test_spend_is_typed_previewed_and_taken_back(busy: World, sign_in: Callable[..., Browser]) -> None:
    browser, here = sign_in("specialist"), f"/clients/{busy.client.id}/spend"
    assert "No spend data yet" in browser.get(here).text
    wrong = browser.submit(here, {"campaign": "sprig", "first": "2026-11-31", "amount": "12,5,0"})
    assert wrong.status_code == 422
    for words in ("No lead source has this campaign", "Give the day", "is no amount", 'value="12,5,0"'):
        assert words in wrong.text
    form = {"campaign": "spring", "first": "2026-11-01", "last": "2026-11-20", "amount": "1,000.10"}
    assert browser.submit(here, form).status_code == 303
    assert "$1,000.10" in browser.get(here).text
    text = "Campaign,Day,Cost\nspring,11/20/2026,7.50\nspring,11/21/2026,2.50\nsprng,11/22/2026,4\n"
    look = browser.submit(f"{here}/list", {"text": text})
    assert look.status_code == 200
    for words in ("2 of 3 lines can be imported, $10.00 in all", "did you mean spring", "has a figure already"):
        assert words in look.text
    unmapped = browser.submit(
        f"{here}/list", {"text": text, "column-0": "campaign", "column-1": "", "column-2": "amount", "do": "keep"}
    )
    assert unmapped.status_code == 422
    assert "Choose which column holds the day" in unmapped.text
    columns = {"column-0": "campaign", "column-1": "day", "column-2": "amount"}
    assert browser.submit(f"{here}/list", {"text": text, **columns, "do": "keep"}).status_code == 303
    page = browser.get(here).text
    assert "$1,002.60" in page, "what stood there is left unless it is to be replaced"
    again = browser.submit(f"{here}/list", {"text": text, **columns, "do": "keep"})
    assert "There is nothing to keep" in again.text, "last month twice"
    entry = re.search(r'name="entry"\s+value="(\d+)"', page)
    assert entry
    assert browser.submit(here, {"do": "undo", "entry": entry[1]}).status_code == 303
    assert "$1,000.10" in browser.get(here).text
    report = browser.get(f"/clients/{busy.client.id}/report?by=campaign&period=30").text
    assert "$1,000.10" in report
    assert "days without data" in report
    assert browser.submit(f"{here}/list", {"text": ""}).status_code == 422


def test_extensions_are_crossed_for_whoever_reads_the_report(busy: World, sign_in: Callable[..., Browser]) -> None:
    browser = sign_in("client_viewer")
    here = f"/clients/{busy.client.id}"
    assert "What is advertised" not in browser.get(f"{here}/report").text
    extensions.add(busy.house, busy.actor, busy.client.id, extensions.Wanted("Boats", "Bay Skipper"))
    page = browser.get(f"{here}/report").text
    assert "What is advertised, in which advert" in page
    assert "Bay Skipper" in page
    assert browser.get(f"{here}/extensions").status_code == 403


def test_extensions_by_plain_forms(busy: World, sign_in: Callable[..., Browser]) -> None:
    browser = sign_in("specialist")
    here = f"/clients/{busy.client.id}/extensions"
    menu = re.search(r'<option value="(\d+:m)"', browser.get(here).text)
    assert menu
    form = {"do": "add", "topic": "Boats", "advert": "Van", "code": "407", "menu": menu.group(1)}
    assert browser.submit(here, form).status_code == 303
    page = browser.get(here).text
    assert '<span class="plate">407</span>' in page
    assert "Main line, What is it about" in page
    twice = browser.submit(here, form)
    assert twice.status_code == 422
    assert "has the extension 407 already" in twice.text
    for code, sentence in (
        ("408", "one slip of the finger from 407, Boats in Van"),
        ("4x", "2 to 6 digits"),
        ("407", "already"),
    ):
        refused = browser.submit(here, {**form, "advert": "Radio", "code": code})
        assert refused.status_code == 422
        assert sentence in refused.text
        assert f'value="{code}"' in refused.text
    assert browser.submit(here, {**form, "advert": "Radio", "code": "408", "near": "1"}).status_code == 303
    assert browser.submit(here, {**form, "topic": "Lifts", "advert": "Poster", "code": ""}).status_code == 303
    assert "3 places of the grid are empty" in browser.get(here).text
    assert browser.submit(here, {"do": "fill", "menu": menu.group(1)}).status_code == 303
    assert "places of the grid are empty" not in browser.get(here).text
    assert browser.submit(here, {"do": "shape", "scheme": "7x??"}).status_code == 422
    assert browser.submit(here, {"do": "key", "source": "1", "menu": "x:y"}).status_code == 422


def test_ports_by_plain_forms(busy: World, sign_in: Callable[..., Browser]) -> None:
    browser = sign_in("specialist")
    here = f"/clients/{busy.client.id}/ports"
    wrong = browser.submit(here, {"number": "410-555-12", "losing_carrier": "", "account": "7"})
    assert wrong.status_code == 422
    for sentence in ("too few digits", "Name the carrier that has the number now", 'value="410-555-12"'):
        assert sentence in wrong.text
    good = {"number": "410-555-0177", "losing_carrier": "Old Harbor", "account": "7"}
    assert browser.submit(here, good).status_code == 303
    assert "Old Harbor" in browser.get(here).text
    assert browser.submit(here, {"do": "follow"}).status_code == 303
    assert browser.submit(f"{here}/1/withdraw").status_code == 303
    assert browser.submit(f"{here}/1/withdraw").status_code == 422
