"""Versions of a flow: putting one live, now or at a moment to come, comparing two, and how callers passed through what is live."""

from typing import Any
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core import asked
from ...core.calls.fates import FATES
from ...core.flows.model.document import FlowDocument
from ...core.flows.shown import drawing, outline
from ...work.agency import clients
from ...work.flows import comparing, drafts, open_drafts, versions
from ...work.flows.comparing import DRAFT
from ...work.flows.versions import Going, Stopped
from ...work.numbers import numbers
from ...work.prompts import in_flows
from ...work.proof import nightly, proving
from ..doors import Form, Id, Posted, Signed, at_once, house_of
from ..pages import Pages, go
from . import sheet

router = APIRouter()
ASKS = "Not live yet: something was found that may be meant. Say why it may stay, or mend it first."
THICKEST = 9
"""The width in pixels of the line that most calls took."""


@router.get("/clients/{client_id}/flows/{flow_id}/live")
@at_once
def review(request: Request, signed: Signed, client_id: Id, flow_id: Id, asked: Id = 0) -> Response:
    """What putting the draft live would change, with what asks for a word, when, why, and the numbers that reach it."""
    return _review(request, signed, client_id, flow_id, ASKS if asked else "")


def _review(
    request: Request, signed: Any, client_id: int, flow_id: int, said: str = "", typed: dict[str, Any] | None = None
) -> Response:
    house, pages = house_of(request), request.app.state.pages
    draft = open_drafts.opened(house, signed.actor, client_id, flow_id)
    live = draft.flow.live_version_id
    compared = comparing.compare(house, signed.actor, client_id, flow_id, live, DRAFT) if live else None
    lines = [one for one in numbers.of_client(house, signed.actor, client_id) if one.number.state == "in_service"]
    _, _, planned = versions.listed(house, signed.actor, client_id, flow_id)
    # Put live waits for the proof: a word for one that is under way is asked for only once that was tried.
    waiting = [
        one for one in versions.asks(house, signed.actor, client_id, flow_id) if said or one.kind != "not_proven"
    ]
    response: Response = pages.show(
        request, "flows/live.html", signed, client=draft.client, section="flows", draft=draft, compared=compared, lines=lines,
        planned=planned, said=said, typed=typed or {"why": "", "at": "", "numbers": set(), "consent": ""},
        status=422 if said and typed else 200, waiting=waiting,
        places=outline.numbers(draft.shown),
    )  # fmt: skip
    return response


def _going(request: Request, posted: Posted, client_id: int) -> Going | str:
    """How a version is to go live, as a form says it; or a sentence."""
    client = clients.get(house_of(request), posted.actor, client_id)
    typed, at = posted.text("at").strip(), None
    if typed:
        at = asked.moment(typed)
        if at is None:
            return "Write the moment as 2026-11-24T14:05, in the client’s time."
        at = at if at.tzinfo else at.replace(tzinfo=ZoneInfo(client.time_zone))
    return Going(posted.text("why"), at, tuple(posted.ids("number")), posted.text("consent"), proven=True)


@router.post("/clients/{client_id}/flows/{flow_id}/live")
def put_live(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Puts the draft live, now or at a moment to come; findings that stop it are shown instead."""
    house, reviewed = house_of(request), bool(posted.text("reviewed"))
    going = _going(request, posted, client_id)
    typed = {"numbers": set(posted.ids("number")), **{name: posted.text(name) for name in ("why", "at", "consent")}}
    if isinstance(going, str):
        return _review(request, posted.signed, client_id, flow_id, going, typed)
    proving.waited_for(house, posted.actor, client_id, flow_id)
    result = versions.put_live(house, posted.actor, client_id, flow_id, posted.whole("base"), going)
    if isinstance(result, Stopped):
        found = result.findings
        if result.asks and not reviewed:
            return go(request, f"/clients/{client_id}/flows/{flow_id}/live?asked=1")
        if result.asks:
            return _review(request, posted.signed, client_id, flow_id, ASKS, typed)
        said = f"Not live: {len(found)} {'finding stops' if len(found) == 1 else 'findings stop'} it."
        stopped = found
        if found[0].kind in ("edited", "past", "breaks_outer"):
            said, stopped = found[0].sentence, []
        if reviewed:
            said = said if len(found) > 1 and found[0].kind not in ("edited", "past") else found[0].sentence
            return _review(request, posted.signed, client_id, flow_id, said, typed)
        draft = open_drafts.opened(house, posted.actor, client_id, flow_id)
        return sheet.show(request, posted.signed, draft, said=said, stopped=stopped, status=422)
    what = "planned" if going.at else "live"
    return go(request, f"/clients/{client_id}/flows/{flow_id}/versions?{what}={result.number}")


@router.post("/clients/{client_id}/flows/{flow_id}/numbers")
def choose_numbers(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Lets the chosen numbers reach the flow from now on, and no others."""
    versions.choose_numbers(house_of(request), posted.actor, client_id, flow_id, posted.ids("number"))
    return go(request, f"/clients/{client_id}/flows/{flow_id}/live")


@router.get("/clients/{client_id}/flows/{flow_id}/versions")
@at_once
def version_list(
    request: Request, signed: Signed, client_id: Id, flow_id: Id, live: Id = 0, planned: Id = 0
) -> Response:
    """The versions of a flow, who put which live when and why, and what became of their calls."""
    return _versions(request, signed, client_id, flow_id, live=live, planned_now=planned)


def _versions(
    request: Request, signed: Any, client_id: int, flow_id: int, status: int = 200, **values: Any
) -> Response:
    house, pages = house_of(request), request.app.state.pages
    flow, lines, plan = versions.listed(house, signed.actor, client_id, flow_id)
    edits = drafts.history(house, signed.actor, client_id, flow_id)
    client = clients.get(house, signed.actor, client_id)
    assert isinstance(pages, Pages)
    return pages.show(
        request, "flows/versions.html", signed, client=client, section="flows", flow=flow, lines=lines, edits=edits, plan=plan,
        beside=in_flows.beside(house, signed.actor, client_id, flow_id), fates=comparing.fates_of(house, signed.actor, client_id, flow_id), fate_order=FATES, status=status,
        found=nightly.standing(house, signed.actor, client_id, flow_id), places=outline.numbers(FlowDocument.model_validate(flow.draft)),
        **{"live": 0, "planned_now": 0, "said": "", **values},
    )  # fmt: skip


@router.post("/clients/{client_id}/flows/{flow_id}/versions/{version_id}/live")
def put_back(request: Request, posted: Form, client_id: Id, flow_id: Id, version_id: Id) -> Response:
    """Puts an earlier version live again."""
    going = _going(request, posted, client_id)
    if isinstance(going, str):
        return _versions(request, posted.signed, client_id, flow_id, 422, said=going)
    result = versions.put_back(house_of(request), posted.actor, client_id, flow_id, version_id, going)
    if isinstance(result, Stopped):
        return _versions(request, posted.signed, client_id, flow_id, 422, said=result.findings[0].sentence)
    what = "planned" if going.at else "live"
    return go(request, f"/clients/{client_id}/flows/{flow_id}/versions?{what}={result.number}")


@router.post("/clients/{client_id}/flows/{flow_id}/planned/{change_id}")
def take_back_planned(request: Request, posted: Form, client_id: Id, flow_id: Id, change_id: Id) -> Response:
    """Takes back that a version goes live at a moment to come."""
    if versions.take_back_planned(house_of(request), posted.actor, client_id, flow_id, change_id):
        return go(request, f"/clients/{client_id}/flows/{flow_id}/versions")
    said = "That has happened already, or was taken back: look at the list below."
    return _versions(request, posted.signed, client_id, flow_id, 409, said=said)


@router.get("/clients/{client_id}/flows/{flow_id}/compare")
@at_once
def compare(request: Request, signed: Signed, client_id: Id, flow_id: Id, older: Id = 0, newer: Id = 0) -> Response:
    """Two versions, or one and the draft (0): what was edited, with the rows marked."""
    house, pages = house_of(request), request.app.state.pages
    found = comparing.compare(house, signed.actor, client_id, flow_id, older, newer)
    _, lines, _ = versions.listed(house, signed.actor, client_id, flow_id)
    rows = outline.outline(found.after)
    marks = {one.step: one.what for one in reversed(found.differences) if one.step}
    response: Response = pages.show(
        request, "flows/compare.html", signed, client=found.client, section="flows", found=found, lines=lines, rows=rows,
        document=found.after, places=outline.numbers(found.after), marks=marks, older=older, newer=newer, lit="",
    )  # fmt: skip
    return response


@router.get("/clients/{client_id}/flows/{flow_id}/traffic")
@at_once
def traffic(request: Request, signed: Signed, client_id: Id, flow_id: Id, version: Id = 0) -> Response:
    """How callers passed through a version (0: what is live), on its rows and lines, and where they gave up."""
    house, pages = house_of(request), request.app.state.pages
    flow, lines, _ = versions.listed(house, signed.actor, client_id, flow_id)
    shown = next((one for one in lines if one.version.id == (version or flow.live_version_id)), None)
    client = clients.get(house, signed.actor, client_id)
    if shown is None:
        empty: Response = pages.show(
            request, "flows/traffic.html", signed, client=client, section="flows", flow=flow, lines=lines, shown=None
        )
        return empty
    counts = comparing.traffic(house, signed.actor, client_id, flow_id, shown.version.id)
    draft = open_drafts.opened(house, signed.actor, client_id, flow_id)
    document = draft.named(FlowDocument.model_validate(shown.version.document))
    most = max((calls for (_, exit_), (calls, _) in counts.items() if exit_), default=0)
    widths = {place: -(-THICKEST * calls // most) for place, (calls, _) in counts.items() if most}
    response: Response = pages.show(
        request, "flows/traffic.html", signed, client=client, section="flows", flow=flow, lines=lines, shown=shown, counts=counts,
        widths=widths, document=document, rows=outline.outline(document), places=outline.numbers(document),
        drawing=drawing.draw(document), lit="",
    )  # fmt: skip
    return response
