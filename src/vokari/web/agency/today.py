"""Today: what needs a person, and the ledger of clients."""

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from ...core import asked as read
from ...core.reports import charts
from ...work.agency import ledger, today
from ...work.agency.ledger import Asked, LedgerLine
from ..doors import Signed, at_once, house_of
from ..pages import Pages

router = APIRouter()
NEEDS = 20
"""How many needs are shown at first, and how many more each time."""


@router.get("/")
@at_once
def page(request: Request, signed: Signed) -> Response:
    """Today: what needs a person now, and a page of the clients with their last two weeks."""
    house, pages = house_of(request), request.app.state.pages
    if not signed.actor.works:
        return RedirectResponse(f"/clients/{signed.actor.client_id}", 303)
    query = request.query_params
    asked = Asked(
        query.get("q", "").replace("\0", " ").strip()[:60],
        query.get("sort", "") if query.get("sort") in ledger.SORTS else "name",
        min(read.whole(query.get("start", "")) or 0, 10**6),
    )
    found = ledger.view(house, signed.actor, asked)
    needs = today.needs(house, signed.actor)
    assert isinstance(pages, Pages)
    return pages.show(
        request, "agency/today.html", signed, section="today", ledger=found, strips={one.id: strip(one) for one in found.lines},
        needs=needs, shown=max(NEEDS, min(read.whole(query.get("needs", "")) or 0, len(needs))), more=NEEDS, page=ledger.PAGE,
        short=today.short_of_space(house, signed.actor),
    )  # fmt: skip


def strip(line: LedgerLine) -> dict[str, str]:
    """The strip of a client's last days: an SVG path a fate."""
    most = max([4, *(sum(counts.values()) for counts in line.days.values())])
    return charts.strip(line.days, line.today, ledger.DAYS, most, 26)
