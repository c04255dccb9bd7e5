"""Rows of the sheet that are changed by plain forms."""

from collections.abc import Callable

from tests.flows import document, menu, say, voicemail
from tests.web.conftest import Browser
from tests.world import World
from vokari.core.flows.model.document import FlowDocument
from vokari.work.flows import drafts, open_drafts


def draft(world: World, flow_id: int) -> FlowDocument:
    return open_drafts.opened(world.house, world.actor, world.client.id, flow_id).document


def test_branches_of_a_junction_are_put_in_another_order(world: World, sign_in: Callable[..., Browser]) -> None:
    dates = ("2026-12-24", "2026-12-31", "2027-01-01")
    junction = {"kind": "junction", "id": "j", "name": "Days", "branches": [], "otherwise": "vm"}
    flow = world.flow(document(junction, voicemail(), rescue="vm"), live=False)
    browser = sign_in("specialist")

    def order(*places: str) -> list[str]:
        now = draft(world, flow.id).step("j").branches  # type: ignore[union-attr]
        fields = {"name": "Days", "otherwise": "vm"}
        for n, place in enumerate(places):
            day = now[n].name if now else dates[n]
            fields |= {
                f"branch-{n}-id": now[n].id if now else "", f"branch-{n}-when": day, f"branch-{n}-name": day,
                f"branch-{n}-to": "vm", f"branch-{n}-place": place,
            }  # fmt: skip
        answer = browser.submit(f"/clients/{world.client.id}/flows/{flow.id}/rows/j", fields)
        assert answer.status_code in (200, 303), answer.text  # type: ignore[attr-defined]
        return [one.name for one in draft(world, flow.id).step("j").branches]  # type: ignore[union-attr]

    first, second, third = dates
    assert order("", "", "") == [first, second, third]
    assert order("1", "2", "1") == [third, first, second]
    assert order("3", "2", "3") == [first, second, third]
    assert order("1", "", "2") == [first, third, second]


def test_a_menu_is_removed_alone_or_with_what_hangs_below_it(world: World, sign_in: Callable[..., Browser]) -> None:
    flow = world.flow(
        document(
            menu("m", {"1": "a", "2": "vm"}, nothing="vm", wrong="vm"), say("a", next_="vm"), voicemail(), rescue="vm"
        ),
    )
    browser = sign_in("specialist")
    here = f"/clients/{world.client.id}/flows/{flow.id}"
    assert "Remove it with the step that only it leads to" in browser.get(f"{here}?row=m").text
    browser.submit(f"{here}/remove", {"row": "m", "along": "1"})
    assert [one.id for one in draft(world, flow.id).steps] == ["vm"]
    drafts.undo(world.house, world.actor, world.client.id, flow.id)
    browser.submit(f"{here}/remove", {"row": "m"})
    assert [one.id for one in draft(world, flow.id).steps] == ["a", "vm"]
