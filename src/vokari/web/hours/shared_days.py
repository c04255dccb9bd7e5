"""Lists of exceptions kept at the agency and shared by clients."""

from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core.checks.days import kind_words
from ...core.hours.document import Exception_
from ...work.hours import shared_days
from ...work.hours.ready import EXCEPTIONS
from ...work.hours.shared_days import OpenList
from ...work.house.problems import Problem, Problems
from ...work.house.views import ExceptionListView
from ..doors import Form, Id, Signed, house_of
from ..pages import Pages, by_field, go
from . import day_forms, painter
from .days import as_kept, form_values, posted_values, read_form

router = APIRouter()

PERIODS = [day_forms.FIRST]
PAINT_AT = "/exceptions/paint"


@router.get("/exceptions")
def listed(request: Request, signed: Signed) -> Response:
    """The agency's shared lists of exceptions."""
    return _listed(request, signed)


def _listed(request: Request, signed: Any, problems: Problems | None = None, name: str = "") -> Response:
    pages: Pages = request.app.state.pages
    lists = shared_days.listed(house_of(request), signed.actor)
    return pages.show(
        request, "hours/shared/lists.html", signed, section="shared", status=422 if problems else 200, lists=lists, name=name,
        errors=by_field(problems or []),
    )  # fmt: skip


@router.post("/exceptions")
def make(request: Request, posted: Form) -> Response:
    """Makes a list."""
    name = posted.text("name")
    made = shared_days.name_list(house_of(request), posted.actor, None, name)
    if isinstance(made, ExceptionListView):
        return go(request, f"/exceptions/{made.id}")
    return _listed(request, posted.signed, made, name)


@router.post("/exceptions/paint")
def paint(request: Request, posted: Form) -> Response:
    """One gesture on the painted week of a season; nothing is kept until it is saved."""
    pages: Pages = request.app.state.pages
    made = painter.gesture(posted, painter.posted_painting(posted))
    values = painter.context(made)
    return pages.part(
        request, "hours/painter.html", posted.signed, errors=by_field([]), paint_at=PAINT_AT, here="", **values
    )


@router.get("/exceptions/{list_id:int}")
def opened(request: Request, signed: Signed, list_id: Id) -> Response:
    """One list, and whom it reaches."""
    return _opened(request, signed, shared_days.opened(house_of(request), signed.actor, list_id))


def _opened(request: Request, signed: Any, one: OpenList, problems: Problems | None = None, **values: Any) -> Response:
    pages: Pages = request.app.state.pages
    return pages.show(
        request, "hours/shared/list.html", signed, section="shared", status=422 if problems else 200, one=one,
        errors=by_field(problems or []), **{"said": "", "removed": None, "name": one.entry.name, **values},
    )  # fmt: skip


@router.post("/exceptions/{list_id:int}")
def change(request: Request, posted: Form, list_id: Id) -> Response:
    """Renames a list, removes it, takes an exception out of it, or puts the one back that was taken out."""
    house, actor = house_of(request), posted.actor
    before = shared_days.opened(house, actor, list_id)
    match posted.text("do"):
        case "name":
            named = shared_days.name_list(house, actor, list_id, posted.text("name"), posted.was())
            if isinstance(named, list):
                return _opened(
                    request, posted.signed, shared_days.opened(house, actor, list_id), named, name=posted.text("name")
                )
        case "remove_list":
            problems = shared_days.remove_list(house, actor, list_id)
            return _opened(request, posted.signed, before, problems) if problems else go(request, "/exceptions")
        case "remove":
            ident = posted.text("exception")
            gone = next((line.exception for line in before.exceptions if line.exception.id == ident), None)
            return _after(request, posted.signed, before, shared_days.remove(house, actor, list_id, ident), gone)
        case "put_back":
            try:
                exception = EXCEPTIONS.validate_json(posted.text("removed"))[0]
            except (ValueError, IndexError):
                return _opened(request, posted.signed, before, [Problem("", "This cannot be put back any more.")])
            return _after(request, posted.signed, before, shared_days.keep(house, actor, list_id, exception))
        case _:
            pass
    return go(request, f"/exceptions/{list_id}")


@router.get("/exceptions/{list_id:int}/{ident}")
def form(
    request: Request, signed: Signed, list_id: Id, ident: str, kind: str = "days", country: str = "", region: str = ""
) -> Response:
    """The form of one exception of a list."""
    one = shared_days.opened(house_of(request), signed.actor, list_id)
    known = [line.exception for line in one.exceptions]
    values = form_values(known, ident, kind, PERIODS, house_of(request).now().year, country or "US", region)
    return _form(request, signed, one, ident, values)


def _form(
    request: Request, signed: Any, one: OpenList, ident: str, values: dict[str, Any], problems: Problems | None = None
) -> Response:
    pages: Pages = request.app.state.pages
    known = [line.exception for line in one.exceptions]
    return pages.show(
        request, "hours/shared/day.html", signed, section="shared", status=422 if problems else 200, one=one, ident=ident,
        action=f"/exceptions/{one.entry.id}/{ident}", back=f"/exceptions/{one.entry.id}", paint_at=PAINT_AT, here="",
        errors=by_field(problems or []), was=as_kept(known, ident), **values,
    )  # fmt: skip


@router.post("/exceptions/{list_id:int}/{ident}")
def keep(request: Request, posted: Form, list_id: Id, ident: str) -> Response:
    """Saves an exception of a list."""
    house = house_of(request)
    one = shared_days.opened(house, posted.actor, list_id)
    kind, year = posted.text("kind"), house.now().year
    made = read_form(posted, kind, ident, PERIODS, year)
    result = made if isinstance(made, list) else shared_days.keep(house, posted.actor, list_id, made, posted.was())
    if isinstance(result, list):
        one = shared_days.opened(house, posted.actor, list_id)
        return _form(request, posted.signed, one, ident, posted_values(posted, kind, year), result)
    return _after(request, posted.signed, one, result)


def _after(
    request: Request, signed: Any, before: OpenList, result: OpenList | Problems, gone: Exception_ | None = None
) -> Response:
    """The list after a change, with whom it reached and, where something was taken out, the way to put it back."""
    if isinstance(result, list):
        return _opened(request, signed, before, result)
    removed = EXCEPTIONS.dump_json((gone,)).decode() if gone else None
    what = f"{gone.name or kind_words(gone)} was taken out" if gone else "Saved"
    return _opened(request, signed, result, said=f"{what}. It reaches {result.reach_words}.", removed=removed)
