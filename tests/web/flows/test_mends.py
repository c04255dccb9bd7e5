"""A finding is mended at one press, as an edit that can be taken back."""

from collections.abc import Callable

import pytest

from tests.web.conftest import Browser
from tests.world import World, main_line
from vokari.work.flows import open_drafts


@pytest.mark.parametrize(("mend", "holds"), [("ask_for_key", (True, False)), ("detect", (False, True))])
def test_a_step_that_cannot_tell_a_mailbox_is_mended(
    world: World, sign_in: Callable[..., Browser], mend: str, holds: tuple[bool, bool]
) -> None:
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"}, live=False)
    here = f"/clients/{world.client.id}/flows/{flow.id}"
    browser = sign_in("specialist")
    assert "cannot tell a person from the phone’s own mailbox" in browser.get(here).text
    answer = browser.submit(f"{here}/mend", {"row": "q", "mend": mend, "base": "0"})
    assert answer.status_code in (200, 303)
    draft = open_drafts.opened(world.house, world.actor, world.client.id, flow.id)
    step = draft.document.step("q")
    assert (step.accept is not None, step.machine_detection) == holds
    assert [one.step for one in draft.findings if one.kind == "unconfirmed"] == ["r"]
    assert draft.undo_words


def test_a_mend_that_fits_no_more_is_refused_in_words(world: World, sign_in: Callable[..., Browser]) -> None:
    flow = world.flow(main_line(), sources={"ls_bus": "Bus panel"}, live=False)
    browser = sign_in("specialist")
    for fields in ({"row": "gone", "mend": "detect"}, {"row": "m", "mend": "detect"}, {"row": "q", "mend": "magic"}):
        answer = browser.submit(f"/clients/{world.client.id}/flows/{flow.id}/mend", {**fields, "base": "0"})
        assert (answer.status_code, "nothing was changed" in answer.text) == (422, True)
