"""Every main page: nothing from another host, no complaint in the console, and no serious finding of axe-core."""

from pathlib import Path

import pytest

from tests.browser.conftest import Page
from tests.world import PASSWORD, World, main_line
from vokari.work.hours import sets
from vokari.work.house.views import HoursSetView

pytestmark = pytest.mark.xdist_group("browser")

AXE = (Path(__file__).parent / "vendor" / "axe.min.js").read_text()
RUN = """
const done = arguments[0];
axe.run(document, {resultTypes: ['violations']}).then(found => done(found.violations
  .filter(one => ['serious', 'critical'].includes(one.impact))
  .map(one => one.id + ': ' + one.nodes.slice(0, 3).map(node => node.html.slice(0, 160)).join(' | '))));
"""


def test_no_main_page_has_a_serious_finding_or_another_host(page: Page, town: World) -> None:
    flow = town.flow(main_line(name="Pages line"), sources={"ls_bus": "Bus"})
    town.number("+14105550120", town.source("Pages source", medium="print"), flow)
    town.number("+14105550121")
    page.open("/sign-in")
    page.driver.execute_script(AXE)
    assert page.driver.execute_async_script(RUN) == []
    page.sign_in("specialist@example.com", PASSWORD)
    client = f"/clients/{town.client.id}"
    made = sets.create(town.house, town.actor, town.client.id, "Pages hours", "client")
    assert isinstance(made, HoursSetView)
    opening, sheet = f"{client}/hours/{made.id}", f"{client}/flows/{flow.id}"
    paths = [
        "/", "/clients/new", client, f"{client}/numbers", f"{client}/numbers/1", f"{client}/numbers/find", f"{client}/numbers/many",
        f"{client}/numbers/health", f"{client}/sources/new", "/find?q=pages",
        f"{client}/flows", sheet, f"{sheet}?row=m", f"{sheet}?row=r", f"{sheet}?row=vm", f"{sheet}?row=m&exit=nothing", f"{sheet}?row=flow",
        f"{sheet}/versions", f"{sheet}/rehearse", f"{sheet}/live", f"{sheet}/compare?older=1", f"{sheet}/traffic", f"{client}/places", f"{client}/calls", f"{client}/report",
        f"{client}/settings", "/exceptions", "/tokens", f"{client}/people", f"{client}/people/0", f"{client}/people/teams/0",
        f"{client}/hours", opening, f"{opening}/exceptions", f"{opening}/month?day=2026-12-24",
        f"{opening}/ahead", f"{opening}/calendar", f"{opening}/details", f"{opening}/exceptions/new?kind=holidays",
        f"{opening}/exceptions/new?kind=season", "/nowhere",
    ]  # fmt: skip
    found = {}
    for path in paths:
        page.open(path)
        page.driver.execute_script(AXE)
        wrong = page.driver.execute_async_script(RUN)
        if wrong:
            found[path] = wrong
    assert found == {}
    assert page.hosts() == {"127.0.0.1"}
    assert [one for one in page.complaints() if "404" not in one] == []
