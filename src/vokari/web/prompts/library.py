"""The library of prompts, of a client or of the agency: the list, and prompts made, kept, removed and brought back."""

import json
from typing import Any, Literal

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from ...core.prompts.kinds import KINDS
from ...core.prompts.moments import KIND_AT, MOMENTS, for_language
from ...core.prompts.voices import Voice
from ...formats.tables import to_file
from ...work.house.problems import Problem, Problems, Row
from ...work.prompts import bulk, consent, hearing, library, opened, takes
from ...work.prompts.library import PromptLine
from ..doors import Form, Id, Posted, Signed, at_once, house_of
from ..pages import Pages, by_field, go

router = APIRouter()
SHOWS = {
    "": "all prompts", "unheard": "not heard since their last change", "unchecked": "words unchecked", "unused": "never used",
    "ends": "soon or no longer true", "names": "names that can be mistaken",
}  # fmt: skip
"""What the list can be narrowed down to."""
SORTS = ("name", "kind", "seconds", "changed", "used")


def base_of(client_id: int | None) -> str:
    """Where the prompts of a client, or of the agency, are."""
    return f"/clients/{client_id}/prompts" if client_id is not None else "/prompts"


@router.get("/clients/{client_id}/prompts")
@router.get("/prompts")
@at_once
def listed(
    request: Request, signed: Signed, client_id: Id | None = None, q: str = "", kind: str = "", shows: str = "",
    sort: str = "name", way: Literal["up", "down"] = "up",
) -> Response:  # fmt: skip
    """The library."""
    return _show(request, signed, client_id, asked={"q": q, "kind": kind, "shows": shows, "sort": sort, "way": way})


def _show(
    request: Request, signed: Any, client_id: int | None, problems: Problems | None = None, typed: Row | None = None,
    asked: dict[str, str] | None = None,
) -> Response:  # fmt: skip
    pages: Pages = request.app.state.pages
    found = library.listed(house_of(request), signed.actor, client_id)
    asked = asked or {"q": "", "kind": "", "shows": "", "sort": "name", "way": "up"}
    lines = chosen(found.prompts, asked)
    return pages.show(
        request, "prompts/library.html", signed, client=found.client, section="prompts", status=422 if problems else 200, found=found,
        lines=lines, asked=asked, kinds=KINDS, shows=SHOWS, base=base_of(client_id), errors=by_field(problems or []), typed=typed or {},
        language_name=opened.language_name, consent=consent.places(house_of(request), signed.actor) if client_id is None else (),
    )  # fmt: skip


def chosen(lines: tuple[PromptLine, ...], asked: dict[str, str]) -> list[PromptLine]:
    """The prompts of a list that fit what was asked for, in the order that was asked for."""
    wanted = asked["q"].casefold().split()
    fitting = [
        one
        for one in lines
        if all(word in f"{one.prompt.name} {one.words} {one.said.note}".casefold() for word in wanted)
        and asked["kind"] in ("", one.said.kind)
        and _shown(one, asked["shows"])
    ]
    if asked["sort"] in SORTS and (asked["sort"], asked["way"]) != ("name", "up"):
        fitting.sort(key=lambda one: _sorted_by(one, asked["sort"]), reverse=asked["way"] == "down")
    return fitting


def _shown(one: PromptLine, shows: str) -> bool:
    match shows:
        case "unheard":
            return one.is_unheard
        case "unchecked":
            return any(take.words_are == "proposed" for take in one.takes.values())
        case "unused":
            return not one.uses
        case "ends":
            return one.ends != ""
        case "names":
            return bool(one.name_questions)
    return True


def _sorted_by(one: PromptLine, sort: str) -> Any:
    match sort:
        case "kind":
            return one.said.kind, one.prompt.name.casefold()
        case "seconds":
            return one.first.seconds if one.first else 0.0
        case "changed":
            return one.prompt.changed_at
        case "used":
            return len(one.uses)
    return one.prompt.name.casefold()


@router.get("/clients/{client_id}/prompts.csv")
@router.get("/prompts.csv")
@at_once
def as_table(
    request: Request, signed: Signed, client_id: Id | None = None, q: str = "", kind: str = "", shows: str = "",
    sort: str = "name", way: Literal["up", "down"] = "up",
) -> Response:  # fmt: skip
    """The list as it stands, as CSV (RFC 4180)."""
    found = library.listed(house_of(request), signed.actor, client_id)
    lines = chosen(found.prompts, {"q": q, "kind": kind, "shows": shows, "sort": sort, "way": way})
    head = [
        "Prompt",
        "Kind",
        "Languages",
        "Words",
        "Read or recorded",
        "Seconds",
        "Last changed",
        "Used in",
        "Heard",
        "True until",
    ]
    rows = [
        [
            one.prompt.name, KINDS[one.said.kind], " ".join(one.takes), one.words,
            "recorded" if one.first and one.first.is_recording else "read", f"{one.first.seconds:.1f}" if one.first else "",
            one.prompt.changed_at.isoformat(), "; ".join(f"{use.client}: {use.flow}" for use in one.uses),
            "no" if one.is_unheard else "yes", one.said.true_until.isoformat() if one.said.true_until else "",
        ]
        for one in lines
    ]  # fmt: skip
    content, media = to_file("csv", "Prompts", head, rows)
    return Response(
        content, media_type=media, headers={"Content-Disposition": 'attachment; filename="prompts.csv"'}
    )  # fmt: skip


@router.post("/clients/{client_id}/prompts")
@router.post("/prompts")
def create(request: Request, posted: Form, client_id: Id | None = None) -> Response:
    """Makes a prompt, with words if there are any, and opens it."""
    typed = {"name": posted.text("name"), "kind": posted.text("kind") or "greeting"}
    words = posted.text("words").strip()
    problems = takes.wrong_words(words) if words else []
    made = problems or library.create(house_of(request), posted.actor, client_id, typed)
    if isinstance(made, list):
        return _show(request, posted.signed, client_id, made, {**typed, "words": words})
    if words:
        takes.say(house_of(request), posted.actor, client_id, made, posted.text("language") or "en-US", words)
    return go(request, f"{base_of(client_id)}/{made}")


@router.post("/prompts/consent")
def keep_consent(request: Request, posted: Form) -> Response:
    """Keeps the places where everybody on the line must agree to being recorded."""
    problems = consent.keep(house_of(request), posted.actor, posted.text("consent"))
    if problems:
        return _show(request, posted.signed, None, problems, {"consent": posted.text("consent")})
    return go(request, base_of(None))


@router.post("/clients/{client_id}/prompts/{prompt_id}/removal")
@router.post("/prompts/{prompt_id}/removal")
def remove(request: Request, posted: Form, prompt_id: Id, client_id: Id | None = None) -> Response:
    """Removes a prompt that no flow plays, or brings one back."""
    do = library.bring_back if posted.text("do") == "back" else library.remove
    problems = do(house_of(request), posted.actor, client_id, prompt_id)
    return _show(request, posted.signed, client_id, problems) if problems else go(request, base_of(client_id))


@router.get("/clients/{client_id}/prompts.zip")
@router.get("/prompts.zip")
def packed(request: Request, signed: Signed, client_id: Id | None = None) -> Response:
    """All prompts with their recordings, as one file."""
    content = bulk.pack(house_of(request), signed.actor, client_id)
    return Response(
        content, media_type="application/zip", headers={"Content-Disposition": 'attachment; filename="prompts.zip"'}
    )


@router.post("/clients/{client_id}/prompts/zip")
@router.post("/prompts/zip")
def bring(request: Request, posted: Form, client_id: Id | None = None) -> Response:
    """Shows what a file of prompts would change; `file_kept` names one that was looked at, and is to be carried out."""
    house, base = house_of(request), base_of(client_id)
    kept = posted.text("file_kept")
    if kept:
        done = bulk.carry_out(house, posted.actor, client_id, kept, posted.text("signature"))
        return _show(request, posted.signed, client_id, done) if isinstance(done, list) else go(request, base)
    upload = posted.upload("file")
    if upload is None or not upload.filename:
        return _show(request, posted.signed, client_id, [Problem("", "Choose the ZIP file of prompts.")])
    plan = bulk.plan(house, posted.actor, client_id, upload.file)
    if plan.wrong:
        return _show(request, posted.signed, client_id, [Problem("", one) for one in plan.wrong[:1]])
    pages: Pages = request.app.state.pages
    client = library.listed(house, posted.actor, client_id).client
    return pages.show(
        request, "prompts/brought.html", posted.signed, client=client, section="prompts", plan=plan, base=base
    )


@router.get("/clients/{client_id}/prompts/words")
@router.get("/prompts/words")
@at_once
def words(request: Request, signed: Signed, client_id: Id | None = None, language: str = "en-US") -> Response:
    """Words that ship for each moment of a call, in a language."""
    pages: Pages = request.app.state.pages
    found = library.listed(house_of(request), signed.actor, client_id)
    return pages.part(
        request, "prompts/shipped.html", signed, found.client, moments=MOMENTS, kind_at=KIND_AT, kinds=KINDS,
        shipped=for_language(language[:20]), base=base_of(client_id), language=language[:20],
    )  # fmt: skip


@router.get("/clients/{client_id}/prompts/recorder")
@router.get("/prompts/recorder")
@at_once
def recorder(
    request: Request, signed: Signed, client_id: Id | None = None, name: str = "", kind: str = "greeting", language: str = "en-US"
) -> Response:  # fmt: skip
    """The recorder for a field of a row: what it takes becomes a prompt of this name, or a take of the one that has it."""
    pages: Pages = request.app.state.pages
    found = library.listed(house_of(request), signed.actor, client_id)
    known = {
        "name": " ".join(name.split())[:60],
        "kind": kind if kind in KINDS else "greeting",
        "language": language[:20],
    }
    return pages.part(
        request,
        "prompts/recorder_part.html",
        signed,
        found.client,
        base=base_of(client_id),
        known=known,
        says=json.dumps(known),
    )


@router.post("/clients/{client_id}/prompts/hear")
@router.post("/prompts/hear")
def hear(request: Request, posted: Form, client_id: Id | None = None) -> JSONResponse:
    """Has words read now: their sounds in order, and what is said."""
    voice = voice_of(posted)
    if isinstance(voice, str):
        return JSONResponse({"wrong": voice}, 422)
    language = posted.text("language") or "en-US"
    heard = hearing.hear(house_of(request), posted.actor, client_id, posted.text("words"), language, voice)
    if isinstance(heard, list):
        return JSONResponse({"wrong": heard[0].sentence}, 422)
    sounds = [f"/speech/{name}.wav" for name in heard.sounds]
    return JSONResponse({"said": heard.said, "sounds": sounds, "seconds": heard.seconds})


def voice_of(posted: Posted) -> Voice | str:
    """The voice that a form names, with its rate and pause; or a sentence."""
    try:
        return Voice.model_validate(
            {
                "name": posted.text("voice"),
                "rate": posted.text("rate").strip() or 150,
                "pause": posted.text("pause").strip() or 0,
            }
        )
    except ValueError:
        return "A voice reads 80 to 300 words a minute, with pauses of up to 3 seconds."
