"""Editing rows of the sheet: each form is one edit, carried out at once and shown in the outline and the map."""

import re
from typing import Any, Literal

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import ValidationError

from ...core.checks.mends import mending
from ...core.flows.drafting import edits
from ...core.flows.model.steps import AnyStep, Menu
from ...core.flows.shown.outline import outline
from ...work.agency import mailboxes
from ...work.flows import drafts, open_drafts, typed
from ...work.flows.drafts import Conflict
from ...work.flows.open_drafts import OpenDraft, RowAround
from ...work.house.house import House
from ...work.house.problems import Problem, Problems
from ..doors import Form, Id, Posted, house_of
from ..pages import by_field, go
from ..prompts.library import voice_of
from . import row_forms, sheet

router = APIRouter()


def _answer(
    request: Request, posted: Posted, client_id: int, flow_id: int, result: OpenDraft | Conflict | Problems, row: str,
    exit_id: str = "", *, goes_on: Literal["", "onward", "anywhere"] = "", **typed: Any,
) -> Response:  # fmt: skip
    """The sheet after an edit: as it is now, or with what is wrong beside the fields and what was typed kept. `goes_on` says where
    the next line is typed, which is opened: nowhere, on the way on from the row, or wherever the flow leads nowhere yet."""
    if isinstance(result, OpenDraft):
        return sheet.show(request, posted.signed, result, *_next_line(result, row, goes_on))
    draft = open_drafts.opened(house_of(request), posted.actor, client_id, flow_id)
    if isinstance(result, Conflict):
        yours = typed.get("yours")
        beside = None if yours is None else sheet.beside(draft.document, result.now or {}, yours)
        mine = [(name, value) for name, value in posted.form.multi_items() if name not in ("base", "form_token")]
        return sheet.show(
            request, posted.signed, draft, row, exit_id, status=409, conflict=result, beside_theirs=beside, mine=mine,
            mine_to=request.url.path,
        )  # fmt: skip
    errors = by_field(result)
    said = errors.get("", "") or next(iter(errors.values()))
    return sheet.show(request, posted.signed, draft, row, exit_id, status=422, errors=errors, said=said, **typed)


def _next_line(draft: OpenDraft, row: str, goes_on: str) -> tuple[str, str]:
    """Where the next line is typed once a row is done: at a menu, the line for its next key; else the way on from the row, if it
    leads nowhere yet; else the first exit of the flow that does. The row itself where none does, or where something is missing in
    it."""
    here = draft.document.step(row)
    lacks = any(one.step == row and not one.exit and one.weight == "stops" for one in draft.findings)
    if not goes_on or here is None or isinstance(here, Menu) or lacks:
        return row, ""
    onward = here.exit(here.onward)
    if onward is not None and onward.is_open:
        return row, onward.id
    if goes_on == "onward":
        return row, ""
    open_ways = (
        (one.parent.id, one.exit.id) for one in outline(draft.document) if one.exit and one.parent and one.exit.is_open
    )
    return next(open_ways, (row, ""))


@router.post("/clients/{client_id}/flows/{flow_id}/rows/{row}")
def change(request: Request, posted: Form, client_id: Id, flow_id: Id, row: str) -> Response:
    """Keeps an opened row, with a mailbox that is made for it."""
    house = house_of(request)
    typed: dict[str, Any] = {}
    if posted.text("mailbox") == "new":
        found = _mailbox(house, posted, client_id)
        if isinstance(found, list):
            typed = {
                "mailbox_name": posted.text("new_mailbox"),
                "mailbox_tell": posted.text("new_mailbox_tell"),
                "mailbox_agreed": " ".join(re.split(r"[,;\s]+", posted.text("new_mailbox_tell"))),
            }
            draft = open_drafts.opened(house, posted.actor, client_id, flow_id)
            step = draft.document.step(row)
            values = row_forms.read(posted, step, draft.row_around)[0] if step else {}
            return _answer(request, posted, client_id, flow_id, found, row, values={**values, **typed})
        typed["mailbox"] = found

    def read(step: AnyStep, around: RowAround) -> AnyStep | Problems:
        raw, result = row_forms.read(posted, step, around)
        if "mailbox" in typed and step.kind == "voicemail":
            raw["mailbox"] = typed["mailbox"]
            result = result if isinstance(result, list) else result.model_copy(update={"mailbox": typed["mailbox"]})
        typed["values"] = raw
        typed["yours"] = None if isinstance(result, list) else result.model_dump(mode="json")
        return result

    after = drafts.edit_row(house, posted.actor, client_id, flow_id, row, read, posted.whole("base"))
    kept = {name: typed[name] for name in ("values", "yours") if name in typed}
    gone = isinstance(after, list) and "values" not in typed
    return _answer(request, posted, client_id, flow_id, after, "" if gone else row, goes_on="onward", **kept)


def _mailbox(house: House, posted: Posted, client_id: int) -> str | Problems:
    """The key of a mailbox that the form of a voicemail asks for; problems have its fields."""
    agreed = posted.text("new_mailbox_agreed").split()
    made = mailboxes.keep(
        house, posted.actor, client_id, None, posted.text("new_mailbox"), posted.text("new_mailbox_tell"), agreed
    )
    if isinstance(made, list):
        return [Problem(f"new_mailbox_{one.field}", one.sentence) for one in made]
    return made.key


@router.post("/clients/{client_id}/flows/{flow_id}/settings")
def change_flow(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Saves the flow's own row: name, mark, language, rescue and the limit on entries."""
    problems = []
    name, mark = " ".join(posted.text("name").split()), posted.text("mark").strip().upper()
    if not 1 <= len(name) <= 60:
        problems.append(Problem("name", "A flow has a name of 1 to 60 letters."))
    if not (2 <= len(mark) <= 3 and mark.isascii() and mark.isalnum() and mark[0].isalpha()):
        problems.append(Problem("mark", "A mark has two or three capital letters or digits."))
    limit = posted.whole("entry_limit") or 0
    if not 2 <= limit <= 50:
        problems.append(Problem("entry_limit", "A step may be entered 2 to 50 times."))
    voice = voice_of(posted) if "rate" in posted.form else None
    if isinstance(voice, str):
        problems.append(Problem("voice", voice))
    if problems:
        return _answer(request, posted, client_id, flow_id, problems, "flow")
    try:
        wanted = edits.SetFlow(
            voice=None if isinstance(voice, str) else voice,
            name=name, mark=mark, entry_limit=limit, rescue=posted.text("rescue") or None, start=posted.text("start") or None,
            language=posted.text("language") or None, everyone_else=posted.text("everyone_else") or None,
        )  # fmt: skip
    except ValidationError as error:
        field = str(error.errors(include_url=False)[0]["loc"][0])
        problem = [Problem(field, "Choose one of the list.")]
        return _answer(request, posted, client_id, flow_id, problem, "flow")
    result = drafts.edit(house_of(request), posted.actor, client_id, flow_id, [wanted], posted.whole("base"))
    yours = wanted.model_dump(mode="json", exclude={"do"})
    return _answer(request, posted, client_id, flow_id, result, "flow", yours=yours)


@router.post("/clients/{client_id}/flows/{flow_id}/mend")
def mend(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Mends a finding at one press, as one edit."""
    house, row = house_of(request), posted.text("row")
    document = open_drafts.opened(house, posted.actor, client_id, flow_id).document
    step = document.step(row)
    wanted = mending(document, step, posted.text("mend")) if step else ()
    if not wanted:
        problem = [Problem("", "This finding is there no more; nothing was changed.")]
        return _answer(request, posted, client_id, flow_id, problem, "")
    result = drafts.edit(house, posted.actor, client_id, flow_id, wanted, posted.whole("base"))
    if posted.text("back") == "text" and isinstance(result, OpenDraft):
        return go(request, f"/clients/{client_id}/flows/{flow_id}/text?row={row}")
    gone = isinstance(result, OpenDraft) and result.document.step(row) is None
    return _answer(request, posted, client_id, flow_id, result, "" if gone else row)


@router.post("/clients/{client_id}/flows/{flow_id}/remove")
def remove(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Removes a step."""
    row = posted.text("row")
    wanted = edits.RemoveStep.model_construct(id=row, along=bool(posted.text("along")))
    result = drafts.edit(house_of(request), posted.actor, client_id, flow_id, [wanted], posted.whole("base"))
    return _answer(request, posted, client_id, flow_id, result, "" if isinstance(result, OpenDraft) else row)


@router.post("/clients/{client_id}/flows/{flow_id}/connect")
def connect(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Leads an exit elsewhere."""
    row, exit_id = posted.text("row"), posted.text("exit")
    wanted = edits.Connect.model_construct(step=row, exit=exit_id, to=posted.text("to") or None)
    result = drafts.edit(house_of(request), posted.actor, client_id, flow_id, [wanted], posted.whole("base"))
    return _answer(request, posted, client_id, flow_id, result, row, exit_id)


@router.post("/clients/{client_id}/flows/{flow_id}/add")
def add(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Adds a step at an exit: of a chosen kind, or from one short line of plain words."""
    house = house_of(request)
    row, exit_id, line, kind = (
        posted.text("row"),
        posted.text("exit", "start"),
        posted.text("line"),
        posted.text("kind"),
    )
    draft = open_drafts.opened(house, posted.actor, client_id, flow_id)
    wanted = (
        typed.line_edits(draft, line, row, exit_id, row_forms.new_id) if not kind else _plain(draft, kind, row, exit_id)
    )
    if isinstance(wanted, Problem):
        return _answer(request, posted, client_id, flow_id, [wanted], row, exit_id, line=line)
    result = drafts.edit(house, posted.actor, client_id, flow_id, wanted, posted.whole("base"))
    added = next((one.id for one in reversed(wanted) if isinstance(one, edits.AddStep)), row)
    keyed = isinstance(draft.document.step(row), Menu) and exit_id == "" and not kind
    opened = row if keyed or not isinstance(result, OpenDraft) else added
    return _answer(
        request, posted, client_id, flow_id, result, opened, exit_id, goes_on="" if kind else "anywhere", line=line
    )


def _plain(draft: OpenDraft, kind: str, row: str, exit_id: str) -> list[edits.Edit] | Problem:
    """A new step of a kind; a branch is added first where the exit asked for is a key that the menu lacks."""
    fill = typed.usual_fill(draft, kind)
    at = draft.document.step(row)
    if isinstance(at, Menu) and exit_id == "":
        return Problem("", "Say which key leads there.")
    add = edits.AddStep(id=row_forms.new_id(), kind=kind[:20], at_step=row, at_exit=exit_id, fill=fill)
    return [add]
