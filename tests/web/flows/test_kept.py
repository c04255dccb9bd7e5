"""The form of a kept rehearsal: what is wrong with it is said beside the field, and nothing is kept."""

from collections.abc import Callable

import pytest

from tests.web.conftest import Browser
from tests.world import World, main_line
from vokari.work.flows import open_drafts

GOOD = {
    "name": "A caller on a Saturday", "kind": "weekday", "day": "5", "at": "10:00", "caller": "410-555-0185", "presses": "2, nothing", "fate": "message_left",
    "message": "8.5", "within": "30",
}  # fmt: skip
PARTS = ("changes?older=0&newer=0", "proof")


@pytest.mark.parametrize(
    ("fields", "says"),
    [
        ({"name": " "}, "Give it a name."),
        ({"at": "25:00"}, "Write the time as 09:30."),
        ({"day": "9"}, "Choose a day of the week."),
        ({"kind": "date", "date": "yesterday"}, "Write the day as 2027-01-31."),
        ({"kind": "full moon"}, "Choose when it calls."),
        ({"presses": "two"}, "are no keys"),
        ({"phones": "Ada sings"}, "is not understood"),
        ({"within": "soon"}, "A number from 0 to 3600."),
        ({"message": "99999999999999999999"}, "A number from 0 to 600."),
        ({"caller": "12"}, "12"),
        ({"fate": "", "within": ""}, "Say what the call should come to."),
        ({"fate": "glad"}, "answered"),
        ({"was": "{}"}, "changed on its way"),
        ({"was": "["}, "changed on its way"),
    ],
)
def test_what_is_wrong_is_said_and_nothing_is_kept(
    world: World, sign_in: Callable[..., Browser], fields: dict[str, str], says: str
) -> None:
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"}, live=False)
    here = f"/clients/{world.client.id}/flows/{flow.id}/rehearsals"
    answer = sign_in("specialist").submit(here, {**GOOD, **fields})
    assert 400 <= answer.status_code < 500
    assert says in answer.text
    assert open_drafts.opened(world.house, world.actor, world.client.id, flow.id).document.rehearsals == ()


def test_what_is_right_is_kept_shown_and_changed(world: World, sign_in: Callable[..., Browser]) -> None:
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"}, live=False)
    here, browser = f"/clients/{world.client.id}/flows/{flow.id}", sign_in("specialist")
    assert browser.submit(f"{here}/rehearsals", GOOD).status_code == 303
    assert browser.submit(f"{here}/rehearsals", {**GOOD, "name": "Another"}).status_code == 303
    first, second = open_drafts.opened(world.house, world.actor, world.client.id, flow.id).document.rehearsals
    assert (first.id, second.id) == ("r1", "r2")
    assert (first.message, first.expects.within) == (8.5, 30)
    page = browser.get(f"{here}/rehearsals/r2").text
    assert "2, nothing" in page
    again = browser.submit(f"{here}/rehearsals", {**GOOD, "name": "Changed", "was": second.model_dump_json()})
    assert again.status_code == 303
    listed = browser.get(f"{here}/rehearsals").text
    assert "Changed" in listed
    assert "Another" not in listed
    assert browser.get(f"{here}/rehearsals/r9").status_code == 404
    for part in PARTS:
        answer = browser.get(f"{here}/{part}", headers={"HX-Request": "true"})
        assert answer.status_code == 200
        assert "<html" not in answer.text


def test_the_telephone_stands_in_a_frame_without_the_column(world: World, sign_in: Callable[..., Browser]) -> None:
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"}, live=False)
    browser, here = sign_in("specialist"), f"/clients/{world.client.id}/flows/{flow.id}/rehearse"
    inside = browser.get(here, headers={"Sec-Fetch-Dest": "iframe"})
    assert "Sign out" not in inside.text
    assert "Sign out" in browser.get(here).text
    assert "frame-ancestors 'self'" in inside.headers["Content-Security-Policy"]
