"""Rehearsals: the telephone beside the sheet."""

import uuid
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core import asked
from ...core.flows.model.document import FlowDocument
from ...core.flows.model.steps import HoldLine
from ...core.flows.running import events
from ...core.flows.shown import drawing, outline, way
from ...core.traffic.pacing import ACCEPT_AFTER
from ...work.agency import clients
from ...work.calls import sounding
from ...work.flows import by_telephone, kept_rehearsals, open_drafts, rehearsals, versions
from ...work.flows.open_rehearsals import OpenRehearsal
from ...work.house.problems import Problem
from ...work.numbers import numbers
from ..calls.transcripts import transcript
from ..doors import BadForm, Form, Id, Posted, Signed, at_once, house_of
from ..pages import Pages, by_field, go, is_partial

router = APIRouter()


@router.get("/clients/{client_id}/flows/{flow_id}/rehearse")
@at_once
def set_up(request: Request, signed: Signed, client_id: Id, flow_id: Id, version: Id = 0, at: str = "") -> Response:
    """The form that sets a rehearsal up, beside the draft, or a version, that it is of; for a moment, if one is given."""
    return _set_up(request, signed, client_id, flow_id, version=version, moment=asked.moment(at[:40]) if at else None)


def _set_up(
    request: Request, signed: Signed, client_id: int, flow_id: int, status: int = 200, version: int = 0,
    moment: datetime | None = None, **values: Any,
) -> Response:  # fmt: skip
    house, pages = house_of(request), request.app.state.pages
    draft = open_drafts.opened(house, signed.actor, client_id, flow_id)
    earlier = versions.one(house, signed.actor, client_id, flow_id, version) if version else None
    document = draft.named(FlowDocument.model_validate(earlier.document)) if earlier else draft.shown
    zone = ZoneInfo(draft.client.time_zone)
    local = moment.astimezone(zone) if moment and moment.tzinfo else moment or house.now().astimezone(zone)
    called = draft.numbers[0].e164 if draft.numbers else ""
    caller = "+14105550185" if draft.client.country == "US" else "+447700900123"
    typed = {"called": called, "caller": caller, "at": local.strftime("%Y-%m-%dT%H:%M"), "ahead": "0"}
    sources = {
        line.number.e164: line.now.source.name for line in numbers.of_client(house, signed.actor, client_id) if line.now
    }
    response: Response = pages.show(
        request, "flows/rehearse.html", signed, client=draft.client, section="flows", draft=draft, sources=sources, status=status,
        version=earlier, by_phone=by_telephone.of_flow(house, signed.actor, client_id, flow_id), facts=rehearsals.fact_lines(draft, document),
        **{"typed": typed, **values}, **_around(document, ""),
    )  # fmt: skip
    return response


def _holds(document: FlowDocument) -> bool:
    return any(isinstance(step, HoldLine) for step in document.steps)


def _around(document: Any, lit: str) -> dict[str, Any]:
    """The outline and map beside the telephone, with the step that is lit."""
    rows = outline.outline(document)
    places = {row.step.id: row.number for row in rows if row.step}
    return {
        "document": document,
        "rows": rows,
        "places": places,
        "drawing": drawing.draw(document),
        "lit": lit,
        "holds": _holds(document),
    }


@router.post("/clients/{client_id}/flows/{flow_id}/rehearse")
def begin(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Begins a rehearsal, and opens its telephone."""
    house = house_of(request)
    client = clients.get(house, posted.actor, client_id)
    typed = {name: posted.text(name) for name in ("called", "caller", "at", "ahead")}
    facts = {name.removeprefix("fact "): posted.text(name) for name in posted.form if name.startswith("fact ")}
    typed |= {f"fact {key}": value for key, value in facts.items()}
    version = posted.whole("version") or 0
    read = asked.moment(typed["at"])
    if read is None:
        errors = {"at": "Write the moment as 2026-11-24T14:05, in the years 2000 to 2099."}
        return _set_up(request, posted.signed, client_id, flow_id, 422, version, typed=typed, errors=errors)
    at = read.replace(tzinfo=ZoneInfo(client.time_zone))
    ahead = posted.whole("ahead") or 0
    if not 0 <= ahead <= 500:
        return _set_up(
            request, posted.signed, client_id, flow_id, 422, version, typed=typed, errors={"ahead": "0 to 500 callers."}
        )
    result = rehearsals.begin(
        house, posted.actor, client_id, flow_id, called=typed["called"], caller=typed["caller"], at=at, ahead=ahead,
        version_id=version or None, facts=facts,
    )  # fmt: skip
    if isinstance(result, list):
        return _set_up(request, posted.signed, client_id, flow_id, 422, version, typed=typed, errors=by_field(result))
    return go(request, f"/clients/{client_id}/rehearsals/{result.id}")


@router.post("/clients/{client_id}/flows/{flow_id}/by-telephone")
def let_hear(request: Request, posted: Form, client_id: Id, flow_id: Id) -> Response:
    """Lets test phones hear the draft for an hour, or no longer."""
    by_telephone.let(house_of(request), posted.actor, client_id, flow_id, hear=posted.text("hear") == "1")
    return go(request, f"/clients/{client_id}/flows/{flow_id}/rehearse")


@router.get("/clients/{client_id}/rehearsals/{rehearsal_id}")
@at_once
def show(request: Request, signed: Signed, client_id: Id, rehearsal_id: uuid.UUID) -> Response:
    """The telephone beside the sheet."""
    return show_telephone(request, signed, client_id, rehearsal_id)


def show_telephone(
    request: Request, signed: Signed, client_id: int, rehearsal_id: uuid.UUID, said: str = ""
) -> Response:
    """The telephone on a call as it stands, with a word on what was asked for, if there is one."""
    found = rehearsals.opened(house_of(request), signed.actor, client_id, rehearsal_id)
    return _show(request, signed, client_id, found, said)


def _show(request: Request, signed: Signed, client_id: int, rehearsal: OpenRehearsal, said: str = "") -> Response:
    house, pages = house_of(request), request.app.state.pages
    client = clients.get(house, signed.actor, client_id)
    template = "flows/telephone_desk.html" if is_partial(request) else "flows/telephone.html"
    started = datetime.fromisoformat(rehearsal.settings["at"])
    assert isinstance(pages, Pages)
    return pages.show(
        request, template, signed, client=client, section="flows", rehearsal=rehearsal, lines=transcript(rehearsal.document, rehearsal.log, rehearsal.names),
        started=started, said=said, untried=set(rehearsal.tried.untried),
        untried_ends=rehearsal.tried.ends, status=422 if said else 200, playing=_playing(rehearsal),
        way=way.way_of(rehearsal.document, rehearsal.log),
        **_around(rehearsal.document, rehearsal.state.at),
    )  # fmt: skip


def _playing(rehearsal: OpenRehearsal) -> dict[str, Any]:
    """What the telephone must do by itself: play a sound, wait in silence, or ring, and the event that follows."""
    for command in rehearsal.latest:
        if command["type"] == "play":
            return {
                "kind": "play",
                "command": command["id"],
                "audio": " ".join(one["audio"] for one in command.get("parts") or [command] if one["audio"]),
                "seconds": command["seconds"],
                "cut": command["cut"],
            }
        if command["type"] == "listen":
            return {"kind": "listen", "command": command["id"], "seconds": command["seconds"]}
        if command["type"] == "record":
            return {"kind": "record", "command": command["id"], "beep": command["beep"]}
    if rehearsal.state.phase == "looking":
        return {"kind": "looking", "command": rehearsal.state.awaiting, "seconds": 0}
    if rehearsal.state.hold is not None:
        return {
            "kind": "hold",
            "command": rehearsal.due[0] if rehearsal.due else 0,
            "seconds": rehearsal.due[1] if rehearsal.due else 0,
        }
    return (
        {"kind": "ring"} if rehearsal.legs else {"kind": "talk"} if rehearsal.state.phase == "talking" else {"kind": ""}
    )


@router.post("/clients/{client_id}/rehearsals/{rehearsal_id}")
def happen(request: Request, posted: Form, client_id: Id, rehearsal_id: uuid.UUID) -> Response:
    """Lets something happen on the call: a key, what a phone does, the end of a prompt."""
    house = house_of(request)
    if posted.text("what") == "looked":
        said = rehearsals.system_answers(
            house,
            posted.actor,
            client_id,
            rehearsal_id,
            posted.text("found"),
            posted.text("value"),
            posted.whole("after"),
        )
        if isinstance(said, list):
            raise BadForm(said[0].sentence)
        if not is_partial(request):
            return go(request, f"/clients/{client_id}/rehearsals/{rehearsal_id}")
        return _show(request, posted.signed, client_id, said)
    event = read_event(posted)
    if isinstance(event, Problem):
        rehearsals.opened(house, posted.actor, client_id, rehearsal_id)
        raise BadForm(event.sentence)
    elapsed = _seconds(posted.text("elapsed"))
    result = rehearsals.happen(house, posted.actor, client_id, rehearsal_id, event, elapsed, posted.whole("after"))
    if posted.text("outcome") == "mailbox" and isinstance(result, OpenRehearsal):
        result = _mailbox(request, posted, client_id, result, posted.whole("command") or 0)
    if isinstance(result, list):
        result = rehearsals.opened(house, posted.actor, client_id, rehearsal_id)
    if not is_partial(request):
        return go(request, f"/clients/{client_id}/rehearsals/{rehearsal_id}")
    return _show(request, posted.signed, client_id, result)


@router.get("/clients/{client_id}/rehearsals/{rehearsal_id}/call.wav")
def sound(request: Request, signed: Signed, client_id: Id, rehearsal_id: uuid.UUID) -> Response:
    """The whole call so far as its caller hears it."""
    house = house_of(request)
    found = rehearsals.opened(house, signed.actor, client_id, rehearsal_id)
    country = clients.get(house, signed.actor, client_id).country
    content = sounding.rehearsed(house, found.log, country)
    return Response(content, media_type="audio/wav", headers={"Cache-Control": "private, no-store"})


@router.post("/clients/{client_id}/rehearsals/{rehearsal_id}/again")
def again(request: Request, posted: Form, client_id: Id, rehearsal_id: uuid.UUID) -> Response:
    """The same call once more, on the draft as it is now."""
    result = kept_rehearsals.again(house_of(request), posted.actor, client_id, rehearsal_id)
    return go(request, f"/clients/{client_id}/rehearsals/{result.id}")


@router.post("/clients/{client_id}/rehearsals/{rehearsal_id}/back")
def back(request: Request, posted: Form, client_id: Id, rehearsal_id: uuid.UUID) -> Response:
    """Takes a call back to where so many things had happened."""
    kept = posted.whole("kept") or 0
    result = rehearsals.back(house_of(request), posted.actor, client_id, rehearsal_id, kept)
    if not is_partial(request):
        return go(request, f"/clients/{client_id}/rehearsals/{rehearsal_id}")
    return _show(request, posted.signed, client_id, result)


def _mailbox(request: Request, posted: Posted, client_id: int, rehearsal: OpenRehearsal, command: int) -> Any:
    """A phone's own voicemail picked up: it presses no key, so an accept key keeps the call."""
    if rehearsal.state.phase == "ringing" and any(leg.command == command and leg.picked_up for leg in rehearsal.legs):
        event = events.Leg(command, "refused")
        return rehearsals.happen(house_of(request), posted.actor, client_id, rehearsal.id, event, ACCEPT_AFTER + 5)
    return rehearsal


def read_event(posted: Posted) -> events.Event | Problem:
    """The event that a form of the telephone stands for."""
    command = posted.whole("command") or 0
    half = posted.text("heard_half") == "1"
    match posted.text("what"):
        case "digit" if posted.text("key") in set("0123456789*#"):
            return events.Digit(posted.text("key"), half)
        case "finished":
            return events.Finished(command)
        case "silence":
            return events.Silence(command)
        case "leg":
            outcome = posted.text("outcome")
            if outcome == "mailbox":
                return events.Leg(command, "machine" if posted.text("detects") else "answered")
            for known in _OUTCOMES:
                if outcome == known:
                    return events.Leg(command, known)
        case "recorded":
            return events.Recorded(
                command, min(_seconds(posted.text("voice")) or 0.0, 600.0), bool(posted.text("gone"))
            )
        case "gone":
            return events.Gone(half)
        case "timer":
            return events.TimerFired(command)
        case "poked":
            return events.Poked()
    return Problem("", "This cannot happen here.")


_OUTCOMES: tuple[events.LegOutcome, ...] = (
    "answered", "accepted", "refused", "busy", "declined", "unreachable", "rang_out", "machine", "ended",
)  # fmt: skip


def _seconds(text: str) -> float | None:
    try:
        value = float(text)
    except ValueError:
        return None
    return value if 0 <= value < 100_000 else None
