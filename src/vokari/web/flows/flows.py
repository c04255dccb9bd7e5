"""The flows of a client: the list, the sheet, put live, versions, and files."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import PlainTextResponse, Response

from ...core.people import meaning
from ...formats.brought import KINDS
from ...work.agency import clients
from ...work.agency.access import NotFound
from ...work.flows import bringing, client_flows, drafts, files, open_drafts, removing
from ...work.house.views import CallFlowView
from ...work.people import meanings
from ..doors import Form, Id, Signed, at_once, house_of
from ..pages import Pages, by_field, go
from . import sheet

router = APIRouter()


@router.get("/clients/{client_id}/flows")
@at_once
def listed(request: Request, signed: Signed, client_id: Id) -> Response:
    """The client's flows."""
    return _list(request, signed, client_id)


def _list(request: Request, signed: Signed, client_id: int, status: int = 200, **values: object) -> Response:
    house, pages = house_of(request), request.app.state.pages
    flows = client_flows.listed(house, signed.actor, client_id)
    client = clients.get(house, signed.actor, client_id)
    defaults: dict[str, object] = {"name": "", "mark": "", "mistakes": []}
    response: Response = pages.show(
        request,
        "flows/flows.html",
        signed,
        client=client,
        section="flows",
        status=status,
        flows=flows,
        differs=open_drafts.differs,
        gone=removing.removed(house, signed.actor, client_id),
        **{**defaults, **values},
    )
    return response


@router.post("/clients/{client_id}/flows")
def create(request: Request, posted: Form, client_id: Id) -> Response:
    """Makes a flow, and opens its sheet."""
    result = client_flows.create(house_of(request), posted.actor, client_id, posted.text("name"), posted.text("mark"))
    if isinstance(result, CallFlowView):
        return go(request, f"/clients/{client_id}/flows/{result.id}")
    values = {"name": posted.text("name"), "mark": posted.text("mark"), "errors": by_field(result)}
    return _list(request, posted.signed, client_id, 422, **values)


@router.post("/clients/{client_id}/flows/{flow_id}/duplicate")
def duplicate(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Makes a copy of a flow's draft, and opens its sheet."""
    made = client_flows.duplicate(house_of(request), posted.actor, client_id, flow_id)
    return go(request, f"/clients/{client_id}/flows/{made.id}")


@router.post("/clients/{client_id}/flows/{flow_id}/removal")
def remove(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Removes a flow, or brings one back."""
    do = removing.bring_back if posted.text("do") == "back" else removing.remove
    problems = do(house_of(request), posted.actor, client_id, flow_id)
    if problems:
        return _list(request, posted.signed, client_id, 422, errors=by_field(problems))
    return go(request, f"/clients/{client_id}/flows")


@router.post("/clients/{client_id}/flows/import")
def import_(request: Request, posted: Form, client_id: Id) -> Response:
    """Lists what a file names; with that chosen, makes the flow. A file that names nothing is taken at once."""
    house, actor = house_of(request), posted.actor
    upload = posted.upload("file")
    raw = upload.file.read(bringing.LARGEST + 1) if upload else b""
    try:
        text = raw.decode("utf-8-sig") or posted.text("text")
    except UnicodeDecodeError:
        return _list(request, posted.signed, client_id, 422, mistakes=["The file is not text in UTF-8."])
    name, prefix = posted.text("import_name"), "choice-"
    choices = {
        field.removeprefix(prefix): value
        for field, value in posted.form.multi_items()
        if field.startswith(prefix) and isinstance(value, str)
    }
    looked = bringing.look(house, actor, client_id, text, choices)
    if isinstance(looked, list):
        return _list(request, posted.signed, client_id, 422, mistakes=[str(one) for one in looked[:20]])
    if posted.text("do") != "bring" and looked.offered:
        if posted.text("do") == "all_new":
            rest = {one.thing.id: bringing.NEW for one in looked.offered if one.chosen == "open" and one.can_be_made}
            looked = bringing.chosen(looked, rest)
        return _bring(request, posted.signed, looked, text, name)
    made = bringing.bring_in(house, actor, client_id, text, name, choices)
    if isinstance(made, list):
        return _bring(request, posted.signed, looked, text, name, [str(one) for one in made[:20]])
    return go(request, f"/clients/{client_id}/flows/{made.id}")


def _bring(
    request: Request, signed: Any, looked: bringing.Looked, text: str, name: str, mistakes: list[str] | None = None
) -> Response:
    pages: Pages = request.app.state.pages
    return pages.show(
        request, "flows/bring.html", signed, client=looked.client, section="flows", status=422 if mistakes else 200,
        looked=looked, text=text, name=name, mistakes=mistakes or [], kinds=KINDS,
    )  # fmt: skip


@router.get("/clients/{client_id}/flows/{flow_id}")
@at_once
def show(request: Request, signed: Signed, client_id: Id, flow_id: Id, row: str = "", exit: str = "") -> Response:
    """The sheet of a flow."""
    draft = open_drafts.opened(house_of(request), signed.actor, client_id, flow_id)
    return sheet.show(request, signed, draft, row, exit)


@router.get("/clients/{client_id}/flows/{flow_id}/file")
def export(request: Request, signed: Signed, client_id: Id, flow_id: Id) -> Response:
    """A flow file, to be saved."""
    text = files.export(house_of(request), signed.actor, client_id, flow_id)
    headers = {"Content-Disposition": f'attachment; filename="flow-{flow_id}.json"'}
    return PlainTextResponse(text, media_type="application/json", headers=headers)


@router.post("/clients/{client_id}/flows/{flow_id}/undo")
def undo(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Takes back the reader's latest edit."""
    return _stepped(request, posted, client_id, flow_id, "undo")


@router.post("/clients/{client_id}/flows/{flow_id}/redo")
def redo(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Does again what was taken back last."""
    return _stepped(request, posted, client_id, flow_id, "redo")


def _stepped(request: Request, posted: Form, client_id: int, flow_id: int, way: str) -> Response:
    house = house_of(request)
    take = drafts.undo if way == "undo" else drafts.redo
    result = take(house, posted.actor, client_id, flow_id)
    row = posted.text("row")
    if isinstance(result, list):
        draft = open_drafts.opened(house, posted.actor, client_id, flow_id)
        return sheet.show(request, posted.signed, draft, row, said=result[0].sentence, status=422)
    return sheet.show(request, posted.signed, result, row)


@router.get("/clients/{client_id}/flows/{flow_id}/means/{row}")
@at_once
def means(request: Request, signed: Signed, client_id: Id, flow_id: Id, row: str) -> Response:
    """What a Ring step means for a caller."""
    house, pages = house_of(request), request.app.state.pages
    found = meanings.of_step(house, signed.actor, client_id, flow_id, row)
    if found is None:
        raise NotFound
    draft = open_drafts.opened(house, signed.actor, client_id, flow_id)
    response: Response = pages.show(
        request, "flows/means.html", signed, client=draft.client, section="flows", draft=draft, step=draft.shown.step(row),
        means=found, sizes=meaning,
    )  # fmt: skip
    return response
