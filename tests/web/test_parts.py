"""Every template that is sent as a part of a page, rendered through its own route."""

import re
from collections.abc import Callable
from pathlib import Path

import pytest

import vokari.web
from tests.flows import DANA, document, phone, ring, voicemail
from tests.web.conftest import Browser
from tests.web.routes import filled
from tests.wire import Wire
from tests.work.people.test_people import add
from tests.world import World
from vokari.standins.carrier.app import Carrier

HTMX = {"HX-Request": "true"}
SENT_ALONE = re.compile(r'\.part\(\s*[^)]*?"([\w/]+\.html)"|"([\w/]+\.html)" if is_partial')

PARTS = {
    "calls/calls_live.html": "/clients/{client_id}/calls/live",
    "agency/found_list.html": "/find?q=Search",
    "hours/holiday_picks.html": "/exceptions/holidays?country=US",
    "holding/board_part.html": "/clients/{client_id}/lines",
    "people/phones_table.html": "/clients/{client_id}/people/phones",
    "calls/call_desk.html": "/clients/{client_id}/calls/{call_id}",
    "agency/zone_field.html": "/clients/zones?country=US&city=Denver",
    "calls/export_part.html": "/clients/{client_id}/exports/{export_id}",
    "numbers/order_part.html": "/clients/{client_id}/orders/{order_id}",
    "numbers/others.html": "/clients/{client_id}/numbers/{number_id}/others?other=410",
    "flows/sheet_desk.html": "/clients/{client_id}/flows/{flow_id}",
    "flows/telephone_desk.html": "/clients/{client_id}/rehearsals/{rehearsal_id}",
    "prompts/recorder_part.html": "/clients/{client_id}/prompts/recorder?name=Storage&kind=greeting",
    "prompts/shipped.html": "/clients/{client_id}/prompts/words?language=fr",
    "error_part.html": "/clients/{client_id}/flows/999999",
}
"""By template, what is asked for."""
POSTED = {
    "hours/painter.html": "/clients/{client_id}/hours/{hours_id}/paint",
    "flows/text_side.html": "/clients/{client_id}/flows/{flow_id}/text/lines",
}
"""By template, what is posted."""


def test_all_templates_that_are_sent_as_parts_are_among_these() -> None:
    sources = Path(vokari.web.__file__).parent.rglob("*.py")
    found = {one or other for path in sources for one, other in SENT_ALONE.findall(path.read_text())}
    assert found <= {*PARTS, *POSTED}
    assert len(found) > 8


@pytest.mark.parametrize("template", [*PARTS, *POSTED])
def test_a_part_is_rendered_without_the_frame(sign_in: Callable[..., Browser], world: World, template: str) -> None:
    ids, browser = filled(world, "+14105550142"), sign_in("specialist")
    Wire(world.house, "waits").arrive("+14105550142")
    if template in PARTS:
        answer = browser.get(ids.path(PARTS[template]), headers=HTMX)
    else:
        answer = browser.submit(ids.path(POSTED[template]), headers=HTMX)
    assert answer.status_code == (404 if template == "error_part.html" else 200)
    assert "<html" not in answer.text
    assert answer.text.strip()


def test_a_verification_call_answers_with_the_table_of_phones(
    sign_in: Callable[..., Browser], world: World, carrier: Carrier
) -> None:
    carrier.verifying.seconds = 0
    add(world, "Ada")
    steps = (ring("r", phone("Dana", DANA), no_answer="vm"), voicemail())
    world.flow(document(*steps, rescue="vm", name="Main line", mark="ML"))
    browser, at = sign_in("client_editor"), f"/clients/{world.client.id}/people/phones"
    answer = browser.submit(at, {"to": DANA}, headers=HTMX)
    assert answer.status_code == 200
    assert "1</b> of 2 phones was never verified" in answer.text
    wrong = browser.submit(at, {"to": "+14105550199"}, headers=HTMX)
    assert "No person and no flow of this client has this phone." in wrong.text
    assert "wait" in browser.submit(at, {"do": "all"}, headers=HTMX).text
    assert "wait" not in browser.submit(at, {"do": "stop"}, headers=HTMX).text
