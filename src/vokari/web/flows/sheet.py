"""What the sheet of a flow shows, put together for its templates."""

from typing import Any

from fastapi import Request
from fastapi.responses import HTMLResponse

from ...core.flows.conditions import tests as conditions
from ...core.flows.conditions.base import Names
from ...core.flows.drafting import edits, typed_conditions
from ...core.flows.model.condition import Condition
from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import KINDS, AnyStep
from ...core.flows.shown import drawing, outline
from ...core.prompts.kinds import KINDS as PROMPT_KINDS
from ...core.prompts.kinds import kind_of
from ...work.agency.accounts import SignedIn
from ...work.flows.open_drafts import OpenDraft
from ...work.house.problems import Row
from ...work.prompts import opened
from ..doors import house_of
from ..pages import Pages, is_partial

LANGUAGES = {
    "": "the flow’s",
    "en-US": "English (US)",
    "en-GB": "English (UK)",
    "es": "Spanish",
    "fr": "French",
    "de": "German",
}

VOICE_SAMPLE = "This is {client}. To hear this again, press 1."
"""What a voice is heard by."""

ANSWERED = {
    "picked_up": "once picked up",
    "dialed": "once the extension is dialed",
    "key": "when they press 1",
    "service": "by an answering service",
}
"""What counts as answered at a phone, as it is chosen."""


def context(draft: OpenDraft, row: str = "", exit_id: str = "", **more: Any) -> dict[str, Any]:
    """The rows, the drawing and the choices of an open draft; `row` and `exit_id` say what is opened."""
    document = draft.shown
    rows = outline.outline(document)
    step = draft.document.step(row)
    return {
        "draft": draft,
        "document": document,
        "rows": rows,
        "places": {one.step.id: one.number for one in rows if one.step},
        "drawing": drawing.draw(document),
        "open_row": row if step else ("flow" if row == "flow" else ""),
        "open_exit": exit_id,
        "at_row": "",
        "open_step": step,
        "hanging": edits.hanging(draft.document, row) if step else [],
        "behind_branch": bool(step) and edits.branch_to(draft.document, row) is not None,
        "values": step.model_dump(mode="json") if step else {},
        "conflict": None,
        "beside_theirs": None,
        "mine": [],
        "mine_to": "",
        "stopped": [],
        "errors": {},
        "line": "",
        "mailbox_names": {one.key: one.name for one in draft.mailboxes},
        "kinds": {name: kind.title for name, kind in KINDS.items()},
        "when_of": {name: kind.when for name, kind in KINDS.items()},
        "answered": ANSWERED,
        "languages": LANGUAGES,
        "kind_of": kind_of,
        "greeting": VOICE_SAMPLE.format(client=draft.client.name),
        "kind_names": PROMPT_KINDS,
        "shown_step": document.step(row),
        "condition_words": typed_conditions.offered(draft.names),
        "condition_text": lambda raw: typed_conditions.write(Condition.model_validate(raw), draft.names),
        **more,
    }


def beside(document: FlowDocument, theirs: Row, yours: Row) -> list[tuple[str, str, str]]:
    """The fields in which somebody else's row and one's own differ: the name of the field, theirs and yours, in words."""
    return [
        (name.replace("_", " "), _said(document, theirs.get(name)), _said(document, value))
        for name, value in yours.items()
        if theirs.get(name) != value
    ]


def _said(document: FlowDocument, value: Any) -> str:
    """A field of a row in words: steps by their number and name, lists one behind the other."""
    match value:
        case None | "" | []:
            return "nothing"
        case bool():
            return "yes" if value else "no"
        case {"say": words}:
            return str(words) or "nothing"
        case {"keys": keys, "name": name, "to": to}:
            return f"{keys} {name}: {_said(document, to)}"
        case {"when": when, "to": to}:
            return f"{conditions.words(Condition.model_validate(when), Names())}: {_said(document, to)}"
        case dict():
            parts = [
                f"{name.replace('_', ' ')} {_said(document, one)}"
                for name, one in value.items()
                if name != "id" and one
            ]
            return ", ".join(parts) or "nothing"
        case list() | tuple():
            return "; ".join(_said(document, one) for one in value)
    step = document.step(str(value))
    return f"{outline.numbers(document).get(step.id, '')} {step.called}".strip() if step else str(value)


def show(
    request: Request,
    signed: SignedIn,
    draft: OpenDraft,
    row: str = "",
    exit_id: str = "",
    status: int = 200,
    **more: Any,
) -> HTMLResponse:
    """The sheet: the whole page, or for htmx the desk alone."""
    pages: Pages = request.app.state.pages
    values = context(draft, row, exit_id, voices=opened.languages(house_of(request), draft.document.language), **more)
    template = "flows/sheet_desk.html" if is_partial(request) else "flows/sheet.html"
    response = pages.show(request, template, signed, client=draft.client, section="flows", status=status, **values)
    if status == 422 and is_partial(request):
        response.status_code = 200
    return response


def targets(document: FlowDocument, step: AnyStep | None) -> list[tuple[str, str]]:
    """The steps an exit can lead to, by number, as (id, words)."""
    found = []
    for row in outline.outline(document):
        if row.step and row.step != step:
            found.append((row.step.id, f"{row.number} {row.step.called}"))
    return found
