"""Kept rehearsals: what comes of each on the draft as it stands, and the form of one."""

import uuid
from datetime import datetime
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response
from pydantic import ValidationError

from ...core.calls.fates import FATE_NAMES
from ...core.flows.model.kept import Expected, KeptRehearsal
from ...core.flows.model.steps import HoldLine, LookUp
from ...core.flows.running import set_facts
from ...core.flows.shown import outline
from ...core.numbers import numbering
from ...core.rehearsals import moments, typed
from ...work.flows import kept_rehearsals, open_drafts, rehearsals
from ...work.flows.open_drafts import OpenDraft
from ..doors import Form, Id, Posted, Signed, at_once, house_of
from ..pages import by_field, go
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
    return _form(request, signed, draft, kept, _as_typed(draft, kept))


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


def _as_typed(draft: OpenDraft, kept: KeptRehearsal) -> dict[str, str]:
    """A kept rehearsal as the fields of its form."""
    wanted, when = kept.expects, kept.when
    caller = numbering.shown(kept.caller, draft.client.country) if kept.caller else ""
    return {
        "name": kept.name, "kind": when.kind, "at": when.at, "day": str(getattr(when, "day", 0)), "holiday": getattr(when, "name", ""),
        "date": str(getattr(when, "date", "")), "caller": caller, "lead_source": kept.lead_source, "ahead": str(kept.ahead),
        "presses": typed.written_presses(kept.presses, draft.shown.step_names), "phones": typed.written_phones(kept.phones, draft.callees),
        "system": typed.written_system(kept.system), "message": "" if kept.message is None else f"{kept.message:.0f}", "stays": "1" if kept.stays else "",
        "hangs_up": "" if kept.hangs_up is None else str(kept.hangs_up), "fate": wanted.fate or "", "ends_at": wanted.ends_at or "",
        "says": wanted.says, "rings": ", ".join(draft.callees.get(one, one) for one in wanted.rings),
        "within": "" if wanted.within is None else str(wanted.within), "label": wanted.label, "source": wanted.lead_source,
        **{f"fact {key}": value for key, value in kept.facts},
    }  # fmt: skip


@router.post(BASE)
def keep(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Keeps a rehearsal as it was typed, new or changed."""
    house = house_of(request)
    draft = open_drafts.opened(house, posted.actor, client_id, flow_id)
    raw = posted.was()
    was = KeptRehearsal.model_validate(raw) if raw else None
    read = _read(posted, draft, was.id if was else kept_rehearsals.new_id(draft.document), house.now())
    if isinstance(read, dict):
        return _form(request, posted.signed, draft, was, {key: posted.text(key) for key in posted.form}, read)
    done = kept_rehearsals.keep(house, posted.actor, client_id, flow_id, [read], was)
    if isinstance(done, list):
        return _form(request, posted.signed, draft, was, {key: posted.text(key) for key in posted.form}, by_field(done))
    return go(request, f"/clients/{client_id}/flows/{flow_id}/rehearsals")


def _read(posted: Posted, draft: OpenDraft, id_: str, now: datetime) -> KeptRehearsal | dict[str, str]:
    """What a form says; or what is wrong with it, by field."""
    wrong: dict[str, str] = {}

    def part(field: str, read: Any) -> Any:
        if isinstance(read, str):
            wrong[field] = read
        return read

    text = {
        name: " ".join(posted.text(name).split())
        for name in ("name", "at", "holiday", "date", "says", "label", "caller")
    }
    caller = numbering.parse(text["caller"], draft.client.country) if text["caller"] else ""
    if isinstance(caller, numbering.Wrong):
        wrong["caller"] = caller.sentence
    presses = part("presses", typed.read_presses(posted.text("presses"), draft.shown.step_names))
    phones = part("phones", typed.read_phones(posted.text("phones"), draft.callees))
    system = part("system", typed.read_system(posted.text("system")))
    rings = part("rings", typed.read_rings(posted.text("rings"), draft.callees))
    facts = {
        name.removeprefix("fact "): posted.text(name).strip()[:300] for name in posted.form if name.startswith("fact ")
    }
    facts = {key: value for key, value in facts.items() if value}
    wrong |= {f"fact {key}": said for key, said in set_facts.wrong(facts, now, draft.names).items()}
    whole: dict[str, int | None] = {}
    for field, most in (("ahead", 500), ("message", 600), ("hangs_up", 7200), ("within", 3600)):
        whole[field] = posted.whole(field)
        if posted.text(field).strip() and not 0 <= (-1 if whole[field] is None else whole[field] or 0) <= most:
            wrong[field] = f"A whole number from 0 to {most}."
    kind = posted.text("kind")
    more = {
        "weekday": ("day", posted.text("day")),
        "holiday": ("name", text["holiday"]),
        "date": ("date", text["date"]),
    }
    when = dict([("kind", kind), ("at", text["at"]), *([more[kind]] if kind in more else [])])
    expects = {
        "fate": posted.text("fate") or None, "ends_at": posted.text("ends_at") or None, "says": text["says"], "rings": rings,
        "within": whole["within"], "label": text["label"], "lead_source": posted.text("source"),
    }  # fmt: skip
    if not any(value not in (None, "", ()) for value in expects.values()):
        wrong["fate"] = "Say what the call should come to."
    if not text["name"]:
        wrong["name"] = "Give it a name."
    if wrong:
        return wrong
    try:
        return KeptRehearsal.model_validate(
            {
                "id": id_, "name": text["name"], "when": when, "caller": caller, "lead_source": posted.text("lead_source"), "facts": list(facts.items()),
                "presses": presses, "phones": phones, "message": whole["message"], "stays": bool(posted.text("stays")), "hangs_up": whole["hangs_up"], "ahead": whole["ahead"] or 0,
                "system": system, "expects": expects,
            }
        )  # fmt: skip
    except ValidationError as error:
        return {
            _field(one["loc"]): _SAID.get(_field(one["loc"]), one["msg"]) for one in error.errors(include_url=False)
        }


_SAID = {
    "at": "Write the time as 09:30.", "day": "Choose a day of the week.", "date": "Write the day as 2027-01-31.",
    "name": "At most 80 letters.", "says": "At most 300 letters.", "label": "At most 60 letters.",
}  # fmt: skip


_FIELDS = (*_SAID, "caller", "presses", "phones", "fate", "ends_at", "rings", "kind", "lead_source")


def _field(loc: tuple[int | str, ...]) -> str:
    """The field of the form that a place in the document is about."""
    return next((str(one) for one in reversed(loc) if one in _FIELDS), "name")


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
