"""The whole main job as a person does it: sign in, take a number, build, rehearse, put live, call, see the credit."""

import re
import time

import httpx
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.flows import DANA
from tests.world import PASSWORD, World, main_line
from vokari.local.stack import Stack
from vokari.work.calls import history
from vokari.work.calls.history import CallFilter

pytestmark = pytest.mark.xdist_group("browser")


def place(stack: Stack, **script: object) -> str:
    answer = httpx.post(f"{stack.settings.carrier_url}/calls", json=script)
    assert answer.status_code == 201, answer.text
    return str(answer.json()["ref"])


def trace(stack: Stack, ref: str, seconds: float = 30) -> dict[str, object]:
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        found = httpx.get(f"{stack.settings.carrier_url}/calls/{ref}").json()
        if found["over"]:
            return dict(found)
        time.sleep(0.1)
    raise AssertionError(found)


def ready_for_the_next_line(page: Page) -> None:
    """The field in which a line is typed has the focus, and is empty."""
    page.wait(lambda: page.driver.switch_to.active_element.get_attribute("id") == "line")
    assert page.driver.switch_to.active_element.get_attribute("value") == ""


def test_the_main_job(page: Page, stack: Stack, town: World) -> None:
    page.sign_in("specialist@example.com", PASSWORD)
    page.press("Brightwater Boatyard", ".client-names")
    page.press("Numbers", ".sections")
    page.press("Add the first lead source")
    page.type("#f-name", "Spring leaflet")
    page.type("#f-medium", "print")
    page.press("Add and find a number")
    page.type("#f-area_codes", "410")
    page.see("410-555-0100")
    page.wait(lambda: "area_codes=410" in page.driver.current_url)
    page.click("[aria-label='Take number 410-555-0100']")
    page.see("$3.00 a month")
    page.press("Take 410-555-0100")
    page.see("Assignment history")
    page.see("none: callers reach the fail-safe")

    page.press("Flows", ".sections")
    page.type("#f-name", "Main line")
    page.press("New flow")
    page.see("What does the caller meet first?")
    page.type("#line", "say Welcome to the boatyard")
    page.press("Add", ".quick-line")
    page.see("says “Welcome to the boatyard”")
    ready_for_the_next_line(page)
    page.type("#line", "ask For boat lifts press 1")
    page.press("Add", ".quick-line")
    page.see("asks no key yet")
    ready_for_the_next_line(page)
    page.type("#line", "1 ring Boat lifts 410-555-0160 25s")
    page.press("Add", ".quick-line")
    page.see("rings Boat lifts, 5 rings, 25 s")
    ready_for_the_next_line(page)
    page.press("nowhere yet", ".outline")
    page.find(".exit-row.is-open")
    page.type("#line", "voicemail Yard box")
    page.press("Add", ".quick-line")
    page.see("has no mailbox yet")
    page.choose("select[name=mailbox]", "a new mailbox")
    page.retype("[name=new_mailbox]", "Yard")
    page.retype("[name=new_mailbox_tell]", "dana@example")
    page.press("Done", ".row-form")
    page.see("is no email address")
    page.retype("[name=new_mailbox_tell]", "dana@example.com")
    page.retype("[name=greeting]", "Please leave a message")
    page.press("Done", ".row-form")
    page.see("keeps a message in Yard")

    page.press("Put live")
    page.see("findings stop it")
    while page.driver.find_elements(By.CSS_SELECTOR, ".finding.stops a"):
        page.click(".finding.stops a")
        page.find("select[name=to]")
        page.choose("select[name=to]", "Yard box")
        count = len(page.driver.find_elements(By.CSS_SELECTOR, ".finding"))
        page.press("Connect")
        page.wait(lambda count=count: len(page.driver.find_elements(By.CSS_SELECTOR, ".finding")) < count)
    page.see("Nothing blocks going live")
    page.press("Undo")
    page.see("leads nowhere")
    page.press("Redo")
    page.see("Nothing blocks going live")
    page.driver.back()
    page.driver.forward()

    page.rehearse()
    page.see("Speaking")
    played = page.wait(lambda: page.driver.execute_script("return document.getElementById('telephone').dataset.audio"))
    sound = page.driver.execute_async_script(
        "const done = arguments[1]; fetch(arguments[0]).then(r => r.arrayBuffer()).then(b => new AudioContext().decodeAudioData(b)).then(a => done(a.duration))",
        played,
    )
    assert sound > 0.8
    page.driver.find_element(By.TAG_NAME, "body").send_keys("1")
    page.see("Rings Boat lifts, 25 s")
    page.press("Answers")
    page.see("They talk")
    page.press("Hang up")
    page.see("answered")
    page.press("Back to the sheet")

    page.put_live()
    page.see("Version 1 is live")
    page.press("Numbers", ".sections")
    page.press("410-555-0100", ".plan")
    page.choose("#f-flow", "Main line")
    page.press("Save")
    page.wait(lambda: "ML Main line" in page.find(".facts").text)

    page.press("Calls", ".sections")
    page.see("No call in progress")
    ref = place(
        stack,
        **{
            "from": "+14105550185",
            "to": "+14105550100",
            "press": [[1.0, "1"]],
            "phones": {DANA: {"after": 2, "talk": 3}},
        },
    )
    page.see("1 call in progress")
    page.see("at Boat lifts")
    assert not trace(stack, ref)["used_fail_safe"]
    page.see("No call in progress")
    page.press("Report", ".sections")
    page.press("Today", ".periods")
    page.see("Spring leaflet")
    row = next(
        one for one in page.driver.find_elements(By.CSS_SELECTOR, ".report tbody tr") if "Spring leaflet" in one.text
    )
    assert re.sub(r"\s+", " ", row.text).startswith("Spring leaflet print 1 1 1 unconfirmed 0")
    page.hit(By.XPATH, ".//tr[contains(., 'Spring leaflet')]/td/a", ".report")
    page.click(".calls tbody a")
    page.see("by the number dialed")
    page.see("Main line, version 1")
    assert page.driver.find_elements(By.CSS_SELECTOR, ".map-step.met")
    assert page.hosts() == {"127.0.0.1"}
    assert [one for one in page.complaints() if "favicon" not in one and "409" not in one and "422" not in one] == []


def test_a_call_goes_on_unharmed_when_call_control_is_killed(stack: Stack, town: World) -> None:
    flow = town.flow(main_line(name="Kill line"), sources={"ls_bus": "Bus"})
    town.number("+14105550110", town.source("Kill test"), flow)
    ref = place(
        stack,
        **{
            "from": "+14105550186",
            "to": "+14105550110",
            "press": [[0.6, "1"], [30, "#"]],
            "phones": {DANA: {"after": 2.0, "talk": 1.5}},
        },
    )
    time.sleep(1.4)
    process = stack.processes["control"]
    process.kill()
    process.wait()
    stack.start("control")
    stack.wait("control")
    found = trace(stack, ref)
    assert not found["used_fail_safe"], found
    done = history.log(town.house, town.actor, town.client.id, CallFilter(caller="5550186"))
    assert [(one.call.fate, one.source) for one in done] == [("answered", "Kill test")]
    page = history.one(town.house, town.actor, town.client.id, done[0].call.id)
    assert [entry["seq"] for entry in page.entries] == list(range(1, len(page.entries) + 1))


def test_the_carrier_uses_the_fail_safe_when_nobody_answers_there(stack: Stack, town: World) -> None:
    ref = place(stack, **{"to": "+14105550159", "speed": "fast"})
    found = trace(stack, ref)
    assert found["used_fail_safe"]


def test_a_message_left_can_be_played_on_the_page_of_its_call(page: Page, stack: Stack, town: World) -> None:
    flow = town.flow(main_line(name="Message line"), sources={"ls_bus": "Bus"})
    town.number("+14105550112", town.source("Message test"), flow)
    ref = place(
        stack,
        **{
            "from": "+14105550187",
            "to": "+14105550112",
            "press": [[1, "2"]],
            "speed": "fast",
            "message": {"voice": 7, "words": "Hello from the boat"},
        },
    )
    trace(stack, ref)
    done = history.log(town.house, town.actor, town.client.id, CallFilter(caller="5550187"))[0]
    page.sign_in("client_viewer@example.com", PASSWORD)
    path = f"/clients/{town.client.id}/calls/{done.call.id}"
    page.open(path)
    page.see("message left")

    def ready() -> bool:
        page.driver.refresh()
        return bool(page.driver.find_elements(By.TAG_NAME, "audio"))

    page.wait(ready, "the sound", 25)
    length = page.driver.execute_async_script(
        "const done = arguments[0], a = document.querySelector('audio'); a.addEventListener('loadedmetadata', () => done(a.duration)); a.preload = 'metadata'; a.load()"
    )
    assert length > 1


def test_the_sheet_by_keyboard_and_on_a_narrow_screen(page: Page, town: World) -> None:
    flow = town.flow(main_line(name="Keyboard line"), sources={"ls_bus": "Bus"}, live=False)
    page.sign_in("specialist@example.com", PASSWORD)
    page.open(f"/clients/{town.client.id}/flows/{flow.id}")
    row = page.find("#row-r a.row-words")
    row.send_keys(Keys.ENTER)
    page.find(".row-form")
    assert "row=r" in page.driver.current_url
    assert page.driver.find_elements(By.CSS_SELECTOR, ".map-step.lit[data-step='r']")
    page.driver.back()
    page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, ".row-form"))
    page.driver.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride", {"width": 375, "height": 800, "deviceScaleFactor": 1, "mobile": True}
    )
    for path in ("", "?row=m", "/rehearse"):
        page.open(f"/clients/{town.client.id}/flows/{flow.id}{path}")
        assert page.driver.execute_script("return document.documentElement.scrollWidth") <= 375, path
