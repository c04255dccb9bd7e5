"""Kept rehearsals: what comes of each on the draft as it stands, and the form of one."""

import uuid
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core.calls.fates import FATE_NAMES
from ...core.flows.model.kept import Expected, KeptRehearsal
from ...core.flows.model.steps import HoldLine, LookUp
from ...core.flows.shown import outline
from ...core.rehearsals import moments, typed
from ...work.flows import kept_rehearsals, open_drafts, rehearsals
from ...work.flows.open_drafts import OpenDraft
from ..doors import Form, Id, Signed, at_once, house_of
from ..pages import by_field, go
from . import kept_forms
from .rehearsals import show_telephone

router = APIRouter()
BASE = "/clients/{client_id}/flows/{flow_id}/rehearsals"


@router.get(BASE)
@at_once
def listed(request: Request, signed: Signed, client_id: Id, flow_id: Id) -> Response:
    """The rehearsals kept with a draft, those that fail first, and those that are proposed."""
    house, pages = house_of(request), request.app.state.pages
    draft = open_drafts.opened(house, signed.actor, client_id, flow_id)
    verdicts = sorted(draft.verdicts, key=lambda one: one.holds)
    response: Response = pages.show(
        request, "flows/kept.html", signed, client=draft.client, section="flows", draft=draft, verdicts=verdicts,
        proposal=kept_rehearsals.proposed(house, signed.actor, client_id, flow_id), **_words(draft),
    )  # fmt: skip
    return response


def _words(draft: OpenDraft) -> dict[str, Any]:
    rows = outline.outline(draft.shown)
    return {
        "when": moments.in_words,
        "happens": lambda one: typed.in_words(one, draft.shown.step_names, draft.callees),
        "expected": lambda one: _expected(draft, one.expects),
        "places": {one.step.id: one.number for one in rows if one.step},
    }


def _expected(draft: OpenDraft, wanted: Expected) -> list[str]:
    """What a call should come to, in a few words each."""
    step = draft.shown.step(wanted.ends_at) if wanted.ends_at else None
    found = [FATE_NAMES[wanted.fate]] if wanted.fate else []
    found += [f"at {step.quoted}" if step else "at a step that is gone"] if wanted.ends_at else []
    found += [f"rings {', '.join(draft.callees.get(one, one) for one in wanted.rings)}"] if wanted.rings else []
    found += [f"within {wanted.within} s"] if wanted.within is not None else []
    found += [f"says “{wanted.says}”"] if wanted.says else []
    found += [f"label “{wanted.label}”"] if wanted.label else []
    found += (
        [f"credits {draft.names.sources.get(wanted.lead_source, wanted.lead_source)}"] if wanted.lead_source else []
    )
    return found


@router.get(BASE + "/new")
@at_once
def new(request: Request, signed: Signed, client_id: Id, flow_id: Id) -> Response:
    """An empty form."""
    draft = open_drafts.opened(house_of(request), signed.actor, client_id, flow_id)
    caller = "(410) 555-0185" if draft.client.country == "US" else "+44 7700 900123"
    usual = {"kind": "weekday", "day": "0", "at": "10:00", "caller": caller, "ahead": "0"}
    return _form(request, signed, draft, None, usual)


@router.get(BASE + "/{kept_id}")
@at_once
def one(request: Request, signed: Signed, client_id: Id, flow_id: Id, kept_id: str) -> Response:
    """The form of one, with what comes of it now."""
    draft, kept = kept_rehearsals.one(house_of(request), signed.actor, client_id, flow_id, kept_id)
    return _form(request, signed, draft, kept, kept_forms.as_typed(draft, kept))


def _form(
    request: Request, signed: Signed, draft: OpenDraft, kept: KeptRehearsal | None, values: dict[str, str],
    errors: dict[str, str] | None = None,
) -> Response:  # fmt: skip
    document = draft.shown
    verdict = next((one for one in draft.verdicts if kept is not None and one.kept.id == kept.id), None)
    response: Response = request.app.state.pages.show(
        request, "flows/kept_form.html", signed, client=draft.client, section="flows", draft=draft, kept=kept, values=values,
        errors=errors or {}, status=422 if errors else 200, verdict=verdict, days=list(enumerate(moments.DAYS)), fates=FATE_NAMES,
        holidays=sorted({name for table in draft.hours.values() for name in table.exception_names}), steps=outline.outline(document),
        facts=rehearsals.fact_lines(draft, draft.document), holds=any(isinstance(one, HoldLine) for one in document.steps),
        looks_up=any(isinstance(one, LookUp) for one in document.steps), was=kept.model_dump(mode="json") if kept else None,
    )  # fmt: skip
    return response


@router.post(BASE)
def keep(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Keeps a rehearsal as it was typed, new or changed."""
    house = house_of(request)
    draft = open_drafts.opened(house, posted.actor, client_id, flow_id)
    was = kept_forms.was(posted)
    read = kept_forms.read(posted, draft, was.id if was else kept_rehearsals.new_id(draft.document), house.now())
    if isinstance(read, dict):
        return _form(request, posted.signed, draft, was, {key: posted.text(key) for key in posted.form}, read)
    done = kept_rehearsals.keep(house, posted.actor, client_id, flow_id, [read], was)
    if isinstance(done, list):
        return _form(request, posted.signed, draft, was, {key: posted.text(key) for key in posted.form}, by_field(done))
    return go(request, f"/clients/{client_id}/flows/{flow_id}/rehearsals")


@router.post(BASE + "/{kept_id}/drop")
def drop(request: Request, posted: Form, client_id: Id, flow_id: Id, kept_id: str) -> Response:
    """Keeps one no longer; Undo brings it back."""
    kept_rehearsals.drop(house_of(request), posted.actor, client_id, flow_id, kept_id)
    return go(request, f"/clients/{client_id}/flows/{flow_id}/rehearsals")


@router.post(BASE + "/{kept_id}/play")
def play(request: Request, posted: Form, client_id: Id, flow_id: Id, kept_id: str) -> Response:
    """Opens the telephone on a kept call as it goes now."""
    rehearsal = kept_rehearsals.play(house_of(request), posted.actor, client_id, flow_id, kept_id)
    return go(request, f"/clients/{client_id}/rehearsals/{rehearsal.id}")


@router.post(BASE + "/propose")
def propose(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Has a set proposed by the worker; the page shows it once it is there."""
    kept_rehearsals.propose(house_of(request), posted.actor, client_id, flow_id)
    return go(request, f"/clients/{client_id}/flows/{flow_id}/rehearsals")


@router.post(BASE + "/take")
def take(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Keeps those that were chosen of a proposal."""
    kept_rehearsals.take_proposed(house_of(request), posted.actor, client_id, flow_id, posted.texts("one"))
    return go(request, f"/clients/{client_id}/flows/{flow_id}/rehearsals")


@router.post("/clients/{client_id}/rehearsals/{rehearsal_id}/keep")
def keep_call(request: Request, posted: Form, client_id: Id, rehearsal_id: uuid.UUID) -> Response:
    """Keeps a test call; its form follows, with what it should come to."""
    done = kept_rehearsals.keep_call(house_of(request), posted.actor, client_id, rehearsal_id, posted.text("name"))
    if isinstance(done, list):
        return show_telephone(request, posted.signed, client_id, rehearsal_id, said=done[0].sentence)
    flow_id, kept = done
    return go(request, f"/clients/{client_id}/flows/{flow_id}/rehearsals/{kept.id}")
