"""Today, and the list of clients."""

from datetime import timedelta
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from ...core.reports import charts
from ...core.reports.periods import Period
from ...work.agency import clients, today
from ...work.reports import reports
from ...work.reports.reports import Tally
from ..doors import Signed, house_of
from ..pages import Pages

router = APIRouter()
STRIP_DAYS = 14


@router.get("/")
def page(request: Request, signed: Signed) -> Response:
    """Today: what needs a person now, and every client with its last two weeks."""
    house, pages = house_of(request), request.app.state.pages
    if not signed.actor.works:
        return RedirectResponse(f"/clients/{signed.actor.client_id}", 303)
    ledger = clients.listed(house, signed.actor)
    now = house.now()
    last = now.date() + timedelta(days=1)
    by_client = reports.by_client(house, signed.actor, Period(last - timedelta(days=STRIP_DAYS + 1), last))
    day, strips = Tally(), {}
    for client in ledger:
        local = now.astimezone(ZoneInfo(client.time_zone)).date()
        days = dict(by_client.get(client.id, ()))
        for fate, count in (days[local].by_fate if local in days else {}).items():
            day.by_fate[fate] += count
        counts = {one: tally.by_fate for one, tally in days.items()}
        shown = [tally for one, tally in days.items() if local - timedelta(days=STRIP_DAYS) < one <= local]
        most = max([4, *(tally.calls for tally in shown)])
        strips[client.id] = (
            charts.strip(counts, local, STRIP_DAYS, most, 26),
            sum(tally.calls for tally in shown),
            sum(tally.by_fate["lost"] for tally in shown),
        )
    assert isinstance(pages, Pages)
    return pages.show(
        request, "agency/today.html", signed, section="today", day=day, needs=today.needs(house, signed.actor), ledger=ledger,
        strips=strips, agency=clients.agency_name(house, signed.actor), calls_now=today.calls_now(house, signed.actor),
        short=today.short_of_space(house, signed.actor),
    )  # fmt: skip
