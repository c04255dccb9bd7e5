"""Numbers: the plan of lead sources, looking for free numbers, taking and giving them."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ..store.numbers import LeadSource
from ..work import clients, drafts, numbers
from ..work.house import Problem
from ..work.numbers import SourceForm
from .doors import Form, Posted, Signed, house_of
from .pages import Pages, by_field, go

router = APIRouter()

TAGS = ("source", "medium", "campaign", "term", "content", "placement")
NO_SOURCE = SourceForm("")


@router.get("/clients/{client_id}/numbers")
def plan(request: Request, signed: Signed, client_id: int, open: int = 0) -> Response:
    return _plan(request, signed, client_id, open_number=open)


def _plan(request: Request, signed: Signed, client_id: int, status: int = 200, **values: object) -> Response:
    house, pages = house_of(request), request.app.state.pages
    found = numbers.plan(house, signed.actor, client_id)
    client = clients.get(house, signed.actor, client_id)
    flows = [flow for flow, _, _ in drafts.listed(house, signed.actor, client_id)]
    defaults: dict[str, object] = {"open_number": 0, "typed": ""}
    response: Response = pages.show(
        request, "numbers.html", signed, client=client, section="numbers", status=status, plan=found, flows=flows,
        **{**defaults, **values},
    )  # fmt: skip
    return response


@router.get("/clients/{client_id}/numbers/find")
def find(
    request: Request, signed: Signed, client_id: int, source: int = 0, area_code: str = "", place: str = "", kind: str = "",
    contains: str = "",
) -> Response:  # fmt: skip
    house = house_of(request)
    client = clients.get(house, signed.actor, client_id)
    fresh = "area_code" not in request.query_params
    if fresh:
        area_code = _usual_area_code(request, signed, client_id)
    typed = {"area_code": area_code, "place": place, "kind": kind, "contains": contains}
    return _find(request, signed, client_id, client.country, typed, source)


def _find(
    request: Request, signed: Signed, client_id: int, country: str, typed: dict[str, str], source: int,
    problems: dict[str, str] | None = None,
) -> Response:  # fmt: skip
    house, pages = house_of(request), request.app.state.pages
    found = numbers.search(house, signed.actor, client_id, country=country, **typed)
    errors = dict(problems or {})
    if isinstance(found, Problem):
        errors[found.field] = found.sentence
        found = []
    flows = [flow for flow, version, _ in drafts.listed(house, signed.actor, client_id)]
    response: Response = pages.show(
        request, "find.html", signed, client=clients.get(house, signed.actor, client_id), section="numbers", found=found,
        typed=typed, source=source, sources=numbers.lead_sources(house, signed.actor, client_id), flows=flows, errors=errors,
        status=422 if errors else 200,
    )  # fmt: skip
    return response


def _usual_area_code(request: Request, signed: Signed, client_id: int) -> str:
    """The area code that most of the client's local numbers have."""
    found = numbers.plan(house_of(request), signed.actor, client_id)
    lines = [*found.without_source, *(line for _, lines in found.sources for line in lines)]
    codes = [
        line.number.e164[2:5] for line in lines if line.number.e164.startswith("+1") and line.number.kind == "local"
    ]
    return max(set(codes), key=codes.count) if codes else ""


@router.post("/clients/{client_id}/numbers/take")
def take(request: Request, posted: Form, client_id: int) -> Response:
    house = house_of(request)
    e164, source, flow = posted.text("number"), posted.whole("source"), posted.whole("flow")
    result = numbers.take(house, posted.actor, client_id, e164, source, flow)
    if isinstance(result, list):
        client = clients.get(house, posted.actor, client_id)
        typed = {name: posted.text(name) for name in ("area_code", "place", "kind", "contains")}
        return _find(request, posted.signed, client_id, client.country, typed, source or 0, by_field(result))
    return go(request, f"/clients/{client_id}/numbers?open={result.id}#n{result.id}")


@router.post("/clients/{client_id}/numbers/{number_id}")
def change(request: Request, posted: Form, client_id: int, number_id: int) -> Response:
    """Gives a number to a source, points it at a flow, and names its fail-safe, in one form."""
    house = house_of(request)
    problems = numbers.set_fail_safe(house, posted.actor, client_id, number_id, posted.text("fail_safe"))
    if problems:
        errors = by_field(problems)
        values = {"open_number": number_id, "errors": errors, "typed": posted.text("fail_safe")}
        return _plan(request, posted.signed, client_id, 422, **values)
    numbers.give(house, posted.actor, client_id, number_id, posted.whole("source"))
    numbers.point(house, posted.actor, client_id, number_id, posted.whole("flow"))
    return go(request, f"/clients/{client_id}/numbers?open={number_id}#n{number_id}")


def _source_form(posted: Posted) -> SourceForm:
    return SourceForm(
        posted.text("name"), online=bool(posted.text("online")), **{tag: posted.text(tag) for tag in TAGS}
    )


@router.get("/clients/{client_id}/sources/new")
def new_source(request: Request, signed: Signed, client_id: int) -> Response:
    house, pages = house_of(request), request.app.state.pages
    numbers.plan(house, signed.actor, client_id)
    client = clients.get(house, signed.actor, client_id)
    response: Response = pages.show(
        request, "source.html", signed, client=client, section="numbers", form=NO_SOURCE, source_id=0
    )
    return response


@router.get("/clients/{client_id}/sources/{source_id}")
def source(request: Request, signed: Signed, client_id: int, source_id: int) -> Response:
    house, pages = house_of(request), request.app.state.pages
    known = numbers.get_source(house, signed.actor, client_id, source_id)
    form = SourceForm(known.name, online=known.online, **{tag: getattr(known, tag) for tag in TAGS})
    client = clients.get(house, signed.actor, client_id)
    response: Response = pages.show(
        request, "source.html", signed, client=client, section="numbers", form=form, source_id=source_id
    )
    return response


@router.post("/clients/{client_id}/sources")
def keep_source(request: Request, posted: Form, client_id: int) -> Response:
    house = house_of(request)
    form, source_id = _source_form(posted), posted.whole("source_id")
    result = numbers.keep_source(house, posted.actor, client_id, source_id, form)
    if isinstance(result, LeadSource):
        onward = f"/find?source={result.id}" if posted.text("then") == "find" else ""
        return go(request, f"/clients/{client_id}/numbers{onward}")
    pages: Pages = request.app.state.pages
    client = clients.get(house, posted.actor, client_id)
    return pages.show(
        request, "source.html", posted.signed, client=client, section="numbers", status=422, form=form,
        source_id=source_id or 0, errors=by_field(result),
    )  # fmt: skip
