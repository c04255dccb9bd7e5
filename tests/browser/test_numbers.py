"""Numbers as a person plans them: nine sources to nine numbers; one swapped from tomorrow; calls go to whom they belong."""

from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from selenium.webdriver.common.by import By

from tests.browser.conftest import Page
from tests.browser.test_main_job import place, trace
from tests.world import PASSWORD, World, main_line
from vokari.local.stack import Stack
from vokari.work.calls import history
from vokari.work.calls.history import CallFilter
from vokari.work.numbers import numbers

pytestmark = pytest.mark.xdist_group("browser")

NINE = (
    "Name;Medium;Campaign\nSpring search;cpc;spring\nMap entry;organic;\nDock sign;sign;\nVan rear;sign;\n"
    "Harbor radio;audio;mornings\nBay Skipper;print;June\nTide table;print;\nRegatta flyer;print;regatta\nLoft window;sign;\n"
)


def test_nine_sources_become_nine_numbers_and_a_swap_from_tomorrow_credits_each_day_rightly(
    page: Page, stack: Stack, town: World
) -> None:
    flow = town.flow(main_line(name="Plan line", mark="PL"), sources={"ls_bus": "Bus"})
    page.sign_in("specialist@example.com", PASSWORD)
    here = f"/clients/{town.client.id}"
    page.open(f"{here}/numbers/many")
    page.type("#f-text", NINE + ";cpc;\nDock sign;sign;")
    page.press("Preview")
    page.see("this line has no name")
    page.see("the same name stands on line 4")
    page.type("[name=area_codes]", "410, 443, 207")
    page.press("Update")
    page.see("9 numbers, $27.00 a month")
    page.choose("select[name=flow]", "Plan line")
    page.press("Order all")
    page.see("9 of 9 taken")
    page.see("The order is done")
    page.open(f"{here}/numbers?q=Dock")
    assert len(page.driver.find_elements(By.CSS_SELECTOR, ".numbers tr[id]")) == 1
    lines = {
        line.now.source.name: line.number
        for line in numbers.of_client(town.house, town.actor, town.client.id)
        if line.now
    }
    assert set(NINE.split("\n")[1:][0].split(";")[:1]) <= set(lines)
    assert len(lines) == 9

    dock, van = lines["Dock sign"], lines["Van rear"]
    page.click(".numbers tr[id] a.phone-number")
    page.see("Assignment history")
    tomorrow = (datetime.now(ZoneInfo("America/New_York")) + timedelta(days=1)).replace(
        hour=0, minute=0, second=0, microsecond=0
    )
    page.type("[name=other]", "Van")
    page.wait(lambda: page.find("#others option").get_attribute("value").endswith(", Van rear"))
    page.type("[name=other]", page.find("#others option").get_attribute("value"))
    field = page.find("form[action$='/swap'] [name=since]")
    page.driver.execute_script("arguments[0].value = arguments[1]", field, tomorrow.strftime("%Y-%m-%dT%H:%M"))
    page.press("Swap")
    page.wait(lambda: "Van rear" in page.find(".planned-table").text)
    assert page.driver.find_elements(By.CSS_SELECTOR, ".held.planned")

    for caller, at in (("+14105550191", datetime.now(UTC)), ("+14105550192", tomorrow + timedelta(hours=10))):
        ref = place(stack, **{"from": caller, "to": dock.e164, "speed": "fast", "at": at.isoformat(), "hangs_up": 20})
        assert not trace(stack, ref)["used_fail_safe"]
    found = history.log(town.house, town.actor, town.client.id, CallFilter(number_id=dock.id))
    assert {one.call.caller[-3:]: one.source for one in found} == {"191": "Dock sign", "192": "Van rear"}
    page.open(f"{here}/numbers/{van.id}")
    page.click(".planned-table button")
    page.wait(lambda: not page.driver.find_elements(By.CSS_SELECTOR, ".planned-table"))
    assert flow.name == "Plan line"


def test_many_numbers_are_changed_together_and_taken_back(page: Page, town: World) -> None:
    source = town.source("Bulk test")
    made = [town.number(f"+1443555014{n}", source) for n in range(3)]
    page.sign_in("specialist@example.com", PASSWORD)
    page.open(f"/clients/{town.client.id}/numbers?q=443-555-014")
    page.click("[data-all=number]")
    page.click("[name=set_whisper]")
    page.type("input[name=whisper]", "Boatyard, from an advert")
    page.press("Review changes")
    page.see("3 changes of 3 chosen numbers")
    page.press("Change them")
    page.see("The numbers are changed")
    kept = {line.number.id: line.number.whisper for line in numbers.of_client(town.house, town.actor, town.client.id)}
    assert {kept[one.id] for one in made} == {"Boatyard, from an advert"}
    page.press("Undo")
    page.wait(lambda: "The numbers are changed" not in page.text)
    kept = {line.number.id: line.number.whisper for line in numbers.of_client(town.house, town.actor, town.client.id)}
    assert {kept[one.id] for one in made} == {""}
