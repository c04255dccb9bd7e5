"""Hours in the browser: painted by pointer and by keys, typed, copied, undone; and a holiday that a rehearsal meets."""

from datetime import timedelta
from zoneinfo import ZoneInfo

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.flows import DANA
from tests.hours import week
from tests.work.hours.test_sets import sorted_line
from tests.world import PASSWORD, World
from vokari.core.hours.document import Hours
from vokari.core.hours.typed import write_week
from vokari.store.hours import HoursSet
from vokari.work.hours import sets
from vokari.work.house.views import HoursSetView

pytestmark = pytest.mark.xdist_group("browser")

HOUR = 31.0
LABEL = 46
HEAD, ROW = 22, 38


@pytest.fixture(scope="module")
def opening(town: World) -> HoursSet:
    made = sets.create(town.house, town.actor, town.client.id, "Opening times", "client")
    assert isinstance(made, HoursSetView)
    done = sets.set_week(
        town.house, town.actor, town.client.id, made.id, [("desk", "Front desk"), ("shop", "Workshop")],
        week(desk="Mon 9-17"), None,
    )  # fmt: skip
    assert not isinstance(done, list)
    return done.set


def text_of(page: Page, period: str) -> str:
    return str(page.driver.execute_script("return document.querySelector(arguments[0])?.value", f"[name=p-{period}]"))


def expect(page: Page, period: str, text: str) -> None:
    page.wait(lambda: text_of(page, period) == text, f"{period}: {text}")


def drag(page: Page, day: int, start: float, to_day: int, end: float) -> None:
    """From an hour on a day's strip to another."""
    week_ = page.find("svg.week")
    page.driver.execute_script("arguments[0].scrollIntoView({block: 'center'})", week_)
    box = week_.rect
    scale = page.driver.execute_script("return arguments[0].getScreenCTM().a", week_)

    def at(on: int, hour: float) -> tuple[int, int]:
        x = (LABEL + hour * HOUR) * scale - box["width"] / 2
        y = (HEAD + (on + 0.5) * ROW) * scale - box["height"] / 2
        return round(x), round(y)

    first, last = at(day, start), at(to_day, end)
    ActionChains(page.driver).move_to_element_with_offset(week_, *first).click_and_hold().move_by_offset(
        (last[0] - first[0]) // 2, (last[1] - first[1]) // 2
    ).move_to_element_with_offset(week_, *last).release().perform()


def keys(page: Page, *pressed: str) -> None:
    ActionChains(page.driver).send_keys(*pressed).perform()


def test_a_week_is_painted_typed_copied_undone_and_saved(page: Page, town: World, opening: HoursSet) -> None:
    page.sign_in("client_editor@example.com", PASSWORD)
    page.open(f"/clients/{town.client.id}/hours/{opening.id}")
    drag(page, 1, 8, 1, 12)
    expect(page, "desk", "Mon 09:00-17:00; Tue 08:00-12:00")
    drag(page, 1, 10, 2, 11)
    expect(page, "desk", "Mon 09:00-17:00; Wed 09:00-13:00")
    drag(page, 2, 12.95, 2, 15)
    expect(page, "desk", "Mon 09:00-17:00; Wed 09:00-15:00")
    page.click("input[name=brush][value=closed]")
    drag(page, 0, 12, 0, 13)
    expect(page, "desk", "Mon 09:00-12:00, 13:00-17:00; Wed 09:00-15:00")
    page.click("input[name=brush][value=shop]")
    drag(page, 4, 22, 4, 26)
    expect(page, "shop", "Fri 22:00-02:00")
    page.click("[name=to][value='3']")
    page.press("Copy")
    expect(page, "desk", "Mon, Thu 09:00-12:00, 13:00-17:00; Wed 09:00-15:00")
    page.press("Undo")
    expect(page, "desk", "Mon 09:00-12:00, 13:00-17:00; Wed 09:00-15:00")
    page.find("[name=p-shop]").send_keys(Keys.CONTROL, "a", Keys.NULL, "sat 9am-1", Keys.TAB)
    page.see("read as Sat 09:00-13:00")
    page.wait(lambda: page.driver.find_elements("css selector", '.bar[data-day="5"]'))
    page.press("Save the week")
    saved = "Mon 09:00-12:00, 13:00-17:00; Wed 09:00-15:00; Sat 09:00-13:00"

    def stored() -> str:
        return write_week(sets.opened(town.house, town.actor, town.client.id, opening.id).hours.week)

    page.wait(lambda: stored() == saved, saved)
    page.see("Last changed")
    page.press("Undo saved change")
    page.wait(lambda: text_of(page, "desk") == "Mon 09:00-17:00")
    assert [one for one in page.complaints() if "404" not in one] == []


def test_the_same_goes_by_keys_alone(page: Page, town: World, opening: HoursSet) -> None:
    page.sign_in("specialist@example.com", PASSWORD)
    page.open(f"/clients/{town.client.id}/hours/{opening.id}")
    assert text_of(page, "desk") == "Mon 09:00-17:00"
    page.driver.execute_script("document.querySelector('.strip[data-day=\"6\"]').focus()")
    keys(page, Keys.ENTER)
    expect(page, "desk", "Mon, Sun 09:00-17:00")

    def bar() -> str:
        return str(page.driver.execute_script("return document.activeElement.getAttribute('aria-label')"))

    page.wait(lambda: "Sun" in bar(), "the new interval has the focus")
    keys(page, Keys.ARROW_RIGHT)
    page.wait(lambda: bar() == "Front desk, Sun, 09:15 to 17:15")
    keys(page, Keys.ARROW_UP)
    page.wait(lambda: bar() == "Front desk, Sat, 09:15 to 17:15")
    ActionChains(page.driver).key_down(Keys.SHIFT).send_keys(Keys.ARROW_LEFT).key_up(Keys.SHIFT).perform()
    page.wait(lambda: bar() == "Front desk, Sat, 09:15 to 17:00")
    page.choose("#snap", "30 min")
    page.driver.execute_script("document.querySelector('.bar[data-day=\"5\"]').focus()")
    ActionChains(page.driver).key_down(Keys.ALT).send_keys(Keys.ARROW_RIGHT).key_up(Keys.ALT).perform()
    page.wait(lambda: bar() == "Front desk, Sat, 09:45 to 17:00")
    page.see("Front desk, Sat, 09:45 to 17:00")
    keys(page, Keys.DELETE)
    expect(page, "desk", "Mon 09:00-17:00")
    ActionChains(page.driver).key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    expect(page, "desk", "Mon 09:00-17:00; Sat 09:45-17:00")


def test_a_holiday_added_today_changes_whom_a_rehearsal_reaches(page: Page, town: World, opening: HoursSet) -> None:
    first = Hours.model_validate(opening.document).periods[0].id
    every = sets.set_week(
        town.house, town.actor, town.client.id, opening.id, [(first, "Front desk"), ("shop", "Workshop")],
        week(**{first: "Daily 0-24"}), None,
    )  # fmt: skip
    assert not isinstance(every, list)
    flow = town.flow(sorted_line(opening.key, first))
    town.number("+14105550128", town.source("Holiday source"), flow)
    tomorrow = (town.house.now().astimezone(ZoneInfo("America/New_York")) + timedelta(days=1)).date()
    page.sign_in("specialist@example.com", PASSWORD)

    def rehearse() -> None:
        page.open(f"/clients/{town.client.id}/flows/{flow.id}/rehearse")
        page.driver.execute_script(
            "const f = document.querySelector('[name=at]'); f.value = arguments[0]", f"{tomorrow.isoformat()}T11:00"
        )
        page.press("Call")

    rehearse()
    page.see("What does each phone do?")
    assert DANA[-4:] in page.text
    page.open(f"/clients/{town.client.id}/hours/{opening.id}/month?day={tomorrow.isoformat()}")
    page.type("#f-name", "Regatta day")
    page.press("Close the day")
    page.see("Regatta day")
    rehearse()
    page.see("We are closed.")
    assert "What does each phone do?" not in page.text
    assert "Opening times: closed, by an exception" in page.text
