"""A hold line in the browser: built in the sheet, filled by calls, and drained before one's eyes."""

import pytest
from selenium.webdriver.common.by import By

from tests.browser.conftest import Page
from tests.browser.test_main_job import place, trace
from tests.flows import document, say, voicemail
from tests.work.people.test_people import add, add_team
from tests.world import PASSWORD, World
from vokari.local.stack import Stack

pytestmark = pytest.mark.xdist_group("browser")

CALLED, ADA = "+14105550144", "+14105550165"


def test_a_hold_line_fills_and_drains_live(page: Page, stack: Stack, town: World) -> None:
    add_team(town, "Front counter", [add(town, "Ada")])
    start = document(say("a", "Welcome", "vm"), voicemail(), rescue="vm", name="Counter line", mark="CL")
    flow = town.flow(start, live=False)
    page.sign_in("specialist@example.com", PASSWORD)
    sheet = f"/clients/{town.client.id}/flows/{flow.id}"
    page.open(f"{sheet}?row=a&exit=next")
    page.type("#line", "hold Wait for the counter")
    page.press("Add")
    page.see("holds callers for nobody yet")
    page.choose("[name=team]", "Front counter")
    page.retype("[name=longest_wait]", "120")
    for name in ("waited", "full", "nobody"):
        page.choose(f"#to-{name}", "Voicemail")
    page.press("Done", ".row-form")
    page.see("holds callers for Front counter, at most 2 min")
    page.put_live()
    page.see("Version 1 is live")
    town.number(CALLED, town.source("Counter sign"), flow)
    page.open(f"/clients/{town.client.id}/lines")
    page.see("Nobody waits.")
    phones = {ADA: {"behavior": "answers", "after": 1, "talk": 9}}
    refs = []
    for n in range(3):
        refs.append(place(stack, **{"from": f"+1410555018{n}", "to": CALLED, "phones": phones, "speed": "real"}))
        page.see("on a call")
        page.wait(lambda waits=str(n): page.find(".waits-now").text == waits)
    assert [one.text for one in page.driver.find_elements(By.CSS_SELECTOR, ".waiting .place")] == ["1", "2"]
    page.wait(lambda: page.find(".waits-now").text == "1", seconds=20)
    page.wait(lambda: page.find(".waits-now").text == "0", seconds=20)
    page.see("Nobody waits.")
    assert page.complaints() == []
    done = [trace(stack, ref, 40) for ref in refs]
    talks = [next(one["at"] for one in told["trace"] if one["what"].startswith("talks with")) for told in done]
    assert talks == sorted(talks)
