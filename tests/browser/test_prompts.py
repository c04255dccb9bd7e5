"""Prompts in the real application: recorded with the browser's microphone, by telephone through the carrier stand-in, uploaded several at
once, chosen in a flow, put into live flows, and heard on the page of a call."""

import json
import subprocess
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium.webdriver.common.by import By

from tests.browser.conftest import Page
from tests.browser.test_main_job import place
from tests.flows import DANA, document, phone, ring, say, voicemail
from tests.prompts import key_of, prompt, sound
from tests.world import PASSWORD, World
from vokari.local.stack import Stack
from vokari.work.calls import history
from vokari.work.calls.history import CallFilter
from vokari.work.prompts import library, takes

pytestmark = pytest.mark.xdist_group("browser")

MICROPHONE = ("--use-fake-ui-for-media-stream", "--use-fake-device-for-media-stream")
LINE = document(
    say("a", "Thank you for calling.", "r", name="Opening"), ring("r", phone("Dana", DANA), no_answer="vm", busy="vm", unreachable="vm", nobody="vm"),
    voicemail(), rescue="vm", name="Spoken line", mark="SL",
)  # fmt: skip


@pytest.fixture
def speaking(stack: Stack, tmp_path: Path) -> Iterator[Page]:
    """A browser into whose microphone somebody speaks."""
    voice = tmp_path / "voice.wav"
    words = "Welcome to the boat yard. The slipway opens again on the first of April."
    subprocess.run(["espeak-ng", "-v", "en-us+f3", "-w", str(voice), words], check=True)
    made = Page(stack.settings.web_url, more=(*MICROPHONE, f"--use-file-for-fake-audio-capture={voice}"))
    yield made
    made.driver.quit()


def test_a_prompt_is_recorded_trimmed_and_kept_with_the_microphone(speaking: Page, town: World) -> None:
    page = speaking
    page.sign_in("specialist@example.com", PASSWORD)
    page.open(f"/clients/{town.client.id}/prompts")
    page.type("#f-name", "Slipway opens in April")
    page.press("Make prompt")
    page.see("No take yet")
    page.click("[data-do=record]")
    page.wait(lambda: float(page.find(".recorder meter").get_attribute("value") or 0) > 20, "the level")
    time.sleep(3)
    page.click("[data-do=stop]")
    page.wait(lambda: page.find("[data-do=keep]").is_displayed())
    assert len(page.find(".recorder-shape path").get_attribute("d") or "") > 500
    page.driver.execute_script(
        "const one = document.querySelector('[data-trim=begins]'); one.value = 300; one.dispatchEvent(new Event('input'))"
    )
    page.click("[data-do=listen]")
    page.click("[data-do=keep]")
    page.wait(lambda: "recorded here" in page.text and "It is being made ready" not in page.text, "the take", 40)
    page.see("unchecked")
    page.click(".take [data-plays]")
    page.wait(lambda: "unheard" not in page.find(".take-head").text, "heard", 15)
    page.find(".wave").send_keys(" ")
    assert page.complaints() == []


def test_a_microphone_that_is_refused_is_told_in_words(page: Page, town: World) -> None:
    page.sign_in("specialist@example.com", PASSWORD)
    made = library.create(town.house, town.actor, town.client.id, {"name": "Refused here", "kind": "message"})
    page.open(f"/clients/{town.client.id}/prompts/{made}")
    page.click("[data-do=record]")
    page.wait(lambda: "microphone was refused" in page.text or "No microphone was found" in page.text, "words")
    assert page.find("[data-do=record]").is_displayed()


def test_a_prompt_is_recorded_by_telephone_through_the_stand_in(page: Page, stack: Stack, town: World) -> None:
    page.sign_in("specialist@example.com", PASSWORD)
    made = library.create(town.house, town.actor, town.client.id, {"name": "Yard voicemail", "kind": "greeting"})
    assert isinstance(made, int)
    says = {"says": {"words": "Nobody is in the yard.", "then": "key"}, "keys": ["1"]}
    request = urllib.request.Request(
        f"http://127.0.0.1:{stack.settings.carrier_port}/phones/+14105550171", json.dumps(says).encode(),
        {"Content-Type": "application/json"}, method="PUT",
    )  # fmt: skip
    assert urllib.request.urlopen(request, timeout=5).status == 200
    page.open(f"/clients/{town.client.id}/prompts/{made}")
    page.type("[name=to_typed]", "410-555-0171")
    page.press("Ring")
    page.see("rings …")
    page.wait(
        lambda: "recorded by telephone" in page.text and "It is being made ready" not in page.text, "the take", 90
    )
    page.see("done, the take is above")
    with town.house.begin() as session:
        (take,) = takes.of_prompt(session, made)
    assert (take.how, take.state, take.seconds > 0.8) == ("telephone", "ready", True)


def test_files_are_brought_several_at_once_and_a_row_plays_one(
    page: Page, stack: Stack, town: World, tmp_path: Path
) -> None:
    number = town.number("+14105550120", town.source("Spoken advert"), town.flow(LINE))
    base = f"/clients/{town.client.id}"
    (tmp_path / "Opening words.wav").write_bytes(sound(1.5))
    (tmp_path / "not a sound.mp3").write_bytes(b"%PDF-1.7")
    page.sign_in("specialist@example.com", PASSWORD)
    page.open(f"{base}/prompts")
    files = "\n".join(str(tmp_path / one) for one in ("Opening words.wav", "not a sound.mp3"))
    page.find("#f-files").send_keys(files)
    page.see("made the prompt Opening words")
    page.see("not a sound.mp3: This is no sound that can be read")

    page.wait(lambda: _is_ready(town, "Opening words"), "the worker", 40)
    page.open(f"{base}/flows/{number.flow_id}?row=a")
    page.choose("[name=prompt-prompt]", "Opening words")
    page.press("Done")
    page.see("changed since version 1")
    page.open(f"{base}/flows/{number.flow_id}/live")
    page.press("Put live")
    page.see("Version 2 is live")
    script = {
        "from": "+14105550186",
        "to": number.e164,
        "speed": "fast",
        "sound": True,
        "other_phones": {"behavior": "busy"},
    }
    assert place(stack, **script)
    calls = page.wait(lambda: history.log(town.house, town.actor, town.client.id, CallFilter(number_id=number.id)))  # type: ignore[arg-type]
    page.open(f"{base}/calls/{calls[0].call.id}")  # type: ignore[index]
    page.see("As the caller heard it")
    assert len(page.driver.find_elements(By.CSS_SELECTOR, ".heard-prompt")) >= 2
    page.click(".heard [data-plays]")
    page.wait(lambda: float(page.find(".heard .wave").get_attribute("aria-valuenow") or 0) > 0.3, "it plays")
    assert [one for one in page.complaints() if "/takes" not in one] == [], "but for the file that was refused"


def _is_ready(town: World, name: str) -> bool:
    found = library.listed(town.house, town.actor, town.client.id).prompts
    return any(one.prompt.name == name and one.takes for one in found)


def test_a_new_take_is_put_into_six_flows_and_taken_back(page: Page, town: World) -> None:
    at = prompt(town, "Yard notice", "We record calls.", kind="notice")
    hello = {**say("a", "We record calls.", "vm"), "prompt": {"say": "We record calls.", "prompt": key_of(town, at)}}
    for number in range(6):
        town.flow(document(hello, voicemail(), rescue="vm", name=f"Noted line {number}"))
    takes.say(town.house, town.actor, town.client.id, at, "en-US", "We record calls to learn from them.")
    page.sign_in("specialist@example.com", PASSWORD)
    page.open(f"/clients/{town.client.id}/prompts/{at}")
    assert page.text.count("an earlier one") == 6
    page.press("Use this take")
    page.see("Take 2 put into 6 flows")
    assert "an earlier one" not in page.text
    page.press("Take back")
    page.see("(taken back)")
    assert page.text.count("an earlier one") == 6
