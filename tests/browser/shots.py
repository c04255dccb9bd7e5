"""The pictures of docs/screenshots, one of each main view, from the demo that is running."""

import os
from pathlib import Path

import httpx

from tests.browser.conftest import Page
from vokari.demo.people import PASSWORD, USERS

FOLDER = Path(__file__).parents[2] / "docs" / "screenshots"


def main() -> None:
    page = Page(f"http://127.0.0.1:{os.environ.get('VOKARI_PORT', '8040')}", 1280, 887)
    page.sign_in(USERS[1][0], PASSWORD)
    FOLDER.mkdir(exist_ok=True)

    def shoot(name: str) -> None:
        page.driver.save_screenshot(str(FOLDER / f"{name}.png"))

    def client(name: str) -> str:
        link = next(one for one in page.driver.find_elements("css selector", "#client-names a") if name in one.text)
        return str(link.get_attribute("href")).removeprefix(page.base)

    page.open("/")
    shoot("today")
    boatyard, music = client("Brightwater"), client("Larkspur")
    for name, path in (
        ("route-map", ""),
        ("numbers", "/numbers"),
        ("report", "/report?by=campaign&against=before"),
    ):
        page.open(boatyard + path)
        shoot(name)
    page.open(boatyard + "/flows")
    page.press("BW Main line")
    page.click("#row-lifts .row-words")
    page.find(".row-form")
    page.see("No caller is lost by this flow")
    shoot("sheet")
    sheet = page.driver.current_url.split("?")[0].removeprefix(page.base)
    for name in ("traffic", "versions"):
        page.open(f"{sheet}/{name}")
        shoot(name)
    page.open(f"{client('Pennant')}/places")
    page.find("svg.places-map")
    shoot("places")
    page.open(f"{music}/prompts")
    shoot("prompts")
    page.open(f"{sheet}/rehearsals")
    shoot("rehearsals")
    page.open(f"{sheet}/versions")
    page.hit("xpath", "//a[starts-with(normalize-space(.), 'Changes')]")
    page.wait(lambda: page.driver.find_elements("css selector", ".change-list"), "what changes for callers", 60)
    shoot("changes")
    page.open(f"{sheet}?row=lifts")
    page.press("As text")
    page.find(".cm-content .line-plate")
    shoot("text")
    page.press("Rehearse")
    page.find("[name=at]")
    page.driver.execute_script("document.querySelector('[name=at]').value = '2026-12-01T10:20'")
    page.press("Call")
    page.see("Speaking")
    page.driver.find_element("id", "sound").click()
    page.press("Skip to end")
    page.see("boat lifts and winter storage")
    page.click(".key[value='1']")
    page.see("What does each phone do?")
    shoot("rehearsal")
    page.open(f"{client('Corvid')}/flows")
    page.press("CR Quotes")
    page.see("Callers are lost")
    page.click(".proof-ends summary")
    shoot("proof")
    page.open(f"{boatyard}/cover")
    page.find("svg.cover-day")
    shoot("cover")
    page.open(f"{client('Mossgate')}/hours")
    page.click("a.source-name")
    page.see("Paint with")
    shoot("hours")
    page.open(f"{client('Halden')}/people")
    shoot("people")
    called = next(one for one in page.driver.find_elements("css selector", "#client-names a") if "Halden" in one.text)
    page.open(str(called.get_attribute("href")).removeprefix(page.base) + "/numbers")
    number = page.find("tr[id] a.phone-number").text
    fill(page, f"+44{number.replace(' ', '')[1:]}")
    page.open(f"{client('Halden')}/lines")
    page.wait(lambda: page.find(".waits-now").text == "4", seconds=30)
    shoot("lines")
    page.open(f"{music}/calls?fate=message_left")
    page.click(".calls tbody a")
    page.see("What happened")
    shoot("call")
    page.driver.quit()


def fill(page: Page, called: str) -> None:
    """Has six callers ring the Halden line at once and ask for the service desk, where two people pick up and talk on."""
    carrier = f"http://127.0.0.1:{os.environ.get('VOKARI_CARRIER_PORT', '8041')}"
    for n in range(6):
        script = {
            "from": f"+4477009007{n:02d}", "to": called, "press": [[2, "2"]], "speed": "real",
            "other_phones": {"behavior": "answers", "after": 4, "talk": 60},
        }  # fmt: skip
        httpx.post(f"{carrier}/calls", json=script).raise_for_status()


if __name__ == "__main__":
    main()
