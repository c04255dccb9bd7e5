"""A call that was tried is kept, fails once an edit leads it elsewhere, and then stops Put live until somebody gives their word."""

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.browser.test_sheet import lines, open_row, press, row
from tests.flows import DANA, document, menu, phone, ring, voicemail
from tests.world import PASSWORD, World

pytestmark = pytest.mark.xdist_group("browser")


def test_a_kept_rehearsal_stops_put_live(page: Page, town: World) -> None:
    steps = (
        menu("ask", {"1": {"to": "desk", "name": "Desk"}, "2": {"to": "vm", "name": "Messages"}}, nothing="vm", wrong="vm", name="Who for"),
        ring("desk", phone("Dana", DANA), no_answer="vm", machine_detection=True, name="Desk"), voicemail(name="Box"),
    )  # fmt: skip
    flow = town.flow(document(*steps, rescue="vm", name="Kept line", mark="KP"), live=False)
    base = f"/clients/{town.client.id}/flows/{flow.id}"
    page.sign_in("specialist@example.com", PASSWORD)
    page.open(f"{base}/rehearse")
    page.press("Call")
    page.press("Skip to end")
    page.press("1")
    page.press("Answers")
    page.see("Talking")
    page.type("#keep-name", "Desk picks up")
    page.press("Keep it")
    page.see("What it should come to")
    page.type("[name=within]", "30")
    page.press("Keep as changed")
    page.see("1 holds, 0 fail")
    page.press("Back to the sheet")
    page.see("1 holds, none fails")
    row(page, "rings Dana")
    press(page, Keys.CONTROL, Keys.DELETE)
    page.see("1 fails")
    assert "“Desk picks up” fails" in page.text
    page.press("Put live")
    page.see("Desk picks up")
    page.open(f"{base}/rehearsals")
    page.see("fails")
    assert "Dana is not rung; nobody is." in page.text
    page.press("Back to the sheet")
    page.put_live("The desk moves on Monday")
    page.see("Version 1 is live")
    assert "The desk moves on Monday" in page.driver.page_source
    page.open(f"{base}/rehearsals")
    page.press("Propose a set")
    page.see("Proposed")
    page.press("Keep them")
    page.see("1 fails")
    assert len(page.driver.find_elements(By.CSS_SELECTOR, ".kept-calls > tbody > tr")) > 2
    assert page.complaints() == []


def test_the_telephone_stands_beside_the_sheet(page: Page, town: World) -> None:
    steps = (
        menu("ask", {"1": "desk", "2": "vm"}, nothing="vm", wrong="vm", name="Who for"),
        ring("desk", phone("Dana", DANA), no_answer="vm", name="Desk"),
        voicemail(name="Box"),
    )
    flow = town.flow(document(*steps, rescue="vm", name="Beside line", mark="BS"), live=False)
    page.sign_in("specialist@example.com", PASSWORD)
    page.open(f"/clients/{town.client.id}/flows/{flow.id}")
    page.press("Rehearse")
    page.driver.switch_to.frame(page.find("#phone-pane iframe"))
    page.press("Call")
    page.press("Skip to end")
    page.press("2")
    page.see("Leave a message")
    assert "Clients and more" not in page.text
    page.driver.switch_to.default_content()
    open_row(page, "keeps a message")
    page.retype("[name=greeting]", "Say who you are")
    page.press("Done", ".row-form")
    page.wait(lambda: any("Say who you are" in one for one in lines(town, flow)))
    page.driver.switch_to.frame(page.find("#phone-pane iframe"))
    page.press("Again")
    page.see("Say who you are")
    page.see("ways tried")
    page.driver.switch_to.default_content()
    page.press("Close the telephone")
    page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, "#phone-pane iframe"))
    assert page.complaints() == []
