"""The page of one prompt: its takes, written, recorded or uploaded; heard, confirmed, set aside; and put into live flows."""

from datetime import datetime
from typing import Any, Literal

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from ...core import asked
from ...core.prompts.kinds import KINDS, LONGEST_HEARD
from ...core.prompts.voices import USUAL
from ...work.agency.access import NotFound
from ...work.house.problems import Problem, Problems, Row
from ...work.prompts import brought, by_link, hearing, in_flows, library, opened, speech, takes
from ...work.prompts.takes import Coming, Made
from ..doors import Form, Id, Posted, Signed, house_of
from ..pages import Pages, by_field, go
from .library import base_of, voice_of

router = APIRouter()
HOWS = {
    "read": "read by a voice", "browser": "recorded here", "telephone": "recorded by telephone", "link": "recorded through a link",
    "uploaded": "uploaded",
}  # fmt: skip


@router.get("/clients/{client_id}/prompts/{prompt_id}")
@router.get("/prompts/{prompt_id}")
def prompt(request: Request, signed: Signed, prompt_id: Id, client_id: Id | None = None) -> Response:
    """The page of a prompt."""
    return _show(request, signed, client_id, prompt_id)


def _show(
    request: Request, signed: Any, client_id: int | None, prompt_id: int, problems: Problems | None = None, typed: Row | None = None
) -> Response:  # fmt: skip
    pages: Pages = request.app.state.pages
    house = house_of(request)
    found = opened.opened(house, signed.actor, client_id, prompt_id)
    used = [one.language for one in found.takes]
    usual = "en-GB" if found.client and found.client.country == "GB" else "en-US"
    return pages.show(
        request, "prompts/prompt.html", signed, client=found.client, section="prompts", status=422 if problems else 200, found=found,
        base=base_of(client_id), here=f"{base_of(client_id)}/{prompt_id}", kinds=KINDS, hows=HOWS, longest=LONGEST_HEARD,
        languages=opened.languages(house, used[0] if used else usual), language=used[0] if used else usual, usual=USUAL,
        links={one.id: by_link.token(house, one.id) for one in found.asked if one.by == "link"},
        origin=f"{request.url.scheme}://{request.url.netloc}", language_name=opened.language_name, errors=by_field(problems or []), typed=typed or {},
    )  # fmt: skip


def after(
    request: Request, posted: Posted, client_id: int | None, prompt_id: int, problems: Problems, typed: Row | None = None
) -> Response:  # fmt: skip
    if problems:
        return _show(request, posted.signed, client_id, prompt_id, problems, typed)
    return go(request, f"{base_of(client_id)}/{prompt_id}")


@router.post("/clients/{client_id}/prompts/takes")
@router.post("/prompts/takes")
def bring_any(request: Request, posted: Form, client_id: Id | None = None) -> JSONResponse:
    """Takes a recording in for the prompt that is called as its file is, or for a new one; `name` says otherwise."""
    kind = posted.text("kind") if posted.text("kind") in KINDS else "greeting"
    coming = coming_of(posted)
    made = brought.bring(house_of(request), posted.actor, client_id, coming, posted.text("name"), kind)  # type: ignore[arg-type]
    if isinstance(made, list):
        return JSONResponse({"wrong": made[0].sentence}, 422)
    at = f"{base_of(client_id)}/{made.prompt_id}"
    return JSONResponse({"at": at, "name": made.name, "key": made.key, "made": made.made, "take": made.take_id})


@router.post("/clients/{client_id}/prompts/{prompt_id}")
@router.post("/prompts/{prompt_id}")
def keep(request: Request, posted: Form, prompt_id: Id, client_id: Id | None = None) -> Response:
    """Keeps what a prompt is called, its kind, and until when it is true."""
    until, said = posted.text("true_until").strip(), asked.day(posted.text("true_until"))
    typed: Row = {
        "name": posted.text("name"), "kind": posted.text("kind"), "note": posted.text("note").strip(),
        "true_until": said.isoformat() if said else until or None, "fallback": posted.text("fallback") or None,
    }  # fmt: skip
    problems = library.keep(house_of(request), posted.actor, client_id, prompt_id, typed, posted.was())
    return after(request, posted, client_id, prompt_id, problems, typed)


@router.post("/clients/{client_id}/prompts/{prompt_id}/step/{how}")
@router.post("/prompts/{prompt_id}/step/{how}")
def step_back(
    request: Request, posted: Form, prompt_id: Id, how: Literal["undo", "redo"], client_id: Id | None = None
) -> Response:
    """Takes the latest change of a prompt's name, kind or days back, or does it again."""
    problems = library.step_back(house_of(request), posted.actor, client_id, prompt_id, how)
    return after(request, posted, client_id, prompt_id, problems)


@router.post("/clients/{client_id}/prompts/{prompt_id}/words")
@router.post("/prompts/{prompt_id}/words")
def say(request: Request, posted: Form, prompt_id: Id, client_id: Id | None = None) -> Response:
    """A take of words that a voice reads."""
    own = posted.text("voice_of") == "own"
    voice = voice_of(posted)
    if isinstance(voice, str):
        problems: Problems = [Problem("rate", voice)]
    else:
        made = takes.say(
            house_of(request), posted.actor, client_id, prompt_id, posted.text("language") or "en-US", posted.text("words"),
            voice if own else None,
        )  # fmt: skip
        problems = made if isinstance(made, list) else []
    typed = {name: posted.text(name) for name in ("words", "language", "voice", "rate", "pause", "voice_of")}
    return after(request, posted, client_id, prompt_id, problems, typed)


@router.post("/clients/{client_id}/prompts/{prompt_id}/takes")
@router.post("/prompts/{prompt_id}/takes")
def bring(request: Request, posted: Form, prompt_id: Id, client_id: Id | None = None) -> Response:
    """Takes a recording in. A script gets JSON: the take, or what is wrong."""
    coming = coming_of(posted)
    made = takes.bring(house_of(request), posted.actor, client_id, prompt_id, coming)
    if request.headers.get("accept", "").startswith("application/json"):
        return (
            JSONResponse({"wrong": made[0].sentence}, 422) if isinstance(made, list) else JSONResponse({"take": made})
        )
    return after(request, posted, client_id, prompt_id, made if isinstance(made, list) else [])


def coming_of(posted: Posted) -> Coming:
    """The recording that a form brings."""
    upload = posted.upload("file")
    content = upload.file.read(takes.LARGEST + 1) if upload else b""
    how: Made = "browser" if posted.text("how") == "browser" else "uploaded"
    return Coming(
        content, (upload.filename or "") if upload else "", posted.text("language")[:20] or "en-US", how, posted.text("spoken_by"),
        seconds_of(posted.text("begins")), seconds_of(posted.text("ends")), posted.text("words").strip(),
    )  # fmt: skip


def seconds_of(text: str) -> float | None:
    try:
        found = float(text)
    except ValueError:
        return None
    return found if 0 <= found <= 7200 else None


@router.get("/clients/{client_id}/prompts/{prompt_id}/takes/{take_id}.wav")
@router.get("/prompts/{prompt_id}/takes/{take_id}.wav")
def sound(request: Request, signed: Signed, prompt_id: Id, take_id: Id, client_id: Id | None = None) -> Response:
    """The sound of a take as callers hear it, made now where a voice reads it."""
    name = hearing.sound_of(house_of(request), signed.actor, client_id, prompt_id, take_id)
    content = speech.wav(house_of(request), name) if name else None
    if content is None:
        raise NotFound
    return Response(content, media_type="audio/wav", headers={"Cache-Control": "private, max-age=86400"})


@router.get("/clients/{client_id}/prompts/{prompt_id}/takes/{take_id}/shape")
@router.get("/prompts/{prompt_id}/takes/{take_id}/shape")
def shape(request: Request, signed: Signed, prompt_id: Id, take_id: Id, client_id: Id | None = None) -> JSONResponse:
    """The waveform of a take."""
    name = hearing.sound_of(house_of(request), signed.actor, client_id, prompt_id, take_id)
    return JSONResponse({"points": hearing.waveform(house_of(request), name) if name else []})


@router.get("/clients/{client_id}/prompts/{prompt_id}/takes/{take_id}/state")
@router.get("/prompts/{prompt_id}/takes/{take_id}/state")
def state(request: Request, signed: Signed, prompt_id: Id, take_id: Id, client_id: Id | None = None) -> JSONResponse:
    """How far the worker is with a take: coming, ready or failed, and why."""
    take = takes.one(house_of(request), signed.actor, client_id, prompt_id, take_id)
    return JSONResponse({"state": take.state, "problem": take.problem, "seconds": take.seconds})


@router.post("/clients/{client_id}/prompts/{prompt_id}/takes/{take_id}/{do}")
@router.post("/prompts/{prompt_id}/takes/{take_id}/{do}")
def do_with(
    request: Request, posted: Form, prompt_id: Id, take_id: Id, do: Literal["heard", "words", "aside", "back", "use", "season"],
    client_id: Id | None = None,
) -> Response:  # fmt: skip
    """What is done with a take: it was heard, its words are confirmed, it is set aside or taken up again, it is put into flows, from now on
    or a moment to come, or for a season."""
    house, actor = house_of(request), posted.actor
    where = (house, actor, client_id, prompt_id, take_id)
    problems: Problems = []
    match do:
        case "heard":
            takes.heard(*where)
            return Response(status_code=204)
        case "words":
            problems = takes.confirm(*where, posted.text("words"))
        case "aside" | "back":
            problems = takes.set_aside(*where, aside=do == "aside")
        case "use":
            at = moment_of(posted.text("at"))
            done = in_flows.use(*where, posted.ids("flow"), at) if at is not _WRONG else _no_moment()
            problems = done if isinstance(done, list) else []
        case "season":
            first, last = asked.day(posted.text("first")), asked.day(posted.text("last"))
            if first is None or last is None:
                problems = [Problem("first", "Write the first and the last day.")]
            else:
                done = in_flows.season(*where, first, last)
                problems = done if isinstance(done, list) else []
    return after(request, posted, client_id, prompt_id, problems)


_WRONG = datetime.min


def moment_of(text: str) -> datetime | None:
    """A local moment as a form sends it; None for an empty one, `_WRONG` for one that cannot be read."""
    if not text.strip():
        return None
    try:
        found = datetime.fromisoformat(text.strip()[:40])
    except ValueError:
        return _WRONG
    return found if found.tzinfo is None and asked.FIRST_YEAR <= found.year <= asked.LAST_YEAR else _WRONG


def _no_moment() -> Problems:
    return [Problem("at", "Write a day and a time.")]


@router.post("/clients/{client_id}/prompts/{prompt_id}/changes/{batch}/{do}")
@router.post("/prompts/{prompt_id}/changes/{batch}/{do}")
def take_back(
    request: Request, posted: Form, prompt_id: Id, batch: str, do: Literal["undo", "redo"], client_id: Id | None = None
) -> Response:
    """Takes back what was put into flows at once, or does it again."""
    problems = in_flows.take_back(house_of(request), posted.actor, client_id, prompt_id, batch, again=do == "redo")
    return after(request, posted, client_id, prompt_id, problems)
