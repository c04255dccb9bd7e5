"""Looking for free numbers, and taking one."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core.numbers import memorable
from ...work.agency import clients
from ...work.agency.clients import COUNTRIES
from ...work.flows import client_flows
from ...work.house.problems import Problems, Refused
from ...work.numbers import free, orders, sources
from ...work.numbers.free import Wanted
from ..doors import Form, Id, Signed, house_of
from ..pages import Pages, by_field, go

router = APIRouter()
FIELDS = ("country", "area_codes", "place", "kind", "digits", "at_end", "pattern")


def _wanted(typed: dict[str, str]) -> Wanted:
    return Wanted(
        typed["country"], typed["area_codes"], typed["place"], typed["kind"], typed["digits"], bool(typed["at_end"]),
        typed["pattern"],
    )  # fmt: skip


@router.get("/clients/{client_id}/numbers/find")
def find(request: Request, signed: Signed, client_id: Id, source: Id = 0) -> Response:
    """Free numbers that fit."""
    query = request.query_params
    typed = {name: query.get(name, "")[:60] for name in FIELDS}
    if "area_codes" not in query:
        client = clients.get(house_of(request), signed.actor, client_id)
        typed["area_codes"] = orders.usual_area_codes(house_of(request), signed.actor, client_id)
        typed["country"] = client.country
    return _find(request, signed, client_id, typed, source)


def _find(
    request: Request,
    signed: Signed,
    client_id: int,
    typed: dict[str, str],
    source: int,
    problems: Problems | None = None,
) -> Response:
    house, pages = house_of(request), request.app.state.pages
    found = free.search(house, signed.actor, client_id, _wanted(typed))
    wrong = [*(problems or []), *(found.problems if isinstance(found, Refused) else [])]
    flows = [flow for flow, _, _ in client_flows.listed(house, signed.actor, client_id)]
    assert isinstance(pages, Pages)
    return pages.show(
        request, "numbers/free.html", signed, client=clients.get(house, signed.actor, client_id), section="numbers",
        found=[] if isinstance(found, Refused) else found, typed=typed, source=source, flows=flows,
        sources=sources.lead_sources(house, signed.actor, client_id), errors=by_field(wrong), countries=COUNTRIES,
        kinds=memorable.KINDS, status=422 if wrong else 200,
    )  # fmt: skip


@router.post("/clients/{client_id}/numbers/take")
def take(request: Request, posted: Form, client_id: Id) -> Response:
    """Takes one."""
    house = house_of(request)
    source = posted.whole("source")
    result = free.take(house, posted.actor, client_id, posted.text("number"), source, posted.whole("flow"))
    if isinstance(result, list):
        typed = {name: posted.text(name) for name in FIELDS}
        return _find(request, posted.signed, client_id, typed, source or 0, result)
    return go(request, f"/clients/{client_id}/numbers/{result.id}")
