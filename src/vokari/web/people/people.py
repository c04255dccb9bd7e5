"""People and teams: the list, address books, and putting somebody else in their place."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core.checks.at_work import MISSED
from ...core.people.directory import STRATEGIES
from ...formats import vcards
from ...work.agency.access import NotFound, allow_agency
from ...work.house.problems import Problem, Problems, Refused
from ...work.people import cards, duty_line, everybody, keeping, on_duty, replacing
from ...work.people.everybody import Everybody
from ..doors import Form, Id, Signed, at_once, house_of
from ..pages import Pages, by_field, go

router = APIRouter()


@router.get("/clients/{client_id}/people")
@at_once
def listed(request: Request, signed: Signed, client_id: Id) -> Response:
    """The client's people and teams."""
    return show(request, signed, client_id)


def show(request: Request, signed: Any, client_id: int, problems: Problems | None = None, **values: Any) -> Response:
    """The list, with words on what was done or is wrong."""
    pages: Pages = request.app.state.pages
    found = everybody.everybody(house_of(request), signed.actor, client_id)
    return pages.show(
        request, "people/people.html", signed, client=found.client, section="people", status=422 if problems else 200, found=found,
        strategies=STRATEGIES, missed_flag=MISSED,
        duty_choices=duty_line.choices(house_of(request), signed.actor, client_id) if signed.actor.works else [], errors=by_field(problems or []),
        **{"said": "", "taken": None, **values},
    )  # fmt: skip


@router.post("/clients/{client_id}/people")
def change(request: Request, posted: Form, client_id: Id) -> Response:
    """Removes, brings back, or switches somebody on and off."""
    house, actor = house_of(request), posted.actor
    kind, row_id = posted.text("kind"), posted.whole("id") or 0
    problems: Problems = []
    match posted.text("do"):
        case "remove":
            problems = keeping.remove(house, actor, client_id, kind, row_id)
        case "bring_back":
            problems = keeping.bring_back(house, actor, client_id, kind, row_id)
        case "renew_pin":
            duty_line.renew(house, actor, client_id, row_id)
            return go(request, f"/clients/{client_id}/people/{row_id}")
        case "duty_line":
            problems = duty_line.choose(house, actor, client_id, posted.text("duty_number"))
        case "renew":
            on_duty.renew(house, actor, client_id, row_id)
            return go(request, f"/clients/{client_id}/people/{row_id}")
        case "off" | "on":
            keeping.set_duty(house, actor, client_id, row_id, off=posted.text("do") == "off")
        case _:
            everybody.everybody(house, actor, client_id)
    if problems:
        return show(request, posted.signed, client_id, problems)
    return go(request, f"/clients/{client_id}/people")


# cards


@router.get("/clients/{client_id}/people/cards.vcf")
def cards_out(request: Request, signed: Signed, client_id: Id) -> Response:
    """All people as vCards."""
    text = cards.export(house_of(request), signed.actor, client_id)
    headers = {"Content-Disposition": f'attachment; filename="people-{client_id}.vcf"'}
    return Response(text, media_type="text/vcard; charset=utf-8", headers=headers)


@router.post("/clients/{client_id}/people/cards")
def cards_in(request: Request, posted: Form, client_id: Id) -> Response:
    """Adds the people of a vCard file."""
    upload = posted.upload("file")
    data = upload.file.read(vcards.LARGEST + 1) if upload else b""
    taken = cards.take(house_of(request), posted.actor, client_id, data, abroad=bool(posted.text("abroad")))
    if isinstance(taken, list):
        return show(request, posted.signed, client_id, taken)
    return show(request, posted.signed, client_id, taken=taken)


# in somebody's place


@router.get("/clients/{client_id}/people/{callee}/{row_id:int}/replace")
def choose_other(request: Request, signed: Signed, client_id: Id, callee: str, row_id: Id) -> Response:
    """The form that puts somebody else in a place."""
    return _replacing(request, signed, client_id, callee, row_id)


def _replacing(
    request: Request, signed: Any, client_id: int, kind: str, row_id: int, problems: Problems | None = None
) -> Response:
    pages: Pages = request.app.state.pages
    found = everybody.everybody(house_of(request), signed.actor, client_id)
    allow_agency(signed.actor)
    line, others = _line(found, kind, row_id)
    return pages.show(
        request, "people/replace.html", signed, client=found.client, section="people", status=422 if problems else 200,
        line=line, others=others, kind=kind, errors=by_field(problems or []),
    )  # fmt: skip


def _line(found: Everybody, kind: str, row_id: int) -> tuple[Any, list[Any]]:
    if kind not in ("person", "team"):
        raise NotFound
    line: Any = found.person(row_id) if kind == "person" else found.team(row_id)
    every: list[Any] = list(found.people if kind == "person" else found.teams)
    return line, [one.row for one in every if one.row.id != row_id]


@router.post("/clients/{client_id}/people/{callee}/{row_id:int}/replace")
def replace(request: Request, posted: Form, client_id: Id, callee: str, row_id: Id) -> Response:
    """Puts somebody else in a place."""
    house, kind = house_of(request), callee
    _line(everybody.everybody(house, posted.actor, client_id), kind, row_id)
    allow_agency(posted.actor)
    by = posted.whole("by")
    if by is None:
        return _replacing(
            request, posted.signed, client_id, kind, row_id, [Problem("by", "Choose who is rung instead.")]
        )
    flows = posted.ids("flow")
    within = [str(one) for one in posted.form.getlist("within")]
    live = bool(posted.text("live"))
    done = replacing.replace(house, posted.actor, client_id, kind, row_id, by, flows, live=live, within=within)
    if isinstance(done, Refused):
        return _replacing(request, posted.signed, client_id, kind, row_id, done.problems)
    return show(request, posted.signed, client_id, said=f"Changed: {', '.join(str(one) for one in done)}.")
