"""People in the browser: a team is built, rung, and somebody is swapped everywhere in one step."""

import pytest

from tests.browser.conftest import Page
from tests.flows import document, ring, voicemail
from tests.world import PASSWORD, World
from vokari.work.people import everybody

pytestmark = pytest.mark.xdist_group("browser")


def test_a_team_is_built_and_a_person_swapped_everywhere(page: Page, town: World) -> None:
    page.sign_in("specialist@example.com", PASSWORD)
    here = f"/clients/{town.client.id}/people"
    page.open(here)
    page.see("Nobody yet")
    for name, number in (("Ada", "410 555 0165"), ("Ben", "410 555 0166"), ("Cleo", "911")):
        page.open(f"{here}/0")
        page.type("#f-name", name)
        page.type("[name=to-0]", number)
        page.press("Add person")
        if number == "911":
            page.see("This is an emergency number")
            page.type("[name=to-0]", "410 555 0167")
            page.press("Add person")
        page.see(f"{name}’s own page")
    page.open(f"{here}/teams/0")
    page.type("#f-name", "Yard")
    page.choose("[name=strategy]", "round robin")
    page.choose("[name=person-0]", "Ada")
    page.choose("[name=person-1]", "Ben")
    page.press("Add team")
    page.see("A caller whom nobody answers hears it ring for 36 seconds.")
    key = everybody.everybody(town.house, town.actor, town.client.id).teams[0].row.key
    step = {**ring("r", no_answer="vm", name="Yard office"), "to": [{"kind": "team", "id": "t", "team": key}]}
    flow = town.flow(document(step, voicemail(), rescue="vm", name="Team line", mark="TL"))
    page.open(f"/clients/{town.client.id}/flows/{flow.id}?row=r")
    page.see("rings Yard")
    page.choose("[name=callee]", "Ada")
    page.press("Done", ".row-form")
    page.see("rings Yard and Ada")
    page.open(here)
    ada = next(
        one.row for one in everybody.everybody(town.house, town.actor, town.client.id).people if one.row.name == "Ada"
    )
    page.open(f"{here}/person/{ada.id}/replace")
    page.choose("#f-by", "Cleo")
    page.click("[name=live]")
    page.press("Replace everywhere chosen")
    page.see("Changed: the team Yard, the draft of Team line.")
    page.open(f"/clients/{town.client.id}/flows/{flow.id}/rehearse")
    page.press("Call")
    page.see("What does each phone do?")
    page.see("Cleo")
    assert [one for one in page.complaints() if "404" not in one and "422" not in one] == []
