"""A flow as indented text: written out, typed, pasted, and kept while it is typed."""

import secrets
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from ...core.flows.drafting import typed_conditions
from ...core.flows.shown import drawing, outline
from ...work.flows import matching, texts
from ...work.flows.drafts import Conflict
from ...work.flows.matching import Match
from ...work.flows.texts import Text
from ...work.house.problems import Problem
from ..doors import Form, Id, Signed, house_of
from ..pages import Pages, by_field

router = APIRouter()
WORDS = (
    ("say", "an announcement"), ("ask", "a menu"), ("back to the start", "a way back"), ("silent", "nothing pressed"), ("wrong", "a wrong key"),
    ("no answer", "nobody took it"), ("busy", "all on calls"), ("everyone else", "who has no other answer"), ("open", "by the hours"),
    ("closed", "by the hours"), ("voicemail", "leave word"), ("hold for", "a hold line"), ("label", "on the call"), ("else", "who is not taken"),
    ("type 5 digits for", "a keypad entry"), ("come back with", "out of a flow inside another"),
)  # fmt: skip
MOST_CONDITIONS = 80
"""How many conditions are completed; names of the client come first."""
"""Words that lines begin with, and what they mean, as they are completed."""


@router.get("/clients/{client_id}/flows/{flow_id}/text")
def show(request: Request, signed: Signed, client_id: Id, flow_id: Id, row: str = "") -> Response:
    """The draft as text; `row` is the step whose line is gone to."""
    found = texts.opened(house_of(request), signed.actor, client_id, flow_id)
    return _show(request, signed, found, row=row)


def _show(request: Request, signed: Any, found: Text, status: int = 200, **values: Any) -> Response:
    pages: Pages = request.app.state.pages
    request.state.style_nonce = nonce = secrets.token_urlsafe(16)
    usual: dict[str, Any] = {"typed": found.text, "errors": {}, "conflict": None, "saved": False, "row": ""}
    values = {**usual, **_side(found), **values}
    page = {
        "base": f"/clients/{found.draft.client.id}/flows/{found.draft.flow.id}", "flow": found.draft.flow.id, "nonce": nonce,
        "row": values["row"], **_marks(found), "was": found.text,
    }  # fmt: skip
    return pages.show(
        request,
        "flows/text.html",
        signed,
        client=found.draft.client,
        section="flows",
        status=status,
        page=page,
        **values,
    )


def _side(found: Text) -> dict[str, Any]:
    """What the map and the findings beside the text need."""
    document = found.draft.shown
    rows = outline.outline(document)
    return {
        "found": found, "draft": found.draft, "document": document, "rows": rows, "drawing": drawing.draw(document),
        "places": {one.step.id: one.number for one in rows if one.step},
        "line_of": found.stands,
        "unread_at": sorted(found.missing.items()), "wrong_names": {}, "typed_names": {},
        "counterparts": _counterparts(found),
    }  # fmt: skip


def _counterparts(found: Text) -> dict[str, list[tuple[str, list[str]]]]:
    """What a name can stand for here, by kind of name: groups with their names."""
    draft = found.draft
    people, teams = [one.name for one in draft.people.values()], [one.name for one in draft.teams.values()]
    boxes, sources = [one.name for one in draft.mailboxes], [one.name for one in draft.sources]
    periods = [*typed_conditions.offered(draft.names)]
    steps = [step.name for step in draft.document.steps if step.name]
    return {
        "person": [("People", people), ("Teams", teams), ("Mailboxes", boxes), ("Steps", steps)], "team": [("Teams", teams)],
        "mailbox": [("Mailboxes", boxes)], "source": [("Lead sources", sources)], "period": [("Hours", periods)],
    }  # fmt: skip


def _marks(found: Text) -> dict[str, Any]:
    """What the editor marks: steps and missing things by line, and the names that it completes."""
    draft = found.draft
    named = [[one.name, "team", "team"] for one in draft.teams.values()]
    named += [[one.name, one.phones[0].to if one.phones else "no phone", "person"] for one in draft.people.values()]
    named += [[one.name, "mailbox", "mailbox"] for one in draft.mailboxes]
    named += [[name, one.name, "hours"] for one in draft.names.hours.values() for name in one.periods.values()]
    named += [[step.name, "step", "step"] for step in draft.document.steps if step.name]
    named += [
        [f"continue in {one.name}", "a flow inside this one", "word"]
        for one in draft.flows.values()
        if one.id != draft.flow.id
    ]
    named += [[text, "sorts callers", "word"] for text in typed_conditions.offered(draft.names)[:MOST_CONDITIONS]]
    return {
        "revision": draft.flow.revision, "text": found.text, "steps": found.lines, "missing": found.missing,
        "names": [*named, *([word, means, "word"] for word, means in WORDS)],
    }  # fmt: skip


@router.post("/clients/{client_id}/flows/{flow_id}/text")
def keep(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Makes the draft say what was typed; lines that are not understood stay, each with what is missing."""
    house, text = house_of(request), posted.text("text")
    kept = texts.type_in(house, posted.actor, client_id, flow_id, text, posted.whole("base"))
    if isinstance(kept, Text):
        return _show(request, posted.signed, kept, saved=True)
    found = texts.opened(house, posted.actor, client_id, flow_id)
    if isinstance(kept, Conflict):
        return _show(request, posted.signed, found, 409, typed=text, conflict=kept)
    return _show(request, posted.signed, found, 422, typed=text, errors=by_field(kept))


@router.post("/clients/{client_id}/flows/{flow_id}/text/match")
def match_names(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Matches names that nothing of the client has to what is there, or makes them, all in one step."""
    house = house_of(request)
    found = texts.opened(house, posted.actor, client_id, flow_id)
    strangers = {f"{one.kind}:{one.name}": one for one in found.strangers}
    matches = []
    for n in range(len(strangers)):
        one = strangers.get(f"{posted.text(f'kind-{n}')}:{posted.text(f'name-{n}')}")
        if one is not None:
            matches.append(Match(one, posted.text(f"to-{n}"), posted.text(f"made-{n}")))
    kept = matching.match(house, posted.actor, client_id, flow_id, matches)
    if isinstance(kept, Text):
        return _show(request, posted.signed, kept, saved=True)
    found = texts.opened(house, posted.actor, client_id, flow_id)
    if isinstance(kept, Conflict):
        return _show(request, posted.signed, found, 409, conflict=kept)
    typed = {one.stranger.name: one.made_with for one in matches}
    wrong = {matches[int(one.field)].stranger.name: one.sentence for one in kept if one.field.isdecimal()}
    said = "" if wrong else kept[0].sentence
    return _show(
        request,
        posted.signed,
        found,
        422,
        errors=by_field([Problem("text", said)] if said else []),
        wrong_names=wrong,
        typed_names=typed,
    )


@router.post("/clients/{client_id}/flows/{flow_id}/text/lines")
def keep_lines(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """The same while somebody types: what stands at each line, what is missing in it, and the map and the findings anew."""
    flown = posted.text("flown") if "flown" in posted.form else None
    kept = texts.type_in(
        house_of(request), posted.actor, client_id, flow_id, posted.text("text"), posted.whole("base"), posted.text("was"), flown,
        posted.whole("typing"),
    )  # fmt: skip
    if isinstance(kept, Conflict):
        return JSONResponse({"error": f"{kept.who} changes this flow at this moment. It is tried again as you go on."})
    if not isinstance(kept, Text):
        return JSONResponse({"error": kept[0].sentence}, 422)
    if not kept.kept:
        return JSONResponse({"kept": False, "steps": kept.lines, "missing": kept.missing})
    pages: Pages = request.app.state.pages
    side = pages.part(request, "flows/text_side.html", posted.signed, kept.draft.client, **_side(kept))
    return JSONResponse(
        {"kept": True, "theirs": kept.theirs, "made": kept.made, "side": bytes(side.body).decode(), **_marks(kept)}
    )
