"""One's own password, and who signs in at the agency."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...work.agency import accounts, clients, users
from ...work.agency.users import Added, UserForm
from ...work.house.problems import Problem, Problems
from ..doors import Form, Signed, house_of
from ..pages import Pages, by_field, go

router = APIRouter()
NOBODY = UserForm("", "", "specialist")


@router.get("/account")
def account(request: Request, signed: Signed, changed: str = "") -> Response:
    """The form for one's own password."""
    return _account(request, signed, said="Your password is changed. Every other sign-in has ended." if changed else "")


def _account(request: Request, signed: Any, problems: Problems | None = None, said: str = "") -> Response:
    pages: Pages = request.app.state.pages
    return pages.show(
        request, "agency/account.html", signed, section="account", status=422 if problems else 200, said=said,
        shortest=accounts.SHORTEST, errors=by_field(problems or []),
    )  # fmt: skip


@router.post("/account")
def change_password(request: Request, posted: Form) -> Response:
    """Changes one's own password, and ends one's other sign-ins."""
    typed = (posted.text("old"), posted.text("new"), posted.text("again"))
    problems = accounts.change_password(house_of(request), posted.signed, *typed)
    return _account(request, posted.signed, problems) if problems else go(request, "/account?changed=1")


@router.get("/users")
def listed(request: Request, signed: Signed) -> Response:
    """Who signs in at the agency."""
    return _listed(request, signed)


def _listed(
    request: Request, signed: Any, problems: Problems | None = None, form: UserForm = NOBODY, added: Added | None = None
) -> Response:
    house, pages = house_of(request), request.app.state.pages
    found = users.listed(house, signed.actor)
    assert isinstance(pages, Pages)
    return pages.show(
        request, "agency/users.html", signed, section="account", status=422 if problems else 200, users=found, form=form,
        added=added, roles=users.ROLE_NAMES, every_client=clients.names(house, signed.actor), errors=by_field(problems or []),
        of_a_client=" ".join(users.OF_A_CLIENT),
    )  # fmt: skip


@router.post("/users")
def change(request: Request, posted: Form) -> Response:
    """Adds somebody, gives somebody another password, or removes them."""
    house, actor, who = house_of(request), posted.actor, posted.whole("user") or 0
    match posted.text("do"):
        case "remove":
            problems = users.remove(house, actor, who)
            return _listed(request, posted.signed, problems) if problems else go(request, "/users")
        case "new_password":
            if who == actor.user_id:
                return go(request, "/account")
            return _listed(request, posted.signed, added=users.new_password(house, actor, who))
        case "add":
            form = UserForm(posted.text("name"), posted.text("email"), posted.text("role"), posted.whole("client"))
            added = users.add(house, actor, form, posted.text("agreed"))
            if isinstance(added, Added):
                return _listed(request, posted.signed, added=added)
            return _listed(request, posted.signed, added, form)
        case _:
            users.listed(house, actor)
            return _listed(request, posted.signed, [Problem("", "Choose what to do.")])
