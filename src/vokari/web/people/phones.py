"""Phones that can be rung: verified by a call, and put under another number."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core.numbers import numbering
from ...work.agency import clients
from ...work.house.problems import Problems, Refused
from ...work.people import renumbering, verifying
from ..doors import Form, Id, Signed, house_of
from ..pages import Pages, by_field, go, is_partial
from . import people

router = APIRouter()


@router.get("/clients/{client_id}/people/phones")
def phones(request: Request, signed: Signed, client_id: Id) -> Response:
    """Every phone that can be rung, with when it was verified; for htmx, while calls are under way, the table alone."""
    return _all_phones(request, signed, client_id, verifying.phones(house_of(request), signed.actor, client_id))


def _all_phones(
    request: Request, signed: Any, client_id: int, found: verifying.Phones, problems: Problems | None = None
) -> Response:
    pages: Pages = request.app.state.pages
    errors = by_field(problems or [])
    if is_partial(request):
        return pages.part(request, "people/phones_table.html", signed, found.client, found=found, errors=errors)
    return pages.show(
        request, "people/phones.html", signed, client=found.client, section="people", status=422 if problems else 200,
        found=found, errors=errors,
    )  # fmt: skip


@router.post("/clients/{client_id}/people/phones")
def verify(request: Request, posted: Form, client_id: Id) -> Response:
    """Rings a phone to verify it, or all that were never verified one after the other; or stops that."""
    house, problems = house_of(request), Problems()
    match posted.text("do"):
        case "all":
            problems = verifying.ask_all(house, posted.actor, client_id)
        case "stop":
            verifying.stop(house, posted.actor, client_id)
        case _:
            problems = verifying.ask(house, posted.actor, client_id, posted.text("to"))
    if problems or is_partial(request):
        found = verifying.phones(house, posted.actor, client_id)
        return _all_phones(request, posted.signed, client_id, found, problems)
    return go(request, f"/clients/{client_id}/people/phones")


@router.get("/clients/{client_id}/people/phones/replace")
def replacing_phone(request: Request, signed: Signed, client_id: Id, to: str = "") -> Response:
    """The form that puts another number in the place of one."""
    return _replacing_phone(request, signed, client_id, to)


def _replacing_phone(
    request: Request,
    signed: Any,
    client_id: int,
    old: str,
    problems: Problems | None = None,
    typed: str = "",
    agreed: str = "",
) -> Response:
    pages: Pages = request.app.state.pages
    found = renumbering.having(house_of(request), signed.actor, client_id, old)
    return pages.show(
        request, "people/phone_replace.html", signed, client=found.client, section="people", status=422 if problems else 200,
        found=found, old=old, typed=typed, agreed=agreed, errors=by_field(problems or []),
    )  # fmt: skip


@router.post("/clients/{client_id}/people/phones/replace")
def replace_phone(request: Request, posted: Form, client_id: Id) -> Response:
    """Puts another number in the place of one, for the chosen people and flows."""
    house, old, typed = house_of(request), posted.text("old"), posted.text("by")
    done = renumbering.replace(
        house, posted.actor, client_id, old, typed, posted.ids("person"), posted.ids("flow"),
        live=bool(posted.text("live")), agreed=posted.text("agreed").split(),
    )  # fmt: skip
    if isinstance(done, Refused) and done.problems[0].field == "":
        return people.show(request, posted.signed, client_id, done.problems)
    if isinstance(done, Refused):
        country = clients.get(house, posted.actor, client_id).country
        return _replacing_phone(
            request, posted.signed, client_id, old, done.problems, typed, str(numbering.parse(typed, country))
        )
    return people.show(request, posted.signed, client_id, said=f"Changed: {', '.join(done)}.")
