"""Asking somebody for a take: by telephone, or by a link that the speaker opens on a phone of their own."""

from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import JSONResponse, Response
from starlette.datastructures import FormData, UploadFile

from ...work.agency.access import NotFound
from ...work.house.problems import Problem, Problems
from ...work.prompts import by_link, by_telephone, opened, takes
from ...work.prompts.takes import Coming
from ..doors import Form, Id, Signed, house_of, read_form
from ..pages import Pages
from .prompt import after, seconds_of

router = APIRouter()


@router.post("/clients/{client_id}/prompts/{prompt_id}/telephone")
@router.post("/prompts/{prompt_id}/telephone")
def ring(request: Request, posted: Form, prompt_id: Id, client_id: Id | None = None) -> Response:
    """Rings a phone for a take."""
    to = posted.text("to_typed").strip() or posted.text("to")
    number, _, name = to.partition("|")
    spoken_by = posted.text("spoken_by").strip() or name
    problems = by_telephone.ask(
        house_of(request), posted.actor, client_id, prompt_id, posted.text("language") or "en-US", number, spoken_by
    )
    return after(request, posted, client_id, prompt_id, problems)


@router.post("/clients/{client_id}/prompts/{prompt_id}/links")
@router.post("/prompts/{prompt_id}/links")
def link(request: Request, posted: Form, prompt_id: Id, client_id: Id | None = None) -> Response:
    """Makes a link for a take, or ends one."""
    house, problems = house_of(request), list[Problem]()
    ending = posted.whole("end")
    if ending is not None:
        by_link.end(house, posted.actor, client_id, prompt_id, ending)
    else:
        made = by_link.ask(
            house, posted.actor, client_id, prompt_id, posted.text("language") or "en-US", posted.text("spoken_by"),
            posted.whole("days") or 0,
        )  # fmt: skip
        problems = made if isinstance(made, list) else problems
    return after(request, posted, client_id, prompt_id, problems)


@router.get("/clients/{client_id}/prompts/{prompt_id}/asked")
@router.get("/prompts/{prompt_id}/asked")
def asked(request: Request, signed: Signed, prompt_id: Id, client_id: Id | None = None) -> JSONResponse:
    """How calls and links for takes stand, and how many takes there are: the page looks whether something is new."""
    by_telephone.follow_up(house_of(request))
    return _standing(request, signed, prompt_id, client_id)


def _standing(request: Request, signed: Signed, prompt_id: int, client_id: int | None) -> JSONResponse:
    found = opened.opened(house_of(request), signed.actor, client_id, prompt_id)
    states = [f"{one.id} {one.state}" for one in found.asked] + [f"take {one.id} {one.state}" for one in found.takes]
    return JSONResponse({"stands": ", ".join(states)})


# the speaker's page


@router.get("/record/{token}")
def speak(request: Request, token: str) -> Response:
    """The page on which somebody speaks a prompt; the address is the secret."""
    return _page(request, token)


def _page(request: Request, token: str, problems: Problems | None = None) -> Response:
    pages: Pages = request.app.state.pages
    found = by_link.opened(house_of(request), token)
    if found is None:
        raise NotFound
    wrong = problems[0].sentence if problems else ""
    return pages.plain("prompts/speak.html", 422 if problems else 200, found=found, token=token, wrong=wrong)


@router.post("/record/{token}/takes")
def bring(request: Request, token: str, form: Annotated[FormData, Depends(read_form)]) -> Response:
    """No form token: whoever knows the address may send a take, once."""
    upload = form.get("file")
    content = upload.file.read(takes.LARGEST + 1) if isinstance(upload, UploadFile) else b""
    name = (upload.filename or "") if isinstance(upload, UploadFile) else ""
    begins, ends = (seconds_of(str(form.get(one, ""))) for one in ("begins", "ends"))
    problems = by_link.bring(house_of(request), token, Coming(content, name, begins=begins, ends=ends))
    if problems is None:
        raise NotFound
    if request.headers.get("accept", "").startswith("application/json"):
        return JSONResponse({"wrong": problems[0].sentence}, 422) if problems else JSONResponse({"kept": True})
    return _page(request, token, problems)
