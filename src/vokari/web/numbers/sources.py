"""The form of a lead source."""

from dataclasses import asdict

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...work.agency import clients
from ...work.house.views import LeadSourceView
from ...work.numbers import numbers, sources
from ...work.numbers.sources import TAGS, SourceForm
from ..doors import Form, Id, Posted, Signed, at_once, house_of
from ..pages import Pages, by_field, go

router = APIRouter()
NO_SOURCE = SourceForm("")


def source_form(posted: Posted) -> SourceForm:
    """The form of a lead source as it was posted."""
    return SourceForm(
        posted.text("name"), online=bool(posted.text("online")), **{tag: posted.text(tag) for tag in TAGS}
    )


@router.get("/clients/{client_id}/sources/new")
def new(request: Request, signed: Signed, client_id: Id) -> Response:
    """The form of a new lead source."""
    house, pages = house_of(request), request.app.state.pages
    numbers.of_client(house, signed.actor, client_id)
    client = clients.get(house, signed.actor, client_id)
    assert isinstance(pages, Pages)
    return pages.show(
        request, "numbers/source.html", signed, client=client, section="numbers", form=NO_SOURCE, source_id=0, was={}
    )


@router.get("/clients/{client_id}/sources/{source_id}")
@at_once
def one(request: Request, signed: Signed, client_id: Id, source_id: Id) -> Response:
    """The form of a lead source."""
    house, pages = house_of(request), request.app.state.pages
    known = sources.get_source(house, signed.actor, client_id, source_id)
    form = sources.form_of(known)
    client = clients.get(house, signed.actor, client_id)
    assert isinstance(pages, Pages)
    return pages.show(
        request,
        "numbers/source.html",
        signed,
        client=client,
        section="numbers",
        form=form,
        source_id=source_id,
        was=asdict(form),
    )


@router.post("/clients/{client_id}/sources")
def keep(request: Request, posted: Form, client_id: Id) -> Response:
    """Saves a lead source."""
    house = house_of(request)
    form, source_id = source_form(posted), posted.whole("source_id")
    result = sources.keep_source(house, posted.actor, client_id, source_id, form, posted.was())
    if isinstance(result, LeadSourceView):
        onward = f"/find?source={result.id}" if posted.text("then") == "find" else ""
        return go(request, f"/clients/{client_id}/numbers{onward}")
    pages: Pages = request.app.state.pages
    client = clients.get(house, posted.actor, client_id)
    was = asdict(sources.form_of(sources.get_source(house, posted.actor, client_id, source_id))) if source_id else {}
    return pages.show(
        request, "numbers/source.html", posted.signed, client=client, section="numbers", status=422, form=form,
        source_id=source_id or 0, errors=by_field(result), was=was,
    )  # fmt: skip
