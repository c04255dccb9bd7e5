"""The sheet by hand and by keys: rows are kept as one leaves them, moved with what hangs below, pasted into another client's flow; and
what others change comes in."""

from itertools import count

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from tests.browser.conftest import Page
from tests.world import PASSWORD, World
from vokari.core.flows.drafting import edits
from vokari.work.agency import clients
from vokari.work.flows import client_flows, drafts, open_drafts, texts
from vokari.work.house.views import CallFlowView, ClientView

pytestmark = pytest.mark.xdist_group("browser")
PLAN = """\
say "Welcome to Mallow Bakery"
ask
    1 bread: Ada 410-555-0181
    2 cakes
        1 weddings: Ben 410-555-0182
        2 birthdays: "A week ahead, please"
    3 times: "From seven to two"
    back to the start
Everyone else: Ada, else voicemail Counter, tell counter@example.com"""

_NUMBERS = count(1)


@pytest.fixture
def flow(town: World, page: Page) -> CallFlowView:
    made = client_flows.create(town.house, town.actor, town.client.id, f"Bakery {next(_NUMBERS)}", "MB")
    assert isinstance(made, CallFlowView)
    texts.type_in(town.house, town.actor, town.client.id, made.id, PLAN, None)
    page.sign_in("specialist@example.com", PASSWORD)
    page.open(f"/clients/{town.client.id}/flows/{made.id}")
    return made


def row(page: Page, words: str) -> WebElement:
    """The row with these words, focused."""
    found = page.wait(
        lambda: next(
            (one for one in page.driver.find_elements(By.CSS_SELECTOR, "a.row-words") if words in one.text), None
        ),
        words,
    )
    page.driver.execute_script("arguments[0].focus()", found)
    return found


def open_row(page: Page, words: str) -> None:
    page.hit(By.XPATH, f'//a[contains(@class, "row-words")][contains(., "{words}")]')
    page.wait(lambda: words in page.find("li.is-open > .row-line").text, f"{words}, opened")


def press(page: Page, *keys: str) -> None:
    actions = ActionChains(page.driver, duration=0)
    for key in keys[:-1]:
        actions.key_down(key)
    actions.send_keys(keys[-1])
    for key in reversed(keys[:-1]):
        actions.key_up(key)
    actions.perform()


def lines(town: World, flow: CallFlowView) -> list[str]:
    return texts.opened(town.house, town.actor, flow.client_id, flow.id).text.split("\n")


def kept(page: Page, town: World, flow: CallFlowView, line: str) -> None:
    page.wait(lambda: line in lines(town, flow), line)
    drawn(page, town, flow)


def drawn(page: Page, town: World, flow: CallFlowView) -> None:
    """Waits until the sheet shows the draft as it is; a key that is pressed before would go to what is replaced."""

    def shows() -> bool:
        shown = page.driver.execute_script("return document.getElementById('desk')?.dataset.revision")
        return (
            shown is None
            or int(shown) == open_drafts.opened(town.house, town.actor, town.client.id, flow.id).flow.revision
        )

    page.wait(shows, "the draft as it is")


def test_a_row_is_kept_as_one_leaves_it(page: Page, town: World, flow: CallFlowView) -> None:
    open_row(page, "Welcome to")
    page.retype("[name=prompt]", "Welcome, dear people")
    open_row(page, "bread")
    kept(page, town, flow, 'say "Welcome, dear people" as Welcome to Mallow Bakery')
    page.find("[name=phone-0-seconds]")
    page.retype("[name=phone-0-seconds]", "500")
    page.press("Done", ".row-form")
    page.see("At most 120")
    assert page.find("[name=phone-0-seconds]").get_attribute("value") == "500", "what is wrong stays to be mended"
    page.retype("[name=phone-0-seconds]", "30")
    press(page, Keys.ESCAPE)
    kept(page, town, flow, "    1 bread: Ada 30s")
    page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, ".row-form"))
    open_row(page, "bread")
    page.retype("[name=phone-0-seconds]", "25")
    page.press("Versions")
    page.wait(lambda: "/versions" in page.driver.current_url)
    kept(page, town, flow, "    1 bread: Ada 25s")
    assert [one for one in page.complaints() if "409" not in one] == []


def test_where_two_change_a_row_theirs_stands_and_mine_is_taken_at_one_press(
    page: Page, town: World, flow: CallFlowView
) -> None:
    open_row(page, "Welcome to")
    page.retype("[name=prompt]", "Mine")
    step = open_drafts.opened(town.house, town.actor, town.client.id, flow.id).document.steps[0]
    theirs = step.model_copy(update={"prompt": step.prompt.model_copy(update={"say": "Theirs"})})  # type: ignore[union-attr]
    owner = town.actors["owner"]
    drafts.edit(town.house, owner, town.client.id, flow.id, [edits.SetStep(step=theirs)])
    page.hit(By.XPATH, '//a[contains(@class, "row-words")][contains(., "bread")]')
    page.see("Theirs stands")
    assert page.find("textarea[name=prompt]").get_attribute("value") == "Theirs"
    page.press("Take mine")
    page.wait(lambda: lines(town, flow)[0].startswith('say "Mine"'), "mine")


def test_rows_are_moved_doubled_and_removed_by_keys_and_taken_back(page: Page, town: World, flow: CallFlowView) -> None:
    before = lines(town, flow)
    row(page, "From seven")
    press(page, Keys.ALT, Keys.ARROW_UP)
    page.wait(lambda: lines(town, flow)[3].startswith("    3 times"), "moved up")
    drawn(page, town, flow)
    page.wait(lambda: "From seven" in page.driver.switch_to.active_element.text, "the row keeps the focus")
    row(page, "Welcome to")
    press(page, Keys.ALT, Keys.ARROW_UP)
    page.see("It is the first there already")
    row(page, "weddings")
    press(page, Keys.CONTROL, Keys.SHIFT, Keys.ARROW_LEFT)
    kept(page, town, flow, "    4 weddings: Ben")
    row(page, "weddings")
    press(page, Keys.ALT, Keys.SHIFT, Keys.ARROW_DOWN)
    kept(page, town, flow, "    5 weddings: Ben")
    row(page, "bread")
    press(page, Keys.CONTROL, Keys.DELETE)
    page.wait(lambda: not [one for one in lines(town, flow) if "bread" in one], "removed")
    for _ in range(4):
        drawn(page, town, flow)
        revision = open_drafts.opened(town.house, town.actor, town.client.id, flow.id).flow.revision
        row(page, "asks")
        press(page, Keys.CONTROL, "z")
        page.wait(
            lambda revision=revision: (
                open_drafts.opened(town.house, town.actor, town.client.id, flow.id).flow.revision > revision
            )
        )
    assert lines(town, flow) == before
    assert page.complaints() == []


def test_a_branch_is_pasted_into_another_clients_flow(page: Page, town: World, flow: CallFlowView) -> None:
    row(page, "cakes")
    page.wait(
        lambda: page.driver.execute_script(
            "return performance.getEntriesByType('resource').some((one) => one.name.endsWith('/lines'))"
        )
    )
    press(page, Keys.CONTROL, "c")
    other = clients.take_on(
        town.house,
        town.actor,
        clients.ClientForm(f"Sorrel Tearoom {id(flow) % 10**6}", "US", "America/New_York", "", ""),
    )
    assert isinstance(other, ClientView)
    theirs = client_flows.create(town.house, town.actor, other.id, "Tearoom", "ST")
    assert isinstance(theirs, CallFlowView)
    texts.type_in(
        town.house, town.actor, other.id, theirs.id, 'ask\n    1 tables: Olu 410-555-0183\n    2 menu: "Scones"', None
    )
    page.open(f"/clients/{other.id}/flows/{theirs.id}")
    row(page, "tables")
    press(page, Keys.CONTROL, "v")
    page.see("1 name has no counterpart")
    page.choose("[name=to-0]", "Olu")
    page.press("Match them")
    page.wait(lambda: "        1 weddings: Olu" in lines(town, theirs), "matched")
    assert "    3 cakes" in lines(town, theirs)
    assert page.complaints() == []


def test_what_somebody_else_changes_comes_in(page: Page, town: World, flow: CallFlowView) -> None:
    page.see("Welcome to Mallow Bakery")
    page.wait(lambda: page.driver.execute_script("return document.readyState") == "complete")
    owner = town.actors["owner"]
    changed = PLAN.replace("From seven to two", "From eight to three")
    assert not isinstance(texts.type_in(town.house, owner, town.client.id, flow.id, changed, None), list)
    page.see("From eight to three")


def test_a_row_is_dragged_behind_another(page: Page, town: World, flow: CallFlowView) -> None:
    source, target = row(page, "From seven"), row(page, "bread")
    actions = ActionChains(page.driver)
    actions.click_and_hold(source).move_by_offset(0, -8).move_to_element_with_offset(
        target, -target.size["width"] // 2 + 20, 6
    )
    actions.move_by_offset(1, 1).release().perform()
    page.wait(lambda: lines(town, flow)[3].startswith("    3 times"), "dragged")
    assert page.complaints() == []
