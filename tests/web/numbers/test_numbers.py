"""The pages of numbers by plain forms: lists, orders, bulk changes, files out, and what is typed wrong."""

import csv
import io
import re
from collections.abc import Callable

import pytest
from openpyxl import load_workbook

from tests.web.conftest import Browser
from tests.world import World, main_line
from vokari.work.numbers import numbers, orders


@pytest.fixture
def browser(sign_in: Callable[..., Browser]) -> Browser:
    return sign_in("specialist")


def order_form(html: str) -> dict[str, str]:
    """What a browser sends of the form that takes them all."""
    form = re.search(r'<form method="post" action="[^"]*/numbers/order">.*?</form>', html, re.S)
    assert form, html[:500]
    found = dict(re.findall(r'<input type="hidden" name="(line-[^"]+|column-\d+)" value="([^"]*)"', form.group(0)))
    found |= dict.fromkeys(re.findall(r'type="checkbox" name="(line-\d+-on)"', form.group(0)), "1")
    for name, options in re.findall(r'<select[^>]*name="(line-\d+-number)".*?>(.*?)</select>', form.group(0), re.S):
        found[name] = re.search(r'value="([^"]+)"', options).group(1)  # type: ignore[union-attr]
    return found


@pytest.mark.parametrize(
    "sent",
    [
        {"data": {"text": "Advert A\nAdvert B, sign\n\n, cpc"}},
        {"files": {"file": ("list.csv", "Name;Where\r\nAdvert A;here\r\nAdvert B;Café\r\n;x\r\n".encode("cp1252"))}},
        {"files": {"file": ("list.txt", "Advert A\tsign\nAdvert B\tcpc\n\tx".encode("utf-16"))}},
    ],
    ids=["typed", "windows", "utf-16"],
)
def test_a_list_is_read_proposed_ordered_and_taken(browser: Browser, world: World, sent: dict[str, object]) -> None:
    here = f"/clients/{world.client.id}/numbers"
    page = browser.submit(f"{here}/many", **sent)
    assert page.status_code == 200
    assert "this line has no name" in page.text
    done = browser.submit(f"{here}/order", order_form(page.text))
    assert done.status_code == 303
    order_id = int(done.headers["location"].rsplit("/", 1)[1])
    assert "0 of 2 taken" in browser.get(done.headers["location"]).text
    orders.run(world.house, order_id)
    assert "2 of 2 taken" in browser.get(done.headers["location"]).text
    taken = numbers.of_client(world.house, world.actor, world.client.id)
    assert sorted(line.now.source.name for line in taken if line.now) == ["Advert A", "Advert B"]


def test_an_order_that_cannot_be_placed_keeps_the_list(browser: Browser, world: World) -> None:
    here = f"/clients/{world.client.id}/numbers"
    page = browser.submit(f"{here}/many", {"text": "Advert A\nAdvert B"})
    form = order_form(page.text)
    form["line-2-number"] = form["line-1-number"]
    refused = browser.submit(f"{here}/order", {**form, "text": "Advert A\nAdvert B"})
    assert refused.status_code == 422
    assert "is chosen for two lead sources" in refused.text
    assert "Advert B" in refused.text
    assert numbers.of_client(world.house, world.actor, world.client.id) == []


@pytest.mark.parametrize(
    ("sent", "sentence"),
    [
        ({"data": {"text": " \n "}}, "The list is empty"),
        ({"data": {"text": "\n".join(f"S{n}" for n in range(5001))}}, "at most 5,000 lines"),
        (
            {"data": {"text": "\n".join(f"S{n}" for n in range(5000)), "area_codes": "410"}},
            "At most 500 numbers in one go",
        ),
        ({"files": {"file": ("a.csv", b"\x89PNG\0\0\0")}}, "This file is no text"),
        ({"data": {"text": "A\nB", "column-0": ""}}, "Choose which column holds the name"),
        ({"data": {"text": "A\nB", "area_codes": "555"}}, "No place in North America has the area code 555"),
    ],
)
def test_a_list_that_cannot_be_used_gets_words(
    browser: Browser, world: World, sent: dict[str, object], sentence: str
) -> None:
    page = browser.submit(f"/clients/{world.client.id}/numbers/many", **sent)
    assert page.status_code == 422
    assert sentence in page.text


def test_sources_without_a_number_get_proposals(browser: Browser, world: World) -> None:
    first, second = world.source("Van"), world.source("Radio")
    here = f"/clients/{world.client.id}/numbers"
    assert browser.submit(f"{here}/missing").status_code == 422
    page = browser.submit(f"{here}/missing", {"source": str(first.id), "area_codes": "410"})
    form = order_form(page.text)
    assert form[f"line-{first.id}-source_id"] == str(first.id)
    assert f"line-{second.id}-number" not in form
    assert browser.submit(f"{here}/order", form).status_code == 303


def test_the_plan_goes_out_as_it_stands(browser: Browser, world: World) -> None:
    flow = world.flow(main_line(), sources={"ls_bus": "=Bus"})
    world.number("+14105550142", world.source("=Search", medium="cpc"), flow)
    world.number("+14105550143", world.source("Van"))
    here = f"/clients/{world.client.id}/numbers"
    rows = list(csv.reader(io.StringIO(browser.get(f"{here}.csv").text)))
    assert [row[:4] for row in rows[1:]] == [["+14105550142", "", "'=Search", "cpc"], ["+14105550143", "", "Van", ""]]
    book = load_workbook(io.BytesIO(browser.get(f"{here}.xlsx?q=0143").content))
    table = [[cell.value for cell in row] for row in book.active]  # type: ignore[union-attr]
    assert len(table) == 2
    assert table[0] == rows[0]
    assert table[1][0] == "+14105550143"
    assert browser.get(f"{here}.pdf").status_code == 404


def test_a_number_that_still_rings_asks_twice_before_it_goes(browser: Browser, world: World) -> None:
    number = world.number("+14105550142", world.source("Van"))
    here = f"/clients/{world.client.id}/numbers/{number.id}"
    assert browser.submit(f"{here}/rest", {"do": "rest"}).status_code == 303
    asked = browser.submit(f"{here}/rest", {"do": "release"})
    assert asked.status_code == 422
    assert "Its rest lasts until" in asked.text
    assert "Release anyway" in asked.text
    assert browser.submit(f"{here}/rest", {"do": "release", "sure": "1"}).status_code == 303
    assert browser.get(here).status_code == 404


@pytest.mark.parametrize(
    ("path", "form", "sentence"),
    [
        ("/give", {"source": "1", "since": "soon"}, "Write the moment as"),
        ("/give", {"source": "1", "since": "2020-01-01T00:00"}, "A change begins now or later"),
        ("/give", {"source": "1", "since": "2026-12-02T00:00", "until": "2026-12-01T00:00"}, "The end lies before"),
        ("/swap", {}, "Type the number to swap with"),
        ("/cancel", {"moment": "x"}, "No change is planned"),
        ("/leave", {}, "Tick that the other carrier"),
        ("/documents", {"kind": "x"}, "does not ask for this"),
        ("", {"whisper": "x" * 201}, "At most 200 letters"),
        ("", {"fail_safe": "410"}, "too few digits"),
    ],
)
def test_what_is_typed_wrong_on_a_numbers_page_stands_beside_its_field(
    browser: Browser, world: World, path: str, form: dict[str, str], sentence: str
) -> None:
    number = world.number("+14105550142", world.source("Van"))
    page = browser.submit(f"/clients/{world.client.id}/numbers/{number.id}{path}", form)
    assert page.status_code == 422
    assert sentence in page.text


@pytest.mark.parametrize(
    "query", ["?q=%00&sort=evil", "?flow=99999999999999999999&state=moon", "?lacks=x&way=up", "/999"]
)
def test_odd_addresses_are_answered(browser: Browser, world: World, query: str) -> None:
    assert browser.get(f"/clients/{world.client.id}/numbers{query}").status_code in (200, 404)
