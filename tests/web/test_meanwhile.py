"""Two people with the same form open: what the page itself sends, and what the second of them is told."""

from collections.abc import Callable
from html.parser import HTMLParser

import pytest

from tests.web.conftest import Browser
from tests.web.routes import filled
from tests.world import World


class Fields(HTMLParser):
    """What a browser would send of the form with an action."""

    def __init__(self, action: str, page: str) -> None:
        super().__init__()
        self.action, self.inside, self.listed, self.area = action, False, "", ""
        self.sent: dict[str, str] = {}
        self.feed(page)

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        said = {name: value or "" for name, value in attrs}
        if tag == "form":
            self.inside = said.get("action") == self.action
        if not self.inside:
            return
        ticked = said.get("type") not in ("checkbox", "radio") or "checked" in said
        if tag == "input" and said.get("name") and ticked and said.get("type") != "submit":
            self.sent[said["name"]] = said.get("value", "")
        if tag == "select":
            self.listed = said.get("name", "")
        if tag == "option" and self.listed and ("selected" in said or self.listed not in self.sent):
            self.sent[self.listed] = said.get("value", "")
        if tag == "textarea":
            self.area = said.get("name", "")
            self.sent[self.area] = ""

    def handle_data(self, data: str) -> None:
        if self.area:
            self.sent[self.area] += data

    def handle_endtag(self, tag: str) -> None:
        self.inside = self.inside and tag != "form"
        self.listed = "" if tag == "select" else self.listed
        self.area = "" if tag == "textarea" else self.area


PERSON = "/clients/{client_id}/people/{person:int}"
FORMS = [
    (PERSON, PERSON, "note", "email", "the note"),
    ("/clients/{client_id}/people/teams/{team:int}", "/clients/{client_id}/people/teams/{team:int}", "name", "rounds", "the name"),
    ("/clients/{client_id}/settings", "/clients/{client_id}/settings", "fail_safe", "name", "the fail-safe"),
    ("/clients/{client_id}/settings", "/clients/{client_id}/number-rules", "rest_words", "rest_days", "what callers hear then"),
    ("/clients/{client_id}/sources/{source_id}", "/clients/{client_id}/sources", "medium", "campaign", "the medium"),
    ("/clients/{client_id}/numbers/{number_id}", "/clients/{client_id}/numbers/{number_id}", "whisper", "name", "the whisper"),
    ("/clients/{client_id}/hours/{hours_id}/details", "/clients/{client_id}/hours/{hours_id}/settings/details", "name", "time_zone", "the name"),
    ("/clients/{client_id}/hours/{hours_id}/exceptions/{ident}", "/clients/{client_id}/hours/{hours_id}/exceptions/{ident}", "name", "last", "the name"),
    ("/exceptions/{list_id:int}/{ident}", "/exceptions/{list_id:int}/{ident}", "name", "last", "the name"),
]  # fmt: skip
"""The page, where its form is sent, a field that both change, one that only the first changes, and what the first is called."""
VALUES = {
    "email": "ada@example.com", "rounds": "2", "fail_safe": "410-555-0167", "rest_days": "12", "time_zone": "America/Chicago",
    "last": "2026-11-25",
}  # fmt: skip


@pytest.mark.parametrize(("page", "action", "both", "one", "called"), FORMS, ids=[form[1] for form in FORMS])
def test_the_second_of_two_is_told_and_loses_nothing(
    sign_in: Callable[..., Browser], world: World, page: str, action: str, both: str, one: str, called: str
) -> None:
    ids = filled(world, "+14105550142")
    at, to = ids.path(page), ids.path(action)
    first, second = sign_in("specialist"), sign_in("owner")
    opened = Fields(to, first.get(at).text).sent
    theirs = Fields(to, second.get(at).text).sent
    assert "was" in opened
    assert first.submit(
        to, opened | {both: VALUES.get(both, "First"), one: VALUES.get(one, "First too")}
    ).status_code in (200, 303)
    mine = theirs | {both: "410-555-0168" if both == "fail_safe" else "Second"}
    told = second.submit(to, mine)
    assert told.status_code == 422
    assert f"Changed by somebody else meanwhile: {called}" in told.text
    again = Fields(to, told.text).sent
    assert again[both] == mine[both], "what was typed is kept"
    assert second.submit(to, again).status_code in (200, 303)
    after = Fields(to, first.get(at).text).sent
    assert after[both] == mine[both]
