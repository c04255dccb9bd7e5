"""A postal code that a caller types, and a version that goes live at a moment to come, in the real application."""

import time
from datetime import timedelta

import pytest
from selenium.webdriver.common.by import By
from sqlalchemy import text

from tests.browser.conftest import Page
from tests.browser.test_main_job import place, trace
from tests.flows import DANA, JOEL, document, phone, ring, say, voicemail
from tests.world import PASSWORD, World
from vokari.local.stack import Stack
from vokari.work.calls import history
from vokari.work.calls.history import CallFilter

pytestmark = pytest.mark.xdist_group("browser")

ROUTED = document(
    {"kind": "keypad_entry", "id": "k", "name": "Postal code", "prompt": {"say": "Your postal code"}, "shortest": 5, "longest": 5,
     "store_as": "postal_code", "typed": "j", "nothing": "yard", "wrong": "yard"},
    {"kind": "junction", "id": "j", "name": "Nearest", "otherwise": "yard"},
    ring("yard", phone("Dana", DANA), no_answer="vm", name="Yard"), ring("ramp", phone("Joel", JOEL), no_answer="vm", name="Ramp"),
    voicemail(), rescue="vm", name="Routed", mark="RO",
)  # fmt: skip


def test_a_postal_code_typed_by_a_caller_reaches_the_nearest_place(page: Page, stack: Stack, town: World) -> None:
    number = town.number("+14105550110", town.source("Routed advert"), town.flow(ROUTED, live=False))
    page.sign_in("specialist@example.com", PASSWORD)
    base = f"/clients/{town.client.id}"
    page.open(f"{base}/places")
    page.type("[name='place-0-name']", "Yard")
    page.type("[name='place-0-where']", "SW1A 1AA")
    page.press("Save")
    page.see("is not how postal codes of the US look")
    page.type("[name='place-0-where']", "21401")
    page.press("Save")
    page.find("svg.places-map")
    page.type("[name='place-1-name']", "Ramp")
    page.type("[name='place-1-where']", "21613")
    page.press("Save")
    page.wait(lambda: len(page.driver.find_elements(By.CSS_SELECTOR, "rect.place")) == 2)

    page.open(f"{base}/flows/{number.flow_id}?row=j")
    page.retype("[name='branch-0-when']", "nearest to Ramp")
    page.choose("[name='branch-0-to']", "Ramp")
    page.press("Done")
    page.see("sorts by nearest to Ramp")
    page.rehearse()
    for count, digit in enumerate("21622", 1):
        page.click(f".keypad button[value='{digit}']")
        page.wait(lambda count=count: page.text.count("Caller presses") == count, f"key {count}")  # type: ignore[misc]
    page.see("Nearest to Ramp: yes, by the postal code that was typed")
    page.see("Rings Joel")
    page.open(f"{base}/flows/{number.flow_id}/live")
    page.put_live()
    page.see("Version 1 is live")
    press = [[3.0 + 0.4 * n, digit] for n, digit in enumerate("21622")]
    phones = {JOEL: {"behavior": "answers", "after": 1.0, "talk": 2.0}}
    script = {"from": "+14105550185", "to": "+14105550110", "speed": "fast", "press": press, "phones": phones}
    ref = place(stack, **script)
    trace(stack, ref)
    done = history.log(town.house, town.actor, town.client.id, CallFilter())[0]
    assert (done.call.fate, done.call.answered_by) == ("answered", JOEL)
    assert page.complaints() == [] or all("422" in one for one in page.complaints())


def test_a_version_put_live_for_tomorrow_takes_effect_and_is_taken_back(page: Page, stack: Stack, town: World) -> None:
    made = town.flow(
        document(say("a", "Hello", "vm", name="Welcome"), voicemail(), rescue="vm", name="Planned", mark="PL")
    )
    base = f"/clients/{town.client.id}/flows/{made.id}"
    page.sign_in("specialist@example.com", PASSWORD)
    page.open(f"{base}?row=a")
    page.retype("[name='prompt']", "Hello in winter")
    page.press("Done")
    page.see("changed since version 1")
    page.click("#proof-changes summary")
    page.see("The flow now says “Hello in winter”; before, it says “Hello”.")
    page.press("Review")
    page.see("“Welcome” says “Hello in winter”; before: “Hello”.")
    page.type("#f-why", "winter words")
    tomorrow = town.house.now() + timedelta(days=1)
    page.driver.execute_script("arguments[0].value = arguments[1]", page.find("#f-at"), "2001-01-01T08:00")
    page.press("Put live")
    page.see("That moment has passed")
    page.driver.execute_script(
        "arguments[0].value = arguments[1]", page.find("#f-at"), tomorrow.strftime("%Y-%m-%dT%H:%M")
    )
    page.press("Put live")
    page.see("Version 2 goes live")
    page.press("Take back")
    page.wait(lambda: "goes live" not in page.text)

    page.open(f"{base}/live")
    page.driver.execute_script(
        "arguments[0].value = arguments[1]", page.find("#f-at"), tomorrow.strftime("%Y-%m-%dT%H:%M")
    )
    page.press("Put live")
    page.see("Version 2 goes live")
    with town.house.begin() as session:
        session.execute(text("UPDATE due_changes SET at = now() - interval '1 second' WHERE state = 'waiting'"))
    end = time.monotonic() + 90
    while time.monotonic() < end:
        page.open(f"{base}/versions")
        if page.driver.find_elements(By.CSS_SELECTOR, "tbody tr:first-child .live-word"):
            break
        time.sleep(1)
    page.press("Put version 1 live again")
    page.see("Version 1 is live")
    page.open(f"{base}/traffic")
    page.see("No call has passed through this version yet")
