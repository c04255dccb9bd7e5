"""What is typed wrong: words beside the field, what was typed kept, and nothing half saved."""

import re
from collections.abc import Callable

import pytest

from tests.flows import document, say, voicemail
from tests.web.conftest import Browser
from tests.wire import Wire
from tests.world import World, main_line
from vokari.work.agency import clients
from vokari.work.flows import open_drafts
from vokari.work.reports.groups import GROUPS

SMALL = document(say("a", "Welcome", "vm", name="Welcome"), voicemail(name="Box"), rescue="vm", name="Small")


@pytest.fixture
def browser(sign_in: Callable[..., Browser]) -> Browser:
    return sign_in("specialist")


def test_a_client_is_taken_on(browser: Browser, world: World) -> None:
    form = {
        "name": "Alder Lane Cattery",
        "country": "US",
        "time_zone": "America/New_York",
        "city": "Burlington",
        "fail_safe": "802 555 0160",
    }
    assert browser.submit("/clients/new", form).headers["location"] == "/clients/2/numbers"
    twice = browser.submit("/clients/new", form)
    assert twice.status_code == 422
    assert "Another client has this name already" in twice.text
    bad = browser.submit("/clients/new", {**form, "name": "", "time_zone": "Mars/Base", "fail_safe": "12"})
    for sentence in ("1 to 80 letters", "no such time zone", "too few digits"):
        assert sentence in bad.text
    assert 'value="12"' in bad.text
    assert len(clients.names(world.house, world.actor)) == 2


def test_a_wrong_phone_in_a_ring_stands_beside_its_field_and_nothing_is_saved(browser: Browser, world: World) -> None:
    flow = world.flow(main_line(), live=False, sources={"ls_bus": "Bus"})
    page = f"/clients/{world.client.id}/flows/{flow.id}"
    form = {
        "base": "0",
        "name": "Yard",
        "strategy": "in_order",
        "phone-0-name": "Dana",
        "phone-0-number": "410-555",
        "phone-0-seconds": "25",
        "no_answer": "vm",
    }
    answer = browser.submit(f"{page}/rows/r", form)
    assert answer.status_code == 422
    assert "too few digits" in answer.text
    assert 'value="410-555"' in answer.text
    assert open_drafts.opened(world.house, world.actor, world.client.id, flow.id).flow.revision == 0
    form |= {"phone-0-number": "410-555-0163", "phone-0-seconds": "500"}
    assert browser.submit(f"{page}/rows/r", form).status_code == 422
    form |= {"phone-0-seconds": "25", "busy": "same", "after": "end"}
    assert browser.submit(f"{page}/rows/r", form).status_code == 200
    step = open_drafts.opened(world.house, world.actor, world.client.id, flow.id).document.step("r")
    assert (step.name, step.to[0].number, step.busy) == ("Yard", "+14105550163", "same")


@pytest.mark.parametrize(
    ("typed", "sentence"),
    [
        ({"phone-0-number": "410-555-0163 ext"}, "the digits to dial"), ({"recording": "learn", "per_week": "0"}, "At least 1"),
        ({"note": "why " * 2500}, "At most 2000 letters"), ({"recording": "learn", "keep_key": "1", "pause_key": "1"}, "are the same"),
        ({"hears_words": "x" * 301}, "At most 300 letters"),
    ],
)  # fmt: skip
def test_what_is_wrong_with_a_ring_is_said_and_nothing_is_saved(
    browser: Browser, world: World, typed: dict[str, str], sentence: str
) -> None:
    flow = world.flow(main_line(), live=False, sources={"ls_bus": "Bus"})
    page = f"/clients/{world.client.id}/flows/{flow.id}"
    form = {"base": "0", "name": "Yard", "strategy": "in_order", "phone-0-number": "410-555-0163", "no_answer": "vm"}
    answer = browser.submit(f"{page}/rows/r", {**form, **typed})
    assert answer.status_code == 422
    assert sentence in answer.text
    assert open_drafts.opened(world.house, world.actor, world.client.id, flow.id).flow.revision == 0


def test_every_field_of_every_kind_survives_being_saved_unchanged(browser: Browser, world: World) -> None:
    """The form of a row holds the whole row: saving what it shows changes nothing."""
    branch = {"to": "a", "language": "es", "source": "ls_bus", "elsewhere": True}
    flow = document(
        {"kind": "menu", "id": "m", "name": "Keys", "prompt": {"say": "Press"}, "branches": [{"id": "k1", "keys": "12", "name": "Bus", **branch},
         {"id": "k2", "keys": "*", "hear_again": True}], "nothing": "r", "wrong": "h", "tries": 3, "wait": 7, "inter_digit": 4,
         "dial_extensions": True, "extension": "r",
         "retry_silent": {"say": "Still there?", "language": "en-GB"}, "retry_wrong": {"say": "Not that"}},
        say("a", "Hello", "l", name="Hi", times=2, notice=True, counts_as="served"),
        {"kind": "label", "id": "l", "name": "Lab", "labels": ["one", "two words"], "lead_status": "qualified", "next": "b"}, {"kind": "back_to", "id": "b", "to": "m"},
        {"kind": "ring", "id": "r", "name": "Yard", "strategy": "all_at_once", "rounds": 2, "limit": 44, "shows": "tracking_number",
         "accept": {"key": "5", "seconds": 9}, "machine_detection": True, "no_answer": "vm", "busy": "h", "unreachable": "vm", "nobody": "h", "after": "a",
         "note": "Asked for by the yard, until spring", "to_do": True, "recording": {"purpose": "learn", "per_week": 7, "keep_key": "7", "pause_key": None},
         "hears": {"words": "Call from {said name}", "asks": "Who is it?"},
         "to": [{"kind": "number", "id": "d1", "name": "Dana", "number": "+14105550160;ext=24", "seconds": 33, "answered": "dialed"},
                {"kind": "number", "id": "d2", "name": "Service", "number": "+14105550161", "answered": "service"},
                {"kind": "dialed", "id": "d3", "seconds": 25}]},
        {"kind": "keypad_entry", "id": "k", "name": "Code", "prompt": {"say": "Your code"}, "shortest": 3, "longest": 6, "wait": 8, "tries": 3,
         "inter_digit": 4, "store_as": "order_number", "retry_silent": {"say": "Still there?"}, "retry_wrong": {"say": "Again"}, "typed": "i", "nothing": "vm",
         "wrong": "h"},
        {"kind": "continue_in", "id": "i", "flow": "fl_gone", "returns": [{"id": "w1", "name": "Booked", "to": "a"}, {"id": "w2", "name": "Not booked"}]},
        {"kind": "come_back", "id": "c", "way": "Booked"},
        voicemail(beep=False, longest=90, stop_key="*", stop_silence=None, no_message="h", name="Box"),
        {"kind": "hang_up", "id": "h", "name": "Bye", "prompt": {"say": "Goodbye"}, "refusal": True},
        rescue="vm",
    )  # fmt: skip
    made = world.flow(flow, live=False, sources={"ls_bus": "Bus"})
    before = open_drafts.opened(world.house, world.actor, world.client.id, made.id).document
    page = f"/clients/{world.client.id}/flows/{made.id}"
    for step in before.steps:
        html = browser.get(f"{page}?row={step.id}").text
        form = re.search(r'<form class="row-form .*?</form>', html, re.S).group(0)
        saved = browser.submit(f"{page}/rows/{step.id}", fields(form))
        assert saved.status_code == 200, (step.kind, saved.text[:300])
    assert open_drafts.opened(world.house, world.actor, world.client.id, made.id).document == before


def fields(html: str) -> dict[str, str]:
    """What a browser would send of a form."""
    import html as entities

    found = {}
    for tag in re.findall(r"<input[^>]*>", html):
        name, value = re.search(r'name="([^"]*)"', tag), re.search(r'value="([^"]*)"', tag)
        if 'type="checkbox"' in tag and " checked" not in tag:
            continue
        found[name.group(1)] = entities.unescape(value.group(1)) if value else ""
    for name, text in re.findall(r'<textarea[^>]*name="([^"]+)"[^>]*>(.*?)</textarea>', html, re.S):
        found[name] = entities.unescape(text)
    for name, several, options in re.findall(r'<select[^>]*name="([^"]+)"( multiple)?.*?>(.*?)</select>', html, re.S):
        if several:
            continue
        chosen = re.search(r'<option value="([^"]*)" selected', options) or re.search(
            r'<option value="([^"]*)"', options
        )
        found[name] = entities.unescape(chosen.group(1))
    return {name: value for name, value in found.items() if name != "form_token"}


def test_the_second_to_keep_a_row_sees_theirs_stand_with_their_own_beside_it(
    browser: Browser, sign_in: Callable[..., Browser], world: World
) -> None:
    flow = world.flow(SMALL, live=False)
    page = f"/clients/{world.client.id}/flows/{flow.id}"
    form = {"base": "0", "name": "Welcome", "prompt": "Theirs", "times": "1", "next": "vm"}
    assert sign_in("owner").submit(f"{page}/rows/a", form).status_code == 200
    told = browser.submit(f"{page}/rows/a", {**form, "prompt": "Mine"})
    assert told.status_code == 409
    assert "Owner changed this row" in told.text
    assert ">Theirs</textarea>" in told.text
    assert "<td>Theirs</td><td>Mine</td>" in told.text
    mine = re.search(r'<form method="post"[^>]*data-leaves>.*?</form>', told.text, re.S).group(0)
    taken = browser.submit(f"{page}/rows/a", fields(mine))
    assert (taken.status_code, ">Mine</textarea>" in taken.text) == (200, True)
    assert (
        open_drafts.opened(world.house, world.actor, world.client.id, flow.id).document.by_id["a"].prompt.say == "Mine"
    )


def test_removing_a_row_that_somebody_changed_is_asked_about(
    browser: Browser, sign_in: Callable[..., Browser], world: World
) -> None:
    flow = world.flow(SMALL, live=False)
    page = f"/clients/{world.client.id}/flows/{flow.id}"
    sign_in("owner").submit(
        f"{page}/rows/a", {"base": "0", "name": "Welcome", "prompt": "Theirs", "times": "1", "next": "vm"}
    )
    told = browser.submit(f"{page}/remove", {"row": "a", "base": "0"})
    assert (told.status_code, "Do it all the same" in told.text) == (409, True)
    mine = re.search(r'<form method="post"[^>]*data-leaves>.*?</form>', told.text, re.S).group(0)
    assert browser.submit(f"{page}/remove", fields(mine)).status_code == 200
    assert open_drafts.opened(world.house, world.actor, world.client.id, flow.id).document.step("a") is None


def test_put_live_is_stopped_in_words(browser: Browser, world: World) -> None:
    flow = world.flow(SMALL, live=False)
    page = f"/clients/{world.client.id}/flows/{flow.id}"
    browser.submit(f"{page}/connect", {"row": "a", "exit": "next", "to": "", "base": "0"})
    stopped = browser.submit(f"{page}/live", {"base": "1"})
    assert stopped.status_code == 422
    assert "leads nowhere" in stopped.text
    assert "?row=a&amp;exit=next" in stopped.text
    browser.submit(f"{page}/undo")
    assert browser.submit(f"{page}/live", {"base": "2"}).status_code == 303


def test_a_broken_flow_file_names_line_and_path(browser: Browser, world: World) -> None:
    text = '{"flow": {"name": "A", "mark": "AB",\n"steps": [{"kind": "menu", "id": "m",\n "tries": 99}]}}'
    path = f"/clients/{world.client.id}/flows/import"
    answer = browser.submit(path, files={"file": ("flow.json", text.encode())})
    assert answer.status_code == 422
    assert "line 3, flow.steps.0.tries" in answer.text
    assert browser.submit(path, files={"file": ("flow.json", b"\xff\xfe\x00")}).status_code == 422
    assert browser.submit(path).status_code == 422


def test_a_character_that_cannot_be_stored_gets_words(browser: Browser, world: World) -> None:
    flow = world.flow(SMALL, live=False)
    page = f"/clients/{world.client.id}/flows/{flow.id}"
    answers = [
        browser.submit("/clients/new", {"name": "A\0B", "country": "US", "time_zone": "America/New_York"}),
        browser.submit(f"{page}/rows/a", {"base": "0", "name": "Welcome", "prompt": "A\0B", "times": "1"}),
        browser.submit(f"/clients/{world.client.id}/sources", {"name": "A\0B"}),
        browser.get("/find?q=A%00B"),
    ]
    assert [one.status_code for one in answers] == [400, 400, 400, 200]
    assert all("cannot be kept" in one.text for one in answers[:3])
    assert open_drafts.opened(world.house, world.actor, world.client.id, flow.id).flow.revision == 0


@pytest.mark.parametrize("path", ["?row=zz", "?row=m&exit=zz", "?row=flow", "?row=%00", "?row=m&exit=nothing"])
def test_odd_addresses_of_the_sheet_still_show_it(browser: Browser, world: World, path: str) -> None:
    flow = world.flow(main_line(), live=False, sources={"ls_bus": "Bus"})
    assert browser.get(f"/clients/{world.client.id}/flows/{flow.id}{path}").status_code == 200


@pytest.mark.parametrize(
    "path",
    [
        "calls?period=own&first=x",
        "calls?before=yesterday&source=abc&fate=sad",
        "calls?caller=%25&number=99999999999999999999",
        "report?period=own&first=2026-02-30&last=2026-01-01",
        "report?sort=evil&way=sideways",
        "calls.csv?period=own",
        "calls?weekday=9&hour=x&key=abc&person=%27&medium=none&campaign=zzz",
        "report?by=moon&against=never",
        "report.csv?period=9",
    ],
)
def test_odd_questions_get_an_answer_or_words(browser: Browser, world: World, path: str) -> None:
    assert browser.get(f"/clients/{world.client.id}/{path}").status_code in (200, 422)


def test_the_report_adds_up_with_the_calls_it_links_to(browser: Browser, world: World) -> None:
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"})
    world.number("+14105550142", world.source("=Search advert"), flow)
    for n, key in enumerate("1177"):
        wire = Wire(world.house, f"c{n}")
        wire.arrive()
        wire("digit", 2, key=key)
        wire("leg", 5, command=wire.commands[0]["id"], outcome="answered" if n % 2 else "busy")
        wire("caller_gone", 30)
    for by in GROUPS:
        page = browser.get(f"/clients/{world.client.id}/report?by={by}&against=before").text
        figures = re.findall(r'href="(/clients/1/calls\?[^"]+)">(\d+)</a>', page)
        assert len(figures) > 3, by
        for link, shown in figures:
            assert browser.get(link.replace("&amp;", "&")).text.count("/calls/0") == int(shown), link
        assert browser.get(f"/clients/{world.client.id}/report/print?by={by}&against=year").status_code == 200
        assert browser.get(f"/clients/{world.client.id}/report.xlsx?by={by}&against=year").content.startswith(b"PK")
    table = browser.get(f"/clients/{world.client.id}/report.csv").text.splitlines()
    assert sorted(row.split(",")[:6] for row in table[1:]) == [
        ["'=Search advert", "", "", "", "2", "1"],
        ["Bus panel", "", "", "", "2", "1"],
    ]


def test_a_rehearsal_runs_by_plain_forms(browser: Browser, world: World) -> None:
    flow = world.flow(main_line(), live=False, sources={"ls_bus": "Bus"})
    begun = browser.submit(
        f"/clients/{world.client.id}/flows/{flow.id}/rehearse",
        {"called": "410-555-0142", "caller": "", "at": "2026-11-24T14:05"},
    )
    here = begun.headers["location"]
    assert "Press 1. Press 2." in browser.get(here).text
    browser.submit(here, {"what": "digit", "key": "2", "after": "1", "elapsed": "3"})
    page = browser.get(here).text
    command = re.search(r'name="command" value="(\d+)"', page).group(1)
    browser.submit(here, {"what": "leg", "command": command, "outcome": "busy", "after": "2"})
    stale = browser.submit(here, {"what": "gone", "after": "1"})
    assert stale.status_code == 303
    assert "Leave a message" in browser.get(here).text
    assert browser.submit(here, {"what": "juggle"}).status_code == 400
    for typed in ({"at": "soon"}, {"at": "2026-11-24T14:05", "caller": "nobody"}):
        assert browser.submit(f"/clients/{world.client.id}/flows/{flow.id}/rehearse", typed).status_code == 422
