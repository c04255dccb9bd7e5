"""A whole plan typed as a person types it, into the empty flow of a client that has nothing but a time zone: presses are counted."""

import time

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.world import PASSWORD, World
from vokari.local.stack import Stack
from vokari.work.agency import clients
from vokari.work.flows import client_flows, open_drafts
from vokari.work.house.views import CallFlowView, ClientView

pytestmark = pytest.mark.xdist_group("browser")
MOST_PRESSES, MOST_CLICKS, MOST_PRESSES_LATER = 850, 5, 80
IN, OUT = "→", "←"
"""One level deeper, and one less."""
PLAN = f"""\
open Mon-Sat 7:30-18, Sun 9-13: "Welcome to Pell Ferries"
{IN}ask
{IN}1 tickets
{IN}1 day tickets Ada 4105550170 20s
2 season tickets Ben 4105550171 20s
{OUT}2 timetable
{IN}1 North pier "Every hour from seven to seven"
2 Harbor island "At ten and at four"
3 Lighthouse "Sundays at noon"
4 night boat "Fridays at eleven"
5 holidays "As on Sundays"
0 back to the start
{OUT}3 vehicles
{IN}1 cars Cy 4105550172 20s
2 freight
{IN}1 quotes Dee 4105550173 20s
2 a load under way Eve 4105550174 20s
0 back
{OUT}3 motorbikes "They travel with a day ticket"
{OUT}4 anything else
{IN}1 lost property Finn 4105550175 20s
2 groups Ada 20s
3 work "We take on nobody this season"
0 back to the start
{OUT}{OUT}{OUT}closed: "We are closed", then voicemail Night desk, tell desk@example.com
Everyone else: Ada 20s, then Night desk"""


WRITTEN = """
return [...document.querySelectorAll(".cm-line")].map((line) => {
  const copy = line.cloneNode(true);
  copy.querySelectorAll("[contenteditable=false]").forEach((one) => one.remove());
  return copy.textContent.trim();
});
"""
"""The lines of the editor, without the answers that stand in them."""


class Typist:
    """Types, and counts what is pressed."""

    def __init__(self, page: Page) -> None:
        self.page, self.presses, self.clicks = page, 0, 0

    def click(self, words: str) -> None:
        self.clicks += 1
        self.page.press(words)

    def type(self, text: str) -> None:
        for n, line in enumerate(text.split("\n")):
            actions = ActionChains(self.page.driver, duration=0)
            if n:
                self._press(actions, Keys.ENTER)
            while line[:1] in (IN, OUT):
                self._press(actions, Keys.TAB, shift=line[0] == OUT)
                line = line[1:]
            for letter in line:
                self._press(actions, letter)
            actions.perform()

    def _press(self, actions: ActionChains, key: str, *, shift: bool = False) -> None:
        self.presses += 1 + shift
        if shift:
            actions.key_down(Keys.SHIFT).send_keys(key).key_up(Keys.SHIFT)
        else:
            actions.send_keys(key)


@pytest.fixture
def flow(town: World) -> tuple[ClientView, CallFlowView]:
    form = clients.ClientForm(f"Pell Ferries {time.monotonic_ns() % 10**6}", "US", "America/New_York", "Annapolis", "")
    client = clients.take_on(town.house, town.actor, form)
    assert isinstance(client, ClientView)
    made = client_flows.create(town.house, town.actor, client.id, "Main line", "PF")
    assert isinstance(made, CallFlowView)
    return client, made


def stops(town: World, flow: tuple[ClientView, CallFlowView]) -> list[str]:
    return [one.sentence for one in open_drafts.opened(town.house, town.actor, flow[0].id, flow[1].id).stops]


def test_a_plan_of_three_levels(page: Page, stack: Stack, town: World, flow: tuple[ClientView, CallFlowView]) -> None:
    page.sign_in("specialist@example.com", PASSWORD)
    page.open(f"/clients/{flow[0].id}/flows/{flow[1].id}")
    typist = Typist(page)
    typist.click("As text")
    page.find(".cm-content")
    typist.type(PLAN)
    typist.click("Rows")
    page.find("#sheet")
    print(
        f"{typist.presses} presses and {typist.clicks} clicks, at 0.2 s and 1.3 s {0.2 * typist.presses + 1.3 * typist.clicks:.0f} s"
    )
    assert stops(town, flow) == []
    assert typist.presses <= MOST_PRESSES
    assert typist.clicks <= MOST_CLICKS
    a_month_later(page, typist, town, flow)
    enter_takes_only_what_was_chosen(page, typist)
    assert page.complaints() == []


def a_month_later(page: Page, typist: Typist, town: World, flow: tuple[ClientView, CallFlowView]) -> None:
    """In August Gus takes cars on weekday mornings: one line below that of cars, and no branch is copied."""
    before = open_drafts.opened(town.house, town.actor, flow[0].id, flow[1].id).document
    typist.presses = 0
    typist.click("As text")
    page.hit("xpath", "//*[contains(@class, 'cm-line') and contains(., 'cars')]", "body")
    typist._press(ends := ActionChains(page.driver, duration=0), Keys.END)
    ends.perform()
    typist.type(f"\n{IN}Aug and Mon-Fri 8-12: Gus 4105550176 20s")
    typist.click("Rows")
    page.find("#sheet")
    print(f"{typist.presses} presses a month later")
    after = open_drafts.opened(town.house, town.actor, flow[0].id, flow[1].id)
    new = [step for step in after.document.steps if before.step(step.id) is None]
    assert sorted(step.kind for step in new) == ["junction", "ring"]
    assert {step.id for step in before.steps} <= {step.id for step in after.document.steps}
    assert [one.sentence for one in after.stops] == []
    assert typist.presses <= MOST_PRESSES_LATER


def enter_takes_only_what_was_chosen(page: Page, typist: Typist) -> None:
    """Who types a word that begins a longer one and waits until it is offered still gets the word alone with Enter."""
    typist.click("As text")
    page.hit("xpath", "(//*[contains(@class, 'cm-line')])[last()]", "body")
    typist._press(ends := ActionChains(page.driver, duration=0), Keys.END)
    ends.perform()
    for typed, keys, lines in (("ba", Keys.ENTER, ["ba", ""]), ("every", Keys.TAB, ["everyone else"])):
        typist.type(f"\n{typed}")
        page.find(".cm-tooltip-autocomplete")
        ActionChains(page.driver, duration=0).send_keys(keys).perform()
        page.see("Nothing leads here")
        assert page.driver.execute_script(WRITTEN)[-len(lines) :] == lines
