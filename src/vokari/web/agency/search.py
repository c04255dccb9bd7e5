"""Finding anything: the field at the top of the column, and the page behind it."""

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...work.agency import search
from ..doors import Signed, at_once, house_of
from ..pages import Pages, is_partial

router = APIRouter()


@router.get("/find")
@at_once
def find(request: Request, signed: Signed, q: str = "") -> Response:
    """Hits for a few letters or digits: as a list under the field for htmx, else as a page."""
    pages: Pages = request.app.state.pages
    hits = search.find(house_of(request), signed.actor, q)
    if is_partial(request):
        return pages.part(request, "agency/found_list.html", signed, hits=hits, q=q)
    return pages.show(request, "agency/found.html", signed, hits=hits, q=q)
