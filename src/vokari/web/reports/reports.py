"""The report: calls by lead source and fate."""

from urllib.parse import urlencode
from zoneinfo import ZoneInfo

from fastapi import APIRouter, Request
from fastapi.responses import Response

from ...core.calls.fates import FATE_NAMES, FATES
from ...core.reports import charts, periods
from ...formats.tables import to_csv
from ...work.agency import clients
from ...work.house.views import ClientView
from ...work.numbers import extensions
from ...work.reports import reports
from ...work.reports.reports import Report, SourceLine
from ..doors import Id, Signed, at_once, house_of
from ..pages import Pages

router = APIRouter()

LINES = 100
"""How many lead sources are shown unless all are asked for."""
SORTS = ("source", "medium", "campaign", "calls", *FATES, "talk")


def _read(request: Request, signed: Signed, client: ClientView) -> tuple[Report, dict[str, str], str]:
    query = request.query_params
    typed = {name: query.get(name, "")[:20] for name in ("period", "first", "last", "sort", "way", "all")}
    typed["period"] = typed["period"] or "30"
    today = house_of(request).now().astimezone(ZoneInfo(client.time_zone)).date()
    period = periods.chosen(typed["period"], typed["first"], typed["last"], today)
    problem = period if isinstance(period, str) else ""
    chosen = periods.latest(30, today) if isinstance(period, str) else period
    typed["first"], typed["last"] = typed["first"] or chosen.first.isoformat(), typed["last"] or chosen.last.isoformat()
    return reports.by_source(house_of(request), signed.actor, client.id, chosen), typed, problem


def in_order(lines: list[SourceLine], sort: str, way: str) -> list[SourceLine]:
    """The lines by one column; words go up first, figures down first."""
    if sort not in SORTS:
        return lines
    words = sort in ("source", "medium", "campaign")

    def key(line: SourceLine) -> tuple[object, ...]:
        if words:
            field = "name" if sort == "source" else sort
            return (getattr(line.source, field).lower() if line.source else "~",)
        value = (
            line.tally.calls
            if sort == "calls"
            else line.tally.mean_talk
            if sort == "talk"
            else line.tally.by_fate[sort]
        )
        return (value,)

    return sorted(lines, key=key, reverse=(way == "down") if way in ("up", "down") else not words)


@router.get("/clients/{client_id}/report")
@at_once
def report(request: Request, signed: Signed, client_id: Id) -> Response:
    """The report: calls by lead source and fate."""
    house, pages = house_of(request), request.app.state.pages
    client = clients.get(house, signed.actor, client_id)
    found, typed, problem = _read(request, signed, client)
    chart = charts.bars(found.parts, width=1006, height=180)
    lines = in_order(found.lines, typed["sort"], typed["way"])
    period = {"period": "own", "first": found.period.first.isoformat(), "last": found.period.last.isoformat()}
    counted = {line.source.id: line.tally.calls for line in found.lines if line.source}
    grid = extensions.grid(house, signed.actor, client_id, counted)
    assert isinstance(pages, Pages)
    return pages.show(
        request, "reports/report.html", signed, client=client, section="report", report=found, lines=lines,
        shown=len(lines) if typed["all"] else LINES, typed=typed, chart=chart, part=periods.part_of(found.period), grid=grid,
        status=422 if problem else 200, errors={"period": problem} if problem else {}, choices=periods.CHOICES,
        period_query=urlencode(period), choice_query=urlencode({k: typed[k] for k in ("period", "first", "last")}),
    )  # fmt: skip


@router.get("/clients/{client_id}/report.csv")
@at_once
def export(request: Request, signed: Signed, client_id: Id) -> Response:
    """The report as CSV."""
    client = clients.get(house_of(request), signed.actor, client_id)
    found, typed, _ = _read(request, signed, client)
    header = [
        "Lead source",
        "Source",
        "Medium",
        "Campaign",
        "Calls",
        *(FATE_NAMES[fate].capitalize() for fate in FATES),
        "Of the answered unconfirmed",
        "Seconds talked",
    ]
    rows = []
    for line in in_order(found.lines, typed["sort"], typed["way"]):
        source = line.source
        names = (
            [source.name, source.source, source.medium, source.campaign] if source else ["No lead source", "", "", ""]
        )
        rows.append(
            [
                *names,
                line.tally.calls,
                *(line.tally.by_fate[fate] for fate in FATES),
                line.tally.unconfirmed,
                round(line.tally.talk_seconds),
            ]
        )
    name = f"report-{found.period.first}-{found.period.last}.csv"
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(to_csv(header, rows), media_type="text/csv; charset=utf-8", headers=headers)
