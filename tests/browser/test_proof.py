"""The proof as a specialist uses it: a gap on a holiday is found, played, mended at one press, and gone; then the flow goes live."""

import pytest

from tests.browser.conftest import Page
from tests.flows import DANA, document, menu, phone, ring, say, voicemail
from tests.hours import week
from tests.world import PASSWORD, World
from vokari.core.hours.document import Pick, PublicHolidays
from vokari.work.hours import days, sets
from vokari.work.house.views import HoursSetView

pytestmark = pytest.mark.xdist_group("browser")


def hours(town: World) -> str:
    """Hours that close on Christmas Day."""
    args = (town.house, town.actor, town.client.id)
    made = sets.create(*args, "Opening times", "client")
    assert isinstance(made, HoursSetView)
    assert isinstance(sets.set_week(*args, made.id, [("open", "Open")], week(open="Daily 0-24"), None), sets.OpenHours)
    christmas = PublicHolidays(
        id="us", name="Public holidays", country="US", region="", picked=(Pick(name="Christmas Day"),), seen_until=2030
    )
    assert days.keep(*args, made.id, christmas) == []
    return made.key


def test_a_gap_on_a_holiday_is_found_played_mended_and_gone(page: Page, town: World) -> None:
    ways = [{"id": "shut", "when": {"test": "exception", "of": hours(town)}, "to": "away"}]
    steps = (
        {"kind": "junction", "id": "j", "branches": ways, "otherwise": "desk"},
        ring("desk", phone("Dana", DANA), no_answer="vm", machine_detection=True), say("away", "We are away", "end", name="Away"), voicemail(),
    )  # fmt: skip
    flow = town.flow(document(*steps, rescue="vm", name="Holiday line", mark="HL"), live=False)
    page.sign_in("specialist@example.com", PASSWORD)
    page.open(f"/clients/{town.client.id}/flows/{flow.id}")
    page.see("Callers are lost at “Away”")
    assert "Dec 25" in page.find("#proof").text
    page.see("1 finding blocks going live: the proof shows how callers are lost.")
    page.press("Put live")
    page.see("Not live: 1 finding stops it.")
    assert "Callers are lost at “Away”" in page.find(".said").text
    assert page.find(".said a").text == page.find("#proof .finding a").text
    page.see("Callers are lost at “Away”")
    page.press("Play", "#proof")
    page.see("We are away")
    assert "lost" in page.find(".phone-state").text
    assert ", Dec 25" in page.text or "Fri 00:" in page.text
    page.press("Back to the sheet")
    page.see("Callers are lost at “Away”")
    page.press("Lead on to the rescue", "#proof")
    page.see("No caller is lost by this flow")
    page.see("Nothing blocks going live.")
    assert "Callers are lost" not in page.find("#proof").text
    page.put_live("Dana tried it herself")
    page.see("Version 1 is live")
    page.click(".version-takes summary")
    page.see("Dana tried it herself")
    page.open(f"/clients/{town.client.id}/flows/{flow.id}/live")
    page.see("Nothing changes for any caller")
    assert "your word" not in page.text, (
        "the client is another now that this is live, and its draft is proven by itself"
    )
    page.open(f"/clients/{town.client.id}/cover")
    page.see("Holiday line")
    page.wait(
        lambda: page.driver.get(page.driver.current_url) or page.driver.find_elements("css selector", "svg.cover-day"),
        "the strips",
    )
    page.see("Christmas Day")
    assert page.hosts() == {"127.0.0.1"}
    assert [one for one in page.complaints() if "favicon" not in one and "422" not in one] == []


def test_the_proof_stands_beside_the_text_too_and_a_hang_up_that_loses_callers_is_mended_there(
    page: Page, town: World
) -> None:
    steps = (
        menu("m", {"1": "desk"}, nothing="bye", wrong="vm", name="Sails"), ring("desk", phone("Dana", DANA), no_answer="vm", machine_detection=True),
        {"kind": "hang_up", "id": "bye", "name": "Goodbye", "prompt": {"say": "Goodbye"}}, voicemail(),
    )  # fmt: skip
    flow = town.flow(document(*steps, rescue="vm", name="Sail line", mark="SL"), live=False)
    page.sign_in("specialist@example.com", PASSWORD)
    page.open(f"/clients/{town.client.id}/flows/{flow.id}/text")
    page.see("Callers are lost at “Goodbye”")
    page.see("1 finding blocks going live")
    page.press("Lead its callers to the rescue", "#proof")
    page.see("No caller is lost by this flow")
    assert "/text" in page.driver.current_url
    assert "Goodbye" not in page.find(".cm-content").text
    page.see("Nothing blocks going live.")
    assert [one for one in page.complaints() if "favicon" not in one] == []
