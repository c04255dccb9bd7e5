"""How often a page asks the database does not depend on how much there is."""

from collections.abc import Callable, Iterator
from datetime import timedelta

import pytest
from sqlalchemy import event

from tests import history
from tests.conftest import NOON
from tests.web.conftest import Browser
from tests.world import World, add_clients, main_line
from vokari.core.flows.drafting.edits import SetFlow
from vokari.work.agency import column
from vokari.work.flows import client_flows, drafts, open_drafts
from vokari.work.people import keeping

PAGES = (
    "/", "/?sort=calls", "/find?q=a", "/find?q=0142", "", "/numbers", "/numbers/{number}", "/numbers/health", "/flows",
    "/flows/{flow}", "/flows/{flow}/versions", "/hours", "/people", "/calls", "/calls?number={number}", "/report?period=90", "/settings",
    "/extensions",
)  # fmt: skip


@pytest.fixture
def sent(world: World) -> Iterator[list[str]]:
    """The statements that were sent."""
    found: list[str] = []

    def note(_connection: object, _cursor: object, statement: str, *_: object) -> None:
        found.append(" ".join(statement.split()))

    event.listen(world.house.engine, "before_cursor_execute", note)
    yield found
    event.remove(world.house.engine, "before_cursor_execute", note)


def grow(world: World, start: int, count: int) -> None:
    """So many more of everything."""
    args = (world.house, world.actor, world.client.id)
    flow = world.flow(main_line(name=f"Line {start}", mark="LX"), sources={f"ls_{start}": f"Bus {start}"})
    for n in range(start, start + count):
        number = world.number(f"+14105550{n + 100}", world.source(f"Advert {n}"), flow)
        calls = (history.row(world, NOON - timedelta(days=day), number.id) for day in range(0, 40, 5))
        history.write(world, calls)
        world.source(f"Without a number {n}")
        keeping.keep_person(*args, None, {"name": f"Person {n}", "phones": [{"to": f"+14435550{n + 100}"}]})
        edited = drafts.edit(*args, flow.id, [SetFlow(name=f"Line {n}", mark="LX", language="en-US", entry_limit=10)])
        assert isinstance(edited, open_drafts.OpenDraft), edited


def test_no_page_asks_more_when_there_is_more(
    world: World, sign_in: Callable[..., Browser], sent: list[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("vokari.web.pages.MARKS_KEPT", -1.0)
    add_clients(world, column.FEW + 1)
    grow(world, 0, 2)
    number = world.number("+14105550159", world.source("Search advert"))
    flow = client_flows.listed(world.house, world.actor, world.client.id)[0][0]
    browser = sign_in("specialist")

    def counted() -> dict[str, list[str]]:
        found = {}
        for page in PAGES:
            path = page if page.startswith(("/?", "/find")) or page == "/" else f"/clients/{world.client.id}{page}"
            path = path.format(number=number.id, flow=flow.id)
            for _ in range(2):
                sent.clear()
                assert browser.get(path).status_code == 200, path
            found[page] = list(sent)
        return found

    few = counted()
    grow(world, 2, 30)
    many = counted()
    more = {page: [one for one in many[page] if one not in few[page]] for page in PAGES}
    assert {page: len(many[page]) for page in PAGES} == {page: len(few[page]) for page in PAGES}, more
